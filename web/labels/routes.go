// Package labels shows labels, chosen, drawn, printed and designed.
package labels

import (
	"embed"

	"itemrack/core/staff"
	"itemrack/web/kit"
)

// pages are the addresses that people open.
var pages = []kit.Route{kit.Page("GET", "/catalog/:id/labels", staff.DeedLabels, labels),
	kit.Page("GET", "/labels", staff.DeedLabels, labelList),
	kit.Page("GET", "/labels/preview", staff.DeedLabels, labelPreview),
	kit.Page("POST", "/labels/preview", staff.DeedLabels, labelPreview),
	kit.Page("GET", "/labels/pdf", staff.DeedLabels, labelPDF),
	kit.Page("GET", "/labels/shelves", staff.DeedLabels, shelfLabels),
	kit.Page("GET", "/labels/kinds", staff.DeedLabels, labelTemplates),
	kit.Page("GET", "/labels/kinds/:code", staff.DeedCatalog, designLabel),
	kit.Page("POST", "/labels/draw", staff.DeedLabels, drawDesign)}

// api are the addresses for programs and for the modules of the pages.
var api = []kit.Route{
	kit.Ask("GET", "/label-templates", staff.DeedLabels, "List the kinds of label", apiLabelTemplates),
	kit.Take("PUT", "/label-templates/:code", staff.DeedCatalog,
		"Keep a kind of label of the shop's own (code new for a new one)", apiSaveLabelTemplate),
	kit.Ask("DELETE", "/label-templates/:code", staff.DeedCatalog, "Drop a kind of label of the shop's own",
		apiDropLabelTemplate),
	kit.Take("POST", "/labels", staff.DeedLabels, "Print labels on the label-printer stand-in", apiPrintLabels),
}

//go:embed *.html *.js
var files embed.FS

// Place is labels, chosen, drawn, printed and designed.
var Place = kit.Place{Pages: pages, API: api, Files: files}
