// Package web serves the pages and the API over the shop: its places, each in a
// package of its own, on what they share, the kit. Its main rule: a handler reads,
// calls one deed in shop, and shows what came of it; no rule lives here.
package web

import (
	"sync"

	"github.com/gofiber/fiber/v3"

	"itemrack/shop/deed"
	"itemrack/web/buying"
	"itemrack/web/catalog"
	"itemrack/web/counts"
	"itemrack/web/customers"
	"itemrack/web/kit"
	"itemrack/web/labels"
	"itemrack/web/lists"
	"itemrack/web/prices"
	"itemrack/web/register"
	"itemrack/web/settings"
	"itemrack/web/stock"
	"itemrack/web/today"
)

// Places are the places of work in the order in which they hang on the rail, and
// after them those that are reached from others.
var Places = []kit.Place{today.Place, catalog.Place, prices.Place, buying.Place, stock.Place, register.Place,
	customers.Place, counts.Place, lists.Place, labels.Place, settings.Place, kit.Shared}

var house = sync.OnceValues(func() (*kit.House, error) { return kit.Furnish(Places...) })

// New builds the application of a shop.
func New(s *deed.Shop, with kit.Config) (*fiber.App, error) {
	furnished, err := house()
	if err != nil {
		return nil, err
	}
	return kit.New(s, with, furnished)
}
