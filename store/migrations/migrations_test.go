package migrations

import (
	"context"
	"fmt"
	"os"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/store/internal/db"
)

var ctx = context.Background()

// database is an empty database of its own.
func database(t *testing.T, name string) *db.Store {
	t.Helper()
	host := os.Getenv("ITEMRACK_DB_HOST")
	if host == "" {
		t.Fatal("ITEMRACK_DB_HOST is not set; the test command starts a database")
	}
	name = fmt.Sprintf("m_%d_%s", os.Getpid(), name)
	s, err := db.Open(db.DSN("itemrack", "itemrack", host, name))
	require.NoError(t, err)
	t.Cleanup(func() {
		assert.NoError(t, s.DropDatabase(name))
		assert.NoError(t, s.Close())
	})
	return s
}

func run(t *testing.T, s *db.Store, statements ...string) {
	t.Helper()
	for _, statement := range statements {
		_, err := db.Pool(s).Exec(statement)
		require.NoError(t, err, statement)
	}
}

func list(t *testing.T, s *db.Store, query string) []string {
	t.Helper()
	var rows []string
	require.NoError(t, db.SQL(s.Read(ctx)).Raw(query).Scan(&rows).Error)
	return rows
}

// tables is how the tables of a database are made.
func tables(t *testing.T, s *db.Store) []string {
	return append(list(t, s, `SELECT CONCAT_WS(' ', table_name, column_name, column_type, is_nullable, collation_name,
		column_default) FROM information_schema.columns WHERE table_schema = DATABASE() ORDER BY 1`),
		list(t, s, `SELECT CONCAT_WS(' ', table_name, index_name, non_unique, seq_in_index, column_name) FROM
		information_schema.statistics WHERE table_schema = DATABASE() ORDER BY 1`)...)
}

// TestAKillInTheMiddleIsGoneOnFrom does each statement that changes tables, and is killed
// before that is kept: the next start goes on, and the tables are as they would have been.
func TestAKillInTheMiddleIsGoneOnFrom(t *testing.T) {
	versions, err := read()
	require.NoError(t, err)
	whole, killed := database(t, "whole"), database(t, "killed")
	require.NoError(t, Migrate(ctx, whole))
	require.NoError(t, db.Migrate(ctx, killed, nil))
	kills := 0
	for n, v := range versions {
		run(t, killed, fmt.Sprintf("INSERT INTO migration (version, step) VALUES (%d, 0)", v.Number))
		for i, statement := range v.Statements {
			before := ""
			if db.ChangesTables(statement) {
				before, err = db.Stands(ctx, killed, statement)
				require.NoError(t, err)
				kills++
				if kills%4 > 0 { // some are killed before the statement is done
					run(t, killed, statement)
				}
			}
			run(t, killed, fmt.Sprintf("UPDATE migration SET step = %d, before_it = '%s' WHERE version = %d", i, before,
				v.Number))
			part := v
			part.Statements = v.Statements[:i+1]
			require.NoError(t, db.Migrate(ctx, killed, append(versions[:n:n], part)), "%s: %s", v.Name, statement)
		}
		run(t, killed, fmt.Sprintf("UPDATE migration SET step = %d WHERE version = %d", len(v.Statements), v.Number))
		require.NoError(t, db.Migrate(ctx, killed, versions[:n+1]))
	}
	require.NoError(t, Migrate(ctx, killed))
	assert.Greater(t, kills, 100)
	assert.Equal(t, tables(t, whole), tables(t, killed))
}

// TestServersThatStartAtOnceMakeTheTablesOnce on an empty database.
func TestServersThatStartAtOnceMakeTheTablesOnce(t *testing.T) {
	s := database(t, "at_once")
	var wait sync.WaitGroup
	failed := make([]error, 6)
	for i := range failed {
		wait.Go(func() { failed[i] = Migrate(ctx, s) })
	}
	wait.Wait()
	for _, err := range failed {
		assert.NoError(t, err)
	}
	versions, err := read()
	require.NoError(t, err)
	assert.Len(t, list(t, s, "SELECT version FROM migration WHERE step = -1"), len(versions))
}

// TestAStatementThatIsWrongIsNotTakenForDone: only one that was cut off may have been done.
func TestAStatementThatIsWrongIsNotTakenForDone(t *testing.T) {
	s := database(t, "wrong")
	wrong := db.Version{Number: 1, Name: "wrong", Statements: []string{"CREATE TABLE a (id INT)",
		"CREATE TABLE a (id INT)"}}
	require.Error(t, db.Migrate(ctx, s, []db.Version{wrong}))
	assert.Equal(t, []string{"1"}, list(t, s, "SELECT step FROM migration WHERE version = 1"))
}

// TestAnOlderDatabaseIsRefused plainly, before anything is changed in it; so is a later one.
func TestAnOlderDatabaseIsRefused(t *testing.T) {
	for name, statements := range map[string][]string{
		"at_19":     {"INSERT INTO migration (version, step) VALUES (1, -1), (19, -1)"},
		"within_20": {"INSERT INTO migration (version, step) VALUES (19, -1), (20, 1)"},
		"goose":     {"CREATE TABLE goose_db_version (id INT)"},
	} {
		s := database(t, name)
		require.NoError(t, db.Migrate(ctx, s, nil))
		run(t, s, statements...)
		before := tables(t, s)
		require.ErrorIs(t, Migrate(ctx, s), db.ErrTooOld, name)
		assert.Equal(t, before, tables(t, s), name)
	}
	s := database(t, "later")
	require.NoError(t, Migrate(ctx, s))
	run(t, s, "INSERT INTO migration (version, step) VALUES (9999, -1)")
	require.ErrorIs(t, Migrate(ctx, s), db.ErrTooNew)
}

// TestADatabaseAtTheBaselineGoesOn: the version before this one had numbers 1 to 20.
func TestADatabaseAtTheBaselineGoesOn(t *testing.T) {
	s := database(t, "goes_on")
	require.NoError(t, Migrate(ctx, s))
	for n := 1; n < baseline; n++ {
		run(t, s, fmt.Sprintf("INSERT INTO migration (version, step) VALUES (%d, -1)", n))
	}
	before := tables(t, s)
	require.NoError(t, Migrate(ctx, s))
	assert.Equal(t, before, tables(t, s))
}

// TestACopyWithoutItsTriggersIsRefused: what is kept of goods would go stale.
func TestACopyWithoutItsTriggersIsRefused(t *testing.T) {
	s := database(t, "lost")
	require.NoError(t, Migrate(ctx, s))
	run(t, s, "DROP TRIGGER variant_update")
	require.ErrorContains(t, Migrate(ctx, s), "variant_update")
}
