// Package cost values stock by moving average, or first in, first out. Its main
// rule: what is kept is the total value beside the quantity, of the whole pool
// and of each layer; a unit cost is only ever derived from the two, so nothing
// is lost to a rounded one.
package cost

import (
	"fmt"
	"slices"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
)

// Method is how a shop values its stock; it is set once.
type Method string

// The methods.
const (
	MovingAverage Method = "moving average"
	FIFO          Method = "first in, first out"
)

// Methods lists the methods in the order they are offered, the usual one first.
var Methods = []Method{MovingAverage, FIFO}

// ParseMethod reads a method; an empty text is the usual one.
func ParseMethod(text string) (Method, error) {
	if text == "" {
		return MovingAverage, nil
	}
	if m := Method(text); slices.Contains(Methods, m) {
		return m, nil
	}
	return "", fault.Field("costing", text, "moving average, or first in, first out", "Stock can't be valued by %q.",
		text)
}

// Source says what brought goods in: a document, 0 for the one that is being made, and its line.
type Source struct {
	Document uint64
	Line     int
}

// holds reports whether a layer is of a source; line 0 stands for all lines of the document.
func (s Source) holds(l Layer) bool {
	return s.Document != 0 && l.Document == s.Document && (s.Line == 0 || l.Line == s.Line)
}

// Layer is what is left of goods that came in together.
type Layer struct {
	Source
	Quantity decimal.Decimal
	Value    decimal.Decimal
}

// worth is what q of a layer are worth; all of it is worth its whole value.
func (l Layer) worth(q decimal.Decimal, minor money.Minor) decimal.Decimal {
	if q.Equal(l.Quantity) {
		return l.Value
	}
	return q.Mul(l.Value).DivRound(l.Quantity, minor.Places())
}

// Pool is a variant's quantity and what it is worth, over all branches and
// conditions. Last is the unit cost of the last purchase, 6 decimals. Layers are
// kept by FIFO only: the one to go out next stands first, and together they are
// the pool.
type Pool struct {
	Quantity decimal.Decimal
	Value    decimal.Decimal
	Last     decimal.Decimal
	Method   Method // empty for moving average
	Minor    money.Minor
	Layers   []Layer
}

// Average is value ÷ quantity to 6 decimals; with nothing in stock it is the
// last cost.
func (p Pool) Average() decimal.Decimal {
	if !p.Quantity.IsPositive() {
		return p.Last
	}
	return p.Value.DivRound(p.Quantity, money.CostPlaces)
}

// Move changes quantity and value by goods that only change their place: what
// goes out in one entry comes back in another, and no layer is touched.
func (p Pool) Move(q, value decimal.Decimal) Pool {
	p.Quantity, p.Value = p.Quantity.Add(q), p.Value.Add(value)
	return p
}

// In adds q units worth value, rounded to the minor unit, that come back or turn
// up; they are the next to go out.
func (p Pool) In(q, value decimal.Decimal) Pool {
	p = p.Move(q, value)
	if p.Method == FIFO {
		p.Layers = slices.Concat([]Layer{{Quantity: q, Value: value}}, p.Layers)
	}
	return p
}

// Bought adds q units worth value, which go out last, and keeps their unit cost
// as the last one.
func (p Pool) Bought(q, value decimal.Decimal) Pool {
	p = p.Move(q, value)
	if p.Method == FIFO {
		p.Layers = slices.Concat(p.Layers, []Layer{{Quantity: q, Value: value}})
	}
	p.Last = value.DivRound(q, money.CostPlaces)
	return p
}

// ByLine says which line of the document that is being made brought what it has brought so far and no line has yet.
func (p Pool) ByLine(line int) Pool {
	for i, l := range p.Layers {
		if l.Source == (Source{}) {
			p.Layers[i].Line = line
		}
	}
	return p
}

// Worth is what q units are worth that go out next. By moving average it is
// round(q × average), with the average unrounded; by FIFO the layers' worth.
// All that there are are worth the whole value. It holds for units that are
// found, too: more of them than there are, or with nothing in stock, are worth
// the average, or by FIFO the last cost.
func (p Pool) Worth(q decimal.Decimal) decimal.Decimal { return p.WorthOf(q, Source{}) }

// WorthOf is Worth of goods that a source brought: its layers go first. Without
// one, or by moving average, it is Worth.
func (p Pool) WorthOf(q decimal.Decimal, of Source) decimal.Decimal {
	switch {
	case q.Equal(p.Quantity):
		return p.Value
	case p.Method == FIFO:
		_, worth, more := p.peel(q, of)
		return worth.Add(p.Minor.Round(more.Mul(p.Last)))
	case p.Quantity.IsZero():
		return p.Minor.Round(q.Mul(p.Last))
	}
	return q.Mul(p.Value).DivRound(p.Quantity, p.Minor.Places())
}

// Undo is the value at which q units go out again that a source brought in at
// value: the same by moving average, unless nothing stays or so much is not left;
// by FIFO what its layers, and then the others, are worth.
func (p Pool) Undo(q, value decimal.Decimal, of Source) decimal.Decimal {
	if p.Method == FIFO {
		return p.WorthOf(q, of)
	}
	if q.Equal(p.Quantity) {
		return p.Value
	}
	return decimal.Min(value, p.Value)
}

// peel takes q units from the layers: those of a source before all others, then
// in their order. It returns the layers that are left, what was taken, and how
// many units they were short of.
func (p Pool) peel(q decimal.Decimal, of Source) (left []Layer, worth, more decimal.Decimal) {
	left, more = slices.Clone(p.Layers), q
	take := func(l *Layer) {
		n := decimal.Min(more, l.Quantity)
		value := l.worth(n, p.Minor)
		l.Quantity, l.Value = l.Quantity.Sub(n), l.Value.Sub(value)
		worth, more = worth.Add(value), more.Sub(n)
	}
	for i := range left {
		if of.holds(left[i]) {
			take(&left[i])
		}
	}
	for i := range left {
		if more.IsZero() {
			break
		}
		take(&left[i])
	}
	return slices.DeleteFunc(left, func(l Layer) bool { return l.Quantity.IsZero() }), worth, more
}

// Next is what q units are that go out next: a piece of each layer by FIFO, one
// piece by moving average. There must be as many.
func (p Pool) Next(q decimal.Decimal) []Layer {
	if p.Method != FIFO {
		return []Layer{{Quantity: q, Value: p.Worth(q)}}
	}
	var pieces []Layer
	for _, l := range p.Layers {
		n := decimal.Min(q, l.Quantity)
		if !n.IsPositive() {
			break
		}
		pieces = append(pieces, Layer{Source: l.Source, Quantity: n, Value: l.worth(n, p.Minor)})
		q = q.Sub(n)
	}
	if q.IsPositive() {
		pieces = append(pieces, Layer{Quantity: q, Value: p.Minor.Round(q.Mul(p.Last))})
	}
	return pieces
}

// Revalue changes what goods of a source are worth that are still there: by FIFO its own
// layers, each by its share; by moving average the pool. With nothing there, or to below
// nothing, it is an error.
func (p Pool) Revalue(by decimal.Decimal, of Source) (Pool, error) {
	p.Value = p.Value.Add(by)
	if !p.Quantity.IsPositive() || p.Value.IsNegative() {
		return p, fmt.Errorf("%s units can't be worth %s", p.Quantity, p.Value)
	}
	if p.Method != FIFO {
		return p, nil
	}
	p.Layers = slices.Clone(p.Layers)
	var own []int
	var quantities, values []decimal.Decimal
	for i, l := range p.Layers {
		if of.holds(l) {
			own, quantities, values = append(own, i), append(quantities, l.Quantity), append(values, l.Value)
		}
	}
	if len(own) == 0 {
		return p, fmt.Errorf("nothing is left of line %d of document %d", of.Line, of.Document)
	}
	// units of a line change by the same; where one is worth less than that, each by what it is worth
	shares := p.Minor.Split(by, quantities)
	for i := range own {
		if values[i].Add(shares[i]).IsNegative() {
			shares = p.Minor.Split(by, values)
			break
		}
	}
	for i, at := range own {
		p.Layers[at].Value = values[i].Add(shares[i])
		if p.Layers[at].Value.IsNegative() {
			return p, fmt.Errorf("a layer can't be worth %s", p.Layers[at].Value)
		}
	}
	return p, nil
}

// LeftOf is how many of the units that a source brought are still there, what has gone having come first, and what can
// be taken off their worth at most. By FIFO that is what is left of its own layers; by moving average what is there
// beyond what came in after it.
func (p Pool) LeftOf(of Source, brought, after decimal.Decimal) (q, worth decimal.Decimal) {
	if p.Method == FIFO {
		return p.Of(of)
	}
	return decimal.Max(decimal.Min(brought, p.Quantity.Sub(after)), decimal.Zero), p.Value
}

// Out takes q units out that are worth value: what WorthOf gave for them, or
// their own cost where each unit has one. More than there is is refused.
func (p Pool) Out(q, value decimal.Decimal, of Source) (Pool, error) {
	if q.GreaterThan(p.Quantity) {
		return p, fault.Refuse("quantity", q, "no more than "+p.Quantity.String(), "Only %s are in stock.", p.Quantity)
	}
	if p.Method == FIFO {
		left, worth, _ := p.peel(q, of)
		if !worth.Equal(value) {
			return p, fmt.Errorf("%s units are worth %s by their layers, not %s", q, worth, value)
		}
		p.Layers = left
	}
	return p.Move(q.Neg(), value.Neg()), nil
}

// Layered reports whether the pool has layers: by FIFO, but not of goods with serial
// numbers.
func (p Pool) Layered() bool { return p.Method == FIFO }

// Of is what is left of what a source brought, and what that is worth, by its layers.
func (p Pool) Of(source Source) (q, value decimal.Decimal) {
	for _, l := range p.Layers {
		if source.holds(l) {
			q, value = q.Add(l.Quantity), value.Add(l.Value)
		}
	}
	return q, value
}

// Even returns an error when the layers of a FIFO pool do not add up to it.
func (p Pool) Even() error {
	if p.Method != FIFO {
		return nil
	}
	q, value := decimal.Zero, decimal.Zero
	for _, l := range p.Layers {
		q, value = q.Add(l.Quantity), value.Add(l.Value)
	}
	if !q.Equal(p.Quantity) || !value.Equal(p.Value) {
		return fmt.Errorf("layers of %s worth %s are not the pool of %s worth %s", q, value, p.Quantity, p.Value)
	}
	return nil
}

// Of is a pool of a quantity and what it is worth; last is the unit cost of the last
// purchase. It has no layers.
func Of(quantity, value, last decimal.Decimal) Pool {
	return Pool{Quantity: quantity, Value: value, Last: last}
}
