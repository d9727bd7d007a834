package buying

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// DeliveryPosting says what else happens when a delivery is posted: of which goods what has
// not come is called off, and out of what it is paid at once.
type DeliveryPosting struct {
	CallOff  []uint64    `json:"call_off_variant_ids"`
	PaidFrom buying.From `json:"paid_from"`   // empty where it stays owed
	Register uint64      `json:"register_id"` // whose drawer it is paid out of
	// More takes goods although another delivery brought them off the order since this one was saved.
	More bool `json:"more_than_ordered"`
}

// PostDelivery takes a draft into stock as one document, and off the orders it is against.
// What was only proposed is taken, too.
func PostDelivery(do deed.Deed, id uint64, in DeliveryPosting) (deed.Posted, error) {
	return deed.Once(do, staff.DeedReceive, func(do deed.Deed) (deed.Posted, error) {
		view, lines, err := storebuying.LockDelivery(do.Tx, id)
		if err != nil {
			return deed.Posted{}, err
		}
		if view.DocumentID != nil {
			return deed.Posted{}, fault.Clash("delivery", view.Number, "a delivery not posted yet",
				"Already posted as %s; nothing was posted twice.", view.Number)
		}
		if err := deed.At(do.Tx.Q, do.Who, view.BranchID); err != nil {
			return deed.Posted{}, err
		}
		if len(lines) == 0 {
			return deed.Posted{}, fault.Field("lines", "", "at least one quantity",
				"The delivery has no goods in it yet.")
		}
		if view.SupplierID == nil && in.PaidFrom == "" {
			return deed.Posted{}, fault.Field("supplier_id", "", "a supplier of the shop",
				"Choose the supplier that the goods came from, or say that they were paid at once.")
		}
		if in.PaidFrom != "" && view.BillLater {
			return deed.Posted{}, fault.Field("paid_from", in.PaidFrom, "a bill that is there",
				"What has no bill yet can't be paid.")
		}
		if view.SupplierID != nil && !view.BillLater { // what is owed for it is a bill
			if err := do.Who.May(staff.DeedBill); err != nil {
				return deed.Posted{}, fault.Of(err).In("bill_later")
			}
		}
		awaited, err := lockAwaited(do.Tx, do.Who, id)
		if err != nil {
			return deed.Posted{}, err
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return deed.Posted{}, err
		}
		totals, err := DeliveryTotals(view.Delivery, lines, set.Minor())
		if err != nil {
			return deed.Posted{}, err
		}
		for _, i := range totals.NotWeighed {
			return deed.Posted{}, InLine(i, buying.NotWeighed(lines[i].ProductName))
		}
		if !in.More {
			if err := asOrdered(do.Tx, id, awaited, lines); err != nil {
				return deed.Posted{}, err
			}
		}
		shares := sharesOf(awaited, lines)
		ahead, err := billedAhead(do.Tx, view.Delivery, lines, awaited, shares, &totals, set.Minor())
		if err != nil {
			return deed.Posted{}, err
		}
		out, _, err := payingOut(do.Tx, do.Who, in.PaidFrom, in.Register)
		if err != nil {
			return deed.Posted{}, err
		}
		doc, held, err := draftDelivery(do, view, lines, totals, out)
		if err != nil {
			return deed.Posted{}, err
		}
		document, err := book.Post(do.Tx, held, doc)
		if err != nil {
			return deed.Posted{}, err
		}
		d := view.Delivery
		d.DocumentID, d.Net, d.Tax, d.Gross = &document, totals.Net, totals.Tax, totals.Gross
		if d.SupplierNumber != "" {
			key := text.NumberKey(d.SupplierNumber)
			d.PostedNumber = &key
		}
		done := deed.Posted{Document: document, Number: doc.Number, At: doc.HappenedAt}
		if err := storebuying.PostedDelivery(do.Tx, d); err != nil {
			return done, err
		}
		if err := arrive(do, awaited, lines, shares, done, in.CallOff); err != nil {
			return done, err
		}
		if err := billDelivery(do, d, lines, totals, ahead, set); err != nil {
			return done, err
		}
		if err := paidAtOnce(do, d, out, in, set); err != nil || d.SupplierID == nil {
			return done, err
		}
		return done, storebuying.KeepSupplied(do.Tx, suppliedBy(d, lines, totals, awaited, done))
	})
}

// asOrdered refuses a delivery that would bring more than is outstanding because another brought of it since this one
// was saved.
func asOrdered(tx store.Tx, delivery uint64, awaited []openOrder, lines []storebuying.DeliveryLine) error {
	changed, err := storebuying.ArrivedSince(tx.Q, delivery)
	if err != nil || !changed {
		return err
	}
	brought, outstanding := map[uint64]decimal.Decimal{}, map[uint64]decimal.Decimal{}
	for _, l := range lines {
		brought[l.VariantID] = brought[l.VariantID].Add(l.Quantity)
	}
	for _, o := range awaited {
		for _, l := range o.lines {
			outstanding[l.VariantID] = outstanding[l.VariantID].Add(l.Figures().Outstanding())
		}
	}
	for _, l := range lines {
		if left, ordered := outstanding[l.VariantID]; ordered {
			if err := buying.CheckMeanwhile(l.ProductName, brought[l.VariantID], left); err != nil {
				return err
			}
		}
	}
	return nil
}

// draftDelivery makes the document of a delivery.
func draftDelivery(do deed.Deed, view storebuying.DeliveryView, lines []storebuying.DeliveryLine, totals buying.Totals,
	out storebuying.Payment) (stock.Document, stock.Holding, error) {
	variants := make([]uint64, len(lines))
	var numbers []string
	for i, l := range lines {
		variants[i] = l.VariantID
		numbers = append(numbers, serial.Kept(l.Serials)...)
	}
	held, err := book.Hold(do.Tx, variants, numbers)
	if err != nil {
		return stock.Document{}, held, err
	}
	if err := follow(do.Tx, held, lines, decimal.New(1, 0)); err != nil {
		return stock.Document{}, held, err
	}
	shelf, err := held.Where(view.BranchID)
	if err != nil {
		return stock.Document{}, held, err
	}
	name, err := deed.NextNumber(do.Tx, stock.Delivery)
	if err != nil {
		return stock.Document{}, held, err
	}
	set, err := do.Tx.Terms()
	if err != nil {
		return stock.Document{}, held, err
	}
	now := do.Shop.Now()
	came, err := buying.Came(view.CameOn, now, set)
	if err != nil {
		return stock.Document{}, held, err
	}
	draft := stock.NewDraft(
		held,
		stock.Document{
			Kind:       stock.Delivery,
			Number:     name,
			Branch:     view.BranchID,
			By:         do.Who.ID,
			HappenedAt: came,
			RecordedAt: now,
			Note:       view.Note,
		},
	)
	for i, l := range lines {
		if l.Cost == nil {
			return stock.Document{}, held, InLine(i, buying.CostMissing(held.Items[l.VariantID].Name,
				do.Who.Can(staff.DeedCosts)))
		}
		key := stock.Key{Variant: l.VariantID, Shelf: shelf, Condition: stock.ForSale}
		if l.ShelfID != nil {
			if held.Shelves[*l.ShelfID].Branch != view.BranchID {
				return stock.Document{}, held, InLine(i, fault.Field("shelf_id", *l.ShelfID, "a shelf of the branch",
					"%s: there is no such shelf there.",
					held.Items[l.VariantID].Name))
			}
			key.Shelf = *l.ShelfID
		}
		if held.Items[l.VariantID].Tracking == stock.ByLot {
			if l.LotNumber == "" {
				return stock.Document{}, held, InLine(i, fault.Field("lot", "", "the lot number on the goods",
					"%s: the lot number is missing.", held.Items[l.VariantID].Name))
			}
			expiry := time.Time{}
			if l.Expiry != nil {
				expiry = *l.Expiry
			}
			lot, err := book.KeepLot(do.Tx, held, l.VariantID, l.LotNumber, expiry)
			if err != nil {
				return stock.Document{}, held, err
			}
			key.Lot = lot.ID
		}
		if err := draft.Bring(i+1, key, l.Quantity, totals.Lines[i].Value, serial.Kept(l.Serials)); err != nil {
			return stock.Document{}, held, err
		}
	}
	switch {
	case view.SupplierID == nil:
		draft.PostAll(totals.PaidPostings(out.PaidFrom))
	case view.BillLater:
		draft.PostAll(totals.LaterPostings())
	default:
		draft.PostAll(totals.Postings())
	}
	doc, err := draft.Document()
	return doc, held, err
}

// follow has the restock levels that are percents follow what is on hand once the lines of a
// delivery are in, or with sign −1 out again.
func follow(tx store.Tx, held stock.Holding, lines []storebuying.DeliveryLine, sign decimal.Decimal) error {
	onHand := map[uint64]decimal.Decimal{}
	for _, l := range lines {
		had, ok := onHand[l.VariantID]
		if !ok {
			had = held.Pools[l.VariantID].Quantity
		}
		onHand[l.VariantID] = had.Add(l.Quantity.Mul(sign))
	}
	levels, err := goods.FollowDelivery(tx, onHand)
	for variant, level := range levels {
		item := held.Items[variant]
		item.Restock = &level
		held.Items[variant] = item
	}
	return err
}

// DropDelivery gives up a draft.
func DropDelivery(do deed.Deed, id uint64) error {
	_, err := deed.Once(do.Under(""), staff.DeedReceive, func(do deed.Deed) (DeliveryRef, error) {
		view, _, err := storebuying.LockDelivery(do.Tx, id)
		if err != nil {
			return DeliveryRef{}, err
		}
		if view.DocumentID != nil {
			return DeliveryRef{}, fault.Clash("delivery", view.Number, "a draft",
				"It is posted as %s; reverse that document instead.", view.Number)
		}
		if err := deed.At(do.Tx.Q, do.Who, view.BranchID); err != nil {
			return DeliveryRef{}, err
		}
		return DeliveryRef{ID: id}, storebuying.DropDelivery(do.Tx, id)
	})
	return err
}
