package buying

import (
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/stock"
)

// Step is what somebody does who takes a delivery in by hand.
type Step string

// The steps.
const (
	StepScan     Step = "scan"
	StepShelf    Step = "shelf"    // what comes next goes there
	StepNumber   Step = "number"   // so many there are, in all
	StepMore     Step = "more"     // so many more, or less
	StepWhole    Step = "whole"    // all that is outstanding of some goods is here
	StepAll      Step = "all"      // and of all goods
	StepTracking Step = "tracking" // their lot, or serial numbers
)

// Check refuses what is no step.
func (s Step) Check() error {
	switch s {
	case StepScan, StepShelf, StepNumber, StepMore, StepWhole, StepAll, StepTracking:
		return nil
	}
	return fault.Field("what", s, "scan, shelf, number, more, whole, all or tracking", "Nothing is done like %q.", s)
}

// Signed takes the sign off a quantity that was typed.
func Signed(typed string) (sign decimal.Decimal, digits string) {
	typed = strings.TrimSpace(typed)
	for _, minus := range []string{"-", "−"} {
		if rest, ok := strings.CutPrefix(typed, minus); ok {
			return decimal.New(-1, 0), rest
		}
	}
	return decimal.New(1, 0), typed
}

// Count is the line of some goods on a shelf after a step that says how many there are: others are
// those on other shelves or lines, and outstanding what is awaited in all. What was proposed counts as
// it stands.
func (s Step) Count(g Got, typed, others, outstanding decimal.Decimal) (Got, error) {
	switch s {
	case StepMore:
		typed = g.Quantity.Add(typed)
	case StepWhole:
		if rest := outstanding.Sub(others); rest.IsPositive() {
			return Got{rest, AsOrdered}, nil
		}
		return g, nil
	default:
		typed = typed.Sub(others)
	}
	if typed.IsNegative() {
		return g, fault.Refuse("quantity", typed.Add(others), others.String()+" or more",
			"There can't be less than none of it here.")
	}
	return Got{Quantity: typed}, nil
}

// mostHangers is how many hangers stand for how many came before figures do.
const mostHangers = 6

// Hangers is how many hangers stand for goods in a picture, and how many of them are filled: one for
// each that is awaited or here. More than six, or parts of one, are not drawn.
func (p Progress) Hangers() (all, filled int) {
	most := decimal.Max(p.Outstanding, p.Got)
	if most.GreaterThan(decimal.New(mostHangers, 0)) || !most.IsInteger() || !p.Got.IsInteger() {
		return 0, 0
	}
	return int(most.IntPart()), int(p.Got.IntPart())
}

// Verdict is what should be looked at: goods that nobody ordered, or more of them than were, where
// the delivery is against orders.
func (p Progress) Verdict(ordered, against bool) string {
	switch {
	case !against || p.Got.IsZero():
		return ""
	case !ordered:
		return "not ordered"
	case p.Over().IsPositive():
		return "over"
	}
	return ""
}

// StillAsks is what has to be said of goods before they can be taken in: their lot, or the serial
// numbers of all; empty for nothing.
func StillAsks(tracking stock.Tracking, got decimal.Decimal, lots bool, numbers decimal.Decimal) string {
	switch {
	case got.IsZero():
		return ""
	case tracking == stock.ByLot && !lots:
		return "lot"
	case tracking == stock.BySerial && numbers.LessThan(got):
		return "numbers"
	}
	return ""
}
