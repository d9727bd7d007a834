// Package scan says what a code means that was scanned or typed: how many, of what, of
// which lot, with which number. Its main rule: a code is looked up whole, in one order;
// what no way finds is words.
package scan

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"
	"unicode"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/serial"
	"itemrack/core/text"
)

// Longest is how many characters a code or words to search for have at most.
const Longest = 120

// Asked is a scan without the number beside it: "12 x 2000000000015", and "2000000000015 x 12", ask for twelve of
// 2000000000015; "12 x" alone, without a code, for twelve of what was scanned before. Times is the number as it was
// typed, empty for none; Each is it, or 1.
type Asked struct {
	Code  string
	Times string
	Each  decimal.Decimal
}

// Alone reports whether a number stands alone: for what was scanned before.
func (a Asked) Alone() bool { return a.Code == "" && a.Times != "" }

// figure is a number beside a times sign.
const figure = `\d{1,6}(?:[.,]\d{1,3})?`

var (
	times = regexp.MustCompile(`^(` + figure + `)\s*[xX×*]\s*(\S.*)?$`)
	after = regexp.MustCompile(`^(\S.*?)?\s+[xX×*]\s*(` + figure + `)$|^[xX×*]\s+(` + figure + `)$`)
)

// Read takes a scan apart at its times sign. Signs that nobody sees are not of the code.
func Read(scanned string) (Asked, error) {
	a := Asked{Code: strings.TrimSpace(strings.Map(seen, scanned)), Each: decimal.New(1, 0)}
	if m := times.FindStringSubmatch(a.Code); m != nil {
		a.Times, a.Code = m[1], m[2]
	} else if m := after.FindStringSubmatch(a.Code); m != nil {
		a.Code, a.Times = m[1], m[2]+m[3]
	} else {
		return a, nil
	}
	if err := number.Asks("code", a.Times, 3); err != nil {
		return a, err
	}
	each, ok := number.Parse(a.Times)
	if !ok {
		return a, fault.Field("code", scanned, "a number before the times sign", "%q is not a number.", a.Times)
	}
	a.Each = each
	return a, nil
}

// seen drops what nobody sees of a scan, but for the separators of element strings.
func seen(r rune) rune {
	if unicode.Is(unicode.Cf, r) || r == '\u2800' || r == '\u3164' {
		return -1
	}
	return r
}

// By is what a code is looked up as.
type By string

// What a code can be.
const (
	ByCode     By = "code" // a barcode or SKU: they are one name space
	BySerial   By = "serial number"
	ByShelf    By = "shelf"
	ByDocument By = "document"
	ByLabel    By = "label" // of a variant in a condition
)

// Try is one way to look a code up, and what the code says besides: lot, expiry and
// serial number of an element string, weight or price of a scale's label.
type Try struct {
	By     By
	Key    string
	Lot    string
	Expiry time.Time
	Serial string
	Weight *decimal.Decimal
	Amount *decimal.Decimal
	// Condition is the number in the database of the condition that a label says.
	Condition uint64
}

// Scales are the prefixes of the numbers that the shop's scales print, with a weight
// and with a price; empty for none.
type Scales struct {
	Weight, Price string
	Minor         money.Minor
}

// weightDecimals is how many of the digits of a weight stand behind the mark.
const weightDecimals = 3

// Tries are the ways to look a code up, the first to be found being meant: a barcode or
// SKU, a serial number; the item of an element string; that of a scale's label; a
// shelf; a document. Texts too long for a code have none.
func Tries(code string, scales Scales) []Try {
	code = strings.TrimSpace(code)
	if code == "" || text.Len(code) > Longest {
		return nil
	}
	tries := []Try{{By: ByCode, Key: barcode.Key(code)}, {By: BySerial, Key: serial.Normal(code)}}
	if barcode.IsElements(code) {
		if e, err := barcode.ParseElements(code); err == nil && e.GTIN != "" {
			tries = append(
				tries,
				Try{
					By:     ByCode,
					Key:    barcode.Key(e.GTIN),
					Lot:    e.Lot,
					Expiry: e.Expiry,
					Serial: serial.Normal(e.Serial),
				},
			)
		}
	}
	if item, weight, ok := (barcode.Embedded{Prefix: scales.Weight, Decimals: weightDecimals}).Split(code); ok {
		tries = append(tries, Try{By: ByCode, Key: barcode.Key(item), Weight: &weight})
	}
	if item, amount, ok := (barcode.Embedded{Prefix: scales.Price, Decimals: scales.Minor.Places()}).Split(code); ok {
		tries = append(tries, Try{By: ByCode, Key: barcode.Key(item), Amount: &amount})
	}
	if id, ok := Shelf(code); ok {
		tries = append(tries, Try{By: ByShelf, Key: strconv.FormatUint(id, 10)})
	}
	if variant, condition, ok := Condition(code); ok {
		tries = append(tries, Try{By: ByLabel, Key: strconv.FormatUint(variant, 10), Condition: condition})
	}
	return append(tries, Try{By: ByDocument, Key: Document(code)})
}

// ConditionCode is the code on a label of a variant in a condition, both by their numbers in the database:
// VC-0017-2.
func ConditionCode(variant, condition uint64) string {
	return fmt.Sprintf("VC-%04d-%d", variant, condition)
}

var inCondition = regexp.MustCompile(`^(?i)VC-(\d{1,18})-(\d{1,18})$`)

// Condition reads the code on a label of a variant in a condition.
func Condition(code string) (variant, condition uint64, ok bool) {
	m := inCondition.FindStringSubmatch(strings.TrimSpace(code))
	if m == nil {
		return 0, 0, false
	}
	variant, wrong := strconv.ParseUint(m[1], 10, 64)
	condition, err := strconv.ParseUint(m[2], 10, 64)
	return variant, condition, wrong == nil && err == nil && variant > 0 && condition > 0
}

// ShelfCode is the code on the label of a shelf, by its number in the database: SH-0007.
func ShelfCode(id uint64) string { return fmt.Sprintf("SH-%04d", id) }

var shelf = regexp.MustCompile(`^(?i)SH-(\d{1,18})$`)

// Shelf reads the code on the label of a shelf.
func Shelf(code string) (id uint64, ok bool) {
	m := shelf.FindStringSubmatch(strings.TrimSpace(code))
	if m == nil {
		return 0, false
	}
	id, err := strconv.ParseUint(m[1], 10, 64)
	return id, err == nil && id > 0
}

// CouldNumber reports whether a code that nobody knows may be the serial number of the goods that
// were scanned before it: one word, and no GTIN, which would be other goods.
func CouldNumber(code string) bool {
	code = serial.Normal(code)
	return code != "" && text.Len(code) <= serial.Longest && !barcode.GTIN(code) && !barcode.IsElements(code)
}

// Document is the form in which numbers of documents are kept: in capitals.
func Document(number string) string { return strings.ToUpper(strings.TrimSpace(number)) }

// Units is how many base units a scan stands for: what was asked for, times what the
// pack holds that was scanned, times what a scale weighed. Nil figures are not there.
func (a Asked) Units(factor, weight *decimal.Decimal) decimal.Decimal {
	units := a.Each
	for _, by := range []*decimal.Decimal{factor, weight} {
		if by != nil {
			units = units.Mul(*by)
		}
	}
	return units
}
