package web

import "itemrack/shop"

// pricesPages are the addresses of prices.
var pricesPages = []route{
	page("GET", "/prices", shop.DeedLook, (*call).prices),
}

// pricesAPI are the addresses of prices.
var pricesAPI = []route{
	takeOn("POST", "/products/:id/prices", shop.DeedPrices, "Set prices of a product, its variants or a pack, on a list, from a moment and a quantity on", apiSetPrices),
	takeOn("POST", "/products/:id/prices/drop-later", shop.DeedPrices, "Take back prices that have not begun yet", apiDropLaterPrices),
	take("POST", "/prices/suggest", shop.DeedCatalog, "Work out what a product would sell for", apiSuggest),
	ask("GET", "/price-lists", shop.DeedLook, "List the price lists with their rules", apiPriceLists),
	take("POST", "/price-lists", shop.DeedPrices, "Make a price list", apiSavePriceList),
	take("PUT", "/price-lists/:id", shop.DeedPrices, "Change a price list", apiSavePriceList),
	on("DELETE", "/price-lists/:id", shop.DeedPrices, "Drop a price list with its prices", apiDropPriceList),
	takeOn("POST", "/tax-classes/:id/rates", shop.DeedSettings, "Give a tax class a rate from a moment on", apiSetTaxRate),
	on("DELETE", "/tax-classes/:id/rates/later", shop.DeedSettings, "Take back the rates of a tax class that have not begun yet", apiDropLaterRates),
	takeOn("PUT", "/suppliers/:id/defaults", shop.DeedPrices, "Change the markup and ending that a supplier's products take over", apiSupplierDefaults),
	on("GET", "/variants/:id/price", shop.DeedLook, "Explain what a customer pays for a variant on each list", apiWhyPrice),
}

// pricesPlace is price lists, tax rates, markups.
var pricesPlace = Place{Name: "Prices", Path: "/prices", Key: "p", Deed: shop.DeedLook, Pages: pricesPages, API: pricesAPI}
