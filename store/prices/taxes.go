package prices

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/tax"
	"itemrack/store/internal/db"
)

// TaxClasses returns the tax classes with their rates, in the order they were made.
func TaxClasses(q db.Q) ([]tax.Class, error) {
	var rows []struct {
		ID      uint64
		Name    string
		FromAt  *time.Time
		Percent decimal.Decimal
	}
	err := db.SQL(q).Raw("SELECT c.id, c.name, r.from_at, r.percent FROM tax_class c LEFT JOIN tax_rate r ON r.tax_class_id = c.id ORDER BY c.id, r.from_at").Scan(&rows).Error
	var classes []tax.Class
	for _, r := range rows {
		if n := len(classes); n == 0 || classes[n-1].ID != r.ID {
			classes = append(classes, tax.Class{ID: r.ID, Name: r.Name})
		}
		if r.FromAt != nil {
			c := &classes[len(classes)-1]
			c.Rates = append(c.Rates, tax.Rate{From: *r.FromAt, Percent: r.Percent})
		}
	}
	return classes, err
}

// SetTaxRate gives a class a rate from a moment on.
func SetTaxRate(tx db.Tx, class uint64, from time.Time, percent decimal.Decimal) error {
	return db.SQL(tx.Q).Exec("INSERT INTO tax_rate (tax_class_id, from_at, percent) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE percent = VALUES(percent)", class, from, percent).Error
}

// DropTaxRates takes back the rates of a class that begin after a moment, and
// returns how many there were.
func DropTaxRates(tx db.Tx, class uint64, after time.Time) (int64, error) {
	done := db.SQL(tx.Q).Exec("DELETE FROM tax_rate WHERE tax_class_id = ? AND from_at > ?", class, after)
	return done.RowsAffected, done.Error
}
