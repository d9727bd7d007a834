// Package demo makes the demo shop, Saltmarsh Paddle & Swim. Its main rule: it
// does what people do, through the deeds in shop, and never writes a row.
package demo

import (
	"bytes"
	"context"
	_ "embed" // the stock list is part of the program
	"fmt"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/shop"
)

//go:embed stocklist.csv
var stockList []byte

// Password is everybody's in the demo shop.
const Password = "harbour-2026"

// Person is somebody of the demo shop.
type Person struct {
	Login, Name string
	Role        shop.Role
}

// People are who works in the demo shop.
var People = []Person{
	{"maren", "Maren Holt", shop.Manager},
	{"tobi", "Tobi Ashdown", shop.Clerk},
	{"ines", "Ines Varga", shop.Clerk},
	{"callum", "Callum Reeve", shop.Stock},
}

// Layout is the demo shop before anything is in it.
var Layout = shop.Layout{
	Name: "Saltmarsh Paddle & Swim", Zone: "Europe/London", Prefix: "20",
	Branches: []shop.BranchPlan{
		{Name: "Quay Shop", Shelves: append([]string{"Floor"}, numbered("Wall ", "A", "B", "C", "D", "Back room B1", "Back room B2", "Back room B3", "Back room B4", "Back room B5", "Back room B6")...),
			Registers: []shop.RegisterPlan{{Code: "Q1", Name: "Register 1"}, {Code: "Q2", Name: "Register 2"}}},
		{Name: "Boathouse", Shelves: []string{"Floor", "Loft", "Bench"}, Registers: []shop.RegisterPlan{{Code: "B1", Name: "Boathouse register"}}},
		{Name: "Stores", Shelves: numbered("", "Bay 1", "Bay 2", "Bay 3", "Bay 4", "Bay 5", "Bay 6", "Bay 7", "Bay 8")},
	},
	Taxes: []shop.TaxPlan{{Name: "Standard", Percent: decimal.New(20, 0)}, {Name: "Reduced", Percent: decimal.New(5, 0)}, {Name: "Zero", Percent: decimal.New(0, 0)}},
}

// numbered puts a prefix before the single letters of a list.
func numbered(prefix string, names ...string) []string {
	list := make([]string, len(names))
	for i, n := range names {
		list[i] = n
		if len(n) == 1 {
			list[i] = prefix + n
		}
	}
	return list
}

// SetUp makes the shop with its people, without products. It reports false for a
// database that has a shop already.
func SetUp(ctx context.Context, s *shop.Shop) (bool, error) {
	made, err := s.SetUp(ctx, Layout)
	if err != nil || !made {
		return made, err
	}
	for i, p := range People {
		branch := uint64(1)
		if i == 2 {
			branch = 2
		}
		if _, err := s.MakePerson(ctx, shop.NewPerson{Login: p.Login, Name: p.Name, Password: Password, Role: p.Role, Branch: branch}); err != nil {
			return true, err
		}
	}
	return true, nil
}

// Load fills an empty database with the demo shop and some days of history up to
// now. It reports false, and does nothing, where there is a shop already.
func Load(ctx context.Context, s *shop.Shop, days int, seed uint64) (bool, error) {
	made, err := SetUp(ctx, s)
	if err != nil || !made {
		return made, err
	}
	h, err := newHistory(ctx, s, days, seed)
	if err != nil {
		return true, err
	}
	return true, h.play()
}

// people finds the people of the demo shop by login.
func people(ctx context.Context, s *shop.Shop) (map[string]shop.Actor, error) {
	found := map[string]shop.Actor{}
	for _, p := range People {
		who, err := s.PersonByLogin(ctx, p.Login)
		if err != nil {
			return nil, err
		}
		found[p.Login] = who
	}
	return found, nil
}

// importList reads the stock list that ships with the program in.
func importList(ctx context.Context, s *shop.Shop, who shop.Actor) error {
	report, err := s.ImportList(ctx, who, "", bytes.NewReader(stockList), 1, false)
	if err != nil {
		return err
	}
	if report.Refused > 0 {
		return fmt.Errorf("the demo's stock list has %d refused rows", report.Refused)
	}
	return s.SetCategoryColours(ctx, who, map[string]string{
		"Swim > Wetsuits": "#2F5D73", "Swim > Rash vests": "#D9604C", "Swim > Goggles and caps": "#7A57A5", "Swim > Safety": "#DB7A2C", "Paddle > Boards": "#2F7F74",
		"Paddle > Paddles": "#8A6848", "Shore > Bags": "#C79A2B", "Shore > Sun and skin": "#E0A030", "Shore > Food": "#8C9A3B", "Shore > Repair": "#6B7780",
		"Shore > Rope and webbing": "#92694B", "Services": "#0B6A5D"})
}

// day is the local midnight of a day before today.
func day(s *shop.Shop, ago int) time.Time {
	local := s.Now().In(s.Zone)
	return time.Date(local.Year(), local.Month(), local.Day()-ago, 0, 0, 0, 0, s.Zone)
}
