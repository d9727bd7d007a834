// Package prices shows price lists, tax rates, markups.
package prices

import (
	"embed"

	"itemrack/core/staff"
	"itemrack/web/kit"
)

// pages are the addresses that people open.
var pages = []kit.Route{kit.Page("GET", "/prices", staff.DeedLook, prices)}

// api are the addresses for programs and for the modules of the pages.
var api = []kit.Route{
	kit.TakeOn("POST", "/products/:id/prices", staff.DeedPrices,
		"Set prices of a product, its variants or a pack, on a list, from a moment and a quantity on", apiSetPrices),
	kit.TakeOn("POST", "/products/:id/prices/drop-later", staff.DeedPrices, "Take back prices that have not begun yet",
		apiDropLaterPrices),
	kit.Take("POST", "/prices/suggest", staff.DeedCatalog, "Work out what a product would sell for", apiSuggest),
	kit.Ask("GET", "/price-lists", staff.DeedLook, "List the price lists with their rules", apiPriceLists),
	kit.Take("POST", "/price-lists", staff.DeedPrices, "Make a price list", apiSavePriceList),
	kit.Take("PUT", "/price-lists/:id", staff.DeedPrices, "Change a price list", apiSavePriceList),
	kit.On("DELETE", "/price-lists/:id", staff.DeedPrices, "Drop a price list with its prices", apiDropPriceList),
	kit.All("/tax-classes", staff.DeedLook, "List the tax classes with their rates", apiTaxClasses),
	kit.TakeOn("POST", "/tax-classes/:id/rates", staff.DeedSettings, "Give a tax class a rate from a moment on",
		apiSetTaxRate),
	kit.On("DELETE", "/tax-classes/:id/rates/later", staff.DeedSettings,
		"Take back the rates of a tax class that have not begun yet", apiDropLaterRates),
	kit.On("GET", "/variants/:id/price", staff.DeedLook, "Explain what a customer pays for a variant on each list",
		apiWhyPrice).
		Asks("quantity", "so many at once", "at", "at this moment, as 2026-11-26T14:30"),
}

//go:embed *.html *.js
var files embed.FS

// Place is price lists, tax rates, markups.
var Place = kit.Place{
	Name:  "Prices",
	Path:  "/prices",
	Key:   "p",
	Deed:  staff.DeedLook,
	Pages: pages,
	API:   api,
	Files: files,
}
