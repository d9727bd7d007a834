// Package unit knows the units that stock is kept in. Its main rule: a quantity
// finer than its unit allows is an error, never a rounding.
package unit

import (
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/number"
)

// Unit is a base unit: its name and how many decimals a quantity of it may have.
type Unit struct {
	Code     string `json:"code"`
	Name     string `json:"name"`
	Decimals int32  `json:"decimals"`
}

// The units a product can be kept in.
var (
	Piece    = Unit{Code: "pc", Name: "piece", Decimals: 0}
	Metre    = Unit{Code: "m", Name: "metre", Decimals: 2}
	Kilogram = Unit{Code: "kg", Name: "kilogram", Decimals: 3}
)

// All lists the units in the order they are offered.
var All = []Unit{Piece, Metre, Kilogram}

// ByCode finds a unit by its code or name; an empty text is Piece.
func ByCode(text string) (Unit, error) {
	text = strings.ToLower(strings.TrimSpace(text))
	if text == "" {
		return Piece, nil
	}
	for _, u := range All {
		if text == u.Code || text == u.Name {
			return u, nil
		}
	}
	return Unit{}, fault.Field("unit", text, "piece, metre or kilogram", "There is no unit %q.", text)
}

// Kilos is what one unit weighs: what is kept in kilograms weighs what it counts, anything
// else what was noted, nil while nobody did.
func Kilos(code string, noted *decimal.Decimal) *decimal.Decimal {
	if code == Kilogram.Code {
		one := decimal.New(1, 0)
		return &one
	}
	return noted
}

// most is the first quantity that no field takes.
var most = decimal.New(1, 7)

// Check says whether q can be a quantity of this unit: not below zero, not finer
// than the unit, less than ten million.
func (u Unit) Check(field string, q decimal.Decimal) error {
	switch {
	case q.IsNegative():
		return fault.Field(field, q, "zero or more", "A quantity can't be below zero; it was %s.", q)
	case !q.Equal(q.Round(u.Decimals)) && u.Decimals == 0:
		return fault.Field(field, q, "a whole number",
			"%s of something kept in %ss is not possible: it takes whole numbers.", q, u.Name)
	case !q.Equal(q.Round(u.Decimals)):
		return fault.Field(field, q, q.StringFixed(u.Decimals), "%s %s is finer than the %d decimals it is kept in.", q,
			u.Code, u.Decimals)
	case q.Cmp(most) >= 0:
		return fault.Field(field, q, "less than 10,000,000",
			"%s is more than a shop can hold. Was a barcode scanned into the quantity?", q)
	}
	return nil
}

// Parse reads a quantity that a person typed: "40", or packs and loose units, as
// in "3 x 12 + 4".
func (u Unit) Parse(field, text string) (decimal.Decimal, error) {
	q, ok := number.Parse(text)
	if err := number.Asks(field, text, u.Decimals); err != nil {
		return decimal.Zero, err
	}
	if !ok {
		q, ok = packed(text)
	}
	if !ok {
		return decimal.Zero, fault.Field(field, text, "a quantity such as 12, or 3 x 12 + 4", "%q is not a quantity.",
			text)
	}
	return q, u.Check(field, q)
}

// longest bounds how many characters a quantity may have.
const longest = 60

var signs = strings.NewReplacer("X", "x", "×", "x", "*", "x")

// packed adds up packs and loose units, each zero or more.
func packed(text string) (sum decimal.Decimal, ok bool) {
	if len(text) > longest {
		return sum, false
	}
	for term := range strings.SplitSeq(signs.Replace(text), "+") {
		product := decimal.New(1, 0)
		for factor := range strings.SplitSeq(term, "x") {
			n, ok := number.Parse(factor)
			if !ok || n.IsNegative() {
				return decimal.Zero, false
			}
			product = product.Mul(n)
		}
		sum = sum.Add(product)
	}
	return sum, true
}

// Format writes a quantity with a true minus sign and the unit's decimals.
func (u Unit) Format(q decimal.Decimal) string {
	return strings.Replace(q.StringFixed(u.Decimals), "-", "−", 1)
}
