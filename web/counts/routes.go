// Package counts shows shelf counts.
package counts

import (
	"embed"

	"itemrack/core/staff"
	"itemrack/web/kit"
)

// pages are the addresses that people open.
var pages = []kit.Route{kit.Page("GET", "/counts", staff.DeedLook, counts),
	kit.Page("GET", "/counts/new", staff.DeedCount, newCount), kit.Page("GET", "/counts/:id", staff.DeedLook, count),
	kit.Page("GET", "/counts/:id/settle", staff.DeedSettle, settle)}

// api are the addresses for programs and for the modules of the pages.
var api = []kit.Route{
	kit.Lists("/counts", staff.DeedLook, "List the shelf counts, newest first", apiCounts),
	kit.Take("POST", "/counts", staff.DeedCount, "Plan a shelf count", apiPlanCount),
	kit.On("GET", "/counts/:id", staff.DeedLook, "Read a count as it stands", apiCount),
	kit.TakeOn("POST", "/counts/:id/events", staff.DeedCount, "Note a scan or a typed quantity", apiCountEvent),
	kit.On("POST", "/counts/:id/events/:event/strike", staff.DeedCount, "Strike an entry of the log", apiStrike),
	kit.TakeOn("POST", "/counts/:id/state", staff.DeedCount, "Take a count on to Settling, or back to Counting",
		apiMoveCount),
	kit.TakeOn("POST", "/counts/:id/settle", staff.DeedSettle, "Post the variances and close the count", apiSettle),
}

//go:embed *.html *.js
var files embed.FS

// Place is shelf counts.
var Place = kit.Place{
	Name:  "Counts",
	Path:  "/counts",
	Key:   "o",
	Deed:  staff.DeedLook,
	Pages: pages,
	API:   api,
	Files: files,
}
