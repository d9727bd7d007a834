package store

import (
	"strings"

	"itemrack/core/barcode"
	"itemrack/core/serial"
)

// Found is what a scan or a search came to. Kind is "variant", "document" or
// "product".
type Found struct {
	Kind    string `json:"kind"`
	ID      uint64 `json:"id"`
	Product uint64 `json:"product_id,omitempty"`
	Name    string `json:"name"`
	Detail  string `json:"detail,omitempty"`
	Code    string `json:"code,omitempty"`
	Serial  string `json:"serial,omitempty"`
}

// Find looks a text up: first as a barcode, SKU, serial number or document
// number, which must match whole; only then as words of a product's name.
func (q Q) Find(text string, most int) ([]Found, error) {
	text = strings.TrimSpace(text)
	if text == "" || len(text) > 120 {
		return []Found{}, nil
	}
	for _, exact := range []struct {
		sql string
		arg string
	}{
		{"JOIN barcode b ON b.variant_id = v.id WHERE b.code_key = ?", barcode.Key(text)},
		{"WHERE v.sku = ?", text},
		{"JOIN unit u ON u.variant_id = v.id WHERE u.number = ?", serial.Normal(text)},
	} {
		serialColumn := "''"
		if strings.Contains(exact.sql, "unit u") {
			serialColumn = "u.number"
		}
		var rows []Found
		err := q.db.Raw("SELECT 'variant' AS kind, v.id, v.product_id AS product, p.name, v.label AS detail, v.sku AS code, "+serialColumn+
			" AS serial FROM variant v JOIN product p ON p.id = v.product_id "+exact.sql+" LIMIT ?", exact.arg, most).Scan(&rows).Error
		if err != nil || len(rows) > 0 {
			return rows, err
		}
	}
	var rows []Found
	err := q.db.Raw("SELECT 'document' AS kind, id, kind AS name, number AS code FROM document WHERE number = ?", text).Scan(&rows).Error
	if err != nil || len(rows) > 0 {
		return rows, err
	}
	rows = []Found{}
	db := words(q.db.Table("product p"), text)
	err = db.Select("'product' AS kind, p.id, p.name, p.style AS code").Order("p.name").Limit(most).Scan(&rows).Error
	return rows, err
}
