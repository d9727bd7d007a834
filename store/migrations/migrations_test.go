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
			part.Statements, part.Fill = v.Statements[:i+1], nil
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

// TestKeysOfWhatIsThere fills in the keys of a database that took texts for one that are
// two, and two that are one.
func TestKeysOfWhatIsThere(t *testing.T) {
	s := database(t, "keys")
	versions, err := read()
	require.NoError(t, err)
	require.NoError(t, db.Migrate(ctx, s, versions[:7]))
	run(t, s,
		"INSERT INTO branch (id, name) VALUES (1, 'Quay Shop')",
		"INSERT INTO shelf (id, branch_id, name, is_default) VALUES (1, 1, 'Floor', TRUE)",
		"INSERT INTO user (id, login, name, password_hash, role, branch_id) VALUES (1, 'TÜ', 'Tü', '', 'manager', 1)",
		"INSERT INTO tax_class (id, name) VALUES (1, 'Standard')",
		"INSERT INTO supplier (id, name) VALUES (1, 'Pale Dune'), (2, 'Pale  Dune')",
		"INSERT INTO category (id, name, path) VALUES (1, 'Café', 'Café')",
		"INSERT INTO product (id, name, style, category_id, tax_class_id, unit, tracking, sku_pattern, created_at) VALUES "+
			"(1, 'Board', 'B', 1, 1, 'pc', 'serial', '{style}', NOW()), (2, 'Cap', 'C', 1, 1, 'pc', 'counted', "+
			"'{style}', NOW())",
		"INSERT INTO variant (id, product_id, sku, label) VALUES (1, 1, 'B-RED', 'Red'), (2, 1, 'B-BLUE', 'Blue'), (3, 2, "+
			"'C-1', '')",
		"INSERT INTO barcode (variant_id, code, code_key) VALUES (3, 'b-red', 'B-RED')",
		"INSERT INTO document (id, kind, number, branch_id, user_id, happened_at, recorded_at) VALUES (1, "+
			"'Delivery', 'D-1', "+
			"1, 1, NOW(), NOW())",
		"INSERT INTO entry (document_id, line, variant_id, shelf_id, `condition`, serial, quantity, value, quantity_after, "+
			"value_after) VALUES (1, 1, 1, 1, 'For sale', 'E1', 1, 10, 1, 10), (1, 1, 1, 1, 'For sale', 'É1', 1, 11, 2, 21), "+
			"(1, 1, 1, 1, 'For sale', 'N7', 1, 9, 3, 30), (1, 2, 2, 1, 'For sale', 'N7', 1, 8, 1, 8)",
		"INSERT INTO unit (variant_id, number, state, shelf_id, `condition`, cost) VALUES (1, 'E1', 'in stock', 1, "+
			"'For sale', 11), (1, 'N7', 'in stock', 1, 'For sale', 9), (2, 'N7', 'in stock', 1, 'For sale', 8)")
	require.NoError(t, Migrate(ctx, s))
	assert.Equal(t, []string{"pale dune", "pale dune (2)"}, list(t, s,
		"SELECT name_key FROM supplier ORDER BY name_key"))
	assert.Equal(t, []string{"café"}, list(t, s, "SELECT path_key FROM category"))
	assert.Equal(t, []string{"tü"}, list(t, s, "SELECT login FROM user"))
	assert.Equal(t, []string{"E1 in stock 1 10", "É1 in stock 1 11"},
		list(t, s, "SELECT CONCAT(number, ' ', state, ' ', product_id, ' ', ROUND(cost)) FROM unit WHERE number "+
			"<> 'N7' ORDER BY id"),
		"the book has two")
	assert.Equal(t, []string{"", ""}, list(t, s, "SELECT COALESCE(product_id, '') FROM unit WHERE number = 'N7'"),
		"what stands double is left for a person to mend")
	assert.Equal(t, []string{"B-BLUE 2", "B-RED 3", "C-1 3"}, list(t, s,
		"SELECT CONCAT(k, ' ', variant_id) FROM scan_key ORDER BY k"), "a barcode goes before a SKU, as it did")
}
