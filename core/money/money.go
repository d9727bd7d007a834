// Package money computes with amounts in the shop's currency. Its main rule:
// amounts are decimals rounded to the currency's minor unit half away from zero,
// and whatever is shared out adds up to what was shared.
package money

import (
	"sort"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/number"
)

// Currency is what the shop's prices are in. Minor is the number of decimals of
// its minor unit (2 for pence).
type Currency struct {
	Code   string
	Symbol string
	Minor  int32
}

// Currencies are those that a shop can keep its prices in: all have a minor unit
// of two decimals (ISO 4217).
var Currencies = []Currency{{"GBP", "£", 2}, {"EUR", "€", 2}, {"USD", "$", 2}, {"AUD", "A$", 2}, {"CAD", "C$", 2}, {"CHF", "CHF ", 2}, {"CZK", "Kč ", 2}, {"DKK", "kr ", 2}, {"HKD", "HK$", 2}, {"INR", "₹", 2},
	{"MXN", "MX$", 2}, {"NOK", "kr ", 2}, {"NZD", "NZ$", 2}, {"PLN", "zł ", 2}, {"RON", "lei ", 2}, {"SEK", "kr ", 2}, {"SGD", "S$", 2}, {"TRY", "₺", 2}, {"ZAR", "R ", 2}}

// CurrencyByCode finds a currency by its ISO 4217 code; the first for an unknown one.
func CurrencyByCode(code string) Currency {
	for _, c := range Currencies {
		if c.Code == code {
			return c
		}
	}
	return Currencies[0]
}

// Places is the number of decimals that amounts are kept to.
const Places = 2

// CostPlaces is the number of decimals that unit costs are kept to.
const CostPlaces = 6

// largest is the first amount that no field takes; it keeps DECIMAL(18,6) safe.
var largest = decimal.New(1, 9)

// Round rounds an amount to the minor unit, half away from zero.
func Round(amount decimal.Decimal) decimal.Decimal { return amount.Round(Places) }

// Parse reads an amount that a person typed, such as "34.95", "1,250.00" or "34,95". An
// amount finer than the minor unit, below zero or of a thousand million and more
// is an error that names the field.
func Parse(field, text string) (decimal.Decimal, error) { return parse(field, text, Places) }

// ParseCost reads a unit cost, which may have up to 6 decimals.
func ParseCost(field, text string) (decimal.Decimal, error) { return parse(field, text, CostPlaces) }

func parse(field, text string, places int32) (decimal.Decimal, error) {
	amount, ok := number.Parse(strings.Trim(strings.TrimSpace(text), "£€$ "))
	if !ok {
		return decimal.Zero, fault.Field(field, text, "an amount such as 34.95", "%q is not an amount.", text)
	}
	if err := Check(field, amount, places); err != nil {
		return decimal.Zero, err
	}
	return amount, nil
}

// Check says whether an amount can stand in a field: not below zero, not finer
// than so many places, below a thousand million.
func Check(field string, amount decimal.Decimal, places int32) error {
	switch {
	case amount.IsNegative():
		return fault.Field(field, amount, "zero or more", "An amount can't be below zero; it was %s.", amount)
	case !amount.Equal(amount.Round(places)):
		return fault.Field(field, amount, amount.StringFixed(places), "%s is finer than %d decimals.", amount, places)
	case amount.Cmp(largest) >= 0:
		return fault.Field(field, amount, "less than 1,000,000,000", "%s is more than any shop takes.", amount)
	}
	return nil
}

// Format writes an amount with the currency's symbol, grouped thousands and a
// true minus sign: "£1,785.60", "−£4.00".
func (c Currency) Format(amount decimal.Decimal) string {
	sign := ""
	if amount.IsNegative() {
		sign = "−"
	}
	return sign + c.Symbol + Group(amount.Abs().StringFixed(c.Minor))
}

// Group puts a comma between thousands of a plain decimal.
func Group(digits string) string {
	whole, frac, _ := strings.Cut(digits, ".")
	var b strings.Builder
	for i, r := range whole {
		if i > 0 && (len(whole)-i)%3 == 0 && whole[i-1] != '-' {
			b.WriteByte(',')
		}
		b.WriteRune(r)
	}
	if frac != "" {
		b.WriteString("." + frac)
	}
	return b.String()
}

// Split shares total over the weights in proportion, each share rounded to the
// minor unit, with largest remainders (the earlier line wins a tie), so that the
// shares add up to total exactly. Weights below zero count as zero; when all are
// zero the shares are even. The result has one share for each weight.
func Split(total decimal.Decimal, weights []decimal.Decimal) []decimal.Decimal {
	if len(weights) == 0 {
		return nil
	}
	sum := decimal.Zero
	use := make([]decimal.Decimal, len(weights))
	for i, w := range weights {
		if w.IsPositive() {
			use[i] = w
			sum = sum.Add(w)
		}
	}
	if sum.IsZero() {
		for i := range use {
			use[i] = decimal.New(1, 0)
		}
		sum = decimal.New(int64(len(use)), 0)
	}
	unit := decimal.New(1, -Places)
	size := total.Abs()
	shares := make([]decimal.Decimal, len(use))
	remainders := make([]decimal.Decimal, len(use))
	left := size
	for i, w := range use {
		// whole minor units and what is left over, compared as numerators over sum
		numerator := size.Mul(w)
		quotient, remainder := numerator.QuoRem(sum, Places)
		shares[i], remainders[i] = quotient, remainder
		left = left.Sub(quotient)
	}
	order := make([]int, len(use))
	for i := range order {
		order[i] = i
	}
	sort.SliceStable(order, func(a, b int) bool { return remainders[order[a]].GreaterThan(remainders[order[b]]) })
	for i := 0; left.IsPositive(); i = (i + 1) % len(order) {
		shares[order[i]] = shares[order[i]].Add(unit)
		left = left.Sub(unit)
	}
	if total.IsNegative() {
		for i := range shares {
			shares[i] = shares[i].Neg()
		}
	}
	return shares
}

// Part is what the next q of sold units carry of an amount when before units and
// already money of it have gone: round(amount × (before + q) ÷ sold) − already.
// Taken for all sold units, in any steps, the parts add up to the amount.
func Part(amount, already, before, q, sold decimal.Decimal) decimal.Decimal {
	return amount.Mul(before.Add(q)).DivRound(sold, Places).Sub(already)
}
