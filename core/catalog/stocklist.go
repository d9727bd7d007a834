package catalog

import (
	"cmp"
	"fmt"
	"hash/maphash"
	"maps"
	"slices"
	"sort"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/fault"
	"itemrack/core/money"
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
	Weight       *decimal.Decimal // of one unit, in kg
	Packs        []ListPack
	MorePrices   []ListPrice
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

// ListPack is a pack that a row names, with the barcodes and the price that it has for the
// row's variant.
type ListPack struct {
	Name     string
	Factor   *decimal.Decimal
	Barcodes []string
	Price    *decimal.Decimal
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

// listAxis is a column that holds the values of an axis, and the one that holds how they
// look.
type listAxis struct{ column, axis, swatch string }

// listAxes are the axes that have a column of their own, in order.
var listAxes = []listAxis{{"colour", "Colour", "swatch"}, {"size", "Size", SwatchPrefix + "Size"},
	{"length", "Length", SwatchPrefix + "Length"}, {"litres", "Litres", SwatchPrefix + "Litres"}}

// AxisColumns are the columns in which a list has the values of an axis and their swatches.
func AxisColumns(axis string) (values, swatch string) {
	for _, a := range listAxes {
		if text.Same(a.axis, axis) {
			return a.column, a.swatch
		}
	}
	return AxisPrefix + axis, SwatchPrefix + axis
}

// MaxListRows bounds a stock list.
const MaxListRows = 500_000

// ListReader reads the records of one stock list. It remembers where each SKU,
// barcode and variant stood first, so that the second one is refused.
type ListReader struct {
	DecimalComma bool // the file writes 12,95 and 1.250,50
	Minor        money.Minor
	Moment       func(text string) (time.Time, bool) // reads a date by the shop's clock

	columns map[string]int
	bare    []bool // columns without a head
	axes    []listAxis
	named   []struct {
		prefix, name string
		at           int
	}
	seed  maphash.Seed
	first map[uint64]int // line of the first one, by what it is
	facts map[uint64]fact
	vary  map[uint64]string
}

// fact is what the first row of a product says of it.
type fact struct {
	line int
	said uint64
}

// NewListReader reads a list whose columns are matched; it needs a product.
func NewListReader(heads []string, match Matching) (*ListReader, error) {
	if err := match.Check(ListColumns, "product"); err != nil {
		return nil, err
	}
	r := &ListReader{
		columns: map[string]int{},
		bare:    bareHeads(heads),
		axes:    slices.Clone(listAxes),
		seed:    maphash.MakeSeed(),
		first:   map[uint64]int{},
		facts:   map[uint64]fact{},
		vary:    map[uint64]string{},
	}
	for i, name := range match {
		if name == "" {
			continue
		}
		r.columns[name] = i
		for _, prefix := range prefixes {
			if rest, ok := strings.CutPrefix(name, prefix); ok {
				if prefix == AxisPrefix {
					r.axes = append(r.axes, listAxis{name, rest, SwatchPrefix + rest})
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
	c.underHeads(r.bare)
	row := ListRow{
		Line:         line,
		Product:      text.Tidy(c.text("product", 120)),
		ShortName:    text.Tidy(c.text("short name", 40)),
		Style:        Letters(c.text("style", 20)),
		SKUPattern:   c.text("sku pattern", 120),
		Brand:        text.Tidy(c.text("brand", 80)),
		Supplier:     text.Tidy(c.text("supplier", 120)),
		Part:         text.Tidy(c.text("supplier part", 60)),
		TaxClass:     text.Tidy(c.text("tax class", 40)),
		Description:  text.Prose(c.text("description", 4000)),
		SupplierText: text.Prose(c.text("supplier text", 4000)),
		Picture:      c.text("picture", 200),
	}
	if row.Product == "" {
		c.keep(fault.Field("product", "", "1 to 120 characters", "The product's name is missing."))
	}
	row.Category = SplitPath(c.text("category", LongestPath))
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
	r.readPacks(c, &row)
	row.MorePrices = r.morePrices(c, "more prices", "", row.UnitOf())
	row.Content, row.Measure = c.content()
	row.Weight = c.figure("weight kg", unit.Kilogram.Parse)
	row.Discontinued = c.yes("discontinued")
	row.Parts = c.parts()
	for _, n := range r.named {
		text := c.at(n.at)
		switch {
		case text == "":
		case n.prefix == MorePricesPrefix:
			row.MorePrices = append(row.MorePrices, r.morePrices(c, n.prefix+n.name, n.name, row.UnitOf())...)
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
			swatch, err := ParseSwatch(c.cell(a.swatch))
			c.keep(err)
			v.Swatch = swatch.String()
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
	row.MoreBarcodes = c.barcodes("more barcodes")
}

// readPacks reads the packs of a row, each in columns of its own.
func (r *ListReader) readPacks(c *cells, row *ListRow) {
	for n := 1; n <= MaxPacks; n++ {
		at := PackColumnsOf(n)
		p := ListPack{
			Name:     text.Tidy(c.text(at.Name, 40)),
			Factor:   c.figure(at.Factor, row.UnitOf().Parse),
			Barcodes: c.barcodes(at.Barcode),
			Price:    c.figure(at.Price, r.Minor.Parse),
		}
		switch {
		case p.Name == "" && (p.Factor != nil || p.Barcodes != nil || p.Price != nil):
			c.keep(fault.Field(at.Name, "", "a name such as box of 12", "The pack has no name."))
		case p.Name == "":
			continue
		case p.Factor != nil:
			c.keep(CheckFactor(at.Factor, *p.Factor))
		}
		if slices.ContainsFunc(row.Packs, func(other ListPack) bool { return text.Same(other.Name, p.Name) }) {
			c.keep(fault.Field(at.Name, p.Name, "each pack once", "The pack %s stands in the row twice.", p.Name))
		}
		row.Packs = append(row.Packs, p)
	}
}

// CheckFactor says whether a pack can hold so many units: more than one.
func CheckFactor(field string, factor decimal.Decimal) error {
	if !factor.GreaterThan(decimal.New(1, 0)) {
		return fault.Field(field, factor, "more than 1", "A pack holds more than one; it was %s.", factor)
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
	if e := r.contradiction(row); e != nil {
		return e
	}
	keys := []struct{ field, value, key string }{
		{"sku", row.SKU, "s" + row.SKU},
		{"barcode", row.Barcode, "b" + barcode.Key(row.Barcode)},
		{
			"product",
			row.Product + " " + row.Choice().Label(),
			"v" + text.Key(row.Product) + "\x1f" + row.Choice().Key(),
		},
	}
	for _, code := range row.MoreBarcodes {
		keys = append(keys, struct{ field, value, key string }{"more barcodes", code, "b" + barcode.Key(code)})
	}
	for n, pack := range row.Packs {
		for _, code := range pack.Barcodes {
			keys = append(keys, struct{ field, value, key string }{PackColumnsOf(n + 1).Barcode, code, "b" +
				barcode.Key(code)})
		}
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

// contradiction refuses a row that says something else of its product than a row before it.
func (r *ListReader) contradiction(row ListRow) *fault.Error {
	for _, f := range row.ofProduct() {
		if f.said == "" {
			continue
		}
		key := maphash.String(r.seed, "f"+text.Key(row.Product)+"\x1f"+f.field)
		said := maphash.String(r.seed, text.Key(f.said))
		before, ok := r.facts[key]
		if !ok {
			r.facts[key] = fact{row.Line, said}
			continue
		}
		if before.said != said {
			return fault.Field(f.field, text.Cut(f.said, 60),
				fmt.Sprintf("what line %d says, or an empty cell", before.line),
				"Line %d says something else of %s: it has one %s, for all its variants.", before.line, row.Product, f.field)
		}
	}
	return nil
}

// ofProduct are the facts of a row that are its product's; an empty text says nothing.
func (r ListRow) ofProduct() []struct{ field, said string } {
	type facts = []struct{ field, said string }
	list := facts{{"short name", r.ShortName}, {"style", r.Style}, {"sku pattern", r.SKUPattern},
		{"category", strings.Join(r.Category, PathMark)}, {"brand", r.Brand}, {"supplier", r.Supplier},
		{"supplier part", r.Part}, {"tax class", r.TaxClass}, {"description", r.Description},
		{"supplier text", r.SupplierText}, {"tracking", string(r.Tracking)}}
	if r.Unit != nil {
		list = append(list, facts{{"unit", r.Unit.Code}}...)
	}
	if r.Content != nil {
		list = append(list, facts{{"content", r.Content.String() + " " + r.Measure}}...)
	}
	if r.Weight != nil {
		list = append(list, facts{{"weight kg", r.Weight.String()}}...)
	}
	if r.Discontinued != nil {
		list = append(list, facts{{"discontinued", fmt.Sprint(*r.Discontinued)}}...)
	}
	for n, p := range r.Packs {
		if p.Factor != nil {
			list = append(list, facts{{PackColumnsOf(n+1).Factor + " of " + p.Name, p.Factor.String()}}...)
		}
	}
	for name, value := range r.Attributes {
		list = append(list, facts{{AttributePrefix + name, value}}...)
	}
	return list
}

// Head is what rows of one product say of it: of each fact what the first row says that says
// anything.
func Head(rows []ListRow) ListRow {
	head := rows[0]
	for _, r := range rows[1:] {
		head.ShortName, head.Style = cmp.Or(head.ShortName, r.ShortName), cmp.Or(head.Style, r.Style)
		head.SKUPattern, head.Brand = cmp.Or(head.SKUPattern, r.SKUPattern), cmp.Or(head.Brand, r.Brand)
		head.Supplier, head.Part = cmp.Or(head.Supplier, r.Supplier), cmp.Or(head.Part, r.Part)
		head.TaxClass, head.Tracking = cmp.Or(head.TaxClass, r.TaxClass), cmp.Or(head.Tracking, r.Tracking)
		head.Description, head.SupplierText = cmp.Or(head.Description, r.Description), cmp.Or(head.SupplierText,
			r.SupplierText)
		head.Unit, head.Discontinued = cmp.Or(head.Unit, r.Unit), cmp.Or(head.Discontinued, r.Discontinued)
		if head.Category == nil {
			head.Category = r.Category
		}
		if head.Content == nil {
			head.Content, head.Measure = r.Content, r.Measure
		}
		if head.Weight == nil {
			head.Weight = r.Weight
		}
		for name, value := range r.Attributes {
			if head.Attributes[name] == "" {
				head.Attributes = maps.Clone(head.Attributes)
				if head.Attributes == nil {
					head.Attributes = map[string]string{}
				}
				head.Attributes[name] = value
			}
		}
	}
	return head
}

// InOrder puts what a row says of each axis into the order of a product's axes; false when it
// is not these that the row says something of.
func (r ListRow) InOrder(axes []Axis) ([]ListValue, bool) {
	values := make([]ListValue, len(axes))
	for i, a := range axes {
		at := slices.IndexFunc(r.Axes, func(v ListValue) bool { return text.Same(v.Axis, a.Name) })
		if at < 0 {
			return nil, false
		}
		values[i] = ListValue{a.Name, r.Axes[at].Value}
	}
	return values, len(axes) == len(r.Axes)
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
