package shop

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
	"itemrack/core/tax"
	"itemrack/core/text"
	"itemrack/store"
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
	l.Name = strings.Join(strings.Fields(l.Name), " ")
	if l.Name == "" || len(l.Name) > 80 {
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
		return fault.Field("currency", l.Currency, strings.Join(codes, ", "), "Prices can't be kept in %q: only currencies with two decimals can.", l.Currency)
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
		l.Taxes[i].Name = strings.Join(strings.Fields(t.Name), " ")
		if l.Taxes[i].Name == "" || len(t.Name) > 40 || t.Percent.IsNegative() || t.Percent.GreaterThan(decimal.New(100, 0)) {
			return fault.Field("taxes", t.Name, "a name and 0 to 100", "The tax class %q can't be made.", t.Name)
		}
		if slices.ContainsFunc(l.Taxes[:i], func(o TaxPlan) bool { return strings.EqualFold(o.Name, l.Taxes[i].Name) }) {
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
func (s *Shop) SetUp(ctx context.Context, plan Layout) (bool, error) {
	if err := plan.check(); err != nil {
		return false, err
	}
	made := false
	err := s.Store.Do(ctx, func(tx store.Tx) error {
		var err error
		made, err = s.setUp(tx, plan)
		return err
	})
	if err != nil {
		return made, err
	}
	return made, s.learn(ctx)
}

func (s *Shop) setUp(tx store.Tx, plan Layout) (bool, error) {
	first, err := tx.Claim("shop_name", plan.Name)
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
	for name, value := range map[string]string{"zone": plan.Zone, "currency": plan.Currency, "prices": basis.String(), "costing": plan.Costing, store.PracticeSetting: practice, pricedAt: s.Now().Format(time.RFC3339Nano)} {
		if err := tx.Set(name, value); err != nil {
			return false, err
		}
	}
	if err := tx.AddBarcodeRange(&store.BarcodeRange{Name: "Own numbers", Prefix: plan.Prefix, First: 1, Last: lastOwn, Next: 1, Open: true}); err != nil {
		return false, err
	}
	for _, b := range plan.Branches {
		if err := b.write(tx); err != nil {
			return false, err
		}
	}
	for _, t := range plan.Taxes {
		class := store.TaxClass{Name: t.Name}
		if err := tx.AddTaxClass(&class); err != nil {
			return false, err
		}
		rate := store.TaxRate{TaxClassID: class.ID, FromAt: time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC), Percent: t.Percent}
		if err := tx.AddTaxRate(&rate); err != nil {
			return false, err
		}
	}
	var sizes []catalog.Value
	for _, name := range catalog.ClothingSizes {
		sizes = append(sizes, catalog.Value{Name: name})
	}
	_, _, err = valueIDs(tx, "Size", sizes)
	return true, err
}

// lastOwn is the last number under a prefix.
const lastOwn = 9_999_999_999

func (b BranchPlan) write(tx store.Tx) error {
	branch := store.Branch{Name: strings.Join(strings.Fields(b.Name), " ")}
	if len(branch.Name) > 60 {
		return fault.Field("branch", b.Name, "60 characters or fewer", "The name of the branch is too long.")
	}
	if err := tx.AddBranch(&branch); err != nil {
		return err
	}
	for i, name := range b.Shelves {
		if err := tx.AddShelf(&store.Shelf{BranchID: branch.ID, Name: name, IsDefault: i == 0}); err != nil {
			return err
		}
	}
	for _, r := range b.Registers {
		if err := tx.AddRegister(&store.Register{BranchID: branch.ID, Name: r.Name, Code: r.Code}); err != nil {
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
func (s *Shop) IsEmpty(ctx context.Context) (bool, error) {
	name, err := s.Store.Read(ctx).Setting("shop_name")
	return name == "", err
}

// Begin makes the shop of an empty database with its first branch, register and
// manager. Once there is a shop it is refused: nobody is signed in yet when it is
// asked for.
func (s *Shop) Begin(ctx context.Context, in FirstStart) (Actor, error) {
	plan := Layout{Name: in.Name, Currency: in.Currency, WithoutTax: in.WithoutTax, Costing: in.Costing, Practice: in.Practice, Prefix: in.Prefix, Zone: in.Zone}
	for _, t := range in.Taxes {
		if strings.TrimSpace(t.Name) == "" && strings.TrimSpace(t.Percent) == "" {
			continue
		}
		percent, err := price.ParsePercent("taxes", t.Percent)
		if err != nil {
			return Actor{}, err
		}
		plan.Taxes = append(plan.Taxes, TaxPlan{t.Name, percent})
	}
	branch := BranchPlan{Name: in.Branch, Shelves: []string{text.Or(in.Shelf, "Floor")}, Registers: []RegisterPlan{{"R1", text.Or(in.Register, "Register 1")}}}
	plan.Branches = []BranchPlan{branch}
	if err := plan.check(); err != nil {
		return Actor{}, err
	}
	person, err := NewPerson{Login: in.Login, Name: in.Manager, Password: in.Password, Role: Manager, Branch: 1}.row()
	if err != nil {
		return Actor{}, err
	}
	err = s.Store.Do(ctx, func(tx store.Tx) error {
		made, err := s.setUp(tx, plan)
		if err != nil {
			return err
		}
		if !made {
			return fault.Clash("name", in.Name, "to sign in", "There is a shop already. Sign in.")
		}
		branches, err := tx.Branches()
		if err != nil {
			return err
		}
		person.ID, person.BranchID = 0, branches[0].ID
		return tx.AddUser(&person)
	})
	if err != nil {
		return Actor{}, err
	}
	return actor(person), s.learn(ctx)
}

// Settings are what the shop is set to. Those of the first group stay once there
// are documents.
type Settings struct {
	Name        string               `json:"name"`
	ScalePrefix string               `json:"scale_prefix"`
	PricePrefix string               `json:"scale_price_prefix"`
	Currency    string               `json:"currency"`
	Prices      string               `json:"prices"`
	Costing     string               `json:"costing"`
	Zone        string               `json:"zone"`
	Practice    bool                 `json:"practice"` // what is posted can be cleared until the shop begins for real
	Ranges      []store.BarcodeRange `json:"barcode_ranges"`
}

// Settings reads what the shop is set to.
func (s *Shop) Settings(ctx context.Context, who Actor) (Settings, error) {
	if err := who.May(DeedLook); err != nil {
		return Settings{}, err
	}
	q := s.Store.Read(ctx)
	all, err := q.Settings()
	if err != nil {
		return Settings{}, err
	}
	ranges, err := q.BarcodeRanges()
	return Settings{Name: all["shop_name"], ScalePrefix: all[store.ScalePrefix], PricePrefix: all[store.ScalePricePrefix], Currency: s.Currency.Code, Prices: q.Basis().String(), Costing: string(s.Store.Costing), Zone: s.Zone.String(), Practice: all[store.PracticeSetting] == "on", Ranges: ranges}, err
}

// SettingsInput is what of the settings can be changed at any time.
type SettingsInput struct {
	Name        string `json:"name"`
	ScalePrefix string `json:"scale_prefix"`       // of labels with a weight
	PricePrefix string `json:"scale_price_prefix"` // of labels with a price
}

// SaveSettings changes what of the settings can be changed at any time.
func (s *Shop) SaveSettings(ctx context.Context, who Actor, key string, in SettingsInput) (bool, error) {
	return once(ctx, s, who, DeedSettings, key, func(tx store.Tx) (bool, error) {
		name := strings.Join(strings.Fields(in.Name), " ")
		if name == "" || len(name) > 80 {
			return false, fault.Field("name", in.Name, "1 to 80 characters", "The shop needs a name of 1 to 80 characters.")
		}
		scales, err := checkScales(tx, in)
		if err != nil {
			return false, err
		}
		for setting, prefix := range scales {
			if err := tx.Set(setting, prefix); err != nil {
				return false, err
			}
		}
		return true, tx.Set("shop_name", name)
	})
}

// checkScales reads the prefixes of the shop's scales, each another and none that
// of the shop's own numbers.
func checkScales(tx store.Tx, in SettingsInput) (map[string]string, error) {
	ranges, err := tx.BarcodeRanges()
	if err != nil {
		return nil, err
	}
	scales := map[string]string{store.ScalePrefix: strings.TrimSpace(in.ScalePrefix), store.ScalePricePrefix: strings.TrimSpace(in.PricePrefix)}
	for setting, prefix := range scales {
		for _, r := range ranges {
			if err := barcode.CheckEmbedded(setting, prefix, r.Prefix); err != nil {
				return nil, err
			}
		}
	}
	if p := scales[store.ScalePricePrefix]; p != "" && p == scales[store.ScalePrefix] {
		return nil, fault.Field(store.ScalePricePrefix, p, "another than that of labels with a weight", "Labels with a weight begin with %s already.", p)
	}
	return scales, nil
}

// RangeInput is a range of own numbers as it is typed; first and last are the ten
// digits between prefix and check digit.
type RangeInput struct {
	Name   string `json:"name"`
	Prefix string `json:"prefix"`
	First  uint64 `json:"first"`
	Last   uint64 `json:"last"`
	Open   bool   `json:"open"`
}

// AddRange opens a further range of own numbers.
func (s *Shop) AddRange(ctx context.Context, who Actor, key string, in RangeInput) (store.BarcodeRange, error) {
	return once(ctx, s, who, DeedSettings, key, func(tx store.Tx) (store.BarcodeRange, error) {
		r := store.BarcodeRange{Name: strings.Join(strings.Fields(in.Name), " "), Prefix: strings.TrimSpace(in.Prefix), First: in.First, Last: in.Last, Next: in.First, Open: true}
		if r.Name == "" || len(r.Name) > 60 {
			return r, fault.Field("name", in.Name, "1 to 60 characters", "A range needs a name of 1 to 60 characters.")
		}
		if err := barcode.CheckPrefix(r.Prefix); err != nil {
			fault.Of(err).Field = "prefix"
			return r, err
		}
		for _, setting := range []string{store.ScalePrefix, store.ScalePricePrefix} {
			scale, err := tx.Setting(setting)
			if err != nil {
				return r, err
			}
			if err := barcode.CheckEmbedded("prefix", scale, r.Prefix); err != nil {
				return r, err
			}
		}
		if r.First > r.Last || r.Last > lastOwn {
			return r, fault.Field("last", in.Last, "more than the first, 9,999,999,999 at most", "A range can't go from %d to %d.", in.First, in.Last)
		}
		ranges, err := tx.BarcodeRanges()
		if err != nil {
			return r, err
		}
		for _, have := range ranges {
			if strings.EqualFold(have.Name, r.Name) {
				return r, fault.Clash("name", in.Name, "a name of its own", "There is a range %s already.", r.Name)
			}
			if have.Prefix == r.Prefix && r.First <= have.Last && have.First <= r.Last {
				return r, fault.Clash("first", in.First, "numbers of no other range", "The range %s has these numbers: %d to %d.", have.Name, have.First, have.Last)
			}
		}
		return r, tx.AddBarcodeRange(&r)
	})
}

// SwitchRange opens or closes a range of own numbers: a closed one gives none out.
func (s *Shop) SwitchRange(ctx context.Context, who Actor, id uint64, open bool) (bool, error) {
	return once(ctx, s, who, DeedSettings, "", func(tx store.Tx) (bool, error) { return open, tx.SwitchRange(id, open) })
}

// Verify holds all records against each other.
func (s *Shop) Verify(ctx context.Context, who Actor) ([]store.Check, error) {
	if err := who.May(DeedVerify); err != nil {
		return nil, err
	}
	return s.Store.Verify(ctx)
}
