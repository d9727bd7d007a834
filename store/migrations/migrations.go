// Package migrations brings the tables of a database up to date. The folder tables has them as they are in version 20,
// a file an area; later versions are files beside it, which begin with their numbers. Its main rules: a file that has
// been released is never changed; and whatever is cut off in the middle goes on from there.
package migrations

import (
	"context"
	"embed"
	"fmt"
	"io/fs"
	"strings"
	"time"

	"itemrack/store/book"
	"itemrack/store/internal/db"
)

//go:embed tables *.sql
var files embed.FS

// baseline is the version that the tables begin with. What came before it is not known any more.
const baseline = 20

// Migrate brings the tables up to date. Of several servers that start at once, one does
// it and the others wait. A database from before the baseline is refused, and so is one that was copied without its
// triggers: what a register keeps of goods would be stale without a word.
func Migrate(ctx context.Context, s *db.Store) error {
	versions, err := read()
	if err != nil {
		return err
	}
	if err := db.Migrate(ctx, s, versions); err != nil {
		return err
	}
	for more := true; more; { // figures that a version dropped, to be worked out by the rules
		if err := s.Do(ctx, func(tx db.Tx) error {
			var err error
			more, err = book.CatchUp(tx, time.Now().UTC())
			return err
		}); err != nil {
			return err
		}
	}
	lost, err := db.Lost(ctx, s, versions)
	if err == nil && len(lost) > 0 {
		return fmt.Errorf("the database has lost %d of its triggers (%s): restore it with them", len(lost),
			strings.Join(lost[:min(len(lost), 3)], ", "))
	}
	return err
}

// read reads the versions: the baseline from all of its files, later ones from theirs.
func read() ([]db.Version, error) {
	first := db.Version{Number: baseline, Name: "the tables"}
	list, err := fs.Glob(files, "tables/*.sql")
	if err != nil {
		return nil, err
	}
	for _, name := range list {
		body, err := files.ReadFile(name)
		if err != nil {
			return nil, err
		}
		first.Statements = append(first.Statements, statements(string(body))...)
	}
	versions := []db.Version{first}
	later, err := fs.Glob(files, "[0-9]*.sql")
	if err != nil {
		return nil, err
	}
	for _, name := range later {
		body, err := files.ReadFile(name)
		if err != nil {
			return nil, err
		}
		v := db.Version{Name: name, Statements: statements(string(body))}
		if _, err := fmt.Sscanf(name, "%d_", &v.Number); err != nil {
			return nil, fmt.Errorf("the name of %s: %w", name, err)
		}
		versions = append(versions, v)
	}
	return versions, nil
}
