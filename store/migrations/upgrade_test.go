package migrations_test

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/register"
	"itemrack/store/book"
	"itemrack/store/internal/db"
	"itemrack/store/migrations"
)

// TestEveryVersionIsUpgradedWithItsData takes the data of each version that was on main, as that version had them,
// through all later ones: the records agree, nothing is lost, and the shop goes on selling.
func TestEveryVersionIsUpgradedWithItsData(t *testing.T) {
	ctx := context.Background()
	versions, err := migrations.Read()
	require.NoError(t, err)
	files, err := filepath.Glob("testdata/*.sql")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, file := range files {
		var number int
		_, err := fmt.Sscanf(filepath.Base(file), "%d.sql", &number)
		require.NoError(t, err, file)
		name := fmt.Sprintf("m_%d_from_%d", os.Getpid(), number)
		host := os.Getenv("ITEMRACK_DB_HOST")
		s, err := db.Open(db.DSN("itemrack", "itemrack", host, name))
		require.NoError(t, err)
		t.Cleanup(func() {
			assert.NoError(t, s.DropDatabase(name))
			assert.NoError(t, s.Close())
		})
		at := slices.IndexFunc(versions, func(v db.Version) bool { return v.Number == number })
		require.GreaterOrEqual(t, at, 0, file)
		require.NoError(t, db.Migrate(ctx, s, versions[:at+1]))
		counted := load(t, db.DSN("itemrack", "itemrack", host, name), file)
		if number == 20 { // which did not write what lists say of costs with every movement
			require.NoError(t, db.SQL(s.Read(ctx)).Exec("UPDATE cost_pool SET cost = cost + 0.000015").Error)
		}

		require.NoError(t, migrations.Migrate(ctx, s), file)
		for table, rows := range counted {
			var now int
			require.NoError(t, db.SQL(s.Read(ctx)).Raw("SELECT COUNT(*) FROM "+table).Scan(&now).Error)
			assert.Equal(t, rows, now, "rows of %s", table)
		}
		checks, err := book.Verify(ctx, s, time.Now().UTC(), func(book.Check) {})
		require.NoError(t, err)
		for _, c := range checks {
			assert.Empty(t, c.Wrong, c.Name)
		}
		shop := deed.New(ctx, s)
		who, err := office.PersonByLogin(ctx, shop, "maren")
		require.NoError(t, err)
		var variant uint64
		require.NoError(t, db.SQL(s.Read(ctx)).Raw("SELECT b.variant_id FROM balance b JOIN shelf s ON s.id = b.shelf_id "+
			"WHERE s.branch_id = 1 AND s.is_default AND b.quantity >= 1 ORDER BY 1 LIMIT 1").Scan(&variant).Error)
		sold, err := register.Sell(deed.By(ctx, shop, who, ""), register.SaleInput{Register: 1, Cash: "1000",
			Lines: []register.SaleLineInput{{Variant: variant, Quantity: "1"}}})
		require.NoError(t, err)
		assert.Equal(t, "Q1-00013", sold.Number, "numbers go on")
		shop.Close()
	}
}

// load puts the rows of a file into a database in place of those that its tables begin with, and counts them.
func load(t *testing.T, dsn, file string) map[string]int {
	t.Helper()
	data, err := os.ReadFile(file)
	require.NoError(t, err)
	counted := map[string]int{}
	var empty, rows []string
	for line := range strings.Lines(string(data)) {
		statement := strings.TrimSuffix(strings.TrimSpace(line), ";")
		if !strings.HasPrefix(statement, "INSERT INTO ") {
			continue
		}
		table := strings.Fields(statement)[2]
		if counted[table]++; counted[table] == 1 {
			empty = append(empty, "DELETE FROM "+table)
		}
		rows = append(rows, statement)
	}
	pool, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer pool.Close()
	pool.SetMaxOpenConns(1)
	for _, statement := range slices.Concat([]string{"SET foreign_key_checks = 0"}, empty) {
		_, err := pool.Exec(statement)
		require.NoError(t, err)
	}
	for _, statement := range rows {
		// what triggers made of rows before it is as the file has it
		_, err := pool.Exec(strings.Replace(statement, "INSERT INTO", "REPLACE INTO", 1))
		require.NoError(t, err)
	}
	return counted
}
