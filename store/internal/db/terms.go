package db

import (
	"context"
	"database/sql/driver"
	"slices"
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

// How the count of changes and the settings are read; a change of a setting counts.
const (
	changes  = "SELECT n FROM house_change"
	settings = "SELECT name, value FROM setting"
)

// Terms are what the shop is set to. A transaction reads them as it begins, other
// queries when they are first asked for.
func (q Q) Terms() (terms.Terms, error) {
	q.set.once.Do(func() {
		ctx, conn := q.db.Statement.Context, through(q)
		if q.set.err = conn.QueryRowContext(ctx, changes).Scan(&q.set.change); q.set.err == nil {
			q.set.err = q.set.settle(ctx, conn, q.copies)
		}
	})
	return q.set.terms, q.set.err
}

// Setting is a setting as it was when the transaction began, or the queries first asked.
func (q Q) Setting(name string) (string, error) {
	_, err := q.Terms()
	return q.set.said[name], err
}

// LastKnown gives queries that take the shop to be set as it was when that was last read, if it ever was, without
// asking; a transaction finds out by SetAs whether it still is.
func (s *Store) LastKnown(ctx context.Context) (Q, bool) {
	s.copies.Lock()
	defer s.copies.Unlock()
	if s.copies.settings == nil {
		return Q{}, false
	}
	last := &set{said: s.copies.settings.said, terms: s.copies.settings.terms, change: s.copies.settings.change}
	last.once.Do(func() {})
	return Q{db: s.db.WithContext(ctx), set: last, copies: s.copies, steady: true}, true
}

// SetAs reports whether the shop is set as other queries take it to be.
func (q Q) SetAs(other Q) bool { return other.set != nil && q.set.change == other.set.change }

// settle takes the settings of a count of changes: from a copy, or from the database.
func (s *set) settle(ctx context.Context, conn gorm.ConnPool, copies *copies) error {
	copies.Lock()
	known := copies.settings
	copies.Unlock()
	if known != nil && known.change == s.change {
		s.said, s.terms = known.said, known.terms
		return nil
	}
	rows, err := conn.QueryContext(ctx, settings)
	if err != nil {
		return err
	}
	defer rows.Close()
	s.said = map[string]string{}
	for rows.Next() {
		var name, value string
		if err := rows.Scan(&name, &value); err != nil {
			return err
		}
		s.said[name] = value
	}
	if err := rows.Err(); err != nil {
		return err
	}
	if s.terms, err = terms.Read(s.said); err != nil {
		return err
	}
	copies.Lock()
	defer copies.Unlock()
	copies.settings = &set{said: s.said, terms: s.terms, change: s.change}
	return nil
}

// begin begins a transaction by a statement, reads the terms, does what comes first and
// reads what is asked ahead, in one round trip. What comes first may fail, or what is ahead: that is told in the
// second error, and the transaction goes on.
func begin(ctx context.Context, conn gorm.ConnPool, statement string, first *Batch, ahead Ahead,
	copies *copies) (*set, error, error) {
	s := new(set)
	failed, err := s.begin(ctx, conn, statement, first, ahead)
	if err == nil {
		s.once.Do(func() { err = s.settle(ctx, conn, copies) })
	}
	return s, failed, err
}

func (s *set) begin(ctx context.Context, conn gorm.ConnPool, statement string, first *Batch,
	ahead Ahead) (error, error) {
	text, args := statement+"; "+changes, []any(nil)
	if first != nil {
		text, args = text+"; "+strings.Join(first.texts, "; "), first.args
	}
	var parts []Part
	if ahead.parts != nil {
		parts = ahead.parts()
	}
	for _, p := range parts {
		text, args = text+"; "+p.SQL, slices.Concat(args, p.Args)
	}
	rows, err := conn.QueryContext(ctx, text, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() { // the driver passes over what has no rows
		if err := rows.Scan(&s.change); err != nil {
			return nil, err
		}
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	if rows.NextResultSet() {
		return take(rows, parts), nil
	}
	return rows.Err(), nil
}

// Snapshot reads in one snapshot of the database, whatever is written meanwhile.
func (s *Store) Snapshot(ctx context.Context, read func(q Q) error) error {
	const statement = "SET TRANSACTION ISOLATION LEVEL REPEATABLE READ; START TRANSACTION WITH CONSISTENT SNAPSHOT, " +
		"READ ONLY"
	return s.transact(ctx, statement, nil, Ahead{}, func(tx Tx, _ error) (*Batch, error) { return nil, read(tx.Q) })
}

// transact runs work in a transaction that a statement begins, on a connection of its
// own. What is first and ahead is sent with the beginning, and what work returns with the end.
// A connection that can't be rolled back is given up.
func (s *Store) transact(ctx context.Context, statement string, first *Batch, ahead Ahead,
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
	set, failed, err := begin(ctx, counted, statement, first, ahead, s.copies)
	if err != nil {
		return err
	}
	session := s.db.Session(&gorm.Session{Context: ctx, NewDB: true})
	session.Statement.ConnPool = counted
	left := new(last)
	after, err := work(Tx{Q{db: session, set: set, copies: s.copies}, left}, failed)
	if err != nil {
		return err
	}
	if after != nil {
		left.texts, left.args = append(left.texts, after.texts...), append(left.args, after.args...)
	}
	left.Add("COMMIT")
	if left.into != nil {
		*left.into, err = left.runFor(ctx, counted, left.figure)
	} else {
		text, args := left.take()
		_, err = counted.ExecContext(ctx, text, args...)
	}
	done = err == nil
	return err
}
