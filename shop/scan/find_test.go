package scan_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/buying"
	"itemrack/shop/scan"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
)

func TestFindGoesFromExactToWords(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Receive(
		t,
		buying.DeliveryInput{
			Lines: []scan.GoodsLine{
				{Variant: s.Simple(t, "Board", "serial", "549.00"), Quantity: "1", Cost: "1", Serials: "AB 12"}},
		},
	)
	find := func(text string) string {
		found, err := goods.Find(s.Store.Read(ctx), text, 10)
		require.NoError(t, err, text)
		var said []string
		for _, f := range found {
			said = append(said, fmt.Sprint(f.Kind, " ", f.Name, " ", f.Detail, f.Serial))
		}
		return strings.Join(said, "; ")
	}
	vest := "variant Tidewater rash vest Coral · S"
	for text, want := range map[string]string{made.Variants[0].Barcode: vest, "0" + made.Variants[0].Barcode: vest,
		"twv-cor-s": vest, " TWV-COR-S ": vest, "ab12": "variant Board AB12", "AB 12": "variant Board AB12",
		"d-0001": "document Delivery ", "rash": "product Tidewater rash vest ", "tide vest": "product Tidewater " +
			"rash vest ", "ti": "product Tidewater rash vest ", "vest board": "", "": "", "%": "", "_": "", "+-*\"()~<>@": "", "'; DROP": ""} {
		assert.Equal(t, want, find(text), text)
	}
	assert.Empty(t, find(strings.Repeat("x", 500)))
}
