package tax

import (
	"github.com/shopspring/decimal"

	"itemrack/core/money"
)

// Basis says whether prices are kept with tax in them or without.
type Basis bool

// The two ways to keep prices.
const (
	With    Basis = true
	Without Basis = false
)

// Net is a price without its tax.
func (b Basis) Net(price, percent decimal.Decimal, minor money.Minor) decimal.Decimal {
	if b == Without {
		return price
	}
	return price.Sub(Included(price, percent, minor))
}

// Tax is the tax on or in the amount of a line, rounded per line.
func (b Basis) Tax(amount, percent decimal.Decimal, minor money.Minor) decimal.Decimal {
	if b == Without {
		return On(amount, percent, minor)
	}
	return Included(amount, percent, minor)
}

// Gross is what a customer pays for a line of an amount.
func (b Basis) Gross(amount, percent decimal.Decimal, minor money.Minor) decimal.Decimal {
	if b == Without {
		return amount.Add(On(amount, percent, minor))
	}
	return amount
}

// Price is the price, as it is kept, that leaves net. It is not rounded.
func (b Basis) Price(net, percent decimal.Decimal) decimal.Decimal {
	if b == Without {
		return net
	}
	return net.Mul(hundred.Add(percent)).Div(hundred)
}

// String says how prices are kept: "with tax" or "without tax".
func (b Basis) String() string {
	if b == Without {
		return "without tax"
	}
	return "with tax"
}
