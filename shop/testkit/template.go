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

// template is what the databases of tests begin as: their tables, and the rows in them. It is
// worked out once for all tests of a package.
type template struct {
	once   sync.Once
	tables []table
	begun  []string // statements that make the triggers
}

// table is how a table is made, and what is in it to begin with.
type table struct {
	name, create, rows string
	next               int  // the number that the next row gets; 0 for a table that gives none
	kept               bool // triggers write it
}

var empty, opened template

// databases are those that ended tests have left, to be used again: making tables takes longer than most tests do.
var databases struct {
	sync.Mutex
	free []string
}

// database is one with the tables of the template, which make fills the first time, and its rows. It goes back when
// the test ends.
func (m *template) database(t testing.TB, make func(s *deed.Shop)) string {
	t.Helper()
	m.once.Do(func() { m.workOut(t, make) })
	databases.Lock()
	name := ""
	if n := len(databases.free); n > 0 {
		name, databases.free = databases.free[n-1], databases.free[:n-1]
	}
	databases.Unlock()
	if name != "" && !isThere(t, name) {
		name = "" // the test dropped it itself
	}
	if name == "" {
		name = fmt.Sprintf("t_%d_%d", os.Getpid(), count.Add(1))
		m.create(t, name)
	}
	m.fill(t, name)
	return name
}

// isThere reports whether there is a database of a name.
func isThere(t testing.TB, name string) bool {
	t.Helper()
	bare := direct(t, "")
	defer bare.Close()
	n := 0
	require.NoError(t, bare.QueryRow("SELECT COUNT(*) FROM information_schema.schemata WHERE schema_name = ?", name).
		Scan(&n))
	return n > 0
}

// giveBack leaves a database to later tests.
func giveBack(name string) {
	databases.Lock()
	defer databases.Unlock()
	databases.free = append(databases.free, name)
}

// workOut makes the template's database, reads what it is and drops it.
func (m *template) workOut(t testing.TB, make func(s *deed.Shop)) {
	t.Helper()
	source := fmt.Sprintf("tpl_%d_%d", os.Getpid(), count.Add(1))
	db, err := store.Open(store.DSN("itemrack", "itemrack", Host(t), source))
	require.NoError(t, err)
	ctx := context.Background()
	require.NoError(t, migrations.Migrate(ctx, db))
	shop := deed.New(ctx, db)
	make(shop)
	m.read(t, source)
	shop.Close()
	require.NoError(t, db.DropDatabase(source))
	require.NoError(t, db.Close())
}

// read reads the tables, rows and triggers of a database.
func (m *template) read(t testing.TB, source string) {
	db := direct(t, source)
	defer db.Close()
	m.begun = triggers(t, db)
	rows, err := db.Query("SELECT table_name, COALESCE(auto_increment, 0) FROM information_schema.tables WHERE "+
		"table_schema = ?", source)
	require.NoError(t, err)
	defer rows.Close()
	for rows.Next() {
		var one table
		require.NoError(t, rows.Scan(&one.name, &one.next))
		require.NoError(t, db.QueryRow("SHOW CREATE TABLE `"+one.name+"`").Scan(&one.name, &one.create))
		one.rows = inserts(t, db, one.name)
		for _, trigger := range m.begun {
			one.kept = one.kept || strings.Contains(trigger, "INTO "+one.name+" ") || strings.Contains(trigger,
				"UPDATE "+one.name+" ")
		}
		m.tables = append(m.tables, one)
	}
	require.NoError(t, rows.Err())
}

// create makes a database with the tables and triggers, and no rows.
func (m *template) create(t testing.TB, name string) {
	t.Helper()
	bare := direct(t, "")
	defer bare.Close()
	_, err := bare.Exec("CREATE DATABASE `" + name + "` CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci")
	require.NoError(t, err)
	statements := []string{"SET foreign_key_checks = 0"}
	for _, one := range m.tables {
		statements = append(statements, one.create)
	}
	statements = append(append(statements, m.begun...), "SET foreign_key_checks = 1")
	db := direct(t, name)
	defer db.Close()
	_, err = db.Exec(strings.Join(statements, ";\n"))
	require.NoError(t, err)
}

// fill leaves a database as the template is, whatever was in it.
func (m *template) fill(t testing.TB, name string) {
	t.Helper()
	db := direct(t, name)
	defer db.Close()
	used := numbersGiven(t, db)
	statements := []string{"SET foreign_key_checks = 0"}
	clean := func(one table) {
		statements = append(statements, "DELETE FROM `"+one.name+"`")
		if one.rows != "" {
			statements = append(statements, one.rows)
		}
		if next, gives := used[one.name]; gives && next != one.next {
			statements = append(statements, fmt.Sprintf("ALTER TABLE `%s` AUTO_INCREMENT = %d", one.name, one.next))
		}
	}
	for _, one := range m.tables {
		clean(one)
	}
	for _, one := range m.tables { // after all that their triggers say
		if one.kept {
			clean(one)
		}
	}
	_, err := db.Exec(strings.Join(append(statements, "SET foreign_key_checks = 1"), ";\n"))
	require.NoError(t, err)
}

// numbersGiven is the number that each table gives to its next row.
func numbersGiven(t testing.TB, db *sql.DB) map[string]int {
	rows, err := db.Query("SELECT table_name, auto_increment FROM information_schema.tables WHERE table_schema = " +
		"DATABASE() AND auto_increment IS NOT NULL")
	require.NoError(t, err)
	defer rows.Close()
	next := map[string]int{}
	for rows.Next() {
		var name string
		var n int
		require.NoError(t, rows.Scan(&name, &n))
		next[name] = n
	}
	require.NoError(t, rows.Err())
	return next
}

// direct is a connection to a database that takes many statements at once.
func direct(t testing.TB, name string) *sql.DB {
	db, err := sql.Open("mysql", store.DSN("itemrack", "itemrack", Host(t), name)+"?multiStatements=true")
	require.NoError(t, err)
	return db
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

// inserts writes the rows of a table as a statement; empty where it has none.
func inserts(t testing.TB, db *sql.DB, table string) string {
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
		return ""
	}
	return "INSERT INTO `" + table + "` (`" + strings.Join(columns, "`, `") + "`) VALUES " + strings.Join(values, ", ")
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
