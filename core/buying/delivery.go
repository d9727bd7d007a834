// Package buying computes what goods cost when they come in. Its main rule: a
// landed cost is what was paid after discounts with its share of extra costs;
// tax that can be reclaimed is never part of it.
package buying

import (
	"slices"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/money"
	"itemrack/core/tax"
)

// Spread is how extra costs are shared over the lines.
type Spread string

// The ways to spread extra costs.
const (
	ByValue    Spread = "value"
	ByQuantity Spread = "quantity"
	ByWeight   Spread = "weight"
)

// Spreads lists the ways in the order they are offered.
var Spreads = []Spread{ByValue, ByQuantity, ByWeight}

// Check refuses what is no way to spread; none is by value.
func (s Spread) Check() error {
	if s != "" && !slices.Contains(Spreads, s) {
		return fault.Field("spread", s, "value, quantity or weight", "Extra costs can't be spread by %q.", s)
	}
	return nil
}

// Share is what goods count when extra costs are spread: their net value, their units, or
// what they weigh in kilograms, nothing while nobody knows what one weighs.
func (s Spread) Share(units, net decimal.Decimal, kilos *decimal.Decimal) decimal.Decimal {
	switch {
	case s == ByQuantity:
		return units
	case s != ByWeight:
		return net
	case kilos == nil:
		return decimal.Zero
	}
	return units.Mul(*kilos)
}

// NotWeighed refuses goods that take part in what is spread by weight while it is not known
// what one weighs.
func NotWeighed(name string) error {
	return fault.Refuse("spread", ByWeight, "value or quantity, or a weight in kg on its product",
		"What one %s weighs is not known.", name)
}

// Line is one variant of a delivery: units and what each costs, or all of them, as the
// bill says it. Percent is the tax on it.
type Line struct {
	Quantity decimal.Decimal
	Cost     decimal.Decimal  // of a unit, up to 6 decimals
	Total    *decimal.Decimal // of the line, where that was typed; it counts
	Percent  decimal.Decimal
	Kilos    *decimal.Decimal // what one weighs, nil while it is not known
}

// Bill is how a supplier's bill is to be read.
type Bill struct {
	CostsIncludeTax bool
	Extra           decimal.Decimal // freight and duty, with tax where the costs include it
	ExtraPercent    decimal.Decimal // tax on Extra
	Spread          Spread
	Minor           money.Minor
}

// Landed is what a line comes to. Value is Net with its share of extra costs;
// UnitCost is Value ÷ quantity to 6 decimals.
type Landed struct {
	Net      decimal.Decimal `json:"net" see:"costs"`
	Tax      decimal.Decimal `json:"tax" see:"costs"`
	Extra    decimal.Decimal `json:"extra" see:"costs"`
	Value    decimal.Decimal `json:"value" see:"costs"`
	UnitCost decimal.Decimal `json:"unit_cost" see:"costs"`
	ahead    decimal.Decimal // of the value, what was billed before the goods came
}

// Open is what of the line stands under received, not billed until a bill takes it up.
func (l Landed) Open() decimal.Decimal { return l.Value.Sub(l.ahead) }

// Totals is what a delivery comes to. Net includes the extra costs.
type Totals struct {
	Net   decimal.Decimal `json:"net" see:"costs"`
	Tax   decimal.Decimal `json:"tax" see:"costs"`
	Gross decimal.Decimal `json:"gross" see:"costs"`
	Units decimal.Decimal `json:"units"`
	Lines []Landed        `json:"lines" see:"costs"`
	// NotWeighed are the lines that take no part in what is spread by weight, because it is
	// not known what one weighs: it can't be posted like that.
	NotWeighed []int `json:"-"`
}

// Compute works out net, tax and landed cost of each line, and the totals.
func Compute(bill Bill, lines []Line) (Totals, error) {
	if err := bill.Spread.Check(); err != nil {
		return Totals{}, err
	}
	t := Totals{Lines: make([]Landed, len(lines))}
	weights := make([]decimal.Decimal, len(lines))
	for i, l := range lines {
		typed := bill.Minor.Round(l.Quantity.Mul(l.Cost))
		if l.Total != nil {
			typed = *l.Total
		}
		if bill.CostsIncludeTax {
			t.Lines[i].Tax = tax.Included(typed, l.Percent, bill.Minor)
			t.Lines[i].Net = typed.Sub(t.Lines[i].Tax)
		} else {
			t.Lines[i].Net = typed
			t.Lines[i].Tax = tax.On(typed, l.Percent, bill.Minor)
		}
		weights[i] = bill.Spread.Share(l.Quantity, t.Lines[i].Net, l.Kilos)
		if bill.Spread == ByWeight && l.Kilos == nil && bill.Extra.IsPositive() {
			t.NotWeighed = append(t.NotWeighed, i)
		}
		t.Units = t.Units.Add(l.Quantity)
	}
	extra := bill.Extra
	extraTax := tax.On(extra, bill.ExtraPercent, bill.Minor)
	if bill.CostsIncludeTax {
		extraTax = tax.Included(extra, bill.ExtraPercent, bill.Minor)
		extra = extra.Sub(extraTax)
	}
	for i, share := range bill.Minor.Split(extra, weights) {
		line := &t.Lines[i]
		line.Extra = share
		line.Value = line.Net.Add(share)
		if lines[i].Quantity.IsPositive() {
			line.UnitCost = line.Value.DivRound(lines[i].Quantity, money.CostPlaces)
		}
		t.Net = t.Net.Add(line.Value)
		t.Tax = t.Tax.Add(line.Tax)
	}
	t.Tax = t.Tax.Add(extraTax)
	t.Gross = t.Net.Add(t.Tax)
	return t, nil
}

// Ahead is what of an order's line was billed before it came.
type Ahead struct {
	OrderLine uint64
	Units     decimal.Decimal
	Worth     decimal.Decimal
}

// Coming is how many units of a delivery's line are for a line of an order.
type Coming struct {
	Line      int
	OrderLine uint64
	Units     decimal.Decimal
}

// Meet lets goods that come meet what was billed of them before: they are worth what was
// billed. It takes them off waiting and says how many units of each line were billed already.
// What comes with its bill can't have been: that is refused.
func (t *Totals) Meet(waiting []Ahead, coming []Coming, lines []Line, billLater bool,
	minor money.Minor) ([]decimal.Decimal, error) {
	met := make([]decimal.Decimal, len(lines))
	for _, c := range coming {
		left := c.Units
		for i := range waiting {
			w := &waiting[i]
			units := decimal.Min(w.Units, left)
			if w.OrderLine != c.OrderLine || !units.IsPositive() {
				continue
			}
			if !billLater {
				return nil, fault.Field("bill_later", false, "that the bill comes later",
					"Some of these were billed already; take them in without a bill.")
			}
			worth := minor.Part(w.Worth, decimal.Zero, decimal.Zero, units, w.Units)
			t.bought(c.Line, units, lines[c.Line].Quantity, worth, minor)
			met[c.Line] = met[c.Line].Add(units)
			w.Units, w.Worth, left = w.Units.Sub(units), w.Worth.Sub(worth), left.Sub(units)
		}
	}
	return met, nil
}

// bought says that some units of a line, of so many in all, were billed before they came:
// they are worth what was billed, in place of what they were agreed at.
func (t *Totals) bought(line int, units, of, worth decimal.Decimal, minor money.Minor) {
	l := &t.Lines[line]
	agreed := minor.Part(l.Net, decimal.Zero, decimal.Zero, units, of)
	by := worth.Sub(agreed)
	l.Value, l.ahead = l.Value.Add(by), l.ahead.Add(worth)
	t.Net, t.Gross = t.Net.Add(by), t.Gross.Add(by)
}

// Postings is the double entry of a delivery that is still to be paid.
func (t Totals) Postings() ledger.Postings {
	return ledger.Postings{ledger.Stock: t.Net, ledger.TaxIn: t.Tax, ledger.Payable: t.Gross.Neg()}
}

// CheckMeanwhile refuses to take more of goods than is outstanding after another delivery brought of them since this
// one was shown: it was typed, or filled in, as ordered.
func CheckMeanwhile(name string, brought, outstanding decimal.Decimal) error {
	if !brought.GreaterThan(outstanding) {
		return nil
	}
	return fault.Clash("more_than_ordered", brought, "to look at the delivery again, or to say that all of it came",
		"%s: another delivery brought of it since this one was saved; %s are outstanding now, and this one says %s. "+
			"Nothing was "+
			"posted. If all of it came, post it again.", name, outstanding, brought)
}
