package counts_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/core/stock"
	"itemrack/shop/buying"
	"itemrack/shop/counts"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	"itemrack/store/goods"
)

var ctx = context.Background()

func TestCountEdges(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	a, b := made.Variants[0], made.Variants[1]
	whistle := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, a.ID, "4", "10")
	s.Stock(t, b.ID, "6", "10")
	s.Stock(t, whistle, "2", "1")
	_, err := stockroom.ChangeCondition(s.By(s.Tobi), stockroom.ChangeInput{Variant: a.ID, Branch: 1, From: "For sale",
		To: "Lent", Quantity: "1",
		WithWhom: "Ada of the swim club"})
	require.NoError(t, err)
	categories, err := goods.Categories(s.Store.Read(ctx))
	require.NoError(t, err)
	var vests uint64
	for _, c := range categories {
		if c.Path == "Swim > Rash vests" {
			vests = c.ID
		}
	}
	plan, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: vests})
	require.NoError(t, err)
	assert.Equal(t, 7, plan.Rows, "every condition is a row")
	typed := func(in counts.CountInput) (counts.Counted, error) {
		return counts.Count(s.By(s.Callum), plan.ID, in)
	}
	_, err = typed(counts.CountInput{Variant: a.ID, Condition: "Lent", Quantity: "1"})
	require.NoError(t, err)
	got, err := typed(counts.CountInput{Variant: whistle, Quantity: "3"})
	require.NoError(t, err)
	assert.False(t, got.Planned)
	assert.Contains(t, got.Said, "not planned")
	_, err = counts.SettleCount(s.By(s.Callum), plan.ID, counts.SettleInput{Uncounted: "leave"})
	assert.Equal(t, "rows", fault.Of(err).Field, "what was not planned is kept or dropped")
	_, err = counts.ChangeRow(s.By(s.Callum), plan.ID, got.Row, counts.RowInput{What: "keep"})
	require.NoError(t, err)
	for _, bad := range []counts.CountInput{{Code: "nonsense"}, {Variant: a.ID, Quantity: "-1"},
		{Variant: a.ID, Quantity: "1.5"}, {Variant: a.ID, Condition: "Gone", Quantity: "1"},
		{Variant: 999, Quantity: "1"}} {
		_, err := typed(bad)
		assert.NotNil(t, fault.Of(err), "%+v", bad)
	}
	// sold between two entries of one row: marked, to look again
	_, err = typed(counts.CountInput{Variant: b.ID, Quantity: "3"})
	require.NoError(t, err)
	s.Open(t, 1)
	s.Sold(t, b.ID, "1")
	_, err = typed(counts.CountInput{Variant: b.ID, Quantity: "2"})
	require.NoError(t, err)
	figures, err := counts.CountStands(s.By(s.Maren), plan.ID)
	require.NoError(t, err)
	moved := 0
	for _, f := range figures.Rows {
		if f.Moved {
			moved++
			assert.Equal(t, b.ID, f.Key.Variant)
			assert.True(t, f.Variance().IsZero())
		}
	}
	assert.Equal(t, 1, moved)
	_, err = counts.MoveCount(s.By(s.Callum), plan.ID, count.Closed)
	assert.Equal(t, "state", fault.Of(err).Field)
	_, err = counts.MoveCount(s.By(s.Callum), plan.ID, count.Settling)
	require.NoError(t, err)
	_, err = counts.MoveCount(s.By(s.Callum), plan.ID, count.Counting)
	require.NoError(t, err, "one may go back and count on")
	_, err = counts.SettleCount(s.By(s.Callum), plan.ID,
		counts.SettleInput{Uncounted: "leave"})
	assert.Equal(t, "readings", fault.Of(err).Field, "which holds is to be said")
	readings := map[uint64]string{}
	for _, f := range figures.Rows {
		if f.Moved {
			readings[f.RowID] = "last"
		}
	}
	_, err = counts.SettleCount(s.By(s.Callum), plan.ID,
		counts.SettleInput{Uncounted: "leave", Readings: readings,
			Reasons: map[uint64]string{figures.Rows[7].RowID: "mice"}})
	assert.Equal(t, "reason", fault.Of(err).Field)
	// nobody counted what is for sale of a: taken as zero when that is said
	done, err := counts.SettleCount(s.By(s.Callum), plan.ID,
		counts.SettleInput{Uncounted: "zero", Readings: readings,
			Reasons: map[uint64]string{figures.Rows[7].RowID: "error"}})
	require.NoError(t, err)
	assert.Equal(t, plan.Number, done.Number)
	assert.True(t, s.Held(t, a.ID).ForSale()[a.ID].IsZero())
	assert.Equal(t, "1", s.Held(t, a.ID).OnHand(a.ID, 1, stock.Lent).String())
	assert.Equal(t, "3", s.Held(t, whistle).ForSale()[whistle].String())
	_, err = counts.Strike(s.By(s.Callum), plan.ID, 1)
	assert.ErrorContains(t, err, "is closed")
	_, err = counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: vests})
	require.NoError(t, err, "a closed count frees its rows")
	_, err = counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 9, Category: vests})
	assert.Equal(t, "branch_id", fault.Of(err).Field)
	_, err = counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: 999})
	assert.True(t, fault.Is(err, fault.NotFound))
	s.InStep(t)
}

func TestCountOfLots(t *testing.T) {
	s := testkit.New(t)
	cream := s.Simple(t, "Sun cream", "lot", "14.50")
	for _, lot := range []string{"K1", "K2"} {
		s.Receive(
			t,
			buying.DeliveryInput{
				Lines: []scan.GoodsLine{{Variant: cream, Quantity: "5", Cost: "6", Lot: lot, Expiry: "2127-04-30"}},
			},
		)
	}
	plan, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: 1})
	require.NoError(t, err)
	require.Equal(t, 2, plan.Rows, "every lot is a row")
	found, err := goods.Sellables(s.Store.Read(ctx), []uint64{cream}, s.Now())
	require.NoError(t, err)
	_, err = counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Code: found[cream].Barcode})
	assert.ErrorContains(t, err, "lies here in 2 lots")
	assert.Equal(t, "K1 or K2", fault.Of(err).Want)
	_, err = counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Variant: cream, Lot: 2, Quantity: "4"})
	require.NoError(t, err)
	_, err = counts.SettleCount(s.By(s.Callum), plan.ID, counts.SettleInput{Uncounted: "leave"})
	require.NoError(t, err)
	places, err := book.Places(s.Store.Read(ctx), cream)
	require.NoError(t, err)
	left := map[string]string{}
	for _, p := range places {
		left[p.Lot] = p.Quantity.String()
	}
	assert.Equal(t, map[string]string{"K1": "5", "K2": "4"}, left)
	s.InStep(t)
}
