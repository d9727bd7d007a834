package catalog

import (
	"fmt"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/price"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/core/unit"
	"itemrack/store"
	"itemrack/store/goods"
)

// CodesOf are the barcodes of a row.
func CodesOf(row catalog.ListRow) []string {
	var codes []string
	if row.Barcode != "" {
		codes = append(codes, row.Barcode)
	}
	return append(codes, row.MoreBarcodes...)
}

// Take makes a cell of each row.
func (p *Planned) Take(rows []catalog.ListRow) error {
	for _, row := range rows {
		c := cell{choice: row.Choice(), Sku: row.SKU, barcodes: CodesOf(row), Restock: row.Restock, Cost: row.Cost}
		if c.Sku == "" {
			sku, err := catalog.SKU(p.Row.SKUPattern, p.Row.Style, p.Axes, c.choice)
			if err != nil {
				return err
			}
			c.Sku = sku
		}
		if row.Price != nil && (p.Price == nil || !row.Price.Equal(*p.Price)) {
			c.Price = row.Price
		}
		p.Cells = append(p.Cells, c)
	}
	return nil
}

// AxisInput is an axis as it is typed: its values one by one, or as one text that
// is read against the set ("co sl, Deep sea" or "xs-xxl"). An empty Set is the
// one of the axis' name.
type AxisInput struct {
	Name   string       `json:"name"`
	Set    string       `json:"set"`
	Values []ValueInput `json:"values"`
	Text   string       `json:"text"`
}

// ValueInput is a value of an axis; Swatch is as catalog.ParseSwatch reads it.
type ValueInput struct {
	Name   string `json:"name"`
	Swatch string `json:"swatch"`
}

// CellText is what was typed into one cell of the rack.
type CellText struct {
	Choice []string `json:"choice"`
	Text   string   `json:"text"`
}

// PartInput is a component of a bundle.
type PartInput struct {
	Variant  uint64 `json:"variant_id"`
	Quantity string `json:"quantity"`
}

// PartsInput is what is in a bundle from now on.
type PartsInput struct {
	Parts    []PartInput `json:"parts"`
	Revision string      `json:"revision"` // of the parts as they were shown; another one is refused
}

// NewProduct is a product as it is typed. LeftOut are the cells that are not
// made. An empty style or SKU pattern takes the usual one; tax class 0, and an
// empty markup, ending or restock level, are taken over from the category. A
// price left empty is made by the rule that the product has.
type NewProduct struct {
	Name         string            `json:"name"`
	ShortName    string            `json:"short_name"`
	Category     string            `json:"category"`
	Brand        string            `json:"brand"`
	Supplier     string            `json:"supplier"`
	Part         string            `json:"supplier_part"`
	Description  string            `json:"description"`
	SupplierText string            `json:"supplier_text"`
	TaxClass     uint64            `json:"tax_class_id"`
	BuyTaxClass  uint64            `json:"buy_tax_class_id"`
	Unit         string            `json:"unit"`
	Tracking     string            `json:"tracking"`
	Style        string            `json:"style"`
	SKUPattern   string            `json:"sku_pattern"`
	Price        string            `json:"price"`
	Cost         string            `json:"cost"`
	Markup       string            `json:"markup"`
	Ending       string            `json:"ending"`
	Restock      string            `json:"restock_level"`
	Content      string            `json:"content"`
	Weight       string            `json:"weight"`      // of one unit, in kg
	ExpiryDays   string            `json:"expiry_days"` // before its expiry from when a lot is told
	Attributes   map[string]string `json:"attributes"`
	Barcode      string            `json:"barcode"` // of a product with one variant
	Axes         []AxisInput       `json:"axes"`
	LeftOut      [][]string        `json:"left_out"`
	OwnPrices    []CellText        `json:"own_prices"`
	OwnCosts     []CellText        `json:"own_costs"`
	OwnLevels    []CellText        `json:"own_levels"`
	Barcodes     []CellText        `json:"barcodes"`
	Parts        []PartInput       `json:"parts"` // makes it a bundle
	OnHand       OnHand            `json:"on_hand"`
	Pictures     []uint64          `json:"picture_ids"` // kept before
}

// MadeVariant is a variant that was just made.
type MadeVariant struct {
	ID      uint64 `json:"id"`
	Label   string `json:"label"`
	SKU     string `json:"sku"`
	Barcode string `json:"barcode"`
}

// MadeProduct is a product that was just made or extended: Variants are the new
// ones only.
type MadeProduct struct {
	ID       uint64        `json:"id"`
	Name     string        `json:"name"`
	Variants []MadeVariant `json:"variants"`
	Document string        `json:"document,omitempty"` // of what was on hand
}

// Planned is a product with the cells that are to be made of it.
type Planned struct {
	Row        goods.Product
	Axes       []catalog.Axis
	AxisIDs    []uint64
	ValueIDs   [][]uint64
	Price      *decimal.Decimal // of the product; nil leaves it
	Part       string
	Attributes map[string]string
	Cells      []cell
}

// cell is a variant to be made. Without barcodes it takes a number of the shop's
// own.
type cell struct {
	choice   catalog.Choice
	Sku      string
	barcodes []string
	Price    *decimal.Decimal
	Cost     *decimal.Decimal
	Restock  *decimal.Decimal // its own
	Id       uint64
}

// known gives the values of a set as they are kept; none for a new set.
type known func(set string) []catalog.Value

// knownValues reads all value sets. A set of sizes that is not there yet begins
// with the usual clothing sizes.
func knownValues(q store.Q) (known, error) {
	sets, values, err := goods.ValueSets(q)
	if err != nil {
		return nil, err
	}
	byName := map[string][]catalog.Value{}
	for _, s := range sets {
		for _, v := range values[s.ID] {
			byName[text.Key(s.Name)] = append(byName[text.Key(s.Name)],
				catalog.Value{Name: v.Name, Swatch: v.Swatch})
		}
	}
	return func(set string) []catalog.Value {
		list := byName[text.Key(set)]
		if len(list) == 0 && text.Same(set, "size") {
			for _, s := range catalog.ClothingSizes {
				list = append(list, catalog.Value{Name: s})
			}
		}
		return list
	}, nil
}

// axesOf reads axes as they were typed. A value of the set brings the set's
// swatch; a new colour the usual one of its name.
func axesOf(input []AxisInput, sets known) ([]catalog.Axis, error) {
	var axes []catalog.Axis
	for _, a := range input {
		axis := catalog.Axis{
			Name: text.Tidy(a.Name),
			Set:  text.Tidy(a.Set),
		}
		have := sets(axis.ValueSet())
		var err error
		if axis.Values, err = catalog.ParseValues(a.Text, have); err != nil {
			return nil, err
		}
		for _, v := range a.Values {
			swatch, err := catalog.ParseSwatch(v.Swatch)
			if err != nil {
				return nil, err
			}
			axis.Values = append(axis.Values,
				catalog.Value{Name: text.Tidy(v.Name), Swatch: swatch.String()})
		}
		for i, v := range axis.Values {
			if at := slices.IndexFunc(have, func(h catalog.Value) bool { return text.Same(h.Name, v.Name) }); at >= 0 {
				axis.Values[i].Name = have[at].Name
				if v.Swatch == "" {
					axis.Values[i].Swatch = have[at].Swatch
				}
			}
			if axis.Values[i].Swatch == "" && catalog.IsColour(axis.Name) {
				axis.Values[i].Swatch = catalog.UsualSwatch(v.Name)
			}
		}
		if len(axis.Values) > 0 || len(a.Values) > 0 {
			axes = append(axes, axis)
		}
	}
	return axes, nil
}

// head checks the facts of a product that were typed.
func (in NewProduct) head(minor money.Minor) (goods.Product, error) {
	row := goods.Product{
		Name:         text.Tidy(in.Name),
		ShortName:    text.Tidy(in.ShortName),
		Brand:        text.Tidy(in.Brand),
		Description:  text.Prose(in.Description),
		SupplierText: text.Prose(in.SupplierText),
		Style:        catalog.Letters(in.Style),
		SKUPattern:   strings.TrimSpace(in.SKUPattern),
		TaxClassID:   in.TaxClass,
		OwnTaxClass:  in.TaxClass != 0,
		Bundle:       len(in.Parts) > 0,
	}
	if row.Name == "" || text.Len(row.Name) > 120 {
		return row, fault.Field("name", in.Name, "1 to 120 characters",
			"A product needs a name of 1 to 120 characters.")
	}
	for _, typed := range []struct {
		field, value string
		most         int
	}{{"short_name", row.ShortName, 40}, {"brand", row.Brand, 80}, {"description", row.Description,
		4000}, {"supplier_text", row.SupplierText, 4000}, {"supplier_part", in.Part, 60}, {"style", row.Style, 20}} {
		if text.Len(typed.value) > typed.most {
			return row, fault.Field(typed.field, text.Cut(typed.value, 40),
				fmt.Sprintf("%d characters or fewer", typed.most), "The %s is longer than %d characters.",
				strings.ReplaceAll(typed.field, "_", " "), typed.most)
		}
	}
	u, err := unit.ByCode(in.Unit)
	if err != nil {
		return row, err
	}
	tracking := stock.Tracking(in.Tracking)
	if row.Bundle {
		tracking = stock.NotStocked
	}
	if !slices.Contains([]stock.Tracking{stock.NotStocked, stock.Counted, stock.ByLot, stock.BySerial}, tracking) {
		return row, fault.Field("tracking", in.Tracking, "not stocked, counted, lot or serial",
			"There is no tracking %q.", in.Tracking)
	}
	if tracking == stock.BySerial && u != unit.Piece {
		return row, fault.Field("unit", in.Unit, "piece", "What has serial numbers is kept in pieces.")
	}
	row.Unit, row.Tracking = u.Code, string(tracking)
	if in.BuyTaxClass != 0 {
		row.BuyTaxClassID = &in.BuyTaxClass
	}
	if row.Cost, err = number.Optional("cost", in.Cost, money.ParseCost); err != nil {
		return row, err
	}
	if row.Markup, err = number.Optional("markup", in.Markup, price.ParsePercent); err != nil {
		return row, err
	}
	if row.Ending, err = price.OptionalEnding(in.Ending, minor); err != nil {
		return row, err
	}
	if row.RestockLevel, row.RestockPercent, err = catalog.ParseRestock(in.Restock, u); err != nil {
		return row, err
	}
	if row.Weight, err = number.Optional("weight", in.Weight, unit.Kilogram.Parse); err != nil {
		return row, err
	}
	if row.ExpiryDays, err = catalog.ParseExpiryDays(in.ExpiryDays, tracking); err != nil {
		return row, err
	}
	if strings.TrimSpace(in.Content) != "" {
		content, measure, err := catalog.ParseContent(in.Content)
		if err != nil {
			return row, err
		}
		row.Content, row.Measure = &content, measure
	}
	return row, nil
}

// plan checks what was typed and works out the cells.
func (in NewProduct) plan(sets known, minor money.Minor) (*Planned, error) {
	row, err := in.head(minor)
	if err != nil {
		return nil, err
	}
	axes, err := axesOf(in.Axes, sets)
	if err != nil {
		return nil, err
	}
	p := &Planned{Row: row, Axes: axes, Part: strings.TrimSpace(in.Part), Attributes: in.Attributes}
	if p.Price, err = number.Optional("price", in.Price, minor.Parse); err != nil {
		return nil, err
	}
	if err := checkAttributes(in.Attributes); err != nil {
		return nil, err
	}
	if err := catalog.CheckAxes(p.Axes); err != nil {
		return nil, err
	}
	if row.Bundle && len(p.Axes) > 0 {
		return nil, fault.Field("axes", len(p.Axes), "no axes",
			"A bundle is one thing; make one for each of its colours or sizes.")
	}
	p.Usual()
	leftOut := make([]catalog.Choice, len(in.LeftOut))
	for i, c := range in.LeftOut {
		leftOut[i] = c
	}
	if err := p.fill(catalog.Missing(p.Axes, nil, leftOut)); err != nil {
		return nil, err
	}
	u, err := unit.ByCode(row.Unit)
	if err != nil {
		return nil, err
	}
	return p, p.exceptions(in, u, minor)
}

// Usual fills in the style code and SKU pattern where none was given.
func (p *Planned) Usual() {
	if p.Row.Style == "" {
		p.Row.Style = catalog.StyleCode(p.Row.Name)
	}
	if p.Row.SKUPattern == "" {
		p.Row.SKUPattern = catalog.DefaultPattern(p.Axes)
	}
}

// fill makes a cell of each choice, with its SKU.
func (p *Planned) fill(choices []catalog.Choice) error {
	if len(choices) == 0 {
		return fault.Field("left_out", "", "at least one cell made", "Every cell of the rack is left out.")
	}
	for _, c := range choices {
		sku, err := catalog.SKU(p.Row.SKUPattern, p.Row.Style, p.Axes, c)
		if err != nil {
			return err
		}
		p.Cells = append(p.Cells, cell{choice: c, Sku: sku})
	}
	return nil
}

// exceptions puts what was typed into single cells on them.
func (p *Planned) exceptions(in NewProduct, u unit.Unit, minor money.Minor) error {
	at := map[string]*cell{}
	for i := range p.Cells {
		at[p.Cells[i].choice.Key()] = &p.Cells[i]
	}
	for _, list := range []struct {
		cells []CellText
		field string
		parse func(field, text string) (decimal.Decimal, error)
		put   func(c *cell, d *decimal.Decimal)
	}{
		{in.OwnPrices, "own_prices", minor.Parse, func(c *cell, d *decimal.Decimal) {
			if p.Price == nil || !d.Equal(*p.Price) {
				c.Price = d
			}
		}},
		{in.OwnCosts, "own_costs", money.ParseCost, func(c *cell, d *decimal.Decimal) { c.Cost = d }},
		{in.OwnLevels, "own_levels", u.Parse, func(c *cell, d *decimal.Decimal) { c.Restock = d }},
	} {
		for _, typed := range list.cells {
			amount, err := number.Optional(list.field, typed.Text, list.parse)
			if err != nil {
				return err
			}
			if c := at[catalog.Choice(typed.Choice).Key()]; c != nil && amount != nil {
				list.put(c, amount)
			}
		}
	}
	codes := in.Barcodes
	if in.Barcode != "" && len(p.Cells) == 1 {
		codes = append(codes, CellText{Choice: p.Cells[0].choice, Text: in.Barcode})
	} else if in.Barcode != "" {
		return fault.Field("barcode", in.Barcode, "a barcode for each cell", "The product has %d variants; scan a "+
			"barcode into the cell it belongs to.", len(p.Cells))
	}
	for _, typed := range codes {
		c := at[catalog.Choice(typed.Choice).Key()]
		if c == nil || strings.TrimSpace(typed.Text) == "" {
			continue
		}
		code, err := barcode.Parse(typed.Text)
		if err != nil {
			return err
		}
		c.barcodes = append(c.barcodes, code)
	}
	return nil
}

func checkAttributes(attributes map[string]string) error {
	for name, value := range attributes {
		if text.Key(name) == "" || text.Len(name) > 40 || text.Len(value) > 200 {
			return fault.Field("attributes", name, "a name of 1 to 40 characters and a value of 200 or fewer",
				"The attribute %q can't be kept.", name)
		}
	}
	return nil
}

// meantCategory finds the category that a person means.
func meantCategory(categories []goods.Category, text string) ([]string, error) {
	paths := make([]string, len(categories))
	for i, c := range categories {
		paths[i] = c.Path
	}
	return catalog.MeantCategory(paths, text)
}
