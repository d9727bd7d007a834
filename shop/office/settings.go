package office

import (
	"strings"

	"itemrack/core/barcode"
	"itemrack/core/fault"
	"itemrack/core/revision"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/core/terms"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/office"
)

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
	Ranges      []goods.BarcodeRange `json:"barcode_ranges"`
	Till        TillSettings         `json:"register"`
	TillIs      string               `json:"register_revision"` // of Till
	Revision    string               `json:"revision"`          // of what can be changed at any time
}

// TillSettings is what the registers of the shop do, as it is typed.
type TillSettings struct {
	CashStep       string `json:"cash_rounding"`    // "0.05"; empty rounds nothing
	OffLimit       string `json:"off_limit"`        // percent that everybody may give off
	LockAfter      string `json:"lock_after"`       // minutes; empty or 0 for never
	AskBelowCost   bool   `json:"ask_below_cost"`   // for every line below cost, not only where something was given off
	NameOnReceipts bool   `json:"name_on_receipts"` // the customer's
	Tolerance      string `json:"count_tolerance"`  // what a count may come to before a manager confirms it; 0 for any
}

// tillOf is what the registers of the shop do, as it is typed.
func tillOf(all map[string]string) TillSettings {
	return TillSettings{CashStep: all[terms.CashStep], OffLimit: text.Or(all[terms.OffLimit], terms.UsualOff),
		LockAfter: all[terms.LockAfter], AskBelowCost: all[terms.AskBelowCost] == "on",
		NameOnReceipts: all[terms.NamedReceipt] == "on", Tolerance: text.Or(all[terms.Tolerated], terms.UsualTolerance)}
}

// SaveTill changes what the registers of the shop do.
func SaveTill(do deed.Deed, in TillSettingsInput) (SavedSettings, error) {
	return deed.Once(do, staff.DeedSettings, func(do deed.Deed) (SavedSettings, error) {
		all, err := office.LockSettings(do.Tx)
		if err != nil {
			return SavedSettings{}, err
		}
		if err := revision.CheckOf("What the registers do", in.Revision, tillOf(all)); err != nil {
			return SavedSettings{}, err
		}
		values, err := terms.TillValues(in.OffLimit, in.LockAfter, in.AskBelowCost, in.NameOnReceipts)
		if err != nil {
			return SavedSettings{}, err
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return SavedSettings{}, err
		}
		step, err := sale.Step(terms.CashStep, text.Tidy(in.CashStep), set.Minor())
		if err != nil {
			return SavedSettings{}, err
		}
		if values[terms.Tolerated], err = set.ReadTolerance(in.Tolerance); err != nil {
			return SavedSettings{}, err
		}
		values[terms.CashStep] = ""
		if step.IsPositive() {
			values[terms.CashStep] = set.Minor().Text(step)
		}
		for name, value := range values {
			all[name] = value
			if err := office.Set(do.Tx, name, value); err != nil {
				return SavedSettings{}, err
			}
		}
		return SavedSettings{revision.Of(tillOf(all))}, nil
	})
}

// TillSettingsInput is what the registers are to do.
type TillSettingsInput struct {
	TillSettings
	Revision string `json:"revision"` // as it was shown; another one is refused
}

// ReadSettings reads what the shop is set to.
func ReadSettings(do deed.Deed) (Settings, error) {
	if err := do.Who.May(staff.DeedLook); err != nil {
		return Settings{}, err
	}
	q := do.Shop.Store.Read(do.Ctx)
	all, err := office.Settings(q)
	if err != nil {
		return Settings{}, err
	}
	set, err := q.Terms()
	if err != nil {
		return Settings{}, err
	}
	ranges, err := goods.BarcodeRanges(q)
	return Settings{
		Name:        all["shop_name"],
		ScalePrefix: all[goods.ScalePrefix],
		PricePrefix: all[goods.ScalePricePrefix],
		Currency:    set.Currency.Code,
		Prices:      set.Basis.String(),
		Costing:     string(set.Costing),
		Zone:        set.Zone.String(),
		Practice:    all[book.PracticeSetting] == "on",
		Ranges:      ranges,
		Till:        tillOf(all),
		TillIs:      revision.Of(tillOf(all)),
		Revision:    revision.Of(changeable(all)),
	}, err
}

// SettingsInput is what of the settings can be changed at any time.
type SettingsInput struct {
	Name        string `json:"name"`
	ScalePrefix string `json:"scale_prefix"`       // of labels with a weight
	PricePrefix string `json:"scale_price_prefix"` // of labels with a price
	Revision    string `json:"revision"`           // as it was shown; another one is refused
}

// SavedSettings is the revision of settings that were changed.
type SavedSettings struct {
	Revision string `json:"revision"`
}

// changeable is what of the settings can be changed at any time.
func changeable(all map[string]string) SettingsInput {
	return SettingsInput{Name: all["shop_name"], ScalePrefix: all[goods.ScalePrefix],
		PricePrefix: all[goods.ScalePricePrefix]}
}

// SaveSettings changes what of the settings can be changed at any time.
func SaveSettings(do deed.Deed, in SettingsInput) (SavedSettings, error) {
	return deed.Once(do, staff.DeedSettings, func(do deed.Deed) (SavedSettings, error) {
		all, err := office.LockSettings(do.Tx)
		if err != nil {
			return SavedSettings{}, err
		}
		if err := revision.CheckOf("What the shop is set to", in.Revision, changeable(all)); err != nil {
			return SavedSettings{}, err
		}
		name := text.Tidy(in.Name)
		if name == "" || text.Len(name) > 80 {
			return SavedSettings{}, fault.Field("name", in.Name, "1 to 80 characters",
				"The shop needs a name of 1 to 80 characters.")
		}
		scales, err := checkScales(do.Tx, in)
		if err != nil {
			return SavedSettings{}, err
		}
		for setting, prefix := range scales {
			all[setting] = prefix
			if err := office.Set(do.Tx, setting, prefix); err != nil {
				return SavedSettings{}, err
			}
		}
		all["shop_name"] = name
		return SavedSettings{revision.Of(changeable(all))}, office.Set(do.Tx, "shop_name", name)
	})
}

// checkScales reads the prefixes of the shop's scales, each another and none that
// of the shop's own numbers.
func checkScales(tx store.Tx, in SettingsInput) (map[string]string, error) {
	ranges, err := goods.BarcodeRanges(tx.Q)
	if err != nil {
		return nil, err
	}
	scales := map[string]string{
		goods.ScalePrefix:      strings.TrimSpace(in.ScalePrefix),
		goods.ScalePricePrefix: strings.TrimSpace(in.PricePrefix),
	}
	for setting, prefix := range scales {
		for _, r := range ranges {
			if err := barcode.CheckEmbedded(setting, prefix, r.Prefix); err != nil {
				return nil, err
			}
		}
	}
	if p := scales[goods.ScalePricePrefix]; p != "" && p == scales[goods.ScalePrefix] {
		return nil, fault.Field(goods.ScalePricePrefix, p, "another than that of labels with a weight",
			"Labels with a weight begin with %s already.", p)
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
func AddRange(do deed.Deed, in RangeInput) (goods.BarcodeRange, error) {
	return deed.Once(do, staff.DeedSettings, func(do deed.Deed) (goods.BarcodeRange, error) {
		r := goods.BarcodeRange{
			Name:   text.Tidy(in.Name),
			Prefix: strings.TrimSpace(in.Prefix),
			First:  in.First,
			Last:   in.Last,
			Next:   in.First,
			Open:   true,
		}
		if r.Name == "" || text.Len(r.Name) > 60 {
			return r, fault.Field("name", in.Name, "1 to 60 characters", "A range needs a name of 1 to 60 characters.")
		}
		if err := barcode.CheckPrefix(r.Prefix); err != nil {
			fault.Of(err).Field = "prefix"
			return r, err
		}
		for _, setting := range []string{goods.ScalePrefix, goods.ScalePricePrefix} {
			scale, err := office.Setting(do.Tx.Q, setting)
			if err != nil {
				return r, err
			}
			if err := barcode.CheckEmbedded("prefix", scale, r.Prefix); err != nil {
				return r, err
			}
		}
		if r.First > r.Last || r.Last > lastOwn {
			return r, fault.Field("last", in.Last, "more than the first, 9,999,999,999 at most",
				"A range can't go from %d to %d.", in.First, in.Last)
		}
		ranges, err := goods.BarcodeRanges(do.Tx.Q)
		if err != nil {
			return r, err
		}
		for _, have := range ranges {
			if text.Same(have.Name, r.Name) {
				return r, fault.Clash("name", in.Name, "a name of its own", "There is a range %s already.", r.Name)
			}
			if have.Prefix == r.Prefix && r.First <= have.Last && have.First <= r.Last {
				return r, fault.Clash("first", in.First, "numbers of no other range",
					"The range %s has these numbers: %d to %d.", have.Name, have.First, have.Last)
			}
		}
		return r, goods.AddBarcodeRange(do.Tx, &r)
	})
}

// SwitchRange opens or closes a range of own numbers: a closed one gives none out.
func SwitchRange(do deed.Deed, id uint64, open bool) (bool, error) {
	return deed.Once(do.Under(""), staff.DeedSettings, func(do deed.Deed) (bool, error) {
		return open,
			goods.SwitchRange(do.Tx, id, open)
	})
}
