package buying

import (
	"itemrack/core/staff"
	shopbuying "itemrack/shop/buying"
	"itemrack/web/kit"
)

// handPage is the page on which a delivery is taken in by hand; it asks for all else itself, so that it
// opens without a server, too.
func handPage(c *kit.Call) error {
	return c.HandPage("hand", "Buying", "A delivery in the hand", nil)
}

// handRoutes are the addresses of deliveries in the hand for programs.
func handRoutes() []kit.Route {
	return []kit.Route{
		kit.Take("POST", "/deliveries/hand", staff.DeedReceive,
			"Do a step of a delivery that is taken in by hand; the first one of a session begins its draft",
			func(c *kit.Call, in shopbuying.HandStep) (shopbuying.Hand, error) {
				return shopbuying.TakeInHand(c.Deed(), in)
			}),
		kit.Ask("GET", "/deliveries/hand/:session", staff.DeedReceive,
			"Read a delivery that is taken in by hand, as it stands",
			func(c *kit.Call) (shopbuying.Hand, error) {
				return shopbuying.ReadHand(c.Shop, c.Q(), c.Who, c.Text("session"))
			}),
	}
}
