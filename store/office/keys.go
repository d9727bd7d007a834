package office

import (
	"context"
	"encoding/json"
	"time"

	"itemrack/core/fault"
	"itemrack/store/internal/db"
)

// KeyField is the field that a refused request key is told by.
const KeyField = "Idempotency-Key"

// Unkept stands for the result of a deed that told of somebody who was forgotten since: it is still done only once.
const Unkept = "forgotten"

// Once does work in a transaction under a request key. When the key was used before,
// the result that was kept with it goes to again, and nothing is done; a request that
// is still being worked on is waited for. Without a key work is done each time. The
// key is claimed as the transaction begins, and the result kept as it ends. Asked is the
// fingerprint of the request, empty for none: another one under the same key is refused.
// What is ahead is read as the transaction begins.
func Once(ctx context.Context, s *db.Store, key, asked string, now time.Time, ahead db.Ahead,
	work func(tx db.Tx) (string, error),
	again func(result string) error) error {
	if key == "" {
		return db.Between(ctx, s, nil, ahead, func(tx db.Tx, failed error) (*db.Batch, error) {
			if failed != nil {
				return nil, failed
			}
			_, err := work(tx)
			return nil, err
		})
	}
	claim := new(db.Batch)
	claim.Add("INSERT INTO request_key (k, asked, created_at) VALUES (?, ?, ?)", key, asked, now)
	return db.Between(ctx, s, claim, ahead, func(tx db.Tx, failed error) (*db.Batch, error) {
		if db.Duplicate(failed) {
			var kept struct{ Result, Asked string }
			if err := db.SQL(tx.Q).Raw("SELECT result, asked FROM request_key WHERE k = ?",
				key).Scan(&kept).Error; err != nil {
				return nil, err
			}
			if asked != "" && kept.Asked != "" && kept.Asked != asked {
				return nil, used(kept.Result)
			}
			if kept.Result == Unkept {
				return nil, fault.Clash(KeyField, "", "to look at what came of it",
					"This was done already, and what it came to is not kept any more.")
			}
			return nil, again(kept.Result)
		}
		if failed != nil {
			return nil, failed
		}
		result, err := work(tx)
		is := "?"
		if document := db.Promised(tx); document != "" {
			is = "JSON_SET(?, '$.document_id', " + document + ")"
		}
		keep := new(db.Batch)
		keep.Add("UPDATE request_key SET result = "+is+" WHERE k = ?", result, key)
		return keep, err
	})
}

// used says that a key was used for another request, and what that came to where it made a document.
func used(result string) error {
	var done struct{ Number string }
	if err := json.Unmarshal([]byte(result), &done); err == nil && done.Number != "" {
		return fault.Clash(KeyField, "", "to look at "+done.Number,
			"This was sent before, and posted as %s; nothing was done twice.", done.Number)
	}
	return fault.Clash(KeyField, "", "a key of its own for each request",
		"This request key was used for another request already; nothing was done.")
}

// ResultOf is what came of a request under one of some keys: what it was answered; false where none arrived.
func ResultOf(q db.Q, keys []string) (string, bool, error) {
	var results []string
	err := db.SQL(q).Raw("SELECT result FROM request_key WHERE k IN ?", keys).Scan(&results).Error
	if err != nil || len(results) == 0 {
		return "", false, err
	}
	return results[0], true, nil
}
