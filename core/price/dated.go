package price

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
)

// patience is how long a form may be open before the moment in it is past.
const patience = time.Minute

// CheckBegin refuses a price, or a rate, that would begin in the past.
func CheckBegin(what string, from, now time.Time) error {
	if from.Before(now.Add(-patience)) {
		return fault.Field("from", from.Format(time.RFC3339), "now or later",
			"A %s can't begin in the past: what was sold was sold.", what)
	}
	return nil
}

// Former is what a customer paid for one before the price that holds at a moment, where
// that was more; false where it was not, or where there was no price before.
func (b Book) Former(g Goods, list uint64, moment time.Time) (decimal.Decimal, bool) {
	rows := g.Own[list]
	if len(rows) == 0 {
		rows = g.Product[list]
	}
	began := slices.DeleteFunc(slices.Clone(rows),
		func(r Dated) bool { return r.Since.After(moment) || !r.From.IsZero() })
	if len(began) < 2 {
		return decimal.Zero, false
	}
	before, now := b.Gross(began[len(began)-2].Amount, g.Percent), b.Gross(began[len(began)-1].Amount, g.Percent)
	return before, before.GreaterThan(now)
}
