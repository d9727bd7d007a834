package book

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// StockAt is StockList as the book stood at a moment: what was recorded later,
// even of an earlier day, does not move it.
func StockAt(q db.Q, text string, page int, at time.Time) ([]StockRow, bool, error) {
	rows, more, err := StockList(q, text, page)
	if err != nil || len(rows) == 0 {
		return rows, more, err
	}
	ids := make([]uint64, len(rows))
	for i, r := range rows {
		ids[i] = r.ID
	}
	var sums []struct {
		VariantID                uint64
		Quantity, ForSale, Value decimal.Decimal
		LastCost                 decimal.Decimal
	}
	err = db.SQL(q).
		Raw(`SELECT e.variant_id, SUM(e.quantity) AS quantity, SUM(IF(e.condition = ?, e.quantity, 0)) AS for_sale,
			SUM(e.value) AS value
		FROM entry e JOIN document d ON d.id = e.document_id WHERE e.variant_id IN ? AND d.recorded_at <= ? GROUP
		BY e.variant_id`, stock.ForSale, ids, at).
		Scan(&sums).
		Error
	then := map[uint64]int{}
	for i, s := range sums {
		then[s.VariantID] = i
	}
	for i := range rows {
		r := &rows[i]
		r.Quantity, r.ForSale, r.Value, r.LastCost, r.Low = decimal.Zero, decimal.Zero, decimal.Zero, decimal.Zero, false
		if n, ok := then[r.ID]; ok {
			r.Quantity, r.ForSale, r.Value = sums[n].Quantity, sums[n].ForSale, sums[n].Value
		}
	}
	return rows, more, err
}

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
