package buying_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/buying"
	"itemrack/shop/scan"
	"itemrack/shop/testkit"
	storebuying "itemrack/store/buying"
)

// TestReceivingWithoutSeeingCosts: a clerk takes goods in that were ordered; what they cost is
// what was agreed, the bill comes later, and a clerk can't say it.
func TestReceivingWithoutSeeingCosts(t *testing.T) {
	s := testkit.New(t)
	vest := s.Vest(t)
	a, b, c := vest.Variants[0], vest.Variants[1], vest.Variants[2]
	order, err := buying.MakeOrder(s.By(s.Maren), buying.OrderInput{Supplier: 1, Branch: 1,
		Lines: []buying.OrderLineInput{{Variant: a.ID, Quantity: "6", Price: "20"}}})
	require.NoError(t, err)
	_, err = buying.PlaceOrder(s.By(s.Maren), order.ID)
	require.NoError(t, err)
	scanned := func(id uint64, code string) uint64 {
		done, err := buying.ScanDelivery(s.By(s.Tobi), id,
			buying.DeliveryScan{Code: code, Head: buying.DeliveryInput{Branch: 1}})
		require.NoError(t, err, code)
		return done.ID
	}
	id := scanned(scanned(0, order.Number), a.Barcode)
	view, lines, err := storebuying.ReadDelivery(s.Store.Read(ctx), id)
	require.NoError(t, err)
	assert.True(t, view.BillLater, "who sees no costs has no bill to enter")
	assert.Equal(t, "20", lines[0].Cost.String(), "what was agreed")

	in := buying.DeliveryInput{Supplier: 1, Branch: 1, Orders: []uint64{order.ID}, Revision: view.Revision,
		Lines: []scan.GoodsLine{{Variant: a.ID, Quantity: "5"}}}
	in.Lines[0].Cost = "1"
	_, err = buying.SaveDelivery(s.By(s.Tobi), id, in)
	assert.True(t, fault.Is(err, fault.Forbidden), "%v", err)
	in.Lines[0].Cost, in.Extra = "", "3"
	_, err = buying.SaveDelivery(s.By(s.Tobi), id, in)
	assert.True(t, fault.Is(err, fault.Forbidden), "%v", err)
	in.Extra = ""
	ref, err := buying.SaveDelivery(s.By(s.Tobi), id, in)
	require.NoError(t, err)

	// somebody who sees costs types some, which stay while the clerk counts on
	priced := in
	priced.Revision, priced.Extra, priced.Spread, priced.BillLater = ref.Revision, "4.40", "quantity", true
	priced.BillLater, priced.CostsIncludeTax = false, true
	priced.Lines = []scan.GoodsLine{{Variant: a.ID, Quantity: "5", Cost: "21"},
		{Variant: b.ID, Quantity: "2", Total: "50"}, {Variant: c.ID, Quantity: "4", Total: "60"}}
	ref, err = buying.SaveDelivery(s.By(s.Maren), id, priced)
	require.NoError(t, err)
	in.Revision = ref.Revision
	in.Lines = []scan.GoodsLine{{Variant: a.ID, Quantity: "6"}, {Variant: b.ID, Quantity: "2"},
		{Variant: c.ID, Quantity: "3"}}
	_, err = buying.SaveDelivery(s.By(s.Tobi), id, in)
	require.NoError(t, err)
	view, lines, err = storebuying.ReadDelivery(s.Store.Read(ctx), id)
	require.NoError(t, err)
	assert.Equal(t, "4.4 quantity false true",
		view.Extra.String()+" "+view.Spread+" "+word(view.BillLater)+" "+word(view.CostsIncludeTax))
	assert.Equal(t, "21", lines[0].Cost.String())
	assert.Equal(t, "50", lines[1].Total.String())
	assert.Nil(t, lines[2].Total, "the total was of four")
	assert.Equal(t, "15", lines[2].Cost.String())

	_, err = buying.PostDelivery(s.By(s.Tobi), id, buying.DeliveryPosting{PaidFrom: "outside the till"})
	assert.True(t, fault.Is(err, fault.Forbidden), "nor may a clerk pay")
	_, err = buying.PostDelivery(s.By(s.Tobi), id, buying.DeliveryPosting{})
	require.True(t, fault.Is(err, fault.Forbidden), "it would be a bill")
	assert.Equal(t, "bill_later", fault.Of(err).Field)
	_, err = buying.PostDelivery(s.By(s.Maren), id, buying.DeliveryPosting{})
	require.NoError(t, err)
	s.InStep(t)

	// goods of which nobody knows the cost wait for somebody who does
	found := s.Simple(t, "Conch", "counted", "9")
	id = scanned(0, "Conch")
	assert.Zero(t, id, "a name opens its rack")
	ref, err = buying.SaveDelivery(s.By(s.Tobi), 0,
		buying.DeliveryInput{Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: found, Quantity: "3"}}})
	require.NoError(t, err)
	_, err = buying.PostDelivery(s.By(s.Tobi), ref.ID, buying.DeliveryPosting{})
	assert.ErrorContains(t, err, "nobody has said what one costs")
	_, err = buying.SaveDelivery(s.By(s.Maren), ref.ID,
		buying.DeliveryInput{Supplier: 1, Branch: 1, BillLater: true, Revision: ref.Revision,
			Lines: []scan.GoodsLine{{Variant: found, Quantity: "3", Cost: "2"}}})
	require.NoError(t, err)
	_, err = buying.PostDelivery(s.By(s.Tobi), ref.ID, buying.DeliveryPosting{})
	require.NoError(t, err)
	s.InStep(t)
}

func word(b bool) string { return map[bool]string{true: "true", false: "false"}[b] }
