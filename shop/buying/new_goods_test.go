package buying_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/scan"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
)

// TestUnknownGoodsAreMadeInTheDelivery: in packs, by their total, with a level in percent; by lot
// from an element string; the product and the line, or neither.
func TestUnknownGoodsAreMadeInTheDelivery(t *testing.T) {
	s := testkit.New(t)
	vest := s.Vest(t)
	_, err := buying.SaveSupplier(s.By(s.Maren), 1,
		buying.SupplierInput{Name: "Kelpline Textiles", Discount: "8", Markup: "100", Ending: "1/0.95/nearest",
			Revision: 1})
	require.NoError(t, err)
	draft, err := buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: vest.Variants[0].ID,
			Quantity: "1", Cost: "2"}}})
	require.NoError(t, err)
	bars := buying.NewGoods{Code: "2099000000019", Name: "Tide bar 漢 🍫", Packs: "8", PackOf: "12", Loose: "4",
		Total: "150", Restock: "20 %", Category: "Shore > Food"}
	priced, err := buying.PriceGoods(s.Shop, s.Store.Read(ctx), 1, bars)
	require.NoError(t, err)
	assert.Equal(t, "100 1.5", priced.Units.String()+" "+priced.Each.String())
	assert.Equal(t, "3.95", priced.Suggestion.Price.StringFixed(2),
		"1.50 plus 100 %, with tax 3.60; what was paid has the discount off already")
	made, err := buying.MakeGoods(s.By(s.Callum, "press"), draft.ID, bars)
	require.NoError(t, err)
	again, err := buying.MakeGoods(s.By(s.Callum, "press"), draft.ID, bars)
	require.NoError(t, err)
	assert.Equal(t, made, again)
	p := s.View(t, made.Product.ID)
	assert.Equal(t, "20 pack of 12 12 true", fmt.Sprint(p.RestockPercent, " ", p.Packs[0].Name, " ", p.Packs[0].Factor,
		" ", p.Packs[0].Bought))
	_, lines, err := storebuying.ReadDelivery(s.Store.Read(ctx), draft.ID)
	require.NoError(t, err)
	assert.Equal(t, "2 lines, 100 for 150", fmt.Sprintf("%d lines, %s for %s", len(lines), lines[1].Quantity,
		lines[1].Total))

	// what can't be is said by its field, and nothing is made
	cream := buying.NewGoods{Code: "(01)02099000000026(10)K7(17)290430", Name: "Sun cream", Tracking: "lot",
		Loose: "5", Cost: "x", ExpiryDays: "60"}
	for field, change := range map[string]func(in *buying.NewGoods){"cost": func(*buying.NewGoods) {},
		"loose": func(in *buying.NewGoods) { in.Cost, in.Loose = "2", "" },
		"name": func(in *buying.NewGoods) {
			in.Cost, in.Name = "2",
				" "
		}, "expiry": func(in *buying.NewGoods) { in.Cost, in.Expiry = "2", "soon" },
		"restock_level": func(in *buying.NewGoods) {
			in.Cost, in.Restock = "2",
				"200 %"
		}, "pack_of": func(in *buying.NewGoods) { in.Cost, in.Packs = "2", "3" }} {
		in := cream
		change(&in)
		_, err := buying.MakeGoods(s.By(s.Maren), draft.ID, in)
		require.NotNil(t, fault.Of(err), field)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	same := bars
	same.Name = "Another"
	_, err = buying.MakeGoods(s.By(s.Maren), draft.ID, same)
	assert.ErrorContains(t, err, "Tide bar", "the code is somebody's")
	_, err = buying.MakeGoods(s.By(s.Tobi), draft.ID, cream)
	assert.True(t, fault.Is(err, fault.Forbidden), "%v", err)
	cream.Cost = "2"
	_, err = buying.MakeGoods(s.By(s.Maren), draft.ID, cream)
	require.NoError(t, err)
	_, lines, err = storebuying.ReadDelivery(s.Store.Read(ctx), draft.ID)
	require.NoError(t, err)
	require.Len(t, lines, 3)
	assert.Equal(t, "K7 2029-04-30", lines[2].LotNumber+" "+lines[2].Expiry.Format("2006-01-02"))
	_, err = buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{})
	require.NoError(t, err)
	held := s.Held(t, lines[1].VariantID)
	assert.Equal(t, "20", held.Items[lines[1].VariantID].Restock.String(), "20 % of 100")
	_, err = buying.MakeGoods(s.By(s.Maren), draft.ID, buying.NewGoods{Name: "Late", Loose: "1", Cost: "1"})
	assert.ErrorContains(t, err, "posted already")

	// a delivery begins with them, of a supplier who has nothing here
	other, err := buying.SaveSupplier(s.By(s.Maren), 0, buying.SupplierInput{Name: "Oar & Thole"})
	require.NoError(t, err)
	begun, err := buying.MakeGoods(s.By(s.Callum), 0,
		buying.NewGoods{Head: buying.DeliveryInput{Supplier: other.ID, Branch: 1}, Name: "Rowlock", Loose: "2",
			Cost: "4", Price: "9.50"})
	require.NoError(t, err)
	assert.NotZero(t, begun.ID)
	assert.Equal(t, "To sort 9.50", fmt.Sprint(s.View(t, begun.Product.ID).Category.Path, " ",
		s.View(t, begun.Product.ID).Variants[0].Price.StringFixed(2)))
	s.InStep(t)
}

// TestLotsAreToldBeforeTheyExpire: 30 days before, or as many as the product says, until they are gone.
func TestLotsAreToldBeforeTheyExpire(t *testing.T) {
	s := testkit.New(t)
	cream := made(t, s, catalog.NewProduct{Name: "Sun cream", Price: "9", Tracking: "lot"})
	bar := made(t, s, catalog.NewProduct{Name: "Bar", Price: "2", Tracking: "lot", ExpiryDays: "5"})
	in := func(days int) string { return s.Now().AddDate(0, 0, days).Format("02/01/2006") }
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: cream, Quantity: "4", Cost: "1", Lot: "A",
		Expiry: in(20)}, {Variant: cream, Quantity: "4", Cost: "1", Lot: "B", Expiry: in(40)},
		{Variant: bar, Quantity: "4", Cost: "1", Lot: "C", Expiry: in(20)}, {Variant: bar, Quantity: "3", Cost: "1",
			Lot: "D", Expiry: in(4)}, {Variant: bar, Quantity: "2", Cost: "1", Lot: "E"}}})
	said := func(at time.Time) string {
		set, err := s.Store.Read(ctx).Terms()
		require.NoError(t, err)
		rows, err := book.Expiring(s.Store.Read(ctx), set.Day(at), 10)
		require.NoError(t, err)
		var all []string
		for _, r := range rows {
			all = append(all, fmt.Sprint(r.Name, " ", r.Lot, " ", r.Quantity))
		}
		return strings.Join(all, ", ")
	}
	assert.Equal(t, "Bar D 3, Sun cream A 4", said(s.Now()))
	assert.Equal(t, "Bar D 3, Sun cream A 4, Bar C 4, Sun cream B 4", said(s.Now().AddDate(0, 0, 25)), "past ones, too")
	s.Open(t, 1)
	s.Sold(t, bar, "3")
	assert.Equal(t, "Sun cream A 4", said(s.Now()), "what is gone is told no more")
}
