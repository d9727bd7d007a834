package buying

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/tax"
	"itemrack/core/terms"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
	"itemrack/store/prices"
)

// BillInput is a supplier's bill as it is typed. Without lines, a new one takes up what is
// not billed of its deliveries; with freight and no lines at all it is a carrier's, whose
// freight is spread over the deliveries.
type BillInput struct {
	Supplier        uint64          `json:"supplier_id"`
	Branch          uint64          `json:"branch_id"`
	Number          string          `json:"number"`
	BilledOn        string          `json:"billed_on"` // empty for today
	DueOn           string          `json:"due_on"`    // empty for the supplier's days to pay after that
	Note            string          `json:"note"`
	Freight         string          `json:"freight"`
	FreightTaxClass uint64          `json:"freight_tax_class_id"` // 0 for the shop's first
	Spread          buying.Spread   `json:"spread"`
	Total           string          `json:"total"` // what their paper says in all; empty where nobody looked
	Deliveries      []uint64        `json:"delivery_ids"`
	Lines           []BillLineInput `json:"lines"`
	Carrier         bool            `json:"carrier"`  // only the freight is billed
	Revision        uint64          `json:"revision"` // as it was shown; another one is refused
}

// BillLineInput is a line of a bill as it is typed: of goods that a delivery brought, or of
// goods that an order awaits. Each or Net say what is billed; empty for what was agreed.
type BillLineInput struct {
	DeliveryLine uint64      `json:"delivery_line_id"`
	OrderLine    uint64      `json:"order_line_id"`
	Quantity     string      `json:"quantity"` // empty takes the line off
	Each         string      `json:"each"`
	Net          string      `json:"net"` // of the line; it counts before each
	Dearer       buying.Then `json:"dearer"`
	Missing      buying.Then `json:"missing"`
}

// BillRef names a bill.
type BillRef struct {
	ID       uint64 `json:"id"`
	Revision uint64 `json:"revision"`
}

// SaveBill keeps a bill as a draft: a new one when id is 0. Nothing is in the book until it is
// posted.
func SaveBill(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in BillInput) (BillRef, error) {
	return deed.Once(ctx, s, who, staff.DeedBill, key, func(tx store.Tx) (BillRef, error) {
		b := storebuying.Bill{Kind: storebuying.KindBill, CreatedBy: who.ID, CreatedAt: s.Now(),
			BranchID: text0(in.Branch, who.Branch)}
		if id != 0 {
			view, _, _, err := storebuying.LockBill(tx, id)
			if err != nil {
				return BillRef{}, err
			}
			if view.DocumentID != nil {
				return BillRef{}, postedAlready(view)
			}
			if err := revision.Check("This bill", in.Revision, view.Revision); err != nil {
				return BillRef{}, err
			}
			b = view.Bill
		}
		if err := readBill(s, tx, &b, in); err != nil {
			return BillRef{}, err
		}
		lines, err := readBillLines(s, tx, b, in, id == 0)
		if err != nil {
			return BillRef{}, err
		}
		b.Revision++
		if err := storebuying.SaveBill(tx, &b); err != nil {
			return BillRef{}, err
		}
		return BillRef{b.ID, b.Revision}, storebuying.ReplaceBillLines(tx, b.ID, lines, in.Deliveries)
	})
}

func text0(id, usual uint64) uint64 {
	if id == 0 {
		return usual
	}
	return id
}

func postedAlready(b storebuying.BillView) error {
	return fault.Clash("bill_id", b.Name(), "a bill not posted yet", "%s is posted already, as %s.", b.Name(),
		b.Document)
}

// readBill reads what was typed of the head of a bill.
func readBill(s *deed.Shop, tx store.Tx, b *storebuying.Bill, in BillInput) error {
	supplier, _, err := goods.ReadSupplier(tx.Q, in.Supplier)
	if err != nil {
		return fault.Field("supplier_id", in.Supplier, "a supplier of the shop", "Choose whose bill it is.")
	}
	b.SupplierID = supplier.ID
	if err := knownBranch(tx.Q, b.BranchID); err != nil {
		return err
	}
	set, err := tx.Terms()
	if err != nil {
		return err
	}
	b.Number, b.Note = text.Tidy(in.Number), text.Prose(in.Note)
	switch {
	case text.Len(b.Number) > 60:
		return fault.Field("number", in.Number, "60 characters or fewer", "Their number is too long.")
	case text.Len(b.Note) > 250:
		return fault.Field("note", in.Note, "250 characters or fewer", "The note is too long.")
	}
	if b.BilledOn, err = dayOr("billed_on", in.BilledOn, set.Day(s.Now())); err != nil {
		return err
	}
	if b.DueOn, err = dayOr("due_on", in.DueOn, supplier.Due(b.BilledOn)); err != nil {
		return err
	}
	freight, err := number.Optional("freight", in.Freight, set.Minor().Parse)
	if err != nil {
		return err
	}
	b.Freight = number.OrZero(freight)
	if b.Paper, err = number.Optional("total", in.Total, set.Minor().Parse); err != nil {
		return err
	}
	if b.Spread = in.Spread; b.Spread == "" {
		b.Spread = buying.ByValue
	}
	if _, err := buying.Compute(buying.Bill{Spread: b.Spread}, nil); err != nil {
		return err
	}
	b.FreightTaxClassID, b.FreightPercent, err = taxOn(s, tx, "freight_tax_class_id", in.FreightTaxClass)
	return err
}

func dayOr(field, typed string, usual time.Time) (time.Time, error) {
	if strings.TrimSpace(typed) == "" {
		return usual, nil
	}
	return number.Day(field, typed)
}

// taxOn finds a tax class, the shop's first where none is said, and its rate now.
func taxOn(s *deed.Shop, tx store.Tx, field string, class uint64) (*uint64, decimal.Decimal, error) {
	classes, err := prices.TaxClasses(tx.Q)
	if err != nil {
		return nil, decimal.Zero, err
	}
	if class == 0 && len(classes) > 0 {
		class = classes[0].ID
	}
	at := slices.IndexFunc(classes, func(c tax.Class) bool { return c.ID == class })
	if at < 0 {
		return nil, decimal.Zero, fault.Field(field, class, "a tax class of the shop", "There is no tax class %d.",
			class)
	}
	return &class, classes[at].At(s.Now()), nil
}

// readBillLines reads the typed lines of a bill; a new one without any takes up what is not
// billed of its deliveries.
func readBillLines(s *deed.Shop, tx store.Tx, b storebuying.Bill, in BillInput, fresh bool) ([]storebuying.BillLine, error) {
	set, err := tx.Terms()
	if err != nil {
		return nil, err
	}
	known, err := storebuying.LinesOfDeliveries(tx.Q, in.Deliveries)
	if err != nil {
		return nil, err
	}
	for i, id := range in.Deliveries {
		at := slices.IndexFunc(known, func(l storebuying.ToBill) bool { return l.DeliveryID == id })
		if at < 0 || known[at].SupplierID != b.SupplierID && !in.Carrier {
			return nil, fault.Field(fmt.Sprintf("delivery_ids.%d", i), id, "a posted delivery of the supplier",
				"There is no such delivery to bill.")
		}
	}
	var lines []storebuying.BillLine
	if fresh && len(in.Lines) == 0 && !in.Carrier {
		for _, l := range known {
			if l.Unbilled.IsPositive() {
				lines = append(lines, storebuying.BillLine{VariantID: l.VariantID, DeliveryLineID: &l.ID,
					Quantity: l.Unbilled, Net: l.UnbilledValue, Percent: l.Percent})
			}
		}
		return lines, nil
	}
	var deliveryLines []uint64
	for _, l := range in.Lines {
		deliveryLines = append(deliveryLines, l.DeliveryLine)
	}
	of, err := storebuying.LinesToBill(tx.Q, deliveryLines)
	if err != nil {
		return nil, err
	}
	for i, l := range in.Lines {
		if strings.TrimSpace(l.Quantity) == "" {
			continue
		}
		line, err := readBillLine(s, tx, b, l, of, set.Minor())
		if err != nil {
			return nil, InLine(i, err)
		}
		lines = append(lines, line)
	}
	return lines, nil
}

// readBillLine reads one typed line of a bill.
func readBillLine(s *deed.Shop, tx store.Tx, b storebuying.Bill, l BillLineInput, of []storebuying.ToBill,
	minor money.Minor) (storebuying.BillLine, error) {
	line := storebuying.BillLine{Dearer: l.Dearer, Missing: l.Missing}
	agreed := decimal.Zero // of a unit
	switch at := slices.IndexFunc(of, func(x storebuying.ToBill) bool { return x.ID == l.DeliveryLine }); {
	case l.DeliveryLine != 0:
		if at < 0 || of[at].SupplierID != b.SupplierID {
			return line, fault.Field("delivery_line_id", l.DeliveryLine, "a line of a delivery of the supplier",
				"There is no such line to bill.")
		}
		line.VariantID, line.DeliveryLineID, line.Percent = of[at].VariantID, &of[at].ID, of[at].Percent
		if of[at].Unbilled.IsPositive() {
			agreed = of[at].UnbilledValue.DivRound(of[at].Unbilled, money.CostPlaces)
		}
	default:
		o, ordered, err := storebuying.OrderLineOf(tx.Q, l.OrderLine)
		if err != nil {
			return line, err
		}
		if o.SupplierID != b.SupplierID {
			return line, fault.Field("order_line_id", l.OrderLine, "a line of an order to the supplier",
				"There is no such line to bill.")
		}
		line.VariantID, line.OrderLineID, line.Percent = ordered.VariantID, &ordered.ID, ordered.Percent
		agreed = ordered.Figures().UnitCost(minor)
	}
	found, err := goods.Sellables(tx.Q, []uint64{line.VariantID}, s.Now())
	if err != nil {
		return line, err
	}
	if line.Quantity, err = found[line.VariantID].Unit.Parse("quantity", l.Quantity); err != nil {
		return line, err
	}
	if !line.Quantity.IsPositive() {
		return line, fault.Field("quantity", l.Quantity, "more than nothing", "A line of a bill is of something.")
	}
	for _, then := range []buying.Then{l.Dearer, l.Missing} {
		if then != buying.PayIt && then != buying.ExpectCredit {
			return line, fault.Field("dearer", then, "nothing, or credit", "Nothing is done like %q.", then)
		}
	}
	switch {
	case strings.TrimSpace(l.Net) != "":
		line.Net, err = minor.Parse("net", l.Net)
	case strings.TrimSpace(l.Each) != "":
		if agreed, err = money.ParseCost("each", l.Each); err == nil {
			line.Net = minor.Round(agreed.Mul(line.Quantity))
		}
	default:
		line.Net = minor.Round(agreed.Mul(line.Quantity))
	}
	return line, err
}

// BillTotals works out what a bill comes to, line by line, as posting will post it, and says
// why it could not be posted.
func BillTotals(b storebuying.Bill, lines []storebuying.BillLine, of []storebuying.ToBill, minor money.Minor) (buying.Billed, error) {
	list := linesOf(lines)
	left := map[uint64]*storebuying.ToBill{} // two lines can take up the same goods
	for i := range of {
		row := of[i]
		left[row.ID] = &row
	}
	for i, l := range lines {
		if l.DeliveryLineID == nil {
			continue
		}
		if row := left[*l.DeliveryLineID]; row != nil {
			list[i].Unbilled, list[i].UnbilledValue = row.Unbilled, row.UnbilledValue
			took := list[i].Bill(minor)
			row.Unbilled, row.UnbilledValue = took.Left, row.UnbilledValue.Sub(took.Cleared)
		}
	}
	return buying.BillOf(list, b.Freight, b.FreightPercent, b.Paper, minor)
}

// linesOf are the lines of a bill, as they say it.
func linesOf(rows []storebuying.BillLine) []buying.BillLine {
	list := make([]buying.BillLine, len(rows))
	for i, l := range rows {
		list[i] = buying.BillLine{Quantity: l.Quantity, Net: l.Net, Percent: l.Percent, Dearer: l.Dearer,
			Missing: l.Missing}
	}
	return list
}

// DropBill gives up a draft.
func DropBill(ctx context.Context, s *deed.Shop, who staff.Actor, id uint64) (BillRef, error) {
	return deed.Once(ctx, s, who, staff.DeedBill, "", func(tx store.Tx) (BillRef, error) {
		view, _, _, err := storebuying.LockBill(tx, id)
		if err != nil {
			return BillRef{}, err
		}
		if view.DocumentID != nil {
			return BillRef{}, fault.Clash("bill_id", view.Name(), "a draft", "%s is posted; reverse %s instead.",
				view.Name(), view.Document)
		}
		return BillRef{ID: id}, storebuying.DropBill(tx, id)
	})
}

// PostBill posts a draft: what was received and not billed is cleared, what is dearer goes
// to the goods that are left and to the cost of those that were sold, and what is payable is
// owed.
func PostBill(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64) (deed.Posted, error) {
	return deed.Once(ctx, s, who, staff.DeedBill, key, func(tx store.Tx) (deed.Posted, error) {
		view, lines, deliveries, err := storebuying.LockBill(tx, id)
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
		of, err := lockLines(tx, lines, deliveries)
		if err != nil {
			return deed.Posted{}, err
		}
		set, err := tx.Terms()
		if err != nil {
			return deed.Posted{}, err
		}
		billed, err := BillTotals(b, lines, of, set.Minor())
		if err != nil {
			return deed.Posted{}, err
		}
		done, err := postBill(s, tx, who, b, lines, of, billed, set)
		if err != nil {
			return done, err
		}
		return done, settleBill(tx, b, lines, of, billed, done)
	})
}

// lockLines locks and reads the lines of deliveries that a bill is about: those it bills, or
// with none all of the deliveries that its freight is spread over.
func lockLines(tx store.Tx, lines []storebuying.BillLine, deliveries []uint64) ([]storebuying.ToBill, error) {
	var ids []uint64
	for _, l := range lines {
		if l.DeliveryLineID != nil {
			ids = append(ids, *l.DeliveryLineID)
		}
	}
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

// postBill posts the document of a bill.
func postBill(s *deed.Shop, tx store.Tx, who staff.Actor, b storebuying.Bill, lines []storebuying.BillLine, of []storebuying.ToBill,
	billed buying.Billed,
	set terms.Terms) (deed.Posted, error) {
	by, err := buying.Dearer(goodsOf(lines, of, billed), b.Freight, b.Spread, set.Minor())
	if err != nil {
		return deed.Posted{}, err
	}
	var variants []uint64
	brought := map[uint64][]stock.Entry{} // by document
	var serials []string
	for _, l := range of {
		variants = append(variants, l.VariantID)
		if brought[l.DocumentID] == nil {
			if brought[l.DocumentID], err = book.Entries(tx.Q, l.DocumentID); err != nil {
				return deed.Posted{}, err
			}
			for _, e := range brought[l.DocumentID] {
				if e.Serial != "" {
					serials = append(serials, e.Serial)
				}
			}
		}
	}
	held, err := book.Hold(tx, variants, serials)
	if err != nil {
		return deed.Posted{}, err
	}
	name, err := deed.NextNumber(tx, "B")
	if err != nil {
		return deed.Posted{}, err
	}
	now := s.Now()
	draft := stock.NewDraft(held, stock.Document{Kind: stock.Bill, Number: name, Branch: b.BranchID, By: who.ID,
		HappenedAt: now,
		RecordedAt: now, Note: b.Note})
	for _, l := range of {
		change := by[l.ID]
		if change.IsZero() {
			continue
		}
		delete(by, l.ID)
		var entries []stock.Entry
		for _, e := range brought[l.DocumentID] {
			if e.Line == l.Line && e.Variant == l.VariantID {
				entries = append(entries, e)
			}
		}
		if _, err := draft.Revalue(l.Line, entries, l.DocumentID, change); err != nil {
			return deed.Posted{}, err
		}
	}
	draft.PostAll(billed.Postings())
	return deed.Post(tx, held, draft)
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
func settleBill(tx store.Tx, b storebuying.Bill, lines []storebuying.BillLine, of []storebuying.ToBill, billed buying.Billed,
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
	key := text.Key(b.Number)
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
func billedAhead(tx store.Tx, d storebuying.Delivery, lines []storebuying.DeliveryLine, orders []openOrder, shares []share,
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
func billDelivery(s *deed.Shop, tx store.Tx, who staff.Actor, d storebuying.Delivery, lines []storebuying.DeliveryLine,
	totals buying.Totals,
	ahead []decimal.Decimal, set terms.Terms) error {
	if d.SupplierID == nil {
		return nil
	}
	if d.BillLater {
		left := make([]storebuying.Left, len(lines))
		for i, l := range lines {
			left[i] = storebuying.Left{Line: l.ID, Units: l.Quantity.Sub(ahead[i]), Value: totals.Lines[i].Open()}
		}
		return storebuying.SetUnbilled(tx, left)
	}
	supplier, _, err := goods.ReadSupplier(tx.Q, *d.SupplierID)
	if err != nil {
		return err
	}
	came := set.Day(s.Now())
	if d.CameOn != nil {
		came = *d.CameOn
	}
	return storebuying.SaveBill(tx, &storebuying.Bill{Kind: storebuying.KindBill, SupplierID: supplier.ID, BranchID: d.BranchID,
		Number: d.SupplierNumber, PostedKey: d.PostedNumber,
		DocumentID: d.DocumentID, DeliveryID: &d.ID, BilledOn: came, DueOn: supplier.Due(came),
		Spread: buying.Spread(d.Spread), Net: d.Net, Tax: d.Tax,
		Gross: d.Gross, Open: d.Gross, CreatedBy: who.ID, CreatedAt: s.Now(), Revision: 1})
}
