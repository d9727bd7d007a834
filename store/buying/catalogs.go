package buying

import (
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/barcode"
	corebuying "itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// CatalogItem is a line of a supplier's catalog as it is kept; see corebuying.CatalogItem for its
// figures. VariantID is the goods of ours that it is, nil while we have none.
type CatalogItem struct {
	ID         uint64           `json:"id"`
	SupplierID uint64           `json:"supplier_id"`
	PartNumber string           `json:"part_number"`
	ItemKey    string           `json:"-"`
	GTIN       string           `gorm:"column:gtin" json:"gtin"`
	GTINKey    string           `gorm:"column:gtin_key" json:"-"`
	Name       string           `json:"name"`
	Brand      string           `json:"brand"`
	Cost       *decimal.Decimal `json:"cost" see:"costs"`
	Pack       string           `json:"pack"`
	Factor     decimal.Decimal  `json:"factor"`
	Suggested  *decimal.Decimal `json:"suggested"`
	FromOn     *time.Time       `json:"from_on"`
	ReadAt     time.Time        `json:"read_at"`
	VariantID  *uint64          `json:"variant_id"`
}

// Item is what the line says.
func (r CatalogItem) Item() corebuying.CatalogItem {
	return corebuying.CatalogItem{Part: r.PartNumber, GTIN: r.GTIN, Name: r.Name, Brand: r.Brand, Cost: r.Cost,
		Pack: r.Pack, Factor: r.Factor,
		Suggested: r.Suggested, From: r.FromOn}
}

// CatalogItemOf is a line of a supplier's catalog that is to be kept.
func CatalogItemOf(supplier uint64, i corebuying.CatalogItem, read time.Time, variant uint64) CatalogItem {
	r := CatalogItem{SupplierID: supplier, PartNumber: i.Part, ItemKey: i.Key(), GTIN: i.GTIN, Name: i.Name,
		Brand: i.Brand, Cost: i.Cost, Pack: i.Pack,
		Factor: i.Factor, Suggested: i.Suggested, FromOn: i.From, ReadAt: read}
	r.GTINKey = gtinKey(i.GTIN)
	if variant != 0 {
		r.VariantID = &variant
	}
	return r
}

// gtinKey is a GTIN as it is compared; empty for what is none.
func gtinKey(code string) string {
	if key := barcode.Key(code); barcode.Digits(key) {
		return key
	}
	return ""
}

// CatalogItemView is a line of a supplier's catalog with the names of what it refers to.
type CatalogItemView struct {
	CatalogItem
	Supplier  string `json:"supplier"`
	ProductID uint64 `json:"product_id"` // of the goods of ours that it is; 0 for none
	SKU       string `gorm:"column:sku" json:"sku"`
}

const catalogSelect = `SELECT c.*, s.name AS supplier, COALESCE(v.product_id, 0) AS product_id, COALESCE(v.sku, '')
	AS sku FROM catalog_item c
	JOIN supplier s ON s.id = c.supplier_id LEFT JOIN variant v ON v.id = c.variant_id `

// CatalogOf lists the catalog of a supplier by name; words narrow it, and a GTIN or part number
// finds its line.
func CatalogOf(q db.Q, supplier uint64, words string, page int) ([]CatalogItemView, bool, error) {
	where, args := "WHERE c.supplier_id = ? ", []any{supplier}
	for _, w := range strings.Fields(text.Tidy(words)) {
		like := "%" + db.Like(w) + "%"
		where += "AND (c.name LIKE ? OR c.brand LIKE ? OR c.part_number LIKE ? OR c.gtin_key = ?) "
		args = append(args, like, like, like, gtinKey(w))
	}
	var rows []CatalogItemView
	err := db.SQL(q).
		Raw(catalogSelect+where+"ORDER BY c.name, c.id LIMIT ? OFFSET ?",
			append(args, q.PageRows()+1, (page-1)*q.PageRows())...).
		Scan(&rows).
		Error
	return rows[:min(len(rows), q.PageRows())], len(rows) > q.PageRows(), err
}

// CatalogCount is how many lines the catalog of a supplier has.
func CatalogCount(q db.Q, supplier uint64) (int64, error) {
	var n int64
	return n, db.SQL(q).Raw("SELECT COUNT(*) FROM catalog_item WHERE supplier_id = ?", supplier).Scan(&n).Error
}

// CatalogByGTIN finds what suppliers offer under a GTIN, the one that was read last first.
func CatalogByGTIN(q db.Q, code string) ([]CatalogItemView, error) {
	var rows []CatalogItemView
	key := gtinKey(code)
	if key == "" {
		return rows, nil
	}
	return rows, db.SQL(q).
		Raw(catalogSelect+"WHERE c.gtin_key = ? AND s.closed_at IS NULL ORDER BY c.read_at DESC, c.id LIMIT 10", key).
		Scan(&rows).
		Error
}

// LockCatalogItem reads a line of a catalog, locked until the transaction ends.
func LockCatalogItem(tx db.Tx, id uint64) (CatalogItemView, error) {
	var row CatalogItemView
	err := db.SQL(tx.Q).Raw(catalogSelect+"WHERE c.id = ? FOR UPDATE", id).Scan(&row).Error
	if err == nil && row.ID == 0 {
		err = fault.Missing("item_id", id, "There is no line %d of a catalog.", id)
	}
	return row, err
}

// CatalogByKeys reads lines of a supplier's catalog by what makes them the same.
func CatalogByKeys(q db.Q, supplier uint64, keys []string) (map[string]CatalogItem, error) {
	var rows []CatalogItem
	err := db.SQL(q).Raw("SELECT * FROM catalog_item WHERE supplier_id = ? AND item_key IN ?", supplier,
		append(keys, "")).Scan(&rows).Error
	found := make(map[string]CatalogItem, len(rows))
	for _, r := range rows {
		found[r.ItemKey] = r
	}
	return found, err
}

// KeepCatalog writes lines of catalogs, in place of those of the same key.
func KeepCatalog(tx db.Tx, rows []CatalogItem) error {
	for part := range slices.Chunk(rows, 500) {
		var args []any
		for _, r := range part {
			args = append(args, r.SupplierID, r.PartNumber, r.ItemKey, r.GTIN, r.GTINKey, r.Name, r.Brand, r.Cost,
				r.Pack, r.Factor, r.Suggested,
				r.FromOn, r.ReadAt, r.VariantID)
		}
		err := db.SQL(tx.Q).
			Exec(db.Values(`INSERT INTO catalog_item (supplier_id, part_number, item_key, gtin, gtin_key, name,
				brand, cost, pack, factor, suggested,
				from_on, read_at, variant_id) VALUES `, len(part), "(?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)")+
				` ON DUPLICATE KEY UPDATE part_number = VALUES(part_number), gtin = VALUES(gtin), gtin_key =
					VALUES(gtin_key), name = VALUES(name),
				brand = VALUES(brand), cost = VALUES(cost), pack = VALUES(pack), factor = VALUES(factor), suggested =
				VALUES(suggested),
				from_on = VALUES(from_on), read_at = VALUES(read_at), variant_id = COALESCE(VALUES(variant_id),
				variant_id)`, args...).
			Error
		if err != nil {
			return err
		}
	}
	return nil
}

// DropCatalogBefore drops the lines of a supplier's catalog that were not read since a moment.
func DropCatalogBefore(tx db.Tx, supplier uint64, moment time.Time) error {
	return db.SQL(tx.Q).Exec("DELETE FROM catalog_item WHERE supplier_id = ? AND read_at < ?", supplier, moment).Error
}

// MeansVariant notes that what suppliers offer under a GTIN, or one line of a catalog, is goods
// of ours.
func MeansVariant(tx db.Tx, item uint64, gtin string, variant uint64) error {
	return db.SQL(tx.Q).
		Exec("UPDATE catalog_item SET variant_id = ? WHERE id = ? OR gtin_key = ? AND gtin_key > ''", variant, item,
			gtinKey(gtin)).
		Error
}

// CatalogFor reads what the catalog of a supplier says of some variants: as it was told to be
// theirs, or by their barcodes.
func CatalogFor(q db.Q, supplier uint64, variants []uint64) (map[uint64]CatalogItem, error) {
	var rows []CatalogItem
	variants = append(slices.Clone(variants), 0)
	err := db.SQL(q).
		Raw(`SELECT c.id, c.supplier_id, c.part_number, c.item_key, c.gtin, c.gtin_key, c.name, c.brand, c.cost,
			c.pack, c.factor, c.suggested,
				c.from_on, c.read_at, b.variant_id FROM barcode b JOIN catalog_item c ON c.gtin_key = b.code_key AND
				c.supplier_id = ?
				WHERE b.variant_id IN ? AND b.pack_id IS NULL
			UNION SELECT id, supplier_id, part_number, item_key, gtin, gtin_key, name, brand, cost, pack, factor,
			suggested, from_on, read_at, variant_id
				FROM catalog_item WHERE supplier_id = ? AND variant_id IN ?`, supplier, variants, supplier, variants).
		Scan(&rows).
		Error
	found := make(map[uint64]CatalogItem, len(rows))
	for _, r := range rows {
		if was, ok := found[*r.VariantID]; !ok || r.ReadAt.After(was.ReadAt) {
			found[*r.VariantID] = r
		}
	}
	return found, err
}

// UsualCategory is the category of most products of a supplier and brand, else of the supplier;
// empty where it has none.
func UsualCategory(q db.Q, supplier uint64, brand string) (string, error) {
	var path string
	return path, db.SQL(q).
		Raw(`SELECT c.path FROM product_supplier x JOIN product p ON p.id = x.product_id JOIN category c ON c.id =
			p.category_id
			WHERE x.supplier_id = ? GROUP BY c.id ORDER BY SUM(p.brand = ?) DESC, COUNT(*) DESC, c.path LIMIT 1`,
			supplier, text.Tidy(brand)).
		Scan(&path).
		Error
}
