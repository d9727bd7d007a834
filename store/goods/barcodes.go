package goods

import (
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
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

// Owner finds who has a barcode: 0 for nobody.
func Owner(q db.Q, code string) (variant uint64, name string, err error) {
	var row struct {
		ID          uint64
		Name, Label string
	}
	err = db.SQL(q).
		Raw(`SELECT v.id, p.name, v.label FROM barcode b JOIN variant v ON v.id = b.variant_id JOIN product p ON
			p.id = v.product_id
		WHERE b.code_key = ?`, barcode.Key(code)).
		Scan(&row).
		Error
	return row.ID, catalog.FullName(row.Name, row.Label), err
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

// TakenSKUs returns which of some SKUs are in use, and by which variant.
func TakenSKUs(q db.Q, skus []string) (map[string]uint64, error) {
	taken := map[string]uint64{}
	for start := 0; start < len(skus); start += 2000 {
		var rows []struct {
			SKU string `gorm:"column:sku"`
			ID  uint64
		}
		if err := db.SQL(q).Raw("SELECT sku, id FROM variant WHERE sku IN ?", skus[start:min(start+2000, len(skus))]).Scan(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			taken[strings.ToUpper(r.SKU)] = r.ID
		}
	}
	return taken, nil
}

// TakenBarcodes returns which of some barcode keys are in use, and by which variant.
func TakenBarcodes(q db.Q, keys []string) (map[string]uint64, error) {
	taken := map[string]uint64{}
	for start := 0; start < len(keys); start += 2000 {
		var rows []Barcode
		if err := db.SQL(q).Raw("SELECT code_key, variant_id FROM barcode WHERE code_key IN ?", keys[start:min(start+2000, len(keys))]).Scan(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			taken[r.CodeKey] = r.VariantID
		}
	}
	return taken, nil
}

// AddBarcode gives a variant, or a pack of it, a barcode. One that exists names
// its owner.
func AddBarcode(tx db.Tx, variant uint64, pack *uint64, code string) error {
	err := db.SQL(tx.Q).Create(&Barcode{VariantID: variant, PackID: pack, Code: code, CodeKey: barcode.Key(code)}).Error
	if db.Duplicate(err) {
		_, owner, err := Owner(tx.Q, code)
		if err != nil {
			return err
		}
		return fault.Clash("barcode", code, "a barcode that is free", "The barcode %s belongs to %s.", code, owner)
	}
	return err
}

// DropBarcode takes a barcode off a variant.
func DropBarcode(tx db.Tx, variant uint64, code string) error {
	return db.SQL(tx.Q).
		Exec("DELETE FROM barcode WHERE variant_id = ? AND code_key = ?", variant, barcode.Key(code)).
		Error
}

// MoveBarcodes gives the barcodes of one variant to another, whose own go.
func MoveBarcodes(tx db.Tx, from, to uint64) error {
	if err := db.SQL(tx.Q).Exec("DELETE FROM barcode WHERE variant_id = ?", to).Error; err != nil {
		return err
	}
	return db.SQL(tx.Q).Exec("UPDATE barcode SET variant_id = ?, pack_id = NULL WHERE variant_id = ?", to, from).Error
}

// CodeKey is the form in which codes of lists are compared.
func CodeKey(code string) string { return barcode.Key(code) }

// CodeOwner is whose a code is; Factor is that of a pack, else 0.
type CodeOwner struct {
	Variant uint64          `json:"variant"`
	Factor  decimal.Decimal `json:"factor"`
}

// ByCodes finds whose barcodes or SKUs some codes are, by their keys.
func ByCodes(q db.Q, codes []string) (map[string]CodeOwner, error) {
	found := map[string]CodeOwner{}
	if len(codes) == 0 {
		return found, nil
	}
	keys := make([]string, len(codes))
	for i, c := range codes {
		keys[i] = CodeKey(c)
	}
	var rows []struct {
		Code    string
		Variant uint64
		Factor  decimal.Decimal
	}
	err := db.SQL(q).
		Raw(`SELECT b.code_key AS code, b.variant_id AS variant, COALESCE(p.factor, 0) AS factor FROM barcode b
			LEFT JOIN pack p ON p.id = b.pack_id WHERE b.code_key IN ?
		UNION ALL SELECT v.sku, v.id, 0 FROM variant v WHERE v.sku IN ?`, keys, codes).
		Scan(&rows).
		Error
	for i := len(rows) - 1; i >= 0; i-- { // a barcode goes before a SKU
		found[CodeKey(rows[i].Code)] = CodeOwner{rows[i].Variant, rows[i].Factor}
	}
	return found, err
}

// AddBarcodes writes barcodes, and fills in the number.
func AddBarcodes(tx db.Tx, row *[]Barcode) error { return db.Insert(tx, row) }

// AddBarcodeRange writes a range of own numbers, and fills in the number.
func AddBarcodeRange(tx db.Tx, row *BarcodeRange) error { return db.Insert(tx, row) }
