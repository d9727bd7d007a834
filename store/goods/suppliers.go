package goods

import (
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// Suppliers lists the suppliers by name, closed ones too.
func Suppliers(q db.Q) ([]Supplier, error) {
	var rows []Supplier
	return rows, db.SQL(q).Raw("SELECT * FROM supplier ORDER BY name").Scan(&rows).Error
}

// OpenSuppliers lists the suppliers that are not closed, by name.
func OpenSuppliers(q db.Q) ([]Supplier, error) {
	var rows []Supplier
	return rows, db.SQL(q).Raw("SELECT * FROM supplier WHERE closed_at IS NULL ORDER BY name").Scan(&rows).Error
}

// ReadSupplier reads a supplier with the people to ask there.
func ReadSupplier(q db.Q, id uint64) (Supplier, []SupplierContact, error) {
	var row Supplier
	if err := db.SQL(q).Raw("SELECT * FROM supplier WHERE id = ?", id).Scan(&row).Error; err != nil {
		return row, nil, err
	}
	if row.ID == 0 {
		return row, nil, fault.Missing("supplier_id", id, "There is no supplier %d.", id)
	}
	var contacts []SupplierContact
	return row, contacts, db.SQL(q).
		Raw("SELECT * FROM supplier_contact WHERE supplier_id = ? ORDER BY id", id).
		Scan(&contacts).
		Error
}

// LockSupplier is ReadSupplier, with the supplier locked until the transaction ends.
func LockSupplier(tx db.Tx, id uint64) (Supplier, []SupplierContact, error) {
	var found uint64
	if err := db.SQL(tx.Q).Raw("SELECT id FROM supplier WHERE id = ? FOR UPDATE", id).Scan(&found).Error; err != nil {
		return Supplier{}, nil, err
	}
	return ReadSupplier(tx.Q, id)
}

// KeepSupplierRow writes a supplier with the people to ask there; a new one gets its number.
func KeepSupplierRow(tx db.Tx, row *Supplier, contacts []SupplierContact) error {
	err := db.SQL(tx.Q).Save(row).Error
	if db.Duplicate(err) {
		return fault.Clash("name", row.Name, "another name, or to change that one",
			"There is a supplier %s already.", row.Name)
	}
	if err != nil {
		return err
	}
	if err := db.SQL(tx.Q).Exec("DELETE FROM supplier_contact WHERE supplier_id = ?", row.ID).Error; err != nil {
		return err
	}
	for i := range contacts {
		contacts[i].ID, contacts[i].SupplierID = 0, row.ID
	}
	if len(contacts) == 0 {
		return nil
	}
	return db.Insert(tx, &contacts)
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
	row.Name, row.Revision = name, 1
	return row, db.SQL(tx.Q).Create(&row).Error
}

// SupplierProduct is a product that a supplier has, with whether it runs low.
type SupplierProduct struct {
	ID     uint64          `json:"id"`
	Name   string          `json:"name"`
	OnHand decimal.Decimal `json:"on_hand"`
	Low    int             `json:"low"` // variants below their restock level
}

// ProductsOfSupplier lists the products that a supplier has and that are not discontinued:
// those that run low first, then by name.
func ProductsOfSupplier(q db.Q, supplier uint64, most int) ([]SupplierProduct, error) {
	var rows []SupplierProduct
	return rows, db.SQL(q).
		Raw(`SELECT p.id, p.name, COALESCE(f.on_hand, 0) AS on_hand, COALESCE(f.low, 0) AS low FROM product_supplier x
			JOIN product p ON p.id = x.product_id LEFT JOIN product_figure f ON f.product_id = p.id
		WHERE x.supplier_id = ? AND NOT p.discontinued AND p.tracking <> 'not stocked'
		ORDER BY COALESCE(f.low, 0) = 0, p.name LIMIT ?`, supplier, most).
		Scan(&rows).
		Error
}
