package goods

import (
	"strings"

	"itemrack/core/search"
	"itemrack/store/internal/db"
)

// Meant guesses the words that a person meant by those that find nothing; empty
// when there is nothing near.
func Meant(q db.Q, text string) (string, error) {
	var meant []string
	changed := false
	for _, w := range search.Words(text) {
		spread := search.Forgiven(len(w))
		if spread > 0 {
			var known []string
			if err := db.SQL(q).Raw("SELECT word FROM search_word WHERE length BETWEEN ? AND ? OR word LIKE ?",
				len(w)-spread, len(w)+spread, w+"%").Scan(&known).Error; err != nil {
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
func Reindex(tx db.Tx, products []uint64) error {
	const batch = 200
	for start := 0; start < len(products); start += batch {
		if err := reindex(tx, products[start:min(start+batch, len(products))]); err != nil {
			return err
		}
	}
	return nil
}

func reindex(tx db.Tx, ids []uint64) error {
	texts := map[uint64][]string{}
	for _, statement := range []string{
		"SELECT p.id, CONCAT_WS(' ', p.name, p.short_name, p.style, p.brand, REPLACE(c.path, '>', ' ')) AS text " +
			"FROM product p JOIN category c ON c.id = p.category_id WHERE p.id IN ?",
		"SELECT x.product_id AS id, CONCAT_WS(' ', s.name, x.part_number) AS text FROM product_supplier x JOIN " +
			"supplier s ON s.id = x.supplier_id WHERE x.product_id IN ?",
		"SELECT product_id AS id, value AS text FROM product_attribute WHERE product_id IN ?",
		"SELECT a.product_id AS id, v.name AS text FROM axis a JOIN axis_value x ON x.axis_id = a.id JOIN set_value " +
			"v ON v.id = x.value_id WHERE a.product_id IN ?",
		"SELECT product_id AS id, sku AS text FROM variant WHERE product_id IN ?",
		"SELECT v.product_id AS id, b.code AS text FROM variant v JOIN barcode b ON b.variant_id = v.id WHERE " +
			"v.product_id IN ?",
	} {
		var rows []struct {
			ID   uint64
			Text string
		}
		if err := db.SQL(tx.Q).Raw(statement, ids).Scan(&rows).Error; err != nil {
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
	if err := db.SQL(tx.Q).Exec("UPDATE product SET words = CASE id"+strings.Repeat(" WHEN ? THEN ?",
		len(found))+" END WHERE id IN ?", append(args, found)...).Error; err != nil {
		return err
	}
	if len(fresh) == 0 {
		return nil
	}
	return db.SQL(tx.Q).
		Exec(db.Values("INSERT IGNORE INTO search_word (word, length) VALUES ", len(fresh)/2, "(?, ?)"), fresh...).
		Error
}
