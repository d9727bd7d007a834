package book

import (
	"time"

	"itemrack/core/fault"
	"itemrack/core/serial"
	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// never is the expiry of a lot that does not expire.
var never = time.Date(9999, 12, 31, 0, 0, 0, 0, time.UTC)

// KeepLot returns the lot of a variant with a number and expiry (zero for none),
// made if it is new.
func KeepLot(tx db.Tx, held stock.Holding, variant uint64, number string, expiry time.Time) (serial.Lot, error) {
	known := func(l serial.Lot, err error) (serial.Lot, error) {
		held.Lots[l.ID] = l // what is held knows it from now on: it may have expired
		return l, err
	}
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
		return known(row.core(), err)
	}
	err := db.SQL(tx.Q).Create(&row).Error
	if db.Duplicate(err) {
		err = find()
	}
	return known(row.core(), err)
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

// LotNamed finds a lot of a variant by its number, and by its expiry where that is said.
func LotNamed(q db.Q, variant uint64, number string, expiry *time.Time) (uint64, error) {
	var rows []lot
	query := db.SQL(q).Table("lot").Where("variant_id = ? AND number = ?", variant, number)
	if expiry != nil {
		query = query.Where("expiry = ?", db.Day(*expiry))
	}
	if err := query.Order("expiry").Limit(2).Find(&rows).Error; err != nil {
		return 0, err
	}
	if len(rows) != 1 {
		return 0, fault.Refuse("code", number, "one lot that the book has", "The book has %d lots %s of it with that expiry.",
			len(rows), number)
	}
	return rows[0].ID, nil
}
