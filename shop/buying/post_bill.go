package buying

import (
	"slices"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/terms"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// PostBill posts a draft: what was received and not billed is cleared, what is dearer goes
// to the goods that are left and to the cost of those that were sold, and what is payable is
// owed.
func PostBill(do deed.Deed, id uint64) (deed.Posted, error) {
	return deed.Once(do, staff.DeedBill, func(do deed.Deed) (deed.Posted, error) {
		view, lines, deliveries, err := storebuying.LockBill(do.Tx, id)
		if err != nil {
			return deed.Posted{}, err
		}
		if view.DocumentID != nil {
			return deed.Posted{}, postedAlready(view)
		}
		b := view.Bill
		if b.Number == "" {
			return deed.Posted{}, fault.Field("number", "", "the number on their bill",
				"What is the number of their bill?")
		}
		if len(lines) == 0 && !b.Freight.IsPositive() {
			return deed.Posted{}, fault.Field("lines", "", "at least one line, or freight",
				"The bill has nothing on it yet.")
		}
		of, err := lockLines(do.Tx, lines, deliveries)
		if err != nil {
			return deed.Posted{}, err
		}
		for i, l := range lines {
			at := slices.IndexFunc(of,
				func(x storebuying.ToBill) bool { return l.DeliveryLineID != nil && x.ID == *l.DeliveryLineID })
			if at < 0 || l.Shown == nil {
				continue
			}
			if err := buying.CheckUnbilled(of[at].Name, of[at].Number, *l.Shown, of[at].Unbilled); err != nil {
				return deed.Posted{}, InLine(i, err)
			}
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return deed.Posted{}, err
		}
		billed, err := BillTotals(b, lines, of, set.Minor())
		if err != nil {
			return deed.Posted{}, err
		}
		done, err := postBill(do, b, lines, of, billed, set)
		if err != nil {
			return done, err
		}
		return done, settleBill(do.Tx, b, lines, of, billed, done)
	})
}

// lockLines locks and reads the lines of deliveries that a bill is about: those it bills, or
// with none all of the deliveries that its freight is spread over.
func lockLines(tx store.Tx, lines []storebuying.BillLine, deliveries []uint64) ([]storebuying.ToBill, error) {
	ids := deliveredBy(lines)
	if len(lines) == 0 {
		all, err := storebuying.LinesOfDeliveries(tx.Q, deliveries)
		if err != nil {
			return nil, err
		}
		for _, l := range all {
			ids = append(ids, l.ID)
		}
	}
	if err := storebuying.LockToBill(tx, ids); err != nil {
		return nil, err
	}
	return storebuying.LinesToBill(tx.Q, ids)
}

// goodsOf are the goods that a bill takes up or, with no lines of its own, those of the
// deliveries that its freight is spread over.
func goodsOf(lines []storebuying.BillLine, of []storebuying.ToBill, billed buying.Billed) []buying.Goods {
	var list []buying.Goods
	if len(lines) == 0 {
		for _, l := range of {
			list = append(list, buying.Goods{Line: l.ID, Name: l.Name, Units: l.Quantity,
				Net: number.OrZero(l.Cost).Mul(l.Quantity), Kilos: l.Kilos()})
		}
	}
	for i, l := range lines {
		if l.DeliveryLineID == nil {
			continue
		}
		at := slices.IndexFunc(of, func(x storebuying.ToBill) bool { return x.ID == *l.DeliveryLineID })
		list = append(list, buying.Goods{Line: *l.DeliveryLineID, Name: of[at].Name, Units: billed.Lines[i].Came,
			Net: l.Net.Sub(billed.Lines[i].MissingNet), Differs: billed.Lines[i].Differs, Kilos: of[at].Kilos()})
	}
	return list
}

// HoldWith locks what some entries, and what is revalued, are about.
func HoldWith(tx store.Tx, entries []stock.Entry, revalued []stock.Revalued) (stock.Holding, error) {
	variants, documents := stock.Touched(entries), []uint64(nil)
	all := slices.Clone(entries)
	for _, r := range revalued {
		variants, documents = append(variants, r.Variant), append(documents, r.Of)
		all = append(all, r.Brought...)
	}
	slices.Sort(variants)
	var serials []string
	for _, e := range all {
		if e.Serial != "" {
			serials = append(serials, e.Serial)
		}
	}
	held, err := book.Hold(tx, slices.Compact(variants), serials)
	if err != nil {
		return held, err
	}
	held.Later, err = book.Later(tx.Q, documents, slices.Compact(variants))
	return held, err
}

// postBill posts the document of a bill.
func postBill(do deed.Deed, b storebuying.Bill, lines []storebuying.BillLine, of []storebuying.ToBill,
	billed buying.Billed, set terms.Terms) (deed.Posted, error) {
	by, err := buying.Dearer(goodsOf(lines, of, billed), b.Freight, b.Spread, set.Minor())
	if err != nil {
		return deed.Posted{}, err
	}
	var changes []stock.Revalued
	brought := map[uint64][]stock.Entry{} // by document
	for _, l := range of {
		if brought[l.DocumentID] == nil {
			if brought[l.DocumentID], err = book.Entries(do.Tx.Q, l.DocumentID); err != nil {
				return deed.Posted{}, err
			}
		}
		changes = append(changes, stock.Revalued{Revaluation: stock.Revaluation{Of: l.DocumentID, Line: l.Line,
			Variant: l.VariantID, By: by[l.ID]}, Brought: brought[l.DocumentID]})
		delete(by, l.ID)
	}
	held, err := HoldWith(do.Tx, nil, changes)
	if err != nil {
		return deed.Posted{}, err
	}
	name, err := deed.NextNumber(do.Tx, stock.Bill)
	if err != nil {
		return deed.Posted{}, err
	}
	now := do.Shop.Now()
	draft := stock.NewDraft(held, stock.Document{Kind: stock.Bill, Number: name, Branch: b.BranchID, By: do.Who.ID,
		HappenedAt: now,
		RecordedAt: now, Note: b.Note})
	for _, c := range changes {
		if c.By.IsZero() {
			continue
		}
		if _, err := draft.Revalue(c.Revaluation, c.Brought); err != nil {
			return deed.Posted{}, err
		}
	}
	draft.PostAll(billed.Postings())
	return deed.Post(do.Tx, held, draft)
}

// unbilled is what of lines of deliveries is not billed.
func unbilled(of []storebuying.ToBill) []storebuying.Left {
	list := make([]storebuying.Left, len(of))
	for i, l := range of {
		list[i] = storebuying.Left{Line: l.ID, Units: l.Unbilled, Value: l.UnbilledValue}
	}
	return list
}

// settleBill writes what a posted bill leaves: on its lines, on those of the deliveries, and
// as owed.
func settleBill(tx store.Tx, b storebuying.Bill, lines []storebuying.BillLine, of []storebuying.ToBill,
	billed buying.Billed,
	done deed.Posted) error {
	var ahead []uint64 // lines of deliveries of which more is billed than came
	left := map[uint64]*storebuying.ToBill{}
	for i := range of {
		left[of[i].ID] = &of[i]
	}
	for i := range lines {
		x := billed.Lines[i]
		lines[i].Came, lines[i].Cleared, lines[i].AheadUnits, lines[i].Ahead = x.Came, x.Cleared, x.AheadUnits, x.Ahead
		if lines[i].DeliveryLineID == nil {
			continue
		}
		row := left[*lines[i].DeliveryLineID]
		row.Unbilled, row.UnbilledValue = row.Unbilled.Sub(x.Came), row.UnbilledValue.Sub(x.Cleared)
		if x.AheadUnits.IsPositive() && lines[i].OrderLineID == nil {
			ahead = append(ahead, row.ID)
		}
	}
	orders, err := storebuying.OrderLinesFor(tx.Q, ahead)
	if err != nil {
		return err
	}
	for i, l := range lines {
		if l.DeliveryLineID != nil && l.OrderLineID == nil && l.AheadUnits.IsPositive() {
			lines[i].OrderLineID = deed.Reference(orders[*l.DeliveryLineID])
		}
	}
	if len(lines) > 0 {
		if err := storebuying.SetUnbilled(tx, unbilled(of)); err != nil {
			return err
		}
	}
	key := text.NumberKey(b.Number)
	b.PostedKey, b.DocumentID, b.Net, b.Tax, b.Gross, b.Open = &key, &done.Document, billed.Net.Add(billed.Freight),
		billed.Tax, billed.Payable, billed.Payable
	b.Revision++
	if err := storebuying.SaveBill(tx, &b); err != nil {
		return err
	}
	if err := storebuying.SaveBillLines(tx, lines); err != nil {
		return err
	}
	for _, c := range billed.CreditsByTax(linesOf(lines)) {
		if err := storebuying.ExpectCredit(tx, storebuying.CreditExpected{SupplierID: b.SupplierID, DocumentID: done.Document,
			Why:     "too much on bill " + b.Number,
			Percent: c.Percent, Net: c.Net, Open: c.Net, Since: done.At}); err != nil {
			return err
		}
	}
	return nil
}

// billedAhead finds which goods of a delivery were billed before they came: they are worth
// what was billed. Goods that come with their bill can't have been billed.
func billedAhead(tx store.Tx, d storebuying.Delivery, lines []storebuying.DeliveryLine, orders []openOrder,
	shares []share,
	totals *buying.Totals,
	minor money.Minor) ([]decimal.Decimal, error) {
	var ids []uint64
	coming := make([]buying.Coming, len(shares))
	for i, x := range shares {
		ids = append(ids, orders[x.order].lines[x.at].ID)
		coming[i] = buying.Coming{Line: x.line, OrderLine: ids[i], Units: x.quantity}
	}
	rows, err := storebuying.AheadOf(tx, ids)
	if err != nil || len(rows) == 0 {
		return make([]decimal.Decimal, len(lines)), err
	}
	waiting := make([]buying.Ahead, len(rows))
	for i, r := range rows {
		waiting[i] = buying.Ahead{OrderLine: *r.OrderLineID, Units: r.AheadUnits, Worth: r.Ahead}
	}
	met, err := totals.Meet(waiting, coming, typedLines(lines), d.BillLater, minor)
	if err != nil {
		return nil, err
	}
	left := make([]storebuying.Left, len(rows))
	for i, w := range waiting {
		left[i] = storebuying.Left{Line: rows[i].ID, Units: w.Units, Value: w.Worth}
	}
	return met, storebuying.SetAhead(tx, left)
}

// billDelivery notes what a posted delivery owes: a bill where that came with the goods, else
// what is not billed of each line.
func billDelivery(do deed.Deed, d storebuying.Delivery, lines []storebuying.DeliveryLine, totals buying.Totals,
	ahead []decimal.Decimal, set terms.Terms) error {
	if d.SupplierID == nil {
		return nil
	}
	if d.BillLater {
		left := make([]storebuying.Left, len(lines))
		for i, l := range lines {
			left[i] = storebuying.Left{Line: l.ID, Units: l.Quantity.Sub(ahead[i]), Value: totals.Lines[i].Open()}
		}
		return storebuying.SetUnbilled(do.Tx, left)
	}
	supplier, _, err := goods.ReadSupplier(do.Tx.Q, *d.SupplierID)
	if err != nil {
		return err
	}
	came := set.Day(do.Shop.Now())
	if d.CameOn != nil {
		came = *d.CameOn
	}
	return storebuying.SaveBill(do.Tx, &storebuying.Bill{Kind: storebuying.KindBill, SupplierID: supplier.ID,
		BranchID: d.BranchID,
		Number:   d.SupplierNumber, PostedKey: d.PostedNumber,
		DocumentID: d.DocumentID, DeliveryID: &d.ID, BilledOn: came, DueOn: supplier.Due(came),
		Spread: buying.Spread(d.Spread), Net: d.Net, Tax: d.Tax,
		Gross: d.Gross, Open: d.Gross, CreatedBy: do.Who.ID, CreatedAt: do.Shop.Now(), Revision: 1})
}
