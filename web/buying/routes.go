// Package buying shows deliveries.
package buying

import (
	"embed"

	"itemrack/core/staff"
	shopbuying "itemrack/shop/buying"
	"itemrack/shop/scan"
	"itemrack/web/kit"
)

// pages are the addresses that people open.
var pages = []kit.Route{kit.Page("GET", "/buying", staff.DeedLook, deliveries),
	kit.Page("GET", "/buying/new", staff.DeedReceive, newDelivery),
	kit.Page("GET", "/buying/:id", staff.DeedLook, delivery),
	kit.Page("GET", "/buying/:id/lines", staff.DeedReceive, deliveryLines),
	kit.Page("GET", "/buying/new/rack/:product", staff.DeedReceive, deliveryRack),
	kit.Page("GET", "/buying/:id/rack/:product", staff.DeedReceive, deliveryRack)}

// api are the addresses for programs and for the modules of the pages.
var api = []kit.Route{
	kit.Lists("/deliveries", staff.DeedLook, "List the deliveries, drafts too, newest first", apiDeliveries),
	kit.All("/suppliers", staff.DeedLook, "List the suppliers", apiSuppliers),
	kit.Take("POST", "/deliveries", staff.DeedReceive, "Keep a delivery as a draft", apiSaveDelivery),
	kit.Take("PUT", "/deliveries/:id", staff.DeedReceive, "Change a draft", apiSaveDelivery),
	kit.On("GET", "/deliveries/:id", staff.DeedLook, "Read a delivery with its lines and totals", apiDelivery),
	kit.On("DELETE", "/deliveries/:id", staff.DeedReceive, "Give up a draft", apiDropDelivery),
	kit.Take("POST", "/deliveries/scan", staff.DeedReceive,
		"Begin a draft with what was scanned; a code that is not of one variant begins none",
		func(c *kit.Call, in shopbuying.DeliveryScan) (scan.DeliveryScanned, error) {
			return apiScanDelivery(c, 0, in)
		}),
	kit.TakeOn("POST", "/deliveries/:id/scan", staff.DeedReceive,
		"Add to a draft what was scanned, with the lot, expiry and serial number in the code", apiScanDelivery),
	kit.On("POST", "/deliveries/:id/post", staff.DeedReceive, "Take a draft into stock", apiPostDelivery),
}

//go:embed *.html *.js
var files embed.FS

// Place is deliveries.
var Place = kit.Place{
	Name:  "Buying",
	Path:  "/buying",
	Key:   "b",
	Deed:  staff.DeedLook,
	Pages: pages,
	API:   api,
	Files: files,
}
