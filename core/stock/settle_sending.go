package stock

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/ledger"
)

// Settling is how what is short or over of a line of a sending is settled.
type Settling string

// The ways to settle: what is short was found and is taken in, went back, or is lost as the sender's or
// the receiver's loss; what is over left the sender's unnoted, was found, or was counted wrong.
const (
	ShortFound    Settling = "found"
	ShortBack     Settling = "went back"
	ShortLostFrom Settling = "lost by the sender"
	ShortLostTo   Settling = "lost by the receiver"
	OverSent      Settling = "sent unnoted"
	OverFound     Settling = "over, found"
	OverMiscount  Settling = "counted wrong"
)

// Over reports whether a way settles what is over; else it settles what is short.
func (s Settling) Over() bool { return s == OverSent || s == OverFound || s == OverMiscount }

// Check refuses a way that there is not.
func (s Settling) Check() error {
	if s.Over() || s == ShortFound || s == ShortBack || s == ShortLostFrom || s == ShortLostTo {
		return nil
	}
	return fault.Field("how", s, "found, went back, lost by the sender, lost by the receiver, sent unnoted, over, found "+
		"or counted wrong", "That is no way to settle a sending.")
}

// NeedsReason reports whether stock is lost or found by it, for a reason.
func (s Settling) NeedsReason() bool { return s == ShortLostFrom || s == ShortLostTo || s == OverFound }

// At is the branch whose document settles: whose loss it is, and the receiver's else.
func (s Settling) At(from, to uint64) uint64 {
	if s == ShortLostFrom || s == ShortBack {
		return from
	}
	return to
}

// SettlePlan says how a line of a sending is settled: so many, with these numbers. Account is that of
// the reason, where something is lost or found.
type SettlePlan struct {
	From, To uint64
	How      Settling
	Quantity decimal.Decimal
	Numbers  []string
	Account  ledger.Account
	Day      time.Time
}

// SettleSending settles what is short or over of a line, and returns it as it stands then.
func (d *Draft) SettleSending(l SendingLine, p SettlePlan) (SendingLine, error) {
	if err := p.How.Check(); err != nil {
		return l, err
	}
	item := d.holding.Items[l.Variant]
	open, numbers := l.OnWay(), l.NumbersOnWay()
	if p.How.Over() {
		open, numbers = l.OverLeft(), l.NumbersOver()
	}
	if err := p.fits(item, open, numbers); err != nil {
		return l, err
	}
	l.Ended = append(slices.Clone(l.Ended), p.Numbers...)
	if p.How.Over() {
		l.OverSettled = l.OverSettled.Add(p.Quantity)
		return l, d.settleOver(l, p, item)
	}
	return d.settleShort(l, p)
}

// fits refuses more than is open, or other numbers.
func (p SettlePlan) fits(item Item, open decimal.Decimal, numbers []string) error {
	if !p.Quantity.IsPositive() || p.Quantity.GreaterThan(open) {
		return fault.Refuse("quantity", p.Quantity, "1 to "+item.Unit.Format(open), "%s: there are %s to settle.", item.Name,
			item.Unit.Format(open))
	}
	if item.Tracking != BySerial {
		return nil
	}
	if !p.Quantity.Equal(decimal.New(int64(len(p.Numbers)), 0)) {
		return fault.Field("serials", len(p.Numbers), p.Quantity.String()+" numbers", "%s: say which %s.", item.Name,
			numbersOf(p.Quantity))
	}
	for _, n := range p.Numbers {
		if !slices.Contains(numbers, n) {
			return fault.Refuse("serials", n, "a number to settle", "%s No. %s is not one of those to settle.", item.Name, n)
		}
	}
	return nil
}

func (d *Draft) settleShort(l SendingLine, p SettlePlan) (SendingLine, error) {
	want := onWay(1, p.To, l, p.Quantity, p.Numbers)
	switch p.How {
	case ShortFound, ShortBack:
		at := p.To
		if p.How == ShortBack {
			at = p.From
		}
		shelf, err := d.holding.Where(at)
		if err != nil {
			return l, err
		}
		if p.How == ShortBack {
			l.Back = l.Back.Add(p.Quantity)
		} else {
			l.Arrived = l.Arrived.Add(p.Quantity)
		}
		return l, d.shift(want, func(k Key) Key { k.Shelf, k.Condition = shelf, l.Condition; return k })
	}
	worth, err := d.Take(want)
	if err != nil {
		return l, err
	}
	d.Post(p.Account, worth)
	d.Post(ledger.Stock, worth.Neg())
	l.Lost = l.Lost.Add(p.Quantity)
	return l, nil
}

func (d *Draft) settleOver(l SendingLine, p SettlePlan, item Item) error {
	shelf, err := d.holding.Where(p.To)
	if err != nil {
		return err
	}
	switch p.How {
	case OverSent:
		return d.shift(Want{Line: 1, Variant: l.Variant, Branch: p.From, Condition: l.Condition,
			Quantity: p.Quantity, Lot: l.Lot,
			Serials: p.Numbers, Day: p.Day, Unsold: true}, func(k Key) Key { k.Shelf = shelf; return k })
	case OverFound:
		return d.putOn(Putting{Variant: l.Variant, Branch: p.To, Condition: l.Condition, Lot: l.Lot, Serials: p.Numbers,
			Account: p.Account, Day: p.Day}, item, p.Quantity)
	}
	return nil // counted wrong: nothing was there
}
