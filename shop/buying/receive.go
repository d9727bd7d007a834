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
	"itemrack/core/serial"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/shop/scan"
	"itemrack/store"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
	"itemrack/store/office"
)

// DeliveryInput is a delivery as it is typed.
type DeliveryInput struct {
	Supplier        uint64           `json:"supplier_id"`
	Branch          uint64           `json:"branch_id"`
	SupplierNumber  string           `json:"supplier_number"`
	Note            string           `json:"note"`
	CameOn          string           `json:"came_on"`            // empty for the day it is posted
	ExtraTaxClass   uint64           `json:"extra_tax_class_id"` // 0 for the shop's first
	CostsIncludeTax bool             `json:"costs_include_tax"`
	Extra           string           `json:"extra"`
	Spread          string           `json:"spread"`
	BillLater       bool             `json:"bill_later"` // their bill does not come with the goods
	Orders          []uint64         `json:"order_ids"`  // that it is against
	Lines           []scan.GoodsLine `json:"lines"`
	Revision        uint64           `json:"revision"` // as it was shown; another one is refused
}

// DeliveryRef names a draft.
type DeliveryRef struct {
	ID       uint64 `json:"id"`
	Revision uint64 `json:"revision"`
	Remark   string `json:"remark,omitempty"` // what should be looked at
}

// SaveDelivery keeps a delivery as a draft: a new one when id is 0. Nothing is
// in the book until it is posted.
func SaveDelivery(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in DeliveryInput) (DeliveryRef, error) {
	return deed.Once(ctx, s, who, staff.DeedReceive, key, func(tx store.Tx) (DeliveryRef, error) {
		d := storebuying.Delivery{BranchID: in.Branch, CreatedBy: who.ID, CreatedAt: s.Now()}
		var before []storebuying.DeliveryLine
		if id != 0 {
			view, rows, err := storebuying.LockDelivery(tx, id)
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
			before = rows
			d = view.Delivery
			d.BranchID = in.Branch
		}
		if err := unseen(who, &in, d, before); err != nil {
			return DeliveryRef{}, err
		}
		if err := readHead(s, tx, &d, in); err != nil {
			return DeliveryRef{}, err
		}
		if err := deed.At(tx.Q, who, d.BranchID); err != nil {
			return DeliveryRef{}, err
		}
		awaited, err := readOrders(tx, &d, in.Orders)
		if err != nil {
			return DeliveryRef{}, err
		}
		lines, err := readLines(s, tx, in.Lines, in.CostsIncludeTax, awaited)
		if err != nil {
			return DeliveryRef{}, err
		}
		typedOver(lines, before)
		return keepDelivery(tx, &d, in.Orders, lines)
	})
}

// unseen puts what is kept of costs into a delivery that somebody typed who sees none; the
// bill of a new one comes later. What such a person says of costs is refused.
func unseen(who staff.Actor, in *DeliveryInput, d storebuying.Delivery, before []storebuying.DeliveryLine) error {
	if who.Can(staff.DeedCosts) {
		return nil
	}
	said := strings.TrimSpace(in.Extra)
	for _, l := range in.Lines {
		said += strings.TrimSpace(l.Cost + l.Total)
	}
	if said != "" {
		return who.May(staff.DeedCosts)
	}
	in.BillLater, in.CostsIncludeTax = d.BillLater || d.ID == 0, d.CostsIncludeTax
	in.Extra, in.Spread, in.ExtraTaxClass = number.Said(d.Extra), d.Spread, deed.Deref(d.ExtraTaxClassID)
	in.Lines = slices.Clone(in.Lines)
	left := slices.Clone(before)
	for i := range in.Lines {
		l := &in.Lines[i]
		at := slices.IndexFunc(left, func(b storebuying.DeliveryLine) bool { return b.VariantID == l.Variant })
		if at < 0 {
			continue
		}
		now, _ := number.Parse(l.Quantity)
		each, total := buying.KeptCosts(left[at].Cost, left[at].Total, left[at].Quantity, now)
		if each != nil {
			l.Cost = each.String()
		}
		if total != nil {
			l.Total = total.String()
		}
		left = slices.Delete(left, at, at+1) // the same goods may stand on two lines
	}
	return nil
}

// keepDelivery writes a draft with its lines and the orders it is against.
func keepDelivery(tx store.Tx, d *storebuying.Delivery, orders []uint64, lines []storebuying.DeliveryLine) (DeliveryRef, error) {
	d.Revision++
	if err := storebuying.SaveDelivery(tx, d); err != nil {
		return DeliveryRef{}, err
	}
	if err := storebuying.SetOrders(tx, d.ID, orders); err != nil {
		return DeliveryRef{}, err
	}
	ref := DeliveryRef{ID: d.ID, Revision: d.Revision}
	if d.SupplierID != nil && d.SupplierNumber != "" {
		taken, err := storebuying.NumberTaken(tx.Q, *d.SupplierID, d.SupplierNumber, d.ID)
		if err != nil {
			return ref, err
		}
		if taken != "" {
			ref.Remark = fmt.Sprintf("Their number %s was entered already, as %s.", d.SupplierNumber, taken)
		}
	}
	return ref, storebuying.ReplaceLines(tx, d.ID, lines)
}

// typedOver keeps how the quantities of lines came about, where they stayed as they were.
func typedOver(lines, before []storebuying.DeliveryLine) {
	for i, l := range lines {
		at := slices.IndexFunc(before, func(b storebuying.DeliveryLine) bool {
			return b.VariantID == l.VariantID && b.LotNumber == l.LotNumber && b.How != buying.Counted
		})
		if at >= 0 {
			lines[i].How = before[at].Got().Type(l.Quantity).How
		}
	}
}

func readHead(s *deed.Shop, tx store.Tx, d *storebuying.Delivery, in DeliveryInput) error {
	suppliers, err := goods.Suppliers(tx.Q)
	if err != nil {
		return err
	}
	if d.SupplierID = deed.Reference(in.Supplier); in.Supplier != 0 &&
		!slices.ContainsFunc(suppliers, func(x goods.Supplier) bool { return x.ID == in.Supplier }) {
		return fault.Field("supplier_id", in.Supplier, "a supplier of the shop",
			"Choose the supplier that the goods came from.")
	}
	if err := knownBranch(tx.Q, d.BranchID); err != nil {
		return err
	}
	d.SupplierNumber = strings.TrimSpace(in.SupplierNumber)
	if text.Len(d.SupplierNumber) > 60 {
		return fault.Field("supplier_number", d.SupplierNumber, "60 characters or fewer",
			"The supplier's number is too long.")
	}
	if text.Len(in.Note) > 250 {
		return fault.Field("note", in.Note, "250 characters or fewer", "The note is too long.")
	}
	d.Note, d.CostsIncludeTax, d.Spread, d.BillLater = in.Note, in.CostsIncludeTax, in.Spread, in.BillLater
	if d.Spread == "" {
		d.Spread = string(buying.ByValue)
	}
	set, err := tx.Terms()
	if err != nil {
		return err
	}
	d.Extra = decimal.Zero
	if strings.TrimSpace(in.Extra) != "" {
		if d.Extra, err = set.Minor().Parse("extra", in.Extra); err != nil {
			return err
		}
	}
	if d.BillLater && d.Extra.IsPositive() {
		return fault.Field("extra", in.Extra, "no freight until the bill is there",
			"What the freight costs is known when the bill comes; it is entered there.")
	}
	if err := freightTax(s, tx, d, in.ExtraTaxClass); err != nil {
		return err
	}
	d.CameOn = nil
	if strings.TrimSpace(in.CameOn) != "" {
		day, err := number.Day("came_on", in.CameOn)
		if err != nil {
			return err
		}
		if _, err := buying.Came(&day, s.Now(), set); err != nil {
			return err
		}
		d.CameOn = &day
	}
	_, err = buying.Compute(buying.Bill{Spread: buying.Spread(d.Spread)}, nil)
	return err
}

// knownBranch refuses a branch that the shop does not have.
func knownBranch(q store.Q, id uint64) error {
	branches, err := office.Branches(q)
	if err == nil && !slices.ContainsFunc(branches, func(x office.Branch) bool { return x.ID == id }) {
		return fault.Field("branch_id", id, "a branch of the shop", "Choose the branch that the goods come to.")
	}
	return err
}

// freightTax puts the tax on a delivery's freight: of a class of its own, the shop's first
// unless another is chosen.
func freightTax(s *deed.Shop, tx store.Tx, d *storebuying.Delivery, class uint64) error {
	var err error
	d.ExtraTaxClassID, d.ExtraPercent, err = taxOn(s, tx, "extra_tax_class_id", class)
	return err
}

// readLines checks typed lines; empty quantities are left out. A line without a
// cost takes that of the last delivery, or what one is expected to cost; where neither is
// known it asks.
func readLines(s *deed.Shop, tx store.Tx, input []scan.GoodsLine, includeTax bool,
	awaited []storebuying.OrderLine) ([]storebuying.DeliveryLine, error) {
	ids := make([]uint64, len(input))
	for i, l := range input {
		ids[i] = l.Variant
	}
	found, err := goods.Sellables(tx.Q, ids, s.Now())
	if err != nil {
		return nil, err
	}
	typed, err := storebuying.LastTyped(tx.Q, ids, includeTax)
	if err != nil {
		return nil, err
	}
	set, err := tx.Terms()
	if err != nil {
		return nil, err
	}
	for _, a := range awaited { // what was agreed goes before what it cost the last time
		if a.Price == nil {
			continue
		}
		typed[a.VariantID] = a.Figures().CostAs(includeTax, a.Percent, set.Minor())
	}
	var lines []storebuying.DeliveryLine
	for i, l := range input {
		row, err := readLine(found[l.Variant], l, typed, set.Minor())
		if err != nil {
			return nil, InLine(i, err)
		}
		if row.Quantity.IsPositive() {
			row.Percent = found[l.Variant].BuyPercent
			lines = append(lines, row)
		}
	}
	return lines, nil
}

// readLine reads one typed line; without a quantity it is none.
func readLine(v goods.Sellable, l scan.GoodsLine, typed map[uint64]decimal.Decimal,
	minor money.Minor) (storebuying.DeliveryLine, error) {
	row := storebuying.DeliveryLine{VariantID: v.ID, ShelfID: deed.Reference(l.Shelf)}
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
	before, ok := typed[v.ID]
	if !ok {
		before = v.Goods.Cost
	}
	if ok || before.IsPositive() {
		row.Cost = &before
	}
	if strings.TrimSpace(l.Cost) != "" {
		each, err := money.ParseCost("cost", l.Cost)
		if err != nil {
			return row, err
		}
		row.Cost = &each
	}
	if strings.TrimSpace(l.Total) != "" {
		all, err := minor.Parse("total", l.Total)
		if err != nil {
			return row, err
		}
		each := all.DivRound(row.Quantity, money.CostPlaces)
		row.Total, row.Cost = &all, &each
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
func ReadTracking(row *storebuying.DeliveryLine, v goods.Sellable, in scan.GoodsLine) error {
	var err error
	if strings.TrimSpace(in.Expiry) != "" {
		day, err := number.Day("expiry", in.Expiry)
		if err != nil {
			return err
		}
		row.Expiry = &day
	}
	if row.LotNumber, err = serial.LotNumber(in.Lot); err != nil {
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
func DeliveryTotals(d storebuying.Delivery, lines []storebuying.DeliveryLine, minor money.Minor) (buying.Totals, error) {
	bill := buying.Bill{
		CostsIncludeTax: d.CostsIncludeTax,
		Extra:           d.Extra,
		ExtraPercent:    d.ExtraPercent,
		Spread:          buying.Spread(d.Spread),
		Minor:           minor,
	}
	return buying.Compute(bill, typedLines(lines))
}

// typedLines are the lines of a delivery as they are computed with.
func typedLines(lines []storebuying.DeliveryLine) []buying.Line {
	list := make([]buying.Line, len(lines))
	for i, l := range lines {
		list[i] = buying.Line{Quantity: l.Quantity, Percent: l.Percent, Total: l.Total, Cost: number.OrZero(l.Cost),
			Kilos: l.Kilos()}
	}
	return list
}

// DeliveryPosting says what else happens when a delivery is posted: of which goods what has
// not come is called off, and out of what it is paid at once.
type DeliveryPosting struct {
	CallOff  []uint64    `json:"call_off_variant_ids"`
	PaidFrom buying.From `json:"paid_from"`   // empty where it stays owed
	Register uint64      `json:"register_id"` // whose drawer it is paid out of
}

// PostDelivery takes a draft into stock as one document, and off the orders it is against.
// What was only proposed is taken, too.
func PostDelivery(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in DeliveryPosting) (deed.Posted, error) {
	return deed.Once(ctx, s, who, staff.DeedReceive, key, func(tx store.Tx) (deed.Posted, error) {
		view, lines, err := storebuying.LockDelivery(tx, id)
		if err != nil {
			return deed.Posted{}, err
		}
		if view.DocumentID != nil {
			return deed.Posted{}, fault.Clash("delivery", view.Number, "a delivery not posted yet",
				"Already posted as %s; nothing was posted twice.", view.Number)
		}
		if err := deed.At(tx.Q, who, view.BranchID); err != nil {
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
		awaited, err := lockAwaited(tx, who, id)
		if err != nil {
			return deed.Posted{}, err
		}
		set, err := tx.Terms()
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
		shares := sharesOf(awaited, lines)
		ahead, err := billedAhead(tx, view.Delivery, lines, awaited, shares, &totals, set.Minor())
		if err != nil {
			return deed.Posted{}, err
		}
		out, _, err := payingOut(tx, who, in.PaidFrom, in.Register)
		if err != nil {
			return deed.Posted{}, err
		}
		doc, held, err := draftDelivery(s, tx, who, view, lines, totals, out)
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
			key := text.Key(d.SupplierNumber)
			d.PostedNumber = &key
		}
		done := deed.Posted{Document: document, Number: doc.Number, At: doc.HappenedAt}
		if err := storebuying.PostedDelivery(tx, d); err != nil {
			return done, err
		}
		if err := arrive(s, tx, who, awaited, lines, shares, done, in.CallOff); err != nil {
			return done, err
		}
		if err := billDelivery(s, tx, who, d, lines, totals, ahead, set); err != nil {
			return done, err
		}
		if err := paidAtOnce(s, tx, who, d, out, in, set); err != nil || d.SupplierID == nil {
			return done, err
		}
		return done, storebuying.KeepSupplied(tx, suppliedBy(d, lines, totals, awaited, done))
	})
}

// draftDelivery makes the document of a delivery.
func draftDelivery(s *deed.Shop, tx store.Tx, who staff.Actor, view storebuying.DeliveryView, lines []storebuying.DeliveryLine,
	totals buying.Totals, out storebuying.Payment) (stock.Document, stock.Holding, error) {
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
	if err := follow(tx, held, lines, decimal.New(1, 0)); err != nil {
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
	set, err := tx.Terms()
	if err != nil {
		return stock.Document{}, held, err
	}
	now := s.Now()
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
			By:         who.ID,
			HappenedAt: came,
			RecordedAt: now,
			Note:       view.Note,
		},
	)
	for i, l := range lines {
		if l.Cost == nil {
			return stock.Document{}, held, InLine(i, buying.CostMissing(held.Items[l.VariantID].Name,
				who.Can(staff.DeedCosts)))
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
func DropDelivery(ctx context.Context, s *deed.Shop, who staff.Actor, id uint64) error {
	_, err := deed.Once(ctx, s, who, staff.DeedReceive, "", func(tx store.Tx) (DeliveryRef, error) {
		view, _, err := storebuying.LockDelivery(tx, id)
		if err != nil {
			return DeliveryRef{}, err
		}
		if view.DocumentID != nil {
			return DeliveryRef{}, fault.Clash("delivery", view.Number, "a draft",
				"It is posted as %s; reverse that document instead.", view.Number)
		}
		if err := deed.At(tx.Q, who, view.BranchID); err != nil {
			return DeliveryRef{}, err
		}
		return DeliveryRef{ID: id}, storebuying.DropDelivery(tx, id)
	})
	return err
}
