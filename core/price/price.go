// Package price finds what a variant sells for and what that leaves. Its main
// rule: a variant's own price goes before its product's, and of several with a
// from moment the latest that has begun counts.
package price

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/tax"
)

// Dated is a price in force from a moment on; prices include tax.
type Dated struct {
	From   time.Time
	Amount decimal.Decimal
}

// Source says where a price comes from.
type Source string

// Where a price can come from.
const (
	OwnPrice     Source = "own price"
	ProductPrice Source = "product's price"
	NoPrice      Source = "no price"
)

// At finds the price in force at a moment among a variant's own prices and its
// product's.
func At(own, product []Dated, moment time.Time) (decimal.Decimal, Source) {
	if amount, ok := latest(own, moment); ok {
		return amount, OwnPrice
	}
	if amount, ok := latest(product, moment); ok {
		return amount, ProductPrice
	}
	return decimal.Zero, NoPrice
}

func latest(prices []Dated, moment time.Time) (decimal.Decimal, bool) {
	var best *Dated
	for i, p := range prices {
		if !p.From.After(moment) && (best == nil || !p.From.Before(best.From)) {
			best = &prices[i]
		}
	}
	if best == nil {
		return decimal.Zero, false
	}
	return best.Amount, true
}

// Net takes the included tax off a price, rounded to the minor unit.
func Net(gross, percent decimal.Decimal) decimal.Decimal {
	return gross.Sub(tax.Included(gross, percent))
}

// Margin is (net price − cost) ÷ net price in percent, to one decimal, and
// whether there is one: without a price there is none.
func Margin(net, cost decimal.Decimal) (decimal.Decimal, bool) {
	if !net.IsPositive() {
		return decimal.Zero, false
	}
	return net.Sub(cost).Mul(decimal.New(100, 0)).DivRound(net, 1), true
}
