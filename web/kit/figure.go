package kit

import (
	"github.com/shopspring/decimal"

	"itemrack/core/money"
)

// Figure is a number with its name; Explain is the address that says what it is
// made of. One without an amount is left out.
type Figure struct {
	Amount, Name, Explain, Low string
}

// Money is a figure that is an amount.
func (c *Call) Money(amount decimal.Decimal, name string) Figure {
	return Figure{Amount: c.Shop.Currency.Format(amount), Name: name}
}

// Cost is a figure that is a unit cost, to 2 or 4 decimals.
func (c *Call) Cost(amount decimal.Decimal, name string) Figure {
	return Figure{Amount: c.Shop.Currency.Symbol + amount.StringFixed(CostPlaces(amount)), Name: name}
}

// CostText is a cost as it is typed: all its digits, two decimals at least.
func CostText(cost decimal.Decimal) string {
	places := int32(2)
	for places < money.CostPlaces && !cost.Equal(cost.Round(places)) {
		places++
	}
	return cost.StringFixed(places)
}
