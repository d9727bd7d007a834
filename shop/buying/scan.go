package buying

import (
	"fmt"
	"slices"
	"time"

	"itemrack/core/buying"
	"itemrack/core/fault"
	corescan "itemrack/core/scan"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/shop/deed"
	shopscan "itemrack/shop/scan"
	"itemrack/store"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// DeliveryScan is a code that is scanned into a delivery. Head is that of a new one.
type DeliveryScan struct {
	Code  string        `json:"code"`
	Head  DeliveryInput `json:"head"`
	Shelf uint64        `json:"shelf_id"` // that the goods go to; 0 for the one of their line, or the branch's default
	// After is the goods that were scanned before: a code that nobody knows is their serial number.
	After uint64 `json:"after_variant_id"`
}

// ScanDelivery adds what was scanned to a draft: a piece, a pack, what a scale
// weighed; lot, expiry and serial number that stand in the code come with it. With id 0
// what is scanned begins one; a code that is not of one variant begins none.
func ScanDelivery(do deed.Deed, id uint64, in DeliveryScan) (shopscan.DeliveryScanned, error) {
	return deed.Once(do, staff.DeedReceive, func(do deed.Deed) (shopscan.DeliveryScanned, error) {
		return scanDelivery(do, id, in)
	})
}

func scanDelivery(do deed.Deed, id uint64, in DeliveryScan) (shopscan.DeliveryScanned, error) {
	d, rows, err := scannedInto(do, id, in.Head)
	if err != nil {
		return shopscan.DeliveryScanned{}, err
	}
	if err := deed.At(do.Tx.Q, do.Who, d.BranchID); err != nil {
		return shopscan.DeliveryScanned{}, err
	}
	if d.DocumentID != nil {
		return shopscan.DeliveryScanned{}, fault.Clash("delivery", d.Number, "a delivery not posted yet",
			"It is posted already, as %s.", d.Number)
	}
	scan, err := shopscan.Read(do.Tx.Q, in.Code, 20)
	if err != nil {
		return shopscan.DeliveryScanned{}, err
	}
	if order := scan.Order(); order != 0 {
		return attach(do.Tx, d, rows, in.Head, order)
	}
	if shelf := scan.Shelf(); shelf != 0 {
		return toShelf(do.Tx, d, shelf)
	}
	if len(scan.Found) == 0 && in.After != 0 {
		before, err := goods.Sellables(do.Tx.Q, []uint64{in.After}, do.Shop.Now())
		if err != nil {
			return shopscan.DeliveryScanned{}, err
		}
		scan.Numbers(before[in.After])
	}
	if !scan.One() {
		return scan.Meant()
	}
	items, err := goods.Sellables(do.Tx.Q, []uint64{scan.Found[0].ID}, do.Shop.Now())
	if err != nil {
		return shopscan.DeliveryScanned{}, err
	}
	orders, awaited, err := againstOf(do.Tx, id, in.Head)
	if err != nil {
		return shopscan.DeliveryScanned{}, err
	}
	item := items[scan.Found[0].ID]
	typed, proposed, err := scanInto(scan, rows, item, awaited, in.Shelf)
	if err != nil {
		return shopscan.DeliveryScanned{}, err
	}
	read, err := readLines(do, typed, d.CostsIncludeTax, awaited)
	if err != nil {
		return shopscan.DeliveryScanned{}, err
	}
	typedOver(read, taken(rows, item.ID))
	for i := len(read) - 1; i >= 0 && proposed; i-- { // the line that was added
		if read[i].VariantID == item.ID {
			read[i].How = buying.Proposed
			break
		}
	}
	ref, err := keepDelivery(do.Tx, &d.Delivery, orders, read)
	said := scannedSaid(item, read, awaited)
	said.ID, said.Revision = ref.ID, ref.Revision
	return said, err
}

// toShelf says that what is scanned next goes to a shelf of the delivery's branch.
func toShelf(tx store.Tx, d storebuying.DeliveryView, id uint64) (shopscan.DeliveryScanned, error) {
	shelves, err := book.ShelvesOf(tx.Q, d.BranchID)
	if err != nil {
		return shopscan.DeliveryScanned{}, err
	}
	at := slices.IndexFunc(shelves, func(x stock.Shelf) bool { return x.ID == id })
	if at < 0 {
		return shopscan.DeliveryScanned{}, fault.Refuse("code", corescan.ShelfCode(id),
			"a shelf of the branch that the goods come to",
			"That shelf is not where these goods come to.")
	}
	return shopscan.DeliveryScanned{Said: "What comes next goes to " + shelves[at].Name + ".",
		Shelf: &shopscan.ToShelf{ID: id, Name: shelves[at].Name},
		ID:    d.ID, Revision: d.Revision}, nil
}

// attach puts a draft against an order that was scanned.
func attach(tx store.Tx, d storebuying.DeliveryView, rows []storebuying.DeliveryLine, head DeliveryInput,
	order uint64) (shopscan.DeliveryScanned, error) {
	orders, _, err := againstOf(tx, d.ID, head)
	if err != nil {
		return shopscan.DeliveryScanned{}, err
	}
	if !slices.Contains(orders, order) {
		orders = append(orders, order)
	}
	if _, err := readOrders(tx, &d.Delivery, orders); err != nil {
		return shopscan.DeliveryScanned{}, err
	}
	o, _, err := storebuying.ReadOrder(tx.Q, order)
	if err != nil {
		return shopscan.DeliveryScanned{}, err
	}
	ref, err := keepDelivery(tx, &d.Delivery, orders, rows)
	return shopscan.DeliveryScanned{Said: fmt.Sprintf("%s, %s: %s to come.", o.Number, o.Supplier, o.ToCome),
		ID: ref.ID, Revision: ref.Revision}, err
}

// scanInto puts a scan onto the kept lines of a delivery; proposed says that what is
// outstanding of the goods is proposed.
func scanInto(scan shopscan.Scanned, rows []storebuying.DeliveryLine, item goods.Sellable,
	awaited []storebuying.OrderLine, shelf uint64) (typed []shopscan.GoodsLine, proposed bool, err error) {
	typed = typedAgain(rows)
	at := slices.IndexFunc(rows, func(l storebuying.DeliveryLine) bool {
		return l.VariantID == item.ID && (shelf == 0 || deed.Deref(l.ShelfID) == shelf)
	})
	got := buying.Got{}
	if at >= 0 {
		got = rows[at].Got()
	}
	outstanding := outstandingOf(awaited, item.ID)
	for i, l := range rows { // what stands on other shelves is here already
		if l.VariantID == item.ID && i != at {
			outstanding = outstanding.Sub(l.Quantity)
		}
	}
	found := scan.Found[0]
	exact := scan.Times != "" || found.Serial != "" || found.Lot != "" || found.Quantity != nil
	next := got.Scan(scan.Units, outstanding, exact)
	switch {
	case next.How == buying.Proposed:
		typed = append(typed, shopscan.GoodsLine{Variant: item.ID, Quantity: next.Quantity.String(), Shelf: shelf})
		return typed, true, nil
	case got.How == buying.Proposed && !exact:
		typed[at].Quantity = next.Quantity.String()
		return typed, false, nil
	case got.How == buying.Proposed:
		typed[at].Quantity = "0" // what is said exactly goes in its place
	}
	_, err = scan.Put(&typed, item, "", shelf)
	return typed, false, err
}

// taken is kept lines with what is proposed of other goods than those of a variant taken.
func taken(rows []storebuying.DeliveryLine, but uint64) []storebuying.DeliveryLine {
	rows = slices.Clone(rows)
	for i, l := range rows {
		if l.VariantID != but {
			rows[i].How = l.Got().Take().How
		}
	}
	return rows
}

// scannedSaid says what a scan did, and how much of what is ordered is there.
func scannedSaid(item goods.Sellable, lines []storebuying.DeliveryLine,
	awaited []storebuying.OrderLine) shopscan.DeliveryScanned {
	said := shopscan.DeliveryScanned{Variant: item.ID}
	p := buying.Progress{Outstanding: outstandingOf(awaited, item.ID)}
	how := buying.Counted
	lot := ""
	for _, l := range lines {
		if l.VariantID == item.ID {
			p.Got, how, lot = p.Got.Add(l.Quantity), l.How, text.Or(l.LotNumber, lot)
		}
	}
	whole := item.Unit.Format
	switch {
	case len(awaited) == 0:
		said.Said = fmt.Sprintf("%s: %s in this delivery", item.FullName(), whole(p.Got))
	case !slices.ContainsFunc(awaited, func(l storebuying.OrderLine) bool { return l.VariantID == item.ID }):
		said.Said = fmt.Sprintf("%s: %s, not ordered", item.FullName(), whole(p.Got))
		said.Verdict = "not ordered"
	case how == buying.Proposed:
		said.Said = fmt.Sprintf("%s: %s as ordered. Scan it again to count", item.FullName(), whole(p.Got))
	case p.Over().IsPositive():
		said.Said = fmt.Sprintf("%s: %s of %s, %s over", item.FullName(), whole(p.Got), whole(p.Outstanding),
			whole(p.Over()))
		said.Verdict = "over"
	default:
		said.Said = fmt.Sprintf("%s: %s of %s", item.FullName(), whole(p.Got), whole(p.Outstanding))
	}
	if lot != "" {
		said.Said += ", lot " + lot
	}
	said.Said += "."
	return said
}

// scannedInto is the draft that is scanned into: one that is kept, or a new one that is not
// yet.
func scannedInto(do deed.Deed, id uint64, head DeliveryInput) (storebuying.DeliveryView, []storebuying.DeliveryLine,
	error) {
	if id != 0 {
		view, lines, err := storebuying.LockDelivery(do.Tx, id)
		if err == nil {
			err = deed.At(do.Tx.Q, do.Who, view.BranchID)
		}
		return view, lines, err
	}
	view := storebuying.DeliveryView{
		Delivery: storebuying.Delivery{BranchID: head.Branch, CreatedBy: do.Who.ID, CreatedAt: do.Shop.Now()},
	}
	if err := unseen(do.Who, &head, view.Delivery, nil); err != nil {
		return view, nil, err
	}
	if err := readHead(do, &view.Delivery, head); err != nil {
		return view, nil, err
	}
	awaited, err := readOrders(do.Tx, &view.Delivery, head.Orders)
	if err != nil {
		return view, nil, err
	}
	lines, err := readLines(do, head.Lines, head.CostsIncludeTax, awaited)
	return view, lines, err
}

// typedAgain turns the kept lines of a delivery into typed ones.
func typedAgain(rows []storebuying.DeliveryLine) []shopscan.GoodsLine {
	lines := make([]shopscan.GoodsLine, len(rows))
	for i, r := range rows {
		lines[i] = shopscan.GoodsLine{
			Variant:  r.VariantID,
			Quantity: r.Quantity.String(),
			Lot:      r.LotNumber,
			Serials:  r.Serials,
		}
		if r.Cost != nil {
			lines[i].Cost = r.Cost.String()
		}
		if r.Total != nil {
			lines[i].Total = r.Total.String()
		}
		lines[i].Shelf = deed.Deref(r.ShelfID)
		if r.Expiry != nil {
			lines[i].Expiry = r.Expiry.Format(time.DateOnly)
		}
	}
	return lines
}
