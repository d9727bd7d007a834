package catalog

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/core/unit"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
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
	Revision     uint64          `json:"revision"` // as it was shown; another one is refused
}

// Changed says what a deed changed, in words.
type Changed struct {
	ID   uint64 `json:"id"`
	Says string `json:"says"`
}

// LockProduct reads a product and holds it until the deed is done.
func LockProduct(s *deed.Shop, tx store.Tx, id uint64) (goods.ProductView, error) {
	if err := goods.LockProduct(tx, id); err != nil {
		return goods.ProductView{}, err
	}
	return goods.ReadProduct(tx.Q, id, 0, s.Now())
}

// SaveProduct changes the facts of a product. What its variants are stays as it
// is.
func SaveProduct(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in ProductFacts) (Changed, error) {
	return deed.Once(ctx, s, who, staff.DeedCatalog, key, func(tx store.Tx) (Changed, error) {
		view, err := LockProduct(s, tx, id)
		if err != nil {
			return Changed{}, err
		}
		if err := revision.Check(view.Name, in.Revision, view.Revision); err != nil {
			return Changed{}, err
		}
		if view.Bundle {
			in.Parts = []PartInput{{}} // stays what it is
		}
		set, err := tx.Terms()
		if err != nil {
			return Changed{}, err
		}
		row, err := in.head(set.Minor())
		if err != nil {
			return Changed{}, err
		}
		if err := fixed(s, tx, view, row); err != nil {
			return Changed{}, err
		}
		if err := checkAttributes(in.Attributes); err != nil {
			return Changed{}, err
		}
		usual := ""
		if len(in.Suppliers) > 0 {
			usual = in.Suppliers[0].Supplier
		}
		if err := placeProduct(s, tx, &row, in.Category, usual); err != nil {
			return Changed{}, err
		}
		if row.Style == "" {
			row.Style = view.Style
		}
		if row.SKUPattern == "" {
			row.SKUPattern = view.SKUPattern
		}
		err = goods.UpdateProduct(
			tx,
			id,
			map[string]any{
				"revision":         view.Revision + 1,
				"name":             row.Name,
				"short_name":       row.ShortName,
				"style":            row.Style,
				"sku_pattern":      row.SKUPattern,
				"category_id":      row.CategoryID,
				"supplier_id":      row.SupplierID,
				"tax_class_id":     row.TaxClassID,
				"own_tax_class":    row.OwnTaxClass,
				"buy_tax_class_id": row.BuyTaxClassID,
				"unit":             row.Unit,
				"tracking":         row.Tracking,
				"description":      row.Description,
				"supplier_text":    row.SupplierText,
				"brand":            row.Brand,
				"discontinued":     in.Discontinued,
				"cost":             row.Cost,
				"markup":           row.Markup,
				"ending":           row.Ending,
				"restock_level":    row.RestockLevel,
				"restock_percent":  row.RestockPercent,
				"weight":           row.Weight,
				"expiry_days":      row.ExpiryDays,
				"content":          row.Content,
				"measure":          row.Measure,
			},
		)
		if err != nil {
			return Changed{}, err
		}
		if err := setSuppliers(s, tx, id, in.Suppliers); err != nil {
			return Changed{}, err
		}
		if err := replaceAttributes(tx, id, in.Attributes); err != nil {
			return Changed{}, err
		}
		return Changed{id, row.Name + " is saved."}, Settled(s, tx, []uint64{id})
	})
}

// fixed refuses another tracking or unit for a product whose stock has moved.
func fixed(s *deed.Shop, tx store.Tx, view goods.ProductView, row goods.Product) error {
	if row.Tracking == view.Tracking && row.Unit == view.Unit {
		return nil
	}
	moved, err := goods.HasEntries(tx.Q, VariantIDs(view))
	if err != nil || !moved {
		return err
	}
	field, was := "tracking", view.Tracking
	if row.Tracking == view.Tracking {
		field, was = "unit", view.Unit
	}
	return fault.Refuse(field, was, was,
		"%s has moved stock; its %s stays %s. A new product can take over its name and barcodes.", view.Name, field,
		was)
}

func VariantIDs(view goods.ProductView) []uint64 {
	ids := make([]uint64, len(view.Variants))
	for i, v := range view.Variants {
		ids[i] = v.ID
	}
	return ids
}

func setSuppliers(s *deed.Shop, tx store.Tx, product uint64, list []SupplierInput) error {
	var rows []goods.ProductSupplier
	for _, in := range list {
		name := text.Tidy(in.Supplier)
		if name == "" {
			continue
		}
		if text.Len(in.Part) > 60 {
			return fault.Field("suppliers", in.Part, "60 characters or fewer", "The part number of %s is too long.",
				name)
		}
		row, err := goods.KeepSupplier(tx, name)
		if err != nil {
			return err
		}
		if slices.ContainsFunc(rows, func(r goods.ProductSupplier) bool { return r.SupplierID == row.ID }) {
			return fault.Field("suppliers", name, "each supplier once", "%s stands there twice.", name)
		}
		rows = append(rows,
			goods.ProductSupplier{ProductID: product, SupplierID: row.ID, PartNumber: strings.TrimSpace(in.Part)})
	}
	return goods.SetSuppliers(tx, product, rows)
}

func replaceAttributes(tx store.Tx, product uint64, attributes map[string]string) error {
	have, err := goods.AttributesOf(tx.Q, []uint64{product})
	if err != nil {
		return err
	}
	next := map[string]string{}
	for _, a := range have[product] {
		next[a.Name] = ""
	}
	for name, value := range attributes {
		next[text.Tidy(name)] = strings.TrimSpace(value)
	}
	return goods.SetAttributes(tx, product, next)
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
func ChangeCells(ctx context.Context, s *deed.Shop, who staff.Actor, key string, product uint64,
	in CellChange) (Changed, error) {
	return deed.Once(ctx, s, who, staff.DeedCatalog, key, func(tx store.Tx) (Changed, error) {
		view, err := LockProduct(s, tx, product)
		if err != nil {
			return Changed{}, err
		}
		for _, c := range in.Cells {
			v, ok := view.Variant(c.Variant)
			if !ok {
				return Changed{}, fault.Missing("variant_id", c.Variant, "%s has no variant %d.", view.Name, c.Variant)
			}
			if err := changeCell(s, tx, view, v, in.Figure, c.Text); err != nil {
				return Changed{}, err
			}
		}
		return Changed{product, fmt.Sprintf("%d changed.", len(in.Cells))}, Settled(s, tx, []uint64{product})
	})
}

func changeCell(s *deed.Shop, tx store.Tx, view goods.ProductView, v goods.VariantView, figure, text string) error {
	switch figure {
	case "sku":
		sku, err := catalog.CheckSKU(text)
		if err != nil {
			return err
		}
		return goods.SetSKU(tx, v.ID, sku)
	case "cost":
		cost, err := number.Optional("cost", text, money.ParseCost)
		if err != nil {
			return err
		}
		return goods.UpdateVariant(tx, v.ID, map[string]any{"cost": cost})
	case "restock_level":
		level, err := number.Optional("restock_level", text, view.UnitOf.Parse)
		if err != nil {
			return err
		}
		return goods.UpdateVariant(tx, v.ID, map[string]any{"own_restock_level": level})
	case "retired":
		return goods.UpdateVariant(tx, v.ID, map[string]any{"retired": text == "yes"})
	}
	return fault.Field("figure", figure, "sku, cost, restock_level or retired", "A cell has no %q.", figure)
}

// SetParts checks and writes the components of a bundle.
func SetParts(tx store.Tx, bundle uint64, in []PartInput) error {
	ids := make([]uint64, len(in))
	for i, p := range in {
		ids[i] = p.Variant
	}
	names, err := goods.VariantNames(tx.Q, ids)
	if err != nil {
		return err
	}
	held, err := book.Look(tx.Q, ids)
	if err != nil {
		return err
	}
	nested, err := goods.BundleParts(tx.Q, ids, 0)
	if err != nil {
		return err
	}
	var parts []catalog.Part
	var rows []goods.BundlePart
	for _, p := range in {
		name := catalog.FullName(names[p.Variant][0], names[p.Variant][1])
		if len(nested[p.Variant]) > 0 || p.Variant == bundle {
			return fault.Field("parts", name, "a product that is no bundle",
				"%s is a bundle itself; name what is in it.", name)
		}
		if slices.ContainsFunc(rows, func(r goods.BundlePart) bool { return r.VariantID == p.Variant }) {
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
		rows = append(rows, goods.BundlePart{BundleID: bundle, VariantID: p.Variant, Quantity: q})
	}
	if err := catalog.CheckParts(parts); err != nil {
		return err
	}
	return goods.SetBundleParts(tx, bundle, rows)
}

// partsOf are the parts of a bundle without what is on hand of them.
func partsOf(list []goods.PartView) []PartInput {
	parts := make([]PartInput, len(list))
	for i, p := range list {
		parts[i] = PartInput{p.Variant, p.Quantity.String()}
	}
	return parts
}

// PartsView is what is in a bundle, with its revision.
type PartsView struct {
	Parts    []goods.PartView `json:"parts"`
	Revision string           `json:"revision"`
}

// PartsOf reads what is in a product that is a bundle, nothing where it is none, with what a branch has of it.
func PartsOf(q store.Q, view goods.ProductView, branch uint64) (PartsView, error) {
	list := []goods.PartView{}
	if view.Bundle && len(view.Variants) > 0 {
		bundle := view.Variants[0].ID
		all, err := goods.BundleParts(q, []uint64{bundle}, branch)
		if err != nil {
			return PartsView{}, err
		}
		list = append(list, all[bundle]...)
	}
	return PartsView{list, revision.Of(partsOf(list))}, nil
}

// ReadSetParts changes what is in a bundle from now on.
func ReadSetParts(ctx context.Context, s *deed.Shop, who staff.Actor, key string, product uint64,
	in PartsInput) (Changed, error) {
	return deed.Once(ctx, s, who, staff.DeedCatalog, key, func(tx store.Tx) (Changed, error) {
		view, err := LockProduct(s, tx, product)
		if err != nil {
			return Changed{}, err
		}
		if !view.Bundle {
			return Changed{}, fault.Refuse("product", view.Name, "a bundle", "%s is no bundle.", view.Name)
		}
		bundle := view.Variants[0].ID
		have, err := goods.BundleParts(tx.Q, []uint64{bundle}, 0)
		if err != nil {
			return Changed{}, err
		}
		if err := revision.CheckOf("What is in "+view.Name, in.Revision, partsOf(have[bundle])); err != nil {
			return Changed{}, err
		}
		if err := SetParts(tx, bundle, in.Parts); err != nil {
			return Changed{}, err
		}
		return Changed{product, view.Name + " is saved."}, Settled(s, tx, []uint64{product})
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
func ChangeValue(ctx context.Context, s *deed.Shop, who staff.Actor, key string, product uint64,
	in ValueChange) (Changed, error) {
	return deed.Once(ctx, s, who, staff.DeedCatalog, key, func(tx store.Tx) (Changed, error) {
		view, err := LockProduct(s, tx, product)
		if err != nil {
			return Changed{}, err
		}
		axis := slices.IndexFunc(view.Axes, func(a catalog.Axis) bool { return text.Same(a.Name, in.Axis) })
		if axis < 0 {
			return Changed{}, fault.Missing("axis", in.Axis, "%s does not vary by %q.", view.Name, in.Axis)
		}
		value := slices.IndexFunc(view.Axes[axis].Values,
			func(v catalog.Value) bool { return text.Same(v.Name, in.Value) })
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
			return Changed{product, says}, goods.RetireAxisValue(tx, id, in.Do == "retire")
		case "drop":
			return dropValue(s, tx, view, axis, id, name)
		}
		return Changed{}, fault.Field("do", in.Do, "drop, retire or restore", "A value can't be %q.", in.Do)
	})
}

func dropValue(s *deed.Shop, tx store.Tx, view goods.ProductView, axis int, id uint64, name string) (Changed, error) {
	var gone []uint64
	for _, v := range view.Variants {
		if len(v.Choice) > axis && v.Choice[axis] == name {
			gone = append(gone, v.ID)
		}
	}
	if len(gone) == len(view.Variants) {
		return Changed{}, fault.Refuse("value", name, "a value that leaves variants", "%s would have no variant left.",
			view.Name)
	}
	moved, err := goods.HasEntries(tx.Q, gone)
	if err != nil {
		return Changed{}, err
	}
	if moved {
		return Changed{}, fault.Refuse("value", name, "to retire it",
			"%s in %s has had stock or sales; it can be retired, and not dropped.", view.Name, name)
	}
	if err := book.Forget(tx, gone); err != nil {
		return Changed{}, err
	}
	if err := goods.DropVariants(tx, gone); err != nil {
		return Changed{}, err
	}
	if err := goods.DropAxisValue(tx, id); err != nil {
		return Changed{}, err
	}
	return Changed{view.ID,
			fmt.Sprintf("%s is dropped, with %s.", name, text.Plural(len(gone), "variant", "variants"))},
		Settled(s, tx, []uint64{view.ID})
}

// DropProduct drops a product that never had stock or sales.
func DropProduct(ctx context.Context, s *deed.Shop, who staff.Actor, product uint64) (Changed, error) {
	return deed.Once(ctx, s, who, staff.DeedCatalog, "", func(tx store.Tx) (Changed, error) {
		view, err := LockProduct(s, tx, product)
		if err != nil {
			return Changed{}, err
		}
		moved, err := goods.HasEntries(tx.Q, VariantIDs(view))
		if err != nil {
			return Changed{}, err
		}
		if moved {
			return Changed{}, fault.Refuse("product", view.Name, "to discontinue it",
				"%s has had stock or sales; it can be discontinued, and not dropped.", view.Name)
		}
		if err := book.Forget(tx, VariantIDs(view)); err != nil {
			return Changed{}, err
		}
		if err := goods.DropVariants(tx, VariantIDs(view)); err != nil {
			return Changed{}, err
		}
		if err := book.ForgetProduct(tx, product); err != nil {
			return Changed{}, err
		}
		return Changed{product, view.Name + " is dropped."}, goods.DropProduct(tx, product)
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
func Succeed(ctx context.Context, s *deed.Shop, who staff.Actor, key string, product uint64,
	in Successor) (MadeProduct, error) {
	return deed.Once(ctx, s, who, staff.DeedCatalog, key, func(tx store.Tx) (MadeProduct, error) {
		if err := goods.LockProduct(tx, product); err != nil {
			return MadeProduct{}, err
		}
		old, err := goods.ReadProduct(tx.Q, product, 0, s.Now())
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
			return MadeProduct{}, fault.Field("tracking", in.Tracking, "another tracking or unit",
				"That is what %s has already.", old.Name)
		}
		if _, err := (NewProduct{Name: old.Name, Tracking: in.Tracking,
			Unit: u.Code}).head(money.Hundredth); err != nil {
			return MadeProduct{}, err
		}
		name := old.Name
		for n := 2; ; n++ {
			retired := fmt.Sprintf("%s (before, %d)", name[:min(len(name), 100)], n-1)
			have, err := goods.ProductByName(tx.Q, retired)
			if err != nil {
				return MadeProduct{}, err
			}
			if have == 0 {
				if err := goods.UpdateProduct(tx, product, map[string]any{"name": retired,
					"discontinued": true}); err != nil {
					return MadeProduct{}, err
				}
				break
			}
		}
		p := &Planned{Row: old.Product, Axes: old.Axes}
		p.Row.ID, p.Row.Name, p.Row.Tracking, p.Row.Unit, p.Row.Discontinued, p.Row.Words = 0, name, in.Tracking,
			u.Code, false, ""
		for _, v := range old.Variants {
			c := cell{choice: v.Choice, Sku: v.SKU, Cost: v.OwnCost, Restock: v.OwnRestock}
			if v.PriceSource == "own price" {
				c.Price = &v.Price
			} else if p.Price == nil && v.PriceSource == "product's price" {
				p.Price = &v.Price
			}
			p.Cells = append(p.Cells, c)
		}
		if err := Write(s, tx, []*Planned{p}); err != nil {
			return MadeProduct{}, err
		}
		for i, v := range old.Variants {
			if err := goods.MoveBarcodes(tx, v.ID, p.Cells[i].Id); err != nil {
				return MadeProduct{}, err
			}
			p.Cells[i].barcodes = []string{v.Barcode}
		}
		return p.made(), Settled(s, tx, []uint64{product, p.Row.ID})
	})
}
