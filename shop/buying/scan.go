package buying

import (
	"context"
	"time"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/shop/deed"
	shopscan "itemrack/shop/scan"
	"itemrack/store"
	"itemrack/store/goods"
	"itemrack/store/trade"
)

// DeliveryScan is a code that is scanned into a delivery. Head is that of a new one.
type DeliveryScan struct {
	Code string        `json:"code"`
	Head DeliveryInput `json:"head"`
}

// ScanDelivery adds what was scanned to a draft: a piece, a pack, what a scale
// weighed; lot, expiry and serial number that stand in the code come with it. With id 0
// what is scanned begins one; a code that is not of one variant begins none.
func ScanDelivery(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in DeliveryScan) (shopscan.DeliveryScanned, error) {
	return deed.Once(ctx, s, who, staff.DeedReceive, key, func(tx store.Tx) (shopscan.DeliveryScanned, error) {
		d, rows, err := scannedInto(s, tx, who, id, in.Head)
		if err != nil {
			return shopscan.DeliveryScanned{}, err
		}
		if err := deed.At(tx.Q, who, d.BranchID); err != nil {
			return shopscan.DeliveryScanned{}, err
		}
		if d.DocumentID != nil {
			return shopscan.DeliveryScanned{}, fault.Clash("delivery", d.Number, "a delivery not posted yet",
				"It is posted already, as %s.", d.Number)
		}
		scan, err := shopscan.Read(tx.Q, in.Code, 20)
		if err != nil {
			return shopscan.DeliveryScanned{}, err
		}
		if !scan.One() {
			return scan.Meant()
		}
		items, err := goods.Sellables(tx.Q, []uint64{scan.Found[0].ID}, s.Now())
		if err != nil {
			return shopscan.DeliveryScanned{}, err
		}
		lines := typedAgain(rows)
		said, err := scan.Put(&lines, items[scan.Found[0].ID], "in this delivery")
		if err != nil {
			return shopscan.DeliveryScanned{}, err
		}
		read, err := readLines(s, tx, lines, d.CostsIncludeTax)
		if err != nil {
			return shopscan.DeliveryScanned{}, err
		}
		d.Revision++
		if err := trade.SaveDelivery(tx, &d.Delivery); err != nil {
			return shopscan.DeliveryScanned{}, err
		}
		return shopscan.DeliveryScanned{Said: said, ID: d.ID, Revision: d.Revision}, trade.ReplaceLines(tx, d.ID, read)
	})
}

// scannedInto is the draft that is scanned into: one that is kept, or a new one that is not
// yet.
func scannedInto(s *deed.Shop, tx store.Tx, who staff.Actor, id uint64,
	head DeliveryInput) (trade.DeliveryView, []trade.DeliveryLine, error) {
	if id != 0 {
		return trade.LockDelivery(tx, id)
	}
	view := trade.DeliveryView{
		Delivery: trade.Delivery{BranchID: head.Branch, CreatedBy: who.ID, CreatedAt: s.Now()},
	}
	if err := readHead(s, tx, &view.Delivery, head); err != nil {
		return view, nil, err
	}
	lines, err := readLines(s, tx, head.Lines, head.CostsIncludeTax)
	return view, lines, err
}

// typedAgain turns the kept lines of a delivery into typed ones.
func typedAgain(rows []trade.DeliveryLine) []shopscan.GoodsLine {
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
		if r.Expiry != nil {
			lines[i].Expiry = r.Expiry.Format(time.DateOnly)
		}
	}
	return lines
}
