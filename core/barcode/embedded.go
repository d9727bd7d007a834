package barcode

import (
	"strconv"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
)

// Embedded says how numbers of the shop's scales are built: an EAN-13 of prefix
// (two digits of 20 to 29), five digits for the item, five for the weight or the
// price and the check digit. Decimals is how many of the five stand behind the
// point (3 for grams of a kilogram, 2 for pence of a pound).
type Embedded struct {
	Prefix   string
	Decimals int32
}

// CheckEmbedded returns an error when a prefix can't be a scale's; own is the
// prefix of the shop's own numbers, which must be another. An empty prefix means
// that the shop has no such scale. The error is at the field.
func CheckEmbedded(field, prefix, own string) error {
	if prefix == "" {
		return nil
	}
	if len(prefix) != 2 || !Digits(prefix) || prefix[0] != '2' || prefix == own {
		return fault.Field(field, prefix, "20 to 29, not the prefix of the shop's own numbers",
			"The prefix %q can't be the scale's.", prefix)
	}
	return nil
}

// Split takes a scanned number apart: the item's number, with zeros for the
// weight or price, and the weight or price. It reports false for any other number.
func (e Embedded) Split(code string) (item string, amount decimal.Decimal, ok bool) {
	if e.Prefix == "" || len(code) != 13 || !Digits(code) || code[:2] != e.Prefix || CheckDigit(code[:12]) != code[12] {
		return "", decimal.Zero, false
	}
	n, err := strconv.ParseInt(code[7:12], 10, 64)
	if err != nil {
		return "", decimal.Zero, false
	}
	body := code[:7] + "00000"
	return body + string(CheckDigit(body)), decimal.New(n, -e.Decimals), true
}
