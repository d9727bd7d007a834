package prices

import (
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/prices"
)

// ListInput is a price list as it is typed.
type ListInput struct {
	Name    string `json:"name"`
	Kind    string `json:"kind"` // markup, margin, other list or fixed; empty for none
	Percent string `json:"percent"`
	Amount  string `json:"amount"`
	Base    uint64 `json:"list_id"`
	Ending  string `json:"ending"`
	// Revision is the list's as it was shown; another one is refused.
	Revision string `json:"revision"`
}

// ListView is a price list with its revision.
type ListView struct {
	price.List
	Revision string `json:"revision"`
}

// Lists are the price lists with their rules.
func Lists(q store.Q) ([]ListView, error) {
	lists, err := prices.PriceLists(q)
	views := make([]ListView, len(lists))
	for i, l := range lists {
		views[i] = ListView{l, revision.Of(l)}
	}
	return views, err
}

// SavePriceList makes a price list, or changes the one with a number.
func SavePriceList(do deed.Deed, id uint64, in ListInput) (price.List, error) {
	return deed.Once(do, staff.DeedPrices, func(do deed.Deed) (price.List, error) {
		l := price.List{
			ID:   id,
			Name: text.Tidy(in.Name),
			Rule: price.Rule{Kind: price.RuleKind(in.Kind), List: in.Base},
		}
		if l.Name == "" || text.Len(l.Name) > 40 {
			return l, fault.Field("name", in.Name, "1 to 40 characters",
				"A price list needs a name of 1 to 40 characters.")
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return l, err
		}
		minor := set.Minor()
		for _, figure := range []struct {
			field, text string
			into        *decimal.Decimal
		}{{"percent", in.Percent, &l.Rule.Percent}, {"amount", in.Amount, &l.Rule.Amount}} {
			if strings.TrimSpace(figure.text) == "" {
				continue
			}
			if *figure.into, err = price.Signed(figure.field, figure.text, price.ParsePercent); err != nil {
				return l, err
			}
		}
		if !l.Rule.Amount.Equal(minor.Round(l.Rule.Amount)) {
			return l, fault.Field("amount", in.Amount, "an amount such as 2.50", "%q is finer than %d decimals.",
				in.Amount, minor.Places())
		}
		if l.Rule.Ending, err = price.ParseEnding(in.Ending, minor); err != nil {
			return l, err
		}
		if err := l.Rule.Check(minor); err != nil {
			return l, err
		}
		lists, err := prices.LockPriceLists(do.Tx)
		if err != nil {
			return l, err
		}
		at := slices.IndexFunc(lists, func(x price.List) bool { return x.ID == id })
		switch {
		case id == 0:
			lists = append(lists, l)
		case at < 0:
			return l, fault.Missing("price_list", id, "There is no price list %d.", id)
		default:
			if err := revision.CheckOf("The price list "+lists[at].Name, in.Revision, lists[at]); err != nil {
				return l, err
			}
			lists[at] = l
		}
		if err := price.CheckLists(lists); err != nil {
			return l, err
		}
		return l, prices.SavePriceList(do.Tx, &l)
	})
}

// DropPriceList drops a price list with the prices on it; Regular stays.
func DropPriceList(do deed.Deed, id uint64) (bool, error) {
	return deed.Once(do.Under(""), staff.DeedPrices, func(do deed.Deed) (bool, error) {
		if id == price.Regular {
			return false, fault.Refuse("price_list", "Regular", "another list",
				"Regular is what everybody pays; it stays.")
		}
		return true, prices.DropPriceList(do.Tx, id)
	})
}

// RateInput gives a tax class a rate from a moment on.
type RateInput struct {
	Percent string `json:"percent"`
	From    string `json:"from"`
}

// SetTaxRate gives a tax class a rate from a later moment on: what was sold keeps
// the rate it was sold at.
func SetTaxRate(do deed.Deed, class uint64, in RateInput) (bool, error) {
	return deed.Once(do, staff.DeedSettings, func(do deed.Deed) (bool, error) {
		classes, err := prices.TaxClasses(do.Tx.Q)
		if err != nil {
			return false, err
		}
		if err := catalog.KnownClass("tax_class", classes, class); err != nil {
			return false, err
		}
		percent, err := price.ParsePercent("percent", in.Percent)
		if err != nil {
			return false, err
		}
		if percent.GreaterThan(decimal.New(100, 0)) {
			return false, fault.Field("percent", in.Percent, "0 to 100", "%s %% is no tax rate.", percent)
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return false, err
		}
		from, err := do.Shop.Moment(set, "from", in.From)
		if err != nil {
			return false, err
		}
		if err := price.CheckBegin("rate", from, do.Shop.Now()); err != nil {
			return false, err
		}
		return true, prices.SetTaxRate(do.Tx, class, from, percent)
	})
}

// DropLaterRates takes back the rates of a tax class that have not begun yet.
func DropLaterRates(do deed.Deed, class uint64) (bool, error) {
	return deed.Once(do.Under(""), staff.DeedSettings, func(do deed.Deed) (bool, error) {
		dropped, err := prices.DropTaxRates(do.Tx, class, do.Shop.Now())
		if err == nil && dropped == 0 {
			err = fault.Refuse("tax_class", class, "a class with a rate to come",
				"No rate of this tax class is still to begin.")
		}
		return true, err
	})
}
