package buying

import (
	"context"
	"errors"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/paper"
	"itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/device/face"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/store/till"
)

// SendBackInput is goods that go back to a supplier.
type SendBackInput struct {
	Supplier uint64         `json:"supplier_id"`
	Branch   uint64         `json:"branch_id"` // 0 for the person's
	Note     string         `json:"note"`
	Lines    []SendBackLine `json:"lines"`
}

// SendBackLine is goods that go back, out of a condition; Each is what the supplier credits
// for one, empty for what it asked last, else what it cost the last time.
type SendBackLine struct {
	Variant   uint64          `json:"variant_id"`
	Quantity  string          `json:"quantity"`
	Condition stock.Condition `json:"condition"` // empty for For sale
	Lot       uint64          `json:"lot_id"`
	Serials   string          `json:"serials"`
	Each      string          `json:"each"`
}

// SendBack sends goods back to a supplier: they leave at what they are worth, and a credit is
// expected for what they were bought at.
func SendBack(do deed.Deed, in SendBackInput) (deed.Posted, error) {
	return deed.Once(do, staff.DeedSendBack, func(do deed.Deed) (deed.Posted, error) {
		supplier, _, err := goods.ReadSupplier(do.Tx.Q, in.Supplier)
		if err != nil {
			return deed.Posted{}, fault.Field("supplier_id", in.Supplier, "a supplier of the shop",
				"Choose to whom the goods go back.")
		}
		branch := text0(in.Branch, do.Who.Branch)
		if err := knownBranch(do.Tx.Q, branch); err != nil {
			return deed.Posted{}, err
		}
		if err := deed.At(do.Tx.Q, do.Who, branch); err != nil {
			return deed.Posted{}, err
		}
		if text.Len(in.Note) > 250 {
			return deed.Posted{}, fault.Field("note", in.Note, "250 characters or fewer", "The note is too long.")
		}
		if len(in.Lines) == 0 {
			return deed.Posted{}, fault.Field("lines", "", "at least one line", "Say what goes back.")
		}
		name, err := deed.NextNumber(do.Tx, stock.SupplierReturn)
		if err != nil {
			return deed.Posted{}, err
		}
		now := do.Shop.Now()
		head := stock.Document{Kind: stock.SupplierReturn, Number: name, Branch: branch, By: do.Who.ID, HappenedAt: now,
			RecordedAt: now,
			Note:       text.Prose(in.Note)}
		draft, held, back, err := takeBack(do, supplier, head, in.Lines)
		if err != nil {
			return deed.Posted{}, err
		}
		draft.PostAll(buying.SentBack(back.worth, back.expected))
		done, err := deed.Post(do.Tx, held, draft)
		if err != nil {
			return done, err
		}
		if err := storebuying.KeepReturn(do.Tx, storebuying.SupplierReturn{DocumentID: done.Document, SupplierID: supplier.ID,
			Worth: back.worth, Expected: back.expected}); err != nil {
			return done, err
		}
		if back.expected.IsZero() {
			return done, nil
		}
		return done, storebuying.ExpectCredit(do.Tx, storebuying.CreditExpected{SupplierID: supplier.ID,
			DocumentID: done.Document,
			Why:        "sent back with " + done.Number,
			Percent:    back.percent, Net: back.expected, Open: back.expected, Since: done.At})
	})
}

// sentBack is what goods that go back are worth, what is expected for them, and the tax on
// that.
type sentBack struct{ worth, expected, percent decimal.Decimal }

// takeBack takes the goods out that go back.
func takeBack(do deed.Deed, supplier goods.Supplier, head stock.Document, lines []SendBackLine) (*stock.Draft,
	stock.Holding, sentBack, error) {
	var back sentBack
	ids := make([]uint64, len(lines))
	var numbers []string
	for i, l := range lines {
		ids[i] = l.Variant
		list, err := serial.ReadList(l.Serials)
		if err != nil {
			return nil, stock.Holding{}, back, InLine(i, err)
		}
		numbers = append(numbers, list...)
	}
	found, err := goods.Sellables(do.Tx.Q, ids, do.Shop.Now())
	if err != nil {
		return nil, stock.Holding{}, back, err
	}
	for i, l := range lines {
		if found[l.Variant].ID == 0 {
			return nil, stock.Holding{}, back, InLine(i, fault.Missing("variant_id", l.Variant,
				"There is no variant %d.", l.Variant))
		}
	}
	asked, err := storebuying.SuppliedBy(do.Tx.Q, supplier.ID, ids)
	if err != nil {
		return nil, stock.Holding{}, back, err
	}
	held, err := book.Hold(do.Tx, ids, numbers)
	if err != nil {
		return nil, held, back, err
	}
	set, err := do.Tx.Terms()
	if err != nil {
		return nil, held, back, err
	}
	draft := stock.NewDraft(held, head)
	for i, l := range lines {
		v := found[l.Variant]
		q, err := v.Unit.Parse("quantity", l.Quantity)
		if err == nil && !q.IsPositive() {
			err = fault.Field("quantity", l.Quantity, "more than nothing", "%s: how many go back?", v.FullName())
		}
		if err != nil {
			return nil, held, back, InLine(i, err)
		}
		if l.Condition == "" {
			l.Condition = stock.ForSale
		}
		list, _ := serial.ReadList(l.Serials) // it was read before
		worth, err := draft.Take(stock.Want{Line: i + 1, Variant: v.ID, Branch: head.Branch, Condition: l.Condition,
			Quantity: q, Lot: l.Lot,
			Serials: list, Day: set.Day(do.Shop.Now()), Unsold: true})
		if err != nil {
			return nil, held, back, InLine(i, err)
		}
		each := v.LastCost
		if b, ok := asked[v.ID]; ok {
			each = buying.Ordered{Quantity: decimal.Zero, Factor: b.Factor, Price: b.Price,
				Discount: b.Discount}.UnitCost(set.Minor())
		}
		if strings.TrimSpace(l.Each) != "" {
			if each, err = money.ParseCost("each", l.Each); err != nil {
				return nil, held, back, InLine(i, err)
			}
		}
		back.worth, back.expected = back.worth.Add(worth), back.expected.Add(set.Minor().Round(each.Mul(q)))
		back.percent = v.BuyPercent
	}
	return draft, held, back, nil
}

// Undo gives back what a document of buying did beside the book, before it is reversed; it
// refuses where that can't be.
func Undo(do deed.Deed, held stock.Holding, kind stock.Kind, doc book.DocumentView) error {
	switch kind {
	case stock.Delivery:
		if err := undoDelivered(do.Tx, held, doc); err != nil {
			return err
		}
		return Unarrive(do, doc.ID)
	case stock.Bill, stock.CreditNote:
		return undoBill(do.Tx, doc)
	case stock.Payment:
		return undoPayment(do.Tx, doc)
	case stock.SupplierReturn:
		return undoCredits(do.Tx, doc)
	}
	return nil
}

// undoDelivered takes out the bill that came with a delivery, unless it is paid; one whose
// bill came later goes with that first.
func undoDelivered(tx store.Tx, held stock.Holding, doc book.DocumentView) error {
	id, err := storebuying.BillOf(tx.Q, doc.ID)
	if err != nil {
		return err
	}
	if id != 0 {
		b, _, _, err := storebuying.LockBill(tx, id)
		if err != nil {
			return err
		}
		if err := unpaid(b); err != nil {
			return err
		}
		if err := storebuying.ReleaseBill(tx, id); err != nil {
			return err
		}
	}
	if id == 0 { // of nobody in particular: the money comes back
		if p, _, err := storebuying.PaymentOf(tx, doc.ID); err != nil || p.ID != 0 {
			return errors.Join(err, undoPayment(tx, doc))
		}
	}
	delivery, err := storebuying.DeliveryOf(tx.Q, doc.ID)
	if err != nil {
		return err
	}
	view, lines, err := storebuying.ReadDelivery(tx.Q, delivery)
	if err != nil {
		return err
	}
	if err := follow(tx, held, lines, decimal.New(-1, 0)); err != nil || !view.BillLater {
		return err
	}
	none := make([]storebuying.Left, len(lines))
	for i, l := range lines {
		if !l.Unbilled.Equal(l.Quantity) {
			return fault.Refuse("document", doc.Number, "to reverse its bill first", "%s is billed already.",
				doc.Number)
		}
		none[i].Line = l.ID
	}
	return storebuying.SetUnbilled(tx, none)
}

// unpaid refuses to undo a bill of which something was paid, or a credit note that was used.
func unpaid(b storebuying.BillView) error {
	if !b.Open.Equal(b.Gross) {
		return fault.Refuse("document", b.Name(), "to reverse its payment first", "%s is paid, in part or whole.",
			b.Name())
	}
	return nil
}

// undoBill gives back what a bill, or a credit note, settled.
func undoBill(tx store.Tx, doc book.DocumentView) error {
	id, err := storebuying.BillOf(tx.Q, doc.ID)
	if err != nil {
		return err
	}
	b, lines, _, err := storebuying.LockBill(tx, id)
	if err != nil {
		return err
	}
	if err := unpaid(b); err != nil {
		return err
	}
	if b.Kind == storebuying.KindCreditNote {
		c, err := storebuying.CreditBy(tx, id)
		if err != nil {
			return err
		}
		if err := storebuying.SetCredit(tx, c.ID, c.Net, nil); err != nil {
			return err
		}
		return storebuying.ReleaseBill(tx, id)
	}
	if err := undoCredits(tx, doc); err != nil {
		return err
	}
	var ids []uint64
	for _, l := range lines {
		if l.DeliveryLineID != nil {
			ids = append(ids, *l.DeliveryLineID)
		}
	}
	if err := storebuying.LockToBill(tx, ids); err != nil {
		return err
	}
	of, err := storebuying.LinesToBill(tx.Q, ids)
	if err != nil {
		return err
	}
	for i, l := range lines {
		if missing := l.Quantity.Sub(l.Came); l.Missing == buying.PayIt && !l.AheadUnits.Equal(missing) {
			return fault.Refuse("document", doc.Number, "to reverse that delivery first",
				"What %s billed before it came has come meanwhile.", doc.Number)
		}
		for j := range of {
			if l.DeliveryLineID != nil && of[j].ID == *l.DeliveryLineID {
				of[j].Unbilled, of[j].UnbilledValue = of[j].Unbilled.Add(l.Came), of[j].UnbilledValue.Add(l.Cleared)
			}
		}
		lines[i].AheadUnits, lines[i].Ahead = decimal.Zero, decimal.Zero
	}
	if err := errors.Join(storebuying.SetUnbilled(tx, unbilled(of)), storebuying.SaveBillLines(tx, lines)); err != nil {
		return err
	}
	return storebuying.ReleaseBill(tx, id)
}

// undoCredits takes out the credits that a document made expected, unless their notes are
// there.
func undoCredits(tx store.Tx, doc book.DocumentView) error {
	credits, err := storebuying.CreditsOf(tx, doc.ID)
	if err != nil {
		return err
	}
	for _, c := range credits {
		if !c.Open.Equal(c.Net) {
			return fault.Refuse("document", doc.Number, "to reverse its credit note first",
				"The credit for %s has come already.", doc.Number)
		}
		if err := storebuying.SetCredit(tx, c.ID, decimal.Zero, nil); err != nil {
			return err
		}
	}
	return nil
}

// undoPayment makes what was paid owed again. Money out of a drawer goes back into it while
// it is open.
func undoPayment(tx store.Tx, doc book.DocumentView) error {
	p, parts, err := storebuying.PaymentOf(tx, doc.ID)
	if err != nil {
		return err
	}
	if p.DrawerID != nil {
		drawer, err := till.ReadDrawer(tx, *p.DrawerID)
		if err != nil {
			return err
		}
		if drawer.ClosedAt != nil {
			return fault.Refuse("document", doc.Number, "to have the supplier pay it back",
				"The drawer that %s was paid out of is cashed up.", doc.Number)
		}
	}
	open := map[uint64]decimal.Decimal{}
	for _, part := range parts {
		b, _, _, err := storebuying.LockBill(tx, part.BillID)
		if err != nil {
			return err
		}
		open[b.ID] = b.Open.Add(part.Amount)
	}
	if err := storebuying.SetOpen(tx, open); err != nil {
		return err
	}
	return storebuying.UndoPayment(tx, p.ID)
}

// BackSlip draws the slip that goes with goods that are sent back: what they are, with the
// barcode of its number. It says no costs.
func BackSlip(ctx context.Context, s *deed.Shop, number string) (paper.Page, error) {
	q := s.Store.Read(ctx)
	doc, err := book.Document(q, number)
	if err != nil {
		return paper.Page{}, err
	}
	supplier, err := storebuying.ReturnedTo(q, doc.ID)
	if err != nil {
		return paper.Page{}, err
	}
	entries, err := book.EntryViews(q, doc.ID)
	if err != nil {
		return paper.Page{}, err
	}
	set, err := q.Terms()
	if err != nil {
		return paper.Page{}, err
	}
	name, err := office.Setting(q, "shop_name")
	if err != nil {
		return paper.Page{}, err
	}
	slip := sale.Receipt{Shop: name, Branch: doc.Branch, Title: "Back to " + supplier, Number: doc.Number,
		Under: []string{doc.HappenedAt.In(set.Zone).Format("2 Jan 2006 15:04"),
			doc.Note}, Foot: "Please credit what is named here."}
	units := decimal.Zero
	for _, e := range entries {
		detail := text.Joined(e.Label, e.SKU)
		if e.Serial != "" {
			detail = text.Joined(detail, "No. "+e.Serial)
		}
		if e.Lot != "" {
			detail = text.Joined(detail, "lot "+e.Lot)
		}
		slip.Lines = append(slip.Lines, sale.ReceiptLine{Name: e.Name, Detail: detail,
			Amount: e.Quantity.Neg().String()})
		units = units.Sub(e.Quantity)
	}
	slip.Sums = []sale.ReceiptSum{{Label: "Units", Amount: units.String(), Large: true}}
	return slip.Page(face.Measure), nil
}
