// Package cost values stock by moving average. Its main rule: what is kept is
// the total value beside the quantity; the average is only ever derived from
// the two, so nothing is lost to a rounded average.
package cost

import (
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
)

// Pool is a variant's quantity and what it is worth, over all branches and
// conditions. Last is the unit cost of the last purchase, 6 decimals.
type Pool struct {
	Quantity decimal.Decimal
	Value    decimal.Decimal
	Last     decimal.Decimal
}

// Average is value ÷ quantity to 6 decimals; with nothing in stock it is the
// last cost.
func (p Pool) Average() decimal.Decimal {
	if !p.Quantity.IsPositive() {
		return p.Last
	}
	return p.Value.DivRound(p.Quantity, money.CostPlaces)
}

// In adds q units worth value, which must be rounded to the minor unit.
func (p Pool) In(q, value decimal.Decimal) Pool {
	p.Quantity, p.Value = p.Quantity.Add(q), p.Value.Add(value)
	return p
}

// Bought adds q units worth value and keeps their unit cost as the last one.
func (p Pool) Bought(q, value decimal.Decimal) Pool {
	p = p.In(q, value)
	p.Last = value.DivRound(q, money.CostPlaces)
	return p
}

// Worth is what q units are worth: round(q × average, 2), with the average
// unrounded; all that there are are worth the whole value. It holds for units
// that are found, too; with nothing in stock they are worth the last cost.
func (p Pool) Worth(q decimal.Decimal) decimal.Decimal {
	if q.Equal(p.Quantity) {
		return p.Value
	}
	if p.Quantity.IsZero() {
		return money.Round(q.Mul(p.Last))
	}
	return q.Mul(p.Value).DivRound(p.Quantity, money.Places)
}

// Out takes q units at the moving average and returns their value. More than
// there is is refused.
func (p Pool) Out(q decimal.Decimal) (Pool, decimal.Decimal, error) {
	value := p.Worth(q)
	next, err := p.OutAt(q, value)
	return next, value, err
}

// OutAt takes q units at a value of their own, as serial-numbered units have.
func (p Pool) OutAt(q, value decimal.Decimal) (Pool, error) {
	if q.GreaterThan(p.Quantity) {
		return p, fault.Refuse("quantity", q, "no more than "+p.Quantity.String(), "Only %s are in stock.", p.Quantity)
	}
	p.Quantity, p.Value = p.Quantity.Sub(q), p.Value.Sub(value)
	return p, nil
}
