package stock

import (
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/serial"
	"itemrack/core/text"
)

// How stock is put right on the spot.
const (
	SetTo    = "set to"
	WriteOff = "write off"
	WriteOn  = "write on"
)

// Putting is what stock of one variant in one condition is put right by at a branch: set to what
// is there, or so many written off or on. Account is that of the reason.
type Putting struct {
	How       string
	Variant   uint64
	Branch    uint64
	Condition Condition
	Lot       uint64
	Quantity  string // as it was typed
	Serials   []string
	Account   ledger.Account
	Day       time.Time
}

// Put puts stock right and returns what was expected there and what changed. What goes is posted,
// at its cost, to the account of the reason; what is found, at the average, under FIFO at what goes
// out next, with nothing in stock at the last cost.
func (d *Draft) Put(p Putting) (expected, change decimal.Decimal, err error) {
	held := d.Holding()
	item, known := held.Items[p.Variant]
	if !known {
		return expected, change, fault.Missing("variant_id", p.Variant, "There is no variant %d.", p.Variant)
	}
	if item.Tracking == NotStocked {
		return expected, change, fault.Refuse("variant_id", item.Name, "goods with stock", "%s is not stocked.", item.Name)
	}
	if err := held.CheckCondition(p.Condition); err != nil {
		return expected, change, err
	}
	expected = held.lying(p)
	if change, err = p.change(item, expected); err != nil {
		return expected, change, err
	}
	if change.IsZero() {
		return expected, change, fault.Refuse("quantity", p.Quantity, "another number",
			"%s: there are %s already; nothing is changed.", item.Name, item.Unit.Format(expected))
	}
	if item.Tracking == BySerial && !change.Abs().Equal(decimal.New(int64(len(p.Serials)), 0)) {
		return expected, change, fault.Field("serials", strings.Join(p.Serials, ", "), change.Abs().String()+" numbers",
			"%s: say which %s.", item.Name, numbersOf(change.Abs()))
	}
	if change.IsNegative() {
		err = d.putOff(p, change.Abs())
	} else {
		err = d.putOn(p, item, change)
	}
	return expected, change, err
}

// numbersOf asks which of so many numbered goods.
func numbersOf(n decimal.Decimal) string {
	return strings.TrimPrefix(text.Plural(n, "number it is", "numbers they are"), "1 ")
}

// lying is how many lie at a branch in a condition, of the lot where one is said.
func (h Holding) lying(p Putting) decimal.Decimal {
	sum := decimal.Zero
	for key, q := range h.Balances {
		if key.Variant == p.Variant && key.Condition == p.Condition && h.Shelves[key.Shelf].Branch == p.Branch &&
			(p.Lot == 0 || key.Lot == p.Lot) {
			sum = sum.Add(q)
		}
	}
	return sum
}

// change is by how much stock changes.
func (p Putting) change(item Item, expected decimal.Decimal) (decimal.Decimal, error) {
	q, err := item.Unit.Parse("quantity", p.Quantity)
	if err != nil {
		return q, err
	}
	if q.IsNegative() {
		return q, fault.Field("quantity", p.Quantity, "0 or more", "There can't be less than nothing.")
	}
	switch p.How {
	case SetTo:
		return q.Sub(expected), nil
	case WriteOff:
		if q.GreaterThan(expected) {
			return q, fault.Refuse("quantity", p.Quantity, "no more than "+item.Unit.Format(expected),
				"%s: %s can't be written off, %s are %s here.", item.Name, item.Unit.Format(q), item.Unit.Format(expected),
				p.Condition)
		}
		return q.Neg(), nil
	case WriteOn:
		return q, nil
	}
	return q, fault.Field("how", p.How, "set to, write off or write on", "Stock can't be put right by %q.", p.How)
}

func (d *Draft) putOff(p Putting, q decimal.Decimal) error {
	want := Want{Line: 1, Variant: p.Variant, Branch: p.Branch, Condition: p.Condition, Quantity: q, Lot: p.Lot,
		Serials: p.Serials, Unsold: true, Day: p.Day}
	return d.WriteOff(want, p.Account)
}

// WriteOff takes goods out and posts what they were worth to the account of the reason. Goods of lots say
// which.
func (d *Draft) WriteOff(want Want, account ledger.Account) error {
	if err := d.holding.lotNamed(want); err != nil {
		return err
	}
	worth, err := d.Take(want)
	if err != nil {
		return err
	}
	d.Post(account, worth)
	d.Post(ledger.Stock, worth.Neg())
	return nil
}

func (d *Draft) putOn(p Putting, item Item, q decimal.Decimal) error {
	shelf, err := d.holding.Where(p.Branch)
	if err != nil {
		return err
	}
	if item.Tracking == ByLot && p.Lot == 0 {
		lots := d.holding.lotsOf(p)
		if len(lots) != 1 {
			return fault.Field("lot_id", "", "one of its lots", "%s is kept by lot; say which was found.", item.Name)
		}
		p.Lot = lots[0]
	}
	for _, n := range p.Serials {
		if d.holding.Units[UnitKey{Variant: p.Variant, Serial: n}].State == serial.Sold {
			return fault.Refuse("serials", n, "to take it back by its sale", "%s No. %s was sold. If it is here, it came back: "+
				"take it back by its number.", item.Name, n)
		}
	}
	worth := d.holding.Pools[p.Variant].Worth(q)
	key := Key{Variant: p.Variant, Shelf: shelf, Lot: p.Lot, Condition: p.Condition}
	if err := Sellable(d.holding.Lots[p.Lot], p.Condition, p.Day); err != nil {
		return err
	}
	if err := d.Restore(1, key, q, worth, p.Serials); err != nil {
		return err
	}
	d.Post(p.Account, worth.Neg())
	d.Post(ledger.Stock, worth)
	return nil
}

// lotsOf lists the lots that lie at a branch in a condition.
func (h Holding) lotsOf(p Putting) []uint64 {
	var lots []uint64
	for key, q := range h.Balances {
		if key.Variant == p.Variant && key.Condition == p.Condition && h.Shelves[key.Shelf].Branch == p.Branch &&
			q.IsPositive() && !slices.Contains(lots, key.Lot) {
			lots = append(lots, key.Lot)
		}
	}
	return lots
}
