// Package stock shows what is on hand, where, worth what, and the documents that made it.
package stock

import (
	"embed"

	"itemrack/core/staff"
	"itemrack/web/kit"
)

// pages are the addresses that people open.
var pages = []kit.Route{kit.Page("GET", "/stock", staff.DeedLook, stockList),
	kit.Page("GET", "/stock/not-for-sale", staff.DeedLook, notForSale),
	kit.Page("GET", "/stock/in-step", staff.DeedVerify, inStep),
	kit.Page("GET", "/stock/in-step/checks", staff.DeedVerify, inStepChecks),
	kit.Page("GET", "/stock/opening", staff.DeedCatalog, openStock),
	kit.Page("POST", "/stock/opening/lines", staff.DeedCatalog, openingLines),
	kit.Page("POST", "/stock/opening/rack/:id", staff.DeedCatalog, openingRack),
	kit.Page("GET", "/stock/sendings", staff.DeedLook, sendings),
	kit.Page("GET", "/stock/sendings/:id", staff.DeedLook, sendingPageOf),
	kit.Page("GET", "/stock/sendings/:id/body", staff.DeedLook, sendingBody),
	kit.Page("GET", "/stock/sendings/:id/tag/:line", staff.DeedLook, sendingTag),
	kit.Page("GET", "/stock/sendings/:id/rack/:product", staff.DeedSend, sendingRack),
	kit.Page("GET", "/stock/sendings/:id/slip", staff.DeedLook, sendingSlip),
	kit.Page("GET", "/stock/move", staff.DeedMove, movePage),
	kit.Page("GET", "/stock/move/rack/:id", staff.DeedMove, moveRack),
	kit.Page("GET", "/stock/movements", staff.DeedLook, moves),
	kit.Page("GET", "/stock/lots", staff.DeedLook, lots),
	kit.Page("GET", "/stock/lots/:id", staff.DeedLook, lot),
	kit.Page("GET", "/stock/:id", staff.DeedLook, stockCard),
	kit.Page("GET", "/stock/:id/put-right", staff.DeedLook, putRight),
	kit.Page("GET", "/documents", staff.DeedLook, documents),
	kit.Page("GET", "/documents/:number", staff.DeedLook, document)}

// api are the addresses for programs and for the modules of the pages.
var api = []kit.Route{
	kit.Take("POST", "/opening-stock/scan", staff.DeedCatalog,
		"Add what was scanned to typed lines of opening stock, and keep nothing", apiScanOpening),
	kit.Take("POST", "/opening-stock", staff.DeedCatalog, "Post opening stock that was typed", apiOpenStock),
	kit.On("GET", "/variants/:id/movements", staff.DeedLook, "List the movements of a variant, newest first",
		apiMovements).
		Asks("branch", "at this branch only", "kind", "of this kind of document only", "before", "older than this "+
			"entry", "at", "recorded by this moment, as 2026-11-26T14:30"),
	kit.On("GET", "/variants/:id/condition-prices", staff.DeedLook,
		"Read what a variant costs in the conditions that it is sold in "+
			"apart from new", apiInConditions),
	kit.TakeOn("PUT", "/variants/:id/condition-prices", staff.DeedPrices,
		"Set the price of its own of a variant in a condition",
		apiSetInCondition),
	kit.On("GET", "/variants/:id/levels", staff.DeedLook,
		"List the level of a variant over time, at each branch", apiLevels),
	kit.On("GET", "/variants/:id/last-counts", staff.DeedLook,
		"Read what the last count at each branch found of a variant",
		apiLastCounts),
	kit.Ask("GET", "/not-for-sale", staff.DeedLook,
		"List what is not for sale, that which waits longest first, and what it comes to",
		apiNotForSale).
		Asks("branch", "at this branch only", "condition", "rows of this condition only; the sums are of all"),
	kit.Ask("GET", "/stock", staff.DeedLook, "List what is on hand, or was at a past moment (at=2026-11-01 18:00), "+
		"a page at a time", apiStock).
		Asks("q", "words of a name", "page", "the number of the page, from 1", "at", "as it stood at this moment, "+
			"as 2026-11-26T14:30", "branch", "at this branch only", "condition", "of what is, or was, in this condition",
			"category", "of this category and those below it", "supplier", "of this supplier", "brand",
			"of this brand", "is", "low: running low only"),
	kit.Ask("GET", "/movements", staff.DeedLook,
		"List everything that moved, the latest first, a page at a time", apiMoves).
		Asks("branch", "at this branch only", "person", "by this person only", "kind", "by documents of this kind",
			"condition", "of this condition",
			"reason", "for this reason", "from", "from this day on", "to", "up to this day", "before", "older than this entry"),
	kit.Lists("/lots", staff.DeedLook, "List the lots in stock, the nearest expiry first", apiLots).Asks("show",
		"near or expired"),
	kit.On("GET", "/lots/:id", staff.DeedLook, "Read the life of a lot", apiLot),
	kit.TakeOn("POST", "/lots/:id/recall", staff.DeedChange, "Take all of a lot out of sale, at all branches", apiRecall),
	kit.On("GET", "/variants/:id/places", staff.DeedLook, "List where a variant lies, or lay at a past moment "+
		"(at=2026-11-01 18:00)", apiPlaces).
		Asks("at", "as it stood at this moment, as 2026-11-26T14:30"),
	kit.On("GET", "/variants/:id/explain/:figure", staff.DeedLook, "Explain on_hand, available, average_cost or price",
		apiExplain),
	kit.Take("POST", "/stock/put-right", staff.DeedLook, "Set stock to what is there, write it off or on, with a reason",
		apiPutRight),
	kit.Take("POST", "/condition-changes", staff.DeedChange, "Put goods into another condition", apiChangeCondition),
	kit.Take("POST", "/condition-changes/many", staff.DeedChange,
		"Put many goods into one condition, or write them off", apiChangeMany),
	kit.Take("POST", "/moves/scan", staff.DeedMove, "Add what was scanned to the lines of a move, and keep nothing",
		apiScanMove),
	kit.Take("POST", "/moves", staff.DeedMove, "Move goods between shelves of a branch", apiMove),
	kit.Lists("/sendings", staff.DeedLook, "List the sendings between branches, the open ones first", apiSendings).
		Asks("state", "in this state only"),
	kit.Take("POST", "/sendings", staff.DeedSend, "Begin a sending, or ask for one", apiBeginSending),
	kit.On("GET", "/sendings/:id", staff.DeedLook, "Read a sending with its lines", apiSending),
	kit.TakeOn("PUT", "/sendings/:id", staff.DeedSend, "Change the head of a sending that has not left", apiChangeSending),
	kit.TakeOn("POST", "/sendings/:id/lines", staff.DeedSend, "Put goods into a sending that has not left",
		apiPutInSending),
	kit.On("POST", "/sendings/:id/pack", staff.DeedSend, "Begin to pack what is wanted", apiPack),
	kit.On("POST", "/sendings/:id/send", staff.DeedSend, "Let a sending leave", apiSendOff),
	kit.TakeOn("POST", "/sendings/:id/here", staff.DeedSend, "Count what arrives of a sending", apiCountHere),
	kit.TakeOn("POST", "/sendings/:id/arrive", staff.DeedSend, "Take in what is here of a sending", apiArrive),
	kit.TakeOn("POST", "/sendings/:id/settle", staff.DeedWriteOff, "Settle what is short or over of a sending",
		apiSettleSending),
	kit.On("POST", "/sendings/:id/drop", staff.DeedSend, "Give up a sending that has not left", apiDropSending),
	kit.Take("POST", "/kits/make-up", staff.DeedKits, "Make kits of a bundle up into stock", apiMakeUp),
	kit.Take("POST", "/kits/break-up", staff.DeedKits, "Break kits in stock up into their parts", apiBreakUp),
	kit.Lists("/documents", staff.DeedLook, "List the documents, newest first", apiDocuments).
		Asks("kind", "of this kind only"),
	kit.Lists("/units", staff.DeedLook, "List the units with serial numbers and where they are", apiUnits).
		Asks("variant_id", "of this variant only", "state", "in this state only"),
	kit.All("/branches", staff.DeedLook, "List the branches with their shelves", apiBranches),
	kit.Ask("GET", "/documents/:number", staff.DeedLook, "Read a document with its entries and postings", apiDocument),
	kit.Take("POST", "/documents/:number/reverse", staff.DeedReverse, "Reverse a document whole", apiReverse),
	kit.Ask("GET", "/verify", staff.DeedVerify, "Hold all records against each other", apiVerify),
}

//go:embed *.html *.js *.css
var files embed.FS

// Place is what is on hand, where, worth what, and the documents that made it.
var Place = kit.Place{
	Name:  "Stock",
	Path:  "/stock",
	Key:   "s",
	Deed:  staff.DeedLook,
	Pages: pages,
	API:   api,
	Files: files,
}
