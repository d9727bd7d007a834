package web

import "itemrack/shop"

// registerPages are the addresses of register.
var registerPages = []route{
	page("GET", "/register", shop.DeedSell, (*call).registers),
	page("GET", "/register/:id", shop.DeedSell, (*call).register),
	page("GET", "/register/:id/rack/:product", shop.DeedSell, (*call).registerRack),
	page("GET", "/register/:id/products", shop.DeedSell, (*call).registerProducts),
	page("GET", "/register/:id/take-back", shop.DeedReturn, (*call).takeBack),
	page("GET", "/register/:id/cash-up", shop.DeedDrawer, (*call).cashUp),
	page("GET", "/drawers", shop.DeedDrawer, (*call).drawers),
	page("GET", "/drawers/:id", shop.DeedDrawer, (*call).drawer),
	page("GET", "/sales/:number", shop.DeedLook, (*call).sale),
	page("GET", "/sales/:number/receipt.pdf", shop.DeedLook, (*call).receiptPDF),
}

// registerAPI are the addresses of register.
var registerAPI = []route{
	ask("GET", "/registers", shop.DeedSell, "List the registers", apiRegisters),
	takeOn("POST", "/registers/:id/open", shop.DeedDrawer, "Open the drawer with its float", apiOpenDrawer),
	takeOn("POST", "/registers/:id/cash-up", shop.DeedDrawer, "Cash up the drawer with what was counted", apiCashUp),
	on("GET", "/registers/:id/basket", shop.DeedSell, "Read the basket that the register is at", apiBasket),
	on("DELETE", "/registers/:id/basket", shop.DeedSell, "Give up the basket", apiDropBasket),
	takeOn("POST", "/registers/:id/basket/lines", shop.DeedSell, "Scan or pick something onto the basket", apiAddToBasket),
	takeOn("PATCH", "/registers/:id/basket/lines/:line", shop.DeedSell, "Change the quantity or serial number of a line; 0 removes it", apiChangeBasketLine),
	takeOn("PUT", "/registers/:id/basket/list", shop.DeedSell, "Put the basket on a price list", apiBasketList),
	take("POST", "/sales", shop.DeedSell, "Sell the basket of a register, or lines without a basket", apiSell),
	ask("GET", "/sales/:number", shop.DeedLook, "Read a sale", apiSale),
	ask("POST", "/sales/:number/print", shop.DeedSell, "Print the receipt again", apiReprint),
	take("POST", "/returns", shop.DeedReturn, "Take things of a sale back", apiTakeBack),
}

// registerPlace is baskets, sales, returns, drawers.
var registerPlace = Place{Name: "Register", Path: "/register", Key: "r", Deed: shop.DeedSell, Pages: registerPages, API: registerAPI}
