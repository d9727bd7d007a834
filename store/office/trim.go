package office

import (
	"context"
	"time"

	"itemrack/store/internal/db"
)

// Kept is how long what is only kept for a time is kept: results of requests, what was printed, uploads, drafts of
// deliveries and bills without a line, and tries to sign in.
const Kept = 30 * 24 * time.Hour

// step is how many rows are trimmed at a time: so few that nobody waits for it.
const step = 200

// trims are the statements that trim, each of a step of rows; what is older than a moment goes.
var trims = []string{
	"DELETE FROM request_key WHERE created_at < ? ORDER BY created_at LIMIT ?",
	"DELETE FROM print_job WHERE at < ? ORDER BY at LIMIT ?",
	"DELETE FROM import_job WHERE seen_at < ? AND state <> 'running' ORDER BY id LIMIT ?",
	"DELETE FROM delivery WHERE created_at < ? AND document_id IS NULL AND NOT EXISTS (SELECT 1 FROM delivery_line l " +
		"WHERE l.delivery_id = delivery.id) AND NOT EXISTS (SELECT 1 FROM delivery_order o WHERE o.delivery_id = " +
		"delivery.id) AND NOT EXISTS (SELECT 1 FROM bill b WHERE b.delivery_id = delivery.id) ORDER BY id LIMIT ?",
	"DELETE FROM sign_in_try WHERE slot < UNIX_TIMESTAMP(?) ORDER BY slot LIMIT ?",
}

// Trim drops a step of what is older than Kept at a moment, and reports whether there may be more.
func Trim(ctx context.Context, s *db.Store, now time.Time) (more bool, err error) {
	for _, statement := range trims {
		if err := ctx.Err(); err != nil {
			return false, err
		}
		done := db.SQL(s.Read(ctx)).Exec(statement, now.Add(-Kept), step)
		if done.Error != nil {
			return false, done.Error
		}
		more = more || done.RowsAffected >= step
	}
	return more, nil
}
