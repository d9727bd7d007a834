package price

import (
	"github.com/shopspring/decimal"

	"itemrack/core/cost"
)

// CostFrom says where it is known from what goods cost.
type CostFrom string

// Where a cost is known from.
const (
	NoCost       CostFrom = "not known"
	FromStock    CostFrom = "average of what is in stock"
	FromPurchase CostFrom = "last purchase"
	FromExpected CostFrom = "expected"
	FromParts    CostFrom = "its parts"
)

// Cost is what one of some goods costs, and where that is known from.
type Cost struct {
	Amount decimal.Decimal `json:"amount"`
	From   CostFrom        `json:"from"`
}

// CostOf is what one of some goods costs: the average of what is in stock, else what
// the last purchase cost, else what is expected of the variant, else of its product.
func CostOf(pool cost.Pool, expected ...*decimal.Decimal) Cost {
	switch {
	case pool.Quantity.IsPositive():
		return Cost{pool.Average(), FromStock}
	case pool.Last.IsPositive():
		return Cost{pool.Last, FromPurchase}
	}
	for _, e := range expected {
		if e != nil {
			return Cost{*e, FromExpected}
		}
	}
	return Cost{From: NoCost}
}

// NextCost is the cost that rules make prices from, what the next one will cost: that
// of the last purchase, else what is expected of the variant, else of its product.
func NextCost(last decimal.Decimal, expected ...*decimal.Decimal) decimal.Decimal {
	return CostOf(cost.Pool{Last: last}, expected...).Amount
}

// Standing is what is left of a price: Net of it without its tax, and how that stands
// to the cost. Margin and Markup are in percent, to one decimal; nil where there is no
// price or no cost to hold it against. Under says that less than the cost is left.
type Standing struct {
	Cost   Cost             `json:"cost" see:"costs"`
	Net    decimal.Decimal  `json:"net" see:"costs"`
	Margin *decimal.Decimal `json:"margin" see:"costs"`
	Markup *decimal.Decimal `json:"markup" see:"costs"`
	Under  bool             `json:"under" see:"costs"`
}

// Stand holds a price of one against what it costs; percent is its tax. It is the one
// answer to what a thing costs and what is left, on every page and list.
func (b Book) Stand(amount, percent decimal.Decimal, of Cost) Standing {
	s := Standing{Cost: of, Net: b.Net(amount, percent)}
	if !of.Amount.IsPositive() {
		return s
	}
	s.Under = s.Net.LessThan(of.Amount)
	if m, ok := MarginOf(s.Net, of.Amount); ok {
		s.Margin = &m
	}
	if m, ok := MarkupOf(s.Net, of.Amount); ok {
		s.Markup = &m
	}
	return s
}

// MarginText is the margin for people, empty where there is none.
func (s Standing) MarginText() string { return describe(s.Margin) }

// MarkupText is the markup for people, empty where there is none.
func (s Standing) MarkupText() string { return describe(s.Markup) }

func describe(percent *decimal.Decimal) string {
	if percent == nil {
		return ""
	}
	return Describe(*percent)
}
