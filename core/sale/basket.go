package sale

import (
	"cmp"
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
	ID        uint64
	Variant   uint64
	Pack      uint64
	Quantity  decimal.Decimal
	Price     decimal.Decimal
	Labelled  bool
	Serial    string          // in normal form, with commas where a bundle has several
	Lot       uint64          // that was scanned or chosen; 0 lets the rule choose
	Condition stock.Condition // it is sold from; empty is for sale
	PricedAt  time.Time
	Note      string
	Off       Off              // given off this line
	ListPrice *decimal.Decimal // what the list asks, where another price was set
	Why       uint64           // the reason for that price
	Owed      bool             // its serial number is given later
	List      uint64           // that it has its price of, where that is another than its basket's; 0 for that one
	Shared    Off              // its share, an amount, of what was given off a basket that it was on before
	Yes       Yes              // of somebody who may, for it to be sold below what it usually costs
}

// Plain reports whether nothing was agreed on the line by hand.
func (l BasketLine) Plain() bool {
	return l.Note == "" && l.Off.Kind == NoOff && l.Shared.Kind == NoOff && l.List == 0 && l.ListPrice == nil &&
		!l.Owed && !l.Labelled
}

// Basket is a sale while it is being made, at the prices of a list; Usual is that of its customer, or the regular one.
// Off is given off all of it, and Granted is how much somebody who may said that this can be.
type Basket struct {
	List     uint64
	Usual    uint64
	By       uint64 // who began it, or took it up
	Customer uint64
	Off      Off
	Granted  decimal.Decimal
	Note     string
	Lines    []BasketLine
	Vouchers []decimal.Decimal // to be given
}

// CheckBasket refuses a deed on another basket than the one, 0 for none, that was shown. One that the same person began
// since on a register that was at none is that person's.
func CheckBasket(register string, shown, is uint64, own bool) error {
	if shown == is || shown == 0 && own {
		return nil
	}
	if is == 0 {
		return fault.Clash("basket_id", shown, "to begin anew", "The basket at %s was paid, put by or given up meanwhile; "+
			"nothing was done.", register)
	}
	return fault.Clash("basket_id", shown, "to look at it, and do it again",
		"%s is at another basket by now; nothing was "+
			"done to it.", register)
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
	// Condition is what it is sold from; empty is for sale.
	Condition stock.Condition
	Amount    *decimal.Decimal
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
	add := BasketLine{Variant: v.ID, Pack: in.Pack, Serial: in.Serial, Lot: in.Lot, Condition: in.Condition, PricedAt: now}
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
		return Touched{l, before, v.Named(l) + ": now " + v.Counted(l) + "."}, nil
	}
	if len(b.Lines) >= MostLines {
		return Touched{}, fault.Refuse("basket", len(b.Lines), "200 lines or fewer",
			"The basket is full: it has %d lines.", MostLines)
	}
	if add.Pack != 0 {
		return Touched{add, decimal.Zero, v.Named(add) + ": " + v.Counted(add) + " added."}, nil
	}
	return Touched{add, decimal.Zero, v.Named(add) + " added."}, nil
}

// joins reports whether what is added goes onto a line. A dated price that began since
// the line was scanned makes a line of its own.
func (s Sellable) joins(l, add BasketLine, list uint64) bool {
	if l.Variant != s.ID || l.Pack != add.Pack || l.Lot != add.Lot || l.From() != add.From() ||
		s.Tracking == stock.BySerial || s.Bundle ||
		!l.Plain() || add.Labelled {
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

// Change is what is typed on a line: nil leaves what is there. An empty quantity leaves it, zero
// takes the line off.
type Change struct {
	Quantity string
	Serial   *string // numbers as a list is kept
	Lot      *uint64
	Note     *string
	Off      *Off
	Price    *decimal.Decimal // another price than the list's; below zero is none
	Why      uint64           // the reason for another price
	Owed     *bool
	// Condition is what the line is sold from instead.
	Condition *stock.Condition
}

// Line finds a line of the basket.
func (b Basket) Line(id uint64) (BasketLine, error) {
	at := slices.IndexFunc(b.Lines, func(l BasketLine) bool { return l.ID == id })
	if at < 0 {
		return BasketLine{}, fault.Missing("line", id, "That line is not on the basket any more.")
	}
	return b.Lines[at], nil
}

// LongestNote is how many characters a note of a line or basket has.
const LongestNote = 250

// With is the basket with a line that was added or changed; one without a quantity is gone.
func (b Basket) With(l BasketLine) Basket {
	lines := slices.Clone(b.Lines)
	at := slices.IndexFunc(lines, func(other BasketLine) bool { return other.ID == l.ID })
	switch {
	case at < 0:
		lines = append(lines, l)
	case l.Quantity.IsZero():
		lines = slices.Delete(lines, at, at+1)
	default:
		lines[at] = l
	}
	b.Lines = lines
	return b
}

// ReadNote tidies a note.
func ReadNote(typed string) (string, error) {
	note := text.Tidy(typed)
	if text.Len(note) > LongestNote {
		return note, fault.Field("note", text.Cut(note, 40), "250 characters or fewer", "The note is too long.")
	}
	return note, nil
}

// Change types something over what a line has.
func (b Basket) Change(v Sellable, line uint64, in Change) (Touched, error) {
	l, err := b.Line(line)
	if err != nil {
		return Touched{}, err
	}
	before := l.Quantity
	if in.Price != nil {
		if err := l.set(v, b.List, *in.Price, in.Why); err != nil {
			return Touched{}, err
		}
	}
	if strings.TrimSpace(in.Quantity) != "" {
		if l.Quantity, err = v.Quantity(l.Pack, in.Quantity); err != nil {
			return Touched{}, err
		}
		l.Labelled = false
		if l, err = v.priced(l, b.List, nil); err != nil {
			return Touched{}, err
		}
	}
	if in.Condition != nil && *in.Condition != l.From() {
		l.Condition, l.Lot, l.Serial, l.ListPrice, l.Why, l.Labelled = *in.Condition, 0, "", nil, 0, false
		l.Yes = Yes{}
		if l, err = v.priced(l, b.List, nil); err != nil {
			return Touched{}, err
		}
	}
	if in.Serial != nil {
		l.Serial = *in.Serial
		if l.Serial != "" {
			l.Owed = false
		}
		if err := b.once(v, l.ID, l.Serial); err != nil {
			return Touched{}, err
		}
	}
	if in.Lot != nil {
		l.Lot = *in.Lot
	}
	if in.Note != nil {
		if l.Note, err = ReadNote(*in.Note); err != nil {
			return Touched{}, err
		}
	}
	if in.Owed != nil {
		if l.Owed = *in.Owed; l.Owed && (v.Tracking != stock.BySerial || v.Bundle) {
			return Touched{}, fault.Refuse("owed", v.FullName(), "a thing with a serial number of its own",
				"%s has no serial number that could be owed.", v.FullName())
		}
		if l.Owed {
			l.Serial = ""
		}
	}
	if in.Off != nil {
		l.Off = *in.Off
	}
	if err := l.Off.Fits(v.Line(l).Asked(), v.Book.Minor); err != nil && !l.Quantity.IsZero() {
		return Touched{}, err
	}
	if l.Quantity.IsZero() {
		return Touched{l, before, v.Named(l) + " taken off."}, nil
	}
	return Touched{l, before, v.Named(l) + ": " + v.Says(l) + "."}, nil
}

// Says writes how many a line has and what was agreed on it: "3, 10 % off".
func (s Sellable) Says(l BasketLine) string {
	said := s.Counted(l)
	if l.ListPrice != nil {
		said += " at " + s.Book.Minor.Text(l.Price)
	}
	if l.Off.Kind != NoOff {
		said += ", " + l.Off.Says(s.Book.Minor) + " off"
	}
	if l.Owed {
		said += ", its number is owed"
	}
	return said
}

// set puts another price on a line than the list's; one below zero takes it back.
func (l *BasketLine) set(v Sellable, list uint64, price decimal.Decimal, why uint64) error {
	if price.IsNegative() {
		l.ListPrice, l.Why = nil, 0
		again, err := v.priced(*l, list, nil)
		*l = again
		return err
	}
	if err := v.Book.Minor.Check("price", price); err != nil {
		return err
	}
	if l.ListPrice == nil {
		was := l.Price
		l.ListPrice = &was
	}
	l.Price, l.Why, l.Labelled = price, why, false
	return nil
}

// PutOn puts a basket on a price list: its lines cost what they cost there at the moment
// they were scanned; what a label says stays, and what was set by hand.
func (b Basket) PutOn(list uint64, found map[uint64]Sellable) ([]BasketLine, error) {
	lines := make([]BasketLine, 0, len(b.Lines))
	for _, l := range b.Lines {
		if l.Labelled || l.ListPrice != nil {
			continue
		}
		l.List = 0
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
// line was first scanned. What a label says goes before it, and so does what was set by hand.
func (s Sellable) priced(l BasketLine, list uint64, amount *decimal.Decimal) (BasketLine, error) {
	if l.ListPrice != nil && amount == nil {
		return l, nil
	}
	if err := s.SoldIn(l.From(), l.Pack); err != nil {
		return l, err
	}
	a := s.PriceOf(max(cmp.Or(l.List, list), price.Regular), l.Pack, l.Quantity, l.PricedAt)
	asked, has := s.PriceIn(l.From(), a)
	if !has && amount == nil {
		return l, fault.Refuse("variant_id", s.SKU, "a price", "%s has no price yet.", s.Named(l))
	}
	l.Price = asked
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
	l := BasketLine{Variant: s.ID, Pack: in.Pack, Serial: in.Serial, Lot: in.Lot, Condition: in.Condition, PricedAt: now}
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

// CheckHold refuses to put nothing by, lines that are not there, or all lines as if they were some.
func CheckHold(b Basket, backs int, lines []uint64) error {
	if len(b.Lines)+backs+len(b.Vouchers) == 0 {
		return fault.Refuse("basket", 0, "something on the basket", "There is nothing to put by.")
	}
	for _, id := range lines {
		if _, err := b.Line(id); err != nil {
			return err
		}
	}
	if len(lines) > 0 && len(lines) == len(b.Lines) && backs+len(b.Vouchers) == 0 {
		return fault.Refuse("lines", len(lines), "some of the lines, or the whole basket",
			"These are all the lines there are.")
	}
	return nil
}

// CheckMerged refuses a basket that would have more lines than a basket holds.
func CheckMerged(lines int) error {
	if lines > MostLines {
		return fault.Refuse("basket", lines, "200 lines or fewer", "Together they have %d lines; a basket holds %d.",
			lines, MostLines)
	}
	return nil
}
