package counts_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/count"
	"itemrack/core/staff"
	"itemrack/shop/counts"
	"itemrack/shop/testkit"
)

// TestABlindCountTellsNothing reads a blind count as those who count, and as one who may
// settle it, until it is closed.
func TestABlindCountTellsNothing(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "7", "1.50")
	plan, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: 1, Blind: true})
	require.NoError(t, err)
	_, err = counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Variant: v, Quantity: "5"})
	require.NoError(t, err)
	look := func(who staff.Actor) []string {
		figures, err := counts.CountStands(s.By(who), plan.ID)
		require.NoError(t, err)
		require.Len(t, figures.Rows, 1)
		require.Len(t, figures.Events, 1)
		r := figures.Rows[0]
		return []string{r.Quantity.String(), r.Expected.String(), r.Differs.String(), r.Value.String(),
			figures.Events[0].OnHand.String()}
	}
	hidden := []string{"5", "0", "0", "0", "0"}
	known := []string{"5", "7", "-2", "-3", "7"}
	for _, state := range []count.State{count.Counting, count.Settling} {
		_, err = counts.MoveCount(s.By(s.Callum), plan.ID, state)
		require.NoError(t, err)
		assert.Equal(t, hidden, look(s.Tobi), "%s, the clerk", state)
		assert.Equal(t, known, look(s.Callum), "%s, the stock keeper, who may settle it", state)
		assert.Equal(t, known, look(s.Maren), "%s, the manager", state)
	}
	_, err = counts.SettleCount(s.By(s.Maren), plan.ID, counts.SettleInput{Uncounted: "leave"})
	require.NoError(t, err)
	assert.Equal(t, "7", look(s.Tobi)[1], "closed")
	s.InStep(t)
}
