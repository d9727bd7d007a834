package web

import "itemrack/shop"

// kitPages are the addresses of kit.
var kitPages = []route{
	page("POST", "/logout", shop.DeedLook, (*call).logout),
}

// kitPlace is signing out.
var kitPlace = Place{Pages: kitPages}
