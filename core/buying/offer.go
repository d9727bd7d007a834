package buying

import (
	"fmt"

	"github.com/shopspring/decimal"

	"itemrack/core/money"
)

// Offer is what a supplier asks for a pack of Factor units, net of tax and before Discount
// percent. Pack is its name, empty for single units; Price is nil while nobody knows.
type Offer struct {
	Pack     string
	Factor   decimal.Decimal
	Price    *decimal.Decimal
	Discount decimal.Decimal
}

// Single is the pack of one.
func Single() Offer { return Offer{Factor: decimal.New(1, 0)} }

// Propose is the offer that a new line of an order begins with: what the supplier asked
// the last time; else the pack that the goods are bought in, at what a unit is expected to
// cost, less the supplier's usual discount, or so that it costs less the discount what it
// did cost the last time.
func Propose(before *Offer, bought Offer, expected, last *decimal.Decimal, terms SupplierTerms) Offer {
	if before != nil {
		return *before
	}
	bought.Discount = terms.Discount
	pack := func(unit decimal.Decimal) *decimal.Decimal {
		price := unit.Mul(bought.Factor).Round(money.CostPlaces)
		return &price
	}
	switch {
	case expected != nil && expected.IsPositive():
		bought.Price = pack(*expected)
	case last != nil && last.IsPositive() && terms.Discount.LessThan(hundred):
		bought.Price = pack(last.Mul(hundred).DivRound(hundred.Sub(terms.Discount), 2*money.CostPlaces))
	}
	return bought
}

// Repack is the offer for another pack: at the same price of a unit.
func (o Offer) Repack(name string, factor decimal.Decimal) Offer {
	if o.Price != nil && o.Factor.IsPositive() && factor.IsPositive() {
		price := o.Price.Mul(factor).DivRound(o.Factor, money.CostPlaces)
		o.Price = &price
	}
	o.Pack, o.Factor = name, factor
	return o
}

// Change says in words what became of a line of a placed order; empty where nothing did.
// Quantities are written by their unit.
func Change(name string, from, to Ordered, quantity func(decimal.Decimal) string) string {
	switch {
	case !from.Quantity.Equal(to.Quantity) && from.Quantity.IsZero():
		return fmt.Sprintf("%s %s new", name, quantity(to.Quantity))
	case !from.Quantity.Equal(to.Quantity):
		return fmt.Sprintf("%s %s → %s", name, quantity(from.Quantity), quantity(to.Quantity))
	case !from.Price.Equal(to.Price) || !from.Discount.Equal(to.Discount) || !from.Factor.Equal(to.Factor):
		return fmt.Sprintf("%s %s less %s %% → %s less %s %%", name, from.Price, from.Discount, to.Price, to.Discount)
	}
	return ""
}
