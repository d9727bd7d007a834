package goods

import (
	"strings"

	"itemrack/core/fault"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// LockProduct keeps others from changing a product until the transaction ends.
func LockProduct(tx db.Tx, id uint64) error {
	var found uint64
	if err := db.SQL(tx.Q).Raw("SELECT id FROM product WHERE id = ? FOR UPDATE", id).Scan(&found).Error; err != nil {
		return err
	}
	if found == 0 {
		return fault.Missing("product", id, "There is no product %d.", id)
	}
	return nil
}

// LockProducts keeps others from changing some products until the transaction ends.
func LockProducts(tx db.Tx, ids []uint64) error {
	if len(ids) == 0 {
		return nil
	}
	var found []uint64
	return db.SQL(tx.Q).Raw("SELECT id FROM product WHERE id IN ? ORDER BY id FOR UPDATE", ids).Scan(&found).Error
}

// ProductByName finds a product; 0 when there is none.
func ProductByName(q db.Q, name string) (uint64, error) {
	var id uint64
	return id, db.SQL(q).Raw("SELECT id FROM product WHERE name_key = ?", text.Key(name)).Scan(&id).Error
}

// HasEntries reports whether stock of any of some variants was ever moved.
func HasEntries(q db.Q, variants []uint64) (bool, error) {
	if len(variants) == 0 {
		return false, nil
	}
	var n int
	err := db.SQL(q).
		Raw("SELECT EXISTS (SELECT 1 FROM entry WHERE variant_id IN ?) OR EXISTS (SELECT 1 FROM sale_line WHERE "+
			"variant_id IN ?)", variants, variants).
		Scan(&n).
		Error
	return n == 1, err
}

// UpdateProduct changes some columns of a product.
func UpdateProduct(tx db.Tx, id uint64, columns map[string]any) error {
	if len(columns) == 0 {
		return nil
	}
	if name, named := columns["name"].(string); named {
		columns["name_key"] = text.Key(name)
	}
	err := db.SQL(tx.Q).Table("product").Where("id = ?", id).Updates(columns).Error
	if db.Duplicate(err) {
		return fault.Clash("name", columns["name"], "a name of its own", "There is a product %v already.",
			columns["name"])
	}
	return err
}

// DropProduct drops a product without variants.
func DropProduct(tx db.Tx, id uint64) error {
	for _, statement := range []string{"DELETE x FROM axis_value x JOIN axis a ON a.id = x.axis_id WHERE " +
		"a.product_id = ?", "DELETE FROM axis WHERE product_id = ?", "DELETE FROM price WHERE product_id = ?",
		"DELETE FROM pack WHERE product_id = ?", "DELETE FROM product_supplier WHERE product_id = ?", "DELETE FROM " +
			"product_attribute WHERE product_id = ?",
		"DELETE FROM product_picture WHERE product_id = ?", "DELETE FROM product WHERE id = ?"} {
		if err := db.SQL(tx.Q).Exec(statement, id).Error; err != nil {
			return err
		}
	}
	return nil
}

// SettleRestock writes the restock level that holds for each variant of some
// products: its own, else its product's settled one.
func SettleRestock(tx db.Tx, products []uint64) error {
	if len(products) == 0 {
		return nil
	}
	in, err := ReadInheritance(tx.Q)
	if err != nil {
		return err
	}
	for start := 0; start < len(products); start += 1000 {
		part := products[start:min(start+1000, len(products))]
		var list []Product
		if err := db.SQL(tx.Q).Raw("SELECT id, name, category_id, supplier_id, restock_level FROM product WHERE id "+
			"IN ?", part).Scan(&list).Error; err != nil {
			return err
		}
		args := []any{}
		for _, p := range list {
			args = append(args, p.ID, in.Settle(p).Restock)
		}
		if len(list) == 0 {
			continue
		}
		if err := db.SQL(tx.Q).Exec("UPDATE variant SET restock_level = COALESCE(own_restock_level, CASE product_id"+
			strings.Repeat(" WHEN ? THEN ?", len(list))+" END) WHERE product_id IN ?", append(args, part)...).Error; err != nil {
			return err
		}
		if err := settleFollowing(tx, part); err != nil {
			return err
		}
	}
	return nil
}

// SettleTaxClasses writes the tax class that holds for the products that take it
// over.
func SettleTaxClasses(tx db.Tx, products []uint64, fallback uint64) error {
	in, err := ReadInheritance(tx.Q)
	if err != nil {
		return err
	}
	var list []Product
	if err := db.SQL(tx.Q).Raw("SELECT id, name, category_id, supplier_id, tax_class_id, own_tax_class FROM product "+
		"WHERE id IN ? AND NOT own_tax_class", products).Scan(&list).Error; err != nil {
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
		if err := db.SQL(tx.Q).Exec("UPDATE product SET tax_class_id = ? WHERE id IN ?", class, ids).Error; err != nil {
			return err
		}
	}
	return nil
}

// ProductsIn lists the products of a category and those below it.
func ProductsIn(q db.Q, category uint64) ([]uint64, error) {
	var path string
	if err := db.SQL(q).Raw("SELECT path_key FROM category WHERE id = ?", category).Scan(&path).Error; err != nil {
		return nil, err
	}
	var ids []uint64
	return ids, db.SQL(q).
		Raw("SELECT id FROM product WHERE category_id IN (SELECT id FROM category WHERE path_key = ? OR path_key LIKE ?) "+
			"ORDER BY id", path, db.Like(path)+" > %").
		Scan(&ids).
		Error
}

// ProductsByName finds products by their names in small letters.
func ProductsByName(q db.Q, names []string) (map[string]uint64, error) {
	found := map[string]uint64{}
	for start := 0; start < len(names); start += 2000 {
		var rows []Product
		if err := db.SQL(q).Raw("SELECT id, name_key FROM product WHERE name_key IN ?",
			names[start:min(start+2000, len(names))]).Scan(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			found[r.NameKey] = r.ID
		}
	}
	return found, nil
}

// AddProducts writes products, and fills in the number.
func AddProducts(tx db.Tx, row *[]Product) error { return db.Insert(tx, row) }
