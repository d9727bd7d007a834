package buying

import (
	"fmt"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/core/terms"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// OrderInput is the head of a purchase order as it is typed.
type OrderInput struct {
	Supplier uint64           `json:"supplier_id"`
	Branch   uint64           `json:"branch_id"`
	WantedOn string           `json:"wanted_on"` // empty for the supplier's lead time from today
	Note     string           `json:"note"`
	Lines    []OrderLineInput `json:"lines"`    // of a new order
	Revision uint64           `json:"revision"` // as it was shown; another one is refused
}

// OrderRef names an order.
type OrderRef struct {
	ID       uint64       `json:"id"`
	Number   string       `json:"number"`
	Revision uint64       `json:"revision"`
	State    buying.State `json:"state"`
}

func refOf(o storebuying.Order) OrderRef { return OrderRef{o.ID, o.Number, o.Revision, o.State} }

// openOrder is an order that is worked on in a transaction.
type openOrder struct {
	storebuying.Order
	lines    []storebuying.OrderLine
	supplier goods.Supplier
	set      terms.Terms
	minor    money.Minor
}

// MakeOrder begins an order as a draft.
func MakeOrder(do deed.Deed, in OrderInput) (OrderRef, error) {
	return deed.Once(do, staff.DeedOrder, func(do deed.Deed) (OrderRef, error) {
		o, err := beginOrder(do, in)
		if err != nil {
			return OrderRef{}, err
		}
		if err := putLines(do, &o, in.Lines); err != nil {
			return OrderRef{}, err
		}
		return refOf(o.Order), storebuying.SaveOrder(do.Tx, &o.Order)
	})
}

// beginOrder keeps the head of a new order.
func beginOrder(do deed.Deed, in OrderInput) (openOrder, error) {
	o := openOrder{Order: storebuying.Order{State: buying.Draft, BranchID: in.Branch, CreatedBy: do.Who.ID,
		CreatedAt: do.Shop.Now()}}
	supplier, _, err := goods.ReadSupplier(do.Tx.Q, in.Supplier)
	if err != nil {
		return o, fault.Field("supplier_id", in.Supplier, "a supplier of the shop", "Choose whom to order from.")
	}
	if supplier.ClosedAt != nil {
		return o, fault.Refuse("supplier_id", supplier.Name, "another supplier",
			"%s is closed; nothing is ordered there any more.", supplier.Name)
	}
	o.SupplierID, o.supplier = supplier.ID, supplier
	set, err := do.Tx.Terms()
	if err != nil {
		return o, err
	}
	o.set, o.minor = set, set.Minor()
	if strings.TrimSpace(in.WantedOn) == "" {
		day := o.supplier.Wanted(set.Day(do.Shop.Now()))
		o.WantedOn = &day
	}
	if err := o.head(do.Tx, do.Who, in); err != nil {
		return o, err
	}
	n, err := book.NextNumber(do.Tx, "order", 1)
	if err != nil {
		return o, err
	}
	o.Number, o.Revision = fmt.Sprintf("P-%04d", n), 1
	if err := storebuying.SaveOrder(do.Tx, &o.Order); err != nil {
		return o, err
	}
	return o, storebuying.AddOrderEvent(do.Tx, storebuying.OrderEvent{OrderID: o.ID, UserID: do.Who.ID, At: do.Shop.Now(),
		What: string(buying.Draft)})
}

// head reads what was typed of the head but the supplier.
func (o *openOrder) head(tx store.Tx, who staff.Actor, in OrderInput) error {
	if in.Branch != 0 {
		o.BranchID = in.Branch
	}
	if err := knownBranch(tx.Q, o.BranchID); err != nil {
		return err
	}
	if err := deed.At(tx.Q, who, o.BranchID); err != nil {
		return err
	}
	if text.Len(in.Note) > 500 {
		return fault.Field("note", in.Note, "500 characters or fewer", "The note is too long.")
	}
	o.Note = text.Prose(in.Note)
	if strings.TrimSpace(in.WantedOn) == "" {
		return nil
	}
	day, err := number.Day("wanted_on", in.WantedOn)
	o.WantedOn = &day
	return err
}

// lockOrder reads an order to work on it.
func lockOrder(tx store.Tx, who staff.Actor, id uint64) (openOrder, error) {
	view, lines, err := storebuying.LockOrder(tx, id)
	if err != nil {
		return openOrder{}, err
	}
	o := openOrder{Order: view.Order, lines: lines}
	if err := deed.At(tx.Q, who, o.BranchID); err != nil {
		return o, err
	}
	supplier, _, err := goods.ReadSupplier(tx.Q, o.SupplierID)
	if err != nil {
		return o, err
	}
	set, err := tx.Terms()
	o.supplier, o.set, o.minor = supplier, set, set.Minor()
	return o, err
}

// keep writes the order with its lines and what follows from them.
func (o *openOrder) keep(tx store.Tx) error {
	figures := storebuying.FiguresOf(o.lines)
	if o.PlacedAt != nil {
		o.State = buying.StateOf(figures)
	}
	for i := range o.lines {
		o.lines[i].Outstanding = decimal.Zero
		if o.PlacedAt != nil {
			o.lines[i].Outstanding = figures[i].Outstanding()
		}
	}
	t := buying.OrderOf(o.supplier.SupplierTerms, figures, o.minor)
	o.Units, o.Net, o.Tax, o.Gross = t.Units, t.Net, t.Tax, t.Gross
	o.ToCome = decimal.Zero
	if o.State.Open() {
		o.ToCome = t.ToCome
	}
	o.Revision++
	if err := storebuying.SaveOrderLines(tx, o.lines); err != nil {
		return err
	}
	return storebuying.SaveOrder(tx, &o.Order)
}

// note adds a knot to the order's thread.
func (o *openOrder) note(do deed.Deed, what, detail string) error {
	return storebuying.AddOrderEvent(do.Tx, storebuying.OrderEvent{OrderID: o.ID, UserID: do.Who.ID, At: do.Shop.Now(),
		What:   what,
		Detail: detail})
}

// ChangeOrder changes the head of an order that is not all in.
func ChangeOrder(do deed.Deed, id uint64, in OrderInput) (OrderRef, error) {
	return deed.Once(do, staff.DeedOrder, func(do deed.Deed) (OrderRef, error) {
		o, err := lockOrder(do.Tx, do.Who, id)
		if err != nil {
			return OrderRef{}, err
		}
		if err := revision.Check("This order", in.Revision, o.Revision); err != nil {
			return OrderRef{}, err
		}
		if err := o.changeable(); err != nil {
			return OrderRef{}, err
		}
		if in.Supplier != 0 && in.Supplier != o.SupplierID {
			return OrderRef{}, fault.Refuse("supplier_id", in.Supplier, "to copy it as a new order",
				"An order stays with its supplier.")
		}
		was := o.Order
		if strings.TrimSpace(in.WantedOn) == "" {
			o.WantedOn = nil
		}
		if err := o.head(do.Tx, do.Who, in); err != nil {
			return OrderRef{}, err
		}
		if o.PlacedAt != nil {
			var said []string
			if day(was.WantedOn) != day(o.WantedOn) {
				said = append(said, "wanted "+day(was.WantedOn)+" → "+day(o.WantedOn))
			}
			if was.BranchID != o.BranchID {
				said = append(said, "to another branch")
			}
			if was.Note != o.Note {
				said = append(said, "the note")
			}
			if len(said) > 0 {
				now := do.Shop.Now()
				o.ChangedAt = &now
				if err := o.note(do, "Changed", strings.Join(said, ", ")); err != nil {
					return OrderRef{}, err
				}
			}
		}
		err = o.keep(do.Tx)
		return refOf(o.Order), err
	})
}

func day(of *time.Time) string {
	if of == nil {
		return "any day"
	}
	return of.Format("2 Jan 2006")
}

// changeable refuses to change an order of which nothing is outstanding.
func (o *openOrder) changeable() error {
	if o.PlacedAt != nil && !o.State.Open() {
		return fault.Refuse("order_id", o.Number, "to copy it as a new order",
			"%s is %s; there is nothing left to change.",
			o.Number, strings.ToLower(string(o.State)))
	}
	return nil
}
