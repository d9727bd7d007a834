// Package counts shows shelf counts.
package counts

import (
	"embed"

	"itemrack/core/staff"
	"itemrack/web/kit"
)

// pages are the addresses that people open.
var pages = []kit.Route{kit.Page("GET", "/counts", staff.DeedLook, counts),
	kit.Page("GET", "/counts/new", staff.DeedCount, newCount),
	kit.Page("GET", "/counts/schedules", staff.DeedLook, schedules),
	kit.Page("GET", "/counts/history", staff.DeedLook, history),
	kit.Page("GET", "/counts/hand", staff.DeedCount, handPage),
	kit.Page("GET", "/counts/hand-worker.js", staff.DeedCount, kit.HandWorker),
	kit.Page("GET", "/counts/:id", staff.DeedLook, count),
	kit.Page("GET", "/counts/:id/sheet", staff.DeedCount, sheet),
	kit.Page("GET", "/counts/:id/settle", staff.DeedLook, settle),
	kit.Unsigned("GET", "/calendar/:secret", calendar)}

// api are the addresses for programs and for the modules of the pages.
var api = []kit.Route{
	kit.Lists("/counts", staff.DeedLook, "List the shelf counts, newest first", apiCounts),
	kit.Take("POST", "/counts", staff.DeedCount, "Plan a shelf count", apiPlanCount),
	kit.Lists("/counts/history", staff.DeedLook, "List how right counts were, by month, branch and category", apiHistory),
	kit.On("GET", "/counts/:id", staff.DeedLook, "Read a count as it stands", apiCount),
	kit.TakeOn("POST", "/counts/:id/events", staff.DeedCount, "Note a scan or a typed quantity", apiCountEvent),
	kit.On("POST", "/counts/:id/events/:event/strike", staff.DeedCount, "Strike an entry of the log", apiStrike),
	kit.TakeOn("POST", "/counts/:id/state", staff.DeedCount, "Take a count on to Settling, or back to Counting",
		apiMoveCount),
	kit.TakeOn("POST", "/counts/:id/rows/:row", staff.DeedCount, "Keep, drop, recount, choose or release a row", apiRow),
	kit.On("POST", "/counts/:id/release", staff.DeedSettle, "Let all that a count holds still move again", apiRelease),
	kit.On("POST", "/counts/:id/give-up", staff.DeedSettle, "Close a count without settling it", apiGiveUp),
	kit.TakeOn("PUT", "/counts/:id/counters", staff.DeedCount, "Say who counts, each in an own column", apiCounters),
	kit.On("GET", "/counts/:id/news", staff.DeedLook, "Read what was counted and struck since an entry", apiNews).
		Asks("after", "the number of the entry that was read last", "since",
			"a moment: what was struck after it is told, too"),
	kit.On("GET", "/counts/:id/goods", staff.DeedCount,
		"List the goods of a count with their codes, for devices", apiGoods),
	kit.TakeOn("POST", "/counts/:id/settle", staff.DeedSettle, "Post the variances and close the count", apiSettle),
	kit.All("/count-schedules", staff.DeedLook, "List the counts that come round", apiSchedules),
	kit.All("/count-schedules/due", staff.DeedLook, "List what one has to count oneself", apiDue),
	kit.Take("POST", "/count-schedules", staff.DeedSchedule, "Let a count come round", apiMakeSchedule),
	kit.TakeOn("PUT", "/count-schedules/:id", staff.DeedSchedule, "Change a schedule, or end it", apiChangeSchedule),
	kit.TakeOn("POST", "/count-schedules/:id/prepare", staff.DeedCount, "Prepare the count that is due", apiPrepare),
	kit.Ask("POST", "/me/calendar", staff.DeedLook, "Make the secret address of one's own calendar; it is shown once",
		apiCalendar),
}

//go:embed *.html *.js *.css
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
