// Package catalog shows products, their racks and facts, categories, values.
package catalog

import (
	"embed"
	"html/template"
	"strings"

	"itemrack/core/staff"
	"itemrack/web/kit"
)

// pictureKinds are the media types of a picture.
var pictureKinds = []string{"image/jpeg", "image/png", "image/webp"}

// listQueries are what narrows and orders a list of the catalog.
var listQueries = func() []string {
	pairs := []string{"q", "words", "page", "the number of the page, from 1", "sort",
		"a column, with - before it for falling"}
	for _, name := range kit.FilterNames {
		pairs = append(pairs, name, "only those with this "+strings.ReplaceAll(name, "_", " "))
	}
	return pairs
}()

// pages are the addresses that people open.
var pages = []kit.Route{kit.Page("GET", "/catalog", staff.DeedLook, catalog),
	kit.Page("GET", "/catalog/new", staff.DeedCatalog, newProduct),
	kit.Page("POST", "/catalog/new/rack", staff.DeedCatalog, newProductRack),
	kit.Page("GET", "/catalog/quick", staff.DeedCatalog, quickEntry),
	kit.Page("GET", "/catalog/export", staff.DeedLook, exportCatalog),
	kit.Page("GET", "/catalog/categories", staff.DeedLook, categories),
	kit.Page("GET", "/catalog/values", staff.DeedLook, valueSets),
	kit.Page("GET", "/catalog/:id", staff.DeedLook, product),
	kit.Page("GET", "/catalog/:id/rack", staff.DeedCatalog, changeRack),
	kit.Page("GET", "/catalog/:id/edit", staff.DeedCatalog, editProduct),
	kit.Page("GET", "/catalog/variants/:id/tag", staff.DeedLook, swingTag),
	kit.Page("GET", "/pictures/:id", staff.DeedLook, picture)}

// api are the addresses for programs and for the modules of the pages.
var api = []kit.Route{
	kit.Ask("GET", "/find", staff.DeedLook, "Find a barcode, SKU, serial or document number, or words of a "+
		"product's name", apiFind).
		Asks("q", "what to find"),
	kit.Ask("GET", "/products", staff.DeedLook, "List products, a page at a time", apiProducts).Asks(listQueries...),
	kit.Ask("GET", "/variants", staff.DeedLook, "List variants, a page at a time", apiVariants).Asks(listQueries...),
	kit.Take("POST", "/products", staff.DeedCatalog, "Make a product with its variants", apiMakeProduct),
	kit.On("GET", "/products/:id", staff.DeedLook, "Read a product with its variants", apiProduct),
	kit.On("GET", "/products/:id/parts", staff.DeedLook, "Read what is in a bundle", apiParts),
	kit.TakeOn("POST", "/products/:id/values", staff.DeedCatalog,
		"Add values to a product's axes and make the variants they bring", apiAddValues),
	kit.TakeOn("PUT", "/products/:id", staff.DeedCatalog, "Change the facts of a product", apiSaveProduct),
	kit.On("DELETE", "/products/:id", staff.DeedCatalog, "Drop a product that never had stock or sales",
		apiDropProduct),
	kit.TakeOn("POST", "/products/:id/successor", staff.DeedCatalog,
		"Make a product that takes over the name and barcodes, with another tracking or unit", apiSucceed),
	kit.TakeOn("POST", "/products/:id/values/change", staff.DeedCatalog,
		"Drop, retire or restore a value of a product's axis", apiChangeValue),
	kit.TakeOn("POST", "/products/:id/cells", staff.DeedCatalog,
		"Change SKU, expected cost, restock level or retirement of variants", apiChangeCells),
	kit.TakeOn("PUT", "/products/:id/parts", staff.DeedCatalog, "Change what is in a bundle", apiSetParts),
	kit.TakeOn("POST", "/products/:id/packs", staff.DeedCatalog, "Make a pack", apiSavePack),
	kit.TakeOn("PUT", "/products/:id/packs/:pack", staff.DeedCatalog, "Change a pack", apiSavePack),
	kit.On("DELETE", "/products/:id/packs/:pack", staff.DeedCatalog, "Drop a pack", apiDropPack),
	kit.On("POST", "/products/:id/pictures", staff.DeedCatalog, "Give a product a picture (JPEG, PNG or WebP)",
		apiAddPicture).
		Raw(pictureKinds...),
	kit.Ask("POST", "/pictures", staff.DeedCatalog,
		"Keep a picture for a product that is being made (JPEG, PNG or WebP)",
		apiKeepPicture).Raw(pictureKinds...),
	kit.TakeOn("PATCH", "/products/:id/pictures/:picture", staff.DeedCatalog,
		"Drop a picture, or say what it stands for", apiChangePicture),
	kit.Take("POST", "/products/bulk", staff.DeedCatalog, "Change one thing of many products, or preview it", apiBulk),
	kit.On("POST", "/products/bulk/:id/undo", staff.DeedCatalog, "Undo a change of many products", apiUndoBulk),
	kit.Take("POST", "/views", staff.DeedLook, "Keep a view of the catalog under a name", apiSaveView),
	kit.On("DELETE", "/views/:id", staff.DeedLook, "Forget a view", apiDropView),
	kit.Ask("GET", "/categories", staff.DeedLook, "List the category tree", apiCategories),
	kit.Take("POST", "/categories", staff.DeedCatalog, "Make a category", apiSaveCategory),
	kit.Take("PUT", "/categories/:id", staff.DeedCatalog, "Change or move a category", apiSaveCategory),
	kit.On("DELETE", "/categories/:id", staff.DeedCatalog, "Drop an empty category", apiDropCategory),
	kit.TakeOn("POST", "/categories/:id/merge", staff.DeedCatalog, "Merge a category into another", apiMergeCategory),
	kit.On("POST", "/categories/:id/picture", staff.DeedCatalog, "Give a category the picture of its tile",
		apiCategoryPicture).
		Raw(pictureKinds...),
	kit.All("/values", staff.DeedLook, "List the value sets with their values", apiValueSets),
	kit.Take("POST", "/values", staff.DeedCatalog, "Add values to a value set", apiAddToSet),
	kit.TakeOn("PUT", "/values/:id", staff.DeedCatalog, "Rename a value everywhere, and give it a swatch",
		apiRenameValue),
	kit.On("DELETE", "/values/:id", staff.DeedCatalog, "Drop a value that no product has", apiDropValue),
	kit.TakeOn("POST", "/variants/:id/barcodes", staff.DeedCatalog,
		"Give a variant a further barcode; an empty one takes a number of the shop's own", apiAddBarcode),
	kit.On("DELETE", "/variants/:id/barcodes/:code", staff.DeedCatalog, "Take a barcode off a variant", apiDropBarcode),
}

//go:embed *.html *.js *.css
var files embed.FS

// Place is products, their racks and facts, categories, values.
var Place = kit.Place{
	Name:  "Catalog",
	Path:  "/catalog",
	Key:   "c",
	Deed:  staff.DeedLook,
	Pages: pages,
	API:   api,
	Funcs: template.FuncMap{"sorting": sorting},
	Files: files,
}
