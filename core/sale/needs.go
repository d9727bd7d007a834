package sale

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/stock"
)

// Needs adds up what the lines of a basket take from stock at a branch on a day, one line
// after the other, so that each is told what is short of all that go before it.
type Needs struct {
	held   stock.Holding
	branch uint64
	day    time.Time
	asked  map[need]decimal.Decimal
}

// need is a variant in a condition, and its lot where a line is of one.
type need struct {
	variant, lot uint64
	condition    stock.Condition
}

// NewNeeds begins to add up.
func NewNeeds(held stock.Holding, branch uint64, day time.Time) *Needs {
	return &Needs{held: held, branch: branch, day: day, asked: map[need]decimal.Decimal{}}
}

// Line adds a line, and returns where what it takes itself is taken from. Its error says
// what is short. Goods with serial numbers are not added up: each is chosen by its number.
func (n *Needs) Line(v Sellable, l BasketLine, units decimal.Decimal, parts []Part) ([]stock.Take, error) {
	if !v.Bundle {
		if v.Tracking == stock.NotStocked || v.Tracking == stock.BySerial {
			return nil, nil
		}
		return n.take(v.ID, l.Lot, l.From(), units)
	}
	made := need{variant: v.ID, condition: stock.ForSale}
	if all := n.asked[made].Add(units); all.LessThanOrEqual(n.held.OnHand(v.ID, n.branch, stock.ForSale)) {
		n.asked[made] = all // kits that are made up
		return nil, nil
	}
	var short error
	for _, p := range parts {
		if p.Tracking == stock.NotStocked || p.Tracking == stock.BySerial {
			continue
		}
		if _, err := n.take(p.Variant, 0, stock.ForSale, units.Mul(p.Quantity)); err != nil && short == nil {
			short = err
		}
	}
	return nil, short
}

func (n *Needs) take(variant, lot uint64, from stock.Condition, units decimal.Decimal) ([]stock.Take, error) {
	any, of := need{variant: variant, condition: from}, need{variant, lot, from}
	n.asked[any] = n.asked[any].Add(units)
	if lot != 0 {
		n.asked[of] = n.asked[of].Add(units)
	}
	return n.held.Pick(stock.Want{Variant: variant, Branch: n.branch, Condition: from, Quantity: n.asked[of],
		Lot: lot, Day: n.day})
}
