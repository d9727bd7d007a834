package office

import (
	"time"

	"itemrack/store/internal/db"
)

// ClaimKey claims a request key. When the key was used before it returns the
// result that was kept with it and false; an answer still being worked out is
// waited for.
func ClaimKey(tx db.Tx, key string, now time.Time) (result string, first bool, err error) {
	err = db.SQL(tx.Q).Exec("INSERT INTO request_key (k, created_at) VALUES (?, ?)", key, now).Error
	if err == nil {
		return "", true, nil
	}
	if !db.Duplicate(err) {
		return "", false, err
	}
	err = db.SQL(tx.Q).Raw("SELECT result FROM request_key WHERE k = ?", key).Scan(&result).Error
	return result, false, err
}

// KeepResult keeps the result of a request under its key.
func KeepResult(tx db.Tx, key, result string) error {
	return db.SQL(tx.Q).Exec("UPDATE request_key SET result = ? WHERE k = ?", result, key).Error
}
