package store

import (
	"strings"
	"time"

	"github.com/shopspring/decimal"
	"gorm.io/gorm"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/stock"
	"itemrack/core/tax"
	"itemrack/core/unit"
)

// Setting reads a setting of the shop; empty when it is not set.
func (q Q) Setting(name string) (string, error) {
	var value string
	err := q.db.Raw("SELECT value FROM setting WHERE name = ?", name).Scan(&value).Error
	return value, err
}

// Set writes a setting.
func (tx Tx) Set(name, value string) error {
	return tx.db.Exec("INSERT INTO setting (name, value) VALUES (?, ?) ON DUPLICATE KEY UPDATE value = VALUES(value)", name, value).Error
}

// Branches lists the branches in the order they were made.
func (q Q) Branches() ([]Branch, error) {
	var rows []Branch
	return rows, q.db.Raw("SELECT id, name FROM branch ORDER BY id").Scan(&rows).Error
}

// Categories lists the category tree by path.
func (q Q) Categories() ([]Category, error) {
	var rows []Category
	return rows, q.db.Raw("SELECT * FROM category ORDER BY path").Scan(&rows).Error
}

// Suppliers lists the suppliers by name.
func (q Q) Suppliers() ([]Supplier, error) {
	var rows []Supplier
	return rows, q.db.Raw("SELECT * FROM supplier ORDER BY name").Scan(&rows).Error
}

// TaxClasses returns the tax classes with their rates, in the order they were made.
func (q Q) TaxClasses() ([]tax.Class, error) {
	var rows []struct {
		ID      uint64
		Name    string
		FromAt  *time.Time
		Percent decimal.Decimal
	}
	err := q.db.Raw("SELECT c.id, c.name, r.from_at, r.percent FROM tax_class c LEFT JOIN tax_rate r ON r.tax_class_id = c.id ORDER BY c.id, r.from_at").Scan(&rows).Error
	var classes []tax.Class
	for _, r := range rows {
		if n := len(classes); n == 0 || classes[n-1].ID != r.ID {
			classes = append(classes, tax.Class{ID: r.ID, Name: r.Name})
		}
		if r.FromAt != nil {
			c := &classes[len(classes)-1]
			c.Rates = append(c.Rates, tax.Rate{From: *r.FromAt, Percent: r.Percent})
		}
	}
	return classes, err
}

// Category makes sure that a category path exists and returns its last one.
func (tx Tx) Category(path []string) (Category, error) {
	var parent *uint64
	var row Category
	for i := range path {
		full := strings.Join(path[:i+1], " > ")
		row = Category{}
		if err := tx.db.Raw("SELECT * FROM category WHERE path = ?", full).Scan(&row).Error; err != nil {
			return row, err
		}
		if row.ID == 0 {
			row = Category{ParentID: parent, Name: path[i], Path: full}
			if err := tx.db.Create(&row).Error; err != nil {
				return row, err
			}
		}
		id := row.ID
		parent = &id
	}
	return row, nil
}

// Supplier makes sure that a supplier of this name exists.
func (tx Tx) Supplier(name string) (Supplier, error) {
	var row Supplier
	err := tx.db.Raw("SELECT * FROM supplier WHERE name = ?", name).Scan(&row).Error
	if err != nil || row.ID != 0 {
		return row, err
	}
	row.Name = name
	return row, tx.db.Create(&row).Error
}

// VariantView is a variant with what a rack or a swing tag says of it.
type VariantView struct {
	ID           uint64
	ProductID    uint64
	SKU          string
	Label        string
	Choice       catalog.Choice
	Barcode      string // the first one
	RestockLevel *decimal.Decimal
	Price        decimal.Decimal
	PriceSource  price.Source
	OnHand       decimal.Decimal // all conditions
	ForSale      decimal.Decimal // all branches
	Here         decimal.Decimal // for sale at the branch asked for
	Value        decimal.Decimal
	Average      decimal.Decimal
	LastCost     decimal.Decimal
	Low          bool // less for sale than the restock level
}

// ProductView is a product with its axes and variants.
type ProductView struct {
	Product
	Category Category
	Supplier string
	TaxClass tax.Class
	UnitOf   unit.Unit
	Axes     []catalog.Axis
	AxisIDs  []uint64
	ValueIDs [][]uint64
	Variants []VariantView
}

// Rack hangs the product's variants.
func (p ProductView) Rack() catalog.Rack {
	return catalog.Hang(p.Axes, p.Choices())
}

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
// asked for and without those that are not there. It takes five queries however
// many they are.
func (q Q) ProductViews(ids []uint64, branch uint64, moment time.Time) ([]*ProductView, error) {
	var rows []struct {
		Product
		Path, Colour, Supplier, CategoryName string
	}
	err := q.db.Raw(`SELECT p.*, c.path, c.name AS category_name, c.colour, COALESCE(s.name, '') AS supplier FROM product p JOIN category c ON c.id = p.category_id
		LEFT JOIN supplier s ON s.id = p.supplier_id WHERE p.id IN ?`, ids).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	classes, err := q.TaxClasses()
	if err != nil {
		return nil, err
	}
	byID := map[uint64]*ProductView{}
	for _, r := range rows {
		p := &ProductView{Product: r.Product, Supplier: r.Supplier, Category: Category{ID: r.CategoryID, Name: r.CategoryName, Path: r.Path, Colour: r.Colour}}
		for _, c := range classes {
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
		Axis, Value, Swatch        string
	}
	err := q.db.Raw(`SELECT a.product_id, a.id AS axis_id, a.name AS axis, x.id AS value_id, x.name AS value, x.swatch FROM axis a
		JOIN axis_value x ON x.axis_id = a.id WHERE a.product_id IN ? ORDER BY a.product_id, a.position, x.position, x.id`, ids).Scan(&rows).Error
	names := map[uint64]string{}
	for _, r := range rows {
		p := byID[r.ProductID]
		if n := len(p.AxisIDs); n == 0 || p.AxisIDs[n-1] != r.AxisID {
			p.AxisIDs = append(p.AxisIDs, r.AxisID)
			p.Axes = append(p.Axes, catalog.Axis{Name: r.Axis})
			p.ValueIDs = append(p.ValueIDs, nil)
		}
		n := len(p.Axes) - 1
		p.Axes[n].Values = append(p.Axes[n].Values, catalog.Value{Name: r.Value, Swatch: r.Swatch})
		p.ValueIDs[n] = append(p.ValueIDs[n], r.ValueID)
		names[r.ValueID] = r.Value
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
	err := q.db.Raw(`SELECT v.*, c.quantity, c.value, c.last_cost, c.for_sale, c.low, COALESCE((SELECT code FROM barcode b WHERE b.variant_id = v.id ORDER BY b.id LIMIT 1), '') AS barcode,
		COALESCE((SELECT SUM(quantity) FROM balance b JOIN shelf s ON s.id = b.shelf_id WHERE b.variant_id = v.id AND b.condition = ? AND s.branch_id = ?), 0) AS here
		FROM variant v JOIN cost_pool c ON c.variant_id = v.id WHERE v.product_id IN ? ORDER BY v.id`, stock.ForSale, branch, ids).Scan(&rows).Error
	if err != nil {
		return err
	}
	own, ofProduct, err := q.prices(ids)
	if err != nil {
		return err
	}
	for _, r := range rows {
		view := VariantView{ID: r.ID, ProductID: r.ProductID, SKU: r.SKU, Label: r.Label, Barcode: r.Barcode, RestockLevel: r.RestockLevel,
			OnHand: r.Quantity, Value: r.Value, LastCost: r.LastCost, Average: pool(r.Quantity, r.Value, r.LastCost).Average(), Choice: catalog.Choice{},
			ForSale: r.ForSale, Here: r.Here, Low: r.Low}
		for _, value := range []*uint64{r.Value1ID, r.Value2ID, r.Value3ID} {
			if value != nil {
				view.Choice = append(view.Choice, names[*value])
			}
		}
		view.Price, view.PriceSource = price.At(own[r.ID], ofProduct[r.ProductID], moment)
		p := byID[r.ProductID]
		p.Variants = append(p.Variants, view)
	}
	return nil
}

// prices reads the prices of some products: those of single variants, and the
// products' own.
func (q Q) prices(products []uint64) (own, ofProduct map[uint64][]price.Dated, err error) {
	var rows []Price
	err = q.db.Raw("SELECT * FROM price WHERE product_id IN ? ORDER BY from_at, id", products).Scan(&rows).Error
	own, ofProduct = map[uint64][]price.Dated{}, map[uint64][]price.Dated{}
	for _, r := range rows {
		if r.VariantID != nil {
			own[*r.VariantID] = append(own[*r.VariantID], price.Dated{From: r.FromAt, Amount: r.Amount})
		} else {
			ofProduct[r.ProductID] = append(ofProduct[r.ProductID], price.Dated{From: r.FromAt, Amount: r.Amount})
		}
	}
	return own, ofProduct, err
}

// Sellable is what a ticket, a delivery or a label needs to know of a variant.
type Sellable struct {
	ID        uint64
	ProductID uint64
	Name      string
	ShortName string
	Label     string
	SKU       string
	Barcode   string
	Tracking  stock.Tracking
	Unit      unit.Unit
	TaxClass  uint64
	Price     decimal.Decimal
	LastCost  decimal.Decimal
	HasPrice  bool
}

// FullName is the product with the variant.
func (s Sellable) FullName() string { return FullName(s.Name, s.Label) }

// Sellables reads some variants with their prices at a moment, in two queries.
func (q Q) Sellables(ids []uint64, moment time.Time) (map[uint64]Sellable, error) {
	found := map[uint64]Sellable{}
	if len(ids) == 0 {
		return found, nil
	}
	var rows []struct {
		ID, ProductID, TaxClassID                            uint64
		Name, ShortName, Label, SKU, Barcode, Tracking, Unit string
		LastCost                                             decimal.Decimal
	}
	err := q.db.Raw(`SELECT v.id, v.product_id, p.tax_class_id, p.name, p.short_name, v.label, v.sku, p.tracking, p.unit, c.last_cost,
		COALESCE((SELECT code FROM barcode b WHERE b.variant_id = v.id ORDER BY b.id LIMIT 1), '') AS barcode
		FROM variant v JOIN product p ON p.id = v.product_id JOIN cost_pool c ON c.variant_id = v.id WHERE v.id IN ?`, ids).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	products := make([]uint64, 0, len(rows))
	for _, r := range rows {
		products = append(products, r.ProductID)
	}
	if len(products) == 0 {
		return found, nil
	}
	own, ofProduct, err := q.prices(products)
	if err != nil {
		return nil, err
	}
	for _, r := range rows {
		u, err := unit.ByCode(r.Unit)
		if err != nil {
			return nil, err
		}
		amount, source := price.At(own[r.ID], ofProduct[r.ProductID], moment)
		found[r.ID] = Sellable{ID: r.ID, ProductID: r.ProductID, Name: r.Name, ShortName: r.ShortName, Label: r.Label, SKU: r.SKU, Barcode: r.Barcode,
			Tracking: stock.Tracking(r.Tracking), Unit: u, TaxClass: r.TaxClassID, Price: amount, HasPrice: source != price.NoPrice, LastCost: r.LastCost}
	}
	return found, nil
}

// ProductRow is a product in a list.
type ProductRow struct {
	ID       uint64
	Name     string
	Category string
	Supplier string
	Tracking string
	Unit     string
	Variants int
	OnHand   decimal.Decimal
	ForSale  decimal.Decimal
	Low      int
	PriceMin decimal.Decimal
	PriceMax decimal.Decimal
	Value    decimal.Decimal
}

// ProductFilter narrows a list of products. Category takes in those below it.
type ProductFilter struct {
	Words    string
	Category uint64
}

// PageSize is how many rows a list shows at a time.
const PageSize = 50

// Products lists a page of products by name (from page 1), and whether there is
// another page. Figures are added up for the page's products only.
func (q Q) Products(f ProductFilter, page int, moment time.Time) ([]ProductRow, bool, error) {
	ids := words(q.db.Table("product p").Select("p.id"), f.Words)
	if f.Category != 0 {
		var path string
		if err := q.db.Raw("SELECT path FROM category WHERE id = ?", f.Category).Scan(&path).Error; err != nil {
			return nil, false, err
		}
		ids = ids.Where("p.category_id IN (SELECT id FROM category WHERE path = ? OR path LIKE ?)", path, like(path)+" > %")
	}
	// the page is found on the index of names; the rest is joined to it
	ids = ids.Order("p.name").Limit(PageSize + 1).Offset((page - 1) * PageSize)
	var rows []ProductRow
	err := q.db.Table("(?) x", ids).Select("p.id, p.name, c.path AS category, COALESCE(s.name, '') AS supplier, p.tracking, p.unit").
		Joins("JOIN product p ON p.id = x.id JOIN category c ON c.id = p.category_id LEFT JOIN supplier s ON s.id = p.supplier_id").Order("p.name").Scan(&rows).Error
	if err != nil {
		return nil, false, err
	}
	more := len(rows) > PageSize
	rows = rows[:min(len(rows), PageSize)]
	return rows, more, q.productFigures(rows, moment)
}

// like escapes what LIKE would take as a pattern.
func like(text string) string {
	return strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(text)
}

// words narrows products by words: from three letters on through the full text
// index, each word by its beginning.
func words(db *gorm.DB, text string) *gorm.DB {
	var long []string
	for _, w := range strings.FieldsFunc(text, func(r rune) bool { return strings.ContainsRune(" \t+-<>()~*\"@,.", r) }) {
		if len([]rune(w)) >= 3 {
			long = append(long, "+"+w+"*")
		}
	}
	if len(long) > 0 {
		return db.Where("MATCH (p.name, p.short_name) AGAINST (? IN BOOLEAN MODE)", strings.Join(long, " "))
	}
	if text = strings.TrimSpace(text); text != "" {
		return db.Where("p.name LIKE ?", like(text)+"%")
	}
	return db
}

func (q Q) productFigures(rows []ProductRow, moment time.Time) error {
	if len(rows) == 0 {
		return nil
	}
	at := map[uint64]*ProductRow{}
	ids := make([]uint64, len(rows))
	for i := range rows {
		ids[i], at[rows[i].ID] = rows[i].ID, &rows[i]
	}
	var figures []struct {
		ID, ProductID            uint64
		Quantity, Value, ForSale decimal.Decimal
		Low                      bool
	}
	err := q.db.Raw(`SELECT v.id, v.product_id, c.quantity, c.value, c.for_sale, c.low
		FROM variant v JOIN cost_pool c ON c.variant_id = v.id WHERE v.product_id IN ?`, ids).Scan(&figures).Error
	if err != nil {
		return err
	}
	own, ofProduct, err := q.prices(ids)
	if err != nil {
		return err
	}
	for _, f := range figures {
		row := at[f.ProductID]
		amount, _ := price.At(own[f.ID], ofProduct[f.ProductID], moment)
		if row.Variants == 0 || amount.LessThan(row.PriceMin) {
			row.PriceMin = amount
		}
		row.PriceMax = decimal.Max(row.PriceMax, amount)
		row.Variants++
		row.OnHand, row.ForSale, row.Value = row.OnHand.Add(f.Quantity), row.ForSale.Add(f.ForSale), row.Value.Add(f.Value)
		if f.Low {
			row.Low++
		}
	}
	return nil
}

// Owner finds who has a barcode: 0 for nobody.
func (q Q) Owner(code string) (variant uint64, name string, err error) {
	var row struct {
		ID          uint64
		Name, Label string
	}
	err = q.db.Raw(`SELECT v.id, p.name, v.label FROM barcode b JOIN variant v ON v.id = b.variant_id JOIN product p ON p.id = v.product_id
		WHERE b.code_key = ?`, barcode.Key(code)).Scan(&row).Error
	return row.ID, FullName(row.Name, row.Label), err
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

// AddBarcode gives a variant a barcode. One that exists names its owner.
func (tx Tx) AddBarcode(variant uint64, code string) error {
	err := tx.db.Create(&Barcode{VariantID: variant, Code: code, CodeKey: barcode.Key(code)}).Error
	if duplicate(err) {
		_, owner, err := tx.Owner(code)
		if err != nil {
			return err
		}
		return fault.Clash("barcode", code, "a barcode that is free", "The barcode %s belongs to %s.", code, owner)
	}
	return err
}

// SetPrice gives a product, or one variant of it, a price from a moment on.
func (tx Tx) SetPrice(product uint64, variant *uint64, amount decimal.Decimal, from time.Time) error {
	return tx.db.Create(&Price{ProductID: product, VariantID: variant, FromAt: from, Amount: amount}).Error
}

// ProductByName finds a product; 0 when there is none.
func (q Q) ProductByName(name string) (uint64, error) {
	var id uint64
	return id, q.db.Raw("SELECT id FROM product WHERE name = ?", name).Scan(&id).Error
}

// HasEntries reports whether a product's stock was ever moved.
func (q Q) HasEntries(product uint64) (bool, error) {
	var n int
	err := q.db.Raw("SELECT EXISTS (SELECT 1 FROM entry e JOIN variant v ON v.id = e.variant_id WHERE v.product_id = ?)", product).Scan(&n).Error
	return n == 1, err
}

// UpdateProduct changes some columns of a product.
func (tx Tx) UpdateProduct(id uint64, columns map[string]any) error {
	return tx.db.Table("product").Where("id = ?", id).Updates(columns).Error
}

// SetRestockLevel sets from how many on a variant runs low; nil for never.
func (tx Tx) SetRestockLevel(variant uint64, level *decimal.Decimal) error {
	if err := tx.db.Exec("UPDATE variant SET restock_level = ? WHERE id = ?", level, variant).Error; err != nil {
		return err
	}
	return tx.db.Exec("UPDATE cost_pool SET low = COALESCE(for_sale < ?, FALSE) WHERE variant_id = ?", level, variant).Error
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
	err := tx.Insert(&list)
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
	var rows []Product
	err := q.db.Raw("SELECT id, name FROM product WHERE name IN ?", names).Scan(&rows).Error
	found := make(map[string]uint64, len(rows))
	for _, r := range rows {
		found[strings.ToLower(r.Name)] = r.ID
	}
	return found, err
}

// VariantName reads what a variant is called.
func (q Q) VariantName(id uint64) (product, label string, err error) {
	var row struct{ Name, Label string }
	err = q.db.Raw("SELECT p.name, v.label FROM variant v JOIN product p ON p.id = v.product_id WHERE v.id = ?", id).Scan(&row).Error
	return row.Name, row.Label, err
}

// SetCategoryColour sets the colour of a category's tile.
func (tx Tx) SetCategoryColour(path, colour string) error {
	return tx.db.Exec("UPDATE category SET colour = ? WHERE path = ?", colour, path).Error
}
