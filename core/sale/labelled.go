package sale

import (
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/unit"
)

// Labelled reads a label that says what a thing costs: amount is what the customer
// pays, price what one unit of it costs on the list. It returns the quantity, in
// the unit's decimals, and the unit price at which the line comes to the amount
// exactly: that of the list where it does. Something kept in pieces is one piece
// at the amount. The error is at the code.
func Labelled(amount, price decimal.Decimal, u unit.Unit,
	minor money.Minor) (quantity, each decimal.Decimal, err error) {
	if !amount.IsPositive() {
		return quantity, each, fault.Field("code", amount, "a price above 0", "The label says %s.", minor.Text(amount))
	}
	if u.Decimals == 0 {
		return decimal.New(1, 0), amount, nil
	}
	if !price.IsPositive() {
		return quantity, each, fault.Refuse("code", amount, "a price for each "+u.Name,
			"What a %s costs is not known, so how much this is is not.", u.Name)
	}
	exact := func(q, p decimal.Decimal) bool {
		return q.IsPositive() && p.IsPositive() && Line{Quantity: q, Price: p, Minor: minor}.Total().Equal(amount)
	}
	near := amount.DivRound(price, u.Decimals)
	if exact(near, price) {
		return near, price, nil
	}
	for step := range int64(1000) { // the quantity nearest to it at which some price fits
		for _, q := range []decimal.Decimal{near.Add(decimal.New(step, -u.Decimals)),
			near.Sub(decimal.New(step, -u.Decimals))} {
			if q.IsPositive() {
				if p := amount.DivRound(q, minor.Places()); exact(q, p) {
					return q, p, nil
				}
			}
		}
	}
	return quantity, each, fault.Field("code", amount, "a price that fits the weight",
		"No weight comes to %s at %s for each %s.", minor.Text(amount), minor.Text(price), u.Name)
}
