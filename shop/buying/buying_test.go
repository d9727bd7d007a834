package buying_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/buying"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
)

func TestDeliveryEdges(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Receive(
		t,
		buying.DeliveryInput{
			SupplierNumber:  "INV-9",
			CostsIncludeTax: true,
			Lines:           []scan.GoodsLine{{Variant: v, Quantity: "12", Cost: "25.20"}},
		},
	)
	held, err := book.Look(s.Store.Read(ctx), []uint64{v})
	require.NoError(t, err)
	assert.Equal(t, "252.00", held.Pools[v].Value.StringFixed(2))
	draft, err := buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{
			Supplier:       1,
			Branch:         1,
			SupplierNumber: "inv-9",
			Lines:          []scan.GoodsLine{{Variant: v, Quantity: "12", Cost: "1"}},
		},
	)
	require.NoError(t, err)
	_, err = buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{})
	require.ErrorContains(t, err, "entered already, as D-0001")
	require.NoError(t, buying.DropDelivery(s.By(s.Callum), draft.ID))
	_, err = buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{})
	assert.True(t, fault.Is(err, fault.NotFound))

	for field, in := range map[string]buying.DeliveryInput{
		"supplier_id": {Supplier: 99, Branch: 1}, "branch_id": {Supplier: 1, Branch: 99}, "extra": {Supplier: 1,
			Branch: 1, Extra: "x"}, "spread": {Supplier: 1, Branch: 1, Spread: "mood"},
		"lines.0.quantity": {Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: v,
			Quantity: "1.5"}}}, "lines.0.cost": {Supplier: 1, Branch: 1,
			Lines: []scan.GoodsLine{{Variant: v, Quantity: "1", Cost: "-2"}}},
		"lines.0.lot": {Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: v, Quantity: "1",
			Lot: "K1"}}}, "lines.0.expiry": {Supplier: 1, Branch: 1,
			Lines: []scan.GoodsLine{{Variant: v, Quantity: "1", Expiry: "soon"}}},
	} {
		_, err := buying.SaveDelivery(s.By(s.Maren), 0, in)
		require.Error(t, err, field)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	empty, err := buying.SaveDelivery(s.By(s.Maren), 0, buying.DeliveryInput{Supplier: 1, Branch: 1})
	require.NoError(t, err)
	_, err = buying.PostDelivery(s.By(s.Maren), empty.ID, buying.DeliveryPosting{})
	assert.ErrorContains(t, err, "no goods")

	s.Open(t, 1)
	s.Sold(t, v, "4")
	_, err = stockroom.Reverse(s.By(s.Maren), "D-0001", "")
	assert.True(t, fault.Is(err, fault.Refused), "10 of 12 can't go back when 4 are sold")
	other := s.Simple(t, "Leash", "counted", "9.00")
	posted := s.Receive(
		t,
		buying.DeliveryInput{
			SupplierNumber: "INV-10",
			Lines:          []scan.GoodsLine{{Variant: other, Quantity: "2", Cost: "3"}},
		},
	)
	_, err = stockroom.Reverse(s.By(s.Maren), posted.Number, "")
	require.NoError(t, err)
	_, err = stockroom.Reverse(s.By(s.Maren), posted.Number, "")
	assert.ErrorContains(t, err, "reversed already")
	s.Receive(
		t,
		buying.DeliveryInput{
			SupplierNumber: "INV-10",
			Lines:          []scan.GoodsLine{{Variant: other, Quantity: "2", Cost: "3"}},
		},
	)
	s.InStep(t)
}
