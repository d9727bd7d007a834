package demo_test

import (
	"bytes"
	"context"
	"fmt"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/buying"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/demo"
	"itemrack/sheet"
	"itemrack/shop/deed"
	"itemrack/shop/lists"
	shopoffice "itemrack/shop/office"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/counts"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/store/till"
)

// empty is a shop in a database with nothing in it.
func empty(t *testing.T) *testkit.Shop { return testkit.Bare(t) }

// TestTheDemoShop loads the demo shop with all its days, as the start command does, and holds that it is whole: people, all
// kinds of tracking, history through every deed, records in step.
func TestTheDemoShop(t *testing.T) {
	ctx := context.Background()
	s := empty(t)
	made, err := demo.Load(ctx, s.Shop, demo.Days, 26, func(int) {})
	require.NoError(t, err)
	assert.True(t, made)
	s.InStep(t)
	q := s.Store.Read(ctx)
	branches, err := office.Branches(q)
	require.NoError(t, err)
	assert.Len(t, branches, 3)
	ids, err := goods.ProductIDs(q, goods.ListFilter{}, 0, 1000)
	require.NoError(t, err)
	assert.Len(t, ids, 60)
	variants, err := goods.VariantIDs(q, goods.ListFilter{}, 0, 1000)
	require.NoError(t, err)
	assert.InDelta(t, 400, len(variants), 10)
	products, err := goods.ProductRows(q, ids)
	require.NoError(t, err)
	tracking := map[string]int{}
	for _, p := range products {
		tracking[p.Tracking]++
	}
	for _, kind := range []string{"counted", "lot", "serial", "not stocked"} {
		assert.Positive(t, tracking[kind], kind)
	}
	offered, err := storebuying.CatalogByGTIN(q, "2099000000019")
	require.NoError(t, err)
	assert.Len(t, offered, 1, "a supplier's catalog is kept")
	for _, kind := range []string{"Opening stock", "Delivery", "Sale", "Return", "Shelf count", "Cash-up", "Bill",
		"Payment", "Back to supplier"} {
		documents, _, err := book.Documents(q, kind, 1)
		require.NoError(t, err)
		assert.NotEmpty(t, documents, kind)
	}
	for _, state := range buying.States {
		orders, _, err := storebuying.Orders(q, storebuying.OrderFilter{State: state}, 1)
		require.NoError(t, err)
		assert.NotEmpty(t, orders, state)
	}
	open, err := counts.OpenCounts(q)
	require.NoError(t, err)
	assert.Len(t, open, 2, "two counts are half done: of one counter, and of two")
	for _, p := range demo.People {
		_, err := shopoffice.SignIn(ctx, s.Shop, "127.0.0.1", p.Login, demo.Password)
		assert.NoError(t, err)
	}
	made, err = demo.Load(ctx, s.Shop, demo.Days, 26, func(int) {})
	require.NoError(t, err)
	assert.False(t, made, "a shop that is there is left alone")
}

// TestTheSameSeedMakesTheSameShop plays twice and compares the sales.
func TestTheSameSeedMakesTheSameShop(t *testing.T) {
	ctx := context.Background()
	play := func(seed uint64) string {
		s := empty(t)
		err := demo.LoadPlain(ctx, s.Shop, 2, seed)
		require.NoError(t, err)
		var all bytes.Buffer
		require.NoError(t, lists.ExportCatalog(deed.By(ctx, s.Shop, manager(t, s), ""), goods.ListFilter{}, sheet.CSV, &all))
		q := s.Store.Read(ctx)
		var sales []till.SaleRow
		for page, more := 1, true; more; page++ {
			var rows []till.SaleRow
			rows, more, err = till.Sales(q, page)
			require.NoError(t, err)
			sales = append(sales, rows...)
		}
		require.NotEmpty(t, sales)
		for _, row := range sales {
			v, err := till.SaleByNumber(q, row.Number)
			require.NoError(t, err)
			fmt.Fprintln(&all, v.Number, v.Branch, v.Clerk, v.Gross, v.Tax, v.Paid.Handed(), v.Paid.Of(sale.Card), v.Paid.Sum())
			for _, l := range v.Lines {
				fmt.Fprintln(&all, l.SKU, l.Quantity, l.Paid, l.Cost, l.Back, l.Serials)
			}
		}
		accounts, err := book.Accounts(q)
		require.NoError(t, err)
		fmt.Fprintln(&all, accounts)
		return all.String()
	}
	assert.Equal(t, play(7), play(7))
	assert.NotEqual(t, play(7), play(8))
}

func TestSeed(t *testing.T) {
	ctx := context.Background()
	s := empty(t)
	_, err := demo.SetUp(ctx, s.Shop)
	require.NoError(t, err)
	who, err := shopoffice.PersonByLogin(ctx, s.Shop, "maren")
	require.NoError(t, err)
	told := 0
	require.NoError(t, demo.Seed(ctx, s.Shop, who, 450, 1, func(done int) { told = done }))
	assert.Equal(t, 450, told)
	rows, more, err := book.StockList(s.Store.Read(ctx), book.StockQuery{}, 9)
	require.NoError(t, err)
	assert.Len(t, rows, 50)
	assert.False(t, more)
	s.InStep(t)
	assert.Error(t, demo.Seed(ctx, s.Shop, staff.Actor{ID: who.ID, Role: staff.Clerk}, 10, 2, func(int) {}),
		"a clerk may not import")
}

// pictureNames are the files that a list names.
var pictureNames = regexp.MustCompile(`[0-9a-f]{12}\.(png|jpg|jpeg|webp)`)

// TestTheCatalogComesBackAsItWas exports the demo catalog, reads it into an empty
// shop, and exports it again; and reads it into the shop it came from, where it
// changes nothing.
func TestTheCatalogComesBackAsItWas(t *testing.T) {
	ctx := context.Background()
	full := empty(t)
	_, err := demo.Load(ctx, full.Shop, 1, 26, func(int) {})
	require.NoError(t, err)
	maren, err := shopoffice.PersonByLogin(ctx, full.Shop, "maren")
	require.NoError(t, err)
	for _, format := range []sheet.Format{sheet.CSV, sheet.XLSX} {
		var first, second bytes.Buffer
		require.NoError(t, lists.ExportCatalog(deed.By(ctx, full.Shop, maren, ""), goods.ListFilter{}, format, &first))
		report, err := lists.ImportList(deed.By(ctx, full.Shop, maren, ""), bytes.NewReader(first.Bytes()), 1, false)
		require.NoError(t, err)
		assert.Zero(t, report.Made+report.Changed+report.Refused, "%s: %+v", format, notSame(report))
		assert.InDelta(t, 400, report.Same, 10)

		other := empty(t)
		_, err = demo.SetUp(ctx, other.Shop)
		require.NoError(t, err)
		require.NoError(t, demo.Shelves(ctx, other.Shop, maren))
		report, err = lists.ImportList(deed.By(ctx, other.Shop, maren, ""), bytes.NewReader(first.Bytes()), 1, false)
		require.NoError(t, err)
		require.Zero(t, report.Refused, "%+v", notSame(report))
		require.NoError(t, lists.ExportCatalog(deed.By(ctx, other.Shop, maren, ""), goods.ListFilter{}, format, &second))
		if format == sheet.CSV {
			assert.Equal(t, pictureNames.ReplaceAllString(first.String(), ""), second.String(),
				"but for pictures, which come in a ZIP")
		}
		again, err := lists.ImportList(deed.By(ctx, full.Shop, maren, ""), bytes.NewReader(second.Bytes()), 1, false)
		require.NoError(t, err)
		assert.Zero(t, again.Made+again.Changed+again.Refused, "%+v", notSame(again))
	}
}

// notSame are the rows of a report that are not the same, a few of them.
func notSame(report lists.ListReport) []lists.ListResult {
	var list []lists.ListResult
	for _, r := range report.Rows {
		if r.Outcome != lists.RowSame && len(list) < 4 {
			list = append(list, r)
		}
	}
	return list
}

// manager is who runs the demo shop.
func manager(t *testing.T, s *testkit.Shop) staff.Actor {
	t.Helper()
	who, err := shopoffice.PersonByLogin(context.Background(), s.Shop, "")
	require.NoError(t, err)
	return who
}
