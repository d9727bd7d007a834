package store

import (
	"time"

	"itemrack/core/fault"
)

// SavedViews lists the views that a person saved.
func (q Q) SavedViews(user uint64) ([]SavedView, error) {
	var rows []SavedView
	return rows, q.db.Raw("SELECT * FROM saved_view WHERE user_id = ? ORDER BY name", user).Scan(&rows).Error
}

// SaveView keeps a view under its name.
func (tx Tx) SaveView(v SavedView) error {
	return tx.db.Exec("INSERT INTO saved_view (user_id, name, query) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE query = VALUES(query)", v.UserID, v.Name, v.Query).Error
}

// DropView forgets a view of a person.
func (tx Tx) DropView(user, id uint64) error {
	return tx.db.Exec("DELETE FROM saved_view WHERE id = ? AND user_id = ?", id, user).Error
}

// LockBulkEdit reads a bulk edit, locked until the transaction ends.
func (tx Tx) LockBulkEdit(id uint64) (BulkEdit, error) {
	var e BulkEdit
	if err := tx.db.Raw("SELECT * FROM bulk_edit WHERE id = ? FOR UPDATE", id).Scan(&e).Error; err != nil {
		return e, err
	}
	if e.ID == 0 {
		return e, fault.Missing("bulk_edit", id, "There is no change %d.", id)
	}
	return e, nil
}

// BulkEdits lists the last changes of many products at once.
func (q Q) BulkEdits(most int) ([]BulkEdit, error) {
	var rows []BulkEdit
	return rows, q.db.Raw("SELECT id, user_id, at, says, undone_at FROM bulk_edit ORDER BY id DESC LIMIT ?", most).Scan(&rows).Error
}

// UndoneBulkEdit marks a bulk edit as undone.
func (tx Tx) UndoneBulkEdit(id uint64, now time.Time) error {
	return tx.db.Exec("UPDATE bulk_edit SET undone_at = ? WHERE id = ?", now, id).Error
}

// LabelTemplates lists the kinds of label that the shop made.
func (q Q) LabelTemplates() ([]LabelTemplate, error) {
	var rows []LabelTemplate
	return rows, q.db.Raw("SELECT * FROM label_template ORDER BY name").Scan(&rows).Error
}

// SaveLabelTemplate keeps a kind of label; a new one gets its number.
func (tx Tx) SaveLabelTemplate(t *LabelTemplate) error {
	err := tx.db.Save(t).Error
	if duplicate(err) {
		return fault.Clash("name", t.Name, "a name of its own", "There is a label %s already.", t.Name)
	}
	return err
}

// DropLabelTemplate drops a kind of label.
func (tx Tx) DropLabelTemplate(id uint64) error {
	return tx.db.Exec("DELETE FROM label_template WHERE id = ?", id).Error
}

// ColumnValue is what stands in a column of a product, as it is kept and as it is
// shown.
type ColumnValue struct {
	ID    uint64  `json:"id"`
	Name  string  `json:"name"`
	Value *string `json:"value"`
	Shown string  `json:"shown"`
}

// shownAs is how a column of product is shown; the others show themselves.
var shownAs = map[string]string{"category_id": "(SELECT path FROM category c WHERE c.id = p.category_id)", "supplier_id": "(SELECT name FROM supplier s WHERE s.id = p.supplier_id)",
	"tax_class_id": "(SELECT name FROM tax_class t WHERE t.id = p.tax_class_id)", "discontinued": "IF(p.discontinued, 'yes', 'no')"}

// ProductColumn reads a column of some products by name. A tax class that is
// taken over is nil.
func (q Q) ProductColumn(column string, products []uint64) ([]ColumnValue, error) {
	shown := shownAs[column]
	if shown == "" {
		shown = "p." + column
	}
	value := "CAST(p." + column + " AS CHAR)"
	if column == "tax_class_id" {
		value = "IF(p.own_tax_class, " + value + ", NULL)"
	}
	var rows []ColumnValue
	return rows, q.db.Raw("SELECT p.id, p.name, "+value+" AS value, COALESCE("+shown+", '') AS shown FROM product p WHERE p.id IN ? ORDER BY p.name, p.id", products).Scan(&rows).Error
}

// SetProductColumn writes a column of some products; nil takes the category's.
func (tx Tx) SetProductColumn(column string, value *string, products []uint64) error {
	if column == "tax_class_id" {
		if value == nil {
			return tx.db.Exec("UPDATE product SET own_tax_class = FALSE WHERE id IN ?", products).Error
		}
		return tx.db.Exec("UPDATE product SET tax_class_id = ?, own_tax_class = TRUE WHERE id IN ?", value, products).Error
	}
	return tx.db.Exec("UPDATE product SET "+column+" = ? WHERE id IN ?", value, products).Error
}

// SuppliedBy makes sure that the usual supplier of some products stands among
// their suppliers.
func (tx Tx) SuppliedBy(products []uint64) error {
	return tx.db.Exec("INSERT IGNORE INTO product_supplier (product_id, supplier_id) SELECT id, supplier_id FROM product WHERE id IN ? AND supplier_id IS NOT NULL", products).Error
}
