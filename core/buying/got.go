package buying

import "github.com/shopspring/decimal"

// How is the way in which the quantity of a delivery's line came about.
type How string

// The ways. What is proposed is taken with the next scan of other goods, or when it is
// confirmed, or posted.
const (
	Counted   How = ""
	Proposed  How = "proposed"
	AsOrdered How = "as ordered"
)

// Got is how much of some goods is in a delivery, and how it came about.
type Got struct {
	Quantity decimal.Decimal
	How      How
}

// Scan is the line after another scan of its goods that stands for so many units; exact
// says that a number, lot or serial number came with it. The first scan of what is
// outstanding proposes all of it; the second turns that into counting one by one.
func (g Got) Scan(units, outstanding decimal.Decimal, exact bool) Got {
	switch {
	case g.How == Proposed && exact:
		return Got{Quantity: units}
	case g.How == Proposed:
		return Got{Quantity: units.Add(units)}
	case g.Quantity.IsZero() && !exact && outstanding.GreaterThan(units):
		return Got{outstanding, Proposed}
	}
	return Got{Quantity: g.Quantity.Add(units)}
}

// Take is the line once what is proposed is taken.
func (g Got) Take() Got {
	if g.How == Proposed {
		g.How = AsOrdered
	}
	return g
}

// Type is the line after a quantity was typed: it was counted, unless it stayed as it was.
func (g Got) Type(quantity decimal.Decimal) Got {
	if quantity.Equal(g.Quantity) {
		return g
	}
	return Got{Quantity: quantity}
}

// Progress is what a delivery has got of what is ordered of some goods: Outstanding is what
// was awaited before it.
type Progress struct {
	Outstanding decimal.Decimal `json:"outstanding"`
	Got         decimal.Decimal `json:"got"`
}

// Short is how many did not come, never below zero.
func (p Progress) Short() decimal.Decimal {
	return decimal.Max(decimal.Zero, p.Outstanding.Sub(p.Got))
}

// Over is how many came beyond what was awaited.
func (p Progress) Over() decimal.Decimal {
	return decimal.Max(decimal.Zero, p.Got.Sub(p.Outstanding))
}
