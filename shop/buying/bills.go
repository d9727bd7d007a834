package buying

import (
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
	"itemrack/core/tax"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
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
func SaveBill(do deed.Deed, id uint64, in BillInput) (BillRef, error) {
	return deed.Once(do, staff.DeedBill, func(do deed.Deed) (BillRef, error) {
		b := storebuying.Bill{Kind: storebuying.KindBill, CreatedBy: do.Who.ID, CreatedAt: do.Shop.Now(),
			BranchID: text0(in.Branch, do.Who.Branch)}
		if id != 0 {
			view, _, _, err := storebuying.LockBill(do.Tx, id)
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
		if err := readBill(do, &b, in); err != nil {
			return BillRef{}, err
		}
		lines, err := readBillLines(do, b, in, id == 0)
		if err != nil {
			return BillRef{}, err
		}
		if err := show(do.Tx, lines); err != nil {
			return BillRef{}, err
		}
		b.Revision++
		if err := storebuying.SaveBill(do.Tx, &b); err != nil {
			return BillRef{}, err
		}
		return BillRef{b.ID, b.Revision}, storebuying.ReplaceBillLines(do.Tx, b.ID, lines, in.Deliveries)
	})
}

// show keeps with each line what is not billed of its goods by now, as whoever saves the bill is shown.
func show(tx store.Tx, lines []storebuying.BillLine) error {
	of, err := storebuying.LinesToBill(tx.Q, deliveredBy(lines))
	if err != nil {
		return err
	}
	for i, l := range lines {
		for j := range of {
			if l.DeliveryLineID != nil && of[j].ID == *l.DeliveryLineID {
				lines[i].Shown = &of[j].Unbilled
			}
		}
	}
	return nil
}

// deliveredBy are the lines of deliveries that lines of a bill are about.
func deliveredBy(lines []storebuying.BillLine) []uint64 {
	var ids []uint64
	for _, l := range lines {
		if l.DeliveryLineID != nil {
			ids = append(ids, *l.DeliveryLineID)
		}
	}
	return ids
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
func readBill(do deed.Deed, b *storebuying.Bill, in BillInput) error {
	supplier, _, err := goods.ReadSupplier(do.Tx.Q, in.Supplier)
	if err != nil {
		return fault.Field("supplier_id", in.Supplier, "a supplier of the shop", "Choose whose bill it is.")
	}
	b.SupplierID = supplier.ID
	if err := knownBranch(do.Tx.Q, b.BranchID); err != nil {
		return err
	}
	set, err := do.Tx.Terms()
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
	if b.BilledOn, err = dayOr("billed_on", in.BilledOn, set.Day(do.Shop.Now())); err != nil {
		return err
	}
	if b.DueOn, err = dayOr("due_on", in.DueOn, supplier.Due(b.BilledOn)); err != nil {
		return err
	}
	if err := buying.CheckBillDays(b.BilledOn, b.DueOn); err != nil {
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
	b.FreightTaxClassID, b.FreightPercent, err = taxOn(do, "freight_tax_class_id", in.FreightTaxClass)
	return err
}

func dayOr(field, typed string, usual time.Time) (time.Time, error) {
	if strings.TrimSpace(typed) == "" {
		return usual, nil
	}
	return number.Day(field, typed)
}

// taxOn finds a tax class, the shop's first where none is said, and its rate now.
func taxOn(do deed.Deed, field string, class uint64) (*uint64, decimal.Decimal, error) {
	classes, err := prices.TaxClasses(do.Tx.Q)
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
	return &class, classes[at].At(do.Shop.Now()), nil
}

// readBillLines reads the typed lines of a bill; a new one without any takes up what is not
// billed of its deliveries.
func readBillLines(do deed.Deed, b storebuying.Bill, in BillInput, fresh bool) ([]storebuying.BillLine, error) {
	set, err := do.Tx.Terms()
	if err != nil {
		return nil, err
	}
	known, err := storebuying.LinesOfDeliveries(do.Tx.Q, in.Deliveries)
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
	of, err := storebuying.LinesToBill(do.Tx.Q, deliveryLines)
	if err != nil {
		return nil, err
	}
	for i, l := range in.Lines {
		if strings.TrimSpace(l.Quantity) == "" {
			continue
		}
		line, err := readBillLine(do, b, l, of, set.Minor())
		if err != nil {
			return nil, InLine(i, err)
		}
		lines = append(lines, line)
	}
	return lines, nil
}

// readBillLine reads one typed line of a bill.
func readBillLine(do deed.Deed, b storebuying.Bill, l BillLineInput, of []storebuying.ToBill,
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
		o, ordered, err := storebuying.OrderLineOf(do.Tx.Q, l.OrderLine)
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
	found, err := goods.Sellables(do.Tx.Q, []uint64{line.VariantID}, do.Shop.Now())
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
func BillTotals(b storebuying.Bill, lines []storebuying.BillLine, of []storebuying.ToBill,
	minor money.Minor) (buying.Billed, error) {
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
func DropBill(do deed.Deed, id uint64) (BillRef, error) {
	return deed.Once(do.Under(""), staff.DeedBill, func(do deed.Deed) (BillRef, error) {
		view, _, _, err := storebuying.LockBill(do.Tx, id)
		if err != nil {
			return BillRef{}, err
		}
		if view.DocumentID != nil {
			return BillRef{}, fault.Clash("bill_id", view.Name(), "a draft", "%s is posted; reverse %s instead.",
				view.Name(), view.Document)
		}
		return BillRef{ID: id}, storebuying.DropBill(do.Tx, id)
	})
}
