package web

import "itemrack/shop"

// countsPages are the addresses of counts.
var countsPages = []route{
	page("GET", "/counts", shop.DeedLook, (*call).counts),
	page("GET", "/counts/new", shop.DeedCount, (*call).newCount),
	page("GET", "/counts/:id", shop.DeedLook, (*call).count),
	page("GET", "/counts/:id/settle", shop.DeedSettle, (*call).settle),
}

// countsAPI are the addresses of counts.
var countsAPI = []route{
	take("POST", "/counts", shop.DeedCount, "Plan a shelf count", apiPlanCount),
	on("GET", "/counts/:id", shop.DeedLook, "Read a count as it stands", apiCount),
	takeOn("POST", "/counts/:id/events", shop.DeedCount, "Note a scan or a typed quantity", apiCountEvent),
	on("POST", "/counts/:id/events/:event/strike", shop.DeedCount, "Strike an entry of the log", apiStrike),
	takeOn("POST", "/counts/:id/state", shop.DeedCount, "Take a count on to Settling, or back to Counting", apiMoveCount),
	takeOn("POST", "/counts/:id/settle", shop.DeedSettle, "Post the variances and close the count", apiSettle),
}

// countsPlace is shelf counts.
var countsPlace = Place{Name: "Counts", Path: "/counts", Key: "o", Deed: shop.DeedLook, Pages: countsPages, API: countsAPI}
