package goods

import (
	"itemrack/core/fault"
	"itemrack/store/internal/db"
)

// BarcodeRanges lists the shop's ranges of own numbers.
func BarcodeRanges(q db.Q) ([]BarcodeRange, error) {
	var rows []BarcodeRange
	return rows, db.SQL(q).Raw("SELECT * FROM barcode_range ORDER BY id").Scan(&rows).Error
}

// TakeNumbers takes up to count numbers of the first open range that has some
// left, and returns the range and its first number. It stays locked until the
// transaction ends.
func TakeNumbers(tx db.Tx, count uint64) (BarcodeRange, uint64, uint64, error) {
	var r BarcodeRange
	if err := db.SQL(tx.Q).Raw("SELECT * FROM barcode_range WHERE open AND next <= last ORDER BY id LIMIT 1 FOR " +
		"UPDATE").Scan(&r).Error; err != nil {
		return r, 0, 0, err
	}
	if r.ID == 0 {
		return r, 0, 0, fault.Refuse("barcode", "", "another range of own numbers",
			"All the shop's own numbers are given out. Open another range in the settings.")
	}
	count = min(count, r.Last-r.Next+1)
	return r, r.Next, count, db.SQL(tx.Q).
		Exec("UPDATE barcode_range SET next = next + ? WHERE id = ?", count, r.ID).
		Error
}

// SwitchRange opens or closes a range of own numbers.
func SwitchRange(tx db.Tx, id uint64, open bool) error {
	return db.SQL(tx.Q).Exec("UPDATE barcode_range SET open = ? WHERE id = ?", open, id).Error
}

// VariantBarcode is a barcode of a variant, or of a pack of it.
type VariantBarcode struct {
	VariantID uint64 `json:"variant_id"`
	Code      string `json:"code"`
	PackID    uint64 `json:"pack_id,omitempty"`
	Pack      string `json:"pack,omitempty"`
}

// Barcodes lists the barcodes of some variants, in the order they were given.
func Barcodes(q db.Q, variants []uint64) ([]VariantBarcode, error) {
	var list []VariantBarcode
	return list, db.SQL(q).
		Raw(`SELECT b.variant_id, b.code, COALESCE(b.pack_id, 0) AS pack_id, COALESCE(p.name, '') AS pack FROM
			barcode b LEFT JOIN pack p ON p.id = b.pack_id
		WHERE b.variant_id IN ? ORDER BY b.variant_id, b.id`, variants).
		Scan(&list).
		Error
}

// AddBarcodeRange writes a range of own numbers, and fills in the number.
func AddBarcodeRange(tx db.Tx, row *BarcodeRange) error { return db.Insert(tx, row) }
