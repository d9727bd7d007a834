package sale

import (
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
)

// OffKind is how a discount is said.
type OffKind string

// The kinds of discount: none, so many percent, or an amount.
const (
	NoOff      OffKind = ""
	OffPercent OffKind = "percent"
	OffAmount  OffKind = "amount"
)

// Off is a discount as it is said: so many percent, or an amount, with the reason why.
type Off struct {
	Kind   OffKind         `json:"kind"`
	Value  decimal.Decimal `json:"value"`
	Reason uint64          `json:"reason_id,omitempty"`
}

// ReadOff reads a discount as it is typed: "10 %" and "10%" are percent, "4.00" an amount,
// nothing or 0 is none.
func ReadOff(typed string, minor money.Minor) (Off, error) {
	typed = strings.TrimSpace(typed)
	if typed == "" {
		return Off{}, nil
	}
	if body, percent := strings.CutSuffix(typed, "%"); percent {
		v, ok := number.Parse(strings.TrimSpace(body))
		if !ok || v.IsNegative() || v.GreaterThan(hundred) || v.Exponent() < -4 && !v.Equal(v.Round(4)) {
			return Off{}, fault.Field("off", typed, "0 % to 100 %", "%q is not a discount in percent.", typed)
		}
		if v.IsZero() {
			return Off{}, nil
		}
		return Off{Kind: OffPercent, Value: v}, nil
	}
	v, err := minor.Parse("off", typed)
	if err != nil {
		return Off{}, err
	}
	if v.IsNegative() {
		return Off{}, fault.Field("off", typed, "0 or more", "A discount can't be below nothing.")
	}
	if v.IsZero() {
		return Off{}, nil
	}
	return Off{Kind: OffAmount, Value: v}, nil
}

var hundred = decimal.New(100, 0)

// Of is what a discount takes off an amount, rounded; an amount takes no more than there is.
func (o Off) Of(amount decimal.Decimal, minor money.Minor) decimal.Decimal {
	switch o.Kind {
	case OffPercent:
		return minor.Round(amount.Mul(o.Value).Div(hundred))
	case OffAmount:
		return decimal.Min(o.Value, decimal.Max(amount, decimal.Zero))
	}
	return decimal.Zero
}

// Says writes a discount: "10 %", "4.00".
func (o Off) Says(minor money.Minor) string {
	switch o.Kind {
	case OffPercent:
		return number.Said(o.Value) + " %"
	case OffAmount:
		return minor.Text(o.Value)
	}
	return ""
}

// Fits refuses a discount of more than a line, or a basket, comes to.
func (o Off) Fits(amount decimal.Decimal, minor money.Minor) error {
	if o.Kind == OffAmount && o.Value.GreaterThan(amount) {
		return fault.Field("off", o.Value, "no more than "+minor.Text(amount), "%s off is more than the %s that it costs.",
			minor.Text(o.Value), minor.Text(amount))
	}
	return nil
}

// Share is what percent of an amount something is, in whole hundredths of a percent; nothing of
// nothing is all of it.
func share(part, whole decimal.Decimal) decimal.Decimal {
	if !whole.IsPositive() {
		return hundred
	}
	return part.Mul(hundred).DivRound(whole, 4)
}

// Beyond reports whether a discount on an amount is more than so many percent, which is as far as
// a person may go who may not give more.
func (o Off) Beyond(limit, amount decimal.Decimal, minor money.Minor) bool {
	if o.Kind == OffPercent { // as it is said: rounding to the penny does not count
		return o.Value.GreaterThan(limit)
	}
	return o.Kind != NoOff && share(o.Of(amount, minor), amount).GreaterThan(limit)
}

// given is what is given off a line: of itself, as its share of baskets that it was on before, and as its share of this
// one's.
type given struct{ own, carried, split decimal.Decimal }

// all is all that is given off.
func (g given) all() decimal.Decimal { return g.own.Add(g.carried).Add(g.split) }

// discounted are the lines of a basket before anything is given off, and what is given off each: its own first, then
// what it carries, then the basket's, shared over what the lines come to by value with largest remainders. Amounts are
// as prices are kept, with or without tax.
func (b Basket) discounted(found map[uint64]Sellable) ([]Line, []given) {
	lines, off, rest := make([]Line, len(b.Lines)), make([]given, len(b.Lines)), make([]decimal.Decimal, len(b.Lines))
	minor, sum := money.Hundredth, decimal.Zero
	for i, l := range b.Lines {
		v := found[l.Variant]
		lines[i], minor = v.Line(l), v.Book.Minor
		asked := lines[i].Asked()
		off[i].own = l.Off.Of(asked, minor)
		off[i].carried = l.Shared.Of(asked.Sub(off[i].own), minor)
		rest[i] = asked.Sub(off[i].own).Sub(off[i].carried)
		sum = sum.Add(rest[i])
	}
	if b.Off.Kind == NoOff || !sum.IsPositive() {
		return lines, off
	}
	for i, share := range minor.Split(b.Off.Of(sum, minor), rest) {
		off[i].split = share
	}
	return lines, off
}

// Priced are the lines of a basket as they are paid, with what is given off each.
func Priced(b Basket, found map[uint64]Sellable) []Line {
	lines, off := b.discounted(found)
	for i := range lines {
		lines[i].Off = off[i].all()
	}
	return lines
}

// SharedOff is what is given off all of a basket, besides what is given off its lines.
func SharedOff(b Basket, found map[uint64]Sellable) decimal.Decimal {
	_, off := b.discounted(found)
	sum := decimal.Zero
	for _, o := range off {
		sum = sum.Add(o.split)
	}
	return sum
}

// AskedFor is what a basket comes to before anything is given off all of it, as prices are kept.
func AskedFor(b Basket, found map[uint64]Sellable) decimal.Decimal {
	b.Off = Off{}
	sum := decimal.Zero
	for _, l := range Priced(b, found) {
		sum = sum.Add(l.amount())
	}
	return sum
}

// Asked is what a line comes to before anything is given off, with a change that is typed on it.
func Asked(v Sellable, l BasketLine, in Change) decimal.Decimal {
	if in.Price != nil && !in.Price.IsNegative() {
		l.Price = *in.Price
	}
	if in.Price != nil && in.Price.IsNegative() && l.ListPrice != nil {
		l.Price = *l.ListPrice
	}
	if q, err := v.Quantity(l.Pack, in.Quantity); err == nil && strings.TrimSpace(in.Quantity) != "" {
		l.Quantity = q
	}
	return v.Line(l).Asked()
}

// Due is what is to be paid for a basket: its lines, the vouchers that it gives, less what comes
// back on it. Below zero it is given back.
func Due(t Totals, vouchers []decimal.Decimal, refund decimal.Decimal) decimal.Decimal {
	due := t.Gross.Sub(refund)
	for _, v := range vouchers {
		due = due.Add(v)
	}
	return due
}
