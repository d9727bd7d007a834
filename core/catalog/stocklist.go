package catalog

import (
	"hash/maphash"
	"slices"
	"sort"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/core/unit"
)

// ListRow is one row of a stock list: one variant. An empty text and a nil figure
// stand for an empty cell, which leaves what is there. Refused says why the row
// can't be read; Line is its line in the file.
type ListRow struct {
	Line         int
	Product      string
	ShortName    string
	Style        string
	SKUPattern   string
	Category     []string // from the root down
	Brand        string
	Supplier     string
	Part         string
	TaxClass     string
	Description  string
	SupplierText string
	Tracking     stock.Tracking
	Unit         *unit.Unit
	Axes         []ListValue
	SKU          string
	Barcode      string
	MoreBarcodes []string
	Price        *decimal.Decimal
	Prices       map[string]decimal.Decimal // on other lists, by name
	Cost         *decimal.Decimal
	Opening      *decimal.Decimal
	Restock      *decimal.Decimal
	Content      *decimal.Decimal
	Measure      string
	Pack         string
	Factor       *decimal.Decimal
	PackBarcode  string
	PackPrice    *decimal.Decimal
	Discontinued *bool
	Picture      string
	Parts        []ListPart // of a bundle
	Attributes   map[string]string
	Refused      *fault.Error
}

// ListValue is what a row says of one axis.
type ListValue struct {
	Axis  string
	Value Value
}

// ListPart is a component of a bundle, by its SKU or barcode.
type ListPart struct {
	Code     string
	Quantity string
}

// Choice is the row's value on each axis.
func (r ListRow) Choice() Choice {
	c := Choice{}
	for _, v := range r.Axes {
		c = append(c, v.Value.Name)
	}
	return c
}

// Kept is the row's tracking: counted where it says nothing.
func (r ListRow) Kept() stock.Tracking {
	if r.Tracking == "" {
		return stock.Counted
	}
	return r.Tracking
}

// UnitOf is the row's unit: the piece where it says nothing.
func (r ListRow) UnitOf() unit.Unit {
	if r.Unit == nil {
		return unit.Piece
	}
	return *r.Unit
}

// listAxes maps a column to the name of its axis, in order.
var listAxes = []struct{ column, axis string }{{"colour", "Colour"}, {"size", "Size"}, {"length", "Length"},
	{"litres", "Litres"}}

// MaxListRows bounds a stock list.
const MaxListRows = 500_000

// ListReader reads the records of one stock list. It remembers where each SKU,
// barcode and variant stood first, so that the second one is refused.
type ListReader struct {
	DecimalComma bool // the file writes 12,95 and 1.250,50
	Minor        money.Minor

	columns map[string]int
	axes    []struct{ column, axis string }
	named   []struct {
		prefix, name string
		at           int
	}
	seed  maphash.Seed
	first map[uint64]int // line of the first one, by what it is
	vary  map[uint64]string
}

// NewListReader reads a list whose columns are matched; it needs a product.
func NewListReader(match Matching) (*ListReader, error) {
	if err := match.Check(ListColumns, "product"); err != nil {
		return nil, err
	}
	r := &ListReader{
		columns: map[string]int{},
		axes:    slices.Clone(listAxes),
		seed:    maphash.MakeSeed(),
		first:   map[uint64]int{},
		vary:    map[uint64]string{},
	}
	for i, name := range match {
		if name == "" {
			continue
		}
		r.columns[name] = i
		for _, prefix := range []string{AxisPrefix, AttributePrefix, PricePrefix} {
			if rest, ok := strings.CutPrefix(name, prefix); ok {
				if prefix == AxisPrefix {
					r.axes = append(r.axes, struct{ column, axis string }{name, rest})
				}
				r.named = append(r.named, struct {
					prefix, name string
					at           int
				}{prefix, rest, i})
			}
		}
	}
	return r, nil
}

// Row reads one record; the first thing wrong with it is its refusal.
func (r *ListReader) Row(line int, record []string) ListRow {
	c := &cells{record: record, columns: r.columns, comma: r.DecimalComma}
	row := ListRow{
		Line:         line,
		Product:      text.Tidy(c.text("product", 120)),
		ShortName:    c.text("short name", 40),
		Style:        Letters(c.text("style", 20)),
		SKUPattern:   c.text("sku pattern", 120),
		Brand:        c.text("brand", 80),
		Supplier:     c.text("supplier", 120),
		Part:         c.text("supplier part", 60),
		TaxClass:     c.text("tax class", 40),
		Description:  c.text("description", 4000),
		SupplierText: c.text("supplier text", 4000),
		Picture:      c.text("picture", 200),
	}
	if row.Product == "" {
		c.keep(fault.Field("product", "", "1 to 120 characters", "The product's name is missing."))
	}
	for _, part := range strings.Split(c.text("category", 400), ">") {
		if part = strings.TrimSpace(part); part != "" {
			row.Category = append(row.Category, part)
		}
	}
	row.Tracking = c.tracking()
	if text := c.cell("unit"); text != "" {
		u, err := unit.ByCode(text)
		c.keep(err)
		row.Unit = &u
	}
	r.readAxes(c, &row)
	r.readCodes(c, &row)
	row.Price = c.figure("price", r.Minor.Parse)
	row.Cost = c.figure("cost", money.ParseCost)
	row.Opening = c.figure("opening quantity", row.UnitOf().Parse)
	row.Restock = c.figure("restock level", row.UnitOf().Parse)
	r.readPack(c, &row)
	row.Content, row.Measure = c.content()
	row.Discontinued = c.yes("discontinued")
	row.Parts = c.parts()
	for _, n := range r.named {
		text := c.at(n.at)
		switch {
		case text == "":
		case n.prefix == AttributePrefix:
			if row.Attributes == nil {
				row.Attributes = map[string]string{}
			}
			row.Attributes[n.name] = c.short(n.prefix+n.name, text, 200)
		case n.prefix == PricePrefix:
			if row.Prices == nil {
				row.Prices = map[string]decimal.Decimal{}
			}
			row.Prices[n.name] = *c.figure(n.prefix+n.name, r.Minor.Parse)
		}
	}
	if row.Opening != nil && row.Opening.IsPositive() {
		if row.Kept() != stock.Counted {
			c.keep(
				fault.Field("opening quantity", row.Opening, "an empty cell",
					"Opening stock in this list is for counted products; one kept by %s takes an opening stock list "+
						"with its lots and numbers.",
					row.Tracking),
			)
		} else if row.Cost == nil {
			c.keep(fault.Field("cost", "", "what one cost", "Opening stock needs its cost."))
		}
	}
	row.Refused = fault.Of(c.err)
	if row.Refused == nil {
		row.Refused = r.refuseRepeats(row)
	}
	return row
}

func (r *ListReader) readAxes(c *cells, row *ListRow) {
	for _, a := range r.axes {
		if name := c.text(a.column, 60); name != "" {
			v := Value{Name: text.Tidy(name)}
			if a.column == "colour" {
				swatch, err := ParseSwatch(c.cell("swatch"))
				c.keep(err)
				v.Swatch = swatch.String()
			}
			row.Axes = append(row.Axes, ListValue{a.axis, v})
		}
	}
	if len(row.Axes) > MaxAxes {
		c.keep(
			fault.Field("product", row.Product, "three axes or fewer",
				"%s varies in %d ways in this row; three is the most.", row.Product, len(row.Axes)),
		)
	}
}

func (r *ListReader) readCodes(c *cells, row *ListRow) {
	if text := c.cell("sku"); text != "" {
		c.keep(refuseExponent("sku", text))
		sku, err := CheckSKU(text)
		c.keep(err)
		row.SKU = sku
	}
	row.Barcode = c.barcode("barcode", c.cell("barcode"))
	for _, text := range strings.Fields(strings.ReplaceAll(c.cell("more barcodes"), ",", " ")) {
		row.MoreBarcodes = append(row.MoreBarcodes, c.barcode("more barcodes", text))
	}
}

func (r *ListReader) readPack(c *cells, row *ListRow) {
	row.Pack, row.PackBarcode = c.text("pack", 40), c.barcode("pack barcode", c.cell("pack barcode"))
	row.Factor = c.figure("pack factor", row.UnitOf().Parse)
	row.PackPrice = c.figure("pack price", r.Minor.Parse)
	if row.Pack == "" && (row.Factor != nil || row.PackBarcode != "" || row.PackPrice != nil) {
		c.keep(fault.Field("pack", "", "a name such as box of 12", "The pack has no name."))
	}
	if row.Pack != "" && row.Factor != nil {
		c.keep(CheckFactor("pack factor", *row.Factor))
	}
}

// CheckFactor says whether a pack can hold so many units: more than one.
func CheckFactor(field string, factor decimal.Decimal) error {
	if !factor.GreaterThan(decimal.New(1, 0)) {
		return fault.Field(field, factor, "more than 1", "A pack holds more than one; it was %s.", factor)
	}
	return nil
}

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

// Typed is a cell as it was meant: without blanks around it, and without the
// mark that keeps a spreadsheet from taking it for a formula.
func Typed(cell string) string {
	cell = strings.TrimSpace(cell)
	if len(cell) > 1 && cell[0] == '\'' && strings.ContainsRune("=+-@\t\r", rune(cell[1])) {
		return cell[1:]
	}
	return cell
}

func (c *cells) cell(name string) string {
	if i, ok := c.columns[name]; ok {
		return c.at(i)
	}
	return ""
}

// text reads a cell of words; a formula in it is refused.
func (c *cells) text(name string, most int) string { return c.short(name, c.cell(name), most) }

func (c *cells) short(name, text string, most int) string {
	if strings.HasPrefix(text, "=") {
		c.keep(
			fault.Field(name, text, "the words themselves", "The cell holds a formula, %q, and not what it comes to.",
				text),
		)
	}
	if strings.ContainsRune(text, 0) || len(text) > most {
		c.keep(
			fault.Field(name, text[:min(len(text), 60)], "a shorter text",
				"The %s is longer than the %d characters it can have.", name, most),
		)
		return ""
	}
	return text
}

// figure reads a cell of a number; nil is an empty one.
func (c *cells) figure(name string, parse func(field, text string) (decimal.Decimal, error)) *decimal.Decimal {
	text := c.cell(name)
	if text == "" {
		return nil
	}
	if c.comma {
		text = number.Local(text)
	}
	amount, err := parse(name, text)
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
	for _, text := range strings.Split(c.cell("parts"), ";") {
		if text = strings.TrimSpace(text); text == "" {
			continue
		}
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

// refuseRepeats refuses a row that names a SKU, barcode or variant a second
// time, and one whose axes differ from its product's first row.
func (r *ListReader) refuseRepeats(row ListRow) *fault.Error {
	names := make([]string, len(row.Axes))
	for j, v := range row.Axes {
		names[j] = v.Axis
	}
	product := maphash.String(r.seed, "p"+text.Key(row.Product))
	vary := strings.Join(names, ", ")
	if known, ok := r.vary[product]; ok && known != vary {
		return fault.Field("product", row.Product, known, "%s varies by %q in its first row and by %q here.",
			row.Product, known, vary)
	}
	r.vary[product] = vary
	keys := []struct{ field, value, key string }{
		{"sku", row.SKU, "s" + row.SKU},
		{"barcode", row.Barcode, "b" + barcode.Key(row.Barcode)},
		{"pack barcode", row.PackBarcode, "b" + barcode.Key(row.PackBarcode)},
		{
			"product",
			row.Product + " " + row.Choice().Label(),
			"v" + text.Key(row.Product) + "\x1f" + row.Choice().Key(),
		},
	}
	for _, code := range row.MoreBarcodes {
		keys = append(keys, struct{ field, value, key string }{"more barcodes", code, "b" + barcode.Key(code)})
	}
	for _, k := range keys {
		if k.value == "" {
			continue
		}
		sum := maphash.String(r.seed, k.key)
		if line, ok := r.first[sum]; ok {
			return fault.Field(k.field, k.value, "each one once", "%s stands in line %d already.",
				strings.TrimSpace(k.value), line)
		}
		r.first[sum] = row.Line
	}
	return nil
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
		if text.Same(a.Values[i].Name, v.Name) {
			if a.Values[i].Swatch == "" {
				a.Values[i].Swatch = v.Swatch
			}
			return
		}
	}
	a.Values = append(a.Values, v)
}

// sizes are the clothing sizes that have an order of their own.
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
