package web

import (
	"html/template"
	"itemrack/shop"
)

// pictureKinds are the media types of a picture.
var pictureKinds = []string{"image/jpeg", "image/png", "image/webp"}

// catalogPages are the addresses of catalog.
var catalogPages = []route{
	page("GET", "/catalog", shop.DeedLook, (*call).catalog),
	page("GET", "/catalog/new", shop.DeedCatalog, (*call).newProduct),
	page("POST", "/catalog/new/rack", shop.DeedCatalog, (*call).newProductRack),
	page("GET", "/catalog/quick", shop.DeedCatalog, (*call).quickEntry),
	page("GET", "/catalog/export", shop.DeedLook, (*call).exportCatalog),
	page("GET", "/catalog/categories", shop.DeedLook, (*call).categories),
	page("GET", "/catalog/values", shop.DeedLook, (*call).valueSets),
	page("GET", "/catalog/:id", shop.DeedLook, (*call).product),
	page("GET", "/catalog/:id/rack", shop.DeedCatalog, (*call).changeRack),
	page("GET", "/catalog/:id/edit", shop.DeedCatalog, (*call).editProduct),
	page("GET", "/catalog/variants/:id/tag", shop.DeedLook, (*call).swingTag),
	page("GET", "/pictures/:id", shop.DeedLook, (*call).picture),
}

// catalogAPI are the addresses of catalog.
var catalogAPI = []route{
	ask("GET", "/find", shop.DeedLook, "Find a barcode, SKU, serial or document number, or words of a product's name", apiFind),
	ask("GET", "/products", shop.DeedLook, "List products, a page at a time", apiProducts),
	ask("GET", "/variants", shop.DeedLook, "List variants, a page at a time", apiVariants),
	take("POST", "/products", shop.DeedCatalog, "Make a product with its variants", apiMakeProduct),
	on("GET", "/products/:id", shop.DeedLook, "Read a product with its variants", apiProduct),
	takeOn("POST", "/products/:id/values", shop.DeedCatalog, "Add values to a product's axes and make the variants they bring", apiAddValues),
	takeOn("PUT", "/products/:id", shop.DeedCatalog, "Change the facts of a product", apiSaveProduct),
	on("DELETE", "/products/:id", shop.DeedCatalog, "Drop a product that never had stock or sales", apiDropProduct),
	takeOn("POST", "/products/:id/successor", shop.DeedCatalog, "Make a product that takes over the name and barcodes, with another tracking or unit", apiSucceed),
	takeOn("POST", "/products/:id/values/change", shop.DeedCatalog, "Drop, retire or restore a value of a product's axis", apiChangeValue),
	takeOn("POST", "/products/:id/cells", shop.DeedCatalog, "Change SKU, expected cost, restock level or retirement of variants", apiChangeCells),
	takeOn("PUT", "/products/:id/parts", shop.DeedCatalog, "Change what is in a bundle", apiSetParts),
	takeOn("POST", "/products/:id/packs", shop.DeedCatalog, "Make a pack", apiSavePack),
	takeOn("PUT", "/products/:id/packs/:pack", shop.DeedCatalog, "Change a pack", apiSavePack),
	on("DELETE", "/products/:id/packs/:pack", shop.DeedCatalog, "Drop a pack", apiDropPack),
	on("POST", "/products/:id/pictures", shop.DeedCatalog, "Give a product a picture (JPEG, PNG or WebP)", apiAddPicture).raw(pictureKinds...),
	takeOn("PATCH", "/products/:id/pictures/:picture", shop.DeedCatalog, "Drop a picture, or say what it stands for", apiChangePicture),
	take("POST", "/products/bulk", shop.DeedCatalog, "Change one thing of many products, or preview it", apiBulk),
	on("POST", "/products/bulk/:id/undo", shop.DeedCatalog, "Undo a change of many products", apiUndoBulk),
	take("POST", "/views", shop.DeedLook, "Keep a view of the catalog under a name", apiSaveView),
	on("DELETE", "/views/:id", shop.DeedLook, "Forget a view", apiDropView),
	ask("GET", "/categories", shop.DeedLook, "List the category tree", apiCategories),
	take("POST", "/categories", shop.DeedCatalog, "Make a category", apiSaveCategory),
	take("PUT", "/categories/:id", shop.DeedCatalog, "Change or move a category", apiSaveCategory),
	on("DELETE", "/categories/:id", shop.DeedCatalog, "Drop an empty category", apiDropCategory),
	takeOn("POST", "/categories/:id/merge", shop.DeedCatalog, "Merge a category into another", apiMergeCategory),
	on("POST", "/categories/:id/picture", shop.DeedCatalog, "Give a category the picture of its tile", apiCategoryPicture).raw(pictureKinds...),
	take("POST", "/values", shop.DeedCatalog, "Add values to a value set", apiAddToSet),
	takeOn("PUT", "/values/:id", shop.DeedCatalog, "Rename a value everywhere, and give it a swatch", apiRenameValue),
	on("DELETE", "/values/:id", shop.DeedCatalog, "Drop a value that no product has", apiDropValue),
	takeOn("POST", "/variants/:id/barcodes", shop.DeedCatalog, "Give a variant a further barcode; an empty one takes a number of the shop's own", apiAddBarcode),
	on("DELETE", "/variants/:id/barcodes/:code", shop.DeedCatalog, "Take a barcode off a variant", apiDropBarcode),
}

// catalogPlace is products, their racks and facts, categories, values.
var catalogPlace = Place{Name: "Catalog", Path: "/catalog", Key: "c", Deed: shop.DeedLook, Pages: catalogPages, API: catalogAPI, Funcs: template.FuncMap{"sorting": sorting}}
