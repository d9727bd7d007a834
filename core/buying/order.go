package buying

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/tax"
)

// State is how far a purchase order has come.
type State string

// The states of a purchase order.
const (
	Draft     State = "Draft"
	Placed    State = "Placed"
	PartIn    State = "Part in"
	AllIn     State = "All in"
	CalledOff State = "Called off"
)

// States lists the states in the order in which an order goes through them.
var States = []State{Draft, Placed, PartIn, AllIn, CalledOff}

// ParseState reads a state; an empty text is any.
func ParseState(text string) (State, error) {
	if text == "" || slices.Contains(States, State(text)) {
		return State(text), nil
	}
	return "", fault.Field("state", text, "Draft, Placed, Part in, All in or Called off", "No order is ever %q.", text)
}

// Open reports whether goods of the order are still awaited.
func (s State) Open() bool { return s == Placed || s == PartIn }

// Ordered is a line of a purchase order. Quantity is in base units; Price is that of a pack
// of Factor units, net of tax and before Discount percent. Arrived and CalledOff are in base
// units, too. Percent is the tax on it.
type Ordered struct {
	Quantity  decimal.Decimal
	Factor    decimal.Decimal
	Price     decimal.Decimal
	Discount  decimal.Decimal
	Percent   decimal.Decimal
	Arrived   decimal.Decimal
	CalledOff decimal.Decimal
}

// NetOf is what so many units of the line come to: packs × price of a pack × (1 −
// discount), rounded.
func (l Ordered) NetOf(q decimal.Decimal, minor money.Minor) decimal.Decimal {
	if !l.Factor.IsPositive() {
		return decimal.Zero
	}
	return less(q.Mul(l.Price), l.Discount).DivRound(l.Factor, minor.Places())
}

// Net is what the line comes to.
func (l Ordered) Net(minor money.Minor) decimal.Decimal { return l.NetOf(l.Quantity, minor) }

// UnitCost is what a unit of the line costs, to 6 decimals: it follows from the net, or for
// nothing ordered from the price.
func (l Ordered) UnitCost(minor money.Minor) decimal.Decimal {
	if l.Quantity.IsPositive() {
		return l.Net(minor).DivRound(l.Quantity, money.CostPlaces)
	}
	if !l.Factor.IsPositive() {
		return decimal.Zero
	}
	return less(l.Price, l.Discount).DivRound(l.Factor, money.CostPlaces)
}

// Outstanding is how many units are still awaited, never below zero.
func (l Ordered) Outstanding() decimal.Decimal {
	return decimal.Max(decimal.Zero, l.Quantity.Sub(l.Arrived).Sub(l.CalledOff))
}

// Over is how many units came beyond what was ordered.
func (l Ordered) Over() decimal.Decimal {
	return decimal.Max(decimal.Zero, l.Arrived.Sub(l.Quantity))
}

// Packs is the line in whole packs and loose units.
func (l Ordered) Packs() (packs, loose decimal.Decimal) {
	if !l.Factor.IsPositive() {
		return decimal.Zero, l.Quantity
	}
	packs = l.Quantity.Div(l.Factor).Floor()
	return packs, l.Quantity.Sub(packs.Mul(l.Factor))
}

// CheckChange says whether the line of a placed order can become so many units: not fewer
// than have arrived.
func (l Ordered) CheckChange(to decimal.Decimal, name string) error {
	if to.LessThan(l.Arrived) {
		return fault.Refuse("quantity", to, l.Arrived.String()+" or more",
			"%s: %s have arrived already; the order can't go below that.", name, l.Arrived)
	}
	return nil
}

// CallOff is the line with what is outstanding called off.
func (l Ordered) CallOff() Ordered {
	l.CalledOff = l.CalledOff.Add(l.Outstanding())
	return l
}

// Resettle is the line after so many units were ordered anew: what was called off before is
// ordered again only as far as it is asked for.
func (l Ordered) Resettle(to decimal.Decimal) Ordered {
	l.Quantity = to
	l.CalledOff = decimal.Zero
	return l
}

// StateOf is the state of an order that has been placed: it follows from the lines.
func StateOf(lines []Ordered) State {
	arrived, open := decimal.Zero, decimal.Zero
	for _, l := range lines {
		arrived, open = arrived.Add(l.Arrived), open.Add(l.Outstanding())
	}
	switch {
	case open.IsPositive() && arrived.IsPositive():
		return PartIn
	case open.IsPositive():
		return Placed
	case arrived.IsPositive():
		return AllIn
	}
	return CalledOff
}

// DaysLate is for how many days an order is late: its wanted day has passed and something
// is outstanding. Days are at midnight UTC.
func DaysLate(state State, wanted *time.Time, today time.Time) int {
	if wanted == nil || !state.Open() || !wanted.Before(today) {
		return 0
	}
	return int(today.Sub(*wanted).Hours() / 24)
}

// OrderTotals is what an order comes to, net of tax unless it says otherwise. Freight and
// Landed are expected only; Lacking is how much is missing to the minimum order.
type OrderTotals struct {
	Units   decimal.Decimal `json:"units"`
	Here    decimal.Decimal `json:"here"`    // units that arrived
	ToCome  decimal.Decimal `json:"to_come"` // units that are outstanding
	Net     decimal.Decimal `json:"net" see:"costs"`
	Tax     decimal.Decimal `json:"tax" see:"costs"`
	Gross   decimal.Decimal `json:"gross" see:"costs"`
	NetHere decimal.Decimal `json:"net_here" see:"costs"` // of what arrived, as it was agreed
	NetOpen decimal.Decimal `json:"net_open" see:"costs"` // of what is outstanding
	Freight decimal.Decimal `json:"freight" see:"costs"`
	Landed  decimal.Decimal `json:"landed" see:"costs"`
	Lacking decimal.Decimal `json:"lacking" see:"costs"`
}

// OrderOf adds up the lines of an order to a supplier of some terms.
func OrderOf(terms SupplierTerms, lines []Ordered, minor money.Minor) OrderTotals {
	var t OrderTotals
	for _, l := range lines {
		net := l.Net(minor)
		t.Units, t.Here, t.ToCome = t.Units.Add(l.Quantity), t.Here.Add(l.Arrived), t.ToCome.Add(l.Outstanding())
		t.Net, t.Tax = t.Net.Add(net), t.Tax.Add(tax.On(net, l.Percent, minor))
		t.NetHere = t.NetHere.Add(l.NetOf(l.Arrived, minor))
		t.NetOpen = t.NetOpen.Add(l.NetOf(l.Outstanding(), minor))
	}
	t.Gross = t.Net.Add(t.Tax)
	t.Landed = minor.Round(terms.landed(t.Net))
	t.Freight = t.Landed.Sub(t.Net)
	t.Lacking = decimal.Max(decimal.Zero, terms.MinimumOrder.Sub(t.Net))
	return t
}

// CostAs is what a unit of the line is agreed to cost as a delivery says it: with its tax where the
// delivery's costs include that, to 6 decimals.
func (l Ordered) CostAs(includeTax bool, percent decimal.Decimal, minor money.Minor) decimal.Decimal {
	each := l.UnitCost(minor)
	if includeTax {
		return tax.With.Price(each, percent).Round(money.CostPlaces)
	}
	return each
}

// ExpectedLanded is what a unit of the line is expected to cost with the usual freight, to 6
// decimals.
func (l Ordered) ExpectedLanded(terms SupplierTerms, minor money.Minor) decimal.Decimal {
	return terms.landed(l.UnitCost(minor)).Round(money.CostPlaces)
}

// Allot shares so many units that came over lines that await the same goods: each up to
// what is outstanding, in their order. What is over goes to the last of them.
func Allot(q decimal.Decimal, lines []Ordered) []decimal.Decimal {
	shares := make([]decimal.Decimal, len(lines))
	for i, l := range lines {
		shares[i] = decimal.Min(q, l.Outstanding())
		q = q.Sub(shares[i])
	}
	if len(lines) > 0 {
		shares[len(lines)-1] = shares[len(lines)-1].Add(q)
	}
	return shares
}
