// Package customers shows whom the shop sells to.
package customers

import (
	"embed"

	"itemrack/core/staff"
	"itemrack/web/kit"
)

// pages are the addresses that people open.
var pages = []kit.Route{kit.Page("GET", "/customers", staff.DeedSell, list),
	kit.Page("GET", "/customers/new", staff.DeedCustomer, fresh), kit.Page("GET", "/customers/:id", staff.DeedSell, one),
	kit.Page("GET", "/customers/:id/card.pdf", staff.DeedSell, card),
	kit.Page("GET", "/customers/:id/export.json", staff.DeedForget, export)}

// api are the addresses for programs and for the modules of the pages.
var api = []kit.Route{
	kit.Lists("/customers", staff.DeedSell, "List the customers, or find some by name, mail, phone or card", apiList).
		Asks("q", "words of a name, a mail address, a phone number or what a card says"),
	kit.Take("POST", "/customers", staff.DeedCustomer, "Make a customer", apiMake),
	kit.On("GET", "/customers/:id", staff.DeedSell,
		"Read all that the shop knows of a customer, events a page at a time", apiOne).
		Asks("page", "the number of the page, from 1"),
	kit.TakeOn("PUT", "/customers/:id", staff.DeedCustomer, "Change a customer", apiChange),
	kit.On("POST", "/customers/:id/forget", staff.DeedForget,
		"Clear name, mail, phone, address and note; figures and documents stay",
		apiForget),
	kit.TakeOn("POST", "/customers/:id/merge", staff.DeedForget,
		"Make one of two customers: what the other did is this one's",
		apiMerge),
}

//go:embed *.html *.js
var files embed.FS

// Place is whom the shop sells to.
var Place = kit.Place{Pages: pages, API: api, Files: files}
