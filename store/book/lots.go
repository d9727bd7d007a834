package book

import (
	"time"

	"itemrack/core/serial"
	"itemrack/store/internal/db"
)

// never is the expiry of a lot that does not expire.
var never = time.Date(9999, 12, 31, 0, 0, 0, 0, time.UTC)

// KeepLot returns the lot of a variant with a number and expiry (zero for none),
// made if it is new.
func KeepLot(tx db.Tx, variant uint64, number string, expiry time.Time) (serial.Lot, error) {
	number = serial.Normal(number)
	row := lot{VariantID: variant, Number: number, Expiry: expiry}
	if expiry.IsZero() {
		row.Expiry = never
	}
	find := func() error {
		return db.SQL(tx.Q).
			Raw("SELECT id FROM lot WHERE variant_id = ? AND number = ? AND expiry = ?", variant, number, row.Expiry).
			Scan(&row.ID).
			Error
	}
	if err := find(); err != nil || row.ID != 0 {
		return row.core(), err
	}
	err := db.SQL(tx.Q).Create(&row).Error
	if db.Duplicate(err) {
		err = find()
	}
	return row.core(), err
}

// lot is a batch of a variant.
type lot struct {
	ID        uint64
	VariantID uint64
	Number    string
	Expiry    time.Time
}

// core gives the lot to the rules.
func (l lot) core() serial.Lot {
	known := serial.Lot{ID: l.ID, Number: l.Number}
	if l.Expiry.Before(never) {
		known.Expiry = l.Expiry
	}
	return known
}
