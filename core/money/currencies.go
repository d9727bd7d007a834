package money

import (
	"slices"
	"strings"

	"github.com/shopspring/decimal"
)

// Currencies are those that a shop can keep its prices in (ISO 4217), each with the
// coins and notes that are in its drawers.
var Currencies = []Currency{cash("GBP", "£", Hundredth, "50 20 10 5 2 1 0.50 0.20 0.10 0.05 0.02 0.01"),
	cash("EUR", "€", Hundredth, "500 200 100 50 20 10 5 2 1 0.50 0.20 0.10 0.05 0.02 0.01"),
	cash("USD", "$", Hundredth, "100 50 20 10 5 2 1 0.50 0.25 0.10 0.05 0.01"),
	cash("AUD", "A$", Hundredth, "100 50 20 10 5 2 1 0.50 0.20 0.10 0.05"),
	cash("BHD", "BD ", Thousandth, "20 10 5 1 0.500 0.100 0.050 0.025 0.010 0.005"),
	cash("CAD", "C$", Hundredth, "100 50 20 10 5 2 1 0.25 0.10 0.05"),
	cash("CHF", "CHF ", Hundredth, "1000 200 100 50 20 10 5 2 1 0.50 0.20 0.10 0.05"),
	cash("CLP", "CLP$", Whole, "20000 10000 5000 2000 1000 500 100 50 10"),
	cash("CZK", "Kč ", Hundredth, "5000 2000 1000 500 200 100 50 20 10 5 2 1"),
	cash("DKK", "kr ", Hundredth, "1000 500 200 100 50 20 10 5 2 1 0.50"),
	cash("HKD", "HK$", Hundredth, "1000 500 100 50 20 10 5 2 1 0.50 0.20 0.10"),
	cash("INR", "₹", Hundredth, "500 200 100 50 20 10 5 2 1"),
	cash("ISK", "Íkr ", Whole, "10000 5000 2000 1000 500 100 50 10 5 1"),
	cash("JOD", "JD ", Thousandth, "50 20 10 5 1 0.500 0.250 0.100 0.050"),
	cash("JPY", "¥", Whole, "10000 5000 2000 1000 500 100 50 10 5 1"),
	cash("KRW", "₩", Whole, "50000 10000 5000 1000 500 100 50 10"),
	cash("KWD", "KD ", Thousandth, "20 10 5 1 0.500 0.250 0.100 0.050 0.020 0.010 0.005"),
	cash("MXN", "MX$", Hundredth, "1000 500 200 100 50 20 10 5 2 1 0.50"),
	cash("NOK", "kr ", Hundredth, "1000 500 200 100 50 20 10 5 1"),
	cash("NZD", "NZ$", Hundredth, "100 50 20 10 5 2 1 0.50 0.20 0.10"),
	cash("OMR", "OMR ", Thousandth, "50 20 10 5 1 0.500 0.100 0.050 0.025 0.010 0.005"),
	cash("PLN", "zł ", Hundredth, "500 200 100 50 20 10 5 2 1 0.50 0.20 0.10 0.05 0.02 0.01"),
	cash("RON", "lei ", Hundredth, "500 200 100 50 20 10 5 1 0.50 0.10 0.05 0.01"),
	cash("SEK", "kr ", Hundredth, "1000 500 200 100 50 20 10 5 2 1"),
	cash("SGD", "S$", Hundredth, "1000 100 50 10 5 2 1 0.50 0.20 0.10 0.05"),
	cash("TND", "DT ", Thousandth, "50 20 10 5 2 1 0.500 0.200 0.100 0.050 0.020 0.010"),
	cash("TRY", "₺", Hundredth, "200 100 50 20 10 5 1 0.50 0.25 0.10 0.05"),
	cash("VND", "₫", Whole, "500000 200000 100000 50000 20000 10000 5000 2000 1000"),
	cash("ZAR", "R ", Hundredth, "200 100 50 20 10 5 2 1 0.50 0.20 0.10")}

// cash makes a currency with its coins and notes, the largest first.
func cash(code, symbol string, minor Minor, pieces string) Currency {
	c := Currency{Code: code, Symbol: symbol, Minor: minor}
	for _, p := range strings.Fields(pieces) {
		c.pieces = append(c.pieces, decimal.RequireFromString(p))
	}
	return c
}

// Pieces are the coins and notes of the currency, the largest first.
func (c Currency) Pieces() []decimal.Decimal { return slices.Clone(c.pieces) }

// CurrencyByCode finds a currency by its ISO 4217 code; the first for an unknown one.
func CurrencyByCode(code string) Currency {
	for _, c := range Currencies {
		if c.Code == code {
			return c
		}
	}
	return Currencies[0]
}

// most is how many notes are offered for a total.
const most = 4

// Notes are the amounts in cash that a customer is likely to hand over for a total,
// the least first: the total itself, and the next full amounts in the notes that the
// currency has.
func (c Currency) Notes(total decimal.Decimal) []decimal.Decimal {
	if !total.IsPositive() {
		return nil
	}
	offers := []decimal.Decimal{total}
	for _, p := range slices.Backward(c.pieces) {
		if full := total.Div(p).Ceil().Mul(p); p.GreaterThan(total.Div(decimal.New(20, 0))) &&
			full.GreaterThan(offers[len(offers)-1]) {
			offers = append(offers, full)
		}
	}
	return offers[:min(len(offers), most+1)]
}
