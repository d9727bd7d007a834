package buying

import (
	"itemrack/core/staff"
	shopbuying "itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/store"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
	"itemrack/web/kit"
)

// supplierCatalog is the page of what a supplier offers, by its own catalog.
func supplierCatalog(c *kit.Call) error {
	id, err := c.Number("id")
	if err != nil {
		return err
	}
	supplier, _, err := goods.ReadSupplier(c.Q(), id)
	if err != nil {
		return err
	}
	count, err := storebuying.CatalogCount(c.Q(), id)
	if err != nil {
		return err
	}
	words := c.Query("q")
	columns := []kit.Column[storebuying.CatalogItemView]{kit.Col("part number",
		func(r storebuying.CatalogItemView) any { return r.PartNumber }),
		kit.Col("gtin", func(r storebuying.CatalogItemView) any { return r.GTIN }),
		kit.Col("name", func(r storebuying.CatalogItemView) any { return r.Name }),
		kit.Col("brand", func(r storebuying.CatalogItemView) any { return r.Brand }),
		kit.CostCol("cost", func(r storebuying.CatalogItemView) any { return kit.Optional(r.Cost) }),
		kit.Col("pack", func(r storebuying.CatalogItemView) any { return r.Pack }),
		kit.Col("pack of", func(r storebuying.CatalogItemView) any { return r.Factor }),
		kit.Col("suggested price", func(r storebuying.CatalogItemView) any { return kit.Optional(r.Suggested) }),
		kit.Col("from", func(r storebuying.CatalogItemView) any {
			if r.FromOn == nil {
				return nil
			}
			return *r.FromOn
		}),
		kit.Col("sku", func(r storebuying.CatalogItemView) any { return r.SKU })}
	return kit.Listed(c, "supplier_catalog", "Buying", "Catalog of "+supplier.Name, columns,
		func(q store.Q, page int) ([]storebuying.CatalogItemView, bool, error) {
			return storebuying.CatalogOf(q, id, words, page)
		},
		map[string]any{"S": supplier, "Count": count, "Words": words, "Filtered": kept(c, "q"),
			"Changes": c.Who.Can(staff.DeedSupplier),
			"Makes":   c.Who.Can(staff.DeedNewGoods)})
}

// catalogRoutes are the addresses of suppliers' catalogs for programs.
func catalogRoutes() []kit.Route {
	return []kit.Route{
		kit.Ask("GET", "/suppliers/:id/catalog", staff.DeedLook, "List what a supplier offers, by its own catalog",
			func(c *kit.Call) (kit.List[storebuying.CatalogItemView], error) {
				id, err := c.Number("id")
				if err != nil {
					return kit.List[storebuying.CatalogItemView]{}, err
				}
				rows, more, err := storebuying.CatalogOf(c.Q(), id, c.Query("q"), c.PageNumber())
				return kit.ListOf(rows, more), err
			}).Asks("page", "the number of the page, from 1", "q", "words, a part number or a GTIN"),
		kit.On("POST", "/suppliers/:id/catalog/read", staff.DeedSupplier,
			"Read a supplier's catalog in (CSV or XLSX), or try it with dry_run=true",
			func(c *kit.Call, id uint64) (shopbuying.CatalogRead, error) {
				_, data := c.Upload()
				return shopbuying.ReadCatalogIn(c.Deed(), id, data,
					shopbuying.CatalogInput{Dry: c.Query("dry_run") == "true", Whole: c.Query("whole") == "true"})
			}).Raw("text/csv", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "application/octet-stream").
			Asks("dry_run", "true to see what would become of each row", "whole",
				"true to drop what the file does not name"),
		kit.Ask("GET", "/offers", staff.DeedLook,
			"What suppliers offer under a GTIN that nobody here knows, as the products that would be made of it",
			func(c *kit.Call) (offers, error) {
				list, err := shopbuying.OfferedAs(c.Shop, c.Q(), c.Who, c.Query("code"))
				return offers{list}, err
			}).Asks("code", "the GTIN"),
		kit.Take("POST", "/offers", staff.DeedNewGoods, "Make the product that a supplier's catalog offers, whole",
			func(c *kit.Call, in shopbuying.MakeOfferedInput) (catalog.MadeProduct, error) {
				return shopbuying.MakeOffered(c.Deed(), in)
			}),
	}
}

// offers is what suppliers offer under a code.
type offers struct {
	Items []shopbuying.Offered `json:"items"`
}
