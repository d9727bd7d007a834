package counts_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/buying"
	"itemrack/shop/counts"
	"itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/testkit"
)

// TestWhatComesAndGoesAfterItWasCounted is neither missing nor lost.
func TestWhatComesAndGoesAfterItWasCounted(t *testing.T) {
	s := testkit.New(t)
	board := s.Simple(t, "Board", "serial", "549.00")
	in := func(number string) {
		s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: board, Quantity: "1", Cost: "310",
			Serials: number}}})
	}
	for _, number := range []string{"A1", "A2", "A3", "A4"} {
		in(number)
	}
	plan, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: 2})
	require.NoError(t, err)
	for _, number := range []string{"A1", "A2"} {
		_, err = counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Variant: board, Serial: number})
		require.NoError(t, err)
	}
	in("A5") // after it was counted
	s.Open(t, 1)
	for _, number := range []string{"A1", "A3"} { // found and sold; not found, and sold all the same
		_, err = register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Cash: "600",
			Lines: []register.SaleLineInput{{Variant: board, Quantity: "1", Serial: number}}})
		require.NoError(t, err)
	}
	figures, err := counts.CountStands(s.By(s.Maren), plan.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"A4"}, figures.Rows[0].Missing)
	_, err = counts.SettleCount(s.By(s.Maren), plan.ID, counts.SettleInput{Uncounted: "leave"})
	require.NoError(t, err)
	assert.Equal(t, "2", s.Held(t, board).Pools[board].Quantity.String(), "A2 and A5")
	s.InStep(t)
}

// TestAStruckScanOutsideThePlanIsGone, also where uncounted rows are taken as zero; and what
// that does is told before.
func TestAStruckScanOutsideThePlanIsGone(t *testing.T) {
	s := testkit.New(t)
	inside, outside := s.Vest(t), s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, inside.Variants[0].ID, "3", "10")
	s.Stock(t, outside, "9", "2")
	plan, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: 2})
	require.NoError(t, err)
	scanned, err := counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Variant: outside, Quantity: "1"})
	require.NoError(t, err)
	assert.False(t, scanned.Planned)
	_, err = counts.Strike(s.By(s.Callum), plan.ID, scanned.Event)
	require.NoError(t, err)
	figures, err := counts.CountStands(s.By(s.Maren), plan.ID)
	require.NoError(t, err)
	told := map[uint64]string{}
	for _, f := range figures.Rows {
		require.NotNil(t, f.AsZero, "nobody counted it")
		told[f.Key.Variant] = f.AsZero.Differs.String() + " " + f.AsZero.Value.StringFixed(2)
	}
	assert.Len(t, told, 6)
	assert.Equal(t, "-3 -30.00", told[inside.Variants[0].ID])
	_, err = counts.SettleCount(s.By(s.Callum), plan.ID, counts.SettleInput{Uncounted: "zero"})
	require.NoError(t, err)
	assert.Equal(t, "9", s.Held(t, outside).Pools[outside].Quantity.String())
	assert.True(t, s.Held(t, inside.Variants[0].ID).Pools[inside.Variants[0].ID].Quantity.IsZero())
	s.InStep(t)
}
