package count

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/serial"
	"itemrack/core/stock"
)

// Plan is what a count of some variants takes in at a branch: each that is counted or has
// serial numbers, for sale, and every other lot and condition of which there is some.
// Services and bundles are left out. Rows are in the order of their keys.
func Plan(variants map[uint64]stock.Tracking, balances map[RowKey]decimal.Decimal) []RowKey {
	rows := map[RowKey]bool{}
	for id, tracking := range variants {
		if tracking == stock.Counted || tracking == stock.BySerial {
			rows[RowKey{Variant: id, Condition: stock.ForSale}] = true
		}
	}
	for key, q := range balances {
		if _, ok := variants[key.Variant]; ok && q.IsPositive() && key.Condition != stock.OnTheWay {
			rows[key] = true
		}
	}
	list := make([]RowKey, 0, len(rows))
	for key := range rows {
		list = append(list, key)
	}
	slices.SortFunc(list, func(a, b RowKey) int {
		return cmp.Or(cmp.Compare(a.Variant, b.Variant), cmp.Compare(a.Lot, b.Lot),
			cmp.Compare(a.Condition, b.Condition))
	})
	return list
}

// Open refuses what can't be done any more in a count, number being its own.
func (s State) Open(number string) error {
	if s == Closed {
		return fault.Refuse("count", number, "a count that is open", "%s is closed.", number)
	}
	return nil
}

// Counts refuses to count in a count that is not planned or being counted.
func (s State) Counts(number string) error {
	if s != Planned && s != Counting {
		return fault.Refuse("count", number, "a count that is open", "%s is %s; nothing more can be counted in it.",
			number, s)
	}
	return nil
}

// Move refuses a state that a count can't be put in by hand.
func (s State) Move(number string, to State) error {
	if to != Settling && to != Counting {
		return fault.Field("state", to, "Settling or Counting", "A count can't be put in %q by hand.", to)
	}
	return s.Open(number)
}

// Noted is what a counter did: a scan or a typed quantity, empty for one. LotNumber and
// Expiry are those that stood in a scanned code.
type Noted struct {
	Variant   uint64
	Lot       uint64
	Condition string
	Quantity  string
	Serial    string
	LotNumber string
	Expiry    *time.Time
}

// Place is where a count counts: at a branch, on some of its shelves, or on all where none is named.
type Place struct {
	Branch  uint64
	Shelves []uint64
}

// has reports whether a shelf is counted.
func (p Place) has(held stock.Holding, shelf uint64) bool {
	return held.Shelves[shelf].Branch == p.Branch && (len(p.Shelves) == 0 || slices.Contains(p.Shelves, shelf))
}

// Lying is what the book has of a row at a place.
func (p Place) Lying(held stock.Holding, row RowKey) decimal.Decimal {
	sum := decimal.Zero
	for key, q := range held.Balances {
		if key.Variant == row.Variant && key.Lot == row.Lot && key.Condition == row.Condition && p.has(held, key.Shelf) {
			sum = sum.Add(q)
		}
	}
	return sum
}

// Note works out which row an event is of, and what the book had there at that moment; since are the
// entries that the book took in after it, of an event that comes late. NewLot says that the book does
// not know the lot of LotNumber yet.
func Note(held stock.Holding, place Place, in Noted, since []stock.Entry) (e Event, newLot bool, err error) {
	item, known := held.Items[in.Variant]
	if !known {
		return e, false, fault.Missing("variant_id", in.Variant, "There is no variant %d.", in.Variant)
	}
	e = Event{
		Row:      RowKey{Variant: in.Variant, Lot: in.Lot, Condition: stock.Condition(in.Condition)},
		Quantity: decimal.New(1, 0),
	}
	if e.Row.Condition == "" {
		e.Row.Condition = stock.ForSale
	}
	if err := held.CheckCondition(e.Row.Condition); err != nil {
		return e, false, err
	}
	if strings.TrimSpace(in.Quantity) != "" {
		if e.Quantity, err = item.Unit.Parse("quantity", in.Quantity); err != nil {
			return e, false, err
		}
	}
	switch item.Tracking {
	case stock.NotStocked:
		return e, false, fault.Refuse("variant_id", item.Name, "a product with stock", "%s has no stock to count.", item.Name)
	case stock.BySerial:
		err = e.number(held, place, in.Serial)
	case stock.ByLot:
		newLot, err = e.lot(held, place, in)
	}
	e.OnHand = place.Lying(held, e.Row)
	for _, s := range since {
		if s.Variant == e.Row.Variant && s.Lot == e.Row.Lot && s.Condition == e.Row.Condition && place.has(held, s.Shelf) {
			e.OnHand = e.OnHand.Sub(s.Quantity)
		}
	}
	return e, newLot, err
}

// number finds the unit that was counted by its serial number. One that the book does not have here is
// noted as unexpected.
func (e *Event) number(held stock.Holding, place Place, typed string) error {
	item := held.Items[e.Row.Variant]
	e.Serial = serial.Normal(typed)
	u, known := held.Units[stock.UnitKey{Variant: e.Row.Variant, Serial: e.Serial}]
	if e.Serial == "" || !e.Quantity.Equal(decimal.New(1, 0)) {
		return fault.Field("serial", typed, "the number on the unit", "%s is counted by scanning its serial numbers.",
			item.Name)
	}
	if !known || u.State != serial.InStock || !place.has(held, u.Key.Shelf) || u.Key.Condition == stock.OnTheWay {
		e.Unexpected = true
		return nil
	}
	e.Row.Condition = u.Key.Condition
	return nil
}

// Believed says where the book has a serial number that was not expected where it was counted.
func Believed(held stock.Holding, branches map[uint64]string, variant uint64, number string) string {
	u, known := held.Units[stock.UnitKey{Variant: variant, Serial: number}]
	switch {
	case !known:
		return "not known"
	case u.State != serial.InStock:
		return string(u.State)
	}
	shelf := held.Shelves[u.Key.Shelf]
	if u.Key.Condition == stock.OnTheWay {
		return "on the way to " + branches[shelf.Branch]
	}
	return string(u.Key.Condition) + " at " + branches[shelf.Branch] + ", " + shelf.Name
}

// lot finds the lot that was counted: the one said, the one in the code, or the only one
// that is here. It says whether the book does not know it yet.
func (e *Event) lot(held stock.Holding, place Place, in Noted) (bool, error) {
	item := held.Items[e.Row.Variant]
	if e.Row.Lot != 0 {
		return false, nil
	}
	if in.LotNumber != "" {
		var until []string
		for id, lot := range held.Lots {
			if lot.Number == in.LotNumber && (in.Expiry == nil || lot.Expiry.Equal(*in.Expiry)) {
				e.Row.Lot = id
				until = append(until, lot.Expiry.Format(time.DateOnly))
			}
		}
		if len(until) > 1 {
			slices.Sort(until)
			return false, fault.Field("expiry", "", strings.Join(until, " or "), "%s has %d lots %s: say until when the one is "+
				"that was counted.", item.Name, len(until), in.LotNumber)
		}
		return len(until) == 0, nil
	}
	lots := map[uint64]bool{}
	for key, q := range held.Balances {
		if key.Variant == e.Row.Variant && key.Condition == e.Row.Condition &&
			place.has(held, key.Shelf) && q.IsPositive() {
			lots[key.Lot] = true
			e.Row.Lot = key.Lot
		}
	}
	if len(lots) == 1 {
		return false, nil
	}
	var names []string
	for lot := range lots {
		names = append(names, held.Lots[lot].Number)
	}
	slices.Sort(names)
	e.Row.Lot = 0
	return false, fault.Field("lot_id", "", strings.Join(names, " or "),
		"%s lies here in %d lots. Type into the row of the right lot.", item.Name, len(lots))
}

// CheckCounter refuses to count to somebody who is none of the counters of a count; one without counters
// is counted by whoever may.
func CheckCounter(number string, who uint64, counters []uint64, names []string) error {
	if len(counters) == 0 || slices.Contains(counters, who) {
		return nil
	}
	return fault.Refuse("counter_ids", number, "one of its counters",
		"%s is counted by %s. Whoever else counts is added first.", number,
		strings.Join(names, " and "))
}

// RowDeed is what can be done with a row of a count, but for counting it.
type RowDeed string

// What can be done with a row: keep or drop one that was not planned, count it again, choose the column of
// a counter, let it move again.
const (
	RowKeep    RowDeed = "keep"
	RowDrop    RowDeed = "drop"
	RowRecount RowDeed = "recount"
	RowChoose  RowDeed = "choose"
	RowRelease RowDeed = "release"
)

// Check refuses what can't be done, or a counter that the count does not have.
func (d RowDeed) Check(counters []uint64, counter uint64) error {
	if !slices.Contains([]RowDeed{RowKeep, RowDrop, RowRecount, RowChoose, RowRelease}, d) {
		return fault.Field("what", d, "keep, drop, recount, choose or release", "That can't be done with a row.")
	}
	if d == RowChoose && counter == 0 || counter != 0 && !slices.Contains(counters, counter) {
		return fault.Field("counter_id", counter, "a counter of the count", "Say whose column holds.")
	}
	return nil
}
