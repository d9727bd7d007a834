package db

import (
	"database/sql"
	"errors"
	"strconv"
	"strings"

	"gorm.io/gorm"
)

// Part is one query of several that are sent together. Row takes each of its rows.
type Part struct {
	SQL  string
	Args []any
	Row  func(scan func(into ...any) error) error
	done func()
}

// Read sends queries in one round trip and gives each its rows.
func Read(q Q, parts ...Part) error {
	if len(parts) == 0 {
		return nil
	}
	texts := make([]string, len(parts))
	var args []any
	for i, p := range parts {
		texts[i], args = p.SQL, append(args, p.Args...)
	}
	rows, err := through(q).QueryContext(q.db.Statement.Context, strings.Join(texts, "; "), args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for i, p := range parts {
		if i > 0 && !rows.NextResultSet() {
			return errors.Join(rows.Err(), errors.New("a query had no answer"))
		}
		for rows.Next() {
			if err := p.Row(rows.Scan); err != nil {
				return err
			}
		}
		if err := rows.Err(); err != nil {
			return err
		}
		if p.done != nil {
			p.done()
		}
	}
	return nil
}

// IDs writes numbers of rows as they stand in brackets behind IN: "3, 5". None are
// written as one that no row has.
func IDs(ids []uint64) string {
	if len(ids) == 0 {
		return "0"
	}
	var b strings.Builder
	for i, id := range ids {
		if i > 0 {
			b.WriteString(", ")
		}
		b.WriteString(strconv.FormatUint(id, 10))
	}
	return b.String()
}

// Batch is statements that are sent together.
type Batch struct {
	texts []string
	args  []any
}

// mostArgs is how many arguments a batch collects before it is sent.
const mostArgs = 20_000

// Add puts a statement at the end.
func (b *Batch) Add(text string, args ...any) {
	b.texts, b.args = append(b.texts, text), append(b.args, args...)
}

// Full reports whether a batch is to be sent before more is added.
func (b *Batch) Full() bool { return len(b.args) > mostArgs }

// Run sends the statements in one round trip, and empties the batch. The first that
// fails keeps those behind it from being done.
func (b *Batch) Run(tx Tx) error {
	if len(b.texts) == 0 {
		return nil
	}
	text, args := strings.Join(b.texts, "; "), b.args
	b.texts, b.args = nil, nil
	_, err := through(tx.Q).ExecContext(tx.db.Statement.Context, text, args...)
	return err
}

// RunFor is Run with a last query for one figure, which it returns.
func (b *Batch) RunFor(tx Tx, figure string) (uint64, error) {
	const name = "the_figure"
	b.Add("SELECT " + figure + " AS " + name)
	text, args := strings.Join(b.texts, "; "), b.args
	b.texts, b.args = nil, nil
	rows, err := through(tx.Q).QueryContext(tx.db.Statement.Context, text, args...)
	if err != nil {
		return 0, err
	}
	defer rows.Close()
	for more := true; more; more = rows.NextResultSet() { // locks have rows, too
		columns, err := rows.Columns()
		if err != nil {
			return 0, err
		}
		if len(columns) != 1 || columns[0] != name {
			continue
		}
		var found uint64
		for rows.Next() {
			if err := rows.Scan(&found); err != nil {
				return 0, err
			}
		}
		return found, rows.Err()
	}
	return 0, errors.Join(rows.Err(), errors.New("the statements were not all done"))
}

// through is the way of a transaction to the database, for what GORM does not know.
func through(q Q) gorm.ConnPool { return q.db.Statement.ConnPool }

// Exec runs one statement and tells what it did.
func Exec(tx Tx, text string, args ...any) (sql.Result, error) {
	return through(tx.Q).ExecContext(tx.db.Statement.Context, text, args...)
}
