// Package today shows what needs a hand.
package today

import (
	"embed"

	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/shop/register"
	"itemrack/web/kit"
)

// pages are the addresses that people open.
var pages = []kit.Route{kit.Page("GET", "/", staff.DeedLook, today)}

// api are the addresses for programs and for the modules of the pages.
var api = []kit.Route{
	kit.All("/cards/loose", staff.DeedLook,
		"List the cards that were charged, or are owed money, for nothing in the book",
		func(c *kit.Call) ([]sale.Loose, error) { return register.Loose(c.Deed()) }),
	kit.Take("POST", "/cards/give-instead", staff.DeedReturn, "Give the money of such a card in cash, or as store credit",
		func(c *kit.Call, in register.InsteadInput) (register.Given, error) {
			return register.GiveInstead(c.Deed(), in)
		}),
	kit.Take("POST", "/cards/give-back", staff.DeedReturn, "Give the money of such a card back",
		func(c *kit.Call, in giveBack) (sale.Loose, error) {
			return register.GiveBack(c.Deed(), in.Reference)
		}),
}

// giveBack names a card that is to be settled.
type giveBack struct {
	Reference string `json:"reference"`
}

//go:embed *.html *.js
var files embed.FS

// Place is what needs a hand.
var Place = kit.Place{Name: "Today", Path: "/", Key: "t", Deed: staff.DeedLook, Pages: pages, API: api, Files: files}
