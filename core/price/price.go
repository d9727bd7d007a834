// Package price finds what a customer pays for something at a moment, and says
// why. Its main rule: on a price list a variant's own price goes before its
// product's and that before the list's rule; of several with a from moment the
// latest that has begun counts, and of several quantity breaks the highest that
// is reached.
package price

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/tax"
)

// Dated is a price in force from a moment on, for quantities of From or more; 0
// stands for any quantity.
type Dated struct {
	Since  time.Time       `json:"since"`
	From   decimal.Decimal `json:"from"`
	Amount decimal.Decimal `json:"amount"`
}

// Source says where a price comes from.
type Source string

// Where a price can come from.
const (
	OwnPrice     Source = "own price"
	ProductPrice Source = "product's price"
	ByRule       Source = "price by rule"
	NoPrice      Source = "no price"
)

// RuleKind is how a rule makes a price.
type RuleKind string

// The kinds of rule.
const (
	NoRule    RuleKind = ""
	Markup    RuleKind = "markup"     // cost + percent
	Margin    RuleKind = "margin"     // cost ÷ (1 − percent)
	OtherList RuleKind = "other list" // another list's price ± percent or amount
	Fixed     RuleKind = "fixed"
)

// Rule makes a price. Percent and Amount may be below zero for OtherList: −10 is
// ten percent off. List is the other list.
type Rule struct {
	Kind    RuleKind        `json:"kind"`
	Percent decimal.Decimal `json:"percent"`
	Amount  decimal.Decimal `json:"amount"`
	List    uint64          `json:"list_id,omitempty"`
	Ending  Ending          `json:"ending"`
}

var hundred = decimal.New(100, 0)

// mostPercent bounds a percentage that a person types.
var mostPercent = decimal.New(100_000, 0)

// Check returns an error when a rule can't make a price.
func (r Rule) Check(minor money.Minor) error {
	if err := r.Ending.Check(minor); err != nil {
		return err
	}
	if r.Percent.Abs().GreaterThanOrEqual(mostPercent) || !r.Percent.Equal(r.Percent.Round(4)) {
		return fault.Field("percent", r.Percent, "less than 100,000, with 4 decimals at most",
			"%s is no percentage for a rule.", r.Percent)
	}
	switch r.Kind {
	case NoRule:
	case Markup:
		if r.Percent.IsNegative() {
			return fault.Field("percent", r.Percent, "zero or more", "A markup can't be below zero.")
		}
	case Margin:
		if r.Percent.IsNegative() || !r.Percent.LessThan(hundred) {
			return fault.Field("percent", r.Percent, "0 to 99.99", "A margin is from 0 to less than 100 %%.")
		}
	case OtherList:
		if r.List == 0 {
			return fault.Field("list_id", r.List, "another price list", "Say which price list the rule starts from.")
		}
		if r.Percent.LessThan(hundred.Neg()) {
			return fault.Field("percent", r.Percent, "−100 or more", "No price is left after %s %%.", r.Percent)
		}
	case Fixed:
		return minor.Check("amount", r.Amount)
	default:
		return fault.Field("kind", r.Kind, "markup, margin, other list or fixed", "There is no rule %q.", r.Kind)
	}
	return nil
}

// FromCost makes a price from a unit cost by markup or margin, with its ending,
// in the shop's basis; marked is true where the ending could not be had below.
// It reports false for a rule that does not start from cost, or without cost.
func (r Rule) FromCost(cost, percent decimal.Decimal, basis tax.Basis,
	minor money.Minor) (amount decimal.Decimal, marked, ok bool) {
	if !cost.IsPositive() {
		return decimal.Zero, false, false
	}
	var net decimal.Decimal
	switch r.Kind {
	case Markup:
		net = cost.Mul(hundred.Add(r.Percent)).Div(hundred)
	case Margin:
		net = cost.Mul(hundred).DivRound(hundred.Sub(r.Percent), 10)
	default:
		return decimal.Zero, false, false
	}
	amount, marked = r.Ending.Apply(basis.Price(net, percent), minor)
	return amount, marked, true
}

// String writes a rule for people, names being those of the lists.
func (r Rule) String(names map[uint64]string) string {
	text := ""
	switch r.Kind {
	case Markup:
		text = "cost + " + r.Percent.String() + " %"
	case Margin:
		text = "cost with a margin of " + r.Percent.String() + " %"
	case OtherList:
		text = names[r.List] + change(r.Percent, " %") + change(r.Amount, "")
	case Fixed:
		text = "fixed " + r.Amount.String()
	default:
		return "no rule"
	}
	if !r.Ending.None() {
		text += ", " + r.Ending.String()
	}
	return text
}

func change(d decimal.Decimal, unit string) string {
	switch {
	case d.IsPositive():
		return " + " + d.String() + unit
	case d.IsNegative():
		return " − " + d.Abs().String() + unit
	}
	return ""
}

// List is a price list with its default rule. The first list, "Regular", has
// none of its own: there the product's rule counts.
type List struct {
	ID   uint64 `json:"id"`
	Name string `json:"name"`
	Rule Rule   `json:"rule"`
}

// Regular is the number of the price list that everybody pays.
const Regular uint64 = 1

// CheckLists returns an error when a rule starts from a list that is not there or
// that leads back to itself.
func CheckLists(lists []List) error {
	byID := map[uint64]List{}
	for _, l := range lists {
		byID[l.ID] = l
	}
	for _, l := range lists {
		seen := map[uint64]bool{}
		for at := l; at.Rule.Kind == OtherList; at = byID[at.Rule.List] {
			if seen[at.ID] {
				return fault.Refuse("list_id", l.Name, "a list that does not start from this one",
					"%s would start from itself.", l.Name)
			}
			seen[at.ID] = true
			if _, ok := byID[at.Rule.List]; !ok {
				return fault.Field("list_id", at.Rule.List, "a price list of the shop", "There is no price list %d.",
					at.Rule.List)
			}
		}
	}
	return nil
}

// Rows are the dated prices of one thing on each list, by the list's number.
type Rows map[uint64][]Dated

// Goods is what is known of the prices of a variant, or of a pack of it: its own
// rows and its product's. Rule is the product's; Cost is what rules make a price from
// (NextCost), Held what a price is held against (CostOf); Percent the tax. A pack has a
// Factor and, where neither a list nor the one its rule starts from has a price of the
// pack, costs what its units cost: those are Unit.
type Goods struct {
	Own      Rows            `json:"own"`
	Product  Rows            `json:"product"`
	Rule     Rule            `json:"rule"`
	RuleFrom string          `json:"rule_from"` // where the product has its rule from
	Cost     decimal.Decimal `json:"cost" see:"costs"`
	Held     Cost            `json:"held" see:"costs"`
	Percent  decimal.Decimal `json:"percent"`
	Factor   decimal.Decimal `json:"factor"`
	Unit     *Goods          `json:"unit"`
}

// Step is one line of an explanation.
type Step struct {
	Says   string          `json:"says"`
	Amount decimal.Decimal `json:"amount"`
}

// The steps that tell what something costs.
const (
	stepCost  = "Unit cost"
	stepUnder = "Under cost"
)

// WithoutCosts is an answer for those who may not see what things cost: the price, and
// where it comes from.
func (a Answer) WithoutCosts() Answer {
	a.Standing = Standing{}
	a.Why = slices.DeleteFunc(slices.Clone(a.Why),
		func(s Step) bool { return s.Says == stepCost || strings.HasPrefix(s.Says, stepUnder) })
	return a
}

// Text writes the amount of a step: with the decimals of the currency, or all that a unit
// cost has.
func (s Step) Text(minor money.Minor) string {
	if s.Amount.Equal(minor.Round(s.Amount)) {
		return minor.Text(s.Amount)
	}
	return s.Amount.String()
}

// Answer is what a customer pays for one, why, and what is left of that. From is the
// quantity break that was reached; Marked says that an ending could not be had below.
type Answer struct {
	Standing
	Amount decimal.Decimal `json:"amount"`
	Source Source          `json:"source"`
	From   decimal.Decimal `json:"from"`
	Marked bool            `json:"marked"`
	Why    []Step          `json:"why"`
}

// Book is what prices of a shop are found in.
type Book struct {
	Lists []List         `json:"lists"`
	Basis tax.Basis      `json:"basis"`
	Minor money.Minor    `json:"-"`
	Zone  *time.Location `json:"zone"`
}

// Net is a price of the book without its tax.
func (b Book) Net(price, percent decimal.Decimal) decimal.Decimal {
	return b.Basis.Net(price, percent, b.Minor)
}

// Gross is what a customer pays at a price of the book.
func (b Book) Gross(price, percent decimal.Decimal) decimal.Decimal {
	return b.Basis.Gross(price, percent, b.Minor)
}

// list finds a list; an unknown one is Regular.
func (b Book) list(id uint64) List {
	for _, l := range b.Lists {
		if l.ID == id {
			return l
		}
	}
	return List{ID: Regular, Name: "Regular"}
}

// Find works out what one of some goods costs on a list, for a quantity at a
// moment. Its explanation names each step. Without any price the Source is
// NoPrice.
func (b Book) Find(g Goods, list uint64, quantity decimal.Decimal, moment time.Time) Answer {
	a := b.find(g, b.list(list), quantity, moment, len(b.Lists)+1)
	if a.Source == NoPrice {
		return a
	}
	of := g.Held
	if of.From == "" {
		of = Cost{g.Cost, FromPurchase}
	}
	if g.Factor.IsPositive() {
		of.Amount = of.Amount.Mul(g.Factor)
	}
	if a.Standing = b.Stand(a.Amount, g.Percent, of); a.Under {
		a.Why = append(
			a.Why,
			Step{
				stepUnder + ": it costs " + of.Amount.Round(4).
					String() +
					" (" + string(
					of.From,
				) + "), and without tax this leaves",
				a.Net,
			},
		)
	}
	return a
}

func (b Book) find(g Goods, list List, quantity decimal.Decimal, moment time.Time, depth int) Answer {
	for _, level := range []struct {
		rows   Rows
		source Source
	}{{g.Own, OwnPrice}, {g.Product, ProductPrice}} {
		if best := latest(level.rows[list.ID], quantity, moment); best != nil {
			says := list.Name + ": " + string(level.source) + ", since " + b.day(best.Since)
			if best.From.IsPositive() {
				says += ", from " + best.From.String()
			}
			return Answer{Amount: best.Amount, Source: level.source, From: best.From, Why: []Step{{says, best.Amount}}}
		}
	}
	if g.Unit != nil && !b.priced(g, list, quantity, moment, depth) {
		each := b.find(*g.Unit, list, quantity.Mul(g.Factor), moment, depth)
		if each.Source == NoPrice {
			return each
		}
		each.Amount = b.Minor.Round(each.Amount.Mul(g.Factor))
		each.Why = append(each.Why, Step{"The pack has no price of its own: × " + g.Factor.String(), each.Amount})
		return each
	}
	rule, from := list.Rule, list.Name+"'s rule"
	if list.ID == Regular && rule.Kind == NoRule {
		rule, from = g.Rule, "rule from "+g.RuleFrom
	}
	return b.byRule(g, rule, from, quantity, moment, depth)
}

// priced reports whether goods have a price of their own on a list, or on the one
// that its rule leads to: the rule is then of that price.
func (b Book) priced(g Goods, list List, quantity decimal.Decimal, moment time.Time, depth int) bool {
	if latest(g.Own[list.ID], quantity, moment) != nil || latest(g.Product[list.ID], quantity, moment) != nil {
		return true
	}
	return list.Rule.Kind == OtherList && depth > 0 && b.priced(g, b.list(list.Rule.List), quantity, moment, depth-1)
}

// Ruled is what the rule for goods on the Regular list makes of what one costs, whatever
// price they have; it reports false where no rule starts from cost.
func (b Book) Ruled(g Goods, cost decimal.Decimal) (Answer, bool) {
	rule, from := b.list(Regular).Rule, "Regular's rule"
	if rule.Kind == NoRule {
		rule, from = g.Rule, "rule from "+g.RuleFrom
	}
	if rule.Kind != Markup && rule.Kind != Margin {
		return Answer{}, false
	}
	g.Cost = cost
	a := b.byRule(g, rule, from, decimal.New(1, 0), time.Time{}, 0)
	if a.Source == NoPrice {
		return a, false
	}
	a.Standing = b.Stand(a.Amount, g.Percent, Cost{Amount: cost})
	return a, true
}

// byRule makes a price where none was given.
func (b Book) byRule(g Goods, rule Rule, from string, quantity decimal.Decimal, moment time.Time, depth int) Answer {
	none := Answer{Source: NoPrice, Why: []Step{}}
	says := strings.ToUpper(from[:1]) + from[1:] + ": " + rule.String(b.names())
	switch rule.Kind {
	case Fixed:
		return Answer{Amount: rule.Amount, Source: ByRule, Why: []Step{{says, rule.Amount}}}
	case Markup, Margin:
		amount, marked, ok := rule.FromCost(g.Cost, g.Percent, b.Basis, b.Minor)
		if !ok {
			return none
		}
		if !amount.IsPositive() {
			none.Why = []Step{{stepCost, g.Cost}, {says + " comes to nothing, and makes no price", amount}}
			return none
		}
		return Answer{
			Amount: amount,
			Source: ByRule,
			Marked: marked,
			Why:    []Step{{stepCost, g.Cost}, {says + ", " + b.Basis.String(), amount}},
		}
	case OtherList:
		if depth == 0 {
			return none
		}
		base := b.find(g, b.list(rule.List), quantity, moment, depth-1)
		if base.Source == NoPrice {
			return base
		}
		amount := base.Amount.Mul(hundred.Add(rule.Percent)).Div(hundred).Add(rule.Amount)
		amount, marked := rule.Ending.Apply(amount, b.Minor)
		if !amount.IsPositive() && !base.Amount.IsZero() { // nothing is given away by a rule
			none.Why = append(base.Why, Step{says + " goes below nothing, and makes no price", amount})
			return none
		}
		if amount.IsNegative() {
			amount = decimal.Zero
		}
		return Answer{
			Amount: amount,
			Source: ByRule,
			From:   base.From,
			Marked: marked,
			Why:    append(base.Why, Step{says, amount}),
		}
	}
	return none
}

func (b Book) names() map[uint64]string {
	names := map[uint64]string{}
	for _, l := range b.Lists {
		names[l.ID] = l.Name
	}
	return names
}

func (b Book) day(t time.Time) string {
	if b.Zone != nil {
		t = t.In(b.Zone)
	}
	return t.Format("2 Jan 2006 15:04")
}

// latest finds, of the rows that have begun and whose quantity is reached, the
// one of the highest quantity, and of those the latest.
func latest(rows []Dated, quantity decimal.Decimal, moment time.Time) *Dated {
	var best *Dated
	for i, r := range rows {
		if r.Since.After(moment) || r.From.GreaterThan(quantity) && r.From.IsPositive() {
			continue
		}
		if best == nil || r.From.GreaterThan(best.From) || r.From.Equal(best.From) && !r.Since.Before(best.Since) {
			best = &rows[i]
		}
	}
	return best
}

// MarginOf is (net price − cost) ÷ net price in percent, to one decimal, and
// whether there is one: without a price there is none.
func MarginOf(net, cost decimal.Decimal) (decimal.Decimal, bool) {
	return share(net.Sub(cost), net)
}

// MarkupOf is (net price − cost) ÷ cost in percent, to one decimal, and whether
// there is one: without a cost there is none.
func MarkupOf(net, cost decimal.Decimal) (decimal.Decimal, bool) {
	return share(net.Sub(cost), cost)
}

func share(part, of decimal.Decimal) (decimal.Decimal, bool) {
	if !of.IsPositive() {
		return decimal.Zero, false
	}
	return part.Mul(hundred).DivRound(of, 1), true
}

// PerUnit is the price of a base amount of what a thing holds, for the shelf: 200
// ml at 14.50 are 7.25 for 100 ml. Of less than 250 g or ml it is of 100, else of
// the kilogram, litre, metre or piece. It reports false for an unknown measure.
func PerUnit(amount, content decimal.Decimal, measure string, minor money.Minor) (decimal.Decimal, string, bool) {
	if !content.IsPositive() {
		return decimal.Zero, "", false
	}
	small := map[string]string{"g": "kg", "ml": "l"}
	if large := small[measure]; large != "" {
		if content.LessThan(decimal.New(250, 0)) {
			return amount.Mul(hundred).DivRound(content, minor.Places()), "100 " + measure, true
		}
		return amount.Mul(decimal.New(1000, 0)).DivRound(content, minor.Places()), large, true
	}
	for _, known := range []string{"kg", "l", "m", "pc"} {
		if measure == known {
			return amount.DivRound(content, minor.Places()), known, true
		}
	}
	return decimal.Zero, "", false
}

// Describe writes a margin or markup for people: "52.1 %", "−3.0 %".
func Describe(percent decimal.Decimal) string {
	return strings.Replace(fmt.Sprintf("%s %%", percent.StringFixed(1)), "-", "−", 1)
}
