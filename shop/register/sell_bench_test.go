package register_test

import (
	"cmp"
	"context"
	"database/sql"
	"fmt"
	"math/rand/v2"
	"runtime/debug"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
)

var ctx = context.Background()

// desk is one register of the benchmark, with the drawer that it has open.
type desk struct{ register, drawer uint64 }

// sold is what the bare statements know of a variant.
type sold struct {
	id, product uint64
	detail, sku string
}

// tills makes a shop with so many registers, their drawers open, and 60 variants that
// it sells.
func tills(b *testing.B, n int) (*testkit.Shop, []desk, []sold) {
	plan := testkit.Plan
	plan.Branches = []office.BranchPlan{{Name: "Quay Shop", Shelves: []string{"Floor"}}}
	for i := range n {
		plan.Branches[0].Registers = append(plan.Branches[0].Registers,
			office.RegisterPlan{Code: fmt.Sprint("Q", i+1), Name: fmt.Sprint("Register ", i+1)})
	}
	s := testkit.Planned(b, plan)
	var rack []sold
	for p := range 15 {
		made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
			Name:     fmt.Sprint("Tidewater rash vest ", p),
			Category: "Swim",
			Supplier: "Kelpline Textiles",
			TaxClass: 1,
			Tracking: "counted",
			Price:    "34.95",
			Axes: []catalog.AxisInput{
				{Name: "Size", Values: []catalog.ValueInput{{Name: "S"}, {Name: "M"}, {Name: "L"}, {Name: "XL"}}}},
		},
		)
		require.NoError(b, err)
		for _, v := range made.Variants {
			s.Stock(b, v.ID, "1000000", "13.95")
			rack = append(rack, sold{id: v.ID, product: made.ID, detail: v.Label, sku: v.SKU})
		}
	}
	var list []desk
	for i := range n {
		s.Open(b, uint64(i+1))
		list = append(list, desk{register: uint64(i + 1), drawer: uint64(i + 1)})
	}
	return s, list, rack
}

// run lets every register sell so many times at once, and says how long each sale took.
func run(b *testing.B, list []desk, sales int,
	sell func(at desk, n int) error) (took []time.Duration, whole time.Duration) {
	took = make([]time.Duration, len(list)*sales)
	var all sync.WaitGroup
	began := time.Now()
	for i, at := range list {
		all.Go(func() {
			for n := range sales {
				start := time.Now()
				if !assert.NoError(b, sell(at, n)) {
					return
				}
				took[i*sales+n] = time.Since(start)
			}
		})
	}
	all.Wait()
	whole = time.Since(began)
	return took, whole
}

// BenchmarkSale posts sales of three lines from 1, 4 and 16 registers at once, and
// beside them, turn about, runs the bare SQL that writes the same rows and computes
// nothing. It reports the rates, the times that half, 95 and 99 of 100 sales stay under,
// and both ratios.
func BenchmarkSale(b *testing.B) {
	defer debug.SetGCPercent(debug.SetGCPercent(deed.GarbagePercent)) // as the program does
	for _, registers := range []int{1, 4, 16} {
		b.Run(fmt.Sprint(registers, " registers"), func(b *testing.B) {
			s, list, rack := tills(b, registers)
			db, err := sql.Open("mysql", s.DSN+"?interpolateParams=true&parseTime=true")
			require.NoError(b, err)
			defer db.Close()
			db.SetMaxIdleConns(registers)
			var through, bare []time.Duration
			var throughAll, bareAll time.Duration
			turn := 0
			for b.Loop() {
				turn++
				took, whole := run(b, list, 40, func(at desk, n int) error {
					in := register.SaleInput{Register: at.register, Cash: "200"}
					for _, v := range three(rack, at, turn, n) {
						in.Lines = append(in.Lines, register.SaleLineInput{Variant: v.id, Quantity: "1"})
					}
					_, err := register.Sell(s.By(s.Tobi, fmt.Sprintf("bench-%d-%d-%d", at.register, turn, n)), in)
					return err
				})
				through, throughAll = append(through, took...), throughAll+whole
				took, whole = run(b, list, 40, func(at desk, n int) error {
					return bareSale(db, at, fmt.Sprintf("bare-%d-%d-%d", at.register, turn, n),
						three(rack, at, turn, n))
				})
				bare, bareAll = append(bare, took...), bareAll+whole
			}
			rate := float64(len(through)) / throughAll.Seconds()
			bareRate := float64(len(bare)) / bareAll.Seconds()
			slices.Sort(through)
			slices.Sort(bare)
			b.ReportMetric(0, "ns/op")
			b.ReportMetric(rate, "sales/s")
			b.ReportMetric(bareRate, "bare/s")
			b.ReportMetric(rate/bareRate, "ratio")
			for _, p := range []int{50, 95, 99} {
				b.ReportMetric(at(through, p), fmt.Sprintf("p%d-ms", p))
				b.ReportMetric(at(bare, p), fmt.Sprintf("bare-p%d-ms", p))
			}
			b.ReportMetric(at(through, 99)/at(bare, 99), "p99-ratio")
		})
	}
}

// at is the time in milliseconds that p of 100 stay under; the list is sorted.
func at(list []time.Duration, p int) float64 {
	return list[min(len(list)*p/100, len(list)-1)].Seconds() * 1000
}

// three are the variants of a sale, the same for both kinds, by their numbers.
func three(rack []sold, at desk, turn, n int) []sold {
	dice := rand.New(rand.NewPCG(at.register, uint64(turn*1000+n)))
	list := make([]sold, 3)
	for i, p := range dice.Perm(len(rack))[:3] {
		list[i] = rack[p]
	}
	slices.SortFunc(list, func(a, b sold) int { return cmp.Compare(a.id, b.id) })
	return list
}

// bareSale writes the rows of a sale of three lines, computing nothing: one statement
// for each table, in one transaction, and the printed receipt in one of its own.
func bareSale(db *sql.DB, at desk, key string, list []sold) error {
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
	ids := fmt.Sprintf("%d, %d, %d", list[0].id, list[1].id, list[2].id)
	products := fmt.Sprintf("%d, %d, %d", list[0].product, list[1].product, list[2].product)
	exec("INSERT INTO request_key (k, result, created_at) VALUES (?, '{}', ?)", key, now)
	result := exec(
		"INSERT INTO document (kind, number, branch_id, user_id, happened_at, recorded_at, note) VALUES ('Sale', ?, "+
			"1, 1, ?, ?, '')",
		key, now, now)
	if err != nil {
		return err
	}
	id, err := result.LastInsertId()
	if err != nil {
		return err
	}
	var entries, lines []any
	for i, v := range list {
		entries = append(entries, id, i+1, v.id)
		lines = append(lines, id, i+1, v.id, v.detail, v.sku)
	}
	values := func(row string) string { return row + ", " + row + ", " + row }
	exec(
		"INSERT INTO entry (document_id, line, variant_id, shelf_id, lot_id, `condition`, serial, quantity, value, "+
			"bought, quantity_after, value_after) VALUES "+
			values("(?, ?, ?, 1, 0, 'For sale', '', -1, -13.95, 0, 1, 1)"),
		entries...)
	exec("UPDATE balance SET quantity = quantity - 1 WHERE variant_id IN (" + ids + ")")
	exec(
		"UPDATE cost_pool SET quantity = quantity - 1, value = value - 13.95, for_sale = for_sale - 1 WHERE " +
			"variant_id IN (" + ids + ")")
	exec(
		"UPDATE product_figure SET on_hand = on_hand - 1, for_sale = for_sale - 1, value = value - 13.95 WHERE " +
			"product_id IN (" + products + ")")
	exec(
		"INSERT INTO ledger_posting (document_id, account, amount) VALUES (?, 'cash', 104.85), (?, 'tax out', "+
			"-17.49), (?, 'income', -87.36), "+
			"(?, 'cost of sales', 41.85), (?, 'stock', -41.85)",
		id,
		id,
		id,
		id,
		id,
	)
	exec(
		"INSERT INTO sale (document_id, register_id, drawer_id, gross, tax) VALUES (?, ?, ?, 104.85, 17.49)",
		id, at.register, at.drawer)
	exec(
		"INSERT INTO tender (document_id, drawer_id, kind, amount, handed) VALUES (?, ?, 'cash', 104.85, 200)",
		id, at.drawer)
	exec("INSERT INTO drawer_opened (register_id, at, user_id, why) VALUES (?, ?, 1, 'sale')", at.register, now)
	exec(
		"INSERT INTO sale_line (document_id, line, variant_id, name, detail, sku, quantity, price, percent, paid, "+
			"tax, cost) VALUES "+
			values("(?, ?, ?, 'Tidewater rash vest', ?, ?, 1, 34.95, 20, 34.95, 5.83, 13.95)"),
		lines...)
	exec("UPDATE number_range SET next = LAST_INSERT_ID(next) + 1 WHERE name = ?", fmt.Sprint("sale Q", at.register))
	if err != nil {
		return err
	}
	if err := tx.Commit(); err != nil {
		return err
	}
	_, err = db.Exec("INSERT INTO print_job (device, title, pages, at) VALUES ('receipt printer', ?, ?, ?)", key, pages,
		now)
	return err
}

// pages is as much as the receipt of three lines comes to, 3.4 kB.
var pages = `["` + strings.Repeat("Tidewater rash vest 34.95 ", 131) + `"]`
