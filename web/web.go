package web

import (
	"github.com/gofiber/fiber/v3"

	"itemrack/shop"
)

// Places are the places of work in the order in which they hang on the rail, and
// after them those that are reached from others.
var Places = []Place{todayPlace, catalogPlace, pricesPlace, buyingPlace, stockPlace, registerPlace, countsPlace, listsPlace, labelsPlace, settingsPlace, kitPlace}

// New builds the application of a shop.
func New(s *shop.Shop) (*fiber.App, error) { return newServer(s, Places...) }
