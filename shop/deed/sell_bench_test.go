package deed_test

import (
	"database/sql"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"itemrack/shop/register"
	"itemrack/shop/testkit"
)

// BenchmarkSale posts a sale of three lines through shop, and beside it runs the
// bare SQL that writes the same rows in one transaction, turn about, and reports
// both and their ratio.
func BenchmarkSale(b *testing.B) {
	s := testkit.New(b)
	made := s.Vest(b)
	var lines []register.SaleLineInput
	for _, v := range made.Variants[:3] {
		s.Stock(b, v.ID, "1000000", "13.95")
		lines = append(lines, register.SaleLineInput{Variant: v.ID, Quantity: "1"})
	}
	s.Open(b, 1)
	db, err := sql.Open("mysql", s.DSN+"?interpolateParams=true&parseTime=true")
	require.NoError(b, err)
	defer db.Close()
	var through, bare time.Duration
	n := 0
	for b.Loop() {
		began := time.Now()
		_, err := register.Sell(ctx, s.Shop, s.Tobi, fmt.Sprint("bench-", n), register.SaleInput{Register: 1, Lines: lines, Cash: "200"})
		through += time.Since(began)
		require.NoError(b, err)
		began = time.Now()
		require.NoError(b, bareSale(db, n))
		bare += time.Since(began)
		n++
	}
	b.ReportMetric(through.Seconds()*1000/float64(n), "ms/sale")
	b.ReportMetric(bare.Seconds()*1000/float64(n), "ms/bare")
	b.ReportMetric(through.Seconds()/bare.Seconds(), "ratio")
}

// bareSale writes the rows of a sale of three lines, computing nothing: one
// statement for each table, and the printed receipt in one of its own.
func bareSale(db *sql.DB, n int) error {
	tx, err := db.Begin()
	if err != nil {
		return err
	}
	defer func() { _ = tx.Rollback() }()
	now := time.Now().UTC()
	exec := func(statement string, args ...any) (result sql.Result) {
		if err == nil {
			result, err = tx.Exec(statement, args...)
		}
		return result
	}
	exec("INSERT INTO request_key (k, result, created_at) VALUES (?, '{}', ?)", fmt.Sprint("bare-", n), now)
	exec("UPDATE number_range SET next = LAST_INSERT_ID(next) + 1 WHERE name = 'sale Q1'")
	result := exec("INSERT INTO document (kind, number, branch_id, user_id, happened_at, recorded_at) VALUES ('Sale', ?, 1, 1, ?, ?)", fmt.Sprint("BARE-", n), now, now)
	if err != nil {
		return err
	}
	id, err := result.LastInsertId()
	if err != nil {
		return err
	}
	exec(`INSERT INTO entry (document_id, line, variant_id, shelf_id, lot_id, `+"`condition`"+`, serial, quantity, value, bought, quantity_after, value_after)
		VALUES (?, 1, 1, 1, 0, 'For sale', '', -1, -13.95, 0, 1, 1), (?, 2, 2, 1, 0, 'For sale', '', -1, -13.95, 0, 1, 1), (?, 3, 3, 1, 0, 'For sale', '', -1, -13.95, 0, 1, 1)`, id, id, id)
	exec("UPDATE balance SET quantity = quantity - 1 WHERE variant_id IN (1, 2, 3)")
	exec("UPDATE cost_pool SET quantity = quantity - 1, value = value - 13.95, for_sale = for_sale - 1 WHERE variant_id IN (1, 2, 3)")
	exec("INSERT INTO ledger_posting (document_id, account, amount) VALUES (?, 'cash', 106.85), (?, 'tax out', -17.81), (?, 'income', -89.04), (?, 'cost of sales', 41.85), (?, 'stock', -41.85)", id, id, id, id, id)
	exec("INSERT INTO sale (document_id, register_id, drawer_id, gross, tax, handed, change_given, card) VALUES (?, 1, 1, 106.85, 17.81, 200, 93.15, 0)", id)
	exec(`INSERT INTO sale_line (document_id, line, variant_id, name, detail, sku, quantity, price, percent, paid, tax, cost) VALUES
		(?, 1, 1, 'Tidewater rash vest', 'Coral · S', 'TWV-COR-S', 1, 34.95, 20, 34.95, 5.83, 13.95),
		(?, 2, 2, 'Tidewater rash vest', 'Coral · M', 'TWV-COR-M', 1, 34.95, 20, 34.95, 5.83, 13.95),
		(?, 3, 3, 'Tidewater rash vest', 'Coral · L', 'TWV-COR-L', 1, 36.95, 20, 36.95, 6.16, 13.95)`, id, id, id)
	if err != nil {
		return err
	}
	if err := tx.Commit(); err != nil {
		return err
	}
	_, err = db.Exec("INSERT INTO print_job (device, title, pages, at) VALUES ('receipt printer', 'bare', '[]', ?)", now)
	return err
}
