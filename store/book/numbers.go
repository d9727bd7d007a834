package book

import (
	"database/sql"

	"itemrack/store/internal/db"
)

// NextNumber takes the next number of a range, from 1. The range stays locked
// until the transaction ends, so no number is left out.
func NextNumber(tx db.Tx, name string, count uint64) (uint64, error) {
	run := func() (sql.Result, error) {
		return db.Exec(tx,
			"UPDATE number_range SET next = LAST_INSERT_ID(next) + ? WHERE name = ?", count, name)
	}
	result, err := run()
	if err != nil {
		return 0, err
	}
	if n, _ := result.RowsAffected(); n == 0 {
		if err := db.SQL(tx.Q).Exec("INSERT IGNORE INTO number_range (name, next) VALUES (?, 1)",
			name).Error; err != nil {
			return 0, err
		}
		if result, err = run(); err != nil {
			return 0, err
		}
	}
	next, err := result.LastInsertId()
	return uint64(next), err
}
