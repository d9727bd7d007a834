// Package testkit gives tests a shop of their own on a real MariaDB.
package testkit

import (
	"context"
	"database/sql"
	"os"
	"sync/atomic"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/require"

	"itemrack/core/staff"
	"itemrack/core/terms"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	shopregister "itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/store"
	"itemrack/store/book"
)

// Plan is the shop that tests play in.
var Plan = office.Layout{Name: "Saltmarsh Paddle & Swim", Zone: "Europe/London", Prefix: "20",
	Branches: []office.BranchPlan{
		{
			Name:      "Quay Shop",
			Shelves:   []string{"Floor", "Wall A"},
			Registers: []office.RegisterPlan{{Code: "Q1", Name: "Register 1"}, {Code: "Q2", Name: "Register 2"}},
		},
		{
			Name:      "Boathouse",
			Shelves:   []string{"Floor"},
			Registers: []office.RegisterPlan{{Code: "B1", Name: "Boathouse register"}},
		},
	},
	Taxes: []office.TaxPlan{{Name: "Standard", Percent: decimal.New(20, 0)},
		{Name: "Reduced", Percent: decimal.New(5, 0)}, {Name: "Zero", Percent: decimal.New(0, 0)}}}

// Moment is when tests play.
var Moment = time.Date(2026, 11, 20, 10, 0, 0, 0, time.UTC)

var count atomic.Int64

// Shop is a shop with a manager, a clerk and a stock keeper.
type Shop struct {
	*deed.Shop
	Maren, Tobi, Callum staff.Actor
	DSN                 string
}

// Password is everybody's.
const Password = "harbour-2026"

// PIN is everybody's, for the registers.
const PIN = "4711"

// Host is the address of the MariaDB that the test command starts.
func Host(t testing.TB) string {
	t.Helper()
	host := os.Getenv("ITEMRACK_DB_HOST")
	if host == "" {
		t.Fatal("ITEMRACK_DB_HOST is not set: run the tests with make test")
	}
	return host
}

// Bare gives a test a database of its own with tables and no shop in it; it
// goes when the test ends.
func Bare(t testing.TB) *Shop {
	t.Helper()
	return copied(t, &empty, func(*deed.Shop) {})
}

// New makes a shop with its people, in a database of its own.
func New(t testing.TB) *Shop {
	t.Helper()
	return copied(t, &opened, func(s *deed.Shop) {
		_, err := office.SetUp(context.Background(), s, Plan)
		require.NoError(t, err)
		people(t, s)
	}).known(t)
}

// Planned is New for a shop that is set up in another way.
func Planned(t testing.TB, plan office.Layout) *Shop {
	t.Helper()
	s := Bare(t)
	_, err := office.SetUp(context.Background(), s.Shop, plan)
	require.NoError(t, err)
	people(t, s.Shop)
	return s.known(t)
}

// copied is a shop in a copy of a template.
func copied(t testing.TB, from *template, make func(s *deed.Shop)) *Shop {
	t.Helper()
	name := from.database(t, make)
	s := &Shop{DSN: store.DSN("itemrack", "itemrack", Host(t), name)}
	db, err := store.Open(s.DSN)
	require.NoError(t, err)
	t.Cleanup(func() {
		if s.Shop != nil {
			s.Close()
		}
		require.NoError(t, db.Close())
		giveBack(name)
	})
	s.Shop = deed.New(context.Background(), db)
	return s
}

// Vest makes the rash vest in Coral and Slate, S M L, at 34.95 and L at 36.95.
func (s *Shop) Vest(t testing.TB) catalog.MadeProduct {
	t.Helper()
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{Name: "Tidewater rash vest",
		ShortName: "Rash vest", Category: "Swim > Rash vests",
		Supplier: "Kelpline Textiles", TaxClass: 1, Tracking: "counted", Style: "TWV", Price: "34.95",
		Axes: []catalog.AxisInput{
			{
				Name: "Colour",
				Values: []catalog.ValueInput{{Name: "Coral", Swatch: "#D9604C"},
					{Name: "Slate", Swatch: "#54646F"}},
			},
			{Name: "Size", Values: []catalog.ValueInput{{Name: "S"}, {Name: "M"}, {Name: "L"}}},
		},
		OwnPrices: []catalog.CellText{{Choice: []string{"Coral", "L"}, Text: "36.95"},
			{Choice: []string{"Slate", "L"}, Text: "36.95"}}},
	)
	require.NoError(t, err)
	return made
}

// Simple makes a product without axes and returns its variant.
func (s *Shop) Simple(t testing.TB, name, tracking, price string) uint64 {
	t.Helper()
	unit := ""
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     name,
		Category: "Swim > Things",
		Supplier: "Oar & Thole",
		TaxClass: 1,
		Unit:     unit,
		Tracking: tracking,
		Price:    price,
	},
	)
	require.NoError(t, err)
	return made.Variants[0].ID
}

// Receive posts a delivery to the Quay Shop.
func (s *Shop) Receive(t testing.TB, in buying.DeliveryInput) deed.Posted {
	t.Helper()
	ctx := context.Background()
	if in.Supplier == 0 {
		in.Supplier = 1
	}
	if in.Branch == 0 {
		in.Branch = 1
	}
	draft, err := buying.SaveDelivery(deed.By(ctx, s.Shop, s.Maren, ""), 0, in)
	require.NoError(t, err)
	done, err := buying.PostDelivery(deed.By(ctx, s.Shop, s.Maren, ""), draft.ID, buying.DeliveryPosting{})
	require.NoError(t, err)
	return done
}

// Stock receives q of a variant at a unit cost.
func (s *Shop) Stock(t testing.TB, variant uint64, q, cost string) deed.Posted {
	t.Helper()
	return s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: variant, Quantity: q, Cost: cost}}})
}

// Open opens the drawer of a register.
func (s *Shop) Open(t testing.TB, register uint64) {
	t.Helper()
	_, err := shopregister.OpenDrawer(s.By(s.Tobi), register, "100.00")
	require.NoError(t, err)
}

// Sold sells q of a variant for cash at register 1.
func (s *Shop) Sold(t testing.TB, variant uint64, q string) shopregister.SaleResult {
	t.Helper()
	done, err := shopregister.Sell(s.By(s.Tobi), shopregister.SaleInput{
		Register: 1,
		Lines:    []shopregister.SaleLineInput{{Variant: variant, Quantity: q}},
		Cash:     "100000",
	},
	)
	require.NoError(t, err)
	return done
}

// Terms are what the shop is set to.
func (s *Shop) Terms(t testing.TB) terms.Terms {
	t.Helper()
	set, err := s.Store.Read(context.Background()).Terms()
	require.NoError(t, err)
	return set
}

// Spoil changes records behind the door's back, to see that it is noticed.
func (s *Shop) Spoil(statement string) error {
	db, err := sql.Open("mysql", s.DSN)
	if err != nil {
		return err
	}
	defer db.Close()
	_, err = db.Exec(statement)
	return err
}

// AskedAll reads a column of texts behind the door's back.
func (s *Shop) AskedAll(query string, args ...any) ([]string, error) {
	db, err := sql.Open("mysql", s.DSN)
	if err != nil {
		return nil, err
	}
	defer db.Close()
	rows, err := db.Query(query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var list []string
	for rows.Next() {
		var text string
		if err := rows.Scan(&text); err != nil {
			return nil, err
		}
		list = append(list, text)
	}
	return list, rows.Err()
}

// InStep fails the test when the records disagree.
func (s *Shop) InStep(t testing.TB) {
	t.Helper()
	checks, err := book.Verify(context.Background(), s.Store, s.Now(), func(book.Check) {})
	require.NoError(t, err)
	require.NotEmpty(t, checks)
	for _, c := range checks {
		require.Empty(t, c.Wrong, c.Name)
	}
}
