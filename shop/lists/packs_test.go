package lists_test

import (
	"bytes"
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/price"
	sheetsheet "itemrack/sheet"
	"itemrack/shop/lists"
	"itemrack/shop/prices"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
)

var ctx = context.Background()

func TestPacksBundlesAndListPricesComeWithAList(t *testing.T) {
	s := testkit.New(t)
	_, err := prices.SavePriceList(s.By(s.Maren), 0,
		prices.ListInput{Name: "Club", Kind: "other list", Base: price.Regular, Percent: "-10"})
	require.NoError(t, err)
	list := "product,category,supplier,sku,price,cost,price: Club,pack,pack factor,pack barcode,pack " +
		"price,parts,attribute: Flavour,size\n" +
		"Energy bar,Food,Pale Dune Supplies,BAR,1.60,0.98,1.40,box of 12,12,96385074,17.40,,Oat,\n" +
		"Leash,Paddle,Oar & Thole,LEASH,29.00,11.30,,,,,,,,\n" +
		"Cap,Swim,Oar & Thole,CAP-S,12.00,5,10.00,,,,,,,S\n" +
		"Cap,Swim,Oar & Thole,CAP-M,12.00,5,10.50,,,,,,,M\n" +
		"Trip kit,Paddle,,KIT,30.00,,,,,,,2 x BAR; LEASH,,\n"
	report, err := lists.ImportList(s.By(s.Maren), strings.NewReader(list), 1, false)
	require.NoError(t, err)
	require.Equal(t, []int{5, 0}, []int{report.Made, report.Refused}, "%+v", report.Rows)
	find := func(code string) uint64 {
		found, err := goods.Find(s.Store.Read(ctx), code, 2)
		require.NoError(t, err)
		require.Len(t, found, 1, code)
		return found[0].ID
	}
	clubOf := func(code string) string {
		why, err := prices.ExplainPrice(s.By(s.Tobi), find(code), "", "")
		require.NoError(t, err)
		return why[1].Answer.Amount.StringFixed(2)
	}
	assert.Equal(t, []string{"1.40", "10.00", "10.50", "26.10"},
		[]string{clubOf("BAR"), clubOf("CAP-S"), clubOf("CAP-M"), clubOf("LEASH")},
		"their own, each their own, and the rule's")
	s.Stock(t, find("BAR"), "24", "0.98")
	s.Stock(t, find("LEASH"), "5", "11.30")
	s.Open(t, 1)
	basket, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: "96385074"})
	require.NoError(t, err)
	assert.Equal(t, "17.40", basket.Totals.Gross.StringFixed(2))
	var out bytes.Buffer
	require.NoError(t, lists.ExportCatalog(s.By(s.Callum), goods.ListFilter{}, sheetsheet.CSV, &out))
	text := out.String()
	report, err = lists.ImportList(s.By(s.Maren), strings.NewReader(text), 1, false)
	require.NoError(t, err)
	assert.Equal(t, []int{0, 0, 5, 0}, []int{report.Made, report.Changed, report.Same, report.Refused}, "%+v",
		report.Rows)

	// what is changed in the file is changed in the shop, and said
	changed := strings.NewReplacer("box of 12,12", "box of 12,10", "17.4", "14.95").Replace(text)
	require.NotEqual(t, text, changed)
	report, err = lists.ImportList(s.By(s.Maren), strings.NewReader(changed), 1, false)
	require.NoError(t, err)
	require.Equal(t, 1, report.Changed, "%+v", report.Rows)
	said := ""
	for _, r := range report.Rows {
		said += r.Detail
	}
	assert.Contains(t, said, "12 → 10")
	for _, bad := range []string{"product,parts\nKit,NOTHING\n", "product,pack\nRope,coil\n", "product,pack,pack " +
		"factor\nRope,coil,1\n", "product,price: Nobody\nRope,3\n", "product,pack,pack factor,pack " +
		"barcode\nRope,coil,3,96385074\n"} {
		report, err := lists.ImportList(s.By(s.Maren), strings.NewReader(bad), 1, false)
		if err == nil {
			assert.Positive(t, report.Refused, bad)
		} else {
			assert.NotNil(t, fault.Of(err), bad)
		}
	}
	s.InStep(t)
}
