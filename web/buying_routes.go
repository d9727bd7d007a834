package web

import "itemrack/shop"

// buyingPages are the addresses of buying.
var buyingPages = []route{
	page("GET", "/buying", shop.DeedLook, (*call).deliveries),
	page("GET", "/buying/new", shop.DeedReceive, (*call).newDelivery),
	page("GET", "/buying/:id", shop.DeedLook, (*call).delivery),
	page("GET", "/buying/:id/lines", shop.DeedReceive, (*call).deliveryLines),
	page("GET", "/buying/:id/rack/:product", shop.DeedReceive, (*call).deliveryRack),
}

// buyingAPI are the addresses of buying.
var buyingAPI = []route{
	take("POST", "/deliveries", shop.DeedReceive, "Keep a delivery as a draft", apiSaveDelivery),
	take("PUT", "/deliveries/:id", shop.DeedReceive, "Change a draft", apiSaveDelivery),
	on("GET", "/deliveries/:id", shop.DeedLook, "Read a delivery with its lines and totals", apiDelivery),
	on("DELETE", "/deliveries/:id", shop.DeedReceive, "Give up a draft", apiDropDelivery),
	takeOn("POST", "/deliveries/:id/scan", shop.DeedReceive, "Add to a draft what was scanned, with the lot, expiry and serial number in the code", apiScanDelivery),
	on("POST", "/deliveries/:id/post", shop.DeedReceive, "Take a draft into stock", apiPostDelivery),
}

// buyingPlace is deliveries.
var buyingPlace = Place{Name: "Buying", Path: "/buying", Key: "b", Deed: shop.DeedLook, Pages: buyingPages, API: buyingAPI}
