package db

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"time"

	mysqldriver "github.com/go-sql-driver/mysql"
	"gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/schema"
)

// PageSize is how many rows a list shows at a time.
const PageSize = 50

// Store is a shop's database.
type Store struct {
	db     *gorm.DB
	sql    *sql.DB
	copies *copies
	deeds  chan struct{} // a place for each transaction that is under way
}

// connections bounds the connections of a program, and deeds how many of them are in
// transactions: however many of those wait for each other, others can read.
const (
	connections = 40
	deeds       = 28
)

// Q runs queries, inside a transaction or outside of one.
type Q struct {
	db     *gorm.DB
	set    *set
	copies *copies
	steady bool // it changes nothing that copies are kept of
	long   bool
}

// Long reads lists in pages of 5000 rows, for files.
func (q Q) Long() Q {
	q.long = true
	return q
}

// PageRows is how many rows a page of a list has.
func (q Q) PageRows() int {
	if q.long {
		return 5000
	}
	return PageSize
}

// Tx is a transaction; it can also write.
type Tx struct {
	Q
	last *last
}

// DSN builds the address of a database for Open.
func DSN(user, password, host, database string) string {
	c := mysqldriver.NewConfig()
	c.User, c.Passwd, c.Net, c.Addr, c.DBName = user, password, "tcp", host, database
	return c.FormatDSN()
}

// Open connects to the database of a DSN such as user:password@tcp(host:port)/name
// and creates the database if it is not there yet.
func Open(dsn string) (*Store, error) {
	c, err := mysqldriver.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("database address: %w", err)
	}
	c.ParseTime, c.Loc, c.InterpolateParams = true, time.UTC, true
	c.MultiStatements = true // a deed reads and writes in few round trips
	c.Collation = "utf8mb4_unicode_ci"
	c.Timeout = 5 * time.Second
	c.Params = map[string]string{"tx_isolation": "'READ-COMMITTED'", "innodb_lock_wait_timeout": "8"}
	if err := create(c); err != nil {
		return nil, err
	}
	pool, err := sql.Open("mysql", c.FormatDSN())
	if err != nil {
		return nil, fmt.Errorf("open the database: %w", err)
	}
	pool.SetMaxOpenConns(connections)
	pool.SetMaxIdleConns(connections)
	pool.SetConnMaxLifetime(time.Hour)
	db, err := gorm.Open(mysql.New(mysql.Config{Conn: counted{pool}, DSNConfig: c}), &gorm.Config{
		NamingStrategy:         schema.NamingStrategy{SingularTable: true},
		SkipDefaultTransaction: true,
		Logger:                 watch{},
		NowFunc:                func() time.Time { return time.Now().UTC() },
	})
	if err != nil {
		return nil, errors.Join(fmt.Errorf("open the database: %w", err), pool.Close())
	}
	return &Store{db: db, sql: pool, copies: newCopies(), deeds: make(chan struct{}, deeds)}, nil
}

// create makes the database itself, where the account may.
func create(c *mysqldriver.Config) error {
	bare := c.Clone()
	bare.DBName = ""
	db, err := sql.Open("mysql", bare.FormatDSN())
	if err != nil {
		return err
	}
	defer db.Close()
	_, err = db.Exec(
		"CREATE DATABASE IF NOT EXISTS `" + c.DBName + "` CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci")
	var refused *mysqldriver.MySQLError
	if errors.As(err, &refused) && (refused.Number == 1044 || refused.Number == 1045) {
		return nil // no right to create databases: it must be there
	}
	if err != nil {
		return fmt.Errorf("reach the database at %s: %w", c.Addr, err)
	}
	return nil
}

// Close ends all connections.
func (s *Store) Close() error { return s.sql.Close() }

// Ping reports whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.sql.PingContext(ctx) }

// Read returns queries outside of any transaction.
func (s *Store) Read(ctx context.Context) Q {
	return Q{db: s.db.WithContext(ctx), set: new(set), copies: s.copies, steady: true}
}

// ReadWith sends queries of its own outside of any transaction, with the count of changes in the same round trip, and
// gives what others may go on with As.
func (s *Store) ReadWith(ctx context.Context, parts ...Part) (Q, error) {
	q := s.Read(ctx)
	var err error
	q.set.once.Do(func() {
		first := Part{SQL: changes, Row: func(scan func(into ...any) error) error { return scan(&q.set.change) }}
		if err = Read(q, append([]Part{first}, parts...)...); err == nil {
			err = q.set.settle(ctx, through(q), q.copies)
		}
		q.set.err = err
	})
	return q, err
}

// As are queries that take the shop to be set as others do.
func (q Q) As(other Q) Q {
	if other.set != nil {
		q.set = other.set
	}
	return q
}

// tries bounds how often a transaction is tried again after a deadlock.
const tries = 12

// twice bounds how often a row that another transaction wrote meanwhile is met.
const twice = 2

// Do runs work in one transaction. A deadlock, a lock wait that ran out or a
// lost certification rolls everything back and runs work again from the start; so
// does a row that was not there when work looked, and is when it writes: the next
// time work sees it, and says so.
func (s *Store) Do(ctx context.Context, work func(tx Tx) error) error {
	return Between(ctx, s, nil, Ahead{}, func(tx Tx, _ error) (*Batch, error) { return nil, work(tx) })
}

// Between is Do with statements and queries that are sent as the transaction begins, and with
// those that work returns as it ends, so that none takes a round trip. Work is told
// how the first ones failed.
func Between(ctx context.Context, s *Store, first *Batch, ahead Ahead,
	work func(tx Tx, failed error) (*Batch, error)) error {
	var err error
	for try := range tries {
		err = s.deed(ctx, first, ahead, work)
		if err == nil || !retry(err) && !(Duplicate(err) && try < twice) || waited(err) && try > 0 {
			return bounded(err)
		}
		slog.Debug("transaction tried again", "try", try+1, "err", err)
		pause := time.Duration(rand.IntN(1<<min(try, 6)*4)+1) * time.Millisecond
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(pause):
		}
	}
	return fmt.Errorf("gave up after %d tries: %w", tries, err)
}

// deed is one try of a transaction, when there is a place for it.
func (s *Store) deed(ctx context.Context, first *Batch, ahead Ahead,
	work func(tx Tx, failed error) (*Batch, error)) error {
	select {
	case s.deeds <- struct{}{}:
	case <-ctx.Done():
		return ctx.Err()
	}
	defer func() { <-s.deeds }()
	return s.transact(ctx, "START TRANSACTION", first, ahead, work)
}

// waited reports whether err is a wait for somebody's lock that ran out.
func waited(err error) bool {
	var refused *mysqldriver.MySQLError
	return errors.As(err, &refused) && refused.Number == 1205
}

func retry(err error) bool {
	var refused *mysqldriver.MySQLError
	return errors.As(err, &refused) && (refused.Number == 1213 || refused.Number == 1205 || refused.Number == 1020)
}

// Day is a day as it is kept, nil for none.
func Day(day time.Time) *string {
	if day.IsZero() {
		return nil
	}
	text := day.Format(time.DateOnly)
	return &text
}

// Duplicate reports whether err is a row that is there already.
func Duplicate(err error) bool {
	var refused *mysqldriver.MySQLError
	return errors.As(err, &refused) && refused.Number == 1062
}

// Referenced reports whether err is a row that others refer to.
func Referenced(err error) bool {
	var refused *mysqldriver.MySQLError
	return errors.As(err, &refused) && refused.Number == 1451
}

// DropDatabase removes a database with all that is in it. Tests and a fresh
// start of the demo use it.
func (s *Store) DropDatabase(name string) error {
	return s.db.Exec("DROP DATABASE `" + name + "`").Error
}

// Insert writes a row, or a slice of them, of any table but the book's and fills
// in their numbers.
func Insert(tx Tx, rows any) error { return tx.db.CreateInBatches(rows, 500).Error }

// Idle reports whether no transaction of this program is under way.
func (s *Store) Idle() bool { return len(s.deeds) == 0 }
