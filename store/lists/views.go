package lists

import (
	"time"

	"itemrack/core/fault"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// SavedViews lists the views that a person saved.
func SavedViews(q db.Q, user uint64) ([]SavedView, error) {
	var rows []SavedView
	return rows, db.SQL(q).Raw("SELECT * FROM saved_view WHERE user_id = ? ORDER BY name", user).Scan(&rows).Error
}

// SaveView keeps a view under its name.
func SaveView(tx db.Tx, v SavedView) error {
	return db.SQL(tx.Q).
		Exec("INSERT INTO saved_view (user_id, name, name_key, query) VALUES (?, ?, ?, ?) ON DUPLICATE KEY UPDATE "+
			"name = VALUES(name), query = VALUES(query)", v.UserID, v.Name, text.Key(v.Name), v.Query).
		Error
}

// DropView forgets a view of a person.
func DropView(tx db.Tx, user, id uint64) error {
	return db.SQL(tx.Q).Exec("DELETE FROM saved_view WHERE id = ? AND user_id = ?", id, user).Error
}

// LockBulkEdit reads a bulk edit, locked until the transaction ends.
func LockBulkEdit(tx db.Tx, id uint64) (BulkEdit, error) {
	var e BulkEdit
	if err := db.SQL(tx.Q).Raw("SELECT * FROM bulk_edit WHERE id = ? FOR UPDATE", id).Scan(&e).Error; err != nil {
		return e, err
	}
	if e.ID == 0 {
		return e, fault.Missing("bulk_edit", id, "There is no change %d.", id)
	}
	return e, nil
}

// BulkEdits lists the last changes of many products at once.
func BulkEdits(q db.Q, most int) ([]BulkEdit, error) {
	var rows []BulkEdit
	return rows, db.SQL(q).
		Raw("SELECT id, user_id, at, says, undone_at FROM bulk_edit ORDER BY id DESC LIMIT ?", most).
		Scan(&rows).
		Error
}

// UndoneBulkEdit marks a bulk edit as undone.
func UndoneBulkEdit(tx db.Tx, id uint64, now time.Time) error {
	return db.SQL(tx.Q).Exec("UPDATE bulk_edit SET undone_at = ? WHERE id = ?", now, id).Error
}
