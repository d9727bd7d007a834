package book

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// ExpiringLot is a lot whose expiry is near, or past, and of which something is for sale.
type ExpiringLot struct {
	VariantID uint64
	Name      string
	Label     string
	Lot       string
	Expiry    time.Time
	Unit      string
	Quantity  decimal.Decimal
}

// Expiring lists the lots that expire within the days that their products say, else their categories, else
// the usual ones, of a day: the nearest first.
func Expiring(q db.Q, today time.Time, most int) ([]ExpiringLot, error) {
	told, err := toldDays(q)
	if err != nil {
		return nil, err
	}
	var rows []ExpiringLot
	return rows, db.SQL(q).
		Raw(`SELECT v.id AS variant_id, p.name, v.label, l.number AS lot, l.expiry, p.unit, SUM(b.quantity) AS
			quantity FROM lot l
			JOIN balance b ON b.lot_id = l.id AND b.variant_id = l.variant_id JOIN variant v ON v.id = l.variant_id
			JOIN product p ON p.id = v.product_id
			WHERE l.expiry <= DATE_ADD(?, INTERVAL ? DAY) AND l.expiry <= DATE_ADD(?, INTERVAL `+told+` DAY)
			AND b.condition = ? AND b.quantity > 0 GROUP BY l.id ORDER BY l.expiry, l.id LIMIT ?`,
			db.Day(today), catalog.MostExpiryDays, db.Day(today), stock.ForSale, most).
		Scan(&rows).
		Error
}
