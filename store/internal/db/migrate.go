package db

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	mysqldriver "github.com/go-sql-driver/mysql"
)

// Version is a step of the tables: statements one after the other.
type Version struct {
	Number     int
	Name       string
	Statements []string
}

// Lost are the triggers that versions made and a database does not have: a copy of it was made without them.
func Lost(ctx context.Context, s *Store, versions []Version) ([]string, error) {
	var there []string
	if err := s.db.WithContext(ctx).Raw("SELECT trigger_name FROM information_schema.triggers WHERE trigger_schema = " +
		"DATABASE()").Scan(&there).Error; err != nil {
		return nil, err
	}
	var lost []string
	for _, v := range versions {
		for _, statement := range v.Statements {
			if found := subjects.FindStringSubmatch(statement); found != nil && found[2] != "" &&
				!slices.Contains(there, found[2]) {
				lost = append(lost, found[2])
			}
		}
	}
	return lost, nil
}

// throughAll says that a version is through.
const throughAll = -1

// Migrate brings the tables up to date. How far that has come is kept after each
// statement, so that it goes on there when it was cut off. A row is locked for the time,
// for which other servers wait. A database that stands before the first of the versions is refused.
func Migrate(ctx context.Context, s *Store, versions []Version) error {
	for _, statement := range []string{
		"CREATE TABLE IF NOT EXISTS migration (version INT PRIMARY KEY, step INT NOT NULL, before_it CHAR(64) NOT NULL " +
			"DEFAULT '')",
		"CREATE TABLE IF NOT EXISTS migration_lock (id INT PRIMARY KEY)",
	} {
		if _, err := s.sql.ExecContext(ctx, statement); err != nil {
			return fmt.Errorf("begin to migrate: %w", err)
		}
	}
	lock, err := s.alone(ctx)
	if err != nil {
		return fmt.Errorf("wait for another server to migrate: %w", err)
	}
	defer func() { _ = lock.Rollback() }()
	if err := s.known(ctx, versions); err != nil {
		return err
	}
	for _, v := range versions {
		if err := s.migrate(ctx, v); err != nil {
			return fmt.Errorf("migrate %s: %w", v.Name, err)
		}
	}
	return lock.Commit()
}

// alone begins a transaction that holds the one row which whoever migrates holds, however long another takes. Of two
// that are the first ever one is told of a deadlock, and waits.
func (s *Store) alone(ctx context.Context) (*sql.Tx, error) {
	var err error
	for range tries {
		var lock *sql.Tx
		if lock, err = s.sql.BeginTx(ctx, nil); err != nil {
			return nil, err
		}
		if _, err = lock.ExecContext(ctx, "SET STATEMENT innodb_lock_wait_timeout = 86400 FOR "+
			"INSERT INTO migration_lock (id) VALUES (1) ON DUPLICATE KEY UPDATE id = id"); err == nil {
			return lock, nil
		}
		_ = lock.Rollback()
		if !retry(err) {
			break
		}
	}
	return nil, err
}

// ErrTooOld says that a database was left by a version that this program does not know any more, and ErrTooNew by one
// that it does not know yet.
var (
	ErrTooOld = errors.New("the database is of an older version, which this program can't bring up to date: " +
		"open it once with a version that can")
	ErrTooNew = errors.New("the database is of a later version than this program: open it with that one")
)

// known refuses a database that stands before the first version or behind the last.
func (s *Store) known(ctx context.Context, versions []Version) error {
	if len(versions) == 0 {
		return nil
	}
	var goose, before, at, after int
	err := s.sql.QueryRowContext(ctx, "SELECT (SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = "+
		"DATABASE() AND table_name = 'goose_db_version'), COUNT(IF(version < ?, 1, NULL)), "+
		"COUNT(IF(version = ? AND step = ?, 1, NULL)), COUNT(IF(version > ?, 1, NULL)) FROM migration",
		versions[0].Number, versions[0].Number, throughAll, versions[len(versions)-1].Number).
		Scan(&goose, &before, &at, &after)
	switch {
	case err != nil:
		return err
	case goose+before > 0 && at == 0:
		return ErrTooOld
	case after > 0:
		return ErrTooNew
	}
	return nil
}

// migrate takes a version through what is left of it.
func (s *Store) migrate(ctx context.Context, v Version) error {
	_, err := s.sql.ExecContext(ctx, "INSERT IGNORE INTO migration (version, step) VALUES (?, 0)", v.Number)
	if err != nil {
		return err
	}
	var step int
	var before string
	if err := s.sql.QueryRowContext(ctx, "SELECT step, before_it FROM migration WHERE version = ?", v.Number).
		Scan(&step, &before); err != nil || step == throughAll {
		return err
	}
	for i := step; i < len(v.Statements); i++ {
		if err := s.step(ctx, v, i, before); err != nil {
			return fmt.Errorf("statement %d: %w", i+1, err)
		}
		before = ""
	}
	_, err = s.sql.ExecContext(ctx, "UPDATE migration SET step = ? WHERE version = ?", throughAll, v.Number)
	return err
}

// step does one statement and keeps that it is done. One that changes rows does both or
// neither. One that changes tables is done or not by itself: how its subject stood before is
// kept first, so that when it was cut off it can be told whether it was done.
func (s *Store) step(ctx context.Context, v Version, i int, before string) error {
	const done = "UPDATE migration SET step = ?, before_it = '' WHERE version = ?"
	statement := v.Statements[i]
	if !ChangesTables(statement) {
		tx, err := s.sql.BeginTx(ctx, nil)
		if err != nil {
			return err
		}
		defer func() { _ = tx.Rollback() }()
		if _, err := tx.ExecContext(ctx, statement); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, done, i+1, v.Number); err != nil {
			return err
		}
		return tx.Commit()
	}
	now, err := Stands(ctx, s, statement)
	if err != nil {
		return err
	}
	if before == "" || before == now { // not begun, or cut off before it was done
		if _, err := s.sql.ExecContext(ctx, "UPDATE migration SET before_it = ? WHERE version = ?", now,
			v.Number); err != nil {
			return err
		}
		if _, err := s.sql.ExecContext(ctx, statement); err != nil {
			return err
		}
	}
	_, err = s.sql.ExecContext(ctx, done, i+1, v.Number)
	return err
}

// ChangesTables reports whether a statement changes tables, and not rows.
func ChangesTables(statement string) bool {
	word, _, _ := strings.Cut(statement, " ")
	return !slices.Contains([]string{"INSERT", "UPDATE", "DELETE"}, word)
}

var (
	subjects = regexp.MustCompile(`^(?:[A-Z]+ TABLE (?:IF (?:NOT )?EXISTS )?(\w+)|CREATE (?:OR REPLACE )?TRIGGER (\w+)|` +
		`CREATE INDEX \w+ ON (\w+))`)
	counters = regexp.MustCompile(` AUTO_INCREMENT=\d+`)
)

// Stands is how the table or trigger stands that a statement changes, in 64 letters.
func Stands(ctx context.Context, s *Store, statement string) (string, error) {
	found := subjects.FindStringSubmatch(statement)
	if found == nil {
		return "", fmt.Errorf("it can't be told what is changed by %q", statement)
	}
	var text string
	var err error
	if trigger := found[2]; trigger != "" {
		var row [7]string
		var into [7]any
		for i := range row {
			into[i] = &row[i]
		}
		err = s.sql.QueryRowContext(ctx, "SHOW CREATE TRIGGER `"+trigger+"`").Scan(into[:]...)
		text = row[2]
		var refused *mysqldriver.MySQLError
		if errors.As(err, &refused) && refused.Number == 1360 {
			text, err = "", nil
		}
	} else {
		var name string
		err = s.sql.QueryRowContext(ctx, "SHOW CREATE TABLE `"+found[1]+found[3]+"`").Scan(&name, &text)
		var refused *mysqldriver.MySQLError
		if errors.As(err, &refused) && refused.Number == 1146 {
			text, err = "there is none", nil
		}
	}
	sum := sha256.Sum256([]byte(counters.ReplaceAllString(text, "")))
	return hex.EncodeToString(sum[:]), err
}
