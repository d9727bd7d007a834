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

// Note works out which row an event is of, and what the book has there at that moment.
func Note(held stock.Holding, branch uint64, in Noted) (Event, error) {
	item := held.Items[in.Variant]
	e := Event{
		Row:      RowKey{Variant: in.Variant, Lot: in.Lot, Condition: stock.Condition(in.Condition)},
		Quantity: decimal.New(1, 0),
	}
	if e.Row.Condition == "" {
		e.Row.Condition = stock.ForSale
	}
	if err := stock.CheckCondition(e.Row.Condition); err != nil {
		return e, err
	}
	var err error
	if strings.TrimSpace(in.Quantity) != "" {
		if e.Quantity, err = item.Unit.Parse("quantity", in.Quantity); err != nil {
			return e, err
		}
	}
	switch item.Tracking {
	case stock.NotStocked:
		return e, fault.Refuse("variant_id", item.Name, "a product with stock", "%s has no stock to count.", item.Name)
	case stock.BySerial:
		err = e.number(held, branch, in.Serial)
	case stock.ByLot:
		err = e.lot(held, branch, in)
	}
	for key, q := range held.Balances {
		if key.Variant == in.Variant && key.Lot == e.Row.Lot && key.Condition == e.Row.Condition &&
			held.Shelves[key.Shelf].Branch == branch {
			e.OnHand = e.OnHand.Add(q)
		}
	}
	return e, err
}

// number finds the unit that was counted by its serial number.
func (e *Event) number(held stock.Holding, branch uint64, typed string) error {
	item := held.Items[e.Row.Variant]
	e.Serial = serial.Normal(typed)
	u, known := held.Units[stock.UnitKey{Variant: e.Row.Variant, Serial: e.Serial}]
	if e.Serial == "" || !e.Quantity.Equal(decimal.New(1, 0)) {
		return fault.Field("serial", typed, "the number on the unit", "%s is counted by scanning its serial numbers.",
			item.Name)
	}
	if !known || held.Shelves[u.Key.Shelf].Branch != branch {
		return fault.Refuse("serial", e.Serial, "a number in stock here",
			"The book does not have %s No. %s here. Set it apart and look it up.", item.Name, e.Serial)
	}
	e.Row.Condition = u.Key.Condition
	return nil
}

// lot finds the lot that was counted: the one said, the one in the code, or the only one
// that is here.
func (e *Event) lot(held stock.Holding, branch uint64, in Noted) error {
	item := held.Items[e.Row.Variant]
	if e.Row.Lot != 0 {
		return nil
	}
	if in.LotNumber != "" {
		for id, lot := range held.Lots {
			if lot.Number == in.LotNumber && (in.Expiry == nil || lot.Expiry.Equal(*in.Expiry)) {
				e.Row.Lot = id
				return nil
			}
		}
		return fault.Refuse("code", in.LotNumber, "a lot that the book has",
			"The book has no lot %s of %s with that expiry. Set it apart and look it up.", in.LotNumber, item.Name)
	}
	lots := map[uint64]bool{}
	for key, q := range held.Balances {
		if key.Variant == e.Row.Variant && key.Condition == e.Row.Condition &&
			held.Shelves[key.Shelf].Branch == branch &&
			q.IsPositive() {
			lots[key.Lot] = true
			e.Row.Lot = key.Lot
		}
	}
	if len(lots) == 1 {
		return nil
	}
	var names []string
	for lot := range lots {
		names = append(names, held.Lots[lot].Number)
	}
	slices.Sort(names)
	e.Row.Lot = 0
	return fault.Field("lot_id", "", strings.Join(names, " or "),
		"%s lies here in %d lots. Type into the row of the right lot.", item.Name, len(lots))
}
