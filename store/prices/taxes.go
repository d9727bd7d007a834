package prices

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/tax"
	"itemrack/store/internal/db"
)

// TaxClasses returns the tax classes with their rates, in the order they were made.
func TaxClasses(q db.Q) ([]tax.Class, error) {
	var classes []tax.Class
	return classes, db.Read(q, taxClassesPart(&classes))
}

// TaxClassesParts is TaxClasses as one of several queries, or none where a copy is kept.
func TaxClassesParts(q db.Q, into *[]tax.Class) ([]db.Part, error) {
	return db.Copied(q, "tax classes", into,
		func(into *[]tax.Class) []db.Part { return []db.Part{taxClassesPart(into)} })
}

func taxClassesPart(into *[]tax.Class) db.Part {
	return db.Part{
		SQL: "SELECT c.id, c.name, r.from_at, r.percent FROM tax_class c LEFT JOIN tax_rate r ON r.tax_class_id = " +
			"c.id ORDER BY c.id, r.from_at",
		Row: func(scan func(into ...any) error) error {
			var c tax.Class
			var from *time.Time
			var percent *decimal.Decimal
			if err := scan(&c.ID, &c.Name, &from, &percent); err != nil {
				return err
			}
			if n := len(*into); n == 0 || (*into)[n-1].ID != c.ID {
				*into = append(*into, c)
			}
			if from != nil {
				last := &(*into)[len(*into)-1]
				last.Rates = append(last.Rates, tax.Rate{From: *from, Percent: *percent})
			}
			return nil
		},
	}
}

// SetTaxRate gives a class a rate from a moment on.
func SetTaxRate(tx db.Tx, class uint64, from time.Time, percent decimal.Decimal) error {
	return db.SQL(tx.Q).
		Exec("INSERT INTO tax_rate (tax_class_id, from_at, percent) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE "+
			"percent = VALUES(percent)", class, from, percent).
		Error
}

// DropTaxRates takes back the rates of a class that begin after a moment, and
// returns how many there were.
func DropTaxRates(tx db.Tx, class uint64, after time.Time) (int64, error) {
	done := db.SQL(tx.Q).Exec("DELETE FROM tax_rate WHERE tax_class_id = ? AND from_at > ?", class, after)
	return done.RowsAffected, done.Error
}
