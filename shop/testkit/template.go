package testkit

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"strings"
	"sync"
	"testing"

	"github.com/alexedwards/argon2id"
	"github.com/stretchr/testify/require"

	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/store"
	"itemrack/store/migrations"
	storeoffice "itemrack/store/office"
)

// template is a database that the databases of tests are copies of: what makes its
// tables, and copies its rows. It is made once for all tests of a package.
type template struct {
	once   sync.Once
	script string
}

var empty, opened template

// copyTo fills an empty database like the template, which make fills the first time.
func (m *template) copyTo(t testing.TB, name string, make func(s *deed.Shop)) {
	t.Helper()
	m.once.Do(func() {
		source := fmt.Sprintf("tpl_%d_%d", os.Getpid(), count.Add(1))
		db, err := store.Open(store.DSN("itemrack", "itemrack", Host(t), source))
		require.NoError(t, err)
		ctx := context.Background()
		require.NoError(t, migrations.Migrate(ctx, db))
		shop := deed.New(ctx, db)
		make(shop)
		m.script = script(t, source)
		shop.Close()
		require.NoError(t, db.DropDatabase(source))
		require.NoError(t, db.Close())
	})
	db := direct(t, name)
	defer db.Close()
	_, err := db.Exec(m.script)
	require.NoError(t, err)
}

// direct is a connection to a database that takes many statements at once.
func direct(t testing.TB, name string) *sql.DB {
	db, err := sql.Open("mysql", store.DSN("itemrack", "itemrack", Host(t), name)+"?multiStatements=true")
	require.NoError(t, err)
	return db
}

// script writes the statements that make a database like another.
func script(t testing.TB, source string) string {
	db := direct(t, source)
	defer db.Close()
	rows, err := db.Query("SELECT table_name FROM information_schema.tables WHERE table_schema = ?", source)
	require.NoError(t, err)
	defer rows.Close()
	statements := []string{"SET foreign_key_checks = 0"}
	for rows.Next() {
		var name, create string
		require.NoError(t, rows.Scan(&name))
		require.NoError(t, db.QueryRow("SHOW CREATE TABLE `"+name+"`").Scan(&name, &create))
		statements = append(statements, create)
		statements = append(statements, inserts(t, db, name)...)
	}
	require.NoError(t, rows.Err())
	statements = append(statements, triggers(t, db)...)
	return strings.Join(append(statements, "SET foreign_key_checks = 1"), ";\n")
}

// triggers writes the statements that make the triggers of a database.
func triggers(t testing.TB, db *sql.DB) []string {
	rows, err := db.Query(
		"SELECT trigger_name, action_timing, event_manipulation, event_object_table, action_statement FROM " +
			"information_schema.triggers WHERE trigger_schema = DATABASE()")
	require.NoError(t, err)
	defer rows.Close()
	var made []string
	for rows.Next() {
		var name, timing, event, table, statement string
		require.NoError(t, rows.Scan(&name, &timing, &event, &table, &statement))
		made = append(made,
			fmt.Sprintf("CREATE TRIGGER `%s` %s %s ON `%s` FOR EACH ROW %s", name, timing, event, table, statement))
	}
	require.NoError(t, rows.Err())
	return made
}

// inserts writes the rows of a table as a statement, where it has any.
func inserts(t testing.TB, db *sql.DB, table string) []string {
	rows, err := db.Query("SELECT * FROM `" + table + "`")
	require.NoError(t, err)
	defer rows.Close()
	columns, err := rows.Columns()
	require.NoError(t, err)
	var values []string
	for rows.Next() {
		cells := make([]sql.NullString, len(columns))
		into := make([]any, len(columns))
		for i := range cells {
			into[i] = &cells[i]
		}
		require.NoError(t, rows.Scan(into...))
		texts := make([]string, len(cells))
		for i, c := range cells {
			texts[i] = "NULL"
			if c.Valid {
				texts[i] = "'" + strings.NewReplacer(`\`, `\\`, `'`, `\'`).Replace(c.String) + "'"
			}
		}
		values = append(values, "("+strings.Join(texts, ", ")+")")
	}
	require.NoError(t, rows.Err())
	if len(values) == 0 {
		return nil
	}
	return []string{
		"INSERT INTO `" + table + "` (`" + strings.Join(columns, "`, `") + "`) VALUES " + strings.Join(values, ", ")}
}

// hash is of everybody's password; working it out takes as long as it should.
var hash = sync.OnceValues(func() (string, error) { return argon2id.CreateHash(Password, argon2id.DefaultParams) })

// pin is the hash of everybody's PIN.
var pin = sync.OnceValues(func() (string, error) { return deed.HashPIN(PIN) })

// people lets a manager, a clerk and a stock keeper sign in.
func people(t testing.TB, s *deed.Shop) {
	t.Helper()
	hashed, err := hash()
	require.NoError(t, err)
	quick, err := pin()
	require.NoError(t, err)
	err = s.Store.Do(context.Background(), func(tx store.Tx) error {
		for _, p := range []storeoffice.User{{Login: "maren", Name: "Maren Holt", Role: string(staff.Manager)},
			{Login: "tobi", Name: "Tobi Ashdown", Role: string(staff.Clerk)},
			{Login: "callum", Name: "Callum Reeve", Role: string(staff.Stock)}} {
			p.PasswordHash, p.PINHash, p.BranchID = hashed, quick, 1
			if err := storeoffice.SaveUser(tx, &p, worksAt(tx)); err != nil {
				return err
			}
		}
		return nil
	})
	require.NoError(t, err)
}

// People lets a manager, a clerk and a stock keeper sign in to a shop that was opened
// without them.
func (s *Shop) People(t testing.TB) {
	t.Helper()
	people(t, s.Shop)
	s.known(t)
}

// known finds the people of a shop.
func (s *Shop) known(t testing.TB) *Shop {
	t.Helper()
	for login, who := range map[string]*staff.Actor{"maren": &s.Maren, "tobi": &s.Tobi, "callum": &s.Callum} {
		var err error
		*who, err = office.PersonByLogin(context.Background(), s.Shop, login)
		require.NoError(t, err)
	}
	return s
}

// worksAt are all branches of a shop.
func worksAt(tx store.Tx) []uint64 {
	branches, err := storeoffice.Branches(tx.Q)
	if err != nil {
		return nil
	}
	ids := make([]uint64, len(branches))
	for i, b := range branches {
		ids[i] = b.ID
	}
	return ids
}
