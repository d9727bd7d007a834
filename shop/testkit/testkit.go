// Package testkit gives tests a shop of their own on a real MariaDB.
package testkit

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/require"

	"itemrack/shop"
	"itemrack/store"
)

// Plan is the shop that tests play in.
var Plan = shop.Layout{Name: "Saltmarsh Paddle & Swim", Zone: "Europe/London", Prefix: "20",
	Branches: []shop.BranchPlan{
		{Name: "Quay Shop", Shelves: []string{"Floor", "Wall A"}, Registers: []shop.RegisterPlan{{Code: "Q1", Name: "Register 1"}, {Code: "Q2", Name: "Register 2"}}},
		{Name: "Boathouse", Shelves: []string{"Floor"}, Registers: []shop.RegisterPlan{{Code: "B1", Name: "Boathouse register"}}},
	},
	Taxes: []shop.TaxPlan{{Name: "Standard", Percent: decimal.New(20, 0)}, {Name: "Reduced", Percent: decimal.New(5, 0)}, {Name: "Zero", Percent: decimal.New(0, 0)}}}

// Moment is when tests play.
var Moment = time.Date(2026, 11, 20, 10, 0, 0, 0, time.UTC)

var count atomic.Int64

// Shop is a shop with a manager, a clerk and a stock keeper.
type Shop struct {
	*shop.Shop
	Maren, Tobi, Callum shop.Actor
	DSN                 string
}

// Password is everybody's.
const Password = "harbour-2026"

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
	ctx := context.Background()
	name := fmt.Sprintf("t_%d_%d_%s", os.Getpid(), count.Add(1), strings.ToLower(strings.Map(letters, t.Name())))
	if len(name) > 60 {
		name = name[:60]
	}
	s := &Shop{DSN: store.DSN("itemrack", "itemrack", Host(t), name)}
	db, err := store.Open(s.DSN)
	require.NoError(t, err)
	t.Cleanup(func() {
		if s.Shop != nil {
			s.Close()
		}
		require.NoError(t, db.DropDatabase(name))
		require.NoError(t, db.Close())
	})
	require.NoError(t, db.Migrate(ctx))
	s.Shop, err = shop.New(ctx, db)
	require.NoError(t, err)
	return s
}

// New makes a shop with its people, in a database of its own.
func New(t testing.TB) *Shop {
	t.Helper()
	return Planned(t, Plan)
}

// Planned is New for a shop that is set up in another way.
func Planned(t testing.TB, plan shop.Layout) *Shop {
	t.Helper()
	s := Bare(t)
	_, err := s.SetUp(context.Background(), plan)
	require.NoError(t, err)
	s.Maren = s.person(t, "maren", "Maren Holt", shop.Manager)
	s.Tobi = s.person(t, "tobi", "Tobi Ashdown", shop.Clerk)
	s.Callum = s.person(t, "callum", "Callum Reeve", shop.Stock)
	return s
}

func letters(r rune) rune {
	if r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' {
		return r
	}
	return -1
}

func (s *Shop) person(t testing.TB, login, name string, role shop.Role) shop.Actor {
	_, err := s.MakePerson(context.Background(), shop.NewPerson{Login: login, Name: name, Password: Password, Role: role, Branch: 1})
	require.NoError(t, err)
	who, err := s.PersonByLogin(context.Background(), login)
	require.NoError(t, err)
	return who
}

// Vest makes the rash vest in Coral and Slate, S M L, at 34.95 and L at 36.95.
func (s *Shop) Vest(t testing.TB) shop.MadeProduct {
	t.Helper()
	made, err := s.MakeProduct(context.Background(), s.Maren, "", shop.NewProduct{Name: "Tidewater rash vest", ShortName: "Rash vest", Category: "Swim > Rash vests",
		Supplier: "Kelpline Textiles", TaxClass: 1, Tracking: "counted", Style: "TWV", Price: "34.95",
		Axes: []shop.AxisInput{{Name: "Colour", Values: []shop.ValueInput{{Name: "Coral", Swatch: "#D9604C"}, {Name: "Slate", Swatch: "#54646F"}}},
			{Name: "Size", Values: []shop.ValueInput{{Name: "S"}, {Name: "M"}, {Name: "L"}}}},
		OwnPrices: []shop.CellText{{Choice: []string{"Coral", "L"}, Text: "36.95"}, {Choice: []string{"Slate", "L"}, Text: "36.95"}}})
	require.NoError(t, err)
	return made
}

// Simple makes a product without axes and returns its variant.
func (s *Shop) Simple(t testing.TB, name, tracking, price string) uint64 {
	t.Helper()
	unit := ""
	made, err := s.MakeProduct(context.Background(), s.Maren, "", shop.NewProduct{Name: name, Category: "Swim > Things", Supplier: "Oar & Thole", TaxClass: 1, Unit: unit, Tracking: tracking, Price: price})
	require.NoError(t, err)
	return made.Variants[0].ID
}

// Receive posts a delivery to the Quay Shop.
func (s *Shop) Receive(t testing.TB, in shop.DeliveryInput) shop.Posted {
	t.Helper()
	ctx := context.Background()
	if in.Supplier == 0 {
		in.Supplier = 1
	}
	if in.Branch == 0 {
		in.Branch = 1
	}
	draft, err := s.SaveDelivery(ctx, s.Callum, "", 0, in)
	require.NoError(t, err)
	done, err := s.PostDelivery(ctx, s.Callum, "", draft.ID)
	require.NoError(t, err)
	return done
}

// Stock receives q of a variant at a unit cost.
func (s *Shop) Stock(t testing.TB, variant uint64, q, cost string) shop.Posted {
	t.Helper()
	return s.Receive(t, shop.DeliveryInput{Lines: []shop.GoodsLine{{Variant: variant, Quantity: q, Cost: cost}}})
}

// Open opens the drawer of a register.
func (s *Shop) Open(t testing.TB, register uint64) {
	t.Helper()
	_, err := s.OpenDrawer(context.Background(), s.Tobi, "", register, "100.00")
	require.NoError(t, err)
}

// Sold sells q of a variant for cash at register 1.
func (s *Shop) Sold(t testing.TB, variant uint64, q string) shop.SaleResult {
	t.Helper()
	done, err := s.Sell(context.Background(), s.Tobi, "", shop.SaleInput{Register: 1, Lines: []shop.SaleLineInput{{Variant: variant, Quantity: q}}, Cash: "100000"})
	require.NoError(t, err)
	return done
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

// InStep fails the test when the records disagree.
func (s *Shop) InStep(t testing.TB) {
	t.Helper()
	checks, err := s.Store.Verify(context.Background())
	require.NoError(t, err)
	require.NotEmpty(t, checks)
	for _, c := range checks {
		require.Empty(t, c.Wrong, c.Name)
	}
}
