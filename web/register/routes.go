// Package register shows baskets, sales, returns, drawers.
package register

import (
	"embed"

	"itemrack/core/staff"
	"itemrack/web/kit"
)

// pages are the addresses that people open.
var pages = []kit.Route{kit.Page("GET", "/register", staff.DeedSell, registers),
	kit.Page("GET", "/register/:id", staff.DeedSell, register),
	kit.Page("GET", "/register/:id/rack/:product", staff.DeedSell, registerRack),
	kit.Page("GET", "/register/:id/products", staff.DeedSell, registerProducts),
	kit.Page("GET", "/register/:id/take-back", staff.DeedReturn, takeBack),
	kit.Page("GET", "/register/:id/cash-up", staff.DeedDrawer, cashUp),
	kit.Page("GET", "/drawers", staff.DeedDrawer, drawers), kit.Page("GET", "/drawers/:id", staff.DeedDrawer, drawer),
	kit.Page("GET", "/sales/:number", staff.DeedLook, sale),
	kit.Page("GET", "/sales/:number/receipt.pdf", staff.DeedLook, receiptPDF)}

// api are the addresses for programs and for the modules of the pages.
var api = []kit.Route{
	kit.Ask("GET", "/registers", staff.DeedSell, "List the registers", apiRegisters),
	kit.TakeOn("POST", "/registers/:id/open", staff.DeedDrawer, "Open the drawer with its float", apiOpenDrawer),
	kit.TakeOn("POST", "/registers/:id/cash-up", staff.DeedDrawer, "Cash up the drawer with what was counted",
		apiCashUp),
	kit.On("GET", "/registers/:id/basket", staff.DeedSell, "Read the basket that the register is at", apiBasket),
	kit.On("GET", "/registers/:id/basket/change", staff.DeedSell, "Work out the change for ?cash=, or what it is "+
		"short of the basket", apiChange).
		Asks("cash", "what the customer hands over"),
	kit.On("DELETE", "/registers/:id/basket", staff.DeedSell, "Give up the basket", apiDropBasket),
	kit.TakeOn("POST", "/registers/:id/basket/lines", staff.DeedSell, "Scan or pick something onto the basket",
		apiAddToBasket),
	kit.TakeOn("PATCH", "/registers/:id/basket/lines/:line", staff.DeedSell,
		"Change the quantity or serial number of a line; 0 removes it", apiChangeBasketLine),
	kit.TakeOn("PUT", "/registers/:id/basket/list", staff.DeedSell, "Put the basket on a price list", apiBasketList),
	kit.Take("POST", "/sales", staff.DeedSell, "Sell the basket of a register, or lines without a basket", apiSell),
	kit.Lists("/sales", staff.DeedLook, "List the sales, newest first", apiSales),
	kit.Lists("/drawers", staff.DeedDrawer, "List the drawers and their cash-ups, newest first", apiDrawers),
	kit.Ask("GET", "/sales/:number", staff.DeedLook, "Read a sale", apiSale),
	kit.Ask("POST", "/sales/:number/print", staff.DeedSell, "Print the receipt again", apiReprint),
	kit.Take("POST", "/returns", staff.DeedReturn, "Take things of a sale back", apiTakeBack),
}

//go:embed *.html *.js *.css
var files embed.FS

// Place is baskets, sales, returns, drawers.
var Place = kit.Place{
	Name:  "Register",
	Path:  "/register",
	Key:   "r",
	Deed:  staff.DeedSell,
	Pages: pages,
	API:   api,
	Files: files,
}
