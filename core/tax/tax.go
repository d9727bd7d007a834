// Package tax knows tax classes and what of a price is tax. Its main rule: tax
// is rounded per line, and a receipt's tax is the sum of its lines'.
package tax

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/money"
)

// Rate is a percentage in force from a moment on.
type Rate struct {
	From    time.Time       `json:"from"`
	Percent decimal.Decimal `json:"percent"`
}

// Class groups what is taxed alike. Rates are in order of From.
type Class struct {
	ID    uint64 `json:"id"`
	Name  string `json:"name"`
	Rates []Rate `json:"rates"`
}

// At returns the percentage in force at a moment; zero before the first rate.
func (c Class) At(moment time.Time) decimal.Decimal {
	percent := decimal.Zero
	for _, r := range c.Rates {
		if r.From.After(moment) {
			break
		}
		percent = r.Percent
	}
	return percent
}

var hundred = decimal.New(100, 0)

// Included is the tax inside a gross amount: gross − gross ÷ (1 + rate),
// rounded to the minor unit. Percent 20 stands for 20 %.
func Included(gross, percent decimal.Decimal, minor money.Minor) decimal.Decimal {
	net := gross.Mul(hundred).DivRound(hundred.Add(percent), minor.Places()+10)
	return minor.Round(gross.Sub(net))
}

// On is the tax added to a net amount, rounded to the minor unit.
func On(net, percent decimal.Decimal, minor money.Minor) decimal.Decimal {
	return minor.Round(net.Mul(percent).Div(hundred))
}

// Percents are the rates of some classes at a moment, by the numbers of the classes.
func Percents(classes []Class, at time.Time) map[uint64]decimal.Decimal {
	rates := make(map[uint64]decimal.Decimal, len(classes))
	for _, c := range classes {
		rates[c.ID] = c.At(at)
	}
	return rates
}
