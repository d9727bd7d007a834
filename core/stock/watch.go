package stock

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"
)

// Watched is goods that are not for sale: since when the oldest of them are in their condition, nil where nobody
// knows, and by when they are to come back where somebody has them.
type Watched struct {
	Condition Condition
	Units     decimal.Decimal
	Worth     decimal.Decimal // at cost
	Since     *time.Time
	BackBy    []time.Time // days, at midnight UTC
	Late      bool        // they want attention, as Wants says
}

// Wants reports whether goods want attention: they are in their condition for longer than it says, or a day by which
// they were to come back is over. Today is the day of now in the shop's zone, at midnight UTC.
func (w Watched) Wants(conditions []ConditionFacts, now, today time.Time) bool {
	if slices.ContainsFunc(w.BackBy, today.After) {
		return true
	}
	return w.Since != nil && slices.ContainsFunc(conditions,
		func(f ConditionFacts) bool { return f.Name == w.Condition && f.Overdue(*w.Since, now) })
}

// Next is the condition that goods usually go to next from one that is not for sale: for sale, once somebody has looked
// them over, mended them or brought them back. It is empty where they are where they belong: sold apart, or for scrap.
func Next(from Condition, conditions []ConditionFacts) Condition {
	apart := slices.ContainsFunc(conditions, func(f ConditionFacts) bool { return f.Name == from && f.Apart() })
	if apart || from == ForScrap {
		return ""
	}
	return ForSale
}

// WatchedSum is what is in a condition: of how many goods, how many of them want attention, how many units, worth
// what, and since when at the longest.
type WatchedSum struct {
	Name  Condition       `json:"condition"`
	Rows  int             `json:"rows"`
	Late  int             `json:"want_attention"`
	Units decimal.Decimal `json:"units"`
	Worth decimal.Decimal `json:"worth" see:"costs"`
	Since *time.Time      `json:"since"`
}

// Watch adds goods that are not for sale up by condition, in the shop's order; a condition that nothing is in is left
// out.
func Watch(list []Watched, conditions []ConditionFacts) []WatchedSum {
	var sums []WatchedSum
	for _, f := range conditions {
		sum := WatchedSum{Name: f.Name}
		for _, w := range list {
			if w.Condition != f.Name {
				continue
			}
			sum.Rows++
			sum.Units, sum.Worth = sum.Units.Add(w.Units), sum.Worth.Add(w.Worth)
			if w.Late {
				sum.Late++
			}
			if w.Since != nil && (sum.Since == nil || w.Since.Before(*sum.Since)) {
				sum.Since = w.Since
			}
		}
		if sum.Rows > 0 {
			sums = append(sums, sum)
		}
	}
	return sums
}
