package counts_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/shop/counts"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
)

func TestCountWhileSelling(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	a, b, c := made.Variants[0], made.Variants[1], made.Variants[2]
	s.Stock(t, a.ID, "20", "10")
	s.Stock(t, b.ID, "5", "10")
	s.Stock(t, c.ID, "4", "10")
	s.Open(t, 1)
	plan, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: 1})
	require.NoError(t, err)
	assert.Equal(t, 6, plan.Rows)
	_, err = counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: 2})
	assert.ErrorContains(t, err, "being counted at this branch already, in SC-0001")

	_, err = counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Variant: a.ID, Quantity: "18"})
	require.NoError(t, err)
	s.Sold(t, a.ID, "3")
	for i := 1; i <= 5; i++ {
		got, err := counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Code: b.Barcode})
		require.NoError(t, err)
		assert.Equal(t, int64(i), got.Counted.IntPart())
	}
	got, err := counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Code: "3 x " + b.Barcode})
	require.NoError(t, err)
	_, err = counts.Strike(s.By(s.Callum), plan.ID, got.Event)
	require.NoError(t, err)
	_, err = counts.Strike(s.By(s.Callum), plan.ID, got.Event)
	assert.True(t, fault.Is(err, fault.Conflict))
	_, err = counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Variant: c.ID, Quantity: "6"})
	require.NoError(t, err)

	_, err = counts.MoveCount(s.By(s.Callum), plan.ID, count.Settling)
	require.NoError(t, err)
	_, err = counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Variant: c.ID, Quantity: "1"})
	assert.ErrorContains(t, err, "nothing more can be counted")
	_, err = counts.SettleCount(s.By(s.Callum), plan.ID, counts.SettleInput{})
	assert.Equal(t, "uncounted", fault.Of(err).Field)
	_, err = counts.SettleCount(s.By(s.Tobi), plan.ID, counts.SettleInput{Uncounted: "leave"})
	assert.True(t, fault.Is(err, fault.Forbidden))
	done, err := counts.SettleCount(s.By(s.Callum), plan.ID, counts.SettleInput{Uncounted: "leave"})
	require.NoError(t, err)
	_, err = counts.SettleCount(s.By(s.Callum), plan.ID, counts.SettleInput{Uncounted: "leave"})
	assert.ErrorContains(t, err, "nothing was posted twice")

	held, err := book.Look(s.Store.Read(ctx), []uint64{a.ID, b.ID, c.ID})
	require.NoError(t, err)
	assert.Equal(t, []string{"15", "5", "6"},
		[]string{held.ForSale()[a.ID].String(), held.ForSale()[b.ID].String(), held.ForSale()[c.ID].String()})
	figures, err := counts.CountStands(s.By(s.Maren), plan.ID)
	require.NoError(t, err)
	assert.Equal(t, "-20.00", figures.Rows[0].Value.StringFixed(2))
	assert.Equal(t, "loss", figures.Rows[0].Reason)
	assert.Equal(t, "found", figures.Rows[2].Reason)
	assert.False(t, figures.Rows[3].Counted, "blank is not zero")
	s.InStep(t)

	_, err = stockroom.Reverse(s.By(s.Maren), done.Number, "counted the wrong wall")
	require.NoError(t, err)
	held, err = book.Look(s.Store.Read(ctx), []uint64{a.ID, c.ID})
	require.NoError(t, err)
	assert.Equal(t, []string{"17", "4"}, []string{held.ForSale()[a.ID].String(), held.ForSale()[c.ID].String()})
	s.InStep(t)
}
