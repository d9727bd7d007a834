package goods

import (
	"cmp"
	"slices"

	"itemrack/core/fault"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// Packs lists the packs of some products.
func Packs(q db.Q, products []uint64) (map[uint64][]Pack, error) {
	packs := map[uint64][]Pack{}
	return packs, db.Read(q, packsPart(db.IDs(products), packs))
}

// packsPart is Packs as one of several queries; products is what stands in brackets.
func packsPart(products string, into map[uint64][]Pack) db.Part {
	return db.Part{SQL: "SELECT id, product_id, name, factor, bought FROM pack WHERE product_id IN (" + products + ")",
		Row: func(scan func(into ...any) error) error {
			var p Pack
			err := scan(&p.ID, &p.ProductID, &p.Name, &p.Factor, &p.Bought)
			list := into[p.ProductID]
			at, _ := slices.BinarySearchFunc(list, p,
				func(a, b Pack) int { return cmp.Or(a.Factor.Cmp(b.Factor), cmp.Compare(a.ID, b.ID)) })
			into[p.ProductID] = slices.Insert(list, at, p)
			return err
		}}
}

// SupplierPart is a supplier of a product with its part number.
type SupplierPart struct {
	SupplierID uint64 `json:"supplier_id"`
	Supplier   string `json:"supplier"`
	Part       string `json:"part"`
	Usual      bool   `json:"usual"`
}

// SuppliersOf lists the suppliers of some products.
func SuppliersOf(q db.Q, products []uint64) (map[uint64][]SupplierPart, error) {
	var rows []struct {
		ProductID uint64
		SupplierPart
	}
	err := db.SQL(q).
		Raw(`SELECT x.product_id, x.supplier_id, s.name AS supplier, x.part_number AS part, COALESCE(p.supplier_id
			= x.supplier_id, FALSE) AS usual FROM product_supplier x JOIN supplier s ON s.id = x.supplier_id
		JOIN product p ON p.id = x.product_id WHERE x.product_id IN ? ORDER BY x.product_id, usual DESC,
		s.name`, products).
		Scan(&rows).
		Error
	found := map[uint64][]SupplierPart{}
	for _, r := range rows {
		found[r.ProductID] = append(found[r.ProductID], r.SupplierPart)
	}
	return found, err
}

// AttributesOf lists the attributes of some products by name.
func AttributesOf(q db.Q, products []uint64) (map[uint64][]ProductAttribute, error) {
	var rows []ProductAttribute
	err := db.SQL(q).
		Raw("SELECT * FROM product_attribute WHERE product_id IN ? ORDER BY product_id, name", products).
		Scan(&rows).
		Error
	found := map[uint64][]ProductAttribute{}
	for _, r := range rows {
		found[r.ProductID] = append(found[r.ProductID], r)
	}
	return found, err
}

// AttributeNames lists the names of all attributes.
func AttributeNames(q db.Q) ([]string, error) {
	var names []string
	return names, db.SQL(q).Raw("SELECT DISTINCT name FROM product_attribute ORDER BY name").Scan(&names).Error
}

// MostPacks is the most packs that one product has.
func MostPacks(q db.Q) (int, error) {
	var most int
	return most, db.SQL(q).Raw("SELECT COALESCE(MAX(n), 0) FROM (SELECT COUNT(*) AS n FROM pack GROUP BY product_id) p").
		Scan(&most).Error
}

// SetSuppliers writes the suppliers of a product in place of those there were.
func SetSuppliers(tx db.Tx, product uint64, list []ProductSupplier) error {
	if err := db.SQL(tx.Q).Exec("DELETE FROM product_supplier WHERE product_id = ?", product).Error; err != nil ||
		len(list) == 0 {
		return err
	}
	return db.Insert(tx, &list)
}

// AddSuppliers writes suppliers of products; a part number replaces the one there was.
func AddSuppliers(tx db.Tx, list []ProductSupplier) error {
	for start := 0; start < len(list); start += 1000 {
		part := list[start:min(start+1000, len(list))]
		var args []any
		for _, r := range part {
			args = append(args, r.ProductID, r.SupplierID, r.PartNumber)
		}
		if err := db.SQL(tx.Q).Exec(db.Values("INSERT INTO product_supplier (product_id, supplier_id, part_number) "+
			"VALUES ", len(part), "(?, ?, ?)")+
			" ON DUPLICATE KEY UPDATE part_number = IF(VALUES(part_number) = '', part_number, VALUES(part_number))",
			args...).Error; err != nil {
			return err
		}
	}
	return nil
}

// SetAttributes writes some attributes of a product; an empty value drops one.
func SetAttributes(tx db.Tx, product uint64, attributes map[string]string) error {
	for name, value := range attributes {
		var err error
		if value == "" {
			err = db.SQL(tx.Q).
				Exec("DELETE FROM product_attribute WHERE product_id = ? AND name_key = ?", product, text.Key(name)).
				Error
		} else {
			err = db.SQL(tx.Q).Exec("INSERT INTO product_attribute (product_id, name, name_key, value) VALUES (?, ?, ?, ?) "+
				"ON DUPLICATE KEY UPDATE name = VALUES(name), value = VALUES(value)", product, name, text.Key(name), value).Error
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// SavePack writes a pack of a product; a new one gets its number.
func SavePack(tx db.Tx, p *Pack) error {
	err := db.SQL(tx.Q).Save(p).Error
	if db.Duplicate(err) {
		return fault.Clash("pack", p.Name, "a name of its own", "There is a pack %s already.", p.Name)
	}
	return err
}

// DropPack drops a pack with its barcodes and prices.
func DropPack(tx db.Tx, id uint64) error {
	for _, statement := range []string{"DELETE FROM barcode WHERE pack_id = ?", "DELETE FROM price WHERE pack_id = " +
		"?", "DELETE FROM basket_line WHERE pack_id = ?", "DELETE FROM pack WHERE id = ?"} {
		if err := db.SQL(tx.Q).Exec(statement, id).Error; err != nil {
			return err
		}
	}
	return nil
}

// AddAttributes writes attributes of products, and fills in the number.
func AddAttributes(tx db.Tx, row *[]ProductAttribute) error { return db.Insert(tx, row) }
