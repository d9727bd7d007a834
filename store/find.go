package store

import (
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/money"
	"itemrack/core/search"
	"itemrack/core/serial"
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
func (q Q) Find(text string, most int) ([]Found, error) {
	text = strings.TrimSpace(text)
	if text == "" || len(text) > 120 {
		return []Found{}, nil
	}
	rows, err := q.byCode(text, most)
	if err != nil || len(rows) > 0 {
		return rows, err
	}
	if barcode.IsElements(text) {
		if e, err := barcode.ParseElements(text); err == nil && e.GTIN != "" {
			rows, err := q.byCode(e.GTIN, most)
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
	if rows, err := q.weighed(text, most); err != nil || len(rows) > 0 {
		return rows, err
	}
	err = q.db.Raw("SELECT 'document' AS kind, id, kind AS name, number AS code FROM document WHERE number = ?", text).Scan(&rows).Error
	if err != nil || len(rows) > 0 {
		return rows, err
	}
	if rows, err = q.byWords(text, most); err != nil || len(rows) > 0 {
		return rows, err
	}
	meant, err := q.Meant(text)
	if err != nil || meant == "" {
		return []Found{}, err
	}
	rows, err = q.byWords(meant, most)
	for i := range rows {
		rows[i].Meant = meant
	}
	return rows, err
}

func (q Q) byCode(text string, most int) ([]Found, error) {
	rows := []Found{}
	for _, exact := range []struct{ more, sql, arg string }{
		{"'' AS serial, b.pack_id AS pack, k.factor", "JOIN barcode b ON b.variant_id = v.id LEFT JOIN pack k ON k.id = b.pack_id WHERE b.code_key = ?", barcode.Key(text)},
		{"'' AS serial", "WHERE v.sku = ?", text},
		{"u.number AS serial", "JOIN unit u ON u.variant_id = v.id WHERE u.number = ?", serial.Normal(text)},
	} {
		err := q.db.Raw("SELECT 'variant' AS kind, v.id, v.product_id AS product, p.name, v.label AS detail, v.sku AS code, "+exact.more+
			" FROM variant v JOIN product p ON p.id = v.product_id "+exact.sql+" LIMIT ?", exact.arg, most).Scan(&rows).Error
		if err != nil || len(rows) > 0 {
			return rows, err
		}
	}
	return rows, nil
}

// weighed looks a number of the shop's scales up, which holds a weight or a price.
func (q Q) weighed(text string, most int) ([]Found, error) {
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
		prefix, err := q.Setting(kind.setting)
		if err != nil {
			return nil, err
		}
		item, amount, ok := barcode.Embedded{Prefix: prefix, Decimals: kind.decimals}.Split(text)
		if !ok {
			continue
		}
		rows, err := q.byCode(item, most)
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

func (q Q) byWords(text string, most int) ([]Found, error) {
	rows := []Found{}
	db := words(q.db.Table("product p"), text)
	return rows, db.Select("'product' AS kind, p.id, p.name, p.style AS code").Order("p.name").Limit(most).Scan(&rows).Error
}

// Meant guesses the words that a person meant by those that find nothing; empty
// when there is nothing near.
func (q Q) Meant(text string) (string, error) {
	var meant []string
	changed := false
	for _, w := range search.Words(text) {
		spread := search.Forgiven(len(w))
		if spread > 0 {
			var known []string
			if err := q.db.Raw("SELECT word FROM search_word WHERE length BETWEEN ? AND ? OR word LIKE ?", len(w)-spread, len(w)+spread, w+"%").Scan(&known).Error; err != nil {
				return "", err
			}
			if near := search.Near(w, known, 1); len(near) > 0 {
				w, changed = near[0], true
			}
		}
		meant = append(meant, w)
	}
	if !changed {
		return "", nil
	}
	return strings.Join(meant, " "), nil
}

// Reindex writes the words that some products are found by: names, brand,
// category, suppliers and their part numbers, attributes, axis values, SKUs and
// barcodes.
func (tx Tx) Reindex(products []uint64) error {
	const batch = 200
	for start := 0; start < len(products); start += batch {
		if err := tx.reindex(products[start:min(start+batch, len(products))]); err != nil {
			return err
		}
	}
	return nil
}

func (tx Tx) reindex(ids []uint64) error {
	texts := map[uint64][]string{}
	for _, statement := range []string{
		"SELECT p.id, CONCAT_WS(' ', p.name, p.short_name, p.style, p.brand, REPLACE(c.path, '>', ' ')) AS text FROM product p JOIN category c ON c.id = p.category_id WHERE p.id IN ?",
		"SELECT x.product_id AS id, CONCAT_WS(' ', s.name, x.part_number) AS text FROM product_supplier x JOIN supplier s ON s.id = x.supplier_id WHERE x.product_id IN ?",
		"SELECT product_id AS id, value AS text FROM product_attribute WHERE product_id IN ?",
		"SELECT a.product_id AS id, v.name AS text FROM axis a JOIN axis_value x ON x.axis_id = a.id JOIN set_value v ON v.id = x.value_id WHERE a.product_id IN ?",
		"SELECT product_id AS id, sku AS text FROM variant WHERE product_id IN ?",
		"SELECT v.product_id AS id, b.code AS text FROM variant v JOIN barcode b ON b.variant_id = v.id WHERE v.product_id IN ?",
	} {
		var rows []struct {
			ID   uint64
			Text string
		}
		if err := tx.db.Raw(statement, ids).Scan(&rows).Error; err != nil {
			return err
		}
		for _, r := range rows {
			texts[r.ID] = append(texts[r.ID], r.Text)
		}
	}
	args := make([]any, 0, 2*len(texts))
	var found []any
	known := map[string]bool{}
	var fresh []any
	for id, list := range texts {
		args, found = append(args, id, search.Index(list...)), append(found, id)
		for _, w := range search.Words(strings.Join(list, " ")) {
			if len(w) > 3 && !known[w] && !strings.ContainsAny(w, "0123456789") {
				known[w] = true
				fresh = append(fresh, w, len(w))
			}
		}
	}
	if len(found) == 0 {
		return nil
	}
	if err := tx.db.Exec("UPDATE product SET words = CASE id"+strings.Repeat(" WHEN ? THEN ?", len(found))+" END WHERE id IN ?", append(args, found)...).Error; err != nil {
		return err
	}
	if len(fresh) == 0 {
		return nil
	}
	return tx.db.Exec(rows("INSERT IGNORE INTO search_word (word, length) VALUES ", len(fresh)/2, "(?, ?)"), fresh...).Error
}

// bundleOf is how many of a bundle its parts allow, and what one costs.
func bundleOf(parts []PartView) (available, cost decimal.Decimal) {
	list := make([]catalog.Part, len(parts))
	for i, p := range parts {
		list[i] = p.Part
	}
	return catalog.Available(list), catalog.BundleCost(list)
}
