package office

import (
	"database/sql"
	"slices"

	"itemrack/core/fault"
	"itemrack/store/internal/db"
)

// Setting reads a setting of the shop; empty when it is not set.
func Setting(q db.Q, name string) (string, error) {
	var value string
	err := db.SQL(q).Raw("SELECT value FROM setting WHERE name = ?", name).Scan(&value).Error
	return value, err
}

// Settings reads all settings of the shop.
func Settings(q db.Q) (map[string]string, error) {
	var rows []struct{ Name, Value string }
	err := db.SQL(q).Raw("SELECT name, value FROM setting").Scan(&rows).Error
	all := make(map[string]string, len(rows))
	for _, r := range rows {
		all[r.Name] = r.Value
	}
	return all, err
}

// LockSettings is Settings, with those that are there locked until the transaction ends.
func LockSettings(tx db.Tx) (map[string]string, error) {
	var names []string
	const lock = "SELECT name FROM setting WHERE name = 'shop_name' FOR UPDATE"
	if err := db.SQL(tx.Q).Raw(lock).Scan(&names).Error; err != nil {
		return nil, err
	}
	return Settings(tx.Q)
}

// Set writes a setting.
func Set(tx db.Tx, name, value string) error {
	return db.SQL(tx.Q).
		Exec("INSERT INTO setting (name, value) VALUES (?, ?) ON DUPLICATE KEY UPDATE value = VALUES(value)", name,
			value).
		Error
}

// Branches lists the branches that are open, in the order that the shop gave them.
func Branches(q db.Q) ([]Branch, error) {
	all, err := AllBranches(q)
	return slices.DeleteFunc(all, func(b Branch) bool { return b.Closed }), err
}

// AllBranches lists the branches in the order that the shop gave them, closed ones last.
func AllBranches(q db.Q) ([]Branch, error) {
	var rows []Branch
	const all = "SELECT id, name, position, closed FROM branch ORDER BY closed, position, id"
	return rows, db.SQL(q).Raw(all).Scan(&rows).Error
}

// LockBranch reads a branch, locked until the transaction ends.
func LockBranch(tx db.Tx, id uint64) (Branch, error) {
	var b Branch
	err := db.SQL(tx.Q).Raw("SELECT id, name, position, closed FROM branch WHERE id = ? FOR UPDATE", id).Scan(&b).Error
	if err == nil && b.ID == 0 {
		err = fault.Missing("branch_id", id, "There is no branch %d.", id)
	}
	return b, err
}

// SaveBranch writes a branch; a new one gets its number.
func SaveBranch(tx db.Tx, b *Branch) error {
	err := db.SQL(tx.Q).Save(b).Error
	if db.Duplicate(err) {
		return fault.Clash("name", b.Name, "another name", "There is a branch %s already.", b.Name)
	}
	return err
}

// OpenAt says in words what is open at a branch that is to be closed: drawers, baskets, sendings, counts,
// deliveries.
func OpenAt(q db.Q, branch uint64) ([]string, error) {
	open := []struct{ what, sql string }{
		{"a drawer is open", "SELECT COUNT(*) FROM drawer d JOIN register r ON r.id = d.register_id WHERE " +
			"d.closed_at IS NULL AND r.branch_id = @b"},
		{"there are baskets", "SELECT COUNT(*) FROM basket WHERE branch_id = @b"},
		{"sendings go on", "SELECT COUNT(*) FROM sending WHERE state IN ('Wanted', 'Packing', 'On the way') AND " +
			"@b IN (from_id, to_id)"},
		{"a shelf count goes on", "SELECT COUNT(*) FROM shelf_count WHERE state <> 'Closed' AND branch_id = @b"},
		{"a delivery is not posted", "SELECT COUNT(*) FROM delivery WHERE document_id IS NULL AND branch_id = @b"},
		{"orders go there", "SELECT COUNT(*) FROM purchase_order WHERE state IN ('Placed', 'Part in') AND branch_id = @b"},
	}
	var says []string
	for _, o := range open {
		var n int
		if err := db.SQL(q).Raw(o.sql, sql.Named("b", branch)).Scan(&n).Error; err != nil {
			return nil, err
		}
		if n > 0 {
			says = append(says, o.what)
		}
	}
	return says, nil
}

// Claim writes a setting that is not there yet, and reports whether it was so.
func Claim(tx db.Tx, name, value string) (bool, error) {
	result := db.SQL(tx.Q).Exec("INSERT IGNORE INTO setting (name, value) VALUES (?, ?)", name, value)
	return result.RowsAffected == 1, result.Error
}
