package catalog

import (
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/core/unit"
)

var hundred = decimal.New(100, 0)

// ParseRestock reads a restock level as it is typed: a quantity, or "20 %" for one that follows
// what is on hand after each delivery. An empty text is neither.
func ParseRestock(typed string, of unit.Unit) (level, percent *decimal.Decimal, err error) {
	share, isShare := strings.CutSuffix(strings.TrimSpace(typed), "%")
	if !isShare {
		level, err = number.Optional("restock_level", typed, of.Parse)
		return level, nil, err
	}
	p, ok := number.Parse(strings.TrimSpace(share))
	if !ok || p.IsNegative() || p.GreaterThan(hundred) {
		return nil, nil, fault.Field("restock_level", typed, "0 % to 100 % of what is on hand after a delivery",
			"%q is no restock level.", text.Cut(typed, 40))
	}
	return nil, &p, nil
}

// RestockAt is the restock level that so many percent of a quantity make, which was on hand
// after a delivery, rounded up to what the unit allows.
func RestockAt(percent, onHand decimal.Decimal, of unit.Unit) decimal.Decimal {
	return onHand.Mul(percent).Div(hundred).RoundUp(of.Decimals)
}

// SaidRestock writes a restock level as it is typed; empty for none.
func SaidRestock(level, percent *decimal.Decimal) string {
	switch {
	case percent != nil:
		return percent.String() + " %"
	case level != nil:
		return level.String()
	}
	return ""
}

// How many days before its expiry a lot is told: at most, and where its product does not say.
const (
	MostExpiryDays  = 3650
	UsualExpiryDays = 30
)

// ParseExpiryDays reads how many days before its expiry a lot is told; empty is not said. Only
// what is kept by lot has an expiry.
func ParseExpiryDays(typed string, tracking stock.Tracking) (*int, error) {
	if strings.TrimSpace(typed) == "" {
		return nil, nil
	}
	days, ok := number.Parse(typed)
	if !ok || !days.IsInteger() || days.IsNegative() || days.GreaterThan(decimal.New(MostExpiryDays, 0)) {
		return nil, fault.Field("expiry_days", typed, "0 to 3650 days",
			"A lot can't be told %q days before its expiry.", text.Cut(typed, 40))
	}
	if tracking != stock.ByLot {
		return nil, fault.Field("expiry_days", typed, "a product that is kept by lot",
			"Only what is kept by lot has an expiry to be told of.")
	}
	n := int(days.IntPart())
	return &n, nil
}
