// Package migrations brings the tables of a database up to date, one file a
// feature. Its main rules: a file that has been released is never changed; and
// whatever is cut off in the middle goes on from there.
package migrations

import (
	"context"
	"embed"
	"time"

	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/internal/db"
)

//go:embed *.sql
var files embed.FS

// fills are what the program does once a version's file is through.
var fills = map[int]func(ctx context.Context, s *db.Store) error{8: fillKeys}

// Migrate brings the tables up to date. Of several servers that start at once, one does
// it and the others wait.
func Migrate(ctx context.Context, s *db.Store) error {
	versions, err := read()
	if err != nil {
		return err
	}
	if err := db.Migrate(ctx, s, versions); err != nil {
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

// read reads the versions from their files, which begin with their numbers.
func read() ([]db.Version, error) {
	list, err := files.ReadDir(".")
	if err != nil {
		return nil, err
	}
	versions := make([]db.Version, len(list))
	for i, f := range list {
		body, err := files.ReadFile(f.Name())
		if err != nil {
			return nil, err
		}
		versions[i] = db.Version{Number: i + 1, Name: f.Name(), Statements: statements(string(body)), Fill: fills[i+1]}
	}
	return versions, nil
}
