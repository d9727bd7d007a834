package goods

import (
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/money"
	"itemrack/core/serial"
	"itemrack/store/internal/db"
	"itemrack/store/office"
)

// Found is what a scan or a search came to. Kind is "variant", "document" or
// "product". A scanned pack, lot, weight or price comes with it.
type Found struct {
	Kind     string           `json:"kind"`
	ID       uint64           `json:"id"`
	Product  uint64           `json:"product_id,omitempty"`
	Name     string           `json:"name"`
	Detail   string           `json:"detail,omitempty"`
	Code     string           `json:"code,omitempty"`
	Serial   string           `json:"serial,omitempty"`
	Lot      string           `json:"lot,omitempty"`
	Expiry   *time.Time       `json:"expiry,omitempty"`
	Pack     *uint64          `json:"pack_id,omitempty"`
	Factor   *decimal.Decimal `json:"factor,omitempty"`   // how many units the pack holds
	Quantity *decimal.Decimal `json:"quantity,omitempty"` // the weight on a scale's label
	Amount   *decimal.Decimal `json:"amount,omitempty"`   // the price on a scale's label
	Meant    string           `json:"meant,omitempty"`    // the words that were searched for instead of those typed
}

// Find looks a text up: first as a barcode, an element string, a weighed item, a
// SKU, serial number or document number, which must match whole; only then as
// words, with typing errors forgiven when nothing else is found.
func Find(q db.Q, text string, most int) ([]Found, error) {
	text = strings.TrimSpace(text)
	if text == "" || len(text) > 120 {
		return []Found{}, nil
	}
	rows, err := byCode(q, text, most)
	if err != nil || len(rows) > 0 {
		return rows, err
	}
	if barcode.IsElements(text) {
		if e, err := barcode.ParseElements(text); err == nil && e.GTIN != "" {
			rows, err := byCode(q, e.GTIN, most)
			for i := range rows {
				rows[i].Serial, rows[i].Lot = serial.Normal(e.Serial), e.Lot
				if !e.Expiry.IsZero() {
					rows[i].Expiry = &e.Expiry
				}
			}
			if err != nil || len(rows) > 0 {
				return rows, err
			}
		}
	}
	if rows, err := weighed(q, text, most); err != nil || len(rows) > 0 {
		return rows, err
	}
	err = db.SQL(q).Raw("SELECT 'document' AS kind, id, kind AS name, number AS code FROM document WHERE number = ?", text).Scan(&rows).Error
	if err != nil || len(rows) > 0 {
		return rows, err
	}
	if rows, err = byWords(q, text, most); err != nil || len(rows) > 0 {
		return rows, err
	}
	meant, err := Meant(q, text)
	if err != nil || meant == "" {
		return []Found{}, err
	}
	rows, err = byWords(q, meant, most)
	for i := range rows {
		rows[i].Meant = meant
	}
	return rows, err
}

func byCode(q db.Q, text string, most int) ([]Found, error) {
	rows := []Found{}
	for _, exact := range []struct{ more, sql, arg string }{
		{"'' AS serial, b.pack_id AS pack, k.factor", "JOIN barcode b ON b.variant_id = v.id LEFT JOIN pack k ON k.id = b.pack_id WHERE b.code_key = ?", barcode.Key(text)},
		{"'' AS serial", "WHERE v.sku = ?", text},
		{"u.number AS serial", "JOIN unit u ON u.variant_id = v.id WHERE u.number = ?", serial.Normal(text)},
	} {
		err := db.SQL(q).Raw("SELECT 'variant' AS kind, v.id, v.product_id AS product, p.name, v.label AS detail, v.sku AS code, "+exact.more+
			" FROM variant v JOIN product p ON p.id = v.product_id "+exact.sql+" LIMIT ?", exact.arg, most).Scan(&rows).Error
		if err != nil || len(rows) > 0 {
			return rows, err
		}
	}
	return rows, nil
}

// weighed looks a number of the shop's scales up, which holds a weight or a price.
func weighed(q db.Q, text string, most int) ([]Found, error) {
	if len(text) != 13 || text[0] != '2' {
		return nil, nil
	}
	for _, kind := range []struct {
		setting  string
		decimals int32
		put      func(*Found, decimal.Decimal)
	}{
		{ScalePrefix, 3, func(f *Found, weight decimal.Decimal) { f.Quantity = &weight }},
		{ScalePricePrefix, money.Places, func(f *Found, amount decimal.Decimal) { f.Amount = &amount }},
	} {
		prefix, err := office.Setting(q, kind.setting)
		if err != nil {
			return nil, err
		}
		item, amount, ok := barcode.Embedded{Prefix: prefix, Decimals: kind.decimals}.Split(text)
		if !ok {
			continue
		}
		rows, err := byCode(q, item, most)
		for i := range rows {
			kind.put(&rows[i], amount)
		}
		return rows, err
	}
	return nil, nil
}

// The settings that say how the numbers of the shop's scales begin: of those with
// a weight, and of those with a price.
const (
	ScalePrefix      = "scale_prefix"
	ScalePricePrefix = "scale_price_prefix"
)

func byWords(q db.Q, text string, most int) ([]Found, error) {
	rows := []Found{}
	table := Words(db.SQL(q).Table("product p"), text)
	return rows, table.Select("'product' AS kind, p.id, p.name, p.style AS code").Order("p.name").Limit(most).Scan(&rows).Error
}
