package lists

import (
	"fmt"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/text"
	shopcatalog "itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/store/goods"
	"itemrack/store/prices"
)

// updateAll changes products that are there, from the rows of each, and returns
// those that changed.
func (im *listImport) updateAll(ids []uint64, lists map[uint64][]int) ([]uint64, error) {
	if len(ids) == 0 {
		return nil, nil
	}
	if err := goods.LockProducts(im.Tx, ids); err != nil {
		return nil, err
	}
	views, err := goods.ProductViews(im.Tx.Q, ids, 0, im.Shop.Now())
	if err != nil {
		return nil, err
	}
	known := knownFacts{}
	if known.attributes, err = goods.AttributesOf(im.Tx.Q, ids); err != nil {
		return nil, err
	}
	if known.suppliers, err = goods.SuppliersOf(im.Tx.Q, ids); err != nil {
		return nil, err
	}
	var variants []uint64
	for _, v := range views {
		variants = append(variants, shopcatalog.VariantIDs(*v)...)
	}
	codes, err := goods.Barcodes(im.Tx.Q, variants)
	if err != nil {
		return nil, err
	}
	known.codes = map[uint64]map[string]uint64{}
	for _, c := range codes {
		if known.codes[c.VariantID] == nil {
			known.codes[c.VariantID] = map[string]uint64{}
		}
		known.codes[c.VariantID][barcode.Key(c.Code)] = c.PackID
	}
	if known.parts, err = goods.BundleParts(im.Tx.Q, variants, 0); err != nil {
		return nil, err
	}
	var changed []uint64
	for _, v := range views {
		did, err := im.update(*v, lists[v.ID], known)
		if err != nil {
			return nil, err
		}
		if did {
			changed = append(changed, v.ID)
		}
	}
	return changed, nil
}

// knownFacts is what stands beside products in other tables.
type knownFacts struct {
	attributes map[uint64][]goods.ProductAttribute
	suppliers  map[uint64][]goods.SupplierPart
	codes      map[uint64]map[string]uint64 // the pack that a barcode is of, by variant and key
	parts      map[uint64][]goods.PartView
}

// update changes a product that is there: new variants are made, and what the
// file says goes before what is kept. An empty cell changes nothing.
func (im *listImport) update(view goods.ProductView, list []int, known knownFacts) (bool, error) {
	head, err := im.updateHead(view, catalog.Head(im.rowsOf(list)), known)
	if e := fault.Of(err); e != nil {
		for _, i := range list {
			im.refuse(i, e)
		}
		return false, nil
	}
	if err != nil {
		return false, err
	}
	at := map[string]goods.VariantView{}
	for _, v := range view.Variants {
		at[v.Choice.Key()] = v
	}
	var add []int
	did := len(head) > 0
	packed := &packing{product: view.ID, tracking: view.Tracking, have: slices.Clone(view.Packs), codes: known.codes}
	for _, i := range list {
		if e := cantChange(view, &im.rows[i]); e != nil {
			im.refuse(i, e)
			continue
		}
		row := im.rows[i]
		have, ok := at[row.Choice().Key()]
		if e := im.claimed(row, func(owner uint64) bool { return owner == have.ID }); e != nil {
			im.refuse(i, e)
			continue
		}
		if !ok {
			add = append(add, i)
			continue
		}
		said, err := im.updateVariant(view, have, row, known, packed)
		if e := fault.Of(err); e != nil {
			im.refuse(i, e)
			continue
		}
		if err != nil {
			return false, err
		}
		im.results[i].SKU, im.results[i].Variant = have.SKU, have.Label
		im.results[i].Outcome, im.results[i].Detail = RowSame, ""
		if row.Opening != nil && row.Opening.IsPositive() {
			im.results[i].Detail = "opening quantity not taken: it is in the book already"
		}
		if said = append(slices.Clone(head), said...); len(said) > 0 {
			im.results[i].Outcome, im.results[i].Detail = RowChanged, text.Cut(strings.Join(said, "; "), 1000)
			did = true
		}
	}
	if err := im.picture(view.ID, deed.Deref(view.PictureID), im.rowsOf(list)); err != nil {
		return false, err
	}
	return did || len(add) > 0, im.addRows(view, add, packed)
}

// cantChange names what a file may not change of a product that is there, and puts the row's
// values into the order of its axes.
func cantChange(view goods.ProductView, row *catalog.ListRow) *fault.Error {
	if row.Tracking != "" && string(row.Tracking) != view.Tracking && !view.Bundle {
		return fault.Refuse("tracking", row.Tracking, view.Tracking, "%s is %s; tracking can't be changed by a list.",
			view.Name, view.Tracking)
	}
	if row.Unit != nil && row.Unit.Code != view.Unit {
		return fault.Refuse("unit", row.Unit.Code, view.Unit, "%s is kept in %s; the unit can't be changed by a list.",
			view.Name, view.Unit)
	}
	values, ok := row.InOrder(view.Axes)
	if !ok {
		names := make([]string, len(view.Axes))
		for i, a := range view.Axes {
			names[i] = a.Name
		}
		varies := "does not vary"
		if len(names) > 0 {
			varies = fmt.Sprintf("varies by %q", strings.Join(names, ", "))
		}
		return fault.Refuse("product", row.Product, "a value for each axis of it and for no other",
			"%s %s, and not by what this row gives.", view.Name, varies)
	}
	row.Axes = values
	return nil
}

// updateHead changes the facts of a product, and says from what to what.
func (im *listImport) updateHead(view goods.ProductView, row catalog.ListRow, known knownFacts) ([]string, error) {
	columns := map[string]any{}
	var said []string
	put := func(column, name, was, is string) {
		if is != "" && is != was {
			columns[column] = is
			said = append(said, name+" "+was+" → "+is)
		}
	}
	put("short_name", "short name", view.ShortName, row.ShortName)
	put("brand", "brand", view.Brand, row.Brand)
	put("description", "description", text.Prose(view.Description), row.Description)
	put("supplier_text", "supplier text", text.Prose(view.SupplierText), row.SupplierText)
	put("style", "style", view.Style, row.Style)
	put("sku_pattern", "SKU pattern", view.SKUPattern, row.SKUPattern)
	if path := strings.Join(row.Category, " > "); path != "" && !text.Same(path, view.Category.Path) {
		category, err := goods.KeepCategory(im.Tx, row.Category)
		if err != nil {
			return nil, err
		}
		columns["category_id"] = category.ID
		said = append(said, "category "+view.Category.Path+" → "+path)
	}
	if class := im.classes[text.Key(row.TaxClass)]; class != 0 &&
		(class != view.TaxClassID || !view.OwnTaxClass) {
		columns["tax_class_id"], columns["own_tax_class"] = class, true
		said = append(said, "tax class "+view.TaxClass.Name+" → "+row.TaxClass)
	}
	if row.Discontinued != nil && *row.Discontinued != view.Discontinued {
		columns["discontinued"] = *row.Discontinued
		said = append(said, map[bool]string{true: "discontinued", false: "no longer discontinued"}[*row.Discontinued])
	}
	if row.Content != nil && (view.Content == nil || !row.Content.Equal(*view.Content) || row.Measure != view.Measure) {
		columns["content"], columns["measure"] = row.Content, row.Measure
		said = append(said, "content "+row.Content.String()+" "+row.Measure)
	}
	if row.Weight != nil && (view.Weight == nil || !row.Weight.Equal(*view.Weight)) {
		columns["weight"] = row.Weight
		said = append(said, "weight "+row.Weight.String()+" kg")
	}
	if supplied, err := im.updateSupplier(view, row, known.suppliers[view.ID], columns); err != nil {
		return nil, err
	} else if supplied != "" {
		said = append(said, supplied)
	}
	attributes := map[string]string{}
	for name, value := range row.Attributes {
		at := slices.IndexFunc(known.attributes[view.ID],
			func(a goods.ProductAttribute) bool { return text.Same(a.Name, name) })
		if at < 0 || known.attributes[view.ID][at].Value != value {
			attributes[name] = value
			said = append(said, name+" "+value)
		}
	}
	if err := goods.SetAttributes(im.Tx, view.ID, attributes); err != nil {
		return nil, err
	}
	if err := goods.UpdateProduct(im.Tx, view.ID, columns); err != nil {
		return nil, err
	}
	if columns["category_id"] != nil && !view.OwnTaxClass {
		return said, goods.SettleTaxClasses(im.Tx, []uint64{view.ID}, view.TaxClassID)
	}
	return said, nil
}

func (im *listImport) updateSupplier(view goods.ProductView, row catalog.ListRow, have []goods.SupplierPart,
	columns map[string]any) (string, error) {
	if row.Supplier == "" {
		return "", nil
	}
	at := slices.IndexFunc(have, func(s goods.SupplierPart) bool { return text.Same(s.Supplier, row.Supplier) })
	usual := text.Same(row.Supplier, view.Supplier)
	if usual && at >= 0 && (row.Part == "" || row.Part == have[at].Part) {
		return "", nil
	}
	supplier, err := goods.KeepSupplier(im.Tx, row.Supplier)
	if err != nil {
		return "", err
	}
	if !usual {
		columns["supplier_id"] = supplier.ID
	}
	err = goods.AddSuppliers(im.Tx,
		[]goods.ProductSupplier{{ProductID: view.ID, SupplierID: supplier.ID, PartNumber: row.Part}})
	if usual {
		return "part number " + row.Part, err
	}
	return "supplier " + view.Supplier + " → " + row.Supplier, err
}

// updateVariant changes a variant, and says from what to what.
func (im *listImport) updateVariant(view goods.ProductView, have goods.VariantView, row catalog.ListRow,
	known knownFacts, packed *packing) ([]string, error) {
	var said []string
	own := prices.Price{
		ProductID:   view.ID,
		VariantID:   &have.ID,
		PriceListID: price.Regular,
		FromAt:      im.Shop.Now(),
		UserID:      &im.Who.ID,
	}
	if row.Price != nil && (have.PriceSource == price.NoPrice || !row.Price.Equal(have.Price)) {
		own.Amount = *row.Price
		if err := prices.SetPrice(im.Tx, own); err != nil {
			return nil, err
		}
		was := "none"
		if have.PriceSource != price.NoPrice {
			was = have.Price.StringFixed(2)
		}
		said = append(said, "price "+was+" → "+row.Price.StringFixed(2))
	}
	for name, amount := range row.Prices {
		list := im.lists[text.Key(name)]
		now := view.Pricing.Book.Find(view.Goods(have), list, decimal.New(1, 0), im.Shop.Now())
		if now.Source != price.NoPrice && now.Source != price.ByRule && now.Amount.Equal(amount) {
			continue
		}
		own.PriceListID, own.Amount = list, amount
		if err := prices.SetPrice(im.Tx, own); err != nil {
			return nil, err
		}
		said = append(said, "price on "+name+" "+amount.StringFixed(2))
	}
	if row.SKU != "" && row.SKU != have.SKU {
		if err := goods.SetSKU(im.Tx, have.ID, row.SKU); err != nil {
			return nil, err
		}
		said = append(said, "SKU "+have.SKU+" → "+row.SKU)
	}
	for _, code := range shopcatalog.CodesOf(row) {
		of, stands := known.codes[have.ID][barcode.Key(code)]
		if stands && of != 0 {
			return nil, fault.Clash("barcode", code, "a barcode of its own",
				"%s stands for a pack of the same variant.", code)
		}
		if stands {
			continue
		}
		if err := goods.AddBarcode(im.Tx, have.ID, nil, code); err != nil {
			return nil, err
		}
		said = append(said, "barcode "+code+" added")
	}
	columns := map[string]any{}
	if row.Restock != nil && !equals(row.Restock, have.OwnRestock, view.RestockLevel) {
		columns["own_restock_level"] = row.Restock
		said = append(said, "restock level "+row.Restock.String())
	}
	if row.Cost != nil && !equals(row.Cost, have.OwnCost, view.Cost) {
		columns["cost"] = row.Cost
		said = append(said, "cost "+row.Cost.String())
	}
	if len(columns) > 0 {
		if err := goods.UpdateVariant(im.Tx, have.ID, columns); err != nil {
			return nil, err
		}
	}
	swatched, err := im.swatches(view, row)
	if err != nil {
		return nil, err
	}
	said = append(said, swatched...)
	if said, err = im.updateParts(said, have, row, known.parts[have.ID]); err != nil {
		return nil, err
	}
	packs, err := im.pack(packed, have.ID, row)
	if err != nil {
		return nil, err
	}
	more, err := im.updatePrices(packed, view, have.ID, row)
	return slices.Concat(said, packs, more), err
}

// swatches gives the values of a row their swatches, and says which had another.
func (im *listImport) swatches(view goods.ProductView, row catalog.ListRow) ([]string, error) {
	var said []string
	for i, given := range row.Axes {
		at := slices.IndexFunc(view.Axes[i].Values, func(v catalog.Value) bool {
			return text.Same(v.Name,
				given.Value.Name)
		})
		if at < 0 || given.Value.Swatch == "" || given.Value.Swatch == view.Axes[i].Values[at].Swatch {
			continue
		}
		if err := goods.SetSwatch(im.Tx, view.ValueIDs[i][at], given.Value.Swatch); err != nil {
			return nil, err
		}
		view.Axes[i].Values[at].Swatch = given.Value.Swatch
		said = append(said, given.Value.Name+" "+given.Value.Swatch)
	}
	return said, nil
}

// updateParts gives a bundle the parts of a row where they are others.
func (im *listImport) updateParts(said []string, have goods.VariantView, row catalog.ListRow,
	parts []goods.PartView) ([]string, error) {
	if len(row.Parts) == 0 {
		return said, nil
	}
	if len(parts) == 0 {
		return nil, fault.Refuse("parts", row.Parts[0].Code, "an empty cell",
			"%s is no bundle; a list can't make it one.",
			row.Product)
	}
	written := func(quantity, code string) string { return quantity + " x " + code }
	var is, was []string
	for _, p := range row.Parts {
		is = append(is, written(p.Quantity, strings.ToUpper(p.Code)))
	}
	for _, p := range parts {
		was = append(was, written(p.Quantity.String(), p.SKU))
	}
	slices.Sort(is)
	slices.Sort(was)
	if slices.Equal(is, was) {
		return said, nil
	}
	im.bundles = append(im.bundles, bundled{have.ID, row.Parts, row.Product})
	return append(said, "parts "+text.Listed(was)+" → "+text.Listed(is)), nil
}

// equals reports whether a figure is the one that holds: the variant's own, else
// its product's.
func equals(figure *decimal.Decimal, own, product *decimal.Decimal) bool {
	if own != nil {
		return figure.Equal(*own)
	}
	return product != nil && figure.Equal(*product)
}

// addRows makes the variants that a product lacks, with new values of its axes
// where the rows bring some.
func (im *listImport) addRows(view goods.ProductView, list []int, packed *packing) error {
	if len(list) == 0 {
		return nil
	}
	rows := im.rowsOf(list)
	p := &shopcatalog.Planned{Row: view.Product, Axes: view.Axes, AxisIDs: view.AxisIDs, ValueIDs: view.ValueIDs}
	for _, a := range catalog.MergeAxes(rows) {
		at := slices.IndexFunc(p.Axes, func(x catalog.Axis) bool { return text.Same(x.Name, a.Name) })
		a.Values = slices.DeleteFunc(a.Values, func(v catalog.Value) bool {
			return slices.ContainsFunc(p.Axes[at].Values,
				func(x catalog.Value) bool { return text.Same(x.Name, v.Name) })
		})
		if len(a.Values) > 0 {
			if err := shopcatalog.AddAxisValues(im.Tx, p, []catalog.Axis{a}); err != nil {
				return err
			}
		}
	}
	if err := p.Take(rows); err != nil {
		return err
	}
	for i := range p.Cells { // the variant follows its product where they agree
		c := &p.Cells[i]
		if first := view.Variants; c.Price != nil && len(first) > 0 && first[0].PriceSource == price.ProductPrice &&
			c.Price.Equal(first[0].Price) {
			c.Price = nil
		}
		if c.Cost != nil && view.Cost != nil && c.Cost.Equal(*view.Cost) {
			c.Cost = nil
		}
		if c.Restock != nil && view.RestockLevel != nil && c.Restock.Equal(*view.RestockLevel) {
			c.Restock = nil
		}
	}
	if err := shopcatalog.WriteCells(im.Deed, []*shopcatalog.Planned{p}, im.Shop.Now()); err != nil {
		return err
	}
	var more []prices.Price
	for n, row := range rows {
		id := p.Cells[n].Id
		if _, err := im.pack(packed, id, row); err != nil {
			return err
		}
		for _, wanted := range beside(row) {
			pack, ok := packed.find(wanted.Pack)
			if ok && price.Stands(nil, view.Pricing.Rows(view.ID, 0, pack.ID)[im.list(wanted)], wanted.Dated,
				im.Shop.Now()) {
				continue
			}
			r, err := im.priceRow(packed, &id, wanted)
			if err != nil {
				return err
			}
			more = append(more, r)
		}
	}
	if len(more) > 0 {
		if err := prices.AddPrices(im.Tx, &more); err != nil {
			return err
		}
	}
	im.finish(p, list)
	return nil
}
