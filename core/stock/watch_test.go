package stock

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestWhatWantsAttention: by the days of its condition, and by the day on which it was to come back.
func TestWhatWantsAttention(t *testing.T) {
	now := time.Date(2026, 11, 27, 9, 0, 0, 0, time.UTC)
	today := time.Date(2026, 11, 27, 0, 0, 0, 0, time.UTC)
	ago := func(days int) *time.Time { at := now.AddDate(0, 0, -days); return &at }
	three := 3
	facts := []ConditionFacts{{Name: ForSale}, {Name: "To look over", Days: &three}, {Name: Lent, Holder: true},
		{Name: "For scrap"}}
	for what, c := range map[string]struct {
		w    Watched
		want bool
	}{
		"as long as it may":     {Watched{Condition: "To look over", Since: ago(3)}, false},
		"longer":                {Watched{Condition: "To look over", Since: ago(4)}, true},
		"nobody knows how long": {Watched{Condition: "To look over"}, false},
		"a condition that says no days": {
			Watched{Condition: "For scrap", Since: ago(400)}, false},
		"to come back today": {Watched{Condition: Lent, Since: ago(9), BackBy: []time.Time{today}}, false},
		"to come back yesterday": {Watched{Condition: Lent,
			BackBy: []time.Time{today.AddDate(0, 1, 0), today.AddDate(0, 0, -1)}}, true},
		"a condition that is no more": {
			Watched{Condition: "Gone", Since: ago(400)}, false},
	} {
		assert.Equal(t, c.want, c.w.Wants(facts, now, today), what)
	}

	sums := Watch([]Watched{
		{Condition: Lent, Units: d("1"), Worth: d("14.01"), Late: true},
		{Condition: "To look over", Units: d("2"), Worth: d("9.30"), Since: ago(2)},
		{Condition: "To look over", Units: d("1"), Worth: d("0.70"), Since: ago(90), Late: true},
	}, facts)
	require.Len(t, sums, 2, "what nothing is in is left out")
	assert.Equal(t, WatchedSum{Name: "To look over", Rows: 2, Late: 1, Units: d("3"), Worth: d("10.00"), Since: ago(90)},
		WatchedSum{sums[0].Name, sums[0].Rows, sums[0].Late, sums[0].Units, sums[0].Worth.Round(2), sums[0].Since})
	assert.Equal(t, "Lent 1 1", string(sums[1].Name)+" "+sums[1].Units.String()+" "+fmt.Sprint(sums[1].Late))
	assert.Empty(t, Watch(nil, facts))

	facts = append(facts, ConditionFacts{Name: Seconds, Sold: true}, ConditionFacts{Name: "Ausgestellt"})
	for from, next := range map[Condition]Condition{"To look over": ForSale, Lent: ForSale, "Ausgestellt": ForSale,
		"Gone":  ForSale,
		Seconds: "", ForScrap: ""} {
		assert.Equal(t, next, Next(from, facts), from)
	}
}
