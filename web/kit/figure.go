package kit

import (
	"github.com/shopspring/decimal"

	"itemrack/core/money"
	"itemrack/core/staff"
)

// Figure is a number with its name; Explain is the address that says what it is
// made of. One without an amount is left out.
type Figure struct {
	Amount, Name, Explain, Low string
}

// Money is a figure that is an amount.
func (c *Call) Money(amount decimal.Decimal, name string) Figure {
	return Figure{Amount: c.Terms.Currency.Format(amount), Name: name}
}

// Worth is a figure that is an amount at cost; none for those who may not see costs.
func (c *Call) Worth(amount decimal.Decimal, name string) Figure {
	if !c.Who.Can(staff.DeedCosts) {
		return Figure{}
	}
	return c.Money(amount, name)
}

// Cost is a figure that is a unit cost; none for those who may not see costs.
func (c *Call) Cost(amount decimal.Decimal, name string) Figure {
	if !c.Who.Can(staff.DeedCosts) {
		return Figure{}
	}
	return Figure{Amount: costFigure(amount, c.Terms.Currency), Name: name}
}

// costFigure is a unit cost to look at: with two decimals more than the currency's at most.
func costFigure(cost decimal.Decimal, currency money.Currency) string {
	return currency.Symbol + CostText(cost.Round(currency.Minor.Places()+2), currency.Minor)
}

// CostText is a cost with all its digits, and those of the currency at least.
func CostText(cost decimal.Decimal, minor money.Minor) string {
	places := minor.Places()
	for places < money.CostPlaces && !cost.Equal(cost.Round(places)) {
		places++
	}
	return cost.StringFixed(places)
}
