package shop

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/stock"
	"itemrack/core/unit"
	"itemrack/store"
)

// SupplierInput is a supplier of a product with its own number for it.
type SupplierInput struct {
	Supplier string `json:"supplier"`
	Part     string `json:"part"`
}

// ProductFacts are the facts of a product as they are typed; tracking and unit
// can change until stock has moved. Suppliers stand with the usual one first.
type ProductFacts struct {
	NewProduct
	Discontinued bool            `json:"discontinued"`
	Suppliers    []SupplierInput `json:"suppliers"`
}

// Changed says what a deed changed, in words.
type Changed struct {
	ID   uint64 `json:"id"`
	Says string `json:"says"`
}

// lockProduct reads a product and holds it until the deed is done.
func (s *Shop) lockProduct(tx store.Tx, id uint64) (store.ProductView, error) {
	if err := tx.LockProduct(id); err != nil {
		return store.ProductView{}, err
	}
	return tx.Product(id, 0, s.Now())
}

// SaveProduct changes the facts of a product. What its variants are stays as it
// is.
func (s *Shop) SaveProduct(ctx context.Context, who Actor, key string, id uint64, in ProductFacts) (Changed, error) {
	return once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (Changed, error) {
		view, err := s.lockProduct(tx, id)
		if err != nil {
			return Changed{}, err
		}
		if view.Bundle {
			in.Parts = []PartInput{{}} // stays what it is
		}
		row, err := in.head()
		if err != nil {
			return Changed{}, err
		}
		if err := s.fixed(tx, view, row); err != nil {
			return Changed{}, err
		}
		if err := checkAttributes(in.Attributes); err != nil {
			return Changed{}, err
		}
		usual := ""
		if len(in.Suppliers) > 0 {
			usual = in.Suppliers[0].Supplier
		}
		if err := s.placeProduct(tx, &row, in.Category, usual); err != nil {
			return Changed{}, err
		}
		if row.Style == "" {
			row.Style = view.Style
		}
		if row.SKUPattern == "" {
			row.SKUPattern = view.SKUPattern
		}
		err = tx.UpdateProduct(id, map[string]any{"name": row.Name, "short_name": row.ShortName, "style": row.Style, "sku_pattern": row.SKUPattern, "category_id": row.CategoryID, "supplier_id": row.SupplierID,
			"tax_class_id": row.TaxClassID, "own_tax_class": row.OwnTaxClass, "buy_tax_class_id": row.BuyTaxClassID, "unit": row.Unit, "tracking": row.Tracking, "description": row.Description, "supplier_text": row.SupplierText,
			"brand": row.Brand, "discontinued": in.Discontinued, "cost": row.Cost, "markup": row.Markup, "ending": row.Ending, "restock_level": row.RestockLevel, "content": row.Content, "measure": row.Measure})
		if err != nil {
			return Changed{}, err
		}
		if err := s.setSuppliers(tx, id, in.Suppliers); err != nil {
			return Changed{}, err
		}
		if err := replaceAttributes(tx, id, in.Attributes); err != nil {
			return Changed{}, err
		}
		return Changed{id, row.Name + " is saved."}, s.settled(tx, []uint64{id})
	})
}

// fixed refuses another tracking or unit for a product whose stock has moved.
func (s *Shop) fixed(tx store.Tx, view store.ProductView, row store.Product) error {
	if row.Tracking == view.Tracking && row.Unit == view.Unit {
		return nil
	}
	moved, err := tx.HasEntries(variantIDs(view))
	if err != nil || !moved {
		return err
	}
	field, was := "tracking", view.Tracking
	if row.Tracking == view.Tracking {
		field, was = "unit", view.Unit
	}
	return fault.Refuse(field, was, was, "%s has moved stock; its %s stays %s. A new product can take over its name and barcodes.", view.Name, field, was)
}

func variantIDs(view store.ProductView) []uint64 {
	ids := make([]uint64, len(view.Variants))
	for i, v := range view.Variants {
		ids[i] = v.ID
	}
	return ids
}

func (s *Shop) setSuppliers(tx store.Tx, product uint64, list []SupplierInput) error {
	var rows []store.ProductSupplier
	for _, in := range list {
		name := strings.Join(strings.Fields(in.Supplier), " ")
		if name == "" {
			continue
		}
		if len(in.Part) > 60 {
			return fault.Field("suppliers", in.Part, "60 characters or fewer", "The part number of %s is too long.", name)
		}
		row, err := tx.Supplier(name)
		if err != nil {
			return err
		}
		if slices.ContainsFunc(rows, func(r store.ProductSupplier) bool { return r.SupplierID == row.ID }) {
			return fault.Field("suppliers", name, "each supplier once", "%s stands there twice.", name)
		}
		rows = append(rows, store.ProductSupplier{ProductID: product, SupplierID: row.ID, PartNumber: strings.TrimSpace(in.Part)})
	}
	return tx.SetSuppliers(product, rows)
}

func replaceAttributes(tx store.Tx, product uint64, attributes map[string]string) error {
	have, err := tx.AttributesOf([]uint64{product})
	if err != nil {
		return err
	}
	next := map[string]string{}
	for _, a := range have[product] {
		next[a.Name] = ""
	}
	for name, value := range attributes {
		next[strings.TrimSpace(name)] = strings.TrimSpace(value)
	}
	return tx.SetAttributes(product, next)
}

// CellChange is what was typed over some cells of a rack: a SKU, an expected
// cost, a restock level, or whether it is retired. An empty cost or level takes
// the product's again.
type CellChange struct {
	Figure string      `json:"figure"` // sku, cost, restock_level or retired
	Cells  []CellTyped `json:"cells"`
}

// CellTyped is what was typed for one variant.
type CellTyped struct {
	Variant uint64 `json:"variant_id"`
	Text    string `json:"text"`
}

// ChangeCells changes a figure of some variants of a product, all or none.
func (s *Shop) ChangeCells(ctx context.Context, who Actor, key string, product uint64, in CellChange) (Changed, error) {
	return once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (Changed, error) {
		view, err := s.lockProduct(tx, product)
		if err != nil {
			return Changed{}, err
		}
		for _, c := range in.Cells {
			v, ok := view.Variant(c.Variant)
			if !ok {
				return Changed{}, fault.Missing("variant_id", c.Variant, "%s has no variant %d.", view.Name, c.Variant)
			}
			if err := s.changeCell(tx, view, v, in.Figure, c.Text); err != nil {
				return Changed{}, err
			}
		}
		return Changed{product, fmt.Sprintf("%d changed.", len(in.Cells))}, s.settled(tx, []uint64{product})
	})
}

func (s *Shop) changeCell(tx store.Tx, view store.ProductView, v store.VariantView, figure, text string) error {
	switch figure {
	case "sku":
		sku, err := catalog.CheckSKU(text)
		if err != nil {
			return err
		}
		return tx.SetSKU(v.ID, sku)
	case "cost":
		cost, err := number.Optional("cost", text, money.ParseCost)
		if err != nil {
			return err
		}
		return tx.UpdateVariant(v.ID, map[string]any{"cost": cost})
	case "restock_level":
		level, err := number.Optional("restock_level", text, view.UnitOf.Parse)
		if err != nil {
			return err
		}
		return tx.UpdateVariant(v.ID, map[string]any{"own_restock_level": level})
	case "retired":
		return tx.UpdateVariant(v.ID, map[string]any{"retired": text == "yes"})
	}
	return fault.Field("figure", figure, "sku, cost, restock_level or retired", "A cell has no %q.", figure)
}

// BarcodeInput gives a variant, or a pack of it, a barcode. An empty code takes a
// number of the shop's own.
type BarcodeInput struct {
	Code string `json:"code"`
	Pack uint64 `json:"pack_id"`
}

// AddBarcode gives a variant a further barcode, as a scan into its cell does.
func (s *Shop) AddBarcode(ctx context.Context, who Actor, key string, variant uint64, in BarcodeInput) (MadeVariant, error) {
	return once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (MadeVariant, error) {
		found, err := tx.Sellables([]uint64{variant}, s.Now())
		if err != nil {
			return MadeVariant{}, err
		}
		v, ok := found[variant]
		if !ok {
			return MadeVariant{}, fault.Missing("variant", variant, "There is no variant %d.", variant)
		}
		code := in.Code
		if strings.TrimSpace(code) == "" {
			one := []*planned{{cells: []cell{{}}}}
			if err := allotBarcodes(tx, one); err != nil {
				return MadeVariant{}, err
			}
			code = one[0].cells[0].barcodes[0]
		}
		if code, err = barcode.Parse(code); err != nil {
			return MadeVariant{}, err
		}
		if in.Pack != 0 {
			if _, ok := v.Pack(in.Pack); !ok {
				return MadeVariant{}, fault.Missing("pack_id", in.Pack, "%s has no pack %d.", v.Name, in.Pack)
			}
		}
		if err := tx.AddBarcode(variant, reference(in.Pack), code); err != nil {
			return MadeVariant{}, err
		}
		return MadeVariant{ID: variant, Label: v.Label, SKU: v.SKU, Barcode: code}, tx.Reindex([]uint64{v.ProductID})
	})
}

// DropBarcode takes a barcode off a variant.
func (s *Shop) DropBarcode(ctx context.Context, who Actor, variant uint64, code string) (MadeVariant, error) {
	return once(ctx, s, who, DeedCatalog, "", func(tx store.Tx) (MadeVariant, error) {
		owner, _, err := tx.Owner(code)
		if err != nil {
			return MadeVariant{}, err
		}
		if owner != variant {
			return MadeVariant{}, fault.Missing("code", code, "The barcode %s is not of this variant.", code)
		}
		if err := tx.DropBarcode(variant, code); err != nil {
			return MadeVariant{}, err
		}
		products, err := tx.ProductsOf([]uint64{variant})
		if err != nil {
			return MadeVariant{}, err
		}
		return MadeVariant{ID: variant, Barcode: code}, tx.Reindex(products)
	})
}

// PackInput is a pack as it is typed, with its barcode on one variant and its
// price on the Regular list where they are given.
type PackInput struct {
	Name    string `json:"name"`
	Factor  string `json:"factor"`
	Bought  bool   `json:"bought"` // the product is bought in it
	Barcode string `json:"barcode"`
	Variant uint64 `json:"variant_id"`
	Price   string `json:"price"`
}

// SavePack makes a pack of a product, or changes the one with a number.
func (s *Shop) SavePack(ctx context.Context, who Actor, key string, product, id uint64, in PackInput) (store.Pack, error) {
	return once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (store.Pack, error) {
		view, err := s.lockProduct(tx, product)
		if err != nil {
			return store.Pack{}, err
		}
		if view.Tracking == string(stock.BySerial) {
			return store.Pack{}, fault.Refuse("pack", in.Name, "a product without serial numbers", "%s is kept by serial number; it comes one by one.", view.Name)
		}
		p := store.Pack{ID: id, ProductID: product, Name: strings.Join(strings.Fields(in.Name), " "), Bought: in.Bought}
		if p.Name == "" || len(p.Name) > 40 {
			return p, fault.Field("name", in.Name, "box of 12", "A pack needs a name of 1 to 40 characters.")
		}
		if p.Factor, err = view.UnitOf.Parse("factor", in.Factor); err != nil {
			return p, err
		}
		if err := catalog.CheckFactor("factor", p.Factor); err != nil {
			return p, err
		}
		if id != 0 && !slices.ContainsFunc(view.Packs, func(have store.Pack) bool { return have.ID == id }) {
			return p, fault.Missing("pack", id, "%s has no pack %d.", view.Name, id)
		}
		if err := tx.SavePack(&p); err != nil {
			return p, err
		}
		return p, s.packExtras(tx, who, view, p, in)
	})
}

func (s *Shop) packExtras(tx store.Tx, who Actor, view store.ProductView, p store.Pack, in PackInput) error {
	if strings.TrimSpace(in.Barcode) != "" {
		variant := in.Variant
		if variant == 0 && len(view.Variants) == 1 {
			variant = view.Variants[0].ID
		}
		if _, ok := view.Variant(variant); !ok {
			return fault.Field("variant_id", in.Variant, "one of its variants", "Say which variant of %s the barcode is of.", view.Name)
		}
		code, err := barcode.Parse(in.Barcode)
		if err != nil {
			return err
		}
		if err := tx.AddBarcode(variant, &p.ID, code); err != nil {
			return err
		}
	}
	if strings.TrimSpace(in.Price) != "" {
		amount, err := money.Parse("price", in.Price)
		if err != nil {
			return err
		}
		if err := tx.SetPrice(store.Price{ProductID: view.ID, PackID: &p.ID, FromAt: s.Now(), Amount: amount, UserID: &who.ID}); err != nil {
			return err
		}
	}
	return tx.Reindex([]uint64{view.ID})
}

// DropPack drops a pack; what was sold in it keeps its name.
func (s *Shop) DropPack(ctx context.Context, who Actor, product, id uint64) (Changed, error) {
	return once(ctx, s, who, DeedCatalog, "", func(tx store.Tx) (Changed, error) {
		packs, err := tx.Packs([]uint64{product})
		if err != nil {
			return Changed{}, err
		}
		if !slices.ContainsFunc(packs[product], func(p store.Pack) bool { return p.ID == id }) {
			return Changed{}, fault.Missing("pack", id, "There is no pack %d.", id)
		}
		return Changed{id, "The pack is dropped."}, tx.DropPack(id)
	})
}

// setParts checks and writes the components of a bundle.
func setParts(tx store.Tx, bundle uint64, in []PartInput) error {
	ids := make([]uint64, len(in))
	for i, p := range in {
		ids[i] = p.Variant
	}
	names, err := tx.VariantNames(ids)
	if err != nil {
		return err
	}
	held, err := tx.Look(ids)
	if err != nil {
		return err
	}
	nested, err := tx.BundleParts(ids, 0)
	if err != nil {
		return err
	}
	var parts []catalog.Part
	var rows []store.BundlePart
	for _, p := range in {
		name := catalog.FullName(names[p.Variant][0], names[p.Variant][1])
		if len(nested[p.Variant]) > 0 || p.Variant == bundle {
			return fault.Field("parts", name, "a product that is no bundle", "%s is a bundle itself; name what is in it.", name)
		}
		if slices.ContainsFunc(rows, func(r store.BundlePart) bool { return r.VariantID == p.Variant }) {
			return fault.Field("parts", name, "each part once", "%s stands there twice.", name)
		}
		q, err := held.Items[p.Variant].Unit.Parse("parts", p.Quantity)
		if err != nil {
			return err
		}
		if held.Items[p.Variant].Tracking == stock.BySerial && !q.Equal(decimal.New(1, 0)) {
			return fault.Field("parts", p.Quantity, "1", "%s has serial numbers; a bundle holds one.", name)
		}
		parts = append(parts, catalog.Part{Name: name, Quantity: q})
		rows = append(rows, store.BundlePart{BundleID: bundle, VariantID: p.Variant, Quantity: q})
	}
	if err := catalog.CheckParts(parts); err != nil {
		return err
	}
	return tx.SetBundleParts(bundle, rows)
}

// SetParts changes what is in a bundle from now on.
func (s *Shop) SetParts(ctx context.Context, who Actor, key string, product uint64, in []PartInput) (Changed, error) {
	return once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (Changed, error) {
		view, err := s.lockProduct(tx, product)
		if err != nil {
			return Changed{}, err
		}
		if !view.Bundle {
			return Changed{}, fault.Refuse("product", view.Name, "a bundle", "%s is no bundle.", view.Name)
		}
		if err := setParts(tx, view.Variants[0].ID, in); err != nil {
			return Changed{}, err
		}
		return Changed{product, view.Name + " is saved."}, s.settled(tx, []uint64{product})
	})
}

// ValueChange drops or retires a value of a product's axis.
type ValueChange struct {
	Axis  string `json:"axis"`
	Value string `json:"value"`
	Do    string `json:"do"` // drop, retire or restore
}

// ChangeValue drops a value of a product's axis with its variants, or retires it:
// then it is no longer bought, and sells until it is gone. One with stock or
// sales can't be dropped.
func (s *Shop) ChangeValue(ctx context.Context, who Actor, key string, product uint64, in ValueChange) (Changed, error) {
	return once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (Changed, error) {
		view, err := s.lockProduct(tx, product)
		if err != nil {
			return Changed{}, err
		}
		axis := slices.IndexFunc(view.Axes, func(a catalog.Axis) bool { return strings.EqualFold(a.Name, in.Axis) })
		if axis < 0 {
			return Changed{}, fault.Missing("axis", in.Axis, "%s does not vary by %q.", view.Name, in.Axis)
		}
		value := slices.IndexFunc(view.Axes[axis].Values, func(v catalog.Value) bool { return strings.EqualFold(v.Name, in.Value) })
		if value < 0 {
			return Changed{}, fault.Missing("value", in.Value, "%s has no %s %q.", view.Name, in.Axis, in.Value)
		}
		id, name := view.ValueIDs[axis][value], view.Axes[axis].Values[value].Name
		switch in.Do {
		case "retire", "restore":
			says := name + " is retired: it is no longer bought, and sells until it is gone."
			if in.Do == "restore" {
				says = name + " is bought again."
			}
			return Changed{product, says}, tx.RetireAxisValue(id, in.Do == "retire")
		case "drop":
			return s.dropValue(tx, view, axis, id, name)
		}
		return Changed{}, fault.Field("do", in.Do, "drop, retire or restore", "A value can't be %q.", in.Do)
	})
}

func (s *Shop) dropValue(tx store.Tx, view store.ProductView, axis int, id uint64, name string) (Changed, error) {
	var gone []uint64
	for _, v := range view.Variants {
		if len(v.Choice) > axis && v.Choice[axis] == name {
			gone = append(gone, v.ID)
		}
	}
	if len(gone) == len(view.Variants) {
		return Changed{}, fault.Refuse("value", name, "a value that leaves variants", "%s would have no variant left.", view.Name)
	}
	moved, err := tx.HasEntries(gone)
	if err != nil {
		return Changed{}, err
	}
	if moved {
		return Changed{}, fault.Refuse("value", name, "to retire it", "%s in %s has had stock or sales; it can be retired, and not dropped.", view.Name, name)
	}
	if err := tx.DropVariants(gone); err != nil {
		return Changed{}, err
	}
	if err := tx.DropAxisValue(id); err != nil {
		return Changed{}, err
	}
	return Changed{view.ID, fmt.Sprintf("%s is dropped, with %d variants.", name, len(gone))}, tx.Reindex([]uint64{view.ID})
}

// DropProduct drops a product that never had stock or sales.
func (s *Shop) DropProduct(ctx context.Context, who Actor, product uint64) (Changed, error) {
	return once(ctx, s, who, DeedCatalog, "", func(tx store.Tx) (Changed, error) {
		view, err := s.lockProduct(tx, product)
		if err != nil {
			return Changed{}, err
		}
		moved, err := tx.HasEntries(variantIDs(view))
		if err != nil {
			return Changed{}, err
		}
		if moved {
			return Changed{}, fault.Refuse("product", view.Name, "to discontinue it", "%s has had stock or sales; it can be discontinued, and not dropped.", view.Name)
		}
		if err := tx.DropVariants(variantIDs(view)); err != nil {
			return Changed{}, err
		}
		return Changed{product, view.Name + " is dropped."}, tx.DropProduct(product)
	})
}

// Successor is a product that takes over the name and barcodes of another, with
// another tracking or unit.
type Successor struct {
	Tracking string `json:"tracking"`
	Unit     string `json:"unit"`
}

// Succeed makes a new product with the name, rack and barcodes of one whose stock
// has moved, so that its tracking or unit can be another. The old one is
// discontinued and keeps its history under its name with a number.
func (s *Shop) Succeed(ctx context.Context, who Actor, key string, product uint64, in Successor) (MadeProduct, error) {
	return once(ctx, s, who, DeedCatalog, key, func(tx store.Tx) (MadeProduct, error) {
		if err := tx.LockProduct(product); err != nil {
			return MadeProduct{}, err
		}
		old, err := tx.Product(product, 0, s.Now())
		if err != nil {
			return MadeProduct{}, err
		}
		if in.Tracking == "" {
			in.Tracking = old.Tracking
		}
		u, err := unit.ByCode(in.Unit)
		if err != nil {
			return MadeProduct{}, err
		}
		if in.Tracking == old.Tracking && u.Code == old.Unit {
			return MadeProduct{}, fault.Field("tracking", in.Tracking, "another tracking or unit", "That is what %s has already.", old.Name)
		}
		if _, err := (NewProduct{Name: old.Name, Tracking: in.Tracking, Unit: u.Code}).head(); err != nil {
			return MadeProduct{}, err
		}
		name := old.Name
		for n := 2; ; n++ {
			retired := fmt.Sprintf("%s (before, %d)", name[:min(len(name), 100)], n-1)
			have, err := tx.ProductByName(retired)
			if err != nil {
				return MadeProduct{}, err
			}
			if have == 0 {
				if err := tx.UpdateProduct(product, map[string]any{"name": retired, "discontinued": true}); err != nil {
					return MadeProduct{}, err
				}
				break
			}
		}
		p := &planned{row: old.Product, axes: old.Axes}
		p.row.ID, p.row.Name, p.row.Tracking, p.row.Unit, p.row.Discontinued, p.row.Words = 0, name, in.Tracking, u.Code, false, ""
		for _, v := range old.Variants {
			c := cell{choice: v.Choice, sku: v.SKU, cost: v.OwnCost, restock: v.OwnRestock}
			if v.PriceSource == "own price" {
				c.price = &v.Price
			} else if p.price == nil && v.PriceSource == "product's price" {
				p.price = &v.Price
			}
			p.cells = append(p.cells, c)
		}
		if err := s.write(tx, []*planned{p}); err != nil {
			return MadeProduct{}, err
		}
		for i, v := range old.Variants {
			if err := tx.MoveBarcodes(v.ID, p.cells[i].id); err != nil {
				return MadeProduct{}, err
			}
			p.cells[i].barcodes = []string{v.Barcode}
		}
		return p.made(), s.settled(tx, []uint64{product, p.row.ID})
	})
}
