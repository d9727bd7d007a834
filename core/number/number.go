// Package number reads decimal numbers as people write them.
package number

import (
	"regexp"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
)

var (
	plain   = regexp.MustCompile(`^[+-]?(\d+\.?\d*|\.\d+)$`)
	grouped = regexp.MustCompile(`^[+-]?[1-9]\d{0,2}(,\d{3})+(\.\d*)?$`)
	comma   = regexp.MustCompile(`^[+-]?\d*,\d+$`)
	pointed = regexp.MustCompile(`^[+-]?[1-9]\d{0,2}(\.\d{3})+,\d*$|^[+-]?[1-9]\d{0,2}(\.\d{3}){2,}$`)
	twoWays = regexp.MustCompile(`^[+-]?[1-9]\d{0,2},\d{3}$`)
	local   = regexp.MustCompile(`^[+-]?(\d+|[1-9]\d{0,2}(\.\d{3})+),\d+$|^[+-]?[1-9]\d{0,2}(\.\d{3}){2,}$`)
)

// Most bounds how many characters a number may have.
const Most = 30

// Parse reads a number: "34.95", "1,250.00", "1.250,00", "12,95". Marks before groups of
// three digits are group marks, where the other mark or another group stands there, too; a single comma before three
// digits is one, see TwoWays; a single other one is the decimal mark. It is
// false where the text is anything else: "1.2.3", "1,25,0", "1e9", "12 x".
func Parse(text string) (decimal.Decimal, bool) {
	text = strings.Replace(strings.TrimSpace(text), "−", "-", 1)
	switch {
	case len(text) > Most:
		return decimal.Zero, false
	case plain.MatchString(text):
	case pointed.MatchString(text):
		text = strings.Replace(strings.ReplaceAll(text, ".", ""), ",", ".", 1)
	case grouped.MatchString(text):
		text = strings.ReplaceAll(text, ",", "")
	case comma.MatchString(text):
		text = strings.Replace(text, ",", ".", 1)
	default:
		return decimal.Zero, false
	}
	d, err := decimal.NewFromString(strings.TrimSuffix(text, "."))
	return d, err == nil
}

// TwoWays are both readings of a number that a person typed, where it has two: "1,250" is 1250 or 1.25 in what has so
// many decimals. What has fewer than the second reading has can only be the first.
func TwoWays(text string, decimals int32) (grouped, decimal string, both bool) {
	text = strings.Replace(strings.TrimSpace(text), "−", "-", 1)
	if decimals <= 0 || !twoWays.MatchString(text) {
		return "", "", false
	}
	d, ok := Parse(strings.Replace(text, ",", ".", 1))
	if !ok || !d.Equal(d.Round(decimals)) {
		return "", "", false
	}
	return strings.Replace(text, ",", "", 1), d.String(), true
}

// Asks refuses a number that reads two ways, and names both.
func Asks(field, text string, decimals int32) error {
	grouped, decimal, both := TwoWays(text, decimals)
	if !both {
		return nil
	}
	return fault.Field(field, text, grouped+" or "+decimal, "%s can be read as %s or as %s.", text, grouped, decimal)
}

// InFile is a number as a file has it, of which the marks are known: a comma groups, or is the decimal mark.
func InFile(text string, comma bool) string {
	if comma {
		return Local(text)
	}
	if twoWays.MatchString(strings.TrimSpace(text)) {
		return strings.Replace(text, ",", "", 1)
	}
	return text
}

// Local turns a number from where the comma is the decimal mark and the point
// groups, "1.250,50" or "5,125", into one for Parse; other text stays.
func Local(text string) string {
	if !local.MatchString(text) {
		return text
	}
	return strings.Replace(strings.ReplaceAll(text, ".", ""), ",", ".", 1)
}

// Optional reads a figure that may be left empty.
func Optional(field, text string, parse func(field, text string) (decimal.Decimal, error)) (*decimal.Decimal, error) {
	if strings.TrimSpace(text) == "" {
		return nil, nil
	}
	amount, err := parse(field, text)
	return &amount, err
}

// Said writes a figure as it is typed, empty for zero.
func Said(d decimal.Decimal) string {
	if d.IsZero() {
		return ""
	}
	return d.String()
}

// OrZero is a figure that may be missing.
func OrZero(d *decimal.Decimal) decimal.Decimal {
	if d == nil {
		return decimal.Zero
	}
	return *d
}
