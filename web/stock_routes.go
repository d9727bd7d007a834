package web

import "itemrack/shop"

// stockPages are the addresses of stock.
var stockPages = []route{
	page("GET", "/stock", shop.DeedLook, (*call).stockList),
	page("GET", "/stock/not-for-sale", shop.DeedLook, (*call).notForSale),
	page("GET", "/stock/in-step", shop.DeedVerify, (*call).inStep),
	page("GET", "/stock/opening", shop.DeedCatalog, (*call).openStock),
	page("POST", "/stock/opening/lines", shop.DeedCatalog, (*call).openingLines),
	page("POST", "/stock/opening/rack/:id", shop.DeedCatalog, (*call).openingRack),
	page("GET", "/stock/:id", shop.DeedLook, (*call).stockCard),
	page("GET", "/documents", shop.DeedLook, (*call).documents),
	page("GET", "/documents/:number", shop.DeedLook, (*call).document),
}

// stockAPI are the addresses of stock.
var stockAPI = []route{
	take("POST", "/opening-stock/scan", shop.DeedCatalog, "Add what was scanned to typed lines of opening stock, and keep nothing", apiScanOpening),
	take("POST", "/opening-stock", shop.DeedCatalog, "Post opening stock that was typed", apiOpenStock),
	on("GET", "/variants/:id/movements", shop.DeedLook, "List the movements of a variant, newest first", apiMovements),
	ask("GET", "/stock", shop.DeedLook, "List what is on hand, or was at a past moment (at=2026-11-01 18:00), a page at a time", apiStock),
	on("GET", "/variants/:id/places", shop.DeedLook, "List where a variant lies, or lay at a past moment (at=2026-11-01 18:00)", apiPlaces),
	on("GET", "/variants/:id/explain/:figure", shop.DeedLook, "Explain on_hand, available, average_cost or price", apiExplain),
	take("POST", "/condition-changes", shop.DeedChange, "Put goods into another condition", apiChangeCondition),
	take("POST", "/kits/make-up", shop.DeedKits, "Make kits of a bundle up into stock", apiMakeUp),
	take("POST", "/kits/break-up", shop.DeedKits, "Break kits in stock up into their parts", apiBreakUp),
	ask("GET", "/documents/:number", shop.DeedLook, "Read a document with its entries and postings", apiDocument),
	take("POST", "/documents/:number/reverse", shop.DeedReverse, "Reverse a document whole", apiReverse),
	ask("GET", "/verify", shop.DeedVerify, "Hold all records against each other", apiVerify),
}

// stockPlace is what is on hand, where, worth what, and the documents that made it.
var stockPlace = Place{Name: "Stock", Path: "/stock", Key: "s", Deed: shop.DeedLook, Pages: stockPages, API: stockAPI}
