package buying

import (
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/deed"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// PlaceOrder makes a draft an order that goods are awaited of.
func PlaceOrder(do deed.Deed, id uint64) (OrderRef, error) {
	return deed.Once(do, staff.DeedOrder, func(do deed.Deed) (OrderRef, error) {
		o, err := lockOrder(do.Tx, do.Who, id)
		if err != nil {
			return OrderRef{}, err
		}
		if o.PlacedAt != nil {
			return OrderRef{}, fault.Clash("order_id", o.Number, "a draft", "%s was placed already.", o.Number)
		}
		if err := o.place(do); err != nil {
			return OrderRef{}, err
		}
		err = o.keep(do.Tx)
		return refOf(o.Order), err
	})
}

// place makes a draft that is locked an order that goods are awaited of.
func (o *openOrder) place(do deed.Deed) error {
	if len(o.lines) == 0 {
		return fault.Field("lines", "", "at least one quantity", "Nothing is ordered yet.")
	}
	ids := make([]uint64, len(o.lines))
	for i, l := range o.lines {
		ids[i] = l.VariantID
	}
	found, err := goods.Sellables(do.Tx.Q, ids, do.Shop.Now())
	if err != nil {
		return err
	}
	for i, l := range o.lines {
		if l.Price == nil {
			return InLine(i, unpriced(found[l.VariantID]))
		}
	}
	now := do.Shop.Now()
	o.PlacedAt = &now
	if err := storebuying.KeepSupplied(do.Tx, suppliedIn(o.Order, o.lines, now)); err != nil {
		return err
	}
	return o.note(do, string(buying.Placed), "")
}

// suppliedIn is what a supplier asks in an order.
func suppliedIn(o storebuying.Order, lines []storebuying.OrderLine, at time.Time) []storebuying.Supplied {
	rows := make([]storebuying.Supplied, 0, len(lines))
	for _, l := range lines {
		if l.Price != nil {
			rows = append(rows, storebuying.Supplied{SupplierID: o.SupplierID, VariantID: l.VariantID,
				PartNumber: l.PartNumber, Pack: l.Pack,
				Factor: l.Factor, Price: *l.Price, Discount: l.Discount, At: at, Source: o.Number})
		}
	}
	return rows
}

// CallOffInput says what of an order is called off: the outstanding of some lines, or of
// all where none is named.
type CallOffInput struct {
	Variants []uint64 `json:"variant_ids"`
	Note     string   `json:"note"`
}

// CallOffOrder calls off what is outstanding of an order.
func CallOffOrder(do deed.Deed, id uint64, in CallOffInput) (OrderRef, error) {
	return deed.Once(do, staff.DeedOrder, func(do deed.Deed) (OrderRef, error) {
		o, err := lockOrder(do.Tx, do.Who, id)
		if err != nil {
			return OrderRef{}, err
		}
		if !o.State.Open() {
			return OrderRef{}, fault.Refuse("order_id", o.Number, "an order that goods are awaited of",
				"%s is %s; nothing of it is outstanding.", o.Number, strings.ToLower(string(o.State)))
		}
		if text.Len(in.Note) > 250 {
			return OrderRef{}, fault.Field("note", in.Note, "250 characters or fewer", "The note is too long.")
		}
		off, err := o.callOff(do, in.Variants, in.Note)
		if err != nil {
			return OrderRef{}, err
		}
		if off.IsZero() {
			return OrderRef{}, fault.Refuse("variant_ids", in.Variants, "a line with something outstanding",
				"Nothing of that is outstanding.")
		}
		now := do.Shop.Now()
		o.ChangedAt = &now
		err = o.keep(do.Tx)
		return refOf(o.Order), err
	})
}

// callOff calls off what is outstanding of some lines, or of all, and returns how many units.
func (o *openOrder) callOff(do deed.Deed, variants []uint64,
	why string) (decimal.Decimal, error) {
	off := decimal.Zero
	for i, l := range o.lines {
		if len(variants) > 0 && !slices.Contains(variants, l.VariantID) {
			continue
		}
		off = off.Add(l.Figures().Outstanding())
		if l.Figures().Outstanding().IsPositive() {
			o.lines[i].Put(l.Figures().CallOff())
			o.lines[i].Revision++
		}
	}
	if off.IsZero() {
		return off, nil
	}
	detail := off.String()
	if why != "" {
		detail += ", " + why
	}
	return off, o.note(do, string(buying.CalledOff), detail)
}

// DropOrder gives up a draft.
func DropOrder(do deed.Deed, id uint64) (OrderRef, error) {
	return deed.Once(do.Under(""), staff.DeedOrder, func(do deed.Deed) (OrderRef, error) {
		o, err := lockOrder(do.Tx, do.Who, id)
		if err != nil {
			return OrderRef{}, err
		}
		if o.PlacedAt != nil {
			return OrderRef{}, fault.Refuse("order_id", o.Number, "to call off what is outstanding",
				"%s is placed; a placed order stays.", o.Number)
		}
		return refOf(o.Order), storebuying.DropOrder(do.Tx, id)
	})
}

// CopyOrder begins a new order with the lines of another, at what they cost there.
func CopyOrder(do deed.Deed, id uint64) (OrderRef, error) {
	return deed.Once(do, staff.DeedOrder, func(do deed.Deed) (OrderRef, error) {
		from, lines, err := storebuying.ReadOrder(do.Tx.Q, id)
		if err != nil {
			return OrderRef{}, err
		}
		o, err := beginOrder(do, OrderInput{Supplier: from.SupplierID, Branch: from.BranchID, Note: from.Note})
		if err != nil {
			return OrderRef{}, err
		}
		for _, l := range lines {
			l.ID, l.OrderID, l.Arrived, l.CalledOff, l.Revision = 0, o.ID, decimal.Zero, decimal.Zero, 1
			o.lines = append(o.lines, l)
		}
		err = o.keep(do.Tx)
		return refOf(o.Order), err
	})
}
