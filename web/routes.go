package web

import (
	"context"
	"fmt"
	"net/url"
	"strings"

	"github.com/gofiber/fiber/v3"

	"itemrack/core/fault"
	"itemrack/shop"
	"itemrack/store"
)

// route is one address: who may use it follows from its deed. Doc is a line for
// the API's document; routes of pages have none.
type route struct {
	method, path string
	deed         shop.Deed
	handler      func(*call) error
	doc          string
}

// pageRoutes are the addresses that people open.
var pageRoutes = []route{
	{"GET", "/", shop.DeedLook, (*call).today, ""},
	{"GET", "/catalog", shop.DeedLook, (*call).catalog, ""},
	{"GET", "/catalog/new", shop.DeedCatalog, (*call).newProduct, ""},
	{"POST", "/catalog/new/rack", shop.DeedCatalog, (*call).newProductRack, ""},
	{"GET", "/catalog/:id", shop.DeedLook, (*call).product, ""},
	{"GET", "/catalog/:id/more", shop.DeedCatalog, (*call).extendProduct, ""},
	{"GET", "/catalog/:id/labels", shop.DeedLabels, (*call).labels, ""},
	{"GET", "/catalog/variants/:id/tag", shop.DeedLook, (*call).swingTag, ""},
	{"GET", "/labels/preview", shop.DeedLabels, (*call).labelPreview, ""},
	{"GET", "/labels/pdf", shop.DeedLabels, (*call).labelPDF, ""},
	{"GET", "/buying", shop.DeedLook, (*call).deliveries, ""},
	{"GET", "/buying/new", shop.DeedReceive, (*call).newDelivery, ""},
	{"GET", "/buying/:id", shop.DeedLook, (*call).delivery, ""},
	{"GET", "/buying/:id/lines", shop.DeedReceive, (*call).deliveryLines, ""},
	{"GET", "/buying/:id/rack/:product", shop.DeedReceive, (*call).deliveryRack, ""},
	{"GET", "/register", shop.DeedSell, (*call).registers, ""},
	{"GET", "/register/:id", shop.DeedSell, (*call).register, ""},
	{"GET", "/register/:id/rack/:product", shop.DeedSell, (*call).registerRack, ""},
	{"GET", "/register/:id/products", shop.DeedSell, (*call).registerProducts, ""},
	{"GET", "/register/:id/take-back", shop.DeedReturn, (*call).takeBack, ""},
	{"GET", "/register/:id/close", shop.DeedDrawer, (*call).closeDrawer, ""},
	{"GET", "/drawers", shop.DeedDrawer, (*call).drawers, ""},
	{"GET", "/drawers/:id", shop.DeedDrawer, (*call).drawer, ""},
	{"GET", "/sales/:number", shop.DeedLook, (*call).sale, ""},
	{"GET", "/sales/:number/receipt.pdf", shop.DeedLook, (*call).receiptPDF, ""},
	{"GET", "/stock", shop.DeedLook, (*call).stockList, ""},
	{"GET", "/stock/not-for-sale", shop.DeedLook, (*call).notForSale, ""},
	{"GET", "/stock/in-step", shop.DeedVerify, (*call).inStep, ""},
	{"GET", "/stock/:id", shop.DeedLook, (*call).stockCard, ""},
	{"GET", "/counts", shop.DeedLook, (*call).counts, ""},
	{"GET", "/counts/new", shop.DeedCount, (*call).newCount, ""},
	{"GET", "/counts/:id", shop.DeedLook, (*call).count, ""},
	{"GET", "/counts/:id/settle", shop.DeedSettle, (*call).settle, ""},
	{"GET", "/documents", shop.DeedLook, (*call).documents, ""},
	{"GET", "/documents/:number", shop.DeedLook, (*call).document, ""},
	{"GET", "/devices", shop.DeedDevices, (*call).devices, ""},
	{"POST", "/logout", shop.DeedLook, (*call).logout, ""},
}

// apiRoutes are the addresses below /api/v1, for programs and for the pages' own
// modules.
var apiRoutes = []route{
	{"GET", "/find", shop.DeedLook, (*call).apiFind, "Find a barcode, SKU, serial or document number, or words of a product's name"},
	{"GET", "/products", shop.DeedLook, (*call).apiProducts, "List products, a page at a time"},
	{"POST", "/products", shop.DeedCatalog, (*call).apiMakeProduct, "Make a product with its variants"},
	{"GET", "/products/:id", shop.DeedLook, (*call).apiProduct, "Read a product with its variants"},
	{"POST", "/products/:id/values", shop.DeedCatalog, (*call).apiAddValues, "Add values to a product's axes and make the variants they bring"},
	{"POST", "/products/:id/prices", shop.DeedCatalog, (*call).apiSetPrices, "Set the price of a product or of its variants"},
	{"POST", "/catalog/import", shop.DeedCatalog, (*call).apiImport, "Read a stock list (CSV) in, or try it with dry_run=true"},
	{"GET", "/variants/:id/movements", shop.DeedLook, (*call).apiMovements, "List the movements of a variant, newest first"},
	{"GET", "/variants/:id/places", shop.DeedLook, (*call).apiPlaces, "List where a variant lies"},
	{"GET", "/variants/:id/explain/:figure", shop.DeedLook, (*call).apiExplain, "Explain on_hand, available or average_cost"},
	{"POST", "/labels", shop.DeedLabels, (*call).apiPrintLabels, "Print labels on the label-printer stand-in"},
	{"POST", "/deliveries", shop.DeedReceive, (*call).apiSaveDelivery, "Keep a delivery as a draft"},
	{"PUT", "/deliveries/:id", shop.DeedReceive, (*call).apiSaveDelivery, "Change a draft"},
	{"GET", "/deliveries/:id", shop.DeedLook, (*call).apiDelivery, "Read a delivery with its lines and totals"},
	{"DELETE", "/deliveries/:id", shop.DeedReceive, (*call).apiDropDelivery, "Give up a draft"},
	{"POST", "/deliveries/:id/post", shop.DeedReceive, (*call).apiPostDelivery, "Take a draft into stock"},
	{"GET", "/registers", shop.DeedSell, (*call).apiRegisters, "List the registers"},
	{"POST", "/registers/:id/open", shop.DeedDrawer, (*call).apiOpenDrawer, "Open the drawer with its float"},
	{"POST", "/registers/:id/close", shop.DeedDrawer, (*call).apiCloseDrawer, "Close the drawer with what was counted"},
	{"GET", "/registers/:id/ticket", shop.DeedSell, (*call).apiTicket, "Read the ticket that the register is at"},
	{"DELETE", "/registers/:id/ticket", shop.DeedSell, (*call).apiDropTicket, "Give up the ticket"},
	{"POST", "/registers/:id/ticket/lines", shop.DeedSell, (*call).apiAddToTicket, "Scan or pick something onto the ticket"},
	{"PATCH", "/registers/:id/ticket/lines/:line", shop.DeedSell, (*call).apiChangeTicketLine, "Change the quantity or serial number of a line; 0 removes it"},
	{"POST", "/sales", shop.DeedSell, (*call).apiSell, "Sell the ticket of a register, or lines without a ticket"},
	{"GET", "/sales/:number", shop.DeedLook, (*call).apiSale, "Read a sale"},
	{"POST", "/sales/:number/print", shop.DeedSell, (*call).apiReprint, "Print the receipt again"},
	{"POST", "/returns", shop.DeedReturn, (*call).apiTakeBack, "Take things of a sale back"},
	{"POST", "/condition-changes", shop.DeedChange, (*call).apiChangeCondition, "Put goods into another condition"},
	{"POST", "/counts", shop.DeedCount, (*call).apiPlanCount, "Plan a shelf count"},
	{"GET", "/counts/:id", shop.DeedLook, (*call).apiCount, "Read a count as it stands"},
	{"POST", "/counts/:id/events", shop.DeedCount, (*call).apiCountEvent, "Note a scan or a typed quantity"},
	{"POST", "/counts/:id/events/:event/strike", shop.DeedCount, (*call).apiStrike, "Strike an entry of the log"},
	{"POST", "/counts/:id/state", shop.DeedCount, (*call).apiMoveCount, "Take a count on to Settling, or back to Counting"},
	{"POST", "/counts/:id/settle", shop.DeedSettle, (*call).apiSettle, "Post the variances and close the count"},
	{"GET", "/documents/:number", shop.DeedLook, (*call).apiDocument, "Read a document with its entries and postings"},
	{"POST", "/documents/:number/reverse", shop.DeedReverse, (*call).apiReverse, "Reverse a document whole"},
	{"GET", "/verify", shop.DeedVerify, (*call).apiVerify, "Hold all records against each other"},
	{"PUT", "/devices/:name", shop.DeedDevices, (*call).apiSetDevice, "Put a stand-in into a state"},
}

// mount puts every route in place.
func (s *Server) mount(app *fiber.App) {
	app.Get("/login", func(c fiber.Ctx) error { return (&call{Ctx: c, server: s}).login() })
	app.Post("/login", func(c fiber.Ctx) error { return (&call{Ctx: c, server: s}).signIn() })
	app.Get("/api/v1/openapi.json", s.openAPI)
	for _, r := range pageRoutes {
		app.Add([]string{r.method}, r.path, s.handle(r))
	}
	for _, r := range apiRoutes {
		app.Add([]string{r.method}, "/api/v1"+r.path, s.handle(r))
	}
}

// handle finds out who asks and whether they may, and calls the handler.
func (s *Server) handle(r route) fiber.Handler {
	return func(c fiber.Ctx) error {
		ctx, cancel := context.WithTimeout(context.Background(), deadline)
		defer cancel()
		ctx, statements := store.Counting(ctx)
		defer func() { c.Set("Server-Timing", fmt.Sprintf("db;desc=\"%d statements\"", statements.Load())) }()
		who, err := s.identify(ctx, c)
		if err != nil {
			return err
		}
		if who.ID == 0 {
			if strings.HasPrefix(c.Path(), "/api/") {
				return c.Status(fiber.StatusUnauthorized).JSON(problem{Type: "about:blank", Title: "not signed in", Status: fiber.StatusUnauthorized,
					Detail: "Sign in, or send a token.", Field: "Authorization", Want: "Bearer and a token of itemrack token"}, "application/problem+json")
			}
			return c.Redirect().Status(fiber.StatusSeeOther).To("/login?to=" + url.QueryEscape(c.OriginalURL()))
		}
		c.Locals("who", who)
		if err := who.May(r.deed); err != nil {
			return err
		}
		return r.handler(&call{Ctx: c, server: s, who: who, ctx: ctx})
	}
}

// identify finds who asks: the owner of a token, or of the session.
func (s *Server) identify(ctx context.Context, c fiber.Ctx) (shop.Actor, error) {
	if token := bearer(c); token != "" {
		return s.shop.PersonByToken(ctx, token)
	}
	current, err := s.sessions.Get(c)
	if err != nil {
		return shop.Actor{}, err
	}
	defer current.Release()
	id, ok := current.Get("user").(uint64)
	if !ok {
		return shop.Actor{}, nil
	}
	return s.shop.Person(ctx, id)
}

// number reads a number in the path.
func (c *call) number(name string) (uint64, error) {
	n := fiber.Params[uint64](c.Ctx, name)
	if n == 0 {
		return 0, fault.Missing(name, c.Params(name), "There is no page for %q.", c.Params(name))
	}
	return n, nil
}

// key is the request key that the client sent.
func (c *call) key() string { return c.Get("Idempotency-Key") }
