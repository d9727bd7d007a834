package catalog

import (
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/price"
	"itemrack/core/staff"
	"itemrack/core/tax"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/goods"
	"itemrack/store/prices"
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
	Paid     bool   `json:"paid"` // the cost is what one did cost, not what the supplier lists
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
	// Landed is what one is expected to cost with the supplier's discount and usual freight,
	// where that is not the cost as typed.
	Landed  *decimal.Decimal `json:"landed" see:"costs"`
	settled catalog.Settled
	stands  price.Standing
}

// Suggest works out what a product would sell for.
func Suggest(do deed.Deed, in PriceQuestion) (PriceSuggestion, error) {
	out := PriceSuggestion{}
	if !do.Who.Can(staff.DeedNewGoods) {
		return out, do.Who.May(staff.DeedCatalog)
	}
	return SuggestIn(do.Shop, do.Shop.Store.Read(do.Ctx), in)
}

// SuggestIn is Suggest within a deed.
func SuggestIn(s *deed.Shop, q store.Q, in PriceQuestion) (PriceSuggestion, error) {
	out := PriceSuggestion{}
	row := goods.Product{Name: "the product", OwnTaxClass: in.TaxClass != 0, TaxClassID: in.TaxClass}
	set, err := q.Terms()
	if err != nil {
		return out, err
	}
	if row.Markup, err = number.Optional("markup", in.Markup, price.ParsePercent); err != nil {
		return out, err
	}
	if row.Ending, err = price.OptionalEnding(in.Ending, set.Minor()); err != nil {
		return out, err
	}
	cost, err := number.Optional("cost", in.Cost, money.ParseCost)
	if err != nil {
		return out, err
	}
	typed, err := number.Optional("price", in.Price, set.Minor().Parse)
	if err != nil {
		return out, err
	}
	if err := placeQuestion(s, q, in, &row, &out); err != nil {
		return out, err
	}
	if cost != nil && row.SupplierID != nil && !in.Paid {
		from, _, err := goods.ReadSupplier(q, *row.SupplierID)
		if err != nil {
			return out, err
		}
		if !from.Plain() {
			landed := from.ExpectedLanded(*cost, set.Minor())
			cost, out.Landed = &landed, &landed
		}
	}
	inherited, err := goods.ReadInheritance(q)
	if err != nil {
		return out, err
	}
	settled := inherited.Settle(row)
	classes, err := prices.TaxClasses(q)
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
		out.Price, out.Marked, out.ByRule = rule.FromCost(*cost, percent, set.Basis, set.Minor())
		out.HasPrice = out.ByRule
	}
	if cost != nil && out.HasPrice {
		asks := price.Book{Basis: set.Basis, Minor: set.Minor()}
		out.stands = asks.Stand(out.Price, percent, price.Cost{Amount: *cost, From: price.FromExpected})
		out.UnderCost, out.Margin, out.Markup = out.stands.Under, out.stands.MarginText(), out.stands.MarkupText()
	}
	return out, nil
}

// placeQuestion finds the category and supplier that a question names.
func placeQuestion(s *deed.Shop, q store.Q, in PriceQuestion, row *goods.Product, out *PriceSuggestion) error {
	if strings.TrimSpace(in.Category) != "" {
		categories, err := goods.Categories(q)
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
				if text.Same(c.Path, strings.Join(path[:n], " > ")) {
					row.CategoryID = c.ID
					out.NewCategory = n < len(path)
				}
			}
		}
	}
	suppliers, err := goods.Suppliers(q)
	for _, known := range suppliers {
		if text.Same(known.Name, strings.TrimSpace(in.Supplier)) {
			row.SupplierID = &known.ID
		}
	}
	return err
}
