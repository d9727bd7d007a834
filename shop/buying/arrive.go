package buying

import (
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/store"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// readOrders checks the orders that a delivery is to be against, which say whose it is, and
// reads their lines.
func readOrders(tx store.Tx, d *storebuying.Delivery, ids []uint64) ([]storebuying.OrderLine, error) {
	for _, id := range ids {
		o, _, err := storebuying.ReadOrder(tx.Q, id)
		if err != nil {
			return nil, err
		}
		switch {
		case d.SupplierID != nil && *d.SupplierID != o.SupplierID:
			return nil, fault.Field("order_ids", o.Number, "orders of the supplier that the goods came from",
				"%s is an order to %s.", o.Number, o.Supplier)
		case !o.State.Open():
			return nil, fault.Refuse("order_ids", o.Number, "an order that goods are awaited of",
				"%s is %s; nothing of it is outstanding.", o.Number, strings.ToLower(string(o.State)))
		}
		d.SupplierID = &o.SupplierID
	}
	return storebuying.LinesOfOrders(tx.Q, ids)
}

// againstOf are the orders that a draft is against, with their lines; those that a new one
// says.
func againstOf(tx store.Tx, delivery uint64, head DeliveryInput) ([]uint64, []storebuying.OrderLine, error) {
	ids := head.Orders
	if delivery != 0 {
		var err error
		if ids, err = storebuying.OrdersOf(tx.Q, delivery); err != nil {
			return nil, nil, err
		}
	}
	lines, err := storebuying.LinesOfOrders(tx.Q, ids)
	return ids, lines, err
}

// outstandingOf is how much of a variant is awaited.
func outstandingOf(lines []storebuying.OrderLine, variant uint64) decimal.Decimal {
	sum := decimal.Zero
	for _, l := range lines {
		if l.VariantID == variant {
			sum = sum.Add(l.Outstanding)
		}
	}
	return sum
}

// FillDelivery fills a draft in as it was ordered: what is outstanding of its orders and
// not in it yet.
func FillDelivery(do deed.Deed, id uint64) (DeliveryRef, error) {
	return deed.Once(do, staff.DeedReceive, func(do deed.Deed) (DeliveryRef,
		error) {
		return fillDelivery(do, id)
	})
}

func fillDelivery(do deed.Deed, id uint64) (DeliveryRef, error) {
	return changeLines(do, id, func(c changing) ([]storebuying.DeliveryLine, error) {
		if len(c.awaited) == 0 {
			return nil, fault.Field("order_ids", "", "the orders that the goods came for",
				"Choose what was ordered first.")
		}
		rows := taken(c.rows, 0)
		ids := make([]uint64, len(c.awaited))
		for i, a := range c.awaited {
			ids[i] = a.VariantID
		}
		found, err := goods.Sellables(do.Tx.Q, ids, do.Shop.Now())
		if err != nil {
			return nil, err
		}
		for _, a := range c.awaited {
			out := outstandingOf(c.awaited, a.VariantID)
			if !out.IsPositive() || slices.ContainsFunc(rows,
				func(l storebuying.DeliveryLine) bool { return l.VariantID == a.VariantID }) {
				continue
			}
			row := storebuying.DeliveryLine{VariantID: a.VariantID, Quantity: out, How: buying.AsOrdered,
				Percent: found[a.VariantID].BuyPercent}
			if a.Price != nil {
				each := a.Figures().CostAs(c.d.CostsIncludeTax, a.Percent, c.minor)
				row.Cost = &each
			}
			rows = append(rows, row)
		}
		return rows, nil
	})
}

// TakeProposed takes what a scan proposed.
func TakeProposed(do deed.Deed, id uint64) (DeliveryRef, error) {
	return deed.Once(do, staff.DeedReceive, func(do deed.Deed) (DeliveryRef, error) {
		return changeLines(do, id, func(c changing) ([]storebuying.DeliveryLine, error) {
			return taken(c.rows, 0),
				nil
		})
	})
}

// changing is a draft whose lines are changed, with what it is against.
type changing struct {
	d       storebuying.Delivery
	rows    []storebuying.DeliveryLine
	awaited []storebuying.OrderLine
	minor   money.Minor
}

// changeLines changes the lines of a draft with what it is against at hand.
func changeLines(do deed.Deed, id uint64, change func(c changing) ([]storebuying.DeliveryLine, error)) (DeliveryRef,
	error) {
	view, rows, err := storebuying.LockDelivery(do.Tx, id)
	if err != nil {
		return DeliveryRef{}, err
	}
	if err := deed.At(do.Tx.Q, do.Who, view.BranchID); err != nil {
		return DeliveryRef{}, err
	}
	if view.DocumentID != nil {
		return DeliveryRef{}, fault.Clash("delivery", view.Number, "a delivery not posted yet",
			"It is posted already, as %s.", view.Number)
	}
	orders, awaited, err := againstOf(do.Tx, id, DeliveryInput{})
	if err != nil {
		return DeliveryRef{}, err
	}
	set, err := do.Tx.Terms()
	if err != nil {
		return DeliveryRef{}, err
	}
	if rows, err = change(changing{view.Delivery, rows, awaited, set.Minor()}); err != nil {
		return DeliveryRef{}, err
	}
	return keepDelivery(do.Tx, &view.Delivery, orders, rows)
}

// lockAwaited locks the orders that a delivery is against, in one order.
func lockAwaited(tx store.Tx, who staff.Actor, delivery uint64) ([]openOrder, error) {
	ids, err := storebuying.OrdersOf(tx.Q, delivery)
	if err != nil {
		return nil, err
	}
	list := make([]openOrder, len(ids))
	for i, id := range ids {
		if list[i], err = lockOrder(tx, who, id); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// share is how many units of a delivery's line are for a line of an order.
type share struct {
	line     int // of the delivery
	order    int // of those it is against
	at       int // line of the order
	quantity decimal.Decimal
}

// sharesOf shares the lines of a delivery over the orders it is against.
func sharesOf(orders []openOrder, lines []storebuying.DeliveryLine) []share {
	var shares []share
	taken := map[[2]int]decimal.Decimal{}
	for n, l := range lines {
		var at [][2]int
		var figures []buying.Ordered
		for i := range orders {
			for j, o := range orders[i].lines {
				if o.VariantID == l.VariantID {
					f := o.Figures()
					f.Arrived = f.Arrived.Add(taken[[2]int{i, j}])
					at, figures = append(at, [2]int{i, j}), append(figures, f)
				}
			}
		}
		for k, q := range buying.Allot(l.Quantity, figures) {
			if q.IsPositive() {
				taken[at[k]] = taken[at[k]].Add(q)
				shares = append(shares, share{line: n, order: at[k][0], at: at[k][1], quantity: q})
			}
		}
	}
	return shares
}

// arrive takes what a posted delivery brought off its orders, and calls off what is said of
// the rest.
func arrive(do deed.Deed, orders []openOrder, lines []storebuying.DeliveryLine, shares []share, done deed.Posted,
	off []uint64) error {
	came := make([]decimal.Decimal, len(orders))
	rows := make([]storebuying.Share, len(shares))
	for i, x := range shares {
		o := &orders[x.order].lines[x.at]
		o.Arrived = o.Arrived.Add(x.quantity)
		o.Revision++
		came[x.order] = came[x.order].Add(x.quantity)
		rows[i] = storebuying.Share{DeliveryLineID: lines[x.line].ID, OrderLineID: o.ID, Quantity: x.quantity}
	}
	if err := storebuying.KeepShares(do.Tx, rows); err != nil {
		return err
	}
	for i := range orders {
		o := &orders[i]
		if len(off) > 0 {
			if _, err := o.callOff(do, off, ""); err != nil {
				return err
			}
		}
		if err := o.keep(do.Tx); err != nil {
			return err
		}
		if err := storebuying.OtherDrafts(do.Tx, o.ID, 0); err != nil {
			return err
		}
		e := storebuying.OrderEvent{OrderID: o.ID, UserID: do.Who.ID, At: done.At, What: string(o.State),
			Detail: came[i].String(), DocumentID: &done.Document}
		if err := storebuying.AddOrderEvent(do.Tx, e); err != nil {
			return err
		}
	}
	return nil
}

// Unarrive gives back to their orders what a delivery brought that is undone: it is awaited
// again.
func Unarrive(do deed.Deed, document uint64) error {
	delivery, err := storebuying.DeliveryOf(do.Tx.Q, document)
	if err != nil || delivery == 0 {
		return err
	}
	shares, err := storebuying.SharesOf(do.Tx.Q, delivery)
	if err != nil {
		return err
	}
	orders, err := lockAwaited(do.Tx, do.Who, delivery)
	if err != nil {
		return err
	}
	for i := range orders {
		o := &orders[i]
		for j := range o.lines {
			for _, share := range shares {
				if share.OrderLineID == o.lines[j].ID {
					o.lines[j].Arrived = o.lines[j].Arrived.Sub(share.Quantity)
					o.lines[j].Revision++
				}
			}
		}
		if err := o.keep(do.Tx); err != nil {
			return err
		}
		if err := storebuying.AddOrderEvent(do.Tx, storebuying.OrderEvent{OrderID: o.ID, UserID: do.Who.ID, At: do.Shop.Now(),
			What: string(o.State), Detail: "undone",
			DocumentID: &document}); err != nil {
			return err
		}
	}
	return storebuying.DropShares(do.Tx, delivery)
}

// suppliedBy is what a supplier asked in a delivery: where that is what was agreed, the
// order has noted it already.
func suppliedBy(d storebuying.Delivery, lines []storebuying.DeliveryLine, totals buying.Totals, orders []openOrder,
	done deed.Posted) []storebuying.Supplied {
	agreed := map[uint64]decimal.Decimal{}
	for _, o := range orders {
		for _, l := range o.lines {
			agreed[l.VariantID] = l.Figures().UnitCost(o.minor)
		}
	}
	rows := map[uint64]storebuying.Supplied{}
	for i, l := range lines {
		each := totals.Lines[i].Net.DivRound(l.Quantity, money.CostPlaces)
		if was, ok := agreed[l.VariantID]; ok && was.Equal(each) || each.IsZero() {
			continue
		}
		rows[l.VariantID] = storebuying.Supplied{SupplierID: *d.SupplierID, VariantID: l.VariantID,
			Factor: decimal.New(1, 0), Price: each,
			At: done.At, Source: done.Number}
	}
	list := make([]storebuying.Supplied, 0, len(rows))
	for _, r := range rows {
		list = append(list, r)
	}
	return list
}
