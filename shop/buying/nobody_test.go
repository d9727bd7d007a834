package buying_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	corebuying "itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/stock"
	"itemrack/shop/buying"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/till"
)

// TestGoodsOfNobodyInParticular are paid at once, outside or out of a drawer, and undone the
// money is there again.
func TestGoodsOfNobodyInParticular(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	draft := func(in buying.DeliveryInput) uint64 {
		in.Branch, in.Lines = 1, []scan.GoodsLine{{Variant: v, Quantity: "10", Total: "25.00"}}
		d, err := buying.SaveDelivery(s.By(s.Maren), 0, in)
		require.NoError(t, err)
		return d.ID
	}
	id := draft(buying.DeliveryInput{})
	_, err := buying.PostDelivery(s.By(s.Maren), id, buying.DeliveryPosting{})
	assert.Equal(t, "supplier_id", fault.Of(err).Field)
	_, err = buying.PostDelivery(s.By(s.Maren), id, buying.DeliveryPosting{PaidFrom: "pocket"})
	assert.Equal(t, "from", fault.Of(err).Field)
	_, err = buying.PostDelivery(s.By(s.Maren), id,
		buying.DeliveryPosting{PaidFrom: corebuying.Drawer, Register: 1})
	assert.True(t, fault.Is(err, fault.Refused), "its drawer is not open")
	_, err = buying.PostDelivery(s.By(s.Callum), id, buying.DeliveryPosting{PaidFrom: corebuying.Outside})
	assert.True(t, fault.Is(err, fault.Forbidden), "a stock keeper does not pay")
	s.Open(t, 1)
	done, err := buying.PostDelivery(s.By(s.Maren), id,
		buying.DeliveryPosting{PaidFrom: corebuying.Drawer, Register: 1})
	require.NoError(t, err)
	assert.Equal(t, []string{"25.00", "5.00", "-30.00"}, posted(t, s, done.Document, ledger.Stock, ledger.TaxIn,
		ledger.Cash))
	s.InStep(t)
	figures, err := till.ReadDrawerFigures(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	assert.Equal(t, "30", figures.PaidOut.String())
	_, err = stockroom.Reverse(s.By(s.Maren), done.Number, "")
	require.NoError(t, err)
	figures, err = till.ReadDrawerFigures(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	assert.True(t, figures.PaidOut.IsZero())
	s.InStep(t)
	// of a supplier, paid at once
	id = draft(buying.DeliveryInput{Supplier: 1, SupplierNumber: "K-9"})
	done, err = buying.PostDelivery(s.By(s.Maren), id, buying.DeliveryPosting{PaidFrom: corebuying.Outside})
	require.NoError(t, err)
	owed, _, err := storebuying.Bills(s.Store.Read(ctx), storebuying.BillFilter{Owed: true}, 1)
	require.NoError(t, err)
	assert.Empty(t, owed)
	_, err = stockroom.Reverse(s.By(s.Maren), done.Number, "")
	assert.True(t, fault.Is(err, fault.Refused), "its payment goes first")
	// their number again is seen while it is typed
	again, err := buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{Supplier: 1, Branch: 1, SupplierNumber: "k-9"})
	require.NoError(t, err)
	assert.Contains(t, again.Remark, done.Number)
	s.InStep(t)
}

// TestAShelfForALine: what came goes to the shelf that is said, of the branch.
func TestAShelfForALine(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	shelves, err := book.ShelvesOf(s.Store.Read(ctx), 1)
	require.NoError(t, err)
	require.Len(t, shelves, 2)
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: v, Quantity: "3", Cost: "1",
		Shelf: shelves[1].ID}}})
	assert.Equal(t, "3", s.Held(t, v).Balances[stock.Key{Variant: v, Shelf: shelves[1].ID,
		Condition: stock.ForSale}].String())
	other, err := book.ShelvesOf(s.Store.Read(ctx), 2)
	require.NoError(t, err)
	draft, err := buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: v, Quantity: "3", Cost: "1",
			Shelf: other[0].ID}}})
	require.NoError(t, err)
	_, err = buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{})
	assert.Equal(t, "lines.0.shelf_id", fault.Of(err).Field)
}

// TestNoMoreLeavesADrawerThanIsInIt: of a supplier's bill, and of goods from nobody in particular.
func TestNoMoreLeavesADrawerThanIsInIt(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "40.00")
	s.Open(t, 1)
	for supplier, each := range map[uint64]string{0: "100.01", 1: "90"} { // 108.00 with tax
		draft, err := buying.SaveDelivery(s.By(s.Maren), 0, buying.DeliveryInput{Supplier: supplier, Branch: 1,
			Lines: []scan.GoodsLine{{Variant: v, Quantity: "1", Cost: each}}})
		require.NoError(t, err)
		_, err = buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{PaidFrom: corebuying.Drawer,
			Register: 1})
		require.True(t, fault.Is(err, fault.Refused), "supplier %d: %v", supplier, err)
		assert.Equal(t, "paid_from", fault.Of(err).Field)
	}
	assert.True(t, s.Held(t, v).Pools[v].Quantity.IsZero(), "nothing came in by halves")
	s.InStep(t)
}
