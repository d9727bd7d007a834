package sale

import (
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/serial"
	"itemrack/core/stock"
	"itemrack/core/tax"
	"itemrack/core/text"
	"itemrack/core/unit"
)

// BasketLine is a line of a basket. Quantity counts packs where there is one. Its price
// is that of the moment at which it was first scanned, or what its label says.
type BasketLine struct {
	ID       uint64
	Variant  uint64
	Pack     uint64
	Quantity decimal.Decimal
	Price    decimal.Decimal
	Labelled bool
	Serial   string // in normal form, with commas where a bundle has several
	Lot      uint64 // that was scanned; 0 lets the rule choose
	PricedAt time.Time
}

// Basket is a sale while it is being made, at the prices of a list.
type Basket struct {
	List  uint64
	Lines []BasketLine
}

// MostLines is how many lines a basket holds.
const MostLines = 200

// Adding is what is put into a basket. Quantity is as it was typed, empty for one;
// Amount is what a label of the shop's scale says that it costs.
type Adding struct {
	Pack     uint64
	Quantity string
	Serial   string // in normal form
	Lot      uint64
	Amount   *decimal.Decimal
}

// Touched is what became of a line: as it is now, a new one having no number yet; how
// many it had before; and what to say.
type Touched struct {
	Line   BasketLine
	Before decimal.Decimal
	Says   string
}

// Add puts something into a basket: onto the line that has the same at the same price,
// else on a new one. Each numbered thing, each bundle and each label of a scale has a
// line to itself.
func (b Basket) Add(v Sellable, in Adding, now time.Time) (Touched, error) {
	add := BasketLine{Variant: v.ID, Pack: in.Pack, Serial: in.Serial, Lot: in.Lot, PricedAt: now}
	var err error
	if add.Quantity, err = v.Quantity(in.Pack, text.Or(in.Quantity, "1")); err != nil {
		return Touched{}, err
	}
	if !add.Quantity.IsPositive() {
		return Touched{}, fault.Field("quantity", in.Quantity, "1 or more", "A quantity of nothing can't be sold.")
	}
	if add, err = v.priced(add, b.List, in.Amount); err != nil {
		return Touched{}, err
	}
	if len(b.Lines) >= MostLines {
		return Touched{}, fault.Refuse("basket", len(b.Lines), "200 lines or fewer",
			"The basket is full: it has %d lines.", MostLines)
	}
	if err := b.once(v, 0, in.Serial); err != nil {
		return Touched{}, err
	}
	for _, l := range b.Lines {
		if !v.joins(l, add, b.List) {
			continue
		}
		before := l.Quantity
		if l.Quantity, err = v.Quantity(l.Pack, l.Quantity.Add(add.Quantity).String()); err != nil {
			return Touched{}, err
		}
		if l, err = v.priced(l, b.List, nil); err != nil {
			return Touched{}, err
		}
		return Touched{l, before, v.FullName() + ": now " + v.Counted(l) + "."}, nil
	}
	if add.Pack != 0 {
		return Touched{add, decimal.Zero, v.FullName() + ": " + v.Counted(add) + " added."}, nil
	}
	return Touched{add, decimal.Zero, v.FullName() + " added."}, nil
}

// joins reports whether what is added goes onto a line. A dated price that began since
// the line was scanned makes a line of its own.
func (s Sellable) joins(l, add BasketLine, list uint64) bool {
	if l.Variant != s.ID || l.Pack != add.Pack || l.Lot != add.Lot || s.Tracking == stock.BySerial || s.Bundle ||
		l.Labelled ||
		add.Labelled {
		return false
	}
	again := l
	again.PricedAt = add.PricedAt
	again, err := s.priced(again, list, nil)
	return err == nil && again.Price.Equal(l.Price)
}

// once refuses serial numbers that stand on another line.
func (b Basket) once(v Sellable, line uint64, numbers string) error {
	for _, l := range b.Lines {
		if l.ID == line || l.Variant != v.ID {
			continue
		}
		have := serial.Kept(l.Serial)
		for _, number := range serial.Kept(numbers) {
			if slices.Contains(have, number) {
				return fault.Clash("serial", number, "each number once", "%s No. %s is on the basket already.",
					v.FullName(), number)
			}
		}
	}
	return nil
}

// OneByOne takes how many were asked for apart into lines, each with its numbers: what has
// serial numbers, and a bundle, is sold one by one. Other goods stay one line.
func (s Sellable) OneByOne(quantity, numbers string) ([]Adding, error) {
	one := []Adding{{Quantity: quantity, Serial: numbers}}
	if s.Tracking != stock.BySerial && !s.Bundle || strings.TrimSpace(quantity) == "" {
		return one, nil
	}
	q, err := unit.Piece.Parse("quantity", quantity)
	if err != nil || q.LessThanOrEqual(decimal.New(1, 0)) {
		return one, err
	}
	if q.GreaterThan(decimal.New(MostLines, 0)) {
		return nil, fault.Field("quantity", quantity, "200 or fewer", "A basket holds %d lines.", MostLines)
	}
	n, list := int(q.IntPart()), serial.Kept(numbers)
	if len(list)%n != 0 {
		return nil, fault.Field("serial", numbers, quantity+" numbers",
			"%s is sold one by one: %s of them need a number each.",
			s.FullName(), quantity)
	}
	lines := make([]Adding, n)
	for i := range lines {
		each := len(list) / n
		lines[i] = Adding{Quantity: "1", Serial: serial.Keep(list[i*each : (i+1)*each])}
	}
	return lines, nil
}

// Change types another quantity, or serial numbers as a list is kept, over those of a
// line; empty and nil leave them. A quantity of zero takes the line off.
func (b Basket) Change(v Sellable, line uint64, quantity string, numbers *string) (Touched, error) {
	at := slices.IndexFunc(b.Lines, func(l BasketLine) bool { return l.ID == line })
	if at < 0 {
		return Touched{}, fault.Missing("line", line, "That line is not on the basket any more.")
	}
	l, before := b.Lines[at], b.Lines[at].Quantity
	var err error
	if strings.TrimSpace(quantity) != "" {
		if l.Quantity, err = v.Quantity(l.Pack, quantity); err != nil {
			return Touched{}, err
		}
		l.Labelled = false
		if l, err = v.priced(l, b.List, nil); err != nil {
			return Touched{}, err
		}
	}
	if numbers != nil {
		l.Serial = *numbers
		if err := b.once(v, l.ID, l.Serial); err != nil {
			return Touched{}, err
		}
	}
	if l.Quantity.IsZero() {
		return Touched{l, before, v.FullName() + " taken off."}, nil
	}
	return Touched{l, before, v.FullName() + ": " + v.Counted(l) + "."}, nil
}

// PutOn puts a basket on a price list: its lines cost what they cost there at the moment
// they were scanned; what a label says stays.
func (b Basket) PutOn(list uint64, found map[uint64]Sellable) ([]BasketLine, error) {
	lines := make([]BasketLine, 0, len(b.Lines))
	for _, l := range b.Lines {
		if l.Labelled {
			continue
		}
		priced, err := found[l.Variant].priced(l, list, nil)
		if err != nil {
			return nil, err
		}
		lines = append(lines, priced)
	}
	return lines, nil
}

// Quantity reads how many of a variant, or of packs of it, a line is to have.
func (s Sellable) Quantity(pack uint64, typed string) (decimal.Decimal, error) {
	of := s.Unit
	if pack != 0 {
		if _, ok := s.Pack(pack); !ok {
			return decimal.Zero, fault.Missing("pack_id", pack, "%s has no pack %d.", s.FullName(), pack)
		}
		of = unit.Piece
	}
	q, err := of.Parse("quantity", typed)
	if err == nil && (s.Tracking == stock.BySerial || s.Bundle) && q.GreaterThan(decimal.New(1, 0)) {
		err = fault.Field("quantity", typed, "1", "%s is sold one by one: a line for each.", s.FullName())
	}
	return q, err
}

// priced puts the price on a line that its list has for its quantity, as it was when the
// line was first scanned. What a label says goes before it.
func (s Sellable) priced(l BasketLine, list uint64, amount *decimal.Decimal) (BasketLine, error) {
	a := s.PriceOf(max(list, price.Regular), l.Pack, l.Quantity, l.PricedAt)
	if a.Source == price.NoPrice && amount == nil {
		return l, fault.Refuse("variant_id", s.SKU, "a price", "%s has no price yet.", s.FullName())
	}
	l.Price = a.Amount
	if amount == nil {
		return l, nil
	}
	var err error
	l.Labelled = true
	l.Quantity, l.Price, err = Labelled(*amount, a.Amount, s.Unit, s.Book.Minor)
	return l, err
}

// Typed is a line that is sold without a basket, at the prices of a list at a moment.
func (s Sellable) Typed(in Adding, list uint64, now time.Time) (BasketLine, error) {
	l := BasketLine{Variant: s.ID, Pack: in.Pack, Serial: in.Serial, Lot: in.Lot, PricedAt: now}
	var err error
	if l.Quantity, err = s.Quantity(in.Pack, in.Quantity); err != nil {
		return l, err
	}
	if !l.Quantity.IsPositive() {
		return l, fault.Field("quantity", in.Quantity, "more than 0", "A quantity of nothing can't be sold.")
	}
	return s.priced(l, list, nil)
}

// Counted writes how many a line has: "3", "2 × box of 12".
func (s Sellable) Counted(l BasketLine) string {
	if pack, ok := s.Pack(l.Pack); ok {
		return l.Quantity.String() + " × " + pack.Name
	}
	return s.Unit.Format(l.Quantity)
}

// Line is what a line of a basket comes to.
func (s Sellable) Line(l BasketLine) Line {
	return Line{
		Quantity: l.Quantity,
		Price:    l.Price,
		Percent:  s.Percent,
		Untaxed:  s.Book.Basis == tax.Without,
		Minor:    s.Book.Minor,
	}
}

// Units is how many base units a line takes, and of which pack; a pack that was dropped
// meanwhile is refused.
func (s Sellable) Units(l BasketLine) (decimal.Decimal, Pack, error) {
	if l.Pack == 0 {
		return l.Quantity, Pack{Factor: decimal.New(1, 0)}, nil
	}
	pack, ok := s.Pack(l.Pack)
	if !ok {
		return l.Quantity, pack, fault.Refuse("lines", s.FullName(), "a pack that is there",
			"A pack of %s was dropped meanwhile. Take the line off.", s.FullName())
	}
	return l.Quantity.Mul(pack.Factor), pack, nil
}
