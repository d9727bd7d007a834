package price

import (
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
)

// ParsePercent reads a percentage such as 110, 52.5 or 20 %: zero or more, below
// 100,000, with up to 4 decimals.
func ParsePercent(field, text string) (decimal.Decimal, error) {
	percent, err := money.ParseCost(field, strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(text), "%")))
	if err != nil || percent.GreaterThanOrEqual(decimal.New(100_000, 0)) || !percent.Equal(percent.Round(4)) {
		return decimal.Zero, fault.Field(field, text, "a percentage such as 110", "%q is no percentage.", text)
	}
	return percent, nil
}

// Signed reads a figure that may stand behind a sign: "+5", "-10 %", "−2.50".
func Signed(field, text string, parse func(field, text string) (decimal.Decimal, error)) (decimal.Decimal, error) {
	plain := strings.Replace(strings.TrimSpace(text), "−", "-", 1)
	rest, off := strings.CutPrefix(plain, "-")
	if !off {
		rest = strings.TrimPrefix(plain, "+")
	}
	amount, err := parse(field, strings.TrimSpace(rest))
	if off {
		amount = amount.Neg()
	}
	return amount, err
}

// ChangeKind is how many prices are changed at once.
type ChangeKind string

// The kinds of change.
const (
	ByPercent ChangeKind = "price_percent"
	ByAmount  ChangeKind = "price_amount"
	ToEnding  ChangeKind = "price_ending"
)

// Change is a change of prices: up or down by a percentage or an amount, or to an
// ending.
type Change struct {
	kind   ChangeKind
	figure decimal.Decimal
	ending Ending
	minor  money.Minor
}

// ParseChange reads a change as it is typed: "-10" of a kind, or an ending.
// Errors are of the field "to", or "what" for another kind.
func ParseChange(kind ChangeKind, text string, minor money.Minor) (Change, error) {
	c := Change{kind: kind, minor: minor}
	var err error
	switch kind {
	case ByPercent:
		c.figure, err = Signed("to", text, ParsePercent)
	case ByAmount:
		c.figure, err = Signed("to", text, minor.Parse)
	case ToEnding:
		c.ending, err = ParseEnding(text, minor)
		if err == nil && c.ending.None() {
			err = fault.Field("to", text, "step/ending/way, such as 1/0.95/nearest",
				"Say the ending that prices are to have.")
		}
		if e := fault.Of(err); e != nil {
			e.Field = "to"
		}
	default:
		err = fault.Field("what", kind, "price_percent, price_amount or price_ending", "Prices can't be changed by %q.",
			kind)
	}
	return c, err
}

// Apply is an amount changed, rounded to the minor unit; true marks an ending
// that could not be had below.
func (c Change) Apply(amount decimal.Decimal) (decimal.Decimal, bool) {
	switch c.kind {
	case ByPercent:
		return c.minor.Round(amount.Mul(decimal.New(100, 0).Add(c.figure)).Div(decimal.New(100, 0))), false
	case ByAmount:
		return amount.Add(c.figure), false
	}
	return c.ending.Apply(amount, c.minor)
}
