package sale

import (
	"cmp"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/price"
	"itemrack/core/stock"
	"itemrack/core/text"
)

// OwnPrice is what a variant costs in a condition that it is sold in apart from new: Amount, as the Regular
// list keeps prices, else Percent less than its list asks for one; nil for neither.
type OwnPrice struct {
	Amount  *decimal.Decimal `json:"amount"`
	Percent *decimal.Decimal `json:"percent"`
}

// Check refuses a price in a condition that can't be.
func (p OwnPrice) Check(minor money.Minor) error {
	switch {
	case p.Amount != nil && p.Amount.IsNegative():
		return fault.Field("amount", p.Amount.String(), "0 or more", "A price can't be below nothing.")
	case p.Amount != nil:
		return minor.Check("amount", *p.Amount)
	case p.Percent != nil && (p.Percent.IsNegative() || p.Percent.GreaterThan(decimal.New(100, 0)) ||
		p.Percent.Exponent() < -4):
		return fault.Field("percent", p.Percent.String(), "0 to 100", "It costs 0 to 100 %% less than new.")
	}
	return nil
}

// From is the condition that a line is sold from.
func (l BasketLine) From() stock.Condition { return cmp.Or(l.Condition, stock.ForSale) }

// Apart is the condition of a line where it is not for sale as new, else empty.
func (l BasketLine) Apart() string {
	if l.From() == stock.ForSale {
		return ""
	}
	return string(l.From())
}

// Named is the full name of what a line sells, with its condition where that is not as new.
func (s Sellable) Named(l BasketLine) string { return catalog.FullName(s.Name, s.Detail(l)) }

// Detail is the variant that a line sells, with its condition where that is not as new.
func (s Sellable) Detail(l BasketLine) string {
	if s.Label == "" || l.Apart() == "" {
		return text.Or(s.Label, l.Apart())
	}
	return s.Label + ", " + l.Apart()
}

// SoldIn refuses to sell something in a condition that the shop does not sell from. Packs, bundles and what
// has no stock are sold as new.
func (s Sellable) SoldIn(c stock.Condition, pack uint64) error {
	if c == stock.ForSale {
		return nil
	}
	if _, sold := s.In[c]; !sold {
		return fault.Refuse("condition", c, "a condition that is sold", "%s is not sold as %s.", s.FullName(), c)
	}
	if s.Bundle || pack != 0 || s.Tracking == stock.NotStocked {
		return fault.Refuse("condition", c, string(stock.ForSale), "Packs, bundles and services are not sold as %s.", c)
	}
	return nil
}

// PriceIn works out the price of one in a condition, where its list asks for one so much; without a price on
// the list only an amount of its own is one. It is rounded to the currency's smallest amount.
func (s Sellable) PriceIn(c stock.Condition, asked price.Answer) (decimal.Decimal, bool) {
	own := s.In[c]
	switch {
	case c == stock.ForSale:
		return asked.Amount, asked.Source != price.NoPrice
	case own.Amount != nil:
		return *own.Amount, true
	case own.Percent == nil || asked.Source == price.NoPrice:
		return decimal.Zero, false
	}
	return s.Book.Minor.Less(asked.Amount, *own.Percent), true
}

// PassedOver says which lots would have been taken before the one that was chosen for a line, at a branch on a
// day; empty where none would.
func PassedOver(held stock.Holding, l BasketLine, branch uint64, day time.Time) string {
	if l.Lot == 0 {
		return ""
	}
	var before []string
	for _, choice := range LotsAt(held, l.Variant, branch, l.From(), day) {
		if choice.ID == l.Lot || held.Lots[choice.ID].Expiry.Equal(held.Lots[l.Lot].Expiry) {
			break
		}
		before = append(before, choice.Label)
	}
	return text.Cut(strings.Join(before, "; "), 250)
}

// SoldApart lists the conditions that something is sold in apart from new, with its price in each: its own, else
// so many % less than new as the shop says.
func SoldApart(conditions []stock.ConditionFacts, own map[stock.Condition]OwnPrice) map[stock.Condition]OwnPrice {
	in := map[stock.Condition]OwnPrice{}
	for _, f := range conditions {
		if !f.Apart() {
			continue
		}
		p := own[f.Name]
		if p.Amount == nil && p.Percent == nil {
			p.Percent = f.Percent
		}
		in[f.Name] = p
	}
	return in
}

// SoldHere lists the conditions that a line can be sold from at a branch, as new first: those of which there is
// something, and the one that it is sold from. Where that is one, there is nothing to choose.
func (s Sellable) SoldHere(held stock.Holding, l BasketLine, branch uint64) []stock.Condition {
	if s.SoldIn(l.From(), l.Pack) != nil || len(s.In) == 0 || s.Bundle || l.Pack != 0 {
		return nil
	}
	list := []stock.Condition{stock.ForSale}
	for c := range s.In {
		if c == l.From() || held.OnHand(s.ID, branch, c).IsPositive() {
			list = append(list, c)
		}
	}
	if len(list) < 2 {
		return nil
	}
	slices.Sort(list[1:])
	return list
}

// Apart lists the conditions that something is sold in apart from new, by name.
func (s Sellable) Apart() []stock.Condition { return slices.Sorted(maps.Keys(s.In)) }
