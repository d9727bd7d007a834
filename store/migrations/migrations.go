// Package migrations brings the tables of a database up to date, one file a
// feature. Its main rule: a file that has been released is never changed.
package migrations

import (
	"context"
	"embed"
	"time"

	"github.com/pressly/goose/v3"

	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/internal/db"
)

//go:embed *.sql
var migrations embed.FS

// Migrate brings the tables up to date.
func Migrate(ctx context.Context, s *db.Store) error {
	provider, err := goose.NewProvider(goose.DialectMySQL, db.Pool(s), migrations)
	if err != nil {
		return err
	}
	if _, err = provider.Up(ctx); err != nil {
		return err
	}
	for more := true; more; {
		err = s.Do(ctx, func(tx db.Tx) error {
			more, err = book.CatchUp(tx, time.Now().UTC())
			return err
		})
		if err != nil {
			return err
		}
	}
	return s.Do(ctx, func(tx db.Tx) error { // words that an older version did not keep
		var ids []uint64
		if err := db.SQL(tx.Q).Raw("SELECT id FROM product WHERE words = ''").Scan(&ids).Error; err != nil {
			return err
		}
		return goods.Reindex(tx, ids)
	})
}
