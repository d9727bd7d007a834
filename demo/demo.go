// Package demo makes the demo shop, Saltmarsh Paddle & Swim. Its main rule: it
// does what people do, through the deeds in shop, and never writes a row.
package demo

import (
	"bytes"
	"context"
	_ "embed"
	"errors"
	"fmt"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/staff"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/shop/lists"
	"itemrack/shop/office"
	shopprices "itemrack/shop/prices"
	"itemrack/store/goods"
	"itemrack/store/prices"
)

// oarAndThole is the catalog of that supplier.
//
//go:embed oar_and_thole.csv
var oarAndThole []byte

//go:embed stocklist.csv
var stockList []byte

// Password is everybody's in the demo shop.
const Password = "harbour-2026"

// Person is somebody of the demo shop.
type Person struct {
	Login, Name string
	Role        staff.Role
	PIN         string   // for the registers
	Branches    []uint64 // the first one is where the person is
}

// People are who works in the demo shop.
var People = []Person{{"maren", "Maren Holt", staff.Manager, "4711", []uint64{1}},
	{"tobi", "Tobi Ashdown", staff.Clerk, "2580", []uint64{1}},
	{"ines", "Ines Varga", staff.Clerk, "1379", []uint64{2, 1}},
	{"callum", "Callum Reeve", staff.Stock, "6142", []uint64{1, 2, 3}}}

// Layout is the demo shop before anything is in it.
var Layout = office.Layout{
	Name: "Saltmarsh Paddle & Swim", Zone: "Europe/London", Prefix: "20",
	Branches: []office.BranchPlan{
		{
			Name: "Quay Shop",
			Shelves: append(
				[]string{"Floor"},
				numbered("Wall ", "A", "B", "C", "D", "Back room B1", "Back room B2", "Back room B3", "Back room B4",
					"Back room B5", "Back room B6")...),
			Registers: []office.RegisterPlan{{Code: "Q1", Name: "Register 1"}, {Code: "Q2", Name: "Register 2"}},
		},
		{
			Name:      "Boathouse",
			Shelves:   []string{"Floor", "Loft", "Bench"},
			Registers: []office.RegisterPlan{{Code: "B1", Name: "Boathouse register"}},
		},
		{Name: "Stores", Shelves: numbered("", "Bay 1", "Bay 2", "Bay 3", "Bay 4", "Bay 5", "Bay 6", "Bay 7", "Bay 8")},
	},
	Taxes: []office.TaxPlan{{Name: "Standard", Percent: decimal.New(20, 0)},
		{Name: "Reduced", Percent: decimal.New(5, 0)}, {Name: "Zero", Percent: decimal.New(0, 0)}},
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
func SetUp(ctx context.Context, s *deed.Shop) (bool, error) {
	made, err := office.SetUp(ctx, s, Layout)
	if err != nil || !made {
		return made, err
	}
	for _, p := range People {
		if _, err := office.MakePerson(ctx, s, office.NewPerson{Login: p.Login, Name: p.Name, Password: Password,
			Role: p.Role, PIN: p.PIN,
			Branch: p.Branches[0], Branches: p.Branches}); err != nil {
			return true, err
		}
	}
	return true, nil
}

// Days of history that the demo shop has unless somebody asks for other.
const Days = 120

// Load fills an empty database with the demo shop and some days of history up to
// now, and tells how many days are done. It reports false, and does nothing, where there is a shop
// already.
func Load(ctx context.Context, s *deed.Shop, days int, seed uint64, told func(days int)) (bool, error) {
	made, err := SetUp(ctx, s)
	if err != nil || !made {
		return made, err
	}
	h, err := newHistory(ctx, s, days, seed)
	if err != nil {
		return true, err
	}
	if err := makePictures(ctx, s.At(day(s, days+1, h.set.Zone).Add(10*time.Hour)), h.people["maren"]); err != nil {
		return true, err
	}
	return true, h.play(told)
}

// LoadPlain is Load without the pictures, which take longer to draw than a few days to play.
func LoadPlain(ctx context.Context, s *deed.Shop, days int, seed uint64) error {
	made, err := SetUp(ctx, s)
	if err != nil || !made {
		return err
	}
	h, err := newHistory(ctx, s, days, seed)
	if err != nil {
		return err
	}
	return h.play(func(int) {})
}

// people finds the people of the demo shop by login.
func people(ctx context.Context, s *deed.Shop) (map[string]staff.Actor, error) {
	found := map[string]staff.Actor{}
	for _, p := range People {
		who, err := office.PersonByLogin(ctx, s, p.Login)
		if err != nil {
			return nil, err
		}
		found[p.Login] = who
	}
	return found, nil
}

// categories are those that say something for the products in them, from the
// root down; the others come with the stock list.
var categories = []struct{ above, name, colour, tax, markup, ending, restock string }{
	{"", "Swim", "#2F5D73", "Standard", "", "", ""}, {"Swim", "Wetsuits", "#2F5D73", "", "110", "1/0.95/nearest", "3"},
	{"Swim", "Rash vests", "#D9604C", "", "110", "1/0.95/nearest", ""},
	{"Swim", "Boots and gloves", "#54646F", "", "105", "1/0.95/nearest", ""},
	{"Swim", "Swimwear", "#B0506B", "", "115", "1/0.95/nearest", ""},
	{"Swim", "Children", "#E2B93B", "Zero", "100", "1/0.95/nearest", ""},
	{"Swim", "Goggles and caps", "#7A57A5", "", "", "", ""}, {"Swim", "Training", "#2E5F9E", "", "", "", ""},
	{"Swim", "Safety", "#DB7A2C", "", "", "", ""}, {"", "Paddle", "#2F7F74", "Standard", "", "", ""},
	{"Paddle", "Boards", "#2F7F74", "", "60", "10/9/nearest", ""}, {"Paddle", "Paddles", "#8A6848", "", "", "", ""},
	{"Paddle", "Wear", "#A4552F", "", "", "", ""}, {"Paddle", "Board care", "#4E7A86", "", "", "", ""},
	{"", "Shore", "#C79A2B", "Standard", "", "", ""}, {"Shore", "Bags", "#C79A2B", "", "", "", ""},
	{"Shore", "Sun and skin", "#E0A030", "", "", "", ""}, {"Shore", "Food", "#8C9A3B", "Reduced", "", "", ""},
	{"Shore", "Repair", "#6B7780", "", "", "", ""}, {"Shore", "Rope and webbing", "#92694B", "", "", "", ""},
	{"Shore", "Warm and dry", "#6C4A86", "", "", "", ""}, {"", "Services", "#0B6A5D", "Standard", "", "", ""}}

// makeCategories makes the category tree with what products take over from it.
func makeCategories(ctx context.Context, s *deed.Shop, who staff.Actor) error {
	classes, err := prices.TaxClasses(s.Store.Read(ctx))
	if err != nil {
		return err
	}
	class := map[string]uint64{}
	for _, c := range classes {
		class[c.Name] = c.ID
	}
	ids := map[string]uint64{}
	for _, c := range categories {
		made, err := catalog.SaveCategory(deed.By(ctx, s, who, ""), 0,
			catalog.CategoryInput{
				Parent:   ids[c.above],
				Name:     c.name,
				Colour:   c.colour,
				TaxClass: class[c.tax],
				Markup:   c.markup,
				Ending:   c.ending,
				Restock:  c.restock,
			},
		)
		if err != nil {
			return err
		}
		ids[c.name] = made.ID
	}
	return nil
}

// makeLists makes the price lists beside Regular.
func makeLists(ctx context.Context, s *deed.Shop, who staff.Actor) error {
	for _, l := range []shopprices.ListInput{{Name: "Club", Kind: "other list", Base: 1, Percent: "-10",
		Ending: "0.05/0/down"}, {Name: "Staff", Kind: "markup", Percent: "20"}} {
		if _, err := shopprices.SavePriceList(deed.By(ctx, s, who, ""), 0, l); err != nil {
			return err
		}
	}
	return nil
}

// Shelves makes what the demo's products are sorted into: categories and price
// lists.
func Shelves(ctx context.Context, s *deed.Shop, who staff.Actor) error {
	if err := makeCategories(ctx, s, who); err != nil {
		return err
	}
	return makeLists(ctx, s, who)
}

// importList reads the stock list that ships with the program in, below the
// categories, and says what suppliers' products take over.
func importList(ctx context.Context, s *deed.Shop, who staff.Actor) error {
	if err := Shelves(ctx, s, who); err != nil {
		return err
	}
	report, err := lists.ImportList(deed.By(ctx, s, who, ""), bytes.NewReader(stockList), 1, false)
	if err != nil {
		return err
	}
	for _, r := range report.Rows {
		if r.Outcome == lists.RowRefused {
			return fmt.Errorf("line %d of the demo's stock list is refused: %s", r.Line, r.Detail)
		}
	}
	suppliers, err := goods.Suppliers(s.Store.Read(ctx))
	if err != nil {
		return err
	}
	for _, from := range suppliers {
		terms, ok := supplierTerms[from.Name]
		if !ok {
			continue
		}
		terms.Name = from.Name
		if _, err := buying.SaveSupplier(deed.By(ctx, s, who, ""), from.ID, terms); err != nil {
			return err
		}
		if from.Name == "Oar & Thole" {
			read, err := buying.ReadCatalogIn(deed.By(ctx, s, who, ""), from.ID, oarAndThole, buying.CatalogInput{})
			if err != nil || !read.Done {
				return errors.Join(fmt.Errorf("the catalog of Oar & Thole: %d rows are refused", read.Refused), err)
			}
		}
	}
	return nil
}

// supplierTerms are what was agreed with the suppliers.
var supplierTerms = map[string]buying.SupplierInput{
	"Northfold Neoprene": {Discount: "8", Freight: "4", Markup: "110", Ending: "1/0.95/nearest", DaysToPay: "30",
		LeadDays:     "14",
		MinimumOrder: "1000", AccountNumber: "SPS-2207",
		Contacts: []goods.SupplierContact{{Name: "Ada Berg", Mail: "orders@northfold.example", Phone: "0131 496 0117",
			Note: "orders"}}},
	"Brackwater Boards": {Freight: "6", Ending: "10/9/nearest", DaysToPay: "14", LeadDays: "21",
		CurrencyNote:  "bills in pounds",
		AccountNumber: "4417", Contacts: []goods.SupplierContact{{Name: "Jonas Reed",
			Mail: "jonas@brackwater.example"}}},
	"Pale Dune Supplies": {DaysToPay: "30", LeadDays: "5", MinimumOrder: "150",
		Note:     "Boxes only; asks for the lot numbers back when it recalls.",
		Contacts: []goods.SupplierContact{{Mail: "sales@paledune.example", Phone: "0131 496 0144"}}},
	"Oar & Thole":       {DaysToPay: "7", LeadDays: "3"},
	"Kelpline Textiles": {Discount: "5", DaysToPay: "30", LeadDays: "10", AccountNumber: "QUAY 12"},
}

// day is the local midnight of a day before today.
func day(s *deed.Shop, ago int, zone *time.Location) time.Time {
	local := s.Now().In(zone)
	return time.Date(local.Year(), local.Month(), local.Day()-ago, 0, 0, 0, 0, zone)
}
