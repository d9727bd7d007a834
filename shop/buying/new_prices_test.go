package buying_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/scan"
	"itemrack/shop/testkit"
	storebuying "itemrack/store/buying"
)

// TestNewPricesOnArrival: what the rule makes of what came stands beside the old price, and
// only what is taken changes.
func TestNewPricesOnArrival(t *testing.T) {
	s := testkit.New(t)
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{Name: "Hood", Category: "Swim", TaxClass: 1,
		Tracking: "counted", Markup: "110",
		Ending: "1/0.95/nearest", Price: "34.95", Axes: []catalog.AxisInput{{Name: "Size",
			Values: []catalog.ValueInput{{Name: "S"}, {Name: "M"}}}}})
	require.NoError(t, err)
	a, b := made.Variants[0].ID, made.Variants[1].ID
	plain := s.Simple(t, "Whistle", "counted", "4.00")
	posted := s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: a, Quantity: "3", Cost: "20"},
		{Variant: b, Quantity: "3", Cost: "14"},
		{Variant: plain, Quantity: "1", Cost: "1"}}})
	id, err := storebuying.DeliveryOf(s.Store.Read(ctx), posted.Document)
	require.NoError(t, err)
	list, err := buying.NewPrices(s.Shop, s.Store.Read(ctx), id)
	require.NoError(t, err)
	require.Len(t, list, 1, "14.00 makes 34.95 again; the whistle has no rule")
	n := list[0]
	assert.Equal(t, "34.95 49.95", n.Offer.Now.Amount.StringFixed(2)+" "+n.Offer.Ruled.Amount.StringFixed(2),
		"20.00 + 110 % + 20 % is 50.40, nearest .95")
	assert.Equal(t, "31.3 % 51.9 %", n.Offer.Now.MarginText()+" "+n.Offer.Ruled.MarginText())
	assert.True(t, n.Offer.MarginUnder(testkit.D("40")))
	assert.False(t, n.Offer.MarginUnder(testkit.D("30")))
	_, err = buying.TakePrices(s.By(s.Callum), id, buying.TakePricesInput{})
	assert.True(t, fault.Is(err, fault.Forbidden))
	done, err := buying.TakePrices(s.By(s.Maren, "k"), id, buying.TakePricesInput{Variants: []uint64{a, b}})
	require.NoError(t, err)
	assert.Equal(t, []uint64{a}, done.Variants)
	view := s.View(t, made.ID)
	assert.Equal(t, "49.95 34.95", view.Variants[0].Price.StringFixed(2)+" "+view.Variants[1].Price.StringFixed(2))
	list, err = buying.NewPrices(s.Shop, s.Store.Read(ctx), id)
	require.NoError(t, err)
	assert.Empty(t, list)
	draft, err := buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: a, Quantity: "1"}}})
	require.NoError(t, err)
	_, err = buying.NewPrices(s.Shop, s.Store.Read(ctx), draft.ID)
	assert.True(t, fault.Is(err, fault.Refused), "a draft has no cost yet")
}
