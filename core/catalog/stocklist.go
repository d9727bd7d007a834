package catalog

import (
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"sort"
	"strings"
	"unicode/utf8"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/stock"
	"itemrack/core/unit"
)

// ListRow is one row of a stock list: one variant. A nil figure stands for an
// empty cell. Refused says why the row can't be read; Line is its line in the
// file.
type ListRow struct {
	Line     int
	Product  string
	Style    string
	Category []string // from the root down
	Supplier string
	TaxClass string
	Tracking stock.Tracking
	Unit     unit.Unit
	Axes     []ListValue
	SKU      string
	Barcode  string
	Price    *decimal.Decimal
	Cost     *decimal.Decimal
	Opening  *decimal.Decimal
	Restock  *decimal.Decimal
	Refused  *fault.Error
}

// ListValue is what a row says of one axis.
type ListValue struct {
	Axis  string
	Value Value
}

// Choice is the row's value on each axis.
func (r ListRow) Choice() Choice {
	c := Choice{}
	for _, v := range r.Axes {
		c = append(c, v.Value.Name)
	}
	return c
}

// ListColumns are the column heads a stock list may have; those of the axes
// stand in the order in which axes are made from them.
var ListColumns = []string{"product", "style", "category", "supplier", "tax class", "tracking", "unit", "colour", "swatch",
	"size", "length", "litres", "sku", "barcode", "price", "cost", "opening quantity", "restock level"}

// listAxes maps a column to the name of its axis, in order.
var listAxes = []struct{ column, axis string }{{"colour", "Colour"}, {"size", "Size"}, {"length", "Length"}, {"litres", "Litres"}}

// maxListRows bounds a stock list.
const maxListRows = 500_000

// ReadList reads a stock list: CSV (RFC 4180) with a head line, separated by
// commas, semicolons or tabs, in UTF-8. A file that can't be read as a whole is
// an error; a row that can't is returned with its refusal.
func ReadList(r io.Reader) ([]ListRow, error) {
	data, err := io.ReadAll(r)
	if err != nil {
		return nil, err
	}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	if !utf8.Valid(data) {
		return nil, fault.Field("file", "", "a file saved as UTF-8", "The file is not UTF-8 text. Save it again as CSV in UTF-8.")
	}
	reader := csv.NewReader(bytes.NewReader(data))
	reader.Comma = separator(data)
	reader.FieldsPerRecord = -1
	head, err := reader.Read()
	if err != nil {
		return nil, fault.Field("file", "", "a head line and one row per variant", "The file is empty.")
	}
	columns, err := listHead(head)
	if err != nil {
		return nil, err
	}
	var rows []ListRow
	for {
		record, err := reader.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		var broken *csv.ParseError
		if errors.As(err, &broken) {
			return nil, fault.Field("file", "", "every quote closed", "Line %d of the file is broken: %v.", broken.Line, broken.Err)
		}
		if err != nil {
			return nil, err
		}
		line, _ := reader.FieldPos(0)
		if strings.TrimSpace(strings.Join(record, "")) == "" {
			continue
		}
		if len(rows) == maxListRows {
			return nil, fault.Field("file", len(rows), "500,000 rows or fewer", "The file has more than 500,000 rows.")
		}
		rows = append(rows, readRow(line, record, columns))
	}
	refuseRepeats(rows)
	return rows, nil
}

// separator finds which of comma, semicolon and tab the head line uses most.
func separator(data []byte) rune {
	head, _, _ := bytes.Cut(data, []byte("\n"))
	best, most := ',', 0
	for _, r := range ",;\t" {
		if n := strings.Count(string(head), string(r)); n > most {
			best, most = r, n
		}
	}
	return best
}

func listHead(head []string) (map[string]int, error) {
	columns := map[string]int{}
	for i, name := range head {
		name = strings.ToLower(strings.TrimSpace(strings.ReplaceAll(name, "_", " ")))
		if name == "" {
			continue
		}
		known := false
		for _, c := range ListColumns {
			known = known || c == name
		}
		if _, twice := columns[name]; twice || !known {
			return nil, fault.Field("file", name, strings.Join(ListColumns, ", "), "The column %q is not known, or stands there twice.", name)
		}
		columns[name] = i
	}
	for _, need := range []string{"product", "price"} {
		if _, ok := columns[need]; !ok {
			return nil, fault.Field("file", strings.Join(head, ", "), need, "The file has no column %q.", need)
		}
	}
	return columns, nil
}

// readRow reads one record; the first thing wrong with it is its refusal.
func readRow(line int, record []string, columns map[string]int) ListRow {
	cell := func(name string) string {
		if i, ok := columns[name]; ok && i < len(record) {
			return strings.TrimSpace(record[i])
		}
		return ""
	}
	row := ListRow{Line: line, Product: cell("product"), Style: Letters(cell("style")), Supplier: cell("supplier"), TaxClass: cell("tax class")}
	var err error
	keep := func(e error) {
		if err == nil && e != nil {
			err = e
		}
	}
	if row.Product == "" || len(row.Product) > 120 {
		keep(fault.Field("product", row.Product, "1 to 120 characters", "The product's name is missing or too long."))
	}
	for _, part := range strings.Split(cell("category"), ">") {
		if part = strings.TrimSpace(part); part != "" {
			row.Category = append(row.Category, part)
		}
	}
	row.Tracking, err = readTracking(cell("tracking"), err)
	u, unitErr := unit.ByCode(cell("unit"))
	keep(unitErr)
	row.Unit = u
	for _, a := range listAxes {
		if name := cell(a.column); name != "" {
			v := Value{Name: name}
			if a.column == "colour" {
				v.Swatch = cell("swatch")
			}
			row.Axes = append(row.Axes, ListValue{a.axis, v})
		}
	}
	if text := cell("sku"); text != "" {
		sku, e := CheckSKU(text)
		keep(e)
		row.SKU = sku
	}
	if text := cell("barcode"); text != "" {
		keep(refuseExponent("barcode", text))
		code, e := barcode.Parse(text)
		keep(e)
		row.Barcode = code
	}
	figure := func(name string, parse func(field, text string) (decimal.Decimal, error)) *decimal.Decimal {
		text := cell(name)
		if text == "" {
			return nil
		}
		amount, e := parse(name, text)
		keep(e)
		return &amount
	}
	row.Price = figure("price", money.Parse)
	row.Cost = figure("cost", money.ParseCost)
	row.Opening = figure("opening quantity", u.Parse)
	row.Restock = figure("restock level", u.Parse)
	if row.Price == nil {
		keep(fault.Field("price", "", "an amount such as 34.95", "The price is missing."))
	}
	if row.Opening != nil && row.Opening.IsPositive() {
		if row.Tracking != stock.Counted {
			keep(fault.Field("opening quantity", row.Opening, "an empty cell", "Opening stock in this list is for counted products; enter a delivery for one kept by %s.", row.Tracking))
		} else if row.Cost == nil {
			keep(fault.Field("cost", "", "what one cost", "Opening stock needs its cost."))
		}
	}
	row.Refused = fault.Of(err)
	return row
}

func readTracking(text string, err error) (stock.Tracking, error) {
	switch t := stock.Tracking(strings.ToLower(text)); t {
	case "":
		return stock.Counted, err
	case stock.Untracked, stock.Counted, stock.ByLot, stock.BySerial:
		return t, err
	}
	if err == nil {
		err = fault.Field("tracking", text, "untracked, counted, lot or serial", "There is no tracking %q.", text)
	}
	return stock.Counted, err
}

// refuseExponent catches a number that a spreadsheet has spoilt: 1.23E+11.
func refuseExponent(field, text string) error {
	if mantissa, exponent, ok := strings.Cut(strings.ToUpper(text), "E+"); ok && barcode.Digits(strings.ReplaceAll(mantissa, ".", "")) && barcode.Digits(exponent) {
		return fault.Field(field, text, "all its digits", "%s was shortened by a spreadsheet; its digits are lost. Format the column as text and save again.", text)
	}
	return nil
}

// refuseRepeats refuses rows that name a SKU, barcode or variant a second time,
// and rows whose axes differ from their product's first row.
func refuseRepeats(rows []ListRow) {
	firstAt := map[string]int{}
	axes := map[string]string{}
	for i := range rows {
		row := &rows[i]
		if row.Refused != nil {
			continue
		}
		names := make([]string, len(row.Axes))
		for j, v := range row.Axes {
			names[j] = v.Axis
		}
		product := strings.ToLower(row.Product)
		shape := strings.Join(names, ", ")
		if have, ok := axes[product]; ok && have != shape {
			row.Refused = fault.Field("product", row.Product, "the same axes in each row", "%s varies by %q above and by %q here.", row.Product, have, shape)
			continue
		}
		axes[product] = shape
		for _, c := range []struct{ field, value, key string }{
			{"sku", row.SKU, "s" + row.SKU},
			{"barcode", row.Barcode, "b" + barcode.Key(row.Barcode)},
			{"product", row.Product + " " + row.Choice().Label(), "v" + product + "\x1f" + row.Choice().Key()},
		} {
			if c.value == "" {
				continue
			}
			if line, ok := firstAt[c.key]; ok {
				row.Refused = fault.Field(c.field, c.value, "each one once", "%s stands in line %d already.", strings.TrimSpace(c.value), line)
				break
			}
			firstAt[c.key] = row.Line
		}
	}
}

// MergeAxes gathers the axes of a product's rows: values in the order in which
// they first appear, except that known clothing sizes go from small to large.
func MergeAxes(rows []ListRow) []Axis {
	var axes []Axis
	for _, row := range rows {
		for i, v := range row.Axes {
			if i == len(axes) {
				axes = append(axes, Axis{Name: v.Axis})
			}
			axes[i].addValue(v.Value)
		}
	}
	for i := range axes {
		sortSizes(axes[i].Values)
	}
	return axes
}

func (a *Axis) addValue(v Value) {
	for i := range a.Values {
		if strings.EqualFold(a.Values[i].Name, v.Name) {
			if a.Values[i].Swatch == "" {
				a.Values[i].Swatch = v.Swatch
			}
			return
		}
	}
	a.Values = append(a.Values, v)
}

var sizes = map[string]int{"XXS": 1, "XS": 2, "S": 3, "M": 4, "L": 5, "XL": 6, "XXL": 7, "3XL": 8, "4XL": 9}

func sortSizes(values []Value) {
	for _, v := range values {
		if sizes[strings.ToUpper(v.Name)] == 0 {
			return
		}
	}
	sort.SliceStable(values, func(a, b int) bool {
		return sizes[strings.ToUpper(values[a].Name)] < sizes[strings.ToUpper(values[b].Name)]
	})
}
