package catalog

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/buying"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/price"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/tax"
	"itemrack/core/text"
	"itemrack/core/unit"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
	storeprices "itemrack/store/prices"
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

// MakeProduct makes a product with its variants, SKUs, barcodes and prices.
func MakeProduct(ctx context.Context, s *deed.Shop, who staff.Actor, key string, in NewProduct) (MadeProduct, error) {
	return deed.Once(ctx, s, who, staff.DeedCatalog, key, func(tx store.Tx) (MadeProduct, error) {
		return Make(s, tx, who, in)
	})
}

// Make is MakeProduct within a deed.
func Make(s *deed.Shop, tx store.Tx, who staff.Actor, in NewProduct) (MadeProduct, error) {
	sets, err := knownValues(tx.Q)
	if err != nil {
		return MadeProduct{}, err
	}
	set, err := tx.Terms()
	if err != nil {
		return MadeProduct{}, err
	}
	p, err := in.plan(sets, set.Minor())
	if err != nil {
		return MadeProduct{}, err
	}
	if have, err := goods.ProductByName(tx.Q, p.Row.Name); err != nil || have != 0 {
		if err == nil {
			err = fault.Clash("name", p.Row.Name, "a name of its own", "There is a product %s already.", p.Row.Name)
		}
		return MadeProduct{}, err
	}
	if err := placeProduct(s, tx, &p.Row, in.Category, in.Supplier); err != nil {
		return MadeProduct{}, err
	}
	listed, terms, err := p.land(tx, set.Minor())
	if err != nil {
		return MadeProduct{}, err
	}
	if err := Write(s, tx, []*Planned{p}); err != nil {
		return MadeProduct{}, err
	}
	if err := storebuying.KeepSupplied(tx, p.supplied(listed, terms, in.Part, s.Now())); err != nil {
		return MadeProduct{}, err
	}
	if p.Row.Bundle {
		if err := SetParts(tx, p.Cells[0].Id, in.Parts); err != nil {
			return MadeProduct{}, err
		}
	}
	if err := addPictures(tx, p.Row.ID, in.Pictures); err != nil {
		return MadeProduct{}, err
	}
	if err := Settled(s, tx, []uint64{p.Row.ID}); err != nil {
		return MadeProduct{}, err
	}
	u, err := unit.ByCode(p.Row.Unit)
	if err != nil {
		return MadeProduct{}, err
	}
	made := p.made()
	made.Document, err = in.OnHand.post(s, tx, who, p, u)
	return made, err
}

// land makes of the costs that were typed, which are what the supplier lists, what the goods
// are expected to cost with its discount and usual freight. It returns what is listed of
// each cell.
func (p *Planned) land(tx store.Tx, minor money.Minor) ([]*decimal.Decimal, buying.SupplierTerms, error) {
	listed := make([]*decimal.Decimal, len(p.Cells))
	if p.Row.SupplierID == nil {
		return listed, buying.SupplierTerms{}, nil
	}
	from, _, err := goods.ReadSupplier(tx.Q, *p.Row.SupplierID)
	if err != nil || from.Plain() {
		return listed, from.SupplierTerms, err
	}
	expected := func(cost *decimal.Decimal) *decimal.Decimal {
		if cost == nil {
			return nil
		}
		landed := from.ExpectedLanded(*cost, minor)
		return &landed
	}
	for i := range p.Cells {
		if listed[i] = p.Cells[i].Cost; listed[i] == nil {
			listed[i] = p.Row.Cost
		}
		p.Cells[i].Cost = expected(p.Cells[i].Cost)
	}
	p.Row.Cost = expected(p.Row.Cost)
	return listed, from.SupplierTerms, nil
}

// supplied is what the supplier of a product lists its variants at, which are made.
func (p *Planned) supplied(listed []*decimal.Decimal, terms buying.SupplierTerms, part string,
	at time.Time) []storebuying.Supplied {
	var rows []storebuying.Supplied
	for i, price := range listed {
		if price != nil {
			rows = append(rows, storebuying.Supplied{SupplierID: *p.Row.SupplierID, VariantID: p.Cells[i].Id,
				PartNumber: text.Tidy(part), Factor: decimal.New(1, 0),
				Price: *price, Discount: terms.Discount, At: at, Source: "the catalog"})
		}
	}
	return rows
}

// meantCategory finds the category that a person means.
func meantCategory(categories []goods.Category, text string) ([]string, error) {
	paths := make([]string, len(categories))
	for i, c := range categories {
		paths[i] = c.Path
	}
	return catalog.MeantCategory(paths, text)
}

// placeProduct finds or makes the category and supplier of a product, and its
// tax class.
func placeProduct(s *deed.Shop, tx store.Tx, row *goods.Product, category, supplier string) error {
	categories, err := goods.Categories(tx.Q)
	if err != nil {
		return err
	}
	path, err := meantCategory(categories, category)
	if err != nil {
		return err
	}
	return PlaceAt(s, tx, row, path, supplier)
}

// PlaceAt is placeProduct for a whole category path.
func PlaceAt(s *deed.Shop, tx store.Tx, row *goods.Product, path []string, supplier string) error {
	in, err := goods.KeepCategory(tx, path)
	if err != nil {
		return err
	}
	row.CategoryID = in.ID
	row.SupplierID = nil
	if name := text.Tidy(supplier); name != "" {
		if text.Len(name) > 120 {
			return fault.Field("supplier", supplier, "120 characters or fewer", "The supplier's name is too long.")
		}
		from, err := goods.KeepSupplier(tx, name)
		if err != nil {
			return err
		}
		row.SupplierID = &from.ID
	}
	return taxClasses(s, tx, row)
}

// taxClasses checks the tax classes of a product, and finds the one it takes over.
func taxClasses(s *deed.Shop, tx store.Tx, row *goods.Product) error {
	classes, err := storeprices.TaxClasses(tx.Q)
	if err != nil {
		return err
	}
	if row.BuyTaxClassID != nil {
		if err := KnownClass("buy_tax_class_id", classes, *row.BuyTaxClassID); err != nil {
			return err
		}
	}
	if row.OwnTaxClass {
		return KnownClass("tax_class_id", classes, row.TaxClassID)
	}
	inherited, err := goods.ReadInheritance(tx.Q)
	if err != nil {
		return err
	}
	if row.TaxClassID = inherited.Settle(*row).TaxClass; row.TaxClassID == 0 && len(classes) > 0 {
		row.TaxClassID = classes[0].ID
	}
	return nil
}

// Settled brings what is worked out of a product up to date: the level that
// holds, its price now and the words it is found by.
func Settled(s *deed.Shop, tx store.Tx, products []uint64) error {
	if err := goods.SettleRestock(tx, products); err != nil {
		return err
	}
	if err := book.Restand(tx, products, s.Now()); err != nil {
		return err
	}
	return goods.Reindex(tx, products)
}

func (p *Planned) made() MadeProduct {
	made := MadeProduct{ID: p.Row.ID, Name: p.Row.Name, Variants: make([]MadeVariant, len(p.Cells))}
	for i, c := range p.Cells {
		made.Variants[i] = MadeVariant{ID: c.Id, Label: c.choice.Label(), SKU: c.Sku, Barcode: c.barcodes[0]}
	}
	return made
}

// ValueIDs finds or makes the values of a set, by name in small letters.
func ValueIDs(tx store.Tx, set string, wanted []catalog.Value) (uint64, map[string]uint64, error) {
	row, have, err := goods.KeepValueSet(tx, set)
	if err != nil {
		return 0, nil, err
	}
	ids := map[string]uint64{}
	next := 0
	for _, v := range have {
		ids[text.Key(v.Name)] = v.ID
		next = max(next, v.Position+1)
	}
	var fresh []goods.Value
	for _, v := range wanted {
		if _, ok := ids[text.Key(v.Name)]; ok {
			continue
		}
		ids[text.Key(v.Name)] = 0
		position := next
		if at := slices.Index(catalog.ClothingSizes, strings.ToUpper(v.Name)); at >= 0 {
			position = at
		} else {
			next++
		}
		fresh = append(fresh, goods.Value{ValueSetID: row.ID, Position: position, Name: v.Name, Swatch: v.Swatch})
	}
	if len(fresh) > 0 {
		if err := goods.AddValues(tx, &fresh); err != nil {
			return 0, nil, err
		}
	}
	for _, v := range fresh {
		ids[text.Key(v.Name)] = v.ID
	}
	return row.ID, ids, nil
}

// Write makes new products with their axes, values, cells and prices, in a few
// statements for all of them.
func Write(s *deed.Shop, tx store.Tx, list []*Planned) error {
	now := s.Now()
	wanted, order := map[string][]catalog.Value{}, []string{}
	products := make([]goods.Product, len(list))
	for i, p := range list {
		p.Row.CreatedAt = now
		products[i] = p.Row
		for _, a := range p.Axes {
			set := a.ValueSet()
			if wanted[set] == nil {
				order = append(order, set)
			}
			wanted[set] = append(wanted[set], a.Values...)
		}
	}
	setIDs, ids := map[string]uint64{}, map[string]map[string]uint64{}
	slices.Sort(order) // locks are taken in one order
	for _, set := range order {
		var err error
		if setIDs[set], ids[set], err = ValueIDs(tx, set, wanted[set]); err != nil {
			return err
		}
	}
	if err := goods.AddProducts(tx, &products); err != nil {
		return err
	}
	var axes []goods.Axis
	var suppliers []goods.ProductSupplier
	var attributes []goods.ProductAttribute
	for i, p := range list {
		p.Row.ID = products[i].ID
		for n, a := range p.Axes {
			axes = append(axes,
				goods.Axis{ProductID: p.Row.ID, Position: n, Name: a.Name, ValueSetID: setIDs[a.ValueSet()]})
		}
		if p.Row.SupplierID != nil {
			suppliers = append(suppliers,
				goods.ProductSupplier{ProductID: p.Row.ID, SupplierID: *p.Row.SupplierID, PartNumber: p.Part})
		}
		for name, value := range p.Attributes {
			if value = strings.TrimSpace(value); value != "" {
				attributes = append(attributes,
					goods.ProductAttribute{ProductID: p.Row.ID, Name: text.Tidy(name), Value: value})
			}
		}
	}
	if len(axes) > 0 {
		if err := goods.AddAxes(tx, &axes); err != nil {
			return err
		}
	}
	if len(attributes) > 0 {
		if err := goods.AddAttributes(tx, &attributes); err != nil {
			return err
		}
	}
	if err := goods.AddSuppliers(tx, suppliers); err != nil {
		return err
	}
	if err := writeAxisValues(tx, list, axes, ids); err != nil {
		return err
	}
	return WriteCells(s, tx, list, now)
}

// writeAxisValues puts the values of new axes on them.
func writeAxisValues(tx store.Tx, list []*Planned, axes []goods.Axis, ids map[string]map[string]uint64) error {
	var values []goods.AxisValue
	n := 0
	for _, p := range list {
		for _, a := range p.Axes {
			p.AxisIDs = append(p.AxisIDs, axes[n].ID)
			for i, v := range a.Values {
				values = append(
					values,
					goods.AxisValue{
						AxisID:   axes[n].ID,
						Position: i,
						ValueID:  ids[a.ValueSet()][text.Key(v.Name)],
					},
				)
			}
			n++
		}
	}
	if len(values) > 0 {
		if err := goods.AddAxisValues(tx, &values); err != nil {
			return err
		}
	}
	n = 0
	for _, p := range list {
		for _, a := range p.Axes {
			var own []uint64
			for range a.Values {
				own = append(own, values[n].ID)
				n++
			}
			p.ValueIDs = append(p.ValueIDs, own)
		}
	}
	return nil
}

// WriteCells makes the cells of products that are there with their axes and
// values: variants, cost pools, barcodes and prices.
func WriteCells(s *deed.Shop, tx store.Tx, list []*Planned, now time.Time) error {
	if err := distinctSKUs(tx, list); err != nil {
		return err
	}
	var variants []goods.Variant
	for _, p := range list {
		for _, c := range p.Cells {
			v := goods.Variant{
				ProductID:       p.Row.ID,
				SKU:             c.Sku,
				Label:           c.choice.Label(),
				RestockLevel:    c.Restock,
				OwnRestockLevel: c.Restock,
				Cost:            c.Cost,
				ListPrice:       c.Price,
			}
			if v.RestockLevel == nil {
				v.RestockLevel = p.Row.RestockLevel
			}
			if v.ListPrice == nil {
				v.ListPrice = p.Price
			}
			for i, to := range []**uint64{&v.Value1ID, &v.Value2ID, &v.Value3ID}[:len(c.choice)] {
				at := slices.IndexFunc(p.Axes[i].Values,
					func(x catalog.Value) bool { return text.Same(x.Name, c.choice[i]) })
				if at < 0 {
					return fault.Field("choice", c.choice.Label(), "values of the axes", "%s has no %s %q.", p.Row.Name,
						p.Axes[i].Name, c.choice[i])
				}
				*to = &p.ValueIDs[i][at]
			}
			variants = append(variants, v)
		}
	}
	if err := goods.NewVariants(tx, variants); err != nil {
		return err
	}
	if err := allotBarcodes(tx, list); err != nil {
		return err
	}
	var barcodes []goods.Barcode
	var prices []storeprices.Price
	n := 0
	for _, p := range list {
		if p.Price != nil {
			prices = append(prices,
				storeprices.Price{ProductID: p.Row.ID, PriceListID: price.Regular, FromAt: now, Amount: *p.Price})
		}
		for i := range p.Cells {
			c := &p.Cells[i]
			c.Id = variants[n].ID
			n++
			for _, code := range c.barcodes {
				barcodes = append(barcodes, goods.Barcode{VariantID: c.Id, Code: code, CodeKey: barcode.Key(code)})
			}
			if c.Price != nil {
				id := c.Id
				prices = append(
					prices,
					storeprices.Price{
						ProductID:   p.Row.ID,
						VariantID:   &id,
						PriceListID: price.Regular,
						FromAt:      now,
						Amount:      *c.Price,
					},
				)
			}
		}
	}
	if err := writeBarcodes(tx, barcodes); err != nil {
		return err
	}
	if len(prices) == 0 {
		return nil
	}
	return storeprices.AddPrices(tx, &prices)
}

// writeBarcodes writes barcodes; one that somebody has names its owner.
func writeBarcodes(tx store.Tx, list []goods.Barcode) error {
	seen := map[string]bool{}
	for _, b := range list {
		if seen[b.CodeKey] {
			return fault.Field("barcode", b.Code, "each barcode once", "The barcode %s is given twice.", b.Code)
		}
		seen[b.CodeKey] = true
	}
	return goods.AddBarcodes(tx, &list)
}

// distinctSKUs gives each cell a SKU that nothing else has.
func distinctSKUs(tx store.Tx, list []*Planned) error {
	var skus []string
	for _, p := range list {
		for _, c := range p.Cells {
			skus = append(skus, c.Sku)
		}
	}
	taken, err := goods.TakenSKUs(tx.Q, skus)
	if err != nil {
		return err
	}
	catalog.Distinct(skus, func(sku string) bool { return taken[barcode.Key(sku)] })
	n := 0
	for _, p := range list {
		for i := range p.Cells {
			p.Cells[i].Sku = skus[n]
			n++
		}
	}
	return nil
}

// allotBarcodes gives a number of the shop's own to each cell without a barcode.
func allotBarcodes(tx store.Tx, list []*Planned) error {
	var need []*cell
	used := map[string]bool{}
	for _, p := range list {
		for i := range p.Cells {
			c := &p.Cells[i]
			if len(c.barcodes) == 0 {
				need = append(need, c)
			}
			for _, code := range c.barcodes {
				used[barcode.Key(code)] = true
			}
		}
	}
	for len(need) > 0 {
		r, next, count, err := goods.TakeNumbers(tx, uint64(len(need)))
		if err != nil {
			return err
		}
		codes, keys := make([]string, count), make([]string, count)
		for i := range codes {
			if codes[i], err = barcode.Own(r.Prefix, next+uint64(i)); err != nil {
				return err
			}
			keys[i] = barcode.Key(codes[i])
		}
		owned, err := goods.Taken(tx.Q, keys)
		if err != nil {
			return err
		}
		for i := range codes {
			if owned[keys[i]] == 0 && !used[keys[i]] {
				need[0].barcodes = []string{codes[i]}
				need = need[1:]
			}
		}
	}
	return nil
}

// Extension is values added to the axes of a product: for each axis by name,
// the new values. LeftOut are new cells that are not made.
type Extension struct {
	Axes      []AxisInput `json:"axes"`
	LeftOut   [][]string  `json:"left_out"`
	OwnPrices []CellText  `json:"own_prices"`
	Cost      string      `json:"cost"` // of one of each new variant, where it is not the product's
	OwnCosts  []CellText  `json:"own_costs"`
	OnHand    OnHand      `json:"on_hand"`
}

// AddValues adds values to a product's axes and makes the variants that they
// bring, and only those: cells that were left out stay left out.
func AddValues(ctx context.Context, s *deed.Shop, who staff.Actor, key string, product uint64,
	in Extension) (MadeProduct, error) {
	return deed.Once(ctx, s, who, staff.DeedCatalog, key, func(tx store.Tx) (MadeProduct, error) {
		view, err := LockProduct(s, tx, product)
		if err != nil {
			return MadeProduct{}, err
		}
		sets, err := knownValues(tx.Q)
		if err != nil {
			return MadeProduct{}, err
		}
		for i := range in.Axes { // the new values are of the set that the axis has
			if at := slices.IndexFunc(view.Axes, func(a catalog.Axis) bool {
				return text.Same(a.Name,
					in.Axes[i].Name)
			}); at >= 0 {
				in.Axes[i].Set = view.Axes[at].Set
			}
		}
		fresh, err := axesOf(in.Axes, sets)
		if err != nil {
			return MadeProduct{}, err
		}
		p := &Planned{Row: view.Product, Axes: view.Axes, AxisIDs: view.AxisIDs, ValueIDs: view.ValueIDs}
		skip := catalog.Missing(view.Axes, view.Choices(), nil) // not made before: stays so
		if err := AddAxisValues(tx, p, fresh); err != nil {
			return MadeProduct{}, err
		}
		for _, c := range in.LeftOut {
			skip = append(skip, c)
		}
		if err := p.fill(catalog.Missing(p.Axes, view.Choices(), skip)); err != nil {
			return MadeProduct{}, err
		}
		if err := p.exceptions(NewProduct{OwnPrices: in.OwnPrices, OwnCosts: in.OwnCosts}, view.UnitOf,
			view.Pricing.Book.Minor); err != nil {
			return MadeProduct{}, err
		}
		cost, err := number.Optional("cost", in.Cost, money.ParseCost)
		if err != nil {
			return MadeProduct{}, err
		}
		for i := range p.Cells {
			if cost != nil && p.Cells[i].Cost == nil && (p.Row.Cost == nil || !cost.Equal(*p.Row.Cost)) {
				p.Cells[i].Cost = cost
			}
		}
		if err := WriteCells(s, tx, []*Planned{p}, s.Now()); err != nil {
			return MadeProduct{}, err
		}
		if err := Settled(s, tx, []uint64{product}); err != nil {
			return MadeProduct{}, err
		}
		made := p.made()
		made.Document, err = in.OnHand.post(s, tx, who, p, view.UnitOf)
		return made, err
	})
}

// AddAxisValues puts new values at the end of the named axes.
func AddAxisValues(tx store.Tx, p *Planned, fresh []catalog.Axis) error {
	p.Axes = slices.Clone(p.Axes)
	added := 0
	for _, a := range fresh {
		at := slices.IndexFunc(p.Axes, func(x catalog.Axis) bool { return text.Same(x.Name, a.Name) })
		if at < 0 {
			return fault.Field("axes", a.Name, "an axis of the product", "%s does not vary by %q.", p.Row.Name, a.Name)
		}
		have := len(p.Axes[at].Values)
		p.Axes[at].Values = append(slices.Clone(p.Axes[at].Values), a.Values...)
		if err := catalog.CheckAxes(p.Axes); err != nil {
			return err
		}
		_, ids, err := ValueIDs(tx, p.Axes[at].ValueSet(), a.Values)
		if err != nil {
			return err
		}
		for i, v := range a.Values {
			row := goods.AxisValue{AxisID: p.AxisIDs[at], Position: have + i, ValueID: ids[text.Key(v.Name)]}
			if err := goods.AddAxisValue(tx, &row); err != nil {
				return err
			}
			p.ValueIDs[at] = append(p.ValueIDs[at], row.ID)
			added++
		}
	}
	if added == 0 {
		return fault.Field("axes", "", "at least one new value", "Name the colour or size to add.")
	}
	return nil
}

// ProductPreview is what making a product would make: the cells with their SKUs,
// the category it would be in and the price that holds where none is typed.
type ProductPreview struct {
	Axes     []catalog.Axis
	Cells    []PreviewCell
	Category string
	NewIn    bool // the category would be made
	Price    price.Answer
	Margin   string
	Markup   string
	Settled  catalog.Settled
	Landed   *decimal.Decimal // what one is expected to cost, where that is not the cost as typed
}

// PreviewCell is a cell that would be made.
type PreviewCell struct {
	Choice catalog.Choice
	SKU    string
	Price  decimal.Decimal
}

// PreviewProduct works out what MakeProduct would make, by the same plan.
func PreviewProduct(ctx context.Context, s *deed.Shop, who staff.Actor, in NewProduct) (ProductPreview, error) {
	if err := who.May(staff.DeedCatalog); err != nil {
		return ProductPreview{}, err
	}
	if strings.TrimSpace(in.Name) == "" {
		in.Name = "New product"
	}
	q := s.Store.Read(ctx)
	sets, err := knownValues(q)
	if err != nil {
		return ProductPreview{}, err
	}
	set, err := q.Terms()
	if err != nil {
		return ProductPreview{}, err
	}
	p, err := in.plan(sets, set.Minor())
	if err != nil {
		return ProductPreview{}, err
	}
	preview := ProductPreview{Axes: p.Axes}
	suggested, err := Suggest(
		ctx,
		s,
		who,
		PriceQuestion{
			Category: in.Category,
			Supplier: in.Supplier,
			TaxClass: in.TaxClass,
			Cost:     in.Cost,
			Price:    in.Price,
			Markup:   in.Markup,
			Ending:   in.Ending,
		},
	)
	if err != nil {
		return ProductPreview{}, err
	}
	preview.Category, preview.NewIn, preview.Settled = suggested.Category, suggested.NewCategory, suggested.settled
	preview.Price = price.Answer{Amount: suggested.Price, Standing: suggested.stands, Source: price.ByRule}
	preview.Margin, preview.Markup, preview.Landed = suggested.Margin, suggested.Markup, suggested.Landed
	for _, c := range p.Cells {
		one := PreviewCell{Choice: c.choice, SKU: c.Sku, Price: suggested.Price}
		if c.Price != nil {
			one.Price = *c.Price
		}
		preview.Cells = append(preview.Cells, one)
	}
	return preview, nil
}

// KnownClass returns an error when there is no such tax class.
func KnownClass(field string, classes []tax.Class, id uint64) error {
	var names []string
	for _, c := range classes {
		if c.ID == id {
			return nil
		}
		names = append(names, fmt.Sprintf("%d (%s)", c.ID, c.Name))
	}
	return fault.Field(field, id, strings.Join(names, ", "), "There is no tax class %d.", id)
}
