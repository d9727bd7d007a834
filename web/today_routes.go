package web

import "itemrack/shop"

// todayPages are the addresses of today.
var todayPages = []route{
	page("GET", "/", shop.DeedLook, (*call).today),
}

// todayPlace is what needs a hand.
var todayPlace = Place{Name: "Today", Path: "/", Key: "t", Deed: shop.DeedLook, Pages: todayPages}
