package db

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	mysqldriver "github.com/go-sql-driver/mysql"
)

// Version is a step of the tables: statements one after the other, and then what the
// program fills in; Fill may run again after it was cut off.
type Version struct {
	Number     int
	Name       string
	Statements []string
	Fill       func(ctx context.Context, s *Store) error
}

// throughAll says that a version is through.
const throughAll = -1

// Migrate brings the tables up to date. How far that has come is kept after each
// statement, so that it goes on there when it was cut off. A row is locked for the time,
// for which other servers wait.
func Migrate(ctx context.Context, s *Store, versions []Version) error {
	for _, statement := range []string{
		"CREATE TABLE IF NOT EXISTS migration (version INT PRIMARY KEY, step INT NOT NULL, before_it CHAR(64) NOT NULL " +
			"DEFAULT '')",
		"CREATE TABLE IF NOT EXISTS migration_lock (id INT PRIMARY KEY)",
		"INSERT IGNORE INTO migration_lock (id) VALUES (1)",
	} {
		if _, err := s.sql.ExecContext(ctx, statement); err != nil {
			return fmt.Errorf("begin to migrate: %w", err)
		}
	}
	lock, err := s.sql.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer func() { _ = lock.Rollback() }()
	if _, err := lock.ExecContext(ctx, "SET SESSION innodb_lock_wait_timeout = 86400"); err != nil {
		return err
	}
	var held int
	if err := lock.QueryRowContext(ctx, "SELECT id FROM migration_lock WHERE id = 1 FOR UPDATE").Scan(&held); err != nil {
		return fmt.Errorf("wait for another server to migrate: %w", err)
	}
	defer func() { _, _ = lock.ExecContext(ctx, "SET SESSION innodb_lock_wait_timeout = DEFAULT") }()
	if err := s.adopt(ctx, versions); err != nil {
		return err
	}
	for _, v := range versions {
		if err := s.migrate(ctx, v); err != nil {
			return fmt.Errorf("migrate %s: %w", v.Name, err)
		}
	}
	return nil
}

// adopt takes over how far a database was brought by the versions of this program that
// kept it in another table.
func (s *Store) adopt(ctx context.Context, versions []Version) error {
	var table, known int
	err := s.sql.QueryRowContext(ctx, "SELECT (SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = "+
		"DATABASE() AND table_name = 'goose_db_version'), (SELECT COUNT(*) FROM migration)").Scan(&table, &known)
	if err != nil || table == 0 || known > 0 {
		return err
	}
	var last int
	err = s.sql.QueryRowContext(ctx, "SELECT COALESCE(MAX(version_id), 0) FROM goose_db_version WHERE is_applied").
		Scan(&last)
	if err != nil {
		return err
	}
	for _, v := range versions {
		if v.Number > last {
			break
		}
		if _, err := s.sql.ExecContext(ctx, "INSERT INTO migration (version, step) VALUES (?, ?)", v.Number,
			throughAll); err != nil {
			return err
		}
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
	if v.Fill != nil {
		if err := v.Fill(ctx, s); err != nil {
			return err
		}
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
	subjects = regexp.MustCompile(`^(?:[A-Z]+ TABLE (?:IF (?:NOT )?EXISTS )?(\w+)|CREATE TRIGGER (\w+)|CREATE INDEX \w+ ON (\w+))`)
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
		err = s.sql.QueryRowContext(ctx, "SELECT COALESCE(MAX(action_statement), '') FROM information_schema.triggers "+
			"WHERE trigger_schema = DATABASE() AND trigger_name = ?", trigger).Scan(&text)
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
