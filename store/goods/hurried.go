package goods

import (
	"time"

	"itemrack/store/internal/db"
)

// MarkHurried marks a product that was made in a hurry: it is to be completed.
func MarkHurried(tx db.Tx, product uint64, at time.Time) error {
	return db.SQL(tx.Q).Exec("UPDATE product SET hurried_at = ? WHERE id = ?", at, product).Error
}

// MarkComplete takes that mark away.
func MarkComplete(tx db.Tx, product uint64) error {
	return db.SQL(tx.Q).Exec("UPDATE product SET hurried_at = NULL WHERE id = ?", product).Error
}

// HurriedRow is a product that is to be completed.
type HurriedRow struct {
	ID        uint64    `json:"id"`
	Name      string    `json:"name"`
	HurriedAt time.Time `json:"hurried_at"`
}

// Hurried lists the products that are to be completed, the oldest first.
func Hurried(q db.Q, most int) ([]HurriedRow, error) {
	var rows []HurriedRow
	return rows, db.SQL(q).Raw("SELECT id, name, hurried_at FROM product WHERE hurried_at IS NOT NULL ORDER BY "+
		"hurried_at, id LIMIT ?",
		most).Scan(&rows).Error
}
