package goods

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/store/internal/db"
)

// ProductRow is a product in a list: the figures of its variants, added up.
type ProductRow struct {
	ID           uint64           `json:"id"`
	Name         string           `json:"name"`
	Category     string           `json:"category"`
	Supplier     string           `json:"supplier"`
	Brand        string           `json:"brand"`
	Tracking     string           `json:"tracking"`
	Unit         string           `json:"unit"`
	Discontinued bool             `json:"discontinued"`
	PictureID    uint64           `json:"picture_id"`
	CreatedAt    time.Time        `json:"created_at"`
	Variants     int              `json:"variants"`
	Variant      uint64           `json:"variant"` // the first one
	OnHand       decimal.Decimal  `json:"on_hand"`
	ForSale      decimal.Decimal  `json:"for_sale"`
	Low          int              `json:"low"`
	Priced       bool             `json:"priced"`
	PriceMin     decimal.Decimal  `json:"price_min"`
	PriceMax     decimal.Decimal  `json:"price_max"`
	Value        decimal.Decimal  `json:"value" see:"costs"`
	MarginMin    *decimal.Decimal `json:"margin_min" see:"costs"`
	Under        bool             `json:"under" see:"costs"` // a variant is priced under cost
	Bundle       bool             `json:"bundle"`
}

// Products lists a page of products (from page 1), and whether there is another.
// It takes the same number of queries however many rows there are.
func Products(q db.Q, f ListFilter, page int) ([]ProductRow, bool, error) {
	return pageOf(q, f, page, ProductIDs, ProductRows)
}

// pageOf reads a page of a list by what finds its rows and what reads them.
func pageOf[T any](q db.Q, f ListFilter, page int, find func(db.Q, ListFilter, int, int) ([]uint64, error),
	read func(db.Q, []uint64) ([]T, error)) ([]T, bool, error) {
	ids, err := find(q, f, (page-1)*db.PageSize, db.PageSize+1)
	if err != nil {
		return nil, false, err
	}
	rows, err := read(q, ids[:min(len(ids), db.PageSize)])
	return rows, len(ids) > db.PageSize, err
}

// ProductRows reads some products as they stand in a list, in the order asked for.
func ProductRows(q db.Q, ids []uint64) ([]ProductRow, error) {
	if len(ids) == 0 {
		return nil, nil
	}
	var rows []ProductRow
	err := db.SQL(q).
		Raw(`SELECT p.id, p.name, c.path AS category, COALESCE(s.name, '') AS supplier, p.brand, p.tracking,
			p.unit, p.discontinued, COALESCE(p.picture_id, 0) AS picture_id, p.created_at,
		p.bundle, n.variants, n.variant, f.on_hand, f.for_sale, f.value, f.price_min IS NOT NULL AS priced,
		COALESCE(f.price_min, 0) AS price_min, COALESCE(f.price_max, 0) AS price_max, f.margin_min, f.under, f.low
		FROM product p JOIN category c ON c.id = p.category_id LEFT JOIN supplier s ON s.id = p.supplier_id JOIN
		product_figure f ON f.product_id = p.id
		JOIN (SELECT product_id, COUNT(*) AS variants, MIN(id) AS variant FROM variant WHERE product_id IN ? GROUP
		BY product_id) n ON n.product_id = p.id
		WHERE p.id IN ?`, ids, ids).
		Scan(&rows).
		Error
	if err != nil {
		return nil, err
	}
	slices.SortFunc(rows, func(a, b ProductRow) int { return slices.Index(ids, a.ID) - slices.Index(ids, b.ID) })
	return rows, addBundles(q, rows)
}

// addBundles adds to the products that are bundles how many their parts make.
func addBundles(q db.Q, rows []ProductRow) error {
	var bundles []uint64
	for _, r := range rows {
		if r.Bundle {
			bundles = append(bundles, r.ID)
		}
	}
	if len(bundles) == 0 {
		return nil
	}
	variants, err := listVariants(q, "v.product_id IN ?", bundles)
	for i := range rows {
		if !rows[i].Bundle {
			continue
		}
		rows[i].ForSale = decimal.Zero
		for _, v := range variants {
			if v.ProductID == rows[i].ID {
				rows[i].ForSale = rows[i].ForSale.Add(v.ForSale)
			}
		}
	}
	return err
}

// VariantRow is a variant in a list.
type VariantRow struct {
	ID           uint64           `json:"id"`
	ProductID    uint64           `json:"product_id"`
	Name         string           `json:"name"`
	Label        string           `json:"label"`
	SKU          string           `json:"sku"`
	Barcode      string           `json:"barcode"`
	Category     string           `json:"category"`
	Supplier     string           `json:"supplier"`
	Brand        string           `json:"brand"`
	Tracking     string           `json:"tracking"`
	Unit         string           `json:"unit"`
	Discontinued bool             `json:"discontinued"`
	Retired      bool             `json:"retired"`
	PictureID    uint64           `json:"picture_id"`
	Price        *decimal.Decimal `json:"price"`
	Cost         *decimal.Decimal `json:"cost" see:"costs"`
	Margin       *decimal.Decimal `json:"margin" see:"costs"`
	Under        bool             `json:"under" see:"costs"`
	OnHand       decimal.Decimal  `json:"on_hand"`
	ForSale      decimal.Decimal  `json:"for_sale"`
	Value        decimal.Decimal  `json:"value" see:"costs"`
	RestockLevel *decimal.Decimal `json:"restock_level"`
	Low          bool             `json:"low"`
}

// Variants lists a page of variants, and whether there is another.
func Variants(q db.Q, f ListFilter, page int) ([]VariantRow, bool, error) {
	return pageOf(q, f, page, VariantIDs, VariantRows)
}

// VariantRows reads some variants as they stand in a list, in the order asked for.
func VariantRows(q db.Q, ids []uint64) ([]VariantRow, error) {
	if len(ids) == 0 {
		return nil, nil
	}
	rows, err := listVariants(q, "v.id IN ?", ids)
	at := map[uint64]VariantRow{}
	for _, r := range rows {
		at[r.ID] = r
	}
	list := make([]VariantRow, 0, len(ids))
	for _, id := range ids {
		if r, ok := at[id]; ok {
			list = append(list, r)
		}
	}
	return list, err
}

func listVariants(q db.Q, where string, ids []uint64) ([]VariantRow, error) {
	var rows []struct {
		VariantRow
		Bundle bool
	}
	err := db.SQL(q).
		Raw(`SELECT v.id, v.product_id, p.name, v.label, v.sku, COALESCE((SELECT code FROM barcode b WHERE
			b.variant_id = v.id AND b.pack_id IS NULL ORDER BY b.id LIMIT 1), '') AS barcode, c.path AS category,
		COALESCE(s.name, '') AS supplier, p.brand, p.tracking, p.unit, p.discontinued, v.retired,
		COALESCE(v.picture_id, p.picture_id, 0) AS picture_id, v.list_price AS price, k.quantity AS on_hand,
		k.for_sale, k.value,
		NULLIF(k.cost, 0) AS cost, k.margin, k.under, v.restock_level, k.low, p.bundle
		FROM variant v STRAIGHT_JOIN product p ON p.id = v.product_id
		STRAIGHT_JOIN cost_pool k ON k.variant_id = v.id STRAIGHT_JOIN category c ON c.id = p.category_id
		LEFT JOIN supplier s ON s.id = p.supplier_id WHERE `+where+" ORDER BY v.product_id, v.id", ids).
		Scan(&rows).
		Error
	if err != nil {
		return nil, err
	}
	var bundles []uint64
	for _, r := range rows {
		if r.Bundle {
			bundles = append(bundles, r.ID)
		}
	}
	parts, err := BundleParts(q, bundles, 0)
	list := make([]VariantRow, len(rows))
	for i, r := range rows {
		if in, ok := parts[r.ID]; ok {
			r.ForSale = r.ForSale.Add(catalog.Available(coreParts(in)))
		}
		list[i] = r.VariantRow
	}
	return list, err
}
