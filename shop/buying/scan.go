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

// DeliveryScan is a code that is scanned into a delivery.
type DeliveryScan struct {
	Code string `json:"code"`
}

// ScanDelivery adds what was scanned to a draft: a piece, a pack, what a scale
// weighed; lot, expiry and serial number that stand in the code come with it.
func ScanDelivery(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in DeliveryScan) (shopscan.DeliveryScanned, error) {
	return deed.Once(ctx, s, who, staff.DeedReceive, key, func(tx store.Tx) (shopscan.DeliveryScanned, error) {
		d, rows, err := trade.LockDelivery(tx, id)
		if err != nil {
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
		return shopscan.DeliveryScanned{Said: said, Revision: d.Revision}, trade.ReplaceLines(tx, id, read)
	})
}

// typedAgain turns the kept lines of a delivery into typed ones.
func typedAgain(rows []trade.DeliveryLine) []shopscan.GoodsLine {
	lines := make([]shopscan.GoodsLine, len(rows))
	for i, r := range rows {
		lines[i] = shopscan.GoodsLine{
			Variant:  r.VariantID,
			Quantity: r.Quantity.String(),
			Cost:     r.Cost.String(),
			Lot:      r.LotNumber,
			Serials:  r.Serials,
		}
		if r.Expiry != nil {
			lines[i].Expiry = r.Expiry.Format(time.DateOnly)
		}
	}
	return lines
}
