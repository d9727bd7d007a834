package book

import (
	"slices"
	"time"

	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// ExpiredBefore is the setting that says before which day lots have expired that are not
// counted as available any more.
const ExpiredBefore = "expired_before"

// Expire takes the lots out of what is available whose expiry lies on a day or after it,
// empty for ever, and before another, at a moment.
func Expire(tx db.Tx, since, before string, moment time.Time) error {
	if since == "" {
		since = "1000-01-01"
	}
	var products []uint64
	var variants []uint64
	err := db.Read(tx.Q, db.Part{
		SQL: `SELECT DISTINCT v.id, v.product_id FROM lot l JOIN balance b ON b.lot_id = l.id AND b.variant_id =
			l.variant_id JOIN variant v ON v.id = l.variant_id WHERE l.expiry >= ? AND l.expiry < ? AND b.condition =
			? AND
			b.quantity > 0 ORDER BY v.id`,
		Args: []any{since, before, stock.ForSale},
		Row: func(scan func(into ...any) error) error {
			var variant, product uint64
			err := scan(&variant, &product)
			variants, products = append(variants, variant), append(products, product)
			return err
		},
	})
	if err != nil {
		return err
	}
	for part := range slices.Chunk(variants, piece) {
		b := new(db.Batch)
		in := db.IDs(part)
		b.Add("SELECT variant_id FROM cost_pool WHERE variant_id IN (" + in + ") ORDER BY variant_id FOR UPDATE")
		b.Add(`UPDATE cost_pool c SET for_sale = COALESCE((SELECT SUM(b.quantity) FROM balance b LEFT JOIN lot l ON
			l.id =
			b.lot_id WHERE b.variant_id = c.variant_id AND b.condition = ? AND (l.id IS NULL OR l.expiry >= ?)), 0)
			WHERE c.variant_id IN (`+in+")", stock.ForSale, before)
		if err := b.Run(tx); err != nil {
			return err
		}
	}
	slices.Sort(products)
	return Restand(tx, slices.Compact(products), moment)
}
