package stock

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/serial"
)

// Cut is what is proposed to be taken off the price of a lot, in percent, by how near its expiry is: nothing
// before it is told, a fifth while it is, two fifths in the second half of those days and three fifths in the
// last quarter. What has expired is not sold.
func Cut(left, told int) decimal.Decimal {
	switch {
	case left < 0 || left > told:
		return decimal.Zero
	case 4*left <= told:
		return decimal.New(60, 0)
	case 2*left <= told:
		return decimal.New(40, 0)
	}
	return decimal.New(20, 0)
}

// DaysLeft is how many days a lot can still be sold on, from a day; 0 on the day it expires, below zero after.
func DaysLeft(lot serial.Lot, day time.Time) int { return int(lot.Expiry.Sub(day).Hours() / 24) }

// TakeLotOut puts all that is for sale of a lot at a branch into another condition, and says how many that was.
func (d *Draft) TakeLotOut(line int, variant, lot, branch uint64, to Condition,
	day time.Time) (decimal.Decimal, error) {
	if slices.Contains(d.holding.SoldFrom(), to) {
		return decimal.Zero, fault.Field("to", to, "a condition that is not sold", "What is %s would still be sold.", to)
	}
	if err := d.holding.Into(to); err != nil {
		return decimal.Zero, err
	}
	sum := decimal.Zero
	for _, from := range d.holding.SoldFrom() {
		q := decimal.Zero
		for _, key := range d.holding.of(variant) {
			if key.Lot == lot && key.Condition == from && d.holding.Shelves[key.Shelf].Branch == branch {
				q = q.Add(d.holding.Balances[key])
			}
		}
		if !q.IsPositive() {
			continue
		}
		if err := d.Change(Want{Line: line, Variant: variant, Branch: branch, Condition: from, Quantity: q, Lot: lot,
			Day: day, Unsold: true},
			to); err != nil {
			return sum, err
		}
		sum = sum.Add(q)
	}
	return sum, nil
}
