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
	{"GET", "/catalog/quick", shop.DeedCatalog, (*call).quickEntry, ""},
	{"GET", "/catalog/export", shop.DeedLook, (*call).exportCatalog, ""},
	{"GET", "/catalog/categories", shop.DeedLook, (*call).categories, ""},
	{"GET", "/catalog/values", shop.DeedLook, (*call).valueSets, ""},
	{"GET", "/catalog/import", shop.DeedCatalog, (*call).imports, ""},
	{"GET", "/catalog/import/template", shop.DeedCatalog, (*call).listTemplate, ""},
	{"GET", "/catalog/import/:id", shop.DeedCatalog, (*call).importPage, ""},
	{"GET", "/catalog/import/:id/refused", shop.DeedCatalog, (*call).refusedRows, ""},
	{"GET", "/catalog/:id", shop.DeedLook, (*call).product, ""},
	{"GET", "/catalog/:id/rack", shop.DeedCatalog, (*call).changeRack, ""},
	{"GET", "/catalog/:id/edit", shop.DeedCatalog, (*call).editProduct, ""},
	{"GET", "/catalog/:id/labels", shop.DeedLabels, (*call).labels, ""},
	{"GET", "/catalog/variants/:id/tag", shop.DeedLook, (*call).swingTag, ""},
	{"GET", "/prices", shop.DeedLook, (*call).prices, ""},
	{"GET", "/settings", shop.DeedLook, (*call).settings, ""},
	{"GET", "/pictures/:id", shop.DeedLook, (*call).picture, ""},
	{"GET", "/labels", shop.DeedLabels, (*call).labelList, ""},
	{"GET", "/labels/preview", shop.DeedLabels, (*call).labelPreview, ""},
	{"POST", "/labels/preview", shop.DeedLabels, (*call).labelPreview, ""},
	{"GET", "/labels/pdf", shop.DeedLabels, (*call).labelPDF, ""},
	{"GET", "/labels/kinds", shop.DeedLabels, (*call).labelTemplates, ""},
	{"GET", "/labels/kinds/:code", shop.DeedCatalog, (*call).designLabel, ""},
	{"POST", "/labels/draw", shop.DeedLabels, (*call).drawDesign, ""},
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
	{"GET", "/register/:id/cash-up", shop.DeedDrawer, (*call).cashUp, ""},
	{"GET", "/drawers", shop.DeedDrawer, (*call).drawers, ""},
	{"GET", "/drawers/:id", shop.DeedDrawer, (*call).drawer, ""},
	{"GET", "/sales/:number", shop.DeedLook, (*call).sale, ""},
	{"GET", "/sales/:number/receipt.pdf", shop.DeedLook, (*call).receiptPDF, ""},
	{"GET", "/stock", shop.DeedLook, (*call).stockList, ""},
	{"GET", "/stock/not-for-sale", shop.DeedLook, (*call).notForSale, ""},
	{"GET", "/stock/in-step", shop.DeedVerify, (*call).inStep, ""},
	{"GET", "/stock/opening", shop.DeedCatalog, (*call).openStock, ""},
	{"POST", "/stock/opening/lines", shop.DeedCatalog, (*call).openingLines, ""},
	{"POST", "/stock/opening/rack/:id", shop.DeedCatalog, (*call).openingRack, ""},
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
	{"PUT", "/products/:id", shop.DeedCatalog, (*call).apiSaveProduct, "Change the facts of a product"},
	{"DELETE", "/products/:id", shop.DeedCatalog, (*call).apiDropProduct, "Drop a product that never had stock or sales"},
	{"POST", "/products/:id/successor", shop.DeedCatalog, (*call).apiSucceed, "Make a product that takes over the name and barcodes, with another tracking or unit"},
	{"POST", "/products/:id/values/change", shop.DeedCatalog, (*call).apiChangeValue, "Drop, retire or restore a value of a product's axis"},
	{"POST", "/products/:id/cells", shop.DeedCatalog, (*call).apiChangeCells, "Change SKU, expected cost, restock level or retirement of variants"},
	{"PUT", "/products/:id/parts", shop.DeedCatalog, (*call).apiSetParts, "Change what is in a bundle"},
	{"POST", "/products/:id/packs", shop.DeedCatalog, (*call).apiSavePack, "Make a pack"},
	{"PUT", "/products/:id/packs/:pack", shop.DeedCatalog, (*call).apiSavePack, "Change a pack"},
	{"DELETE", "/products/:id/packs/:pack", shop.DeedCatalog, (*call).apiDropPack, "Drop a pack"},
	{"POST", "/products/:id/pictures", shop.DeedCatalog, (*call).apiAddPicture, "Give a product a picture (JPEG, PNG or WebP)"},
	{"PATCH", "/products/:id/pictures/:picture", shop.DeedCatalog, (*call).apiChangePicture, "Drop a picture, or say what it stands for"},
	{"POST", "/products/:id/prices", shop.DeedPrices, (*call).apiSetPrices, "Set prices of a product, its variants or a pack, on a list, from a moment and a quantity on"},
	{"POST", "/products/:id/prices/drop-later", shop.DeedPrices, (*call).apiDropLaterPrices, "Take back prices that have not begun yet"},
	{"POST", "/products/bulk", shop.DeedCatalog, (*call).apiBulk, "Change one thing of many products, or preview it"},
	{"POST", "/products/bulk/:id/undo", shop.DeedCatalog, (*call).apiUndoBulk, "Undo a change of many products"},
	{"POST", "/views", shop.DeedLook, (*call).apiSaveView, "Keep a view of the catalog under a name"},
	{"DELETE", "/views/:id", shop.DeedLook, (*call).apiDropView, "Forget a view"},
	{"POST", "/prices/suggest", shop.DeedCatalog, (*call).apiSuggest, "Work out what a product would sell for"},
	{"GET", "/price-lists", shop.DeedLook, (*call).apiPriceLists, "List the price lists with their rules"},
	{"POST", "/price-lists", shop.DeedPrices, (*call).apiSavePriceList, "Make a price list"},
	{"PUT", "/price-lists/:id", shop.DeedPrices, (*call).apiSavePriceList, "Change a price list"},
	{"DELETE", "/price-lists/:id", shop.DeedPrices, (*call).apiDropPriceList, "Drop a price list with its prices"},
	{"POST", "/tax-classes/:id/rates", shop.DeedSettings, (*call).apiSetTaxRate, "Give a tax class a rate from a moment on"},
	{"DELETE", "/tax-classes/:id/rates/later", shop.DeedSettings, (*call).apiDropLaterRates, "Take back the rates of a tax class that have not begun yet"},
	{"PUT", "/suppliers/:id/defaults", shop.DeedPrices, (*call).apiSupplierDefaults, "Change the markup and ending that a supplier's products take over"},
	{"GET", "/categories", shop.DeedLook, (*call).apiCategories, "List the category tree"},
	{"POST", "/categories", shop.DeedCatalog, (*call).apiSaveCategory, "Make a category"},
	{"PUT", "/categories/:id", shop.DeedCatalog, (*call).apiSaveCategory, "Change or move a category"},
	{"DELETE", "/categories/:id", shop.DeedCatalog, (*call).apiDropCategory, "Drop an empty category"},
	{"POST", "/categories/:id/merge", shop.DeedCatalog, (*call).apiMergeCategory, "Merge a category into another"},
	{"POST", "/categories/:id/picture", shop.DeedCatalog, (*call).apiCategoryPicture, "Give a category the picture of its tile"},
	{"POST", "/values", shop.DeedCatalog, (*call).apiAddToSet, "Add values to a value set"},
	{"PUT", "/values/:id", shop.DeedCatalog, (*call).apiRenameValue, "Rename a value everywhere, and give it a swatch"},
	{"DELETE", "/values/:id", shop.DeedCatalog, (*call).apiDropValue, "Drop a value that no product has"},
	{"GET", "/settings", shop.DeedLook, (*call).apiSettings, "Read what the shop is set to"},
	{"POST", "/practice/end", shop.DeedSettings, (*call).apiBeginForReal, "End the shop's practice: clear all documents, or keep them"},
	{"PUT", "/settings", shop.DeedSettings, (*call).apiSaveSettings, "Change the settings"},
	{"POST", "/barcode-ranges", shop.DeedSettings, (*call).apiAddRange, "Open a further range of own numbers"},
	{"PUT", "/barcode-ranges/:id", shop.DeedSettings, (*call).apiSwitchRange, "Open or close a range of own numbers"},
	{"POST", "/catalog/import", shop.DeedCatalog, (*call).apiImport, "Read a stock list (CSV or XLSX) in, or try it with dry_run=true"},
	{"POST", "/imports", shop.DeedCatalog, (*call).apiBeginImport, "Keep a list that is to be read in (kind=catalog or opening, name=file.csv), and match its columns"},
	{"GET", "/imports/:id", shop.DeedCatalog, (*call).apiReadImport, "Read how far an import is"},
	{"PUT", "/imports/:id/columns", shop.DeedCatalog, (*call).apiMatchImport, "Say which column each head of the file is"},
	{"POST", "/imports/:id/pictures", shop.DeedCatalog, (*call).apiImportPictures, "Keep a ZIP of pictures that the list names"},
	{"POST", "/imports/:id/run", shop.DeedCatalog, (*call).apiRunImport, "Begin to read a list in, or to try it"},
	{"GET", "/imports/:id/rows", shop.DeedCatalog, (*call).apiImportRows, "List what becomes of the rows"},
	{"POST", "/opening-stock/scan", shop.DeedCatalog, (*call).apiScanOpening, "Add what was scanned to typed lines of opening stock, and keep nothing"},
	{"POST", "/opening-stock", shop.DeedCatalog, (*call).apiOpenStock, "Post opening stock that was typed"},
	{"GET", "/variants/:id/movements", shop.DeedLook, (*call).apiMovements, "List the movements of a variant, newest first"},
	{"GET", "/stock", shop.DeedLook, (*call).apiStock, "List what is on hand, or was at a past moment (at=2026-11-01 18:00), a page at a time"},
	{"GET", "/variants/:id/places", shop.DeedLook, (*call).apiPlaces, "List where a variant lies, or lay at a past moment (at=2026-11-01 18:00)"},
	{"GET", "/variants/:id/explain/:figure", shop.DeedLook, (*call).apiExplain, "Explain on_hand, available, average_cost or price"},
	{"GET", "/variants/:id/price", shop.DeedLook, (*call).apiWhyPrice, "Explain what a customer pays for a variant on each list"},
	{"POST", "/variants/:id/barcodes", shop.DeedCatalog, (*call).apiAddBarcode, "Give a variant a further barcode; an empty one takes a number of the shop's own"},
	{"DELETE", "/variants/:id/barcodes/:code", shop.DeedCatalog, (*call).apiDropBarcode, "Take a barcode off a variant"},
	{"GET", "/label-templates", shop.DeedLabels, (*call).apiLabelTemplates, "List the kinds of label"},
	{"PUT", "/label-templates/:code", shop.DeedCatalog, (*call).apiSaveLabelTemplate, "Keep a kind of label of the shop's own (code new for a new one)"},
	{"DELETE", "/label-templates/:code", shop.DeedCatalog, (*call).apiDropLabelTemplate, "Drop a kind of label of the shop's own"},
	{"POST", "/labels", shop.DeedLabels, (*call).apiPrintLabels, "Print labels on the label-printer stand-in"},
	{"POST", "/deliveries", shop.DeedReceive, (*call).apiSaveDelivery, "Keep a delivery as a draft"},
	{"PUT", "/deliveries/:id", shop.DeedReceive, (*call).apiSaveDelivery, "Change a draft"},
	{"GET", "/deliveries/:id", shop.DeedLook, (*call).apiDelivery, "Read a delivery with its lines and totals"},
	{"DELETE", "/deliveries/:id", shop.DeedReceive, (*call).apiDropDelivery, "Give up a draft"},
	{"POST", "/deliveries/:id/scan", shop.DeedReceive, (*call).apiScanDelivery, "Add to a draft what was scanned, with the lot, expiry and serial number in the code"},
	{"POST", "/deliveries/:id/post", shop.DeedReceive, (*call).apiPostDelivery, "Take a draft into stock"},
	{"GET", "/registers", shop.DeedSell, (*call).apiRegisters, "List the registers"},
	{"POST", "/registers/:id/open", shop.DeedDrawer, (*call).apiOpenDrawer, "Open the drawer with its float"},
	{"POST", "/registers/:id/cash-up", shop.DeedDrawer, (*call).apiCashUp, "Cash up the drawer with what was counted"},
	{"GET", "/registers/:id/basket", shop.DeedSell, (*call).apiBasket, "Read the basket that the register is at"},
	{"DELETE", "/registers/:id/basket", shop.DeedSell, (*call).apiDropBasket, "Give up the basket"},
	{"POST", "/registers/:id/basket/lines", shop.DeedSell, (*call).apiAddToBasket, "Scan or pick something onto the basket"},
	{"PATCH", "/registers/:id/basket/lines/:line", shop.DeedSell, (*call).apiChangeBasketLine, "Change the quantity or serial number of a line; 0 removes it"},
	{"PUT", "/registers/:id/basket/list", shop.DeedSell, (*call).apiBasketList, "Put the basket on a price list"},
	{"POST", "/sales", shop.DeedSell, (*call).apiSell, "Sell the basket of a register, or lines without a basket"},
	{"GET", "/sales/:number", shop.DeedLook, (*call).apiSale, "Read a sale"},
	{"POST", "/sales/:number/print", shop.DeedSell, (*call).apiReprint, "Print the receipt again"},
	{"POST", "/returns", shop.DeedReturn, (*call).apiTakeBack, "Take things of a sale back"},
	{"POST", "/condition-changes", shop.DeedChange, (*call).apiChangeCondition, "Put goods into another condition"},
	{"POST", "/kits/make-up", shop.DeedKits, (*call).apiMakeUp, "Make kits of a bundle up into stock"},
	{"POST", "/kits/break-up", shop.DeedKits, (*call).apiBreakUp, "Break kits in stock up into their parts"},
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

// streamed are the routes whose bodies are worked on as they come in.
var streamed = map[string]bool{"POST /imports": true, "POST /imports/:id/pictures": true}

// mount puts every route in place.
func (s *Server) mount(app *fiber.App) {
	app.Get("/login", func(c fiber.Ctx) error { return (&call{Ctx: c, server: s}).login() })
	app.Post("/login", func(c fiber.Ctx) error { return (&call{Ctx: c, server: s}).signIn() })
	app.Get("/start", s.unsigned((*call).start))
	app.Post("/start", s.unsigned((*call).begin))
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
		if c.Request().Header.ContentLength() > bodyLimit && !streamed[r.method+" "+r.path] {
			return fault.Field("body", c.Request().Header.ContentLength(), fmt.Sprintf("%d MB or less", bodyLimit>>20), "The request is larger than %d MB.", bodyLimit>>20)
		}
		return r.handler(&call{Ctx: c, server: s, who: who, ctx: ctx})
	}
}

// unsigned calls a handler for whom nobody need be signed in.
func (s *Server) unsigned(handler func(*call) error) fiber.Handler {
	return func(c fiber.Ctx) error {
		ctx, cancel := context.WithTimeout(context.Background(), deadline)
		defer cancel()
		return handler(&call{Ctx: c, server: s, ctx: ctx})
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
