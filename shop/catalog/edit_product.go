package catalog

import (
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
func LockProduct(do deed.Deed, id uint64) (goods.ProductView, error) {
	if err := goods.LockProduct(do.Tx, id); err != nil {
		return goods.ProductView{}, err
	}
	return goods.ReadProduct(do.Tx.Q, id, 0, do.Shop.Now())
}

// SaveProduct changes the facts of a product. What its variants are stays as it
// is.
func SaveProduct(do deed.Deed, id uint64, in ProductFacts) (Changed, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (Changed, error) {
		view, err := LockProduct(do, id)
		if err != nil {
			return Changed{}, err
		}
		if err := revision.Check(view.Name, in.Revision, view.Revision); err != nil {
			return Changed{}, err
		}
		if view.Bundle {
			in.Parts = []PartInput{{}} // stays what it is
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return Changed{}, err
		}
		row, err := in.head(set.Minor())
		if err != nil {
			return Changed{}, err
		}
		if err := fixed(do, view, row); err != nil {
			return Changed{}, err
		}
		if err := checkAttributes(in.Attributes); err != nil {
			return Changed{}, err
		}
		usual := ""
		if len(in.Suppliers) > 0 {
			usual = in.Suppliers[0].Supplier
		}
		if err := placeProduct(do, &row, in.Category, usual); err != nil {
			return Changed{}, err
		}
		if row.Style == "" {
			row.Style = view.Style
		}
		if row.SKUPattern == "" {
			row.SKUPattern = view.SKUPattern
		}
		err = goods.UpdateProduct(
			do.Tx,
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
		if err := setSuppliers(do, id, in.Suppliers); err != nil {
			return Changed{}, err
		}
		if err := replaceAttributes(do.Tx, id, in.Attributes); err != nil {
			return Changed{}, err
		}
		return Changed{id, row.Name + " is saved."}, Settled(do, []uint64{id})
	})
}

// fixed refuses another tracking or unit for a product whose stock has moved.
func fixed(do deed.Deed, view goods.ProductView, row goods.Product) error {
	if row.Tracking == view.Tracking && row.Unit == view.Unit {
		return nil
	}
	moved, err := goods.HasEntries(do.Tx.Q, VariantIDs(view))
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

func setSuppliers(do deed.Deed, product uint64, list []SupplierInput) error {
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
		row, err := goods.KeepSupplier(do.Tx, name)
		if err != nil {
			return err
		}
		if slices.ContainsFunc(rows, func(r goods.ProductSupplier) bool { return r.SupplierID == row.ID }) {
			return fault.Field("suppliers", name, "each supplier once", "%s stands there twice.", name)
		}
		rows = append(rows,
			goods.ProductSupplier{ProductID: product, SupplierID: row.ID, PartNumber: strings.TrimSpace(in.Part)})
	}
	return goods.SetSuppliers(do.Tx, product, rows)
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
func ChangeCells(do deed.Deed, product uint64, in CellChange) (Changed, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (Changed, error) {
		view, err := LockProduct(do, product)
		if err != nil {
			return Changed{}, err
		}
		for _, c := range in.Cells {
			v, ok := view.Variant(c.Variant)
			if !ok {
				return Changed{}, fault.Missing("variant_id", c.Variant, "%s has no variant %d.", view.Name, c.Variant)
			}
			if err := changeCell(do, view, v, in.Figure, c.Text); err != nil {
				return Changed{}, err
			}
		}
		return Changed{product, fmt.Sprintf("%d changed.", len(in.Cells))}, Settled(do, []uint64{product})
	})
}

func changeCell(do deed.Deed, view goods.ProductView, v goods.VariantView, figure, text string) error {
	switch figure {
	case "sku":
		sku, err := catalog.CheckSKU(text)
		if err != nil {
			return err
		}
		return goods.SetSKU(do.Tx, v.ID, sku)
	case "cost":
		cost, err := number.Optional("cost", text, money.ParseCost)
		if err != nil {
			return err
		}
		return goods.UpdateVariant(do.Tx, v.ID, map[string]any{"cost": cost})
	case "restock_level":
		level, err := number.Optional("restock_level", text, view.UnitOf.Parse)
		if err != nil {
			return err
		}
		return goods.UpdateVariant(do.Tx, v.ID, map[string]any{"own_restock_level": level})
	case "retired":
		return goods.UpdateVariant(do.Tx, v.ID, map[string]any{"retired": text == "yes"})
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
func ReadSetParts(do deed.Deed, product uint64, in PartsInput) (Changed, error) {
	return deed.Once(do, staff.DeedCatalog, func(do deed.Deed) (Changed, error) {
		view, err := LockProduct(do, product)
		if err != nil {
			return Changed{}, err
		}
		if !view.Bundle {
			return Changed{}, fault.Refuse("product", view.Name, "a bundle", "%s is no bundle.", view.Name)
		}
		bundle := view.Variants[0].ID
		have, err := goods.BundleParts(do.Tx.Q, []uint64{bundle}, 0)
		if err != nil {
			return Changed{}, err
		}
		if err := revision.CheckOf("What is in "+view.Name, in.Revision, partsOf(have[bundle])); err != nil {
			return Changed{}, err
		}
		if err := SetParts(do.Tx, bundle, in.Parts); err != nil {
			return Changed{}, err
		}
		return Changed{product, view.Name + " is saved."}, Settled(do, []uint64{product})
	})
}
