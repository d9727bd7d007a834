package store

import (
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/stock"
	"itemrack/core/tax"
	"itemrack/core/unit"
)

// VariantView is a variant with what a rack or a swing tag says of it.
type VariantView struct {
	ID           uint64           `json:"id"`
	ProductID    uint64           `json:"product_id"`
	SKU          string           `json:"sku"`
	Label        string           `json:"label"`
	Choice       catalog.Choice   `json:"choice"`
	Barcode      string           `json:"barcode"` // the first one
	RestockLevel *decimal.Decimal `json:"restock_level"`
	OwnRestock   *decimal.Decimal `json:"own_restock"`
	OwnCost      *decimal.Decimal `json:"own_cost"` // expected, its own
	Price        decimal.Decimal  `json:"price"`    // of one on the Regular list
	PriceSource  price.Source     `json:"price_source"`
	Under        bool             `json:"under"` // priced under cost
	Answer       price.Answer     `json:"answer"`
	OnHand       decimal.Decimal  `json:"on_hand"`  // all conditions
	ForSale      decimal.Decimal  `json:"for_sale"` // all branches
	Here         decimal.Decimal  `json:"here"`     // for sale at the branch asked for
	Value        decimal.Decimal  `json:"value"`
	Average      decimal.Decimal  `json:"average"`
	LastCost     decimal.Decimal  `json:"last_cost"`
	Low          bool             `json:"low"` // less for sale than the restock level
	Retired      bool             `json:"retired"`
	PictureID    uint64           `json:"picture_id"`
}

// ProductView is a product with its axes and variants.
type ProductView struct {
	Product
	Category Category        `json:"category"`
	Supplier string          `json:"supplier"`
	TaxClass tax.Class       `json:"tax_class"`
	UnitOf   unit.Unit       `json:"unit_of"`
	Axes     []catalog.Axis  `json:"axes"`
	AxisIDs  []uint64        `json:"axis_i_ds"`
	ValueIDs [][]uint64      `json:"value_i_ds"`
	Variants []VariantView   `json:"variants"`
	Settled  catalog.Settled `json:"settled"`
	Packs    []Pack          `json:"packs"`
	Pricing  Pricing         `json:"pricing"`
}

// Rack hangs the product's variants.
func (p ProductView) Rack() catalog.Rack { return catalog.Hang(p.Axes, p.Choices()) }

// Choices lists the choice of each variant.
func (p ProductView) Choices() []catalog.Choice {
	choices := make([]catalog.Choice, len(p.Variants))
	for i, v := range p.Variants {
		choices[i] = v.Choice
	}
	return choices
}

// Variant finds one of the product's variants.
func (p ProductView) Variant(id uint64) (VariantView, bool) {
	for _, v := range p.Variants {
		if v.ID == id {
			return v, true
		}
	}
	return VariantView{}, false
}

// Goods is what is known of the prices of one of the product's variants.
func (p ProductView) Goods(v VariantView) price.Goods {
	return p.Pricing.Goods(p.ID, v.ID, p.TaxClassID, unitCost(v.LastCost, v.OwnCost, p.Cost))
}

// LockProduct keeps others from changing a product until the transaction ends.
func (tx Tx) LockProduct(id uint64) error {
	var found uint64
	if err := tx.db.Raw("SELECT id FROM product WHERE id = ? FOR UPDATE", id).Scan(&found).Error; err != nil {
		return err
	}
	if found == 0 {
		return fault.Missing("product", id, "There is no product %d.", id)
	}
	return nil
}

// LockProducts keeps others from changing some products until the transaction ends.
func (tx Tx) LockProducts(ids []uint64) error {
	if len(ids) == 0 {
		return nil
	}
	var found []uint64
	return tx.db.Raw("SELECT id FROM product WHERE id IN ? ORDER BY id FOR UPDATE", ids).Scan(&found).Error
}

// Product reads a product with all of its variants; prices are those of a
// moment, Here is at a branch.
func (q Q) Product(id, branch uint64, moment time.Time) (ProductView, error) {
	found, err := q.ProductViews([]uint64{id}, branch, moment)
	if err == nil && len(found) == 0 {
		err = fault.Missing("product", id, "There is no product %d.", id)
	}
	if err != nil {
		return ProductView{}, err
	}
	return *found[0], nil
}

// ProductViews reads some products with all of their variants, in the order
// asked for and without those that are not there. It takes the same number of
// queries however many they are.
func (q Q) ProductViews(ids []uint64, branch uint64, moment time.Time) ([]*ProductView, error) {
	if len(ids) == 0 {
		return nil, nil
	}
	var rows []Product
	if err := q.db.Raw("SELECT * FROM product WHERE id IN ?", ids).Scan(&rows).Error; err != nil {
		return nil, err
	}
	in, err := q.Inheritance()
	if err != nil {
		return nil, err
	}
	pricing, err := q.Pricing(ids, moment)
	if err != nil {
		return nil, err
	}
	packs, err := q.Packs(ids)
	if err != nil {
		return nil, err
	}
	byID := map[uint64]*ProductView{}
	for _, r := range rows {
		p := &ProductView{Product: r, Category: in.categories[r.CategoryID], Settled: in.Settle(r), Packs: packs[r.ID], Pricing: pricing}
		if r.SupplierID != nil {
			p.Supplier = in.suppliers[*r.SupplierID].Name
		}
		pricing.rule(r.ID, in.Settle(r))
		for _, c := range pricing.classes {
			if c.ID == p.TaxClassID {
				p.TaxClass = c
			}
		}
		if p.UnitOf, err = unit.ByCode(p.Unit); err != nil {
			return nil, err
		}
		byID[p.ID] = p
	}
	names, err := q.productAxes(byID, ids)
	if err != nil {
		return nil, err
	}
	if err := q.productVariants(byID, ids, names, branch, moment); err != nil {
		return nil, err
	}
	var list []*ProductView
	for _, id := range ids {
		if p := byID[id]; p != nil {
			list = append(list, p)
		}
	}
	return list, nil
}

// productAxes reads the axes and returns the name of each value.
func (q Q) productAxes(byID map[uint64]*ProductView, ids []uint64) (map[uint64]string, error) {
	var rows []struct {
		ProductID, AxisID, ValueID uint64
		Axis, Sets, Name, Swatch   string
		Retired                    bool
	}
	err := q.db.Raw(`SELECT a.product_id, a.id AS axis_id, a.name AS axis, s.name AS sets, x.id AS value_id, v.name, v.swatch, x.retired FROM axis a
		JOIN value_set s ON s.id = a.value_set_id JOIN axis_value x ON x.axis_id = a.id JOIN set_value v ON v.id = x.value_id WHERE a.product_id IN ? ORDER BY a.product_id, a.position, x.position, x.id`, ids).Scan(&rows).Error
	names := map[uint64]string{}
	for _, r := range rows {
		p := byID[r.ProductID]
		if n := len(p.AxisIDs); n == 0 || p.AxisIDs[n-1] != r.AxisID {
			p.AxisIDs = append(p.AxisIDs, r.AxisID)
			p.Axes = append(p.Axes, catalog.Axis{Name: r.Axis, Set: r.Sets})
			p.ValueIDs = append(p.ValueIDs, nil)
		}
		n := len(p.Axes) - 1
		p.Axes[n].Values = append(p.Axes[n].Values, catalog.Value{Name: r.Name, Swatch: r.Swatch, Retired: r.Retired})
		p.ValueIDs[n] = append(p.ValueIDs[n], r.ValueID)
		names[r.ValueID] = r.Name
	}
	return names, err
}

func (q Q) productVariants(byID map[uint64]*ProductView, ids []uint64, names map[uint64]string, branch uint64, moment time.Time) error {
	var rows []struct {
		Variant
		Barcode                   string
		Quantity, Value, LastCost decimal.Decimal
		ForSale, Here             decimal.Decimal
		Low                       bool
	}
	err := q.db.Raw(`SELECT v.*, c.quantity, c.value, c.last_cost, c.for_sale, c.low, COALESCE((SELECT code FROM barcode b WHERE b.variant_id = v.id AND b.pack_id IS NULL ORDER BY b.id LIMIT 1), '') AS barcode,
		COALESCE((SELECT SUM(quantity) FROM balance b JOIN shelf s ON s.id = b.shelf_id WHERE b.variant_id = v.id AND b.condition = ? AND s.branch_id = ?), 0) AS here
		FROM variant v JOIN cost_pool c ON c.variant_id = v.id WHERE v.product_id IN ? ORDER BY v.id`, stock.ForSale, branch, ids).Scan(&rows).Error
	if err != nil {
		return err
	}
	one := decimal.New(1, 0)
	var bundles []uint64
	for _, r := range rows {
		p := byID[r.ProductID]
		view := VariantView{ID: r.ID, ProductID: r.ProductID, SKU: r.SKU, Label: r.Label, Barcode: r.Barcode, RestockLevel: r.RestockLevel, OwnRestock: r.OwnRestockLevel, OwnCost: r.Cost, Retired: r.Retired,
			OnHand: r.Quantity, Value: r.Value, LastCost: r.LastCost, Average: cost.Of(r.Quantity, r.Value, r.LastCost).Average(), Choice: catalog.Choice{},
			ForSale: r.ForSale, Here: r.Here, Low: r.Low}
		if r.PictureID != nil {
			view.PictureID = *r.PictureID
		}
		for _, value := range []*uint64{r.Value1ID, r.Value2ID, r.Value3ID} {
			if value != nil {
				view.Choice = append(view.Choice, names[*value])
			}
		}
		view.Answer = p.Pricing.Book.Find(p.Goods(view), price.Regular, one, moment)
		view.Price, view.PriceSource, view.Under = view.Answer.Amount, view.Answer.Source, view.Answer.UnderCost
		if p.Bundle {
			bundles = append(bundles, view.ID)
		}
		p.Variants = append(p.Variants, view)
	}
	return q.bundleFigures(byID, bundles, branch)
}

// bundleFigures works out what is available of bundles, made up or to be, and
// what they cost.
func (q Q) bundleFigures(byID map[uint64]*ProductView, bundles []uint64, branch uint64) error {
	parts, err := q.BundleParts(bundles, branch)
	if err != nil || len(parts) == 0 {
		return err
	}
	for _, p := range byID {
		for i := range p.Variants {
			v := &p.Variants[i]
			list, ok := parts[v.ID]
			if !ok {
				continue
			}
			everywhere, here := make([]catalog.Part, len(list)), make([]catalog.Part, len(list))
			for n, part := range list {
				everywhere[n] = part.Part
				here[n] = part.Part
				here[n].Available = part.Here
			}
			v.ForSale, v.Here, v.Average = v.ForSale.Add(catalog.Available(everywhere)), v.Here.Add(catalog.Available(here)), catalog.BundleCost(everywhere)
		}
	}
	return nil
}

// PartView is a component of a bundle.
type PartView struct {
	catalog.Part
	Variant  uint64          `json:"variant"`
	Tracking stock.Tracking  `json:"tracking"`
	SKU      string          `json:"sku"`
	Here     decimal.Decimal `json:"here"` // for sale at a branch
}

// BundleParts reads the components of some bundles, with what is available of
// them everywhere and at a branch.
func (q Q) BundleParts(bundles []uint64, branch uint64) (map[uint64][]PartView, error) {
	parts := map[uint64][]PartView{}
	if len(bundles) == 0 {
		return parts, nil
	}
	var rows []struct {
		BundleID, VariantID        uint64
		Quantity, ForSale, Here    decimal.Decimal
		PoolQuantity, Value, Last  decimal.Decimal
		Name, Label, SKU, Tracking string
		Cost                       *decimal.Decimal
	}
	err := q.db.Raw(`SELECT b.bundle_id, b.variant_id, b.quantity, c.for_sale, c.quantity AS pool_quantity, c.value, c.last_cost AS last, p.name, v.label, v.sku, p.tracking, COALESCE(v.cost, p.cost) AS cost,
		COALESCE((SELECT SUM(x.quantity) FROM balance x JOIN shelf s ON s.id = x.shelf_id WHERE x.variant_id = v.id AND x.condition = ? AND s.branch_id = ?), 0) AS here
		FROM bundle_part b JOIN variant v ON v.id = b.variant_id JOIN product p ON p.id = v.product_id JOIN cost_pool c ON c.variant_id = v.id WHERE b.bundle_id IN ? ORDER BY b.bundle_id, v.sku`,
		stock.ForSale, branch, bundles).Scan(&rows).Error
	for _, r := range rows {
		cost := cost.Of(r.PoolQuantity, r.Value, r.Last).Average()
		if cost.IsZero() && r.Cost != nil {
			cost = *r.Cost
		}
		parts[r.BundleID] = append(parts[r.BundleID], PartView{Variant: r.VariantID, Tracking: stock.Tracking(r.Tracking), SKU: r.SKU, Here: r.Here,
			Part: catalog.Part{Name: catalog.FullName(r.Name, r.Label), Quantity: r.Quantity, Available: r.ForSale, Cost: cost, NotStocked: r.Tracking == string(stock.NotStocked)}})
	}
	return parts, err
}

// SetBundleParts writes the components of a bundle in place of those there were.
func (tx Tx) SetBundleParts(bundle uint64, parts []BundlePart) error {
	if err := tx.db.Exec("DELETE FROM bundle_part WHERE bundle_id = ?", bundle).Error; err != nil || len(parts) == 0 {
		return err
	}
	return insert(tx, &parts)
}

// Owner finds who has a barcode: 0 for nobody.
func (q Q) Owner(code string) (variant uint64, name string, err error) {
	var row struct {
		ID          uint64
		Name, Label string
	}
	err = q.db.Raw(`SELECT v.id, p.name, v.label FROM barcode b JOIN variant v ON v.id = b.variant_id JOIN product p ON p.id = v.product_id
		WHERE b.code_key = ?`, barcode.Key(code)).Scan(&row).Error
	return row.ID, catalog.FullName(row.Name, row.Label), err
}

// VariantBarcode is a barcode of a variant, or of a pack of it.
type VariantBarcode struct {
	VariantID uint64 `json:"variant_id"`
	Code      string `json:"code"`
	PackID    uint64 `json:"pack_id,omitempty"`
	Pack      string `json:"pack,omitempty"`
}

// Barcodes lists the barcodes of some variants, in the order they were given.
func (q Q) Barcodes(variants []uint64) ([]VariantBarcode, error) {
	var list []VariantBarcode
	return list, q.db.Raw(`SELECT b.variant_id, b.code, COALESCE(b.pack_id, 0) AS pack_id, COALESCE(p.name, '') AS pack FROM barcode b LEFT JOIN pack p ON p.id = b.pack_id
		WHERE b.variant_id IN ? ORDER BY b.variant_id, b.id`, variants).Scan(&list).Error
}

// TakenSKUs returns which of some SKUs are in use, and by which variant.
func (q Q) TakenSKUs(skus []string) (map[string]uint64, error) {
	taken := map[string]uint64{}
	for start := 0; start < len(skus); start += 2000 {
		var rows []struct {
			SKU string `gorm:"column:sku"`
			ID  uint64
		}
		if err := q.db.Raw("SELECT sku, id FROM variant WHERE sku IN ?", skus[start:min(start+2000, len(skus))]).Scan(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			taken[strings.ToUpper(r.SKU)] = r.ID
		}
	}
	return taken, nil
}

// TakenBarcodes returns which of some barcode keys are in use, and by which variant.
func (q Q) TakenBarcodes(keys []string) (map[string]uint64, error) {
	taken := map[string]uint64{}
	for start := 0; start < len(keys); start += 2000 {
		var rows []Barcode
		if err := q.db.Raw("SELECT code_key, variant_id FROM barcode WHERE code_key IN ?", keys[start:min(start+2000, len(keys))]).Scan(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			taken[r.CodeKey] = r.VariantID
		}
	}
	return taken, nil
}

// AddBarcode gives a variant, or a pack of it, a barcode. One that exists names
// its owner.
func (tx Tx) AddBarcode(variant uint64, pack *uint64, code string) error {
	err := tx.db.Create(&Barcode{VariantID: variant, PackID: pack, Code: code, CodeKey: barcode.Key(code)}).Error
	if duplicate(err) {
		_, owner, err := tx.Owner(code)
		if err != nil {
			return err
		}
		return fault.Clash("barcode", code, "a barcode that is free", "The barcode %s belongs to %s.", code, owner)
	}
	return err
}

// DropBarcode takes a barcode off a variant.
func (tx Tx) DropBarcode(variant uint64, code string) error {
	return tx.db.Exec("DELETE FROM barcode WHERE variant_id = ? AND code_key = ?", variant, barcode.Key(code)).Error
}

// MoveBarcodes gives the barcodes of one variant to another, whose own go.
func (tx Tx) MoveBarcodes(from, to uint64) error {
	if err := tx.db.Exec("DELETE FROM barcode WHERE variant_id = ?", to).Error; err != nil {
		return err
	}
	return tx.db.Exec("UPDATE barcode SET variant_id = ?, pack_id = NULL WHERE variant_id = ?", to, from).Error
}

// ProductByName finds a product; 0 when there is none.
func (q Q) ProductByName(name string) (uint64, error) {
	var id uint64
	return id, q.db.Raw("SELECT id FROM product WHERE name = ?", name).Scan(&id).Error
}

// HasEntries reports whether stock of any of some variants was ever moved.
func (q Q) HasEntries(variants []uint64) (bool, error) {
	if len(variants) == 0 {
		return false, nil
	}
	var n int
	err := q.db.Raw("SELECT EXISTS (SELECT 1 FROM entry WHERE variant_id IN ?) OR EXISTS (SELECT 1 FROM sale_line WHERE variant_id IN ?)", variants, variants).Scan(&n).Error
	return n == 1, err
}

// UpdateProduct changes some columns of a product.
func (tx Tx) UpdateProduct(id uint64, columns map[string]any) error {
	if len(columns) == 0 {
		return nil
	}
	err := tx.db.Table("product").Where("id = ?", id).Updates(columns).Error
	if duplicate(err) {
		return fault.Clash("name", columns["name"], "a name of its own", "There is a product %v already.", columns["name"])
	}
	return err
}

// UpdateVariant changes some columns of a variant.
func (tx Tx) UpdateVariant(id uint64, columns map[string]any) error {
	return tx.db.Table("variant").Where("id = ?", id).Updates(columns).Error
}

// DropVariants drops variants that nothing refers to but the catalog itself.
func (tx Tx) DropVariants(ids []uint64) error {
	if len(ids) == 0 {
		return nil
	}
	if err := tx.db.Exec("DELETE FROM cost_pool WHERE variant_id IN ? AND quantity = 0 AND value = 0", ids).Error; err != nil {
		return err
	}
	for _, table := range []string{"barcode", "price", "basket_line", "delivery_line", "count_event", "count_row"} {
		where := " WHERE variant_id IN ?"
		if strings.HasPrefix(table, "count") || table == "delivery_line" {
			var n int
			if err := tx.db.Raw("SELECT EXISTS (SELECT 1 FROM "+table+where+")", ids).Scan(&n).Error; err != nil {
				return err
			}
			if n == 1 {
				return fault.Refuse("variant", "", "a variant that no count or delivery names", "A count or a delivery names it; it can be retired, and not dropped.")
			}
			continue
		}
		if err := tx.db.Exec("DELETE FROM "+table+where, ids).Error; err != nil {
			return err
		}
	}
	if err := tx.db.Exec("DELETE FROM bundle_part WHERE bundle_id IN ?", ids).Error; err != nil {
		return err
	}
	err := tx.db.Exec("DELETE FROM variant WHERE id IN ?", ids).Error
	if referenced(err) {
		return fault.Refuse("variant", "", "a variant that nothing refers to", "It has stock, sales or a bundle; it can be retired, and not dropped.")
	}
	return err
}

// DropAxisValue drops a value from an axis of a product.
func (tx Tx) DropAxisValue(id uint64) error {
	return tx.db.Exec("DELETE FROM axis_value WHERE id = ?", id).Error
}

// RetireAxisValue says whether a value of an axis is still bought, and the same
// of the variants that have it.
func (tx Tx) RetireAxisValue(id uint64, retired bool) error {
	if err := tx.db.Exec("UPDATE axis_value SET retired = ? WHERE id = ?", retired, id).Error; err != nil {
		return err
	}
	return tx.db.Exec("UPDATE variant SET retired = ? WHERE value1_id = ? OR value2_id = ? OR value3_id = ?", retired, id, id, id).Error
}

// DropProduct drops a product without variants.
func (tx Tx) DropProduct(id uint64) error {
	for _, statement := range []string{"DELETE x FROM axis_value x JOIN axis a ON a.id = x.axis_id WHERE a.product_id = ?", "DELETE FROM axis WHERE product_id = ?", "DELETE FROM price WHERE product_id = ?",
		"DELETE FROM pack WHERE product_id = ?", "DELETE FROM product_supplier WHERE product_id = ?", "DELETE FROM product_attribute WHERE product_id = ?",
		"DELETE FROM product_picture WHERE product_id = ?", "DELETE FROM product WHERE id = ?"} {
		if err := tx.db.Exec(statement, id).Error; err != nil {
			return err
		}
	}
	return nil
}

// SettleRestock writes the restock level that holds for each variant of some
// products: its own, else its product's settled one.
func (tx Tx) SettleRestock(products []uint64) error {
	if len(products) == 0 {
		return nil
	}
	in, err := tx.Inheritance()
	if err != nil {
		return err
	}
	for start := 0; start < len(products); start += 1000 {
		part := products[start:min(start+1000, len(products))]
		var list []Product
		if err := tx.db.Raw("SELECT id, name, category_id, supplier_id, restock_level FROM product WHERE id IN ?", part).Scan(&list).Error; err != nil {
			return err
		}
		args := []any{}
		for _, p := range list {
			args = append(args, p.ID, in.Settle(p).Restock)
		}
		if len(list) == 0 {
			continue
		}
		if err := tx.db.Exec("UPDATE variant SET restock_level = COALESCE(own_restock_level, CASE product_id"+strings.Repeat(" WHEN ? THEN ?", len(list))+" END) WHERE product_id IN ?", append(args, part)...).Error; err != nil {
			return err
		}
		if err := tx.db.Exec("UPDATE cost_pool c JOIN variant v ON v.id = c.variant_id SET c.low = COALESCE(c.for_sale < v.restock_level, FALSE) WHERE v.product_id IN ?", part).Error; err != nil {
			return err
		}
	}
	return nil
}

// SettleTaxClasses writes the tax class that holds for the products that take it
// over.
func (tx Tx) SettleTaxClasses(products []uint64, fallback uint64) error {
	in, err := tx.Inheritance()
	if err != nil {
		return err
	}
	var list []Product
	if err := tx.db.Raw("SELECT id, name, category_id, supplier_id, tax_class_id, own_tax_class FROM product WHERE id IN ? AND NOT own_tax_class", products).Scan(&list).Error; err != nil {
		return err
	}
	byClass := map[uint64][]uint64{}
	for _, p := range list {
		class := in.Settle(p).TaxClass
		if class == 0 {
			class = fallback
		}
		if class != p.TaxClassID {
			byClass[class] = append(byClass[class], p.ID)
		}
	}
	for class, ids := range byClass {
		if err := tx.db.Exec("UPDATE product SET tax_class_id = ? WHERE id IN ?", class, ids).Error; err != nil {
			return err
		}
	}
	return nil
}

// ProductsIn lists the products of a category and those below it.
func (q Q) ProductsIn(category uint64) ([]uint64, error) {
	var path string
	if err := q.db.Raw("SELECT path FROM category WHERE id = ?", category).Scan(&path).Error; err != nil {
		return nil, err
	}
	var ids []uint64
	return ids, q.db.Raw("SELECT id FROM product WHERE category_id IN (SELECT id FROM category WHERE path = ? OR path LIKE ?) ORDER BY id", path, like(path)+" > %").Scan(&ids).Error
}

// SetSKU gives a variant another SKU.
func (tx Tx) SetSKU(variant uint64, sku string) error {
	err := tx.db.Exec("UPDATE variant SET sku = ? WHERE id = ?", sku, variant).Error
	if duplicate(err) {
		return fault.Clash("sku", sku, "a SKU that is free", "The SKU %s is in use.", sku)
	}
	return err
}

// NewVariants writes variants with their empty cost pools.
func (tx Tx) NewVariants(list []Variant) error {
	if len(list) == 0 {
		return nil
	}
	err := insert(tx, &list)
	if duplicate(err) {
		return fault.Clash("sku", "", "SKUs that are free", "One of the SKUs was taken meanwhile. Try again.")
	}
	if err != nil {
		return err
	}
	for start := 0; start < len(list); start += 1000 {
		part := list[start:min(start+1000, len(list))]
		args := make([]any, 0, 2*len(part))
		for _, v := range part {
			args = append(args, v.ID, v.RestockLevel != nil && v.RestockLevel.IsPositive())
		}
		if err := tx.db.Exec(rows("INSERT INTO cost_pool (variant_id, low) VALUES ", len(part), "(?, ?)"), args...).Error; err != nil {
			return err
		}
	}
	return nil
}

// ProductsByName finds products by their names in small letters.
func (q Q) ProductsByName(names []string) (map[string]uint64, error) {
	found := map[string]uint64{}
	for start := 0; start < len(names); start += 2000 {
		var rows []Product
		if err := q.db.Raw("SELECT id, name FROM product WHERE name IN ?", names[start:min(start+2000, len(names))]).Scan(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			found[strings.ToLower(r.Name)] = r.ID
		}
	}
	return found, nil
}

// VariantNames reads what some variants are called.
func (q Q) VariantNames(ids []uint64) (map[uint64][2]string, error) {
	names := map[uint64][2]string{}
	if len(ids) == 0 {
		return names, nil
	}
	var rows []struct {
		ID          uint64
		Name, Label string
	}
	err := q.db.Raw("SELECT v.id, p.name, v.label FROM variant v JOIN product p ON p.id = v.product_id WHERE v.id IN ?", slices.Compact(slices.Sorted(slices.Values(ids)))).Scan(&rows).Error
	for _, r := range rows {
		names[r.ID] = [2]string{r.Name, r.Label}
	}
	return names, err
}

// SupplierPart is a supplier of a product with its part number.
type SupplierPart struct {
	SupplierID uint64 `json:"supplier_id"`
	Supplier   string `json:"supplier"`
	Part       string `json:"part"`
	Usual      bool   `json:"usual"`
}

// SuppliersOf lists the suppliers of some products.
func (q Q) SuppliersOf(products []uint64) (map[uint64][]SupplierPart, error) {
	var rows []struct {
		ProductID uint64
		SupplierPart
	}
	err := q.db.Raw(`SELECT x.product_id, x.supplier_id, s.name AS supplier, x.part_number AS part, COALESCE(p.supplier_id = x.supplier_id, FALSE) AS usual FROM product_supplier x JOIN supplier s ON s.id = x.supplier_id
		JOIN product p ON p.id = x.product_id WHERE x.product_id IN ? ORDER BY x.product_id, usual DESC, s.name`, products).Scan(&rows).Error
	found := map[uint64][]SupplierPart{}
	for _, r := range rows {
		found[r.ProductID] = append(found[r.ProductID], r.SupplierPart)
	}
	return found, err
}

// AttributesOf lists the attributes of some products by name.
func (q Q) AttributesOf(products []uint64) (map[uint64][]ProductAttribute, error) {
	var rows []ProductAttribute
	err := q.db.Raw("SELECT * FROM product_attribute WHERE product_id IN ? ORDER BY product_id, name", products).Scan(&rows).Error
	found := map[uint64][]ProductAttribute{}
	for _, r := range rows {
		found[r.ProductID] = append(found[r.ProductID], r)
	}
	return found, err
}

// AttributeNames lists the names of all attributes.
func (q Q) AttributeNames() ([]string, error) {
	var names []string
	return names, q.db.Raw("SELECT DISTINCT name FROM product_attribute ORDER BY name").Scan(&names).Error
}

// SetSuppliers writes the suppliers of a product in place of those there were.
func (tx Tx) SetSuppliers(product uint64, list []ProductSupplier) error {
	if err := tx.db.Exec("DELETE FROM product_supplier WHERE product_id = ?", product).Error; err != nil || len(list) == 0 {
		return err
	}
	return insert(tx, &list)
}

// AddSuppliers writes suppliers of products; a part number replaces the one there was.
func (tx Tx) AddSuppliers(list []ProductSupplier) error {
	for start := 0; start < len(list); start += 1000 {
		part := list[start:min(start+1000, len(list))]
		var args []any
		for _, r := range part {
			args = append(args, r.ProductID, r.SupplierID, r.PartNumber)
		}
		if err := tx.db.Exec(rows("INSERT INTO product_supplier (product_id, supplier_id, part_number) VALUES ", len(part), "(?, ?, ?)")+
			" ON DUPLICATE KEY UPDATE part_number = IF(VALUES(part_number) = '', part_number, VALUES(part_number))", args...).Error; err != nil {
			return err
		}
	}
	return nil
}

// SetAttributes writes some attributes of a product; an empty value drops one.
func (tx Tx) SetAttributes(product uint64, attributes map[string]string) error {
	for name, value := range attributes {
		var err error
		if value == "" {
			err = tx.db.Exec("DELETE FROM product_attribute WHERE product_id = ? AND name = ?", product, name).Error
		} else {
			err = tx.db.Exec("INSERT INTO product_attribute (product_id, name, value) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE value = VALUES(value)", product, name, value).Error
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// SavePack writes a pack of a product; a new one gets its number.
func (tx Tx) SavePack(p *Pack) error {
	err := tx.db.Save(p).Error
	if duplicate(err) {
		return fault.Clash("pack", p.Name, "a name of its own", "There is a pack %s already.", p.Name)
	}
	return err
}

// DropPack drops a pack with its barcodes and prices.
func (tx Tx) DropPack(id uint64) error {
	for _, statement := range []string{"DELETE FROM barcode WHERE pack_id = ?", "DELETE FROM price WHERE pack_id = ?", "DELETE FROM basket_line WHERE pack_id = ?", "DELETE FROM pack WHERE id = ?"} {
		if err := tx.db.Exec(statement, id).Error; err != nil {
			return err
		}
	}
	return nil
}

// CodeKey is the form in which codes of lists are compared.
func CodeKey(code string) string { return barcode.Key(code) }

// CodeOwner is whose a code is; Factor is that of a pack, else 0.
type CodeOwner struct {
	Variant uint64          `json:"variant"`
	Factor  decimal.Decimal `json:"factor"`
}

// ByCodes finds whose barcodes or SKUs some codes are, by their keys.
func (q Q) ByCodes(codes []string) (map[string]CodeOwner, error) {
	found := map[string]CodeOwner{}
	if len(codes) == 0 {
		return found, nil
	}
	keys := make([]string, len(codes))
	for i, c := range codes {
		keys[i] = CodeKey(c)
	}
	var rows []struct {
		Code    string
		Variant uint64
		Factor  decimal.Decimal
	}
	err := q.db.Raw(`SELECT b.code_key AS code, b.variant_id AS variant, COALESCE(p.factor, 0) AS factor FROM barcode b LEFT JOIN pack p ON p.id = b.pack_id WHERE b.code_key IN ?
		UNION ALL SELECT v.sku, v.id, 0 FROM variant v WHERE v.sku IN ?`, keys, codes).Scan(&rows).Error
	for i := len(rows) - 1; i >= 0; i-- { // a barcode goes before a SKU
		found[CodeKey(rows[i].Code)] = CodeOwner{rows[i].Variant, rows[i].Factor}
	}
	return found, err
}

// LabelFact is what a label says of a variant beside its name and price.
type LabelFact struct {
	Axes      []string         `json:"axes"`
	Values    []string         `json:"values"`
	Part      string           `json:"part"`
	Content   *decimal.Decimal `json:"content"`
	Measure   string           `json:"measure"`
	PictureID uint64           `json:"picture_id"`
}

// LabelFacts reads what labels say of some variants: the value on each axis, the
// usual supplier's part number, the content and the picture.
func (q Q) LabelFacts(ids []uint64) (map[uint64]LabelFact, error) {
	facts := map[uint64]LabelFact{}
	if len(ids) == 0 {
		return facts, nil
	}
	var rows []struct {
		ID                     uint64
		A1, A2, A3, V1, V2, V3 string
		Part, Measure          string
		Content                *decimal.Decimal
		PictureID              uint64
	}
	err := q.db.Raw(`SELECT v.id, COALESCE(a1.name, '') AS a1, COALESCE(a2.name, '') AS a2, COALESCE(a3.name, '') AS a3, COALESCE(n1.name, '') AS v1, COALESCE(n2.name, '') AS v2, COALESCE(n3.name, '') AS v3,
		COALESCE(s.part_number, '') AS part, p.measure, p.content, COALESCE(v.picture_id, p.picture_id, 0) AS picture_id FROM variant v JOIN product p ON p.id = v.product_id
		LEFT JOIN axis_value x1 ON x1.id = v.value1_id LEFT JOIN set_value n1 ON n1.id = x1.value_id LEFT JOIN axis a1 ON a1.id = x1.axis_id
		LEFT JOIN axis_value x2 ON x2.id = v.value2_id LEFT JOIN set_value n2 ON n2.id = x2.value_id LEFT JOIN axis a2 ON a2.id = x2.axis_id
		LEFT JOIN axis_value x3 ON x3.id = v.value3_id LEFT JOIN set_value n3 ON n3.id = x3.value_id LEFT JOIN axis a3 ON a3.id = x3.axis_id
		LEFT JOIN product_supplier s ON s.product_id = p.id AND s.supplier_id = p.supplier_id WHERE v.id IN ?`, ids).Scan(&rows).Error
	for _, r := range rows {
		f := LabelFact{Part: r.Part, Content: r.Content, Measure: r.Measure, PictureID: r.PictureID}
		for i, value := range []string{r.V1, r.V2, r.V3} {
			if value != "" {
				f.Axes, f.Values = append(f.Axes, []string{r.A1, r.A2, r.A3}[i]), append(f.Values, value)
			}
		}
		facts[r.ID] = f
	}
	return facts, err
}

// AxisNames lists the names of all axes.
func (q Q) AxisNames() ([]string, error) {
	var names []string
	return names, q.db.Raw("SELECT DISTINCT name FROM axis ORDER BY name").Scan(&names).Error
}
