package book

import (
	"slices"
	"time"

	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/store/goods"
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
	var variants []uint64
	err := db.SQL(tx.Q).Raw("SELECT DISTINCT b.variant_id FROM lot l JOIN balance b ON b.lot_id = l.id AND b.variant_id = "+
		"l.variant_id WHERE l.expiry >= ? AND l.expiry < ? AND b.`condition` = ? AND b.quantity > 0", since, before,
		stock.ForSale).Scan(&variants).Error
	if err != nil {
		return err
	}
	return availableAnew(tx, variants, before, moment)
}

// AvailableAnew works out anew what is available of some variants, and what follows from it, where counts lock goods or
// let them go.
func AvailableAnew(tx db.Tx, variants []uint64, moment time.Time) error {
	before, err := tx.Setting(ExpiredBefore)
	if err != nil {
		return err
	}
	return availableAnew(tx, variants, text.Or(before, "1000-01-01"), moment)
}

func availableAnew(tx db.Tx, variants []uint64, before string, moment time.Time) error {
	variants = slices.Compact(slices.Sorted(slices.Values(variants)))
	var products []uint64
	for part := range slices.Chunk(variants, piece) {
		b := new(db.Batch)
		in := db.IDs(part)
		b.Add("SELECT variant_id FROM cost_pool WHERE variant_id IN (" + in + ") ORDER BY variant_id FOR UPDATE")
		b.Add("UPDATE cost_pool c SET for_sale = COALESCE((SELECT SUM(b.quantity) FROM balance b LEFT JOIN lot l ON l.id = "+
			"b.lot_id WHERE b.variant_id = c.variant_id AND b.`condition` = ? AND (l.id IS NULL OR l.expiry >= ?) AND NOT "+
			goods.Locked("b")+"), 0) WHERE c.variant_id IN ("+in+")", stock.ForSale, before)
		if err := b.Run(tx); err != nil {
			return err
		}
		var of []uint64
		if err := db.SQL(tx.Q).Raw("SELECT DISTINCT product_id FROM variant WHERE id IN (" + in + ")").Scan(&of).
			Error; err != nil {
			return err
		}
		products = append(products, of...)
	}
	slices.Sort(products)
	return Restand(tx, slices.Compact(products), moment)
}
