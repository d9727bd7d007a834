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

// TestABillIsUndoneAsIfItHadNeverBeen in the books, by both ways of costing: dearer goods of which some are sold since,
// of two lines of one thing, and goods that were on the way through another shelf.
func TestABillIsUndoneAsIfItHadNeverBeen(t *testing.T) {
	for name, begin := range map[string]func(testing.TB) *testkit.Shop{"average": testkit.New,
		"first in": testkit.FirstIn} {
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

// TestABillPostsWhatWasShown: of two drafts of one delivery the second is refused, so is one whose delivery was undone
// or billed and unbilled meanwhile in part; saved again as it stands, it posts that.
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
	again := buying.BillInput{Supplier: 1, Branch: 1, Number: "N-4", Revision: second.Revision, Deliveries: []uint64{id},
		Lines: []buying.BillLineInput{{DeliveryLine: line, Quantity: "6"}}}
	_, err = buying.SaveBill(s.By(s.Maren), second.ID, again)
	require.True(t, fault.Is(err, fault.Conflict), "whoever has it open is told: %v", err)
	again.Revision++
	second, err = buying.SaveBill(s.By(s.Maren), second.ID, again)
	require.NoError(t, err)
	_, err = buying.PostBill(s.By(s.Maren), second.ID)
	require.NoError(t, err)
	s.InStep(t)
}

// TestTwoDraftsOfOneOrder: the second, filled in as ordered, is not taken in by itself once the first was; whoever has
// it open is told, and it posts when somebody says that all of it came.
func TestTwoDraftsOfOneOrder(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "40.00")
	o := ordered(t, s, 1, buying.OrderLineInput{Variant: v, Quantity: "10", Price: "20"})
	draft := func(q string) buying.DeliveryRef {
		ref, err := buying.SaveDelivery(s.By(s.Maren), 0, buying.DeliveryInput{Branch: 1, BillLater: true,
			Orders: []uint64{o.ID},
			Lines:  []scan.GoodsLine{{Variant: v, Quantity: q}}})
		require.NoError(t, err)
		return ref
	}
	post := func(id uint64, more bool) error {
		_, err := buying.PostDelivery(s.By(s.Maren), id, buying.DeliveryPosting{More: more})
		return err
	}
	first, second, part := draft("10"), draft("10"), draft("4")
	require.NoError(t, post(part.ID, false))
	err := post(first.ID, false)
	require.True(t, fault.Is(err, fault.Conflict), "%v", err)
	assert.Equal(t, "more_than_ordered", fault.Of(err).Field)
	_, err = buying.SaveDelivery(s.By(s.Maren), first.ID, buying.DeliveryInput{Branch: 1, BillLater: true,
		Orders:   []uint64{o.ID},
		Revision: first.Revision, Lines: []scan.GoodsLine{{Variant: v, Quantity: "10"}}})
	require.True(t, fault.Is(err, fault.Conflict), "it was shown otherwise: %v", err)
	six := draft("6")
	require.NoError(t, post(six.ID, false), "what is outstanding")
	require.Error(t, post(second.ID, false))
	require.NoError(t, post(second.ID, true), "more came than was ordered, somebody says")
	assert.Equal(t, "20", s.Held(t, v).Pools[v].Quantity.String())
	o = ordered(t, s, 1, buying.OrderLineInput{Variant: v, Quantity: "1", Price: "20"})
	require.NoError(t, post(draft("3").ID, false), "more than ordered, as it was shown")
	s.InStep(t)
}

// TestADraftOfAnotherBranch is not taken over by naming one's own.
func TestADraftOfAnotherBranch(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "40.00")
	callum := s.Callum
	callum.Branches = []uint64{1}
	theirs, err := buying.SaveDelivery(s.By(s.Maren), 0, buying.DeliveryInput{Branch: 2, Supplier: 1,
		Lines: []scan.GoodsLine{{Variant: v, Quantity: "3", Cost: "2"}}})
	require.NoError(t, err)
	_, err = buying.SaveDelivery(s.By(callum), theirs.ID, buying.DeliveryInput{Branch: 1, Supplier: 1,
		Revision: theirs.Revision})
	require.True(t, fault.Is(err, fault.Forbidden), "%v", err)
	_, err = buying.ScanDelivery(s.By(callum), theirs.ID, buying.DeliveryScan{Code: s.Sellables(t, v)[v].SKU})
	require.True(t, fault.Is(err, fault.Forbidden), "%v", err)
}
