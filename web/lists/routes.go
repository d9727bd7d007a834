// Package lists shows lists that are read in.
package lists

import (
	"embed"

	"itemrack/core/staff"
	"itemrack/sheet"
	"itemrack/web/kit"
)

// listKinds are the media types of a list.
var listKinds = []string{"text/csv", sheet.XLSX.Type()}

// pages are the addresses that people open.
var pages = []kit.Route{kit.Page("GET", "/catalog/import", staff.DeedCatalog, imports),
	kit.Page("GET", "/catalog/import/template", staff.DeedCatalog, listTemplate),
	kit.Page("GET", "/catalog/import/:id", staff.DeedCatalog, importPage),
	kit.Page("GET", "/catalog/import/:id/refused", staff.DeedCatalog, refusedRows)}

// api are the addresses for programs and for the modules of the pages.
var api = []kit.Route{
	kit.Ask("POST", "/catalog/import", staff.DeedCatalog, "Read a stock list (CSV or XLSX) in, or try it with "+
		"dry_run=true", apiImport).
		Raw(listKinds...),
	kit.Ask("POST", "/imports", staff.DeedCatalog, "Keep a list that is to be read in (kind=catalog or opening, "+
		"name=file.csv), and match its columns", apiBeginImport).
		Raw(listKinds...).
		AsItComes(),
	kit.On("GET", "/imports/:id", staff.DeedCatalog, "Read how far an import is", apiReadImport),
	kit.TakeOn("PUT", "/imports/:id/columns", staff.DeedCatalog, "Say which column each head of the file is",
		apiMatchImport),
	kit.On("POST", "/imports/:id/pictures", staff.DeedCatalog, "Keep a ZIP of pictures that the list names",
		apiImportPictures).
		Raw("application/zip").
		AsItComes(),
	kit.TakeOn("POST", "/imports/:id/run", staff.DeedCatalog, "Begin to read a list in, or to try it", apiRunImport),
	kit.On("GET", "/imports/:id/rows", staff.DeedCatalog, "List what becomes of the rows", apiImportRows).
		Asks("outcome", "with this outcome only", "after", "behind this line"),
}

//go:embed *.html *.js
var files embed.FS

// Place is lists that are read in.
var Place = kit.Place{Pages: pages, API: api, Files: files}
