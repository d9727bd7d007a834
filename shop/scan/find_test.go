package scan_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/customer"
	"itemrack/core/staff"
	"itemrack/shop/buying"
	"itemrack/shop/customers"
	"itemrack/shop/register"
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
			"rash vest ", "ti": "product Tidewater rash vest ", "vest board": "", "": "", "%": "", "_": "",
		"+-*\"()~<>@": "", "'; DROP": ""} {
		assert.Equal(t, want, find(text), text)
	}
	assert.Empty(t, find(strings.Repeat("x", 500)))
}

// TestALookFindsCustomersAndVouchers for those who sell, beside goods.
func TestALookFindsCustomersAndVouchers(t *testing.T) {
	s := testkit.New(t)
	s.Simple(t, "Ada's whistle", "counted", "4.00")
	s.Open(t, 1)
	who, err := customers.Make(s.By(s.Tobi),
		customers.Input{Facts: customer.Facts{Name: "Ada Penrose 漢", Mail: "ada@example.com"}})
	require.NoError(t, err)
	_, err = register.AddVoucher(s.By(s.Tobi), 1, register.VoucherInput{Amount: "25"})
	require.NoError(t, err)
	sold, err := s.Pay(t, 1, "k1")
	require.NoError(t, err)
	look := func(who staff.Actor, text string) string {
		found, err := scan.Look(s.Store.Read(ctx), who, text, 9)
		require.NoError(t, err)
		said := ""
		for _, f := range found {
			said += f.Kind + " " + f.Name + "; "
		}
		return said
	}
	assert.Equal(t, "customer Ada Penrose 漢; ", look(s.Tobi, who.Code))
	assert.Equal(t, "customer Ada Penrose 漢; ", look(s.Tobi, "ada@ex"))
	assert.Contains(t, look(s.Tobi, "ada"), "customer Ada Penrose 漢")
	assert.Contains(t, look(s.Tobi, "ada"), "Ada's whistle")
	assert.Equal(t, "voucher voucher; ", look(s.Tobi, sold.Vouchers[0].Code))
	assert.NotContains(t, look(s.Callum, "ada"), "Penrose", "not for those who do not sell")
}
