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
	"itemrack/core/revision"
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/shop/scan"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/office"
	"itemrack/store/trade"
)

// DeliveryInput is a delivery as it is typed.
type DeliveryInput struct {
	Supplier        uint64           `json:"supplier_id"`
	Branch          uint64           `json:"branch_id"`
	SupplierNumber  string           `json:"supplier_number"`
	Note            string           `json:"note"`
	CostsIncludeTax bool             `json:"costs_include_tax"`
	Extra           string           `json:"extra"`
	Spread          string           `json:"spread"`
	Lines           []scan.GoodsLine `json:"lines"`
	Revision        uint64           `json:"revision"` // as it was shown; another one is refused
}

// DeliveryRef names a draft.
type DeliveryRef struct {
	ID       uint64 `json:"id"`
	Revision uint64 `json:"revision"`
}

// SaveDelivery keeps a delivery as a draft: a new one when id is 0. Nothing is
// in the book until it is posted.
func SaveDelivery(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in DeliveryInput) (DeliveryRef, error) {
	return deed.Once(ctx, s, who, staff.DeedReceive, key, func(tx store.Tx) (DeliveryRef, error) {
		d := trade.Delivery{SupplierID: in.Supplier, BranchID: in.Branch, CreatedBy: who.ID, CreatedAt: s.Now()}
		if id != 0 {
			view, _, err := trade.LockDelivery(tx, id)
			if err != nil {
				return DeliveryRef{}, err
			}
			if view.DocumentID != nil {
				return DeliveryRef{}, fault.Clash("delivery", view.Number, "a delivery not posted yet",
					"It is posted already, as %s.", view.Number)
			}
			if err := revision.Check("This delivery", in.Revision, view.Revision); err != nil {
				return DeliveryRef{}, err
			}
			d = view.Delivery
			d.SupplierID, d.BranchID = in.Supplier, in.Branch
		}
		if err := readHead(s, tx, &d, in); err != nil {
			return DeliveryRef{}, err
		}
		lines, err := readLines(s, tx, in.Lines, in.CostsIncludeTax)
		if err != nil {
			return DeliveryRef{}, err
		}
		d.Revision++
		if err := trade.SaveDelivery(tx, &d); err != nil {
			return DeliveryRef{}, err
		}
		return DeliveryRef{d.ID, d.Revision}, trade.ReplaceLines(tx, d.ID, lines)
	})
}

func readHead(s *deed.Shop, tx store.Tx, d *trade.Delivery, in DeliveryInput) error {
	suppliers, err := goods.Suppliers(tx.Q)
	if err != nil {
		return err
	}
	known := false
	for _, x := range suppliers {
		known = known || x.ID == d.SupplierID
	}
	if !known {
		return fault.Field("supplier_id", d.SupplierID, "a supplier of the shop",
			"Choose the supplier that the goods came from.")
	}
	branches, err := office.Branches(tx.Q)
	if err != nil {
		return err
	}
	known = false
	for _, x := range branches {
		known = known || x.ID == d.BranchID
	}
	if !known {
		return fault.Field("branch_id", d.BranchID, "a branch of the shop", "Choose the branch that the goods came to.")
	}
	d.SupplierNumber = strings.TrimSpace(in.SupplierNumber)
	if text.Len(d.SupplierNumber) > 60 {
		return fault.Field("supplier_number", d.SupplierNumber, "60 characters or fewer",
			"The supplier's number is too long.")
	}
	if text.Len(in.Note) > 250 {
		return fault.Field("note", in.Note, "250 characters or fewer", "The note is too long.")
	}
	d.Note, d.CostsIncludeTax, d.Spread = in.Note, in.CostsIncludeTax, in.Spread
	if d.Spread == "" {
		d.Spread = string(buying.ByValue)
	}
	d.Extra = decimal.Zero
	if strings.TrimSpace(in.Extra) != "" {
		set, err := tx.Terms()
		if err != nil {
			return err
		}
		if d.Extra, err = set.Minor().Parse("extra", in.Extra); err != nil {
			return err
		}
	}
	_, err = buying.Compute(buying.Bill{Spread: buying.Spread(d.Spread)}, nil)
	return err
}

// readLines checks typed lines; empty quantities are left out. A line without a
// cost takes that of the last delivery, or the last landed cost.
func readLines(s *deed.Shop, tx store.Tx, input []scan.GoodsLine, includeTax bool) ([]trade.DeliveryLine, error) {
	ids := make([]uint64, len(input))
	for i, l := range input {
		ids[i] = l.Variant
	}
	found, err := goods.Sellables(tx.Q, ids, s.Now())
	if err != nil {
		return nil, err
	}
	typed, err := trade.LastTyped(tx.Q, ids, includeTax)
	if err != nil {
		return nil, err
	}
	var lines []trade.DeliveryLine
	for i, l := range input {
		row, err := readLine(found[l.Variant], l, typed)
		if err != nil {
			return nil, InLine(i, err)
		}
		if row.Expiry != nil && slices.ContainsFunc(lines, func(o trade.DeliveryLine) bool { return sameLot(row, o) }) {
			return nil, InLine(
				i,
				fault.Clash("lot", l.Lot, "each lot on one line", "Lot %s of %s stands on another line already.",
					row.LotNumber, found[l.Variant].FullName()),
			)
		}
		if row.Quantity.IsPositive() {
			row.Percent = found[l.Variant].BuyPercent
			lines = append(lines, row)
		}
	}
	return lines, nil
}

// sameLot reports whether two lines with an expiry are of one lot.
func sameLot(a, b trade.DeliveryLine) bool {
	return a.VariantID == b.VariantID && strings.EqualFold(a.LotNumber, b.LotNumber) && b.Expiry != nil &&
		a.Expiry.Equal(*b.Expiry)
}

// readLine reads one typed line; without a quantity it is none.
func readLine(v goods.Sellable, l scan.GoodsLine, typed map[uint64]decimal.Decimal) (trade.DeliveryLine, error) {
	row := trade.DeliveryLine{VariantID: v.ID, LotNumber: strings.TrimSpace(l.Lot), Cost: v.LastCost}
	if v.ID == 0 {
		return row, fault.Missing("variant_id", l.Variant, "There is no variant %d.", l.Variant)
	}
	if v.Tracking == stock.NotStocked {
		return row, fault.Refuse("variant_id", l.Variant, "a product with stock",
			"%s is a service; it can't be delivered.", v.Name)
	}
	if strings.TrimSpace(l.Quantity) == "" {
		return row, nil
	}
	var err error
	if row.Quantity, err = v.Unit.Parse("quantity", l.Quantity); err != nil || row.Quantity.IsZero() {
		return row, err
	}
	if before, ok := typed[v.ID]; ok {
		row.Cost = before
	}
	if strings.TrimSpace(l.Cost) != "" {
		if row.Cost, err = money.ParseCost("cost", l.Cost); err != nil {
			return row, err
		}
	}
	return row, ReadTracking(&row, v, l)
}

// InLine says of a refusal which typed line it is about: "lines.0.quantity".
func InLine(i int, err error) error {
	if refusal := fault.Of(err); refusal != nil {
		refusal.Field = fmt.Sprintf("lines.%d.%s", i, refusal.Field)
	}
	return err
}

// ReadTracking checks the lot or serial numbers of a line. They may be missing
// in a draft; posting asks for them.
func ReadTracking(row *trade.DeliveryLine, v goods.Sellable, in scan.GoodsLine) error {
	if text := strings.TrimSpace(in.Expiry); text != "" {
		day, err := time.Parse(time.DateOnly, text)
		if err != nil {
			return fault.Field("expiry", text, "a date such as 2027-04-30", "%q is not a date.", text)
		}
		row.Expiry = &day
	}
	if err := serial.CheckLot(row.LotNumber); err != nil {
		return err
	}
	if v.Tracking != stock.ByLot && (row.LotNumber != "" || row.Expiry != nil) {
		return fault.Field("lot", row.LotNumber, "no lot", "%s is not kept by lot.", v.FullName())
	}
	numbers, err := serial.ReadList(in.Serials)
	if err != nil {
		return err
	}
	if v.Tracking != stock.BySerial && len(numbers) > 0 {
		return fault.Field("serials", in.Serials, "no numbers", "%s has no serial numbers.", v.FullName())
	}
	row.Serials = strings.Join(numbers, ",")
	return nil
}

// DeliveryTotals computes what a delivery comes to, line by line, as posting
// will post it.
func DeliveryTotals(d trade.Delivery, lines []trade.DeliveryLine, minor money.Minor) (buying.Totals, error) {
	bill := buying.Bill{
		CostsIncludeTax: d.CostsIncludeTax,
		Extra:           d.Extra,
		Spread:          buying.Spread(d.Spread),
		Minor:           minor,
	}
	list := make([]buying.Line, len(lines))
	for i, l := range lines {
		list[i] = buying.Line{Quantity: l.Quantity, Cost: l.Cost, Percent: l.Percent}
		bill.ExtraPercent = decimal.Max(bill.ExtraPercent,
			l.Percent) // freight is taxed as the goods, at the highest of their rates
	}
	return buying.Compute(bill, list)
}

// PostDelivery takes a draft into stock as one document.
func PostDelivery(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64) (deed.Posted, error) {
	return deed.Once(ctx, s, who, staff.DeedReceive, key, func(tx store.Tx) (deed.Posted, error) {
		view, lines, err := trade.LockDelivery(tx, id)
		if err != nil {
			return deed.Posted{}, err
		}
		if view.DocumentID != nil {
			return deed.Posted{}, fault.Clash("delivery", view.Number, "a delivery not posted yet",
				"Already posted as %s; nothing was posted twice.", view.Number)
		}
		if len(lines) == 0 {
			return deed.Posted{}, fault.Field("lines", "", "at least one quantity",
				"The delivery has no goods in it yet.")
		}
		set, err := tx.Terms()
		if err != nil {
			return deed.Posted{}, err
		}
		totals, err := DeliveryTotals(view.Delivery, lines, set.Minor())
		if err != nil {
			return deed.Posted{}, err
		}
		doc, held, err := draftDelivery(s, tx, who, view, lines, totals)
		if err != nil {
			return deed.Posted{}, err
		}
		document, err := book.Post(tx, held, doc)
		if err != nil {
			return deed.Posted{}, err
		}
		d := view.Delivery
		d.DocumentID, d.Net, d.Tax, d.Gross = &document, totals.Net, totals.Tax, totals.Gross
		if d.SupplierNumber != "" {
			d.PostedNumber = &d.SupplierNumber
		}
		return deed.Posted{Document: document, Number: doc.Number, At: doc.HappenedAt}, trade.PostedDelivery(tx, d)
	})
}

// draftDelivery makes the document of a delivery.
func draftDelivery(s *deed.Shop, tx store.Tx, who staff.Actor, view trade.DeliveryView, lines []trade.DeliveryLine,
	totals buying.Totals) (stock.Document, stock.Holding, error) {
	variants := make([]uint64, len(lines))
	var numbers []string
	for i, l := range lines {
		variants[i] = l.VariantID
		numbers = append(numbers, serial.Kept(l.Serials)...)
	}
	held, err := book.Hold(tx, variants, numbers)
	if err != nil {
		return stock.Document{}, held, err
	}
	shelf, err := held.Where(view.BranchID)
	if err != nil {
		return stock.Document{}, held, err
	}
	name, err := deed.NextNumber(tx, "D")
	if err != nil {
		return stock.Document{}, held, err
	}
	now := s.Now()
	draft := stock.NewDraft(
		held,
		stock.Document{
			Kind:       stock.Delivery,
			Number:     name,
			Branch:     view.BranchID,
			By:         who.ID,
			HappenedAt: now,
			RecordedAt: now,
			Note:       view.Note,
		},
	)
	for i, l := range lines {
		key := stock.Key{Variant: l.VariantID, Shelf: shelf, Condition: stock.ForSale}
		if held.Items[l.VariantID].Tracking == stock.ByLot {
			if l.LotNumber == "" {
				return stock.Document{}, held, fault.Field("lot", "", "the lot number on the goods",
					"%s: the lot number is missing.", held.Items[l.VariantID].Name)
			}
			expiry := time.Time{}
			if l.Expiry != nil {
				expiry = *l.Expiry
			}
			lot, err := book.KeepLot(tx, l.VariantID, l.LotNumber, expiry)
			if err != nil {
				return stock.Document{}, held, err
			}
			key.Lot = lot.ID
		}
		if err := draft.Bring(i+1, key, l.Quantity, totals.Lines[i].Value, serial.Kept(l.Serials)); err != nil {
			return stock.Document{}, held, err
		}
	}
	draft.PostAll(totals.Postings())
	doc, err := draft.Document()
	return doc, held, err
}

// DropDelivery gives up a draft.
func DropDelivery(ctx context.Context, s *deed.Shop, who staff.Actor, id uint64) error {
	_, err := deed.Once(ctx, s, who, staff.DeedReceive, "", func(tx store.Tx) (DeliveryRef, error) {
		view, _, err := trade.LockDelivery(tx, id)
		if err != nil {
			return DeliveryRef{}, err
		}
		if view.DocumentID != nil {
			return DeliveryRef{}, fault.Clash("delivery", view.Number, "a draft",
				"It is posted as %s; reverse that document instead.", view.Number)
		}
		return DeliveryRef{ID: id}, trade.DropDelivery(tx, id)
	})
	return err
}
