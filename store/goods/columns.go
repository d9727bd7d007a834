package goods

import (
	"itemrack/store/internal/db"
)

// ColumnValue is what stands in a column of a product, as it is kept and as it is
// shown.
type ColumnValue struct {
	ID    uint64  `json:"id"`
	Name  string  `json:"name"`
	Value *string `json:"value"`
	Shown string  `json:"shown"`
}

// shownAs is how a column of product is shown; the others show themselves.
var shownAs = map[string]string{
	"category_id":  "(SELECT path FROM category c WHERE c.id = p.category_id)",
	"supplier_id":  "(SELECT name FROM supplier s WHERE s.id = p.supplier_id)",
	"tax_class_id": "(SELECT name FROM tax_class t WHERE t.id = p.tax_class_id)",
	"discontinued": "IF(p.discontinued, 'yes', 'no')",
}

// ProductColumn reads a column of some products by name. A tax class that is
// taken over is nil.
func ProductColumn(q db.Q, column string, products []uint64) ([]ColumnValue, error) {
	shown := shownAs[column]
	if shown == "" {
		shown = "p." + column
	}
	value := "CAST(p." + column + " AS CHAR)"
	if column == "tax_class_id" {
		value = "IF(p.own_tax_class, " + value + ", NULL)"
	}
	var rows []ColumnValue
	return rows, db.SQL(q).
		Raw("SELECT p.id, p.name, "+value+" AS value, COALESCE("+shown+", '') AS shown FROM product p WHERE p.id IN "+
			"? ORDER BY p.name, p.id", products).
		Scan(&rows).
		Error
}

// SetProductColumn writes a column of some products; nil takes the category's.
func SetProductColumn(tx db.Tx, column string, value *string, products []uint64) error {
	if column == "tax_class_id" {
		if value == nil {
			return db.SQL(tx.Q).Exec("UPDATE product SET own_tax_class = FALSE WHERE id IN ?", products).Error
		}
		return db.SQL(tx.Q).
			Exec("UPDATE product SET tax_class_id = ?, own_tax_class = TRUE WHERE id IN ?", value, products).
			Error
	}
	return db.SQL(tx.Q).Exec("UPDATE product SET "+column+" = ? WHERE id IN ?", value, products).Error
}

// SuppliedBy makes sure that the usual supplier of some products stands among
// their suppliers.
func SuppliedBy(tx db.Tx, products []uint64) error {
	return db.SQL(tx.Q).
		Exec("INSERT IGNORE INTO product_supplier (product_id, supplier_id) SELECT id, supplier_id FROM product "+
			"WHERE id IN ? AND supplier_id IS NOT NULL", products).
		Error
}
