package shop

import (
	"context"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/price"
	"itemrack/core/tax"
	"itemrack/core/unit"
	"itemrack/store"
)

// PriceQuestion asks what a product would sell for, as it is typed.
type PriceQuestion struct {
	Category string `json:"category"`
	Supplier string `json:"supplier"`
	TaxClass uint64 `json:"tax_class_id"`
	Cost     string `json:"cost"`
	Price    string `json:"price"`  // typed; empty to have it worked out
	Markup   string `json:"markup"` // of the product's own
	Ending   string `json:"ending"`
}

// PriceSuggestion is what a product would sell for: the typed price, or the one
// that its rule makes, with what it leaves.
type PriceSuggestion struct {
	Price       decimal.Decimal `json:"price"`
	HasPrice    bool            `json:"has_price"`
	ByRule      bool            `json:"by_rule"`
	Rule        string          `json:"rule"`      // in words
	RuleFrom    string          `json:"rule_from"` // the category or supplier it comes from
	Margin      string          `json:"margin"`
	Markup      string          `json:"markup"`
	UnderCost   bool            `json:"under_cost"`
	Marked      bool            `json:"marked"` // the ending could not be had below
	Tax         string          `json:"tax"`    // percent
	TaxFrom     string          `json:"tax_from"`
	Category    string          `json:"category"`
	NewCategory bool            `json:"new_category"`
	settled     catalog.Settled
}

// Suggest works out what a product would sell for.
func (s *Shop) Suggest(ctx context.Context, who Actor, in PriceQuestion) (PriceSuggestion, error) {
	out := PriceSuggestion{}
	if err := who.May(DeedCatalog); err != nil {
		return out, err
	}
	q := s.Store.Read(ctx)
	row := store.Product{Name: "the product", OwnTaxClass: in.TaxClass != 0, TaxClassID: in.TaxClass}
	var err error
	if row.Markup, err = number.Optional("markup", in.Markup, price.ParsePercent); err != nil {
		return out, err
	}
	if row.Ending, err = optionalEnding(in.Ending); err != nil {
		return out, err
	}
	cost, err := number.Optional("cost", in.Cost, money.ParseCost)
	if err != nil {
		return out, err
	}
	typed, err := number.Optional("price", in.Price, money.Parse)
	if err != nil {
		return out, err
	}
	if err := s.placeQuestion(q, in, &row, &out); err != nil {
		return out, err
	}
	inherited, err := q.Inheritance()
	if err != nil {
		return out, err
	}
	settled := inherited.Settle(row)
	classes, err := q.TaxClasses()
	if err != nil {
		return out, err
	}
	if settled.TaxClass == 0 && len(classes) > 0 {
		settled.TaxClass, settled.TaxFrom = classes[0].ID, "the shop"
	}
	out.settled, out.TaxFrom = settled, settled.TaxFrom
	percent := tax.Percents(classes, s.Now())[settled.TaxClass]
	out.Tax = percent.String()
	rule := settled.Rule()
	if rule.Kind != price.NoRule {
		out.Rule, out.RuleFrom = rule.String(nil), settled.MarkupFrom
	}
	if typed != nil {
		out.Price, out.HasPrice = *typed, true
	} else if cost != nil {
		out.Price, out.Marked, out.ByRule = rule.FromCost(*cost, percent, q.Basis())
		out.HasPrice = out.ByRule
	}
	if cost != nil && out.HasPrice {
		net := q.Basis().Net(out.Price, percent)
		out.UnderCost = net.LessThan(*cost)
		if m, ok := price.MarginOf(net, *cost); ok {
			out.Margin = price.Describe(m)
		}
		if m, ok := price.MarkupOf(net, *cost); ok {
			out.Markup = price.Describe(m)
		}
	}
	return out, nil
}

// placeQuestion finds the category and supplier that a question names.
func (s *Shop) placeQuestion(q store.Q, in PriceQuestion, row *store.Product, out *PriceSuggestion) error {
	if strings.TrimSpace(in.Category) != "" {
		categories, err := q.Categories()
		if err != nil {
			return err
		}
		path, err := meantCategory(categories, in.Category)
		if err != nil {
			return err
		}
		out.Category, out.NewCategory = strings.Join(path, " > "), true
		for n := len(path); n > 0 && row.CategoryID == 0; n-- { // a new one takes over from the one above
			for _, c := range categories {
				if strings.EqualFold(c.Path, strings.Join(path[:n], " > ")) {
					row.CategoryID = c.ID
					out.NewCategory = n < len(path)
				}
			}
		}
	}
	suppliers, err := q.Suppliers()
	for _, known := range suppliers {
		if strings.EqualFold(known.Name, strings.TrimSpace(in.Supplier)) {
			row.SupplierID = &known.ID
		}
	}
	return err
}

// PriceChange sets prices of a product on a list, of all of it, of its variants
// or of a pack. From is when they begin, as a person types it in the shop's zone;
// empty is now.
type PriceChange struct {
	List     uint64           `json:"price_list_id"`
	Price    string           `json:"price"`
	Variants []VariantPricing `json:"variants"`
	Pack     uint64           `json:"pack_id"`
	Quantity string           `json:"from_quantity"` // from how many on; empty is any number
	From     string           `json:"from"`          // 2026-12-01 or 2026-12-01T09:00
}

// VariantPricing is a variant's own price; an empty one gives it its product's
// again.
type VariantPricing struct {
	Variant uint64 `json:"variant_id"`
	Price   string `json:"price"`
}

// PriceResult says which variants follow the product's price and which keep one
// of their own.
type PriceResult struct {
	Follow []string `json:"follow"`
	Own    []string `json:"own"`
	Under  []string `json:"under_cost"`
}

// Moment reads a date, or date and time, in the shop's zone; an empty text is now.
func (s *Shop) Moment(field, text string) (time.Time, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return s.Now(), nil
	}
	for _, layout := range []string{"2006-01-02T15:04", "2006-01-02 15:04", time.DateOnly} {
		if t, err := time.ParseInLocation(layout, text, s.Zone); err == nil {
			return t.UTC(), nil
		}
	}
	return time.Time{}, fault.Field(field, text, "2026-12-01 or 2026-12-01 09:00", "%q is not a date.", text)
}

// SetPrices changes prices from a moment on. Prices that do not change are not
// written again.
func (s *Shop) SetPrices(ctx context.Context, who Actor, key string, product uint64, in PriceChange) (PriceResult, error) {
	return once(ctx, s, who, DeedPrices, key, func(tx store.Tx) (PriceResult, error) {
		view, err := s.lockProduct(tx, product)
		if err != nil {
			return PriceResult{}, err
		}
		row, err := s.newPrice(tx, who, view, in)
		if err != nil {
			return PriceResult{}, err
		}
		if strings.TrimSpace(in.Price) != "" {
			amount, err := money.Parse("price", in.Price)
			if err != nil {
				return PriceResult{}, err
			}
			row.Amount = amount
			if err := tx.SetPrice(row); err != nil {
				return PriceResult{}, err
			}
		}
		for _, v := range in.Variants {
			if err := s.setVariantPrice(tx, view, row, v); err != nil {
				return PriceResult{}, err
			}
		}
		if err := tx.Reprice([]uint64{product}, s.Now()); err != nil {
			return PriceResult{}, err
		}
		return s.priceResult(tx, product, row.PriceListID)
	})
}

// newPrice is the row that a change of prices writes, without its amount.
func (s *Shop) newPrice(tx store.Tx, who Actor, view store.ProductView, in PriceChange) (store.Price, error) {
	row := store.Price{ProductID: view.ID, PriceListID: max(in.List, price.Regular), UserID: &who.ID}
	if !slices.ContainsFunc(view.Pricing.Book.Lists, func(l price.List) bool { return l.ID == row.PriceListID }) {
		return row, fault.Missing("price_list_id", in.List, "There is no price list %d.", in.List)
	}
	from, err := s.Moment("from", in.From)
	if err != nil {
		return row, err
	}
	if from.Before(s.Now().Add(-time.Minute)) {
		return row, fault.Field("from", in.From, "now or later", "A price can't begin in the past: what was sold was sold.")
	}
	row.FromAt = from
	if in.Pack != 0 {
		if !slices.ContainsFunc(view.Packs, func(p store.Pack) bool { return p.ID == in.Pack }) {
			return row, fault.Missing("pack_id", in.Pack, "%s has no pack %d.", view.Name, in.Pack)
		}
		row.PackID = &in.Pack
	}
	if strings.TrimSpace(in.Quantity) != "" {
		of := view.UnitOf
		if in.Pack != 0 {
			of = unit.Piece
		}
		if row.FromQuantity, err = of.Parse("from_quantity", in.Quantity); err != nil {
			return row, err
		}
		if row.FromQuantity.Equal(decimal.New(1, 0)) {
			row.FromQuantity = decimal.Zero
		}
	}
	return row, nil
}

func (s *Shop) setVariantPrice(tx store.Tx, view store.ProductView, row store.Price, in VariantPricing) error {
	have, ok := view.Variant(in.Variant)
	if !ok {
		return fault.Missing("variant_id", in.Variant, "%s has no variant %d.", view.Name, in.Variant)
	}
	row.VariantID = &in.Variant
	if strings.TrimSpace(in.Price) == "" {
		return tx.DropPrices(view.ID, row.VariantID, row.PackID, row.PriceListID, time.Time{})
	}
	amount, err := money.Parse("price", in.Price)
	if err != nil {
		return err
	}
	row.Amount = amount
	if now := view.Pricing.Book.Find(view.Goods(have), row.PriceListID, decimal.Max(row.FromQuantity, decimal.New(1, 0)), row.FromAt); row.PackID == nil && now.Source != price.NoPrice && now.Source != price.ByRule && now.From.Equal(row.FromQuantity) && now.Amount.Equal(amount) {
		return nil
	}
	return tx.SetPrice(row)
}

func (s *Shop) priceResult(tx store.Tx, product, list uint64) (PriceResult, error) {
	view, err := tx.Product(product, 0, s.Now())
	if err != nil {
		return PriceResult{}, err
	}
	result := PriceResult{Follow: []string{}, Own: []string{}, Under: []string{}}
	for _, v := range view.Variants {
		a := view.Pricing.Book.Find(view.Goods(v), list, decimal.New(1, 0), s.Now())
		says := strings.TrimSpace(v.Label + " " + a.Amount.StringFixed(2))
		if a.Source == price.OwnPrice {
			result.Own = append(result.Own, says)
		} else {
			result.Follow = append(result.Follow, v.Label)
		}
		if a.UnderCost {
			result.Under = append(result.Under, says)
		}
	}
	return result, nil
}

// DropPrice is a price that was to begin later and is taken back.
type DropPrice struct {
	List    uint64 `json:"price_list_id"`
	Variant uint64 `json:"variant_id"`
	Pack    uint64 `json:"pack_id"`
}

// DropLaterPrices takes back the prices of something on a list that have not
// begun yet.
func (s *Shop) DropLaterPrices(ctx context.Context, who Actor, key string, product uint64, in DropPrice) (PriceResult, error) {
	return once(ctx, s, who, DeedPrices, key, func(tx store.Tx) (PriceResult, error) {
		if err := tx.LockProduct(product); err != nil {
			return PriceResult{}, err
		}
		list := max(in.List, price.Regular)
		if err := tx.DropPrices(product, reference(in.Variant), reference(in.Pack), list, s.Now()); err != nil {
			return PriceResult{}, err
		}
		return s.priceResult(tx, product, list)
	})
}

// reference is a number that may be left out as 0.
func reference(id uint64) *uint64 {
	if id == 0 {
		return nil
	}
	return &id
}

// pricedAt is the setting that says up to when prices that have begun are in the
// lists.
const pricedAt = "priced_at"

// PricesDue brings the prices that lists and searches see up to date with those
// that have begun since they were looked at last.
func (s *Shop) PricesDue(ctx context.Context) error {
	kept, err := s.Store.Read(ctx).Setting(pricedAt)
	if err != nil {
		return err
	}
	now := s.Now()
	last, err := time.Parse(time.RFC3339Nano, kept)
	if err != nil {
		last = time.Time{}.AddDate(1999, 0, 0)
	}
	due, err := s.Store.Read(ctx).Due(last, now)
	if err != nil || len(due) == 0 && now.Sub(last) < time.Hour {
		return err
	}
	return s.Store.Do(ctx, func(tx store.Tx) error {
		if err := tx.Reprice(due, now); err != nil {
			return err
		}
		return tx.Set(pricedAt, now.Format(time.RFC3339Nano))
	})
}

// ListInput is a price list as it is typed.
type ListInput struct {
	Name    string `json:"name"`
	Kind    string `json:"kind"` // markup, margin, other list or fixed; empty for none
	Percent string `json:"percent"`
	Amount  string `json:"amount"`
	Base    uint64 `json:"list_id"`
	Ending  string `json:"ending"`
}

// SavePriceList makes a price list, or changes the one with a number.
func (s *Shop) SavePriceList(ctx context.Context, who Actor, key string, id uint64, in ListInput) (price.List, error) {
	return once(ctx, s, who, DeedPrices, key, func(tx store.Tx) (price.List, error) {
		l := price.List{ID: id, Name: strings.Join(strings.Fields(in.Name), " "), Rule: price.Rule{Kind: price.RuleKind(in.Kind), List: in.Base}}
		if l.Name == "" || len(l.Name) > 40 {
			return l, fault.Field("name", in.Name, "1 to 40 characters", "A price list needs a name of 1 to 40 characters.")
		}
		var err error
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
		if !l.Rule.Amount.Equal(money.Round(l.Rule.Amount)) {
			return l, fault.Field("amount", in.Amount, "an amount such as 2.50", "%q is finer than 2 decimals.", in.Amount)
		}
		if l.Rule.Ending, err = price.ParseEnding(in.Ending); err != nil {
			return l, err
		}
		if err := l.Rule.Check(); err != nil {
			return l, err
		}
		lists, err := tx.PriceLists()
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
			lists[at] = l
		}
		if err := price.CheckLists(lists); err != nil {
			return l, err
		}
		return l, tx.SavePriceList(&l)
	})
}

// DropPriceList drops a price list with the prices on it; Regular stays.
func (s *Shop) DropPriceList(ctx context.Context, who Actor, id uint64) (bool, error) {
	return once(ctx, s, who, DeedPrices, "", func(tx store.Tx) (bool, error) {
		if id == price.Regular {
			return false, fault.Refuse("price_list", "Regular", "another list", "Regular is what everybody pays; it stays.")
		}
		return true, tx.DropPriceList(id)
	})
}

// RateInput gives a tax class a rate from a moment on.
type RateInput struct {
	Percent string `json:"percent"`
	From    string `json:"from"`
}

// SetTaxRate gives a tax class a rate from a later moment on: what was sold keeps
// the rate it was sold at.
func (s *Shop) SetTaxRate(ctx context.Context, who Actor, key string, class uint64, in RateInput) (bool, error) {
	return once(ctx, s, who, DeedSettings, key, func(tx store.Tx) (bool, error) {
		classes, err := tx.TaxClasses()
		if err != nil {
			return false, err
		}
		if err := knownClass("tax_class", classes, class); err != nil {
			return false, err
		}
		percent, err := price.ParsePercent("percent", in.Percent)
		if err != nil {
			return false, err
		}
		if percent.GreaterThan(decimal.New(100, 0)) {
			return false, fault.Field("percent", in.Percent, "0 to 100", "%s %% is no tax rate.", percent)
		}
		from, err := s.Moment("from", in.From)
		if err != nil {
			return false, err
		}
		if from.Before(s.Now().Add(-time.Minute)) {
			return false, fault.Field("from", in.From, "now or later", "A rate can't begin in the past: what was sold was sold.")
		}
		return true, tx.SetTaxRate(class, from, percent)
	})
}

// DropLaterRates takes back the rates of a tax class that have not begun yet.
func (s *Shop) DropLaterRates(ctx context.Context, who Actor, class uint64) (bool, error) {
	return once(ctx, s, who, DeedSettings, "", func(tx store.Tx) (bool, error) {
		dropped, err := tx.DropTaxRates(class, s.Now())
		if err == nil && dropped == 0 {
			err = fault.Refuse("tax_class", class, "a class with a rate to come", "No rate of this tax class is still to begin.")
		}
		return true, err
	})
}

// WhyPrice is what a customer pays for a variant on each list, and why.
type WhyPrice struct {
	List    string       `json:"price_list"`
	Answer  price.Answer `json:"answer"`
	Margin  string       `json:"margin"`
	Markup  string       `json:"markup"`
	Pack    string       `json:"pack,omitempty"`
	Later   []LaterPrice `json:"later,omitempty"`
	OwnRows int          `json:"own_rows"`
}

// LaterPrice is a price that has not begun yet.
type LaterPrice struct {
	From   time.Time       `json:"from"`
	Amount decimal.Decimal `json:"amount"`
}

// ExplainPrice works out what a customer pays for a quantity of a variant at a
// moment, on each list.
func (s *Shop) ExplainPrice(ctx context.Context, who Actor, variant uint64, quantity string, at string) ([]WhyPrice, error) {
	if err := who.May(DeedLook); err != nil {
		return nil, err
	}
	moment, err := s.Moment("at", at)
	if err != nil {
		return nil, err
	}
	found, err := s.Store.Read(ctx).Sellables([]uint64{variant}, moment)
	if err != nil {
		return nil, err
	}
	v, ok := found[variant]
	if !ok {
		return nil, fault.Missing("variant", variant, "There is no variant %d.", variant)
	}
	q := decimal.New(1, 0)
	if strings.TrimSpace(quantity) != "" {
		if q, err = v.Unit.Parse("quantity", quantity); err != nil {
			return nil, err
		}
	}
	var list []WhyPrice
	for _, l := range v.Book.Lists {
		a := v.PriceOf(l.ID, nil, q, moment)
		why := WhyPrice{List: l.Name, Answer: a}
		net := v.Book.Basis.Net(a.Amount, v.Goods.Percent)
		if m, ok := price.MarginOf(net, v.Goods.Cost); ok && v.Goods.Cost.IsPositive() {
			why.Margin = price.Describe(m)
		}
		if m, ok := price.MarkupOf(net, v.Goods.Cost); ok {
			why.Markup = price.Describe(m)
		}
		for _, rows := range []price.Rows{v.Goods.Own, v.Goods.Product} {
			for _, r := range rows[l.ID] {
				if r.Since.After(moment) {
					why.Later = append(why.Later, LaterPrice{r.Since, r.Amount})
				}
			}
		}
		list = append(list, why)
	}
	return list, nil
}
