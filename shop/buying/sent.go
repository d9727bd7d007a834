package buying

import (
	"errors"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/deed"
	shopscan "itemrack/shop/scan"
	"itemrack/store"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// SentIn is what became of a document of a supplier that was read: a draft, and the lines
// whose codes do not tell one variant here, or which a bill names though they neither came nor are awaited.
type SentIn struct {
	ID         uint64   `json:"id"`
	Lines      int      `json:"lines"`
	Unknown    []string `json:"unknown"`
	NotAwaited []string `json:"not_awaited"`
}

// owners finds whose goods lines that were read are: by SKU, GTIN, or the supplier's number.
func owners(q store.Q, supplier uint64, read []buying.ReadLine) ([]uint64, []string, error) {
	var codes, parts []string
	for _, l := range read {
		codes = append(codes, l.GTIN, l.SKU)
		parts = append(parts, l.Theirs)
	}
	byCode, err := goods.ByCodes(q, codes)
	if err != nil {
		return nil, nil, err
	}
	byPart, err := storebuying.ByPartNumbers(q, supplier, parts)
	if err != nil {
		return nil, nil, err
	}
	list := make([]uint64, len(read))
	unknown := []string{}
	for i, l := range read {
		list[i] = byPart[text.Key(l.Theirs)]
		for _, code := range []string{l.SKU, l.GTIN} {
			if owner, ok := byCode[goods.CodeKey(code)]; ok && code != "" {
				list[i] = owner.Variant
			}
		}
		if list[i] == 0 {
			unknown = append(unknown, l.Code())
		}
	}
	return list, unknown, nil
}

// nothingKnown refuses a file of which no goods are told by their codes: nobody here has the
// code, or several variants share it.
func nothingKnown(unknown []string) error {
	return fault.Refuse("file", "", "a file with SKUs, barcodes or the supplier's numbers",
		"No goods in the file are told by their codes here: %s.",
		text.Listed(unknown[:min(3, len(unknown))]))
}

// readBefore refuses a document that is a draft here already.
func readBefore(what, number string) error {
	return fault.Clash("file", number, "a document that was not read yet",
		"Their number %s is a %s that was begun already; go on with that.", number, what)
}

// ReadDelivery begins a delivery with what a supplier's UBL 2.1 DespatchAdvice says it has
// sent, against the order of ours that it names. Without that the supplier is to be said.
func ReadDelivery(do deed.Deed, in DeliveryInput, data []byte) (SentIn, error) {
	read, err := buying.ReadDespatch(data)
	if err != nil {
		return SentIn{}, err
	}
	return deed.Once(do, staff.DeedReceive, func(do deed.Deed) (SentIn, error) {
		order, err := storebuying.OrderByNumber(do.Tx.Q, strings.ToUpper(read.Order))
		if err != nil {
			return SentIn{}, err
		}
		if order != 0 {
			o, _, err := storebuying.ReadOrder(do.Tx.Q, order)
			if err != nil {
				return SentIn{}, err
			}
			in.Supplier = o.SupplierID
			if o.State.Open() {
				in.Orders = []uint64{order}
			}
		}
		if in.Supplier == 0 {
			return SentIn{}, fault.Field("supplier_id", read.Order, "the supplier that sent it",
				"The file names no order of ours. Whose is it?")
		}
		lines := make([]buying.ReadLine, len(read.Lines))
		for i, l := range read.Lines {
			lines[i] = l.ReadLine
		}
		whose, unknown, err := owners(do.Tx.Q, in.Supplier, lines)
		if err != nil {
			return SentIn{}, err
		}
		in.SupplierNumber, in.BillLater = text.Cut(text.Tidy(read.Number), 60), true
		for i, l := range read.Lines {
			if whose[i] == 0 || !l.Quantity.IsPositive() {
				continue
			}
			line := shopscan.GoodsLine{Variant: whose[i], Quantity: l.Quantity.String(), Lot: l.Lot,
				Serials: strings.Join(l.Serials, ",")}
			if l.Expiry != nil {
				line.Expiry = l.Expiry.Format(time.DateOnly)
			}
			in.Lines = append(in.Lines, line)
		}
		if len(in.Lines) == 0 {
			return SentIn{}, nothingKnown(unknown)
		}
		if draft, err := storebuying.DeliveryDraftOf(do.Tx.Q, in.Supplier, in.SupplierNumber); err != nil || draft != 0 &&
			in.SupplierNumber != "" {
			return SentIn{}, errors.Join(err, readBefore("delivery", in.SupplierNumber))
		}
		d := storebuying.Delivery{BranchID: in.Branch, CreatedBy: do.Who.ID, CreatedAt: do.Shop.Now()}
		if err := readHead(do, &d, in); err != nil {
			return SentIn{}, err
		}
		if err := deed.At(do.Tx.Q, do.Who, d.BranchID); err != nil {
			return SentIn{}, err
		}
		awaited, err := readOrders(do.Tx, &d, in.Orders)
		if err != nil {
			return SentIn{}, err
		}
		rows, err := readLines(do, in.Lines, false, awaited)
		if err != nil {
			return SentIn{}, err
		}
		ref, err := keepDelivery(do.Tx, &d, in.Orders, rows)
		return SentIn{ref.ID, len(rows), unknown, []string{}}, err
	})
}

// ReadBill begins a bill with a supplier's UBL 2.1 Invoice: its lines take up what came of the
// goods without a bill, the earliest first, and beyond that what our orders await.
func ReadBill(do deed.Deed, in BillInput, data []byte) (SentIn, error) {
	read, err := buying.ReadInvoice(data)
	if err != nil {
		return SentIn{}, err
	}
	return deed.Once(do, staff.DeedBill, func(do deed.Deed) (SentIn, error) {
		set, err := do.Tx.Terms()
		if err != nil {
			return SentIn{}, err
		}
		if err := buying.CheckCurrency(read.Currency, set.Currency); err != nil {
			return SentIn{}, err
		}
		minor := set.Minor()
		in.Number = text.Cut(text.Tidy(read.Number), 60)
		for at, day := range map[*string]*time.Time{&in.BilledOn: read.Day, &in.DueOn: read.Due} {
			if day != nil {
				*at = day.Format(time.DateOnly)
			}
		}
		if read.Charges.IsPositive() {
			in.Freight = minor.Text(read.Charges)
		}
		if read.Payable != nil {
			in.Total = minor.Text(*read.Payable)
		}
		b := storebuying.Bill{Kind: storebuying.KindBill, CreatedBy: do.Who.ID, CreatedAt: do.Shop.Now(),
			BranchID: text0(in.Branch, do.Who.Branch)}
		if err := readBill(do, &b, in); err != nil {
			return SentIn{}, err
		}
		if draft, err := storebuying.DraftOf(do.Tx.Q, b.SupplierID, b.Number); err != nil || draft != 0 {
			return SentIn{}, errors.Join(err, readBefore("bill", b.Number))
		}
		lines := make([]buying.ReadLine, len(read.Lines))
		for i, l := range read.Lines {
			lines[i] = l.ReadLine
		}
		whose, unknown, err := owners(do.Tx.Q, b.SupplierID, lines)
		if err != nil {
			return SentIn{}, err
		}
		waiting, err := storebuying.Unbilled(do.Tx.Q, b.SupplierID)
		if err != nil {
			return SentIn{}, err
		}
		for _, d := range waiting {
			in.Deliveries = append(in.Deliveries, d.ID)
		}
		came, err := storebuying.LinesOfDeliveries(do.Tx.Q, in.Deliveries)
		if err != nil {
			return SentIn{}, err
		}
		awaited, err := storebuying.AwaitedOf(do.Tx.Q, b.SupplierID, whose)
		if err != nil {
			return SentIn{}, err
		}
		sent := SentIn{NotAwaited: []string{}}
		for i, l := range read.Lines {
			if whose[i] == 0 || !l.Quantity.IsPositive() {
				continue
			}
			placed := billed(l, whose[i], came, awaited, minor)
			if len(placed) == 0 {
				sent.NotAwaited = append(sent.NotAwaited, l.Code())
			}
			in.Lines = append(in.Lines, placed...)
		}
		if len(in.Lines) == 0 && len(sent.NotAwaited) > 0 {
			return SentIn{}, fault.Refuse("file", "", "a bill for goods that came, or that our orders await",
				"%s neither came from this supplier without a bill nor is awaited.",
				text.Listed(sent.NotAwaited[:min(3, len(sent.NotAwaited))]))
		}
		if len(in.Lines) == 0 {
			return SentIn{}, nothingKnown(unknown)
		}
		rows, err := readBillLines(do, b, in, false)
		if err != nil {
			return SentIn{}, err
		}
		b.Revision++
		if err := storebuying.SaveBill(do.Tx, &b); err != nil {
			return SentIn{}, err
		}
		sent.ID, sent.Lines, sent.Unknown = b.ID, len(rows), unknown
		return sent, storebuying.ReplaceBillLines(do.Tx, b.ID, rows, in.Deliveries)
	})
}

// billed puts a line of a bill that was read on the goods that came, which it takes up, or on
// what an order awaits.
func billed(l buying.InvoicedLine, variant uint64, came []storebuying.ToBill, awaited []storebuying.OrderLine,
	minor money.Minor) []BillLineInput {
	unbilled := make([]decimal.Decimal, len(came))
	for i, c := range came {
		if c.VariantID == variant {
			unbilled[i] = c.Unbilled
		}
	}
	order := slices.IndexFunc(awaited, func(o storebuying.OrderLine) bool { return o.VariantID == variant })
	var lines []BillLineInput
	for _, part := range l.Placed(unbilled, order >= 0, minor) {
		line := BillLineInput{Quantity: part.Quantity.String(), Net: minor.Text(part.Net)}
		if part.At < 0 {
			line.OrderLine = awaited[order].ID
		} else {
			line.DeliveryLine = came[part.At].ID
			came[part.At].Unbilled = came[part.At].Unbilled.Sub(part.Quantity)
		}
		lines = append(lines, line)
	}
	return lines
}
