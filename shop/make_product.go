package shop

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/stock"
	"itemrack/core/unit"
	"itemrack/store"
)

// AxisInput is an axis as it is typed.
type AxisInput struct {
	Name   string       `json:"name"`
	Values []ValueInput `json:"values"`
}

// ValueInput is a value of an axis; Swatch is "#rrggbb" or empty.
type ValueInput struct {
	Name   string `json:"name"`
	Swatch string `json:"swatch"`
}

// CellPrice is the own price of one cell of the rack.
type CellPrice struct {
	Choice []string `json:"choice"`
	Price  string   `json:"price"`
}

// NewProduct is a product as it is typed. LeftOut are the cells that are not
// made. An empty style or SKU pattern takes the usual one.
type NewProduct struct {
	Name       string      `json:"name"`
	ShortName  string      `json:"short_name"`
	Category   string      `json:"category"`
	Supplier   string      `json:"supplier"`
	TaxClass   uint64      `json:"tax_class_id"`
	Unit       string      `json:"unit"`
	Tracking   string      `json:"tracking"`
	Style      string      `json:"style"`
	SKUPattern string      `json:"sku_pattern"`
	Price      string      `json:"price"`
	Restock    string      `json:"restock_level"`
	Axes       []AxisInput `json:"axes"`
	LeftOut    [][]string  `json:"left_out"`
	OwnPrices  []CellPrice `json:"own_prices"`
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
}

// planned is a product with the cells that are to be made of it.
type planned struct {
	row      store.Product
	axes     []catalog.Axis
	axisIDs  []uint64
	valueIDs [][]uint64
	price    *decimal.Decimal // of the product; nil leaves it
	cells    []cell
}

// cell is a variant to be made. An empty barcode takes a number of the shop's own.
type cell struct {
	choice  catalog.Choice
	sku     string
	barcode string
	price   *decimal.Decimal
	restock *decimal.Decimal
	id      uint64
}

func axesOf(input []AxisInput) []catalog.Axis {
	axes := make([]catalog.Axis, len(input))
	for i, a := range input {
		axes[i].Name = strings.TrimSpace(a.Name)
		for _, v := range a.Values {
			axes[i].Values = append(axes[i].Values, catalog.Value{Name: strings.TrimSpace(v.Name), Swatch: v.Swatch})
		}
	}
	return axes
}

// plan checks what was typed and works out the cells.
func (in NewProduct) plan() (*planned, error) {
	name := strings.Join(strings.Fields(in.Name), " ")
	if name == "" || len(name) > 120 {
		return nil, fault.Field("name", in.Name, "1 to 120 characters", "A product needs a name of 1 to 120 characters.")
	}
	if len(in.ShortName) > 40 {
		return nil, fault.Field("short_name", in.ShortName, "40 characters or fewer", "The short name is too long for a label.")
	}
	u, err := unit.ByCode(in.Unit)
	if err != nil {
		return nil, err
	}
	tracking := stock.Tracking(in.Tracking)
	if !slices.Contains([]stock.Tracking{stock.Untracked, stock.Counted, stock.ByLot, stock.BySerial}, tracking) {
		return nil, fault.Field("tracking", in.Tracking, "untracked, counted, lot or serial", "There is no tracking %q.", in.Tracking)
	}
	if tracking == stock.BySerial && u != unit.Piece {
		return nil, fault.Field("unit", in.Unit, "piece", "What has serial numbers is kept in pieces.")
	}
	amount, err := money.Parse("price", in.Price)
	if err != nil {
		return nil, err
	}
	p := &planned{row: store.Product{Name: name, ShortName: strings.TrimSpace(in.ShortName), Unit: u.Code, Tracking: string(tracking),
		Style: catalog.Letters(in.Style), SKUPattern: strings.TrimSpace(in.SKUPattern), TaxClassID: in.TaxClass}, axes: axesOf(in.Axes), price: &amount}
	if err := catalog.CheckAxes(p.axes); err != nil {
		return nil, err
	}
	p.usual()
	var restock *decimal.Decimal
	if strings.TrimSpace(in.Restock) != "" {
		level, err := u.Parse("restock_level", in.Restock)
		if err != nil {
			return nil, err
		}
		restock = &level
	}
	leftOut := make([]catalog.Choice, len(in.LeftOut))
	for i, c := range in.LeftOut {
		leftOut[i] = c
	}
	return p, p.fill(catalog.Missing(p.axes, nil, leftOut), in.OwnPrices, restock)
}

// usual fills in the style code and SKU pattern where none was given.
func (p *planned) usual() {
	if p.row.Style == "" {
		p.row.Style = catalog.StyleCode(p.row.Name)
	}
	if p.row.SKUPattern == "" {
		p.row.SKUPattern = catalog.DefaultPattern(p.axes)
	}
}

// fill makes a cell of each choice, with its SKU and own price.
func (p *planned) fill(choices []catalog.Choice, own []CellPrice, restock *decimal.Decimal) error {
	if len(choices) == 0 {
		return fault.Field("left_out", "", "at least one cell made", "Every cell of the rack is left out.")
	}
	prices := map[string]*decimal.Decimal{}
	for _, o := range own {
		amount, err := money.Parse("own_prices", o.Price)
		if err != nil {
			return err
		}
		prices[catalog.Choice(o.Choice).Key()] = &amount
	}
	for _, c := range choices {
		sku, err := catalog.SKU(p.row.SKUPattern, p.row.Style, p.axes, c)
		if err != nil {
			return err
		}
		one := cell{choice: c, sku: sku, price: prices[c.Key()], restock: restock}
		if one.price != nil && p.price != nil && one.price.Equal(*p.price) {
			one.price = nil
		}
		p.cells = append(p.cells, one)
	}
	return nil
}

// MakeProduct makes a product with its variants, SKUs, barcodes and prices.
func (s *Shop) MakeProduct(ctx context.Context, who Actor, key string, in NewProduct) (MadeProduct, error) {
	return once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (MadeProduct, error) {
		p, err := in.plan()
		if err != nil {
			return MadeProduct{}, err
		}
		var path []string
		for _, part := range strings.Split(in.Category, ">") {
			if part = strings.TrimSpace(part); part != "" {
				path = append(path, part)
			}
		}
		if len(path) == 0 {
			return MadeProduct{}, fault.Field("category", in.Category, "Swim > Rash vests", "A product needs a category; it is how reports group later.")
		}
		if have, err := tx.ProductByName(p.row.Name); err != nil || have != 0 {
			if err == nil {
				err = fault.Clash("name", p.row.Name, "a name of its own", "There is a product %s already.", p.row.Name)
			}
			return MadeProduct{}, err
		}
		category, err := tx.Category(path)
		if err != nil {
			return MadeProduct{}, err
		}
		p.row.CategoryID = category.ID
		if name := strings.TrimSpace(in.Supplier); name != "" {
			supplier, err := tx.Supplier(name)
			if err != nil {
				return MadeProduct{}, err
			}
			p.row.SupplierID = &supplier.ID
		}
		if err := s.knownTaxClass(tx, p.row.TaxClassID); err != nil {
			return MadeProduct{}, err
		}
		if err := s.write(tx, []*planned{p}); err != nil {
			return MadeProduct{}, err
		}
		return p.made(), nil
	})
}

func (s *Shop) knownTaxClass(tx store.Tx, id uint64) error {
	classes, err := tx.TaxClasses()
	if err != nil {
		return err
	}
	var names []string
	for _, c := range classes {
		if c.ID == id {
			return nil
		}
		names = append(names, fmt.Sprintf("%d (%s)", c.ID, c.Name))
	}
	return fault.Field("tax_class_id", id, strings.Join(names, ", "), "There is no tax class %d.", id)
}

func (p *planned) made() MadeProduct {
	made := MadeProduct{ID: p.row.ID, Name: p.row.Name, Variants: make([]MadeVariant, len(p.cells))}
	for i, c := range p.cells {
		made.Variants[i] = MadeVariant{ID: c.id, Label: c.choice.Label(), SKU: c.sku, Barcode: c.barcode}
	}
	return made
}

// write makes new products with their axes, values, cells and prices, in a few
// statements for all of them.
func (s *Shop) write(tx store.Tx, list []*planned) error {
	now := s.Now()
	products := make([]store.Product, len(list))
	for i, p := range list {
		p.row.CreatedAt = now
		products[i] = p.row
	}
	if err := tx.Insert(&products); err != nil {
		return err
	}
	var axes []store.Axis
	for i, p := range list {
		p.row.ID = products[i].ID
		for n, a := range p.axes {
			axes = append(axes, store.Axis{ProductID: p.row.ID, Position: n, Name: a.Name})
		}
	}
	if len(axes) > 0 {
		if err := tx.Insert(&axes); err != nil {
			return err
		}
	}
	var values []store.AxisValue
	n := 0
	for _, p := range list {
		for _, a := range p.axes {
			p.axisIDs = append(p.axisIDs, axes[n].ID)
			for i, v := range a.Values {
				values = append(values, store.AxisValue{AxisID: axes[n].ID, Position: i, Name: v.Name, Swatch: strings.ToUpper(v.Swatch)})
			}
			n++
		}
	}
	if len(values) > 0 {
		if err := tx.Insert(&values); err != nil {
			return err
		}
	}
	n = 0
	for _, p := range list {
		for _, a := range p.axes {
			var ids []uint64
			for range a.Values {
				ids = append(ids, values[n].ID)
				n++
			}
			p.valueIDs = append(p.valueIDs, ids)
		}
	}
	return s.writeCells(tx, list, now)
}

// writeCells makes the cells of products that are there with their axes and
// values: variants, cost pools, barcodes and prices.
func (s *Shop) writeCells(tx store.Tx, list []*planned, now time.Time) error {
	if err := distinctSKUs(tx, list); err != nil {
		return err
	}
	var variants []store.Variant
	for _, p := range list {
		for _, c := range p.cells {
			v := store.Variant{ProductID: p.row.ID, SKU: c.sku, Label: c.choice.Label(), RestockLevel: c.restock}
			for i, to := range []**uint64{&v.Value1ID, &v.Value2ID, &v.Value3ID}[:len(c.choice)] {
				at := slices.IndexFunc(p.axes[i].Values, func(x catalog.Value) bool { return strings.EqualFold(x.Name, c.choice[i]) })
				if at < 0 {
					return fault.Field("choice", c.choice.Label(), "values of the axes", "%s has no %s %q.", p.row.Name, p.axes[i].Name, c.choice[i])
				}
				*to = &p.valueIDs[i][at]
			}
			variants = append(variants, v)
		}
	}
	if err := tx.NewVariants(variants); err != nil {
		return err
	}
	if err := allotBarcodes(tx, list); err != nil {
		return err
	}
	var barcodes []store.Barcode
	var prices []store.Price
	n := 0
	for _, p := range list {
		if p.price != nil {
			prices = append(prices, store.Price{ProductID: p.row.ID, FromAt: now, Amount: *p.price})
		}
		for i := range p.cells {
			c := &p.cells[i]
			c.id = variants[n].ID
			n++
			barcodes = append(barcodes, store.Barcode{VariantID: c.id, Code: c.barcode, CodeKey: barcode.Key(c.barcode)})
			if c.price != nil {
				id := c.id
				prices = append(prices, store.Price{ProductID: p.row.ID, VariantID: &id, FromAt: now, Amount: *c.price})
			}
		}
	}
	if err := tx.Insert(&barcodes); err != nil {
		return err
	}
	if len(prices) == 0 {
		return nil
	}
	return tx.Insert(&prices)
}

// distinctSKUs gives each cell a SKU that nothing else has.
func distinctSKUs(tx store.Tx, list []*planned) error {
	var skus []string
	for _, p := range list {
		for _, c := range p.cells {
			skus = append(skus, c.sku)
		}
	}
	taken, err := tx.TakenSKUs(skus)
	if err != nil {
		return err
	}
	wanted := map[string]bool{}
	for _, sku := range skus {
		wanted[sku] = true
	}
	catalog.Distinct(skus, func(sku string) bool {
		if !wanted[sku] && err == nil { // a number was added: ask for this one
			var more map[string]uint64
			more, err = tx.TakenSKUs([]string{sku})
			return more[sku] != 0
		}
		return taken[sku] != 0
	})
	n := 0
	for _, p := range list {
		for i := range p.cells {
			p.cells[i].sku = skus[n]
			n++
		}
	}
	return err
}

// allotBarcodes gives a number of the shop's own to each cell without a barcode.
func allotBarcodes(tx store.Tx, list []*planned) error {
	var need []*cell
	used := map[string]bool{}
	for _, p := range list {
		for i := range p.cells {
			if c := &p.cells[i]; c.barcode == "" {
				need = append(need, c)
			} else {
				used[barcode.Key(c.barcode)] = true
			}
		}
	}
	prefix, err := tx.Setting("barcode_prefix")
	if err != nil {
		return err
	}
	for len(need) > 0 {
		next, err := tx.NextNumber("own barcode", uint64(len(need)))
		if err != nil {
			return err
		}
		codes, keys := make([]string, len(need)), make([]string, len(need))
		for i := range need {
			if codes[i], err = barcode.Own(prefix, next+uint64(i)); err != nil {
				return err
			}
			keys[i] = barcode.Key(codes[i])
		}
		owned, err := tx.TakenBarcodes(keys)
		if err != nil {
			return err
		}
		var still []*cell
		for i, c := range need {
			if owned[keys[i]] != 0 || used[keys[i]] {
				still = append(still, c)
				continue
			}
			c.barcode = codes[i]
		}
		need = still
	}
	return nil
}

// Extension is values added to the axes of a product: for each axis by name,
// the new values. LeftOut are new cells that are not made.
type Extension struct {
	Axes      []AxisInput `json:"axes"`
	LeftOut   [][]string  `json:"left_out"`
	OwnPrices []CellPrice `json:"own_prices"`
}

// AddValues adds values to a product's axes and makes the variants that they
// bring, and only those: cells that were left out stay left out.
func (s *Shop) AddValues(ctx context.Context, who Actor, key string, product uint64, in Extension) (MadeProduct, error) {
	return once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (MadeProduct, error) {
		if err := tx.LockProduct(product); err != nil {
			return MadeProduct{}, err
		}
		view, err := tx.Product(product, 0, s.Now())
		if err != nil {
			return MadeProduct{}, err
		}
		p := &planned{row: view.Product, axes: view.Axes, axisIDs: view.AxisIDs, valueIDs: view.ValueIDs}
		skip := catalog.Missing(view.Axes, view.Choices(), nil) // not made before: stays so
		if err := addAxisValues(tx, p, in.Axes); err != nil {
			return MadeProduct{}, err
		}
		for _, c := range in.LeftOut {
			skip = append(skip, c)
		}
		var restock *decimal.Decimal
		if len(view.Variants) > 0 {
			restock = view.Variants[0].RestockLevel
		}
		if err := p.fill(catalog.Missing(p.axes, view.Choices(), skip), in.OwnPrices, restock); err != nil {
			return MadeProduct{}, err
		}
		if err := s.writeCells(tx, []*planned{p}, s.Now()); err != nil {
			return MadeProduct{}, err
		}
		return p.made(), nil
	})
}

// addAxisValues puts new values at the end of the named axes.
func addAxisValues(tx store.Tx, p *planned, input []AxisInput) error {
	p.axes = slices.Clone(p.axes)
	added := 0
	for _, a := range axesOf(input) {
		at := slices.IndexFunc(p.axes, func(x catalog.Axis) bool { return strings.EqualFold(x.Name, a.Name) })
		if at < 0 {
			return fault.Field("axes", a.Name, "an axis of the product", "%s does not vary by %q.", p.row.Name, a.Name)
		}
		have := len(p.axes[at].Values)
		p.axes[at].Values = append(slices.Clone(p.axes[at].Values), a.Values...)
		for i, v := range a.Values {
			row := store.AxisValue{AxisID: p.axisIDs[at], Position: have + i, Name: v.Name, Swatch: strings.ToUpper(v.Swatch)}
			if err := catalog.CheckAxes(p.axes); err != nil {
				return err
			}
			if err := tx.Insert(&row); err != nil {
				return err
			}
			p.valueIDs[at] = append(p.valueIDs[at], row.ID)
			added++
		}
	}
	if added == 0 {
		return fault.Field("axes", "", "at least one new value", "Name the colour or size to add.")
	}
	return nil
}

// PriceChange sets the price of a product, or of some of its variants, or both.
type PriceChange struct {
	Price    string           `json:"price"`
	Variants []VariantPricing `json:"variants"`
}

// VariantPricing is a variant's own price.
type VariantPricing struct {
	Variant uint64 `json:"variant_id"`
	Price   string `json:"price"`
}

// PriceResult says which variants follow the product's price and which keep one
// of their own.
type PriceResult struct {
	Follow []string `json:"follow"`
	Own    []string `json:"own"`
}

// SetPrices changes prices from now on. Prices that do not change are not
// written again.
func (s *Shop) SetPrices(ctx context.Context, who Actor, key string, product uint64, in PriceChange) (PriceResult, error) {
	return once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (PriceResult, error) {
		if err := tx.LockProduct(product); err != nil {
			return PriceResult{}, err
		}
		view, err := tx.Product(product, 0, s.Now())
		if err != nil {
			return PriceResult{}, err
		}
		if strings.TrimSpace(in.Price) != "" {
			amount, err := money.Parse("price", in.Price)
			if err != nil {
				return PriceResult{}, err
			}
			if err := tx.SetPrice(product, nil, amount, s.Now()); err != nil {
				return PriceResult{}, err
			}
		}
		for _, v := range in.Variants {
			have, ok := view.Variant(v.Variant)
			if !ok {
				return PriceResult{}, fault.Missing("variant_id", v.Variant, "%s has no variant %d.", view.Name, v.Variant)
			}
			amount, err := money.Parse("price", v.Price)
			if err != nil {
				return PriceResult{}, err
			}
			if have.Price.Equal(amount) {
				continue
			}
			if err := tx.SetPrice(product, &v.Variant, amount, s.Now()); err != nil {
				return PriceResult{}, err
			}
		}
		view, err = tx.Product(product, 0, s.Now())
		if err != nil {
			return PriceResult{}, err
		}
		result := PriceResult{Follow: []string{}, Own: []string{}}
		for _, v := range view.Variants {
			if v.PriceSource == "own price" {
				result.Own = append(result.Own, v.Label+" "+v.Price.StringFixed(2))
			} else {
				result.Follow = append(result.Follow, v.Label)
			}
		}
		return result, nil
	})
}

// ProductPreview is what making a product would make: the cells with their SKUs.
type ProductPreview struct {
	Axes  []catalog.Axis
	Cells []PreviewCell
}

// PreviewCell is a cell that would be made.
type PreviewCell struct {
	Choice catalog.Choice
	SKU    string
	Price  decimal.Decimal
}

// PreviewProduct works out what MakeProduct would make, by the same plan.
func (s *Shop) PreviewProduct(who Actor, in NewProduct) (ProductPreview, error) {
	if err := who.May(DeedCatalog); err != nil {
		return ProductPreview{}, err
	}
	if strings.TrimSpace(in.Name) == "" {
		in.Name = "New product"
	}
	if strings.TrimSpace(in.Price) == "" {
		in.Price = "0"
	}
	p, err := in.plan()
	if err != nil {
		return ProductPreview{}, err
	}
	preview := ProductPreview{Axes: p.axes}
	for _, c := range p.cells {
		one := PreviewCell{Choice: c.choice, SKU: c.sku, Price: *p.price}
		if c.price != nil {
			one.Price = *c.price
		}
		preview.Cells = append(preview.Cells, one)
	}
	return preview, nil
}
