// Package register shows baskets, sales, returns, drawers.
package register

import (
	"embed"

	"itemrack/core/staff"
	"itemrack/web/kit"
)

// pages are the addresses that people open.
var pages = []kit.Route{kit.Page("GET", "/register", staff.DeedSell, registers),
	kit.Page("GET", "/register/approvals", staff.DeedVoid, approvals),
	kit.Page("GET", "/register/tiles", staff.DeedCatalog, tiles),
	kit.Page("GET", "/register/:id", staff.DeedSell, register),
	kit.Page("GET", "/register/:id/rack/:product", staff.DeedSell, registerRack),
	kit.Page("GET", "/register/:id/products", staff.DeedSell, registerProducts),
	kit.Page("GET", "/register/:id/take-back", staff.DeedReturn, takeBack),
	kit.Page("GET", "/register/:id/cash-up", staff.DeedDrawer, cashUp),
	kit.Page("GET", "/locked", staff.DeedLook, locked).Always(),
	kit.Page("GET", "/drawers", staff.DeedDrawer, drawers), kit.Page("GET", "/drawers/:id", staff.DeedDrawer, drawer),
	kit.Page("GET", "/vouchers", staff.DeedSell, vouchers), kit.Page("GET", "/vouchers/:code", staff.DeedSell, voucher),
	kit.Page("GET", "/sales/:number", staff.DeedLook, sale), kit.Page("GET", "/returns/:number", staff.DeedLook, returned),
	kit.Page("GET", "/sales/:number/receipt.pdf", staff.DeedLook, receiptPDF)}

// api are the addresses for programs and for the modules of the pages.
var api = []kit.Route{
	kit.Ask("GET", "/registers", staff.DeedSell, "List the registers", apiRegisters),
	kit.All("/people/with-pin", staff.DeedLook, "List who may come to a register of one's branch with a PIN", apiWithPIN).
		Asks("may", "only those who may do this deed").Always(),
	kit.Take("POST", "/at-register", staff.DeedLook, "Come to the register with a PIN: the session is that person's",
		apiComeToRegister).Always(),
	kit.Ask("POST", "/lock", staff.DeedLook, "Let the register wait for a PIN", apiLock).Always(),
	kit.TakeOn("POST", "/registers/:id/open", staff.DeedDrawer, "Open the drawer with its float", apiOpenDrawer),
	kit.TakeOn("POST", "/registers/:id/cash-up", staff.DeedDrawer, "Cash up the drawer with what was counted",
		apiCashUp),
	kit.TakeOn("POST", "/registers/:id/cash", staff.DeedDrawer, "Put cash into the drawer, or take some out", apiMoveCash),
	kit.TakeOn("POST", "/registers/:id/open-drawer", staff.DeedSell, "Open the drawer without a sale", apiOpenBox),
	kit.TakeOn("POST", "/registers/:id/account-payments", staff.DeedSell,
		"Take what a customer pays of what is on account",
		apiPayAccount),
	kit.On("GET", "/registers/:id/basket", staff.DeedSell, "Read the basket that the register is at", apiBasket),
	kit.TakeOn("POST", "/registers/:id/basket/left", staff.DeedSell, "Work out what is left to pay after ways to pay, "+
		"which are only tried: one without an amount takes what is left", apiLeft),
	kit.On("DELETE", "/registers/:id/basket", staff.DeedSell, "Give up the basket", apiDropBasket),
	kit.TakeOn("PATCH", "/registers/:id/basket", staff.DeedSell,
		"Agree on a customer, a discount or a note for the basket",
		apiAgree),
	kit.TakeOn("POST", "/registers/:id/basket/lines", staff.DeedSell, "Scan or pick something onto the basket",
		apiAddToBasket),
	kit.TakeOn("PATCH", "/registers/:id/basket/lines/:line", staff.DeedSell,
		"Change the quantity, serial number, lot, price, discount or note of a line; 0 removes it", apiChangeBasketLine),
	kit.TakeOn("PUT", "/registers/:id/basket/list", staff.DeedSell, "Put the basket on a price list", apiBasketList),
	kit.TakeOn("POST", "/registers/:id/basket/hold", staff.DeedSell,
		"Put the basket, or some of its lines, on hold", apiHold),
	kit.TakeOn("POST", "/registers/:id/basket/take-up", staff.DeedSell,
		"Take a basket up that is on hold, or make it one "+
			"with this one", apiTakeUp),
	kit.TakeOn("POST", "/registers/:id/basket/move", staff.DeedSell,
		"Move the basket to another register of the branch", apiMove),
	kit.TakeOn("POST", "/registers/:id/basket/vouchers", staff.DeedSell, "Put a voucher on the basket, to be given",
		apiAddVoucher),
	kit.On("DELETE", "/registers/:id/basket/vouchers/:n", staff.DeedSell, "Take the nth voucher off, from 0",
		apiDropVoucher),
	kit.TakeOn("POST", "/registers/:id/basket/backs", staff.DeedReturn, "Put things that come back on the basket",
		apiBringBack),
	kit.On("DELETE", "/registers/:id/basket/backs/:back", staff.DeedSell, "Take something that comes back off",
		apiDropBack),
	kit.On("GET", "/registers/:id/on-hold", staff.DeedSell, "List the baskets on hold at the branch", apiHeld),
	kit.TakeOn("POST", "/registers/:id/products", staff.DeedMakeHere,
		"Make a product in a hurry and put one on the basket",
		apiMakeHere),
	kit.All("/products-to-complete", staff.DeedLook, "List the products that were made in a hurry", apiHurried),
	kit.On("POST", "/products/:id/complete", staff.DeedCatalog,
		"Say that a product that was made in a hurry is complete", apiComplete),
	kit.Take("POST", "/sales", staff.DeedSell, "Sell the basket of a register, or lines without a basket", apiSell),
	kit.Lists("/sales", staff.DeedLook, "List the sales, newest first", apiSales),
	kit.Lists("/drawers", staff.DeedDrawer, "List the drawers and their cash-ups, newest first", apiDrawers),
	kit.Ask("GET", "/sales/:number", staff.DeedLook, "Read a sale", apiSale),
	kit.Ask("POST", "/sales/:number/print", staff.DeedSell, "Print the receipt again", apiReprint),
	kit.Ask("POST", "/sales/:number/gift", staff.DeedSell, "Print a gift receipt without prices", apiPrintGift),
	kit.Take("POST", "/sales/:number/mail", staff.DeedSell, "Mail the receipt as PDF", apiMailReceipt),
	kit.Take("POST", "/sales/:number/void", staff.DeedSell, "Make a sale void that was just made", apiVoid),
	kit.Take("POST", "/returns", staff.DeedReturn, "Take things back, of a sale or without a receipt", apiTakeBack),
	kit.Lists("/returns", staff.DeedLook, "List the returns, newest first", apiReturns),
	kit.Ask("GET", "/returns/:number", staff.DeedLook, "Read a return", apiReturn),
	kit.Lists("/vouchers", staff.DeedSell, "List vouchers and store credit, newest first", apiVouchers),
	kit.Ask("GET", "/vouchers/:code", staff.DeedSell, "Read a voucher or store credit", apiVoucher),
	kit.Take("PUT", "/vouchers/:code", staff.DeedVoid, "Block a voucher or store credit, or let it be used again",
		apiBlockVoucher),
	kit.All("/reasons", staff.DeedLook, "List why stock and money change", apiReasons),
	kit.Lists("/approvals", staff.DeedVoid, "List what was approved on the spot, newest first", apiApprovals),
	kit.All("/numbers-owed", staff.DeedLook, "List the things whose serial numbers are owed", apiOwing),
	kit.TakeOn("POST", "/numbers-owed/:id", staff.DeedSell, "Give a line of a sale the serial number that it owed",
		apiGiveNumber),
	kit.All("/tile-pages", staff.DeedSell, "List the pages of tiles", apiTilePages),
	kit.Take("POST", "/tile-pages", staff.DeedCatalog, "Make a page of tiles", apiMakeTiles),
	kit.TakeOn("PUT", "/tile-pages/:id", staff.DeedCatalog, "Arrange a page of tiles", apiSaveTiles),
	kit.On("DELETE", "/tile-pages/:id", staff.DeedCatalog, "Take a page of tiles away", apiDropTiles),
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
