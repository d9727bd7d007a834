package office

import (
	"context"
	"time"

	"itemrack/store/internal/db"
)

// Once does work in a transaction under a request key. When the key was used before,
// the result that was kept with it goes to again, and nothing is done; a request that
// is still being worked on is waited for. Without a key work is done each time. The
// key is claimed as the transaction begins, and the result kept as it ends.
func Once(ctx context.Context, s *db.Store, key string, now time.Time, work func(tx db.Tx) (string, error),
	again func(result string) error) error {
	if key == "" {
		return s.Do(ctx, func(tx db.Tx) error {
			_, err := work(tx)
			return err
		})
	}
	claim := new(db.Batch)
	claim.Add("INSERT INTO request_key (k, created_at) VALUES (?, ?)", key, now)
	return db.Between(ctx, s, claim, func(tx db.Tx, failed error) (*db.Batch, error) {
		if db.Duplicate(failed) {
			var result string
			if err := db.SQL(tx.Q).Raw("SELECT result FROM request_key WHERE k = ?", key).Scan(&result).Error; err != nil {
				return nil, err
			}
			return nil, again(result)
		}
		if failed != nil {
			return nil, failed
		}
		result, err := work(tx)
		keep := new(db.Batch)
		keep.Add("UPDATE request_key SET result = ? WHERE k = ?", result, key)
		return keep, err
	})
}
