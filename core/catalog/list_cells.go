package catalog

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/core/unit"
)

// cells is a record while it is read; err is the first thing wrong with it.
type cells struct {
	record  []string
	columns map[string]int
	comma   bool
	err     error
}

func (c *cells) keep(err error) {
	if c.err == nil && err != nil {
		c.err = err
	}
}

func (c *cells) at(i int) string {
	if i >= len(c.record) {
		return ""
	}
	return Typed(c.record[i])
}

// Signs are those at which a spreadsheet takes a text for a formula.
const signs = "=+-@\t\r"

// formula reports whether a spreadsheet would take a cell for a formula, or for the mark that
// keeps it from that.
func formula(cell string) bool {
	rest := strings.TrimLeft(cell, "'")
	return rest != "" && strings.ContainsRune(signs, rune(rest[0]))
}

// Marked is a text with a mark that keeps a spreadsheet from taking it for a formula, where
// it begins like one.
func Marked(text string) string {
	if formula(text) {
		return "'" + text
	}
	return text
}

// Typed is a cell as it was meant: without blanks around it, and without the mark of Marked.
func Typed(cell string) string {
	cell = strings.TrimSpace(cell)
	if strings.HasPrefix(cell, "'") && formula(cell) {
		return cell[1:]
	}
	return cell
}

// underHeads refuses what stands under no head: a row whose cells have slipped.
func (c *cells) underHeads(bare []bool) {
	for i, cell := range c.record {
		if cell = strings.TrimSpace(cell); cell != "" && (i >= len(bare) || bare[i]) {
			c.keep(fault.Field("column "+strconv.Itoa(i+1), text.Cut(cell, 60),
				"a head over the column, or an empty cell; "+
					"a text that holds the separator stands in quotation marks",
				"%q stands in column %d, which has no head.", text.Cut(cell, 60), i+1))
		}
	}
}

// bareHeads are the columns that have no head.
func bareHeads(heads []string) []bool {
	bare := make([]bool, len(heads))
	for i, h := range heads {
		bare[i] = strings.TrimSpace(h) == ""
	}
	return bare
}

// list reads a cell that names several things.
func (c *cells) list(name string) []string { return text.List(c.cell(name)) }

// ListedCodes writes barcodes as barcodes of a list reads them.
func ListedCodes(codes []string) string {
	listed := text.Listed(codes)
	if len(codes) == 1 && strings.ContainsAny(listed, " ,") {
		listed += ";" // so that it is seen to be one
	}
	return listed
}

// barcodes reads a cell of barcodes, with semicolons between them; between numbers of GS1
// commas and blanks will do.
func (c *cells) barcodes(name string) []string {
	parts := c.list(name)
	if numbers := strings.FieldsFunc(c.cell(name), func(r rune) bool {
		return r == ',' ||
			r == ' '
	}); len(parts) == 1 &&
		!strings.Contains(c.cell(name), ";") && !slices.ContainsFunc(numbers,
		func(n string) bool { return !barcode.GTIN(n) }) {
		parts = numbers
	}
	var codes []string
	for _, part := range parts {
		codes = append(codes, c.barcode(name, part))
	}
	return codes
}

func (c *cells) cell(name string) string {
	i, ok := c.columns[name]
	if !ok {
		return ""
	}
	if i < len(c.record) && strings.HasPrefix(strings.TrimSpace(c.record[i]), "=") {
		c.keep(fault.Field(name, text.Cut(c.record[i], 60), "the words themselves",
			"The cell holds a formula, %q, and not what it comes to.", text.Cut(c.record[i], 60)))
	}
	return c.at(i)
}

// text reads a cell of words.
func (c *cells) text(name string, most int) string { return c.short(name, c.cell(name), most) }

func (c *cells) short(name, typed string, most int) string {
	if strings.ContainsRune(typed, 0) || text.Len(typed) > most {
		c.keep(
			fault.Field(name, text.Cut(typed, 60), fmt.Sprintf("%d characters or fewer", most),
				"The %s has %d characters; it can have %d.", name, text.Len(typed), most),
		)
		return ""
	}
	return typed
}

// figure reads a cell of a number; nil is an empty one.
func (c *cells) figure(name string, parse func(field, text string) (decimal.Decimal, error)) *decimal.Decimal {
	text := c.cell(name)
	if text == "" {
		return nil
	}
	amount, err := parse(name, number.InFile(text, c.comma))
	c.keep(err)
	return &amount
}

func (c *cells) barcode(name, text string) string {
	if text == "" {
		return ""
	}
	c.keep(refuseExponent(name, text))
	code, err := barcode.Parse(text)
	if e := fault.Of(err); e != nil {
		e.Field = name
		c.keep(e)
	}
	return code
}

func (c *cells) tracking() stock.Tracking {
	text := strings.ToLower(c.cell("tracking"))
	switch t := stock.Tracking(text); t {
	case "", stock.NotStocked, stock.Counted, stock.ByLot, stock.BySerial:
		return t
	}
	c.keep(fault.Field("tracking", text, "not stocked, counted, lot or serial", "There is no tracking %q.", text))
	return stock.Counted
}

func (c *cells) yes(name string) *bool {
	text := strings.ToLower(c.cell(name))
	said := true
	switch text {
	case "":
		return nil
	case "yes", "y", "true", "1", "x":
	case "no", "n", "false", "0":
		said = false
	default:
		c.keep(fault.Field(name, text, "yes or no", "%q is neither yes nor no.", text))
	}
	return &said
}

// parts reads "1 x BW-10; 2 x LEASH".
func (c *cells) parts() []ListPart {
	var list []ListPart
	for _, text := range c.list("parts") {
		quantity, code, ok := strings.Cut(text, " x ")
		if !ok {
			quantity, code = "1", text
		}
		list = append(list, ListPart{Code: strings.TrimSpace(code), Quantity: strings.TrimSpace(quantity)})
	}
	return list
}

// Measures are what the content of a thing is measured in.
var Measures = []string{"g", "kg", "ml", "l", "m", "pc"}

// content reads "200 ml".
func (c *cells) content() (*decimal.Decimal, string) {
	text := c.cell("content")
	if text == "" {
		return nil, ""
	}
	amount, measure, err := ParseContent(text)
	c.keep(err)
	return &amount, measure
}

// ParseContent reads how much is in a thing: "200 ml", "0.5 kg".
func ParseContent(text string) (decimal.Decimal, string, error) {
	parts := strings.Fields(text)
	if len(parts) == 2 && slices.Contains(Measures, strings.ToLower(parts[1])) {
		if amount, err := unit.Kilogram.Parse("content", parts[0]); err == nil && amount.IsPositive() {
			return amount, strings.ToLower(parts[1]), nil
		}
	}
	return decimal.Zero, "", fault.Field("content", text,
		"an amount of "+strings.Join(Measures, ", ")+", such as 200 ml", "%q does not say how much is in it.", text)
}

// refuseExponent catches a number that a spreadsheet has spoilt: 1.23E+11.
func refuseExponent(field, text string) error {
	if mantissa, exponent, ok := strings.Cut(strings.ToUpper(text), "E+"); ok &&
		barcode.Digits(strings.ReplaceAll(mantissa, ".", "")) &&
		barcode.Digits(exponent) {
		return fault.Field(field, text, "all its digits",
			"%s was shortened by a spreadsheet; its digits are lost. Format the column as text and save again.", text)
	}
	return nil
}
