package buying

import (
	"fmt"

	"github.com/gofiber/fiber/v3"

	"itemrack/core/buying"
	"itemrack/core/staff"
	"itemrack/device"
	"itemrack/sheet"
	shopbuying "itemrack/shop/buying"
	"itemrack/shop/scan"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
	"itemrack/web/kit"
)

// orderAnswer is an order with its lines, what they come to, and what happened to it.
type orderAnswer struct {
	Order  storebuying.OrderView    `json:"order"`
	Lines  []storebuying.OrderLine  `json:"lines"`
	Totals buying.OrderTotals       `json:"totals"`
	Events []storebuying.OrderEvent `json:"events"`
	Late   int                      `json:"days_late"`
}

func apiOrder(c *kit.Call, id uint64) (orderAnswer, error) {
	view, lines, err := storebuying.ReadOrder(c.Q(), id)
	if err != nil {
		return orderAnswer{}, err
	}
	supplier, _, err := goods.ReadSupplier(c.Q(), view.SupplierID)
	if err != nil {
		return orderAnswer{}, err
	}
	events, err := storebuying.OrderEvents(c.Q(), id)
	if lines == nil {
		lines = []storebuying.OrderLine{}
	}
	return orderAnswer{view, lines, buying.OrderOf(supplier.SupplierTerms, storebuying.FiguresOf(lines), c.Terms.Minor()),
		events,
		buying.DaysLate(view.State, view.WantedOn, c.Terms.Day(c.Shop.Now()))}, err
}

func apiOrders(c *kit.Call, page int) ([]storebuying.OrderView, bool, error) {
	f, err := orderFilter(c)
	if err != nil {
		return nil, false, err
	}
	return storebuying.Orders(c.Q(), f, page)
}

// orderRoutes are the addresses of orders for programs.
func orderRoutes() []kit.Route {
	return []kit.Route{
		kit.Lists("/orders", staff.DeedLook, "List purchase orders, newest first", apiOrders).
			Asks("state", "Draft, Placed, Part in, All in, Called off; open for those that goods are awaited of; late",
				"supplier", "the number of a supplier"),
		kit.Take("POST", "/orders", staff.DeedOrder, "Begin a purchase order as a draft",
			func(c *kit.Call, in shopbuying.OrderInput) (shopbuying.OrderRef, error) {
				return shopbuying.MakeOrder(c.Deed(), in)
			}),
		kit.On("GET", "/orders/:id", staff.DeedLook,
			"Read a purchase order with its lines, totals and what happened to it", apiOrder),
		kit.TakeOn("PUT", "/orders/:id", staff.DeedOrder,
			"Change the head of a purchase order; a change of a placed one is kept",
			func(c *kit.Call, id uint64, in shopbuying.OrderInput) (shopbuying.OrderRef, error) {
				return shopbuying.ChangeOrder(c.Deed(), id, in)
			}),
		kit.On("DELETE", "/orders/:id", staff.DeedOrder, "Give up a draft",
			func(c *kit.Call, id uint64) (shopbuying.OrderRef, error) {
				return shopbuying.DropOrder(c.Deed(), id)
			}),
		kit.TakeOn("PUT", "/orders/:id/lines", staff.DeedOrder,
			"Set lines of an order, each by itself; the others stay",
			func(c *kit.Call, id uint64, in orderLinesInput) (shopbuying.OrderRef, error) {
				return shopbuying.PutOrderLines(c.Deed(), id, in.Lines)
			}),
		kit.TakeOn("POST", "/orders/:id/scan", staff.DeedOrder, "Add to an order what was scanned", apiScanOrder),
		kit.On("POST", "/orders/:id/place", staff.DeedOrder, "Place a draft",
			func(c *kit.Call, id uint64) (shopbuying.OrderRef, error) {
				return shopbuying.PlaceOrder(c.Deed(), id)
			}),
		kit.TakeOn("POST", "/orders/:id/call-off", staff.DeedOrder,
			"Call off what is outstanding of an order, or of some of its lines",
			func(c *kit.Call, id uint64, in shopbuying.CallOffInput) (shopbuying.OrderRef, error) {
				return shopbuying.CallOffOrder(c.Deed(), id, in)
			}),
		kit.TakeOn("POST", "/orders/:id/send", staff.DeedOrder,
			"Send an order to its supplier by mail, as PDF, CSV and UBL; a draft is placed by it",
			func(c *kit.Call, id uint64, in shopbuying.SendInput) (shopbuying.OrderRef, error) {
				return shopbuying.SendOrder(c.Deed(), id, in)
			}),
		kit.Ask("POST", "/orders/read", staff.DeedOrder,
			"Begin an order with the lines of a file: UBL 2.1, CSV or XLSX",
			func(c *kit.Call) (shopbuying.ReadIn, error) {
				_, data := c.Upload()
				in := shopbuying.OrderInput{Supplier: fiber.Query[uint64](c.Ctx, "supplier"),
					Branch: fiber.Query(c.Ctx, "branch", c.Who.Branch)}
				return shopbuying.ReadOrderIn(c.Deed(), in, data)
			}).Raw("application/xml", "text/csv", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
			"application/octet-stream").
			Asks("supplier", "the number of the supplier", "branch", "the number of the branch"),
		kit.On("POST", "/orders/:id/copy", staff.DeedOrder, "Begin a new order with the lines of another",
			func(c *kit.Call, id uint64) (shopbuying.OrderRef, error) {
				return shopbuying.CopyOrder(c.Deed(), id)
			}),
	}
}

// orderLinesInput are lines of an order to set.
type orderLinesInput struct {
	Lines []shopbuying.OrderLineInput `json:"lines"`
}

func apiScanOrder(c *kit.Call, id uint64, in shopbuying.OrderScan) (scan.DeliveryScanned, error) {
	return shopbuying.ScanOrder(c.Deed(), id, in)
}

// orderFile sends an order as PDF, CSV, XLSX or UBL.
func orderFile(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	view, _, err := storebuying.ReadOrder(c.Q(), id)
	if err != nil {
		return err
	}
	switch kind := c.Text("kind"); kind {
	case "pdf":
		pages, err := shopbuying.OrderPages(c.Deed(), id)
		if err != nil {
			return err
		}
		data, err := device.PDF("Order "+view.Number, pages)
		if err != nil {
			return err
		}
		return c.Pdf(view.Number+".pdf", data)
	case "xml":
		data, err := shopbuying.OrderUBL(c.Deed(), id)
		if err != nil {
			return err
		}
		return sendFile(c, view.Number+".xml", "application/xml", data)
	default:
		format, err := sheet.ParseFormat(kind)
		if err != nil {
			return err
		}
		data, err := shopbuying.OrderSheet(c.Deed(), id, format)
		if err != nil {
			return err
		}
		return sendFile(c, view.Number+"."+string(format), format.Type(), data)
	}
}

func sendFile(c *kit.Call, name, kind string, data []byte) error {
	c.Set(fiber.HeaderContentType, kind)
	c.Set(fiber.HeaderContentDisposition, fmt.Sprintf(`attachment; filename=%q`, name))
	return c.Ctx.Send(data)
}
