package buying_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/stock"
	"itemrack/shop/buying"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
)

// TestABillIsUndoneAsIfItHadNeverBeen in the books, by both ways of costing: dearer goods of which some are sold since, of
// two lines of one thing, and goods that were on the way through another shelf.
func TestABillIsUndoneAsIfItHadNeverBeen(t *testing.T) {
	for name, begin := range map[string]func(testing.TB) *testkit.Shop{"average": testkit.New, "first in": testkit.FirstIn} {
		t.Run(name, func(t *testing.T) {
			s := begin(t)
			v := s.Simple(t, "Whistle", "counted", "40.00")
			s.Open(t, 1)
			id, _ := later(t, s, scan.GoodsLine{Variant: v, Quantity: "40", Cost: "15"})
			_, bill := billed(t, s, buying.BillInput{Number: "B-1", Deliveries: []uint64{id},
				Lines: []buying.BillLineInput{{DeliveryLine: deliveryLine(t, s, id, 0), Quantity: "40", Each: "16"}}})
			sold(t, s, v, "30")
			undone, err := stockroom.Reverse(s.By(s.Maren), bill.Number, "wrong paper")
			require.NoError(t, err)
			assert.Equal(t, "150.00", s.Held(t, v).Pools[v].Value.StringFixed(2))
			assert.Equal(t, []string{"-10.00", "-30.00"}, posted(t, s, undone.Document, ledger.Stock, ledger.CostOfSales))
			s.InStep(t)
			sold(t, s, v, "10")

			// others came since all was sold: what the freight costs is not theirs
			s.Stock(t, v, "10", "20")
			_, bill = billed(t, s, buying.BillInput{Number: "C-1", Freight: "10", Carrier: true, Deliveries: []uint64{id}})
			assert.Equal(t, []string{"10.00"}, posted(t, s, bill.Document, ledger.CostOfSales))
			assert.Equal(t, "200.00", s.Held(t, v).Pools[v].Value.StringFixed(2))
			s.InStep(t)

			// one thing on two lines of a delivery
			w := s.Simple(t, "Bell", "counted", "90.00")
			two, _ := later(t, s, scan.GoodsLine{Variant: w, Quantity: "5", Cost: "10"},
				scan.GoodsLine{Variant: w, Quantity: "5", Cost: "20"})
			sold(t, s, w, "5")
			was := s.Held(t, w).Pools[w].Value
			_, bill = billed(t, s, buying.BillInput{Number: "B-2", Deliveries: []uint64{two},
				Lines: []buying.BillLineInput{{DeliveryLine: deliveryLine(t, s, two, 1), Quantity: "5", Each: "22"}}})
			assert.Equal(t, []string{"10.00"}, posted(t, s, bill.Document, ledger.Stock), "the second line is there")
			_, err = stockroom.Reverse(s.By(s.Maren), bill.Number, "")
			require.NoError(t, err)
			assert.Equal(t, was.StringFixed(2), s.Held(t, w).Pools[w].Value.StringFixed(2))
			s.InStep(t)
		})
	}
}

// TestADeliveryIsUndoneThoughItsGoodsWereMoved: to another shelf and back, or only to another shelf.
func TestADeliveryIsUndoneThoughItsGoodsWereMoved(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "40.00")
	_, came := later(t, s, scan.GoodsLine{Variant: v, Quantity: "10", Cost: "15"})
	var from uint64
	for key := range s.Held(t, v).Balances {
		from = key.Shelf
	}
	shelves, err := book.ShelvesOf(s.Store.Read(t.Context()), 1)
	require.NoError(t, err)
	to := slices.IndexFunc(shelves, func(x stock.Shelf) bool { return x.ID != from })
	for _, way := range [][2]uint64{{from, shelves[to].ID}, {shelves[to].ID, from}} {
		_, err = stockroom.MoveGoods(s.By(s.Maren), stockroom.MoveInput{From: way[0], To: way[1],
			Lines: []stockroom.MoveLine{{Variant: v, Quantity: "1"}}})
		require.NoError(t, err)
	}
	_, err = stockroom.Reverse(s.By(s.Maren), came.Number, "")
	require.NoError(t, err)
	assert.True(t, s.Held(t, v).Pools[v].Quantity.IsZero())
	s.InStep(t)
}

// TestABillPostsWhatWasShown: of two drafts of one delivery the second is refused, so is one whose delivery was undone or
// billed and unbilled meanwhile in part; saved again as it stands, it posts that.
func TestABillPostsWhatWasShown(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "40.00")
	id, came := later(t, s, scan.GoodsLine{Variant: v, Quantity: "10", Cost: "2"})
	draft := func(number string) buying.BillRef {
		ref, err := buying.SaveBill(s.By(s.Maren), 0, buying.BillInput{Supplier: 1, Branch: 1, Number: number,
			Deliveries: []uint64{id}})
		require.NoError(t, err)
		return ref
	}
	first, second := draft("N-1"), draft("N-2")
	posts, err := buying.PostBill(s.By(s.Maren), first.ID)
	require.NoError(t, err)
	refused := func() {
		t.Helper()
		_, err := buying.PostBill(s.By(s.Maren), second.ID)
		require.True(t, fault.Is(err, fault.Conflict), "%v", err)
		assert.Equal(t, "lines.0.delivery_line_id", fault.Of(err).Field)
	}
	refused()
	assert.Equal(t, []string{"-24.00"}, posted(t, s, posts.Document, ledger.Payable))
	_, err = stockroom.Reverse(s.By(s.Maren), posts.Number, "")
	require.NoError(t, err)
	_, err = buying.PostBill(s.By(s.Maren), second.ID)
	require.NoError(t, err, "it stands as it was shown again")

	id, came = later(t, s, scan.GoodsLine{Variant: v, Quantity: "10", Cost: "2"})
	second = draft("N-3")
	_, err = stockroom.Reverse(s.By(s.Maren), came.Number, "")
	require.NoError(t, err)
	refused()

	id, _ = later(t, s, scan.GoodsLine{Variant: v, Quantity: "10", Cost: "2"})
	line := deliveryLine(t, s, id, 0)
	second = draft("N-4")
	billed(t, s, buying.BillInput{Number: "N-5", Deliveries: []uint64{id},
		Lines: []buying.BillLineInput{{DeliveryLine: line, Quantity: "4"}}})
	refused()
	second, err = buying.SaveBill(s.By(s.Maren), second.ID, buying.BillInput{Supplier: 1, Branch: 1, Number: "N-4",
		Revision: second.Revision, Deliveries: []uint64{id}, Lines: []buying.BillLineInput{{DeliveryLine: line, Quantity: "6"}}})
	require.NoError(t, err)
	_, err = buying.PostBill(s.By(s.Maren), second.ID)
	require.NoError(t, err)
	s.InStep(t)
}
