package buying_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
)

// made makes a product that has what a delivery asks of it.
func made(t *testing.T, s *testkit.Shop, in catalog.NewProduct) uint64 {
	t.Helper()
	in.Category, in.Supplier, in.TaxClass = "Shore", "Oar & Thole", 1
	if in.Tracking == "" {
		in.Tracking = "counted"
	}
	p, err := catalog.MakeProduct(s.By(s.Maren), in)
	require.NoError(t, err)
	return p.Variants[0].ID
}

// TestFreightByWeight spreads freight of a delivery and of a carrier's bill by what things
// weigh; what nobody weighed is asked for before anything is posted.
func TestFreightByWeight(t *testing.T) {
	s := testkit.New(t)
	cap, anchor := made(t, s, catalog.NewProduct{Name: "Cap", Price: "9", Weight: "0.1"}), made(t, s,
		catalog.NewProduct{Name: "Anchor", Price: "90", Weight: "4.9"})
	salt, bare := made(t, s, catalog.NewProduct{Name: "Salt", Unit: "kg", Price: "9"}), made(t, s,
		catalog.NewProduct{Name: "Buoy", Price: "9"})
	in := buying.DeliveryInput{Supplier: 1, Branch: 1, Extra: "12", Spread: "weight", ExtraTaxClass: 3,
		Lines: []scan.GoodsLine{{Variant: cap, Quantity: "10", Cost: "4"},
			{Variant: anchor, Quantity: "1", Cost: "40"}, {Variant: salt, Quantity: "6", Cost: "1"}, {Variant: bare,
				Quantity: "1", Cost: "1"}}}
	draft, err := buying.SaveDelivery(s.By(s.Maren), 0, in)
	require.NoError(t, err, "a draft may wait for the weight")
	_, err = buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{})
	assert.ErrorContains(t, err, "What one Buoy weighs is not known.")
	assert.Equal(t, "lines.3.spread", fault.Of(err).Field)
	in.Lines, in.Revision = in.Lines[:3], draft.Revision
	draft, err = buying.SaveDelivery(s.By(s.Maren), draft.ID, in)
	require.NoError(t, err)
	_, err = buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{})
	require.NoError(t, err)
	held := s.Held(t, cap)
	assert.Equal(t, "41.01", held.Pools[cap].Value.StringFixed(2), "1 kg of 11.9")
	assert.Equal(t, "44.94", s.Held(t, anchor).Pools[anchor].Value.StringFixed(2))
	assert.Equal(t, "12.05", s.Held(t, salt).Pools[salt].Value.StringFixed(2),
		"what is kept in kilograms weighs what it counts")
	bill, err := buying.SaveBill(s.By(s.Maren), 0,
		buying.BillInput{Supplier: 1, Number: "C-1", Carrier: true, Deliveries: []uint64{draft.ID},
			Freight: "11.9", FreightTaxClass: 3, Spread: "weight"})
	require.NoError(t, err)
	_, err = buying.PostBill(s.By(s.Maren), bill.ID)
	require.NoError(t, err)
	assert.Equal(t, "49.84", s.Held(t, anchor).Pools[anchor].Value.StringFixed(2))
	s.InStep(t)
}

// TestALevelInPercentFollowsDeliveries: 60 after the last delivery, 20 % → 12; a level of its
// own stays, and an undone delivery is as if it had not been.
func TestALevelInPercentFollowsDeliveries(t *testing.T) {
	s := testkit.New(t)
	bar := made(t, s, catalog.NewProduct{Name: "Energy bar", Price: "2", Restock: "20 %"})
	level := func() string {
		held := s.Held(t, bar)
		if held.Items[bar].Restock == nil {
			return "none"
		}
		return held.Items[bar].Restock.String()
	}
	assert.Equal(t, "none", level(), "nothing came yet")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: bar, Quantity: "50", Cost: "1"}}})
	assert.Equal(t, "10", level())
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: bar, Quantity: "10", Cost: "1"}}})
	assert.Equal(t, "12", level())
	s.Open(t, 1)
	s.Sold(t, bar, "48")
	assert.Equal(t, "12", level(), "selling does not move it")
	p := s.View(t, 1)
	assert.False(t, p.Variants[0].Low, "at 12 no")
	s.Sold(t, bar, "1")
	assert.True(t, s.View(t, 1).Variants[0].Low, "at 11 yes")
	s.InStep(t)
	facts := catalog.ProductFacts{NewProduct: catalog.NewProduct{Name: "Energy bar", Category: "Shore", TaxClass: 1,
		Tracking: "counted", Restock: "50 %"}, Revision: p.Revision}
	_, err := catalog.SaveProduct(s.By(s.Maren), 1, facts)
	require.NoError(t, err)
	assert.Equal(t, "30", level(), "of what was here after the last delivery")
	fresh := made(t, s, catalog.NewProduct{Name: "Wax", Price: "2", Restock: "20 %"})
	first := s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: fresh, Quantity: "60", Cost: "1"}}})
	_, err = stockroom.Reverse(s.By(s.Maren), first.Number, "")
	require.NoError(t, err)
	assert.Equal(t, "0", s.Held(t, fresh).Items[fresh].Restock.String())
	s.InStep(t)
}
