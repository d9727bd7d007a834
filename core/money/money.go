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

// Minor is the smallest unit of a currency, in which amounts are kept. The zero value
// is a hundredth, as most currencies have it.
type Minor int8

// The minor units that there are (ISO 4217).
const (
	Whole      Minor = -2
	Hundredth  Minor = 0
	Thousandth Minor = 1
)

// Places is how many decimals an amount has: 0, 2 or 3.
func (m Minor) Places() int32 { return int32(m) + 2 }

// Currency is what the shop's prices are in.
type Currency struct {
	Code   string `json:"code"` // ISO 4217
	Symbol string `json:"symbol"`
	Minor  Minor  `json:"-"`
	pieces []decimal.Decimal
}

// CostPlaces is the number of decimals that unit costs are kept to.
const CostPlaces = 6

// largest is the first amount that no field takes; it keeps DECIMAL(18,6) safe.
var largest = decimal.New(1, 9)

// Smallest is the smallest sum of the currency.
func (m Minor) Smallest() decimal.Decimal { return decimal.New(1, -m.Places()) }

// Round rounds an amount to the minor unit, half away from zero.
func (m Minor) Round(amount decimal.Decimal) decimal.Decimal { return amount.Round(m.Places()) }

// Less is an amount less so many percent of it, rounded half away from zero to the smallest amount.
func (m Minor) Less(amount, percent decimal.Decimal) decimal.Decimal {
	hundred := decimal.New(100, 0)
	return m.Round(amount.Mul(hundred.Sub(percent)).Div(hundred))
}

// Text writes an amount with all its decimals and no symbol: "34.95", "1200".
func (m Minor) Text(amount decimal.Decimal) string { return amount.StringFixed(m.Places()) }

// Parse reads an amount that a person typed, such as "34.95", "1,250.00" or "34,95". An
// amount finer than the minor unit, below zero or of a thousand million and more
// is an error that names the field.
func (m Minor) Parse(field, text string) (decimal.Decimal, error) {
	return parse(field, text, m.Places())
}

// Check says whether an amount can stand in a field: not below zero, not finer than
// the minor unit, below a thousand million.
func (m Minor) Check(field string, amount decimal.Decimal) error {
	return Check(field, amount, m.Places())
}

// ParseCost reads a unit cost, which may have up to 6 decimals.
func ParseCost(field, text string) (decimal.Decimal, error) { return parse(field, text, CostPlaces) }

func parse(field, text string, places int32) (decimal.Decimal, error) {
	text = strings.Trim(strings.TrimSpace(text), "£€$¥ ")
	amount, ok := number.Parse(text)
	if err := number.Asks(field, text, places); err != nil {
		return decimal.Zero, err
	}
	if !ok {
		return decimal.Zero, fault.Field(field, text,
			"an amount such as "+decimal.New(3495, -2).StringFixed(min(places, 2)), "%q is not an amount.", text)
	}
	if err := Check(field, amount, places); err != nil {
		return decimal.Zero, err
	}
	return amount, nil
}

// Check says whether a figure can stand in a field: not below zero, not finer
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
	return sign + c.Symbol + Group(c.Minor.Text(amount.Abs()))
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
func (m Minor) Split(total decimal.Decimal, weights []decimal.Decimal) []decimal.Decimal {
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
	unit := decimal.New(1, -m.Places())
	size := total.Abs()
	shares := make([]decimal.Decimal, len(use))
	remainders := make([]decimal.Decimal, len(use))
	left := size
	for i, w := range use {
		// whole minor units and what is left over, compared as numerators over sum
		numerator := size.Mul(w)
		quotient, remainder := numerator.QuoRem(sum, m.Places())
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
func (m Minor) Part(amount, already, before, q, sold decimal.Decimal) decimal.Decimal {
	return amount.Mul(before.Add(q)).DivRound(sold, m.Places()).Sub(already)
}
