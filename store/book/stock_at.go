package book

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/store/internal/db"
)

// StockWorth is what all stock was worth as the book stood at a moment: what it is
// worth now, less what was recorded since.
func StockWorth(q db.Q, at time.Time) (decimal.Decimal, error) {
	var sums struct{ Now, Since decimal.Decimal }
	err := db.SQL(q).Raw(`SELECT (SELECT COALESCE(SUM(value), 0) FROM product_figure) AS now,
		(SELECT COALESCE(SUM(e.value), 0) FROM document d JOIN entry e ON e.document_id = d.id WHERE d.recorded_at
		> ?) AS since`, at).Scan(&sums).Error
	return sums.Now.Sub(sums.Since), err
}

// PlacesAt is Places as the book stood at a moment.
func PlacesAt(q db.Q, variant uint64, at time.Time) ([]Place, error) {
	return places(
		q,
		"(SELECT e.variant_id, e.shelf_id, e.lot_id, e.condition, SUM(e.quantity) AS quantity FROM entry e JOIN "+
			"document d ON d.id = e.document_id "+
			"WHERE e.variant_id = ? AND d.recorded_at <= ? GROUP BY e.shelf_id, e.lot_id, e.condition)",
		variant,
		variant,
		at,
	)
}
