// Package buying shows suppliers, orders and deliveries.
package buying

import (
	"embed"
	"html/template"
	"slices"

	"itemrack/core/buying"
	"itemrack/core/staff"
	shopbuying "itemrack/shop/buying"
	"itemrack/shop/scan"
	"itemrack/web/kit"
)

// pages are the addresses that people open.
var pages = []kit.Route{kit.Page("GET", "/buying", staff.DeedLook, deliveries),
	kit.Page("GET", "/buying/orders", staff.DeedLook, orders),
	kit.Page("GET", "/buying/orders/new", staff.DeedOrder, newOrder),
	kit.Page("GET", "/buying/orders/:id", staff.DeedLook, order),
	kit.Page("GET", "/buying/orders/:id/lines", staff.DeedOrder, orderLines),
	kit.Page("GET", "/buying/orders/:id/as/:kind", staff.DeedCosts, orderFile),
	kit.Page("GET", "/buying/orders/:id/sums", staff.DeedCosts, orderSums),
	kit.Page("GET", "/buying/orders/:id/rack/:product", staff.DeedOrder, orderRackOf),
	kit.Page("GET", "/buying/orders/:id/tag/:variant", staff.DeedLook, orderTag),
	kit.Page("GET", "/buying/bills", staff.DeedCosts, bills),
	kit.Page("GET", "/buying/bills/new", staff.DeedBill, newBill),
	kit.Page("GET", "/buying/bills/:id", staff.DeedCosts, bill),
	kit.Page("GET", "/buying/bills/:id/lines", staff.DeedBill, billLines),
	kit.Page("GET", "/buying/pay", staff.DeedPay, payPage),
	kit.Page("GET", "/buying/back", staff.DeedSendBack, sendBackPage),
	kit.Page("GET", "/buying/back/:number/slip", staff.DeedLook, backSlip),
	kit.Page("GET", "/buying/suppliers", staff.DeedLook, suppliers),
	kit.Page("GET", "/buying/suppliers/new", staff.DeedSupplier, editSupplier),
	kit.Page("GET", "/buying/suppliers/:id", staff.DeedLook, supplier),
	kit.Page("GET", "/buying/suppliers/:id/catalog", staff.DeedLook, supplierCatalog),
	kit.Page("GET", "/buying/suppliers/:id/edit", staff.DeedSupplier, editSupplier),
	kit.Page("GET", "/buying/hand", staff.DeedReceive, handPage),
	kit.Page("GET", "/buying/hand-worker.js", staff.DeedReceive, kit.HandWorker),
	kit.Page("GET", "/buying/new", staff.DeedReceive, newDelivery),
	kit.Page("GET", "/buying/:id", staff.DeedLook, delivery),
	kit.Page("GET", "/buying/:id/prices", staff.DeedPrices, newPrices),
	kit.Page("GET", "/buying/new/lines", staff.DeedReceive, deliveryLines),
	kit.Page("GET", "/buying/:id/lines", staff.DeedReceive, deliveryLines),
	kit.Page("GET", "/buying/new/rack/:product", staff.DeedReceive, deliveryRack),
	kit.Page("GET", "/buying/:id/rack/:product", staff.DeedReceive, deliveryRack)}

// api are the addresses for programs and for the modules of the pages.
var api = slices.Concat(orderRoutes(), supplierRoutes(), billRoutes(), arrivalRoutes(), catalogRoutes(), handRoutes(),
	[]kit.Route{
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
		kit.Take("POST", "/deliveries/goods", staff.DeedNewGoods,
			"Make a product of goods that nobody here knows, and begin a draft with them",
			func(c *kit.Call, in shopbuying.NewGoods) (shopbuying.MadeGoods, error) {
				return shopbuying.MakeGoods(c.Deed(), 0, in)
			}),
		kit.TakeOn("POST", "/deliveries/:id/goods", staff.DeedNewGoods,
			"Make a product of goods that nobody here knows, and put them into a draft",
			func(c *kit.Call, id uint64, in shopbuying.NewGoods) (shopbuying.MadeGoods, error) {
				return shopbuying.MakeGoods(c.Deed(), id, in)
			}),
		kit.Take("POST", "/deliveries/goods/price", staff.DeedNewGoods,
			"Work out what new goods come to while they are typed",
			func(c *kit.Call, in shopbuying.NewGoods) (shopbuying.PricedGoods, error) {
				return shopbuying.PriceGoods(c.Shop, c.Q(), in.Head.Supplier, in)
			}),
		kit.On("POST", "/deliveries/:id/fill", staff.DeedReceive, "Fill a draft in as it was ordered",
			func(c *kit.Call, id uint64) (shopbuying.DeliveryRef, error) {
				return shopbuying.FillDelivery(c.Deed(), id)
			}),
		kit.On("POST", "/deliveries/:id/take", staff.DeedReceive, "Take what a scan proposed",
			func(c *kit.Call, id uint64) (shopbuying.DeliveryRef, error) {
				return shopbuying.TakeProposed(c.Deed(), id)
			}),
		kit.MayTake[shopbuying.DeliveryPosting](kit.On("POST", "/deliveries/:id/post", staff.DeedReceive,
			"Take a draft into stock, and off the orders it is against", apiPostDelivery)),
	})

//go:embed *.html *.js *.css
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
	Funcs: template.FuncMap{"spreads": func() []buying.Spread { return buying.Spreads }},
}
