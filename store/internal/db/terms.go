package db

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"strconv"
	"strings"
	"sync"

	"gorm.io/gorm"

	"itemrack/core/terms"
)

// set is what the shop is set to, read at most once by the queries that share it.
type set struct {
	once   sync.Once
	terms  terms.Terms
	said   map[string]string // all settings, by their names
	change uint64            // of what copies are kept of
	err    error
}

// settings is how the settings are read.
const settings = "SELECT name, value FROM setting UNION ALL SELECT '" + changes + "', n FROM house_change"

// changes is the name under which the count of changes comes with the settings.
const changes = "the count of changes"

// Terms are what the shop is set to. A transaction reads them as it begins, other
// queries when they are first asked for.
func (q Q) Terms() (terms.Terms, error) {
	q.set.once.Do(func() {
		rows, err := q.db.Raw(settings).Rows()
		if err != nil {
			q.set.err = err
			return
		}
		q.set.read(rows)
		q.set.err = errors.Join(q.set.err, rows.Close())
	})
	return q.set.terms, q.set.err
}

// Setting is a setting as it was when the transaction began, or the queries first asked.
func (q Q) Setting(name string) (string, error) {
	_, err := q.Terms()
	return q.set.said[name], err
}

// read takes the settings from their rows.
func (s *set) read(rows *sql.Rows) {
	s.said = map[string]string{}
	for rows.Next() {
		var name, value string
		if s.err = rows.Scan(&name, &value); s.err != nil {
			return
		}
		s.said[name] = value
	}
	if s.err = rows.Err(); s.err != nil {
		return
	}
	if s.change, s.err = strconv.ParseUint(s.said[changes], 10, 64); s.err == nil {
		s.terms, s.err = terms.Read(s.said)
	}
}

// begin begins a transaction by a statement, reads the terms and does what comes
// first, in one round trip. What comes first may fail: that is told in the second
// error, and the transaction goes on.
func begin(ctx context.Context, conn gorm.ConnPool, statement string, first *Batch) (*set, error, error) {
	text, args := statement+"; "+settings, []any(nil)
	if first != nil {
		text, args = text+"; "+strings.Join(first.texts, "; "), first.args
	}
	rows, err := conn.QueryContext(ctx, text, args...)
	if err != nil {
		return nil, nil, err
	}
	defer rows.Close()
	s := new(set)
	// the driver passes over what has no rows
	s.once.Do(func() { s.read(rows) })
	if s.err != nil {
		return nil, nil, s.err
	}
	for rows.NextResultSet() {
	}
	return s, rows.Err(), nil
}

// Snapshot reads in one snapshot of the database, whatever is written meanwhile.
func (s *Store) Snapshot(ctx context.Context, read func(q Q) error) error {
	const statement = "SET TRANSACTION ISOLATION LEVEL REPEATABLE READ; START TRANSACTION WITH CONSISTENT SNAPSHOT, " +
		"READ ONLY"
	return s.transact(ctx, statement, nil, func(tx Tx, _ error) (*Batch, error) { return nil, read(tx.Q) })
}

// transact runs work in a transaction that a statement begins, on a connection of its
// own. What is first is sent with the beginning, and what work returns with the end.
// A connection that can't be rolled back is given up.
func (s *Store) transact(ctx context.Context, statement string, first *Batch,
	work func(tx Tx, failed error) (*Batch, error)) error {
	conn, err := s.sql.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	done := false
	defer func() {
		if done {
			return
		}
		if _, failed := conn.ExecContext(context.WithoutCancel(ctx), "ROLLBACK"); failed != nil {
			_ = conn.Raw(func(any) error { return driver.ErrBadConn })
		}
	}()
	counted := counted{conn}
	set, failed, err := begin(ctx, counted, statement, first)
	if err != nil {
		return err
	}
	session := s.db.Session(&gorm.Session{Context: ctx, NewDB: true})
	session.Statement.ConnPool = counted
	last, err := work(Tx{Q{db: session, set: set, copies: s.copies}}, failed)
	if err != nil {
		return err
	}
	if last == nil {
		last = new(Batch)
	}
	last.Add("COMMIT")
	if _, err := counted.ExecContext(ctx, strings.Join(last.texts, "; "), last.args...); err != nil {
		return err
	}
	done = true
	return nil
}
