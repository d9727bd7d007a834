package db

import (
	"cmp"
	"context"
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
	return take(rows, parts)
}

// Ahead is queries that are sent as a transaction begins; they are made anew for each try of it.
type Ahead struct{ parts func() []Part }

// NewAhead are the queries of parts.
func NewAhead(parts func() []Part) Ahead { return Ahead{parts} }

// take gives each of some queries its rows.
func take(rows *sql.Rows, parts []Part) error {
	for i, p := range parts {
		if i > 0 && !rows.NextResultSet() {
			return cmp.Or(rows.Err(), errors.New("a query had no answer"))
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

// text writes the statements as what is sent. A short batch is one compound statement, which is answered once; a long
// one would be kept whole by the server while it is read.
func (b *Batch) text() string {
	const short = 1000
	all := strings.Join(b.texts, "; ")
	if len(b.texts) == 1 || len(b.args) > short {
		return all
	}
	return "BEGIN NOT ATOMIC " + all + "; END"
}

// take gives the statements as what is sent, with their arguments, and empties the batch.
func (b *Batch) take() (string, []any) {
	text, args := b.text(), b.args
	b.texts, b.args = nil, nil
	return text, args
}

// Run sends the statements in one round trip, and empties the batch. The first that
// fails keeps those behind it from being done.
func (b *Batch) Run(tx Tx) error {
	if len(b.texts) == 0 {
		return nil
	}
	text, args := b.take()
	_, err := through(tx.Q).ExecContext(tx.db.Statement.Context, text, args...)
	return err
}

// last is statements that are left to the end of a transaction, and the figure of them that is read into into.
type last struct {
	Batch
	figure string
	into   *uint64
}

// Last leaves statements to the end of a transaction, where they take no round trip of their own. What figure is of
// them is read into into.
func Last(tx Tx, b *Batch, figure string, into *uint64) { *tx.last = last{*b, figure, into} }

// Promised is the figure of statements that are left to the end of a transaction, as other statements there write
// it; empty where there are none.
func Promised(tx Tx) string { return tx.last.figure }

// RunFor is Run with a last query for one figure, which it returns.
func (b *Batch) RunFor(tx Tx, figure string) (uint64, error) {
	return b.runFor(tx.db.Statement.Context, through(tx.Q), figure)
}

func (b *Batch) runFor(ctx context.Context, conn gorm.ConnPool, figure string) (uint64, error) {
	const name = "the_figure"
	b.Add("SELECT " + figure + " AS " + name)
	text, args := b.take()
	rows, err := conn.QueryContext(ctx, text, args...)
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
