package buying

import (
	"fmt"
	"slices"
	"strings"

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
func SaveDelivery(do deed.Deed, id uint64, in DeliveryInput) (DeliveryRef, error) {
	return deed.Once(do, staff.DeedReceive, func(do deed.Deed) (DeliveryRef, error) {
		d := storebuying.Delivery{BranchID: in.Branch, CreatedBy: do.Who.ID, CreatedAt: do.Shop.Now()}
		var before []storebuying.DeliveryLine
		if id != 0 {
			view, rows, err := storebuying.LockDelivery(do.Tx, id)
			if err != nil {
				return DeliveryRef{}, err
			}
			if view.DocumentID != nil {
				return DeliveryRef{}, fault.Clash("delivery", view.Number, "a delivery not posted yet",
					"It is posted already, as %s.", view.Number)
			}
			if err := deed.At(do.Tx.Q, do.Who, view.BranchID); err != nil {
				return DeliveryRef{}, err
			}
			if err := revision.Check("This delivery", in.Revision, view.Revision); err != nil {
				return DeliveryRef{}, err
			}
			before = rows
			d = view.Delivery
			d.BranchID = in.Branch
		}
		if err := unseen(do.Who, &in, d, before); err != nil {
			return DeliveryRef{}, err
		}
		if err := readHead(do, &d, in); err != nil {
			return DeliveryRef{}, err
		}
		if err := deed.At(do.Tx.Q, do.Who, d.BranchID); err != nil {
			return DeliveryRef{}, err
		}
		awaited, err := readOrders(do.Tx, &d, in.Orders)
		if err != nil {
			return DeliveryRef{}, err
		}
		lines, err := readLines(do, in.Lines, in.CostsIncludeTax, awaited)
		if err != nil {
			return DeliveryRef{}, err
		}
		typedOver(lines, before)
		return keepDelivery(do.Tx, &d, in.Orders, lines)
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
func keepDelivery(tx store.Tx, d *storebuying.Delivery, orders []uint64,
	lines []storebuying.DeliveryLine) (DeliveryRef, error) {
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

func readHead(do deed.Deed, d *storebuying.Delivery, in DeliveryInput) error {
	suppliers, err := goods.Suppliers(do.Tx.Q)
	if err != nil {
		return err
	}
	if d.SupplierID = deed.Reference(in.Supplier); in.Supplier != 0 &&
		!slices.ContainsFunc(suppliers, func(x goods.Supplier) bool { return x.ID == in.Supplier }) {
		return fault.Field("supplier_id", in.Supplier, "a supplier of the shop",
			"Choose the supplier that the goods came from.")
	}
	if err := knownBranch(do.Tx.Q, d.BranchID); err != nil {
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
	set, err := do.Tx.Terms()
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
	if err := freightTax(do, d, in.ExtraTaxClass); err != nil {
		return err
	}
	d.CameOn = nil
	if strings.TrimSpace(in.CameOn) != "" {
		day, err := number.Day("came_on", in.CameOn)
		if err != nil {
			return err
		}
		if _, err := buying.Came(&day, do.Shop.Now(), set); err != nil {
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
func freightTax(do deed.Deed, d *storebuying.Delivery, class uint64) error {
	var err error
	d.ExtraTaxClassID, d.ExtraPercent, err = taxOn(do, "extra_tax_class_id", class)
	return err
}

// readLines checks typed lines; empty quantities are left out. A line without a
// cost takes that of the last delivery, or what one is expected to cost; where neither is
// known it asks.
func readLines(do deed.Deed, input []scan.GoodsLine, includeTax bool,
	awaited []storebuying.OrderLine) ([]storebuying.DeliveryLine, error) {
	ids := make([]uint64, len(input))
	for i, l := range input {
		ids[i] = l.Variant
	}
	found, err := goods.Sellables(do.Tx.Q, ids, do.Shop.Now())
	if err != nil {
		return nil, err
	}
	typed, err := storebuying.LastTyped(do.Tx.Q, ids, includeTax)
	if err != nil {
		return nil, err
	}
	set, err := do.Tx.Terms()
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
func DeliveryTotals(d storebuying.Delivery, lines []storebuying.DeliveryLine, minor money.Minor) (buying.Totals,
	error) {
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
