package office

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/price"
	"itemrack/core/staff"
	"itemrack/core/tax"
	"itemrack/core/text"
	shopcatalog "itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/shop/prices"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/office"
	storeprices "itemrack/store/prices"
	"itemrack/store/till"
)

// Layout is what a new shop begins with. Empty texts take the usual: pounds,
// prices with tax, moving average, prefix 20, the zone of London.
type Layout struct {
	Name, Zone, Prefix string
	Currency           string
	WithoutTax         bool
	Costing            string
	Practice           bool // what is posted can be cleared until the shop begins for real
	Branches           []BranchPlan
	Taxes              []TaxPlan
}

// BranchPlan is a branch with its shelves, the first one the default, and its
// registers by code.
type BranchPlan struct {
	Name      string
	Shelves   []string
	Registers []RegisterPlan
}

// RegisterPlan is a register; its code begins its sale numbers.
type RegisterPlan struct{ Code, Name string }

// TaxPlan is a tax class with its rate in percent.
type TaxPlan struct {
	Name    string
	Percent decimal.Decimal
}

func (l *Layout) check() error {
	l.Name = text.Tidy(l.Name)
	if l.Name == "" || text.Len(l.Name) > 80 {
		return fault.Field("name", l.Name, "1 to 80 characters", "The shop needs a name of 1 to 80 characters.")
	}
	if l.Currency == "" {
		l.Currency = money.Currencies[0].Code
	}
	if money.CurrencyByCode(l.Currency).Code != l.Currency {
		var codes []string
		for _, c := range money.Currencies {
			codes = append(codes, c.Code)
		}
		return fault.Field("currency", l.Currency, strings.Join(codes, ", "),
			"Prices can't be kept in %q: only currencies with two decimals can.", l.Currency)
	}
	costing, err := cost.ParseMethod(l.Costing)
	if err != nil {
		return err
	}
	l.Costing = string(costing)
	if l.Prefix == "" {
		l.Prefix = "20"
	}
	if err := barcode.CheckPrefix(l.Prefix); err != nil {
		return err
	}
	if l.Zone == "" {
		l.Zone = "Europe/London"
	}
	if _, err := time.LoadLocation(l.Zone); err != nil {
		return fault.Field("zone", l.Zone, "a zone such as Europe/London", "There is no time zone %q.", l.Zone)
	}
	if len(l.Taxes) == 0 {
		return fault.Field("taxes", "", "at least one tax class", "The shop needs a tax class; Zero with 0 %% is one.")
	}
	for i, t := range l.Taxes {
		l.Taxes[i].Name = text.Tidy(t.Name)
		if l.Taxes[i].Name == "" || text.Len(t.Name) > 40 || t.Percent.IsNegative() ||
			t.Percent.GreaterThan(decimal.New(100, 0)) {
			return fault.Field("taxes", t.Name, "a name and 0 to 100", "The tax class %q can't be made.", t.Name)
		}
		if slices.ContainsFunc(l.Taxes[:i],
			func(o TaxPlan) bool { return text.Same(o.Name, l.Taxes[i].Name) }) {
			return fault.Field("taxes", t.Name, "each name once", "There are two tax classes %q.", t.Name)
		}
	}
	if len(l.Branches) == 0 || strings.TrimSpace(l.Branches[0].Name) == "" {
		return fault.Field("branch", "", "a name such as High Street", "The shop needs its first branch.")
	}
	return nil
}

// SetUp makes the shop itself, once: a database that has a shop is left alone.
// It reports whether it made one.
func SetUp(ctx context.Context, s *deed.Shop, plan Layout) (bool, error) {
	if err := plan.check(); err != nil {
		return false, err
	}
	made := false
	err := s.Store.Do(ctx, func(tx store.Tx) error {
		var err error
		made, err = setUp(deed.By(ctx, s, staff.Actor{}, "").In(tx), plan)
		return err
	})
	return made, err
}

func setUp(do deed.Deed, plan Layout) (bool, error) {
	first, err := office.Claim(do.Tx, "shop_name", plan.Name)
	if err != nil || !first {
		return false, err
	}
	basis := tax.With
	if plan.WithoutTax {
		basis = tax.Without
	}
	practice := ""
	if plan.Practice {
		practice = "on"
	}
	zone, err := time.LoadLocation(plan.Zone)
	if err != nil {
		return false, err
	}
	for name, value := range map[string]string{"zone": plan.Zone,
		book.ExpiredBefore: do.Shop.Now().In(zone).Format(time.DateOnly), "currency": plan.Currency,
		"prices": basis.String(), "costing": plan.Costing, book.PracticeSetting: practice,
		prices.PricedAt: do.Shop.Now().Format(time.RFC3339Nano)} {
		if err := office.Set(do.Tx, name, value); err != nil {
			return false, err
		}
	}
	if err := goods.AddBarcodeRange(do.Tx, &goods.BarcodeRange{Name: "Own numbers", Prefix: plan.Prefix, First: 1,
		Last: lastOwn, Next: 1, Open: true}); err != nil {
		return false, err
	}
	for _, b := range plan.Branches {
		if err := b.write(do.Tx); err != nil {
			return false, err
		}
	}
	for _, t := range plan.Taxes {
		class := storeprices.TaxClass{Name: t.Name}
		if err := storeprices.AddTaxClass(do.Tx, &class); err != nil {
			return false, err
		}
		rate := storeprices.TaxRate{
			TaxClassID: class.ID,
			FromAt:     time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC),
			Percent:    t.Percent,
		}
		if err := storeprices.AddTaxRate(do.Tx, &rate); err != nil {
			return false, err
		}
	}
	var sizes []catalog.Value
	for _, name := range catalog.ClothingSizes {
		sizes = append(sizes, catalog.Value{Name: name})
	}
	_, _, err = shopcatalog.ValueIDs(do.Tx, "Size", sizes)
	return true, err
}

// lastOwn is the last number under a prefix.
const lastOwn = 9_999_999_999

func (b BranchPlan) write(tx store.Tx) error {
	branch := office.Branch{Name: text.Tidy(b.Name)}
	if text.Len(branch.Name) > 60 {
		return fault.Field("branch", b.Name, "60 characters or fewer", "The name of the branch is too long.")
	}
	if err := office.AddBranch(tx, &branch); err != nil {
		return err
	}
	for i, name := range b.Shelves {
		if err := book.AddShelf(tx, &book.Shelf{BranchID: branch.ID, Name: name, IsDefault: i == 0}); err != nil {
			return err
		}
	}
	for _, r := range b.Registers {
		if err := till.AddRegister(tx, &till.Register{BranchID: branch.ID, Name: r.Name, Code: r.Code}); err != nil {
			return err
		}
	}
	return nil
}

// FirstStart is what the page of an empty shop asks.
type FirstStart struct {
	Name       string     `json:"name"`
	Currency   string     `json:"currency"`
	WithoutTax bool       `json:"without_tax"`
	Costing    string     `json:"costing"`
	Practice   bool       `json:"practice"`
	Prefix     string     `json:"barcode_prefix"`
	Zone       string     `json:"zone"`
	Taxes      []FirstTax `json:"taxes"`
	Branch     string     `json:"branch"`
	Shelf      string     `json:"shelf"`
	Register   string     `json:"register"`
	Manager    string     `json:"manager"`
	Login      string     `json:"login"`
	Password   string     `json:"password"`
}

// FirstTax is a tax class as it is typed.
type FirstTax struct {
	Name    string `json:"name"`
	Percent string `json:"percent"`
}

// IsEmpty reports whether there is no shop in the database yet.
func IsEmpty(ctx context.Context, s *deed.Shop) (bool, error) {
	name, err := office.Setting(s.Store.Read(ctx), "shop_name")
	return name == "", err
}

// Begin makes the shop of an empty database with its first branch, register and
// manager. Once there is a shop it is refused: nobody is signed in yet when it is
// asked for.
func Begin(ctx context.Context, s *deed.Shop, in FirstStart) (staff.Actor, error) {
	plan := Layout{
		Name:       in.Name,
		Currency:   in.Currency,
		WithoutTax: in.WithoutTax,
		Costing:    in.Costing,
		Practice:   in.Practice,
		Prefix:     in.Prefix,
		Zone:       in.Zone,
	}
	for _, t := range in.Taxes {
		if strings.TrimSpace(t.Name) == "" && strings.TrimSpace(t.Percent) == "" {
			continue
		}
		percent, err := price.ParsePercent("taxes", t.Percent)
		if err != nil {
			return staff.Actor{}, err
		}
		plan.Taxes = append(plan.Taxes, TaxPlan{t.Name, percent})
	}
	branch := BranchPlan{
		Name:      in.Branch,
		Shelves:   []string{text.Or(in.Shelf, "Floor")},
		Registers: []RegisterPlan{{"R1", text.Or(in.Register, "Register 1")}},
	}
	plan.Branches = []BranchPlan{branch}
	if err := plan.check(); err != nil {
		return staff.Actor{}, err
	}
	person, err := NewPerson{
		Login:    in.Login,
		Name:     in.Manager,
		Password: in.Password,
		Role:     staff.Manager,
		Branch:   1,
	}.row(ctx)
	if f := fault.Of(err); f != nil && f.Field == "name" {
		f.Field = "manager" // the form has the shop's name, too
	}
	if err != nil {
		return staff.Actor{}, err
	}
	err = s.Store.Do(ctx, func(tx store.Tx) error {
		made, err := setUp(deed.By(ctx, s, staff.Actor{}, "").In(tx), plan)
		if err != nil {
			return err
		}
		if !made {
			return fault.Clash("name", in.Name, "to sign in", "There is a shop already. Sign in.")
		}
		branches, err := office.Branches(tx.Q)
		if err != nil {
			return err
		}
		person.ID, person.BranchID = 0, branches[0].ID
		return office.AddUser(tx, &person)
	})
	if err != nil {
		return staff.Actor{}, err
	}
	return actor(person), nil
}
