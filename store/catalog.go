package store

import (
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/tax"
)

// Setting reads a setting of the shop; empty when it is not set.
func (q Q) Setting(name string) (string, error) {
	var value string
	err := q.db.Raw("SELECT value FROM setting WHERE name = ?", name).Scan(&value).Error
	return value, err
}

// Settings reads all settings of the shop.
func (q Q) Settings() (map[string]string, error) {
	var rows []struct{ Name, Value string }
	err := q.db.Raw("SELECT name, value FROM setting").Scan(&rows).Error
	all := make(map[string]string, len(rows))
	for _, r := range rows {
		all[r.Name] = r.Value
	}
	return all, err
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

// Brands lists the brands of the catalog.
func (q Q) Brands() ([]string, error) {
	var rows []string
	return rows, q.db.Raw("SELECT DISTINCT brand FROM product WHERE brand > '' ORDER BY brand LIMIT 1000").Scan(&rows).Error
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

// SetTaxRate gives a class a rate from a moment on.
func (tx Tx) SetTaxRate(class uint64, from time.Time, percent decimal.Decimal) error {
	return tx.db.Exec("INSERT INTO tax_rate (tax_class_id, from_at, percent) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE percent = VALUES(percent)", class, from, percent).Error
}

// DropTaxRates takes back the rates of a class that begin after a moment, and
// returns how many there were.
func (tx Tx) DropTaxRates(class uint64, after time.Time) (int64, error) {
	done := tx.db.Exec("DELETE FROM tax_rate WHERE tax_class_id = ? AND from_at > ?", class, after)
	return done.RowsAffected, done.Error
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

// LockCategories keeps others from changing the tree until the transaction ends,
// and returns it.
func (tx Tx) LockCategories() ([]Category, error) {
	var rows []Category
	return rows, tx.db.Raw("SELECT * FROM category ORDER BY path FOR UPDATE").Scan(&rows).Error
}

// SaveCategory changes the columns of a category.
func (tx Tx) SaveCategory(id uint64, columns map[string]any) error {
	err := tx.db.Table("category").Where("id = ?", id).Updates(columns).Error
	if duplicate(err) {
		return fault.Clash("name", columns["path"], "a name of its own", "There is a category %v already; merge the two instead.", columns["path"])
	}
	return err
}

// MergeCategory gives all that one category has to another and drops it.
func (tx Tx) MergeCategory(from, into uint64) error {
	for _, statement := range []string{"UPDATE product SET category_id = ? WHERE category_id = ?", "UPDATE shelf_count SET category_id = ? WHERE category_id = ?"} {
		if err := tx.db.Exec(statement, into, from).Error; err != nil {
			return err
		}
	}
	return tx.DropCategory(from)
}

// DropCategory drops a category; one that is in use is refused.
func (tx Tx) DropCategory(id uint64) error {
	err := tx.db.Exec("DELETE FROM category WHERE id = ?", id).Error
	if referenced(err) {
		return fault.Refuse("category", id, "a category without products", "The category has products, categories below it or counts. Merge it into another instead.")
	}
	return err
}

// CategoryProducts counts the products right in each category.
func (q Q) CategoryProducts() (map[uint64]int, error) {
	var rows []struct {
		CategoryID uint64
		N          int
	}
	err := q.db.Raw("SELECT category_id, COUNT(*) AS n FROM product GROUP BY category_id").Scan(&rows).Error
	counts := make(map[uint64]int, len(rows))
	for _, r := range rows {
		counts[r.CategoryID] = r.N
	}
	return counts, err
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

// SaveSupplier changes what a supplier's products take over.
func (tx Tx) SaveSupplier(id uint64, markup *decimal.Decimal, ending *string) error {
	return tx.db.Exec("UPDATE supplier SET markup = ?, ending = ? WHERE id = ?", markup, ending, id).Error
}

// Inheritance is what products take over from their categories and suppliers.
type Inheritance struct {
	categories map[uint64]Category
	suppliers  map[uint64]Supplier
}

// Inheritance reads all categories and suppliers.
func (q Q) Inheritance() (Inheritance, error) {
	in := Inheritance{map[uint64]Category{}, map[uint64]Supplier{}}
	categories, err := q.Categories()
	if err != nil {
		return in, err
	}
	for _, c := range categories {
		in.categories[c.ID] = c
	}
	suppliers, err := q.Suppliers()
	for _, s := range suppliers {
		in.suppliers[s.ID] = s
	}
	return in, err
}

// Settle works out what holds for a product, and where it comes from.
func (in Inheritance) Settle(p Product) catalog.Settled {
	own := catalog.Defaults{Name: p.Name, Markup: p.Markup, Ending: price.SaidEnding(p.Ending), Restock: p.RestockLevel}
	if p.OwnTaxClass {
		own.TaxClass = p.TaxClassID
	}
	return catalog.Settle(append([]catalog.Defaults{own}, in.above(p.CategoryID, p.SupplierID)...))
}

// SettleCategory works out what holds in a category.
func (in Inheritance) SettleCategory(id uint64) catalog.Settled {
	return catalog.Settle(in.above(id, nil))
}

// above is the chain from a category to the root, and the supplier.
func (in Inheritance) above(category uint64, supplier *uint64) []catalog.Defaults {
	var chain []catalog.Defaults
	for at := category; at != 0; {
		c, ok := in.categories[at]
		if !ok {
			break
		}
		d := catalog.Defaults{Name: c.Name, Markup: c.Markup, Ending: price.SaidEnding(c.Ending), Restock: c.RestockLevel}
		if c.TaxClassID != nil {
			d.TaxClass = *c.TaxClassID
		}
		chain = append(chain, d)
		at = 0
		if c.ParentID != nil {
			at = *c.ParentID
		}
	}
	if supplier != nil {
		if s, ok := in.suppliers[*supplier]; ok {
			chain = append(chain, catalog.Defaults{Name: s.Name, Markup: s.Markup, Ending: price.SaidEnding(s.Ending)})
		}
	}
	return chain
}

// ValueSets lists the value sets with their values.
func (q Q) ValueSets() ([]ValueSet, map[uint64][]Value, error) {
	var sets []ValueSet
	if err := q.db.Raw("SELECT * FROM value_set ORDER BY name").Scan(&sets).Error; err != nil {
		return nil, nil, err
	}
	var values []Value
	err := q.db.Raw("SELECT * FROM set_value ORDER BY value_set_id, position, id").Scan(&values).Error
	bySet := map[uint64][]Value{}
	for _, v := range values {
		bySet[v.ValueSetID] = append(bySet[v.ValueSetID], v)
	}
	return sets, bySet, err
}

// ValueSet makes sure that a value set of this name exists, locks it and returns
// its values.
func (tx Tx) ValueSet(name string) (ValueSet, []Value, error) {
	var set ValueSet
	find := func() error {
		return tx.db.Raw("SELECT * FROM value_set WHERE name = ? FOR UPDATE", name).Scan(&set).Error
	}
	if err := find(); err != nil {
		return set, nil, err
	}
	if set.ID == 0 {
		set.Name = name
		err := tx.db.Create(&set).Error
		if duplicate(err) {
			set = ValueSet{}
			err = find()
		}
		return set, nil, err
	}
	var values []Value
	return set, values, tx.db.Raw("SELECT * FROM set_value WHERE value_set_id = ? ORDER BY position, id", set.ID).Scan(&values).Error
}

// RenameValue renames a value of a set, gives it a swatch and a place, and
// rewrites the labels of the variants that have it. It returns the products they
// are of.
func (tx Tx) RenameValue(id uint64, name, swatch string, position int) ([]uint64, error) {
	err := tx.db.Exec("UPDATE set_value SET name = ?, swatch = ?, position = ? WHERE id = ?", name, swatch, position, id).Error
	if duplicate(err) {
		return nil, fault.Clash("name", name, "a name of its own", "The set has a value %q already.", name)
	}
	if err != nil {
		return nil, err
	}
	var products []uint64
	if err := tx.db.Raw("SELECT DISTINCT a.product_id FROM axis_value x JOIN axis a ON a.id = x.axis_id WHERE x.value_id = ?", id).Scan(&products).Error; err != nil || len(products) == 0 {
		return products, err
	}
	err = tx.db.Exec(`UPDATE variant v LEFT JOIN axis_value x1 ON x1.id = v.value1_id LEFT JOIN set_value n1 ON n1.id = x1.value_id
		LEFT JOIN axis_value x2 ON x2.id = v.value2_id LEFT JOIN set_value n2 ON n2.id = x2.value_id LEFT JOIN axis_value x3 ON x3.id = v.value3_id LEFT JOIN set_value n3 ON n3.id = x3.value_id
		SET v.label = CONCAT_WS(' · ', n1.name, n2.name, n3.name) WHERE v.product_id IN ?`, products).Error
	return products, err
}

// DropValue drops a value that no product uses.
func (tx Tx) DropValue(id uint64) error {
	err := tx.db.Exec("DELETE FROM set_value WHERE id = ?", id).Error
	if referenced(err) {
		return fault.Refuse("value", id, "a value that no product has", "Products have this value; it can be retired on them, and not dropped.")
	}
	return err
}

// BarcodeRanges lists the shop's ranges of own numbers.
func (q Q) BarcodeRanges() ([]BarcodeRange, error) {
	var rows []BarcodeRange
	return rows, q.db.Raw("SELECT * FROM barcode_range ORDER BY id").Scan(&rows).Error
}

// TakeNumbers takes up to count numbers of the first open range that has some
// left, and returns the range and its first number. It stays locked until the
// transaction ends.
func (tx Tx) TakeNumbers(count uint64) (BarcodeRange, uint64, uint64, error) {
	var r BarcodeRange
	if err := tx.db.Raw("SELECT * FROM barcode_range WHERE open AND next <= last ORDER BY id LIMIT 1 FOR UPDATE").Scan(&r).Error; err != nil {
		return r, 0, 0, err
	}
	if r.ID == 0 {
		return r, 0, 0, fault.Refuse("barcode", "", "another range of own numbers", "All the shop's own numbers are given out. Open another range in the settings.")
	}
	count = min(count, r.Last-r.Next+1)
	return r, r.Next, count, tx.db.Exec("UPDATE barcode_range SET next = next + ? WHERE id = ?", count, r.ID).Error
}

// SwitchRange opens or closes a range of own numbers.
func (tx Tx) SwitchRange(id uint64, open bool) error {
	return tx.db.Exec("UPDATE barcode_range SET open = ? WHERE id = ?", open, id).Error
}

// Claim writes a setting that is not there yet, and reports whether it was so.
func (tx Tx) Claim(name, value string) (bool, error) {
	result := tx.db.Exec("INSERT IGNORE INTO setting (name, value) VALUES (?, ?)", name, value)
	return result.RowsAffected == 1, result.Error
}
