package buying

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/text"
	"itemrack/store/goods"
	"itemrack/store/internal/db"
)

// MergeSuppliers gives all that one supplier has to another, and drops it. Where both gave
// a delivery the same number, they can't be one.
func MergeSuppliers(tx db.Tx, from, into uint64) error {
	for _, statement := range []string{
		"UPDATE product SET supplier_id = @into WHERE supplier_id = @from",
		"UPDATE IGNORE product_supplier SET supplier_id = @into WHERE supplier_id = @from",
		"DELETE FROM product_supplier WHERE supplier_id = @from",
		"UPDATE IGNORE supplied SET supplier_id = @into WHERE supplier_id = @from",
		"DELETE FROM supplied WHERE supplier_id = @from",
		"UPDATE supplier_contact SET supplier_id = @into WHERE supplier_id = @from",
		"UPDATE purchase_order SET supplier_id = @into WHERE supplier_id = @from",
		"UPDATE delivery SET supplier_id = @into WHERE supplier_id = @from",
		"UPDATE bill SET supplier_id = @into WHERE supplier_id = @from",
		"UPDATE payment SET supplier_id = @into WHERE supplier_id = @from",
		"UPDATE credit_expected SET supplier_id = @into WHERE supplier_id = @from",
		"UPDATE supplier_return SET supplier_id = @into WHERE supplier_id = @from",
		"UPDATE IGNORE catalog_item SET supplier_id = @into WHERE supplier_id = @from",
		"DELETE FROM catalog_item WHERE supplier_id = @from",
		"DELETE FROM supplier WHERE id = @from",
	} {
		err := db.SQL(tx.Q).Exec(statement, map[string]any{"from": from, "into": into}).Error
		if db.Duplicate(err) {
			return fault.Clash("into_id", into, "suppliers that never gave the same number",
				"Both have a document of the same number; they can't be the same supplier.")
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// SupplierView is a supplier in a list, with what is going on there.
type SupplierView struct {
	goods.Supplier
	Products   int        `json:"products"`
	OpenOrders int        `json:"open_orders"`
	LastCame   *time.Time `json:"last_came"`
	// Contact is the first person to ask.
	Contact string `json:"contact"`
	Mail    string `json:"mail"`
	Phone   string `json:"phone"`
}

// SupplierList lists the suppliers by name; words narrow it.
func SupplierList(q db.Q, words string, page int) ([]SupplierView, bool, error) {
	var rows []SupplierView
	err := db.SQL(q).
		Raw(`SELECT s.*, COALESCE(c.name, '') AS contact, COALESCE(c.mail, '') AS mail, COALESCE(c.phone, '') AS phone,
			(SELECT COUNT(*) FROM product_supplier p WHERE p.supplier_id = s.id) AS products,
			(SELECT COUNT(*) FROM purchase_order o WHERE o.supplier_id = s.id AND o.state IN ('Placed', 'Part in'))
			AS open_orders,
			(SELECT MAX(x.happened_at) FROM delivery d JOIN document x ON x.id = d.document_id WHERE d.supplier_id =
			s.id) AS last_came
		FROM supplier s LEFT JOIN supplier_contact c ON c.id = (SELECT MIN(m.id) FROM supplier_contact m WHERE
		m.supplier_id = s.id)
		WHERE LOCATE(?, s.name_key) > 0 OR LOCATE(?, s.account_number) > 0 ORDER BY s.name LIMIT ? OFFSET ?`,
			text.Key(words), words, q.PageRows()+1, (page-1)*q.PageRows()).
		Scan(&rows).
		Error
	return rows[:min(len(rows), q.PageRows())], len(rows) > q.PageRows(), err
}

// SuppliedView is a variant that a supplier brings, with what it asked last.
type SuppliedView struct {
	Supplied
	ProductID uint64 `json:"product_id"`
	Name      string `json:"name"`
	Label     string `json:"label"`
	SKU       string `gorm:"column:sku" json:"sku"`
	Unit      string `json:"unit"`
}

// SuppliesOf lists what a supplier brought or was asked for, by name.
func SuppliesOf(q db.Q, supplier uint64, page int) ([]SuppliedView, bool, error) {
	var rows []SuppliedView
	err := db.SQL(q).
		Raw(`SELECT x.*, v.product_id, p.name, v.label, v.sku, p.unit FROM supplied x JOIN variant v ON v.id =
			x.variant_id
			JOIN product p ON p.id = v.product_id WHERE x.supplier_id = ? ORDER BY p.name, v.id LIMIT ? OFFSET ?`,
			supplier, q.PageRows()+1, (page-1)*q.PageRows()).
		Scan(&rows).
		Error
	return rows[:min(len(rows), q.PageRows())], len(rows) > q.PageRows(), err
}

// DeliveriesOf lists the deliveries of a supplier, newest first.
func DeliveriesOf(q db.Q, supplier uint64, page int) ([]DeliveryView, bool, error) {
	var rows []DeliveryView
	err := db.SQL(q).
		Raw(deliverySelect+"WHERE d.supplier_id = ? ORDER BY d.id DESC LIMIT ? OFFSET ?", supplier, q.PageRows()+1,
			(page-1)*q.PageRows()).
		Scan(&rows).
		Error
	return rows[:min(len(rows), q.PageRows())], len(rows) > q.PageRows(), err
}

// SoldSince is how many of each of some variants were sold since a moment, less what came back.
func SoldSince(q db.Q, variants []uint64, since time.Time) (map[uint64]decimal.Decimal, error) {
	var rows []struct {
		VariantID uint64
		Q         decimal.Decimal
	}
	err := db.SQL(q).
		Raw(`SELECT e.variant_id, SUM(-e.quantity) AS q FROM entry e JOIN document d ON d.id = e.document_id
			LEFT JOIN document r ON r.id = d.reverses_id
		WHERE e.variant_id IN ? AND d.happened_at >= ? AND (d.kind IN ('Sale', 'Return') OR r.kind IN ('Sale',
		'Return'))
		GROUP BY e.variant_id`, append(variants, 0), since).
		Scan(&rows).
		Error
	sold := make(map[uint64]decimal.Decimal, len(rows))
	for _, r := range rows {
		sold[r.VariantID] = r.Q
	}
	return sold, err
}
