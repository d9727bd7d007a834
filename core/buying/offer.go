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

// Each is the price of one unit, before the discount; zero while nobody knows.
func (o Offer) Each() decimal.Decimal {
	if o.Price == nil || !o.Factor.IsPositive() {
		return decimal.Zero
	}
	return o.Price.DivRound(o.Factor, money.CostPlaces)
}

// Propose is the offer that a new line of an order begins with: what the supplier asked
// the last time; else, for the pack that the goods are bought in, the price that with the
// supplier's discount and usual freight makes what a unit is expected to cost, or did cost the
// last time.
func Propose(before *Offer, bought Offer, expected, last *decimal.Decimal, terms SupplierTerms,
	minor money.Minor) Offer {
	if before != nil {
		return *before
	}
	bought.Discount = terms.Discount
	for _, cost := range []*decimal.Decimal{expected, last} {
		if cost != nil && cost.IsPositive() {
			price := terms.Listed(*cost).Mul(bought.Factor).Round(money.CostPlaces)
			if price.GreaterThan(decimal.New(1, 0)) { // as suppliers write it
				price = minor.Round(price)
			}
			bought.Price = &price
			break
		}
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

// Change says in words what became of a line of a placed order, and, apart for those who may see
// costs, of what it costs; empty where nothing did. Quantities are written by their unit.
func Change(name string, from, to Ordered, quantity func(decimal.Decimal) string) (said, costs string) {
	switch {
	case from.Quantity.Equal(to.Quantity):
	case from.Quantity.IsZero():
		said = fmt.Sprintf("%s %s new", name, quantity(to.Quantity))
	default:
		said = fmt.Sprintf("%s %s → %s", name, quantity(from.Quantity), quantity(to.Quantity))
	}
	known := from.Quantity.IsPositive() && to.Quantity.IsPositive() // what is new or gone changes no cost
	if known && (!from.Price.Equal(to.Price) || !from.Discount.Equal(to.Discount) || !from.Factor.Equal(to.Factor)) {
		costs = fmt.Sprintf("%s %s less %s %% → %s less %s %%", name, from.Price, from.Discount, to.Price, to.Discount)
	}
	return said, costs
}
