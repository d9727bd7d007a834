package goods

import (
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/store/internal/db"
)

// Barcodes and SKUs are one name space, that of scan_key: whatever a scan finds is of one
// variant. A variant may have its own SKU as a barcode.

// scanKey is a code with what it is of; BarcodeID is nil for a SKU.
type scanKey struct {
	K         string
	VariantID uint64
	BarcodeID *uint64
}

// Taken returns which of some codes, by their keys, are in use, and by which variant.
func Taken(q db.Q, keys []string) (map[string]uint64, error) {
	taken := map[string]uint64{}
	for part := range slices.Chunk(keys, 2000) {
		var rows []scanKey
		if err := db.SQL(q).Raw("SELECT k, variant_id FROM scan_key WHERE k IN ?", part).Scan(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			taken[r.K] = r.VariantID
		}
	}
	return taken, nil
}

// TakenSKUs returns the keys that SKUs can't have: those of codes in use, and where one of
// them is or stands double those that a number at its end makes of it.
func TakenSKUs(q db.Q, skus []string) (map[string]bool, error) {
	keys, times := make([]string, len(skus)), map[string]int{}
	for i, sku := range skus {
		keys[i] = barcode.Key(sku)
		times[sku]++
	}
	owned, err := Taken(q, keys)
	if err != nil {
		return nil, err
	}
	taken := make(map[string]bool, len(owned))
	for k := range owned {
		taken[k] = true
	}
	var likes []string
	for sku, n := range times {
		if n > 1 || taken[barcode.Key(sku)] {
			likes = append(likes, db.Like(catalog.Numbered(sku))+"%")
		}
	}
	for part := range slices.Chunk(likes, 500) {
		var more []string
		where := "SELECT k FROM scan_key WHERE k LIKE ?" + strings.Repeat(" OR k LIKE ?", len(part)-1)
		args := make([]any, len(part))
		for i, l := range part {
			args[i] = l
		}
		if err := db.SQL(q).Raw(where, args...).Scan(&more).Error; err != nil {
			return nil, err
		}
		for _, k := range more {
			taken[k] = true
		}
	}
	return taken, nil
}

// Owner finds whose a barcode or SKU is: 0 for nobody.
func Owner(q db.Q, code string) (variant uint64, name string, err error) {
	var row struct {
		ID          uint64
		Name, Label string
	}
	err = db.SQL(q).
		Raw("SELECT v.id, p.name, v.label FROM scan_key s JOIN variant v ON v.id = s.variant_id JOIN product p ON "+
			"p.id = v.product_id WHERE s.k = ?", barcode.Key(code)).
		Scan(&row).
		Error
	return row.ID, catalog.FullName(row.Name, row.Label), err
}

// claim takes codes for their variants. One that another has names its owner; own is the
// name of the field that the codes stand in. What a variant has already it keeps.
func claim(tx db.Tx, field string, list []scanKey) error {
	keys := make([]string, len(list))
	for i, c := range list {
		keys[i] = c.K
	}
	taken, err := Taken(tx.Q, keys)
	if err != nil {
		return err
	}
	var fresh []scanKey
	for _, c := range list {
		switch taken[c.K] {
		case 0:
			taken[c.K] = c.VariantID
			fresh = append(fresh, c)
		case c.VariantID:
		default:
			return clash(tx, field, c.K)
		}
	}
	for part := range slices.Chunk(fresh, 1000) {
		args := make([]any, 0, 3*len(part))
		for _, c := range part {
			args = append(args, c.K, c.VariantID, c.BarcodeID)
		}
		if err := db.SQL(tx.Q).Exec(db.Values("INSERT INTO scan_key (k, variant_id, barcode_id) VALUES ", len(part),
			"(?, ?, ?)"), args...).Error; err != nil {
			return err
		}
	}
	return nil
}

// clash says whose a code is.
func clash(tx db.Tx, field, code string) error {
	owner, name, err := Owner(tx.Q, code)
	if err != nil {
		return err
	}
	var sku string
	if err := db.SQL(tx.Q).Raw("SELECT sku FROM variant WHERE id = ?", owner).Scan(&sku).Error; err != nil {
		return err
	}
	says, as := "The barcode %s belongs to %s.", "a barcode that is free"
	if field == "sku" {
		says, as = "The SKU %s is in use; it belongs to %s.", "a SKU that is free"
	}
	if field != "sku" && barcode.Key(sku) == code {
		says = "%s is the SKU of %s; scanning it must find that."
	}
	return fault.Clash(field, code, as, says, code, name)
}

// claimBarcodes takes the codes of barcodes.
func claimBarcodes(tx db.Tx, rows []Barcode) error {
	list := make([]scanKey, len(rows))
	for i, r := range rows {
		list[i] = scanKey{r.CodeKey, r.VariantID, &r.ID}
	}
	return claim(tx, "barcode", list)
}

// AddBarcode gives a variant, or a pack of it, a barcode. One that exists names
// its owner.
func AddBarcode(tx db.Tx, variant uint64, pack *uint64, code string) error {
	rows := []Barcode{{VariantID: variant, PackID: pack, Code: code, CodeKey: barcode.Key(code)}}
	if err := free(tx, rows); err != nil {
		return err
	}
	return AddBarcodes(tx, &rows)
}

// free refuses barcodes that exist; one that is only its own variant's SKU is free, but
// not for a pack: a scan of it would mean two things.
func free(tx db.Tx, rows []Barcode) error {
	keys := make([]string, len(rows))
	for i, r := range rows {
		keys[i] = r.CodeKey
	}
	for part := range slices.Chunk(keys, 2000) {
		var have []string
		if err := db.SQL(tx.Q).Raw("SELECT code_key FROM barcode WHERE code_key IN ?",
			part).Scan(&have).Error; err != nil {
			return err
		}
		if len(have) > 0 {
			return clash(tx, "barcode", have[0])
		}
	}
	taken, err := Taken(tx.Q, keys)
	if err != nil {
		return err
	}
	for _, r := range rows {
		if owner := taken[r.CodeKey]; owner != 0 && (owner != r.VariantID || r.PackID != nil) {
			return clash(tx, "barcode", r.CodeKey)
		}
	}
	return nil
}

// AddBarcodes writes barcodes, and fills in the numbers. Those that exist name their
// owners.
func AddBarcodes(tx db.Tx, rows *[]Barcode) error {
	if err := free(tx, *rows); err != nil {
		return err
	}
	if err := db.Insert(tx, rows); err != nil {
		return err
	}
	return claimBarcodes(tx, *rows)
}

// DropBarcode takes a barcode off a variant.
func DropBarcode(tx db.Tx, variant uint64, code string) error {
	return db.SQL(tx.Q).
		Exec("DELETE FROM barcode WHERE variant_id = ? AND code_key = ?", variant, barcode.Key(code)).
		Error
}

// MoveBarcodes gives the barcodes of one variant to another, whose own go.
func MoveBarcodes(tx db.Tx, from, to uint64) error {
	for _, statement := range []string{
		"DELETE FROM barcode WHERE variant_id = @to",
		"UPDATE scan_key SET variant_id = @to WHERE variant_id = @from AND barcode_id IS NOT NULL",
		"UPDATE barcode SET variant_id = @to, pack_id = NULL WHERE variant_id = @from",
	} {
		if err := db.SQL(tx.Q).Exec(statement, map[string]any{"from": from, "to": to}).Error; err != nil {
			return err
		}
	}
	return nil
}

// claimSKUs takes the SKUs of variants.
func claimSKUs(tx db.Tx, rows []Variant) error {
	list := make([]scanKey, len(rows))
	for i, v := range rows {
		list[i] = scanKey{K: barcode.Key(v.SKU), VariantID: v.ID}
	}
	return claim(tx, "sku", list)
}

// SetSKU gives a variant another SKU. The one it had may be a barcode of it that is still
// to be found.
func SetSKU(tx db.Tx, variant uint64, sku string) error {
	taken, err := Taken(tx.Q, []string{barcode.Key(sku)})
	if err != nil {
		return err
	}
	if owner := taken[barcode.Key(sku)]; owner != 0 && owner != variant {
		return clash(tx, "sku", barcode.Key(sku))
	}
	if err := db.SQL(tx.Q).Exec("UPDATE variant SET sku = ? WHERE id = ?", sku, variant).Error; err != nil {
		return err
	}
	if err := db.SQL(tx.Q).Exec("DELETE FROM scan_key WHERE variant_id = ? AND barcode_id IS NULL",
		variant).Error; err != nil {
		return err
	}
	var rows []Barcode
	if err := db.SQL(tx.Q).Raw("SELECT * FROM barcode WHERE variant_id = ?", variant).Scan(&rows).Error; err != nil {
		return err
	}
	if err := claimBarcodes(tx, rows); err != nil {
		return err
	}
	return claimSKUs(tx, []Variant{{ID: variant, SKU: sku}})
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
	keys := make([]string, len(codes))
	for i, c := range codes {
		keys[i] = CodeKey(c)
	}
	for part := range slices.Chunk(keys, 2000) {
		var rows []struct {
			K         string
			VariantID uint64
			Factor    decimal.Decimal
		}
		err := db.SQL(q).
			Raw("SELECT s.k, s.variant_id, COALESCE(p.factor, 0) AS factor FROM scan_key s LEFT JOIN barcode b ON "+
				"b.id = s.barcode_id LEFT JOIN pack p ON p.id = b.pack_id WHERE s.k IN ?", part).
			Scan(&rows).
			Error
		if err != nil {
			return nil, err
		}
		for _, r := range rows {
			found[r.K] = CodeOwner{r.VariantID, r.Factor}
		}
	}
	return found, nil
}

// Name is how goods are called, and their SKU.
type Name struct {
	Name string
	SKU  string
}

// Named is how some variants are called.
func Named(q db.Q, variants []uint64) (map[uint64]Name, error) {
	var rows []struct {
		ID               uint64
		Name, Label, SKU string
	}
	err := db.SQL(q).
		Raw("SELECT v.id, p.name, v.label, v.sku FROM variant v JOIN product p ON p.id = v.product_id WHERE v.id IN ?",
			append(variants, 0)).
		Scan(&rows).
		Error
	named := make(map[uint64]Name, len(rows))
	for _, r := range rows {
		named[r.ID] = Name{catalog.FullName(r.Name, r.Label), r.SKU}
	}
	return named, err
}

// VariantsOf lists the variants of some products, those retired left out, product by product in the order given.
func VariantsOf(q db.Q, products []uint64) ([]uint64, error) {
	var list []uint64
	if len(products) == 0 {
		return list, nil
	}
	return list, db.SQL(q).Raw("SELECT id FROM variant WHERE product_id IN (" + db.IDs(products) + ") AND NOT retired " +
		"ORDER BY FIELD(product_id, " + db.IDs(products) + "), id").Scan(&list).Error
}
