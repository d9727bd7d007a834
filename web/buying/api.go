package buying

import (
	"github.com/gofiber/fiber/v3"

	"itemrack/core/buying"
	shopbuying "itemrack/shop/buying"
	"itemrack/shop/deed"
	"itemrack/shop/scan"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
	"itemrack/web/kit"
)

func apiSaveDelivery(c *kit.Call, in shopbuying.DeliveryInput) (shopbuying.DeliveryRef, error) {
	return shopbuying.SaveDelivery(c.Deed(), fiber.Params[uint64](c.Ctx, "id"), in)
}

// deliveryAnswer is a delivery with its lines and what they come to.
type deliveryAnswer struct {
	Delivery storebuying.DeliveryView   `json:"delivery"`
	Lines    []storebuying.DeliveryLine `json:"lines"`
	Totals   buying.Totals              `json:"totals"`
}

func apiDelivery(c *kit.Call, id uint64) (deliveryAnswer, error) {
	view, lines, err := storebuying.ReadDelivery(c.Q(), id)
	if err != nil {
		return deliveryAnswer{}, err
	}
	totals, err := shopbuying.DeliveryTotals(view.Delivery, lines, c.Terms.Minor())
	return deliveryAnswer{view, lines, totals}, err
}

func apiDropDelivery(c *kit.Call, id uint64) (shopbuying.DeliveryRef, error) {
	return shopbuying.DeliveryRef{ID: id}, shopbuying.DropDelivery(c.Deed(), id)
}

func apiScanDelivery(c *kit.Call, id uint64, in shopbuying.DeliveryScan) (scan.DeliveryScanned, error) {
	return shopbuying.ScanDelivery(c.Deed(), id, in)
}

func apiPostDelivery(c *kit.Call, id uint64) (deed.Posted, error) {
	var in shopbuying.DeliveryPosting
	if len(c.Body()) > 0 {
		if err := c.Read(&in); err != nil {
			return deed.Posted{}, err
		}
	}
	return shopbuying.PostDelivery(c.Deed(), id, in)
}

func apiDeliveries(c *kit.Call, page int) ([]storebuying.DeliveryView, bool, error) {
	return storebuying.Deliveries(c.Q(), page)
}

func apiSuppliers(c *kit.Call) ([]goods.Supplier, error) { return goods.Suppliers(c.Q()) }
