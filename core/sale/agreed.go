package sale

import (
	"cmp"

	"github.com/shopspring/decimal"

	"itemrack/core/money"
	"itemrack/core/price"
	"itemrack/core/staff"
	"itemrack/core/text"
)

// A yes is for what was shown: a line keeps how far below what it usually costs it was agreed to be sold, a basket how
// much was agreed to be given off all of it. What is less than that needs no other yes; what is more does, however it
// came about: another quantity, price, list or discount, or another customer, whose list is not that.

// Yes is what was agreed on a line: how far below what it usually costs so many can be sold, in all.
type Yes struct{ Below, For decimal.Decimal }

// of is how far below what they usually cost so many can be sold by a yes: fewer by their part, rounded up, more by
// no more.
func (y Yes) of(quantity decimal.Decimal, minor money.Minor) decimal.Decimal {
	if !y.For.IsPositive() || quantity.GreaterThanOrEqual(y.For) {
		return y.Below
	}
	return y.Below.Mul(quantity).DivRound(y.For, minor.Places()+6).RoundUp(minor.Places())
}

// Agreed is a line with a yes for what it is now.
func (s Sellable) Agreed(b Basket, l BasketLine) BasketLine {
	l.Yes = Yes{s.Below(b, l), l.Quantity}
	return l
}

// usual is what a line costs at the usual list of its basket, before anything is given off; what it is at where a label
// says what it costs, or the list has no price for it.
func (s Sellable) usual(b Basket, l BasketLine) decimal.Decimal {
	at := s.Line(l)
	if l.Labelled {
		return at.Asked()
	}
	if l.ListPrice != nil {
		at.Price = *l.ListPrice
	}
	a := s.PriceOf(max(b.Usual, price.Regular), l.Pack, l.Quantity, l.PricedAt)
	if amount, has := s.PriceIn(l.From(), a); has {
		at.Price = amount
	}
	return at.Asked()
}

// Below is how far below what it usually costs a line is sold, with what is given off it and its share of baskets that
// it was on before, as prices are kept; never below nothing.
func (s Sellable) Below(b Basket, l BasketLine) decimal.Decimal {
	asked := s.Line(l).Asked()
	given := l.Off.Of(asked, s.Book.Minor).Add(l.Shared.Of(asked, s.Book.Minor))
	return decimal.Max(decimal.Zero, s.usual(b, l).Sub(asked).Add(given))
}

// otherPrice reports whether a line has another price than the usual list's: one that was set by hand, or of another
// list.
func (b Basket) otherPrice(l BasketLine) bool {
	return l.ListPrice != nil || max(cmp.Or(l.List, b.List), price.Regular) != max(b.Usual, price.Regular)
}

// Wanted is what wants the yes of somebody who may: the deed, and in words what it is about.
type Wanted struct {
	Deed staff.Deed
	What string
}

// Wants is what of a line wants a yes that nobody gave; false where nothing does. Limit is how many percent everybody
// may give off. What rounding makes, a minor unit, wants none.
func (s Sellable) Wants(b Basket, l BasketLine, limit decimal.Decimal) (Wanted, bool) {
	below, minor := s.Below(b, l), s.Book.Minor
	if l.Quantity.IsZero() || below.LessThanOrEqual(l.Yes.of(l.Quantity, minor)) {
		return Wanted{}, false
	}
	counted := s.Counted(l) + " × " + s.FullName()
	if b.otherPrice(l) && s.usual(b, l).GreaterThan(s.Line(l).Asked()) {
		return Wanted{staff.DeedPrice, counted + " at " + minor.Text(l.Price)}, true
	}
	if below.GreaterThan(s.within(l, limit)) {
		said := minor.Text(below)
		if l.Off.Kind == OffPercent && l.Off.Of(s.Line(l).Asked(), minor).Equal(below) {
			said = l.Off.Says(minor)
		}
		return Wanted{staff.DeedOffMore, said + " off " + counted}, true
	}
	return Wanted{}, false
}

// within is how much everybody may give off a line.
func (s Sellable) within(l BasketLine, limit decimal.Decimal) decimal.Decimal {
	minor := s.Book.Minor
	return minor.Round(s.Line(l).Asked().Mul(limit).Div(hundred)).Add(decimal.New(1, -minor.Places()))
}

// Wants is what of a basket that is sold wants a yes that nobody gave: of its lines, else of what is given off them and
// all of the basket together.
func (b Basket) Wants(lines []Selling, limit decimal.Decimal) []Wanted {
	var list []Wanted
	shared := decimal.Zero
	for _, l := range lines {
		if wanted, yes := l.Sellable.Wants(b, l.BasketLine, limit); yes {
			list = append(list, wanted)
		}
		shared = shared.Add(l.Share)
	}
	if len(list) > 0 || shared.LessThanOrEqual(b.Granted) {
		return list
	}
	for _, l := range lines {
		most := decimal.Max(l.Yes.of(l.BasketLine.Quantity, l.Book.Minor), l.within(l.BasketLine, limit))
		if l.Below(b, l.BasketLine).Add(l.Share).GreaterThan(most) {
			return []Wanted{{staff.DeedOffMore, l.Book.Minor.Text(shared) + " off the basket"}}
		}
	}
	return nil
}

// Carried is a basket whose discount stands on its lines, each with its share, so that they can go to another one: by
// it nothing becomes dearer or cheaper, and no yes larger or smaller.
func (b Basket) Carried(found map[uint64]Sellable) Basket {
	_, off := b.discounted(found)
	sum := decimal.Zero
	for _, o := range off {
		sum = sum.Add(o.split)
	}
	carried := b
	carried.Lines = make([]BasketLine, len(b.Lines))
	for i, l := range b.Lines {
		before := found[l.Variant].Below(b, l)
		if share := off[i].split; share.IsPositive() {
			l.Shared = Off{Kind: OffAmount, Value: off[i].carried.Add(share), Reason: cmp.Or(b.Off.Reason, l.Shared.Reason)}
		}
		if sum.IsPositive() && sum.LessThanOrEqual(b.Granted) {
			l.Yes = Yes{decimal.Max(l.Yes.of(l.Quantity, found[l.Variant].Book.Minor), before).Add(off[i].split), l.Quantity}
		}
		carried.Lines[i] = l
	}
	carried.Off, carried.Granted = Off{}, decimal.Zero
	return carried
}

// Joined are the lines of a basket as they stand on another one: at the prices that they had, of their own list where
// the other has another; and the note of both.
func (b Basket) Joined(onto Basket) ([]BasketLine, string, error) {
	lines := make([]BasketLine, len(b.Lines))
	for i, l := range b.Lines {
		if l.List == 0 && max(b.List, price.Regular) != max(onto.List, price.Regular) {
			l.List = max(b.List, price.Regular)
		}
		lines[i] = l
	}
	note := onto.Note
	if note == "" || note == b.Note {
		note = b.Note
	} else if b.Note != "" {
		note += "; " + b.Note
	}
	if err := CheckMerged(len(onto.Lines) + len(lines)); err != nil {
		return nil, "", err
	}
	return lines, text.Cut(note, LongestNote), nil
}
