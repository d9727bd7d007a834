package buying

import (
	"github.com/gofiber/fiber/v3"

	"itemrack/core/staff"
	shopbuying "itemrack/shop/buying"
	"itemrack/web/kit"
)

// handPolicy lets the page for the hand run the barcode reader that ships with it, beside what all
// pages may do.
const handPolicy = "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; img-src 'self' data:; media-src 'self' blob: mediastream:; " +
	"object-src 'none'; base-uri 'self'; form-action 'self'; frame-ancestors 'none'"

// handPage is the page on which a delivery is taken in by hand; it asks for all else itself, so that it
// opens without a server, too.
func handPage(c *kit.Call) error {
	c.Set(fiber.HeaderContentSecurityPolicy, handPolicy)
	return c.Page("hand", "Buying", "A delivery in the hand", nil)
}

// handWorker is the module that keeps that page for when there is no server. Its address has no version:
// it stands for the page under all of them.
func handWorker(c *kit.Call) error {
	data, err := files.ReadFile("hand_worker.js")
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, fiber.MIMETextJavaScriptCharsetUTF8)
	c.Set(fiber.HeaderCacheControl, "no-cache")
	return c.Send(data)
}

// handRoutes are the addresses of deliveries in the hand for programs.
func handRoutes() []kit.Route {
	return []kit.Route{
		kit.Take("POST", "/deliveries/hand", staff.DeedReceive,
			"Do a step of a delivery that is taken in by hand; the first one of a session begins its draft",
			func(c *kit.Call, in shopbuying.HandStep) (shopbuying.Hand, error) {
				return shopbuying.TakeInHand(c.Until, c.Shop, c.Who, c.Key(), in)
			}),
		kit.Ask("GET", "/deliveries/hand/:session", staff.DeedReceive,
			"Read a delivery that is taken in by hand, as it stands",
			func(c *kit.Call) (shopbuying.Hand, error) {
				return shopbuying.ReadHand(c.Shop, c.Q(), c.Who, c.Text("session"))
			}),
	}
}
