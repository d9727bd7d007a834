package web

import (
	"itemrack/sheet"
	"itemrack/shop"
)

// listKinds are the media types of a list.
var listKinds = []string{"text/csv", sheet.XLSX.Type()}

// listsPages are the addresses of lists.
var listsPages = []route{
	page("GET", "/catalog/import", shop.DeedCatalog, (*call).imports),
	page("GET", "/catalog/import/template", shop.DeedCatalog, (*call).listTemplate),
	page("GET", "/catalog/import/:id", shop.DeedCatalog, (*call).importPage),
	page("GET", "/catalog/import/:id/refused", shop.DeedCatalog, (*call).refusedRows),
}

// listsAPI are the addresses of lists.
var listsAPI = []route{
	ask("POST", "/catalog/import", shop.DeedCatalog, "Read a stock list (CSV or XLSX) in, or try it with dry_run=true", apiImport).raw(listKinds...),
	ask("POST", "/imports", shop.DeedCatalog, "Keep a list that is to be read in (kind=catalog or opening, name=file.csv), and match its columns", apiBeginImport).raw(listKinds...).asItComes(),
	on("GET", "/imports/:id", shop.DeedCatalog, "Read how far an import is", apiReadImport),
	takeOn("PUT", "/imports/:id/columns", shop.DeedCatalog, "Say which column each head of the file is", apiMatchImport),
	on("POST", "/imports/:id/pictures", shop.DeedCatalog, "Keep a ZIP of pictures that the list names", apiImportPictures).raw("application/zip").asItComes(),
	takeOn("POST", "/imports/:id/run", shop.DeedCatalog, "Begin to read a list in, or to try it", apiRunImport),
	on("GET", "/imports/:id/rows", shop.DeedCatalog, "List what becomes of the rows", apiImportRows),
}

// listsPlace is lists that are read in.
var listsPlace = Place{Pages: listsPages, API: listsAPI}
