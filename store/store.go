// Package store keeps the shop in MariaDB. The tables of each trade area lie in a
// package of its own below; this one opens the database and gives out what they
// take: queries and transactions. Its main rule: SQL and rows stay below this
// package, and only book.Post writes the stock book.
package store

import (
	"context"
	"sync/atomic"

	"itemrack/store/internal/db"
)

type (
	// Store is a shop's database.
	Store = db.Store
	// Q runs queries, inside a transaction or outside of one.
	Q = db.Q
	// Tx is a transaction; it can also write.
	Tx = db.Tx
	// Ahead is what is read as a transaction begins.
	Ahead = db.Ahead
)

// PageSize is how many rows a page of a list has.
const PageSize = db.PageSize

// DSN builds the address of a database for Open.
func DSN(user, password, host, database string) string { return db.DSN(user, password, host, database) }

// Open connects to the database of a DSN such as user:password@tcp(host:port)/name
// and creates the database if it is not there yet.
func Open(dsn string) (*Store, error) { return db.Open(dsn) }

// Counting returns a context under which statements are counted.
func Counting(ctx context.Context) (context.Context, *atomic.Int64) { return db.Counting(ctx) }

// CopyReads are the queries that each kind of copy is read by, as far as a store has read them.
func CopyReads(s *Store) map[string][]string { return db.Reads(s) }

// Trouble says in a sentence what is wrong with the database, when an error comes from
// that; empty for any other error.
func Trouble(err error) string { return db.Trouble(err) }
