package buying

import (
	"github.com/shopspring/decimal"

	"itemrack/core/price"
	"itemrack/core/staff"
	shopbuying "itemrack/shop/buying"
	storebuying "itemrack/store/buying"
	"itemrack/web/kit"
)

// newPrices is the page of the new prices that a delivery offers; ?under=40 ticks those whose
// margin is less.
func newPrices(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	list, err := shopbuying.NewPrices(c.Shop, c.Q(), id)
	if err != nil {
		return err
	}
	view, _, err := storebuying.ReadDelivery(c.Q(), id)
	if err != nil {
		return err
	}
	ticked := map[uint64]bool{}
	var under *decimal.Decimal
	if text := c.Query("under"); text != "" {
		percent, err := price.ParsePercent("under", text)
		if err != nil {
			return err
		}
		under = &percent
	}
	for _, n := range list {
		ticked[n.Item.ID] = under == nil || n.Offer.MarginUnder(*under)
	}
	return c.Page("new_prices", "Buying", "New prices of "+view.Number,
		map[string]any{"D": view, "Rows": list, "Ticked": ticked, "Under": c.Query("under")})
}

// arrivalRoutes are the addresses of new prices for programs.
func arrivalRoutes() []kit.Route {
	return []kit.Route{
		kit.On("GET", "/deliveries/:id/prices", staff.DeedPrices,
			"The new prices that a delivery offers, with the margins of the old ones",
			func(c *kit.Call, id uint64) (newPriceList, error) {
				list, err := shopbuying.NewPrices(c.Shop, c.Q(), id)
				return newPriceList{list}, err
			}),
		kit.TakeOn("POST", "/deliveries/:id/prices", staff.DeedPrices,
			"Take the new prices that a delivery offers, of some goods or of all",
			func(c *kit.Call, id uint64, in shopbuying.TakePricesInput) (shopbuying.TakenPrices, error) {
				return shopbuying.TakePrices(c.Deed(), id, in)
			}),
	}
}

// newPriceList is the new prices that a delivery offers.
type newPriceList struct {
	Items []shopbuying.NewPrice `json:"items"`
}
