package goods

import (
	"github.com/shopspring/decimal"

	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// Suppliers lists the suppliers by name.
func Suppliers(q db.Q) ([]Supplier, error) {
	var rows []Supplier
	return rows, db.SQL(q).Raw("SELECT * FROM supplier ORDER BY name").Scan(&rows).Error
}

// Brands lists the brands of the catalog.
func Brands(q db.Q) ([]string, error) {
	var rows []string
	return rows, db.SQL(q).
		Raw("SELECT DISTINCT brand FROM product WHERE brand > '' ORDER BY brand LIMIT 1000").
		Scan(&rows).
		Error
}

// KeepSupplier makes sure that a supplier of this name exists.
func KeepSupplier(tx db.Tx, name string) (Supplier, error) {
	var row Supplier
	err := db.SQL(tx.Q).Raw("SELECT * FROM supplier WHERE name_key = ?", text.Key(name)).Scan(&row).Error
	if err != nil || row.ID != 0 {
		return row, err
	}
	row.Name = name
	return row, db.SQL(tx.Q).Create(&row).Error
}

// SaveSupplier changes what a supplier's products take over.
func SaveSupplier(tx db.Tx, id uint64, markup *decimal.Decimal, ending *string) error {
	return db.SQL(tx.Q).Exec("UPDATE supplier SET markup = ?, ending = ? WHERE id = ?", markup, ending, id).Error
}
