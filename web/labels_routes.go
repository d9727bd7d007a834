package web

import "itemrack/shop"

// labelsPages are the addresses of labels.
var labelsPages = []route{
	page("GET", "/catalog/:id/labels", shop.DeedLabels, (*call).labels),
	page("GET", "/labels", shop.DeedLabels, (*call).labelList),
	page("GET", "/labels/preview", shop.DeedLabels, (*call).labelPreview),
	page("POST", "/labels/preview", shop.DeedLabels, (*call).labelPreview),
	page("GET", "/labels/pdf", shop.DeedLabels, (*call).labelPDF),
	page("GET", "/labels/kinds", shop.DeedLabels, (*call).labelTemplates),
	page("GET", "/labels/kinds/:code", shop.DeedCatalog, (*call).designLabel),
	page("POST", "/labels/draw", shop.DeedLabels, (*call).drawDesign),
}

// labelsAPI are the addresses of labels.
var labelsAPI = []route{
	ask("GET", "/label-templates", shop.DeedLabels, "List the kinds of label", apiLabelTemplates),
	take("PUT", "/label-templates/:code", shop.DeedCatalog, "Keep a kind of label of the shop's own (code new for a new one)", apiSaveLabelTemplate),
	ask("DELETE", "/label-templates/:code", shop.DeedCatalog, "Drop a kind of label of the shop's own", apiDropLabelTemplate),
	take("POST", "/labels", shop.DeedLabels, "Print labels on the label-printer stand-in", apiPrintLabels),
}

// labelsPlace is labels, chosen, drawn, printed and designed.
var labelsPlace = Place{Pages: labelsPages, API: labelsAPI}
