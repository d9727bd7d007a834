package office

import (
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
	if err := db.SQL(tx.Q).Raw("SELECT name FROM setting WHERE name = 'shop_name' FOR UPDATE").Scan(&names).Error; err != nil {
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

// Branches lists the branches in the order they were made.
func Branches(q db.Q) ([]Branch, error) {
	var rows []Branch
	return rows, db.SQL(q).Raw("SELECT id, name FROM branch ORDER BY id").Scan(&rows).Error
}

// Claim writes a setting that is not there yet, and reports whether it was so.
func Claim(tx db.Tx, name, value string) (bool, error) {
	result := db.SQL(tx.Q).Exec("INSERT IGNORE INTO setting (name, value) VALUES (?, ?)", name, value)
	return result.RowsAffected == 1, result.Error
}
