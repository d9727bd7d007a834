package buying

import (
	"time"

	"github.com/shopspring/decimal"

	corebuying "itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/text"
	"itemrack/core/unit"
	"itemrack/store/internal/db"
)

// DeliveryView is a delivery with the names of what it refers to. Number is of
// its document once it is posted.
type DeliveryView struct {
	Delivery
	Number     string          `json:"number"`
	HappenedAt *time.Time      `json:"happened_at"`
	RecordedAt *time.Time      `json:"recorded_at"`
	Supplier   string          `json:"supplier"`
	Branch     string          `json:"branch"`
	By         string          `json:"by"`
	Reversed   bool            `json:"reversed"`
	Units      decimal.Decimal `json:"units"`
}

const deliverySelect = `SELECT d.*, COALESCE(x.number, '') AS number, x.happened_at, x.recorded_at, COALESCE(s.name,
	'') AS supplier, b.name AS
	branch, u.name AS 'by',
	EXISTS (SELECT 1 FROM document y WHERE y.reverses_id = d.document_id) AS reversed,
	COALESCE((SELECT SUM(quantity) FROM delivery_line l WHERE l.delivery_id = d.id), 0) AS units
	FROM delivery d LEFT JOIN document x ON x.id = d.document_id LEFT JOIN supplier s ON s.id = d.supplier_id JOIN
	branch b ON b.id = d.branch_id JOIN user u ON u.id = d.created_by `

// Deliveries lists deliveries, newest first.
func Deliveries(q db.Q, page int) ([]DeliveryView, bool, error) {
	var rows []DeliveryView
	err := db.SQL(q).
		Raw(deliverySelect+"ORDER BY d.id DESC LIMIT ? OFFSET ?", q.PageRows()+1, (page-1)*q.PageRows()).
		Scan(&rows).
		Error
	return rows[:min(len(rows), q.PageRows())], len(rows) > q.PageRows(), err
}

// DeliveryDrafts lists the deliveries that were begun and not posted, the oldest first.
func DeliveryDrafts(q db.Q, most int) ([]DeliveryView, error) {
	var rows []DeliveryView
	return rows, db.SQL(q).Raw(deliverySelect+"WHERE d.document_id IS NULL ORDER BY d.id LIMIT ?",
		most).Scan(&rows).Error
}

// ReadDelivery reads a delivery with its lines.
func ReadDelivery(q db.Q, id uint64) (DeliveryView, []DeliveryLine, error) { return delivery(q, id) }

// LockDelivery is Delivery, with the delivery locked until the transaction ends.
func LockDelivery(tx db.Tx, id uint64) (DeliveryView, []DeliveryLine, error) {
	var found uint64
	if err := db.SQL(tx.Q).Raw("SELECT id FROM delivery WHERE id = ? FOR UPDATE", id).Scan(&found).Error; err != nil {
		return DeliveryView{}, nil, err
	}
	return delivery(tx.Q, id)
}

func delivery(q db.Q, id uint64) (DeliveryView, []DeliveryLine, error) {
	var v DeliveryView
	if err := db.SQL(q).Raw(deliverySelect+"WHERE d.id = ?", id).Scan(&v).Error; err != nil {
		return v, nil, err
	}
	if v.ID == 0 {
		return v, nil, fault.Missing("delivery", id, "There is no delivery %d.", id)
	}
	var lines []DeliveryLine
	return v, lines, db.SQL(q).
		Raw(`SELECT l.*, p.name AS product_name, p.unit AS unit_code, p.weight AS unit_weight FROM delivery_line l
			JOIN variant v ON v.id = l.variant_id
			JOIN product p ON p.id = v.product_id WHERE l.delivery_id = ? ORDER BY l.id`, id).
		Scan(&lines).
		Error
}

// SaveDelivery writes the head of a draft.
func SaveDelivery(tx db.Tx, d *Delivery) error { return db.SQL(tx.Q).Save(d).Error }

// ReplaceLines writes the lines of a draft in place of those there were.
func ReplaceLines(tx db.Tx, delivery uint64, lines []DeliveryLine) error {
	if err := db.SQL(tx.Q).Exec("DELETE FROM delivery_line WHERE delivery_id = ?", delivery).Error; err != nil {
		return err
	}
	for i := range lines {
		lines[i].ID, lines[i].DeliveryID = 0, delivery
	}
	if len(lines) == 0 {
		return nil
	}
	return db.Insert(tx, &lines)
}

// OrdersOf are the orders that a delivery is against, in the order in which they were made.
func OrdersOf(q db.Q, delivery uint64) ([]uint64, error) {
	var ids []uint64
	return ids, db.SQL(q).Raw("SELECT order_id FROM delivery_order WHERE delivery_id = ? ORDER BY order_id",
		delivery).Scan(&ids).Error
}

// SetOrders says which orders a delivery is against.
func SetOrders(tx db.Tx, delivery uint64, orders []uint64) error {
	if err := db.SQL(tx.Q).Exec("DELETE FROM delivery_order WHERE delivery_id = ?", delivery).Error; err != nil {
		return err
	}
	for _, id := range orders {
		if err := db.SQL(tx.Q).Exec("INSERT IGNORE INTO delivery_order (delivery_id, order_id, arrived) SELECT ?, id, "+
			"(SELECT COALESCE(SUM(l.arrived), 0) FROM purchase_order_line l WHERE l.order_id = o.id) FROM purchase_order o "+
			"WHERE o.id = ?", delivery, id).Error; err != nil {
			return err
		}
	}
	return nil
}

// ArrivedSince reports whether other goods of its orders arrived, or went back to being awaited, since a draft of a
// delivery was saved.
func ArrivedSince(q db.Q, delivery uint64) (bool, error) {
	var n int
	err := db.SQL(q).Raw("SELECT COUNT(*) FROM delivery_order o WHERE o.delivery_id = ? AND o.arrived <> (SELECT "+
		"COALESCE(SUM(l.arrived), 0) FROM purchase_order_line l WHERE l.order_id = o.order_id)", delivery).Scan(&n).Error
	return n > 0, err
}

// OtherDrafts has whoever has another draft against an order open see that it has changed.
func OtherDrafts(tx db.Tx, order, but uint64) error {
	return db.SQL(tx.Q).Exec("UPDATE delivery SET revision = revision + 1 WHERE document_id IS NULL AND id <> ? AND id "+
		"IN "+
		"(SELECT delivery_id FROM delivery_order WHERE order_id = ?)", but, order).Error
}

// LinesOfOrders are the lines of some orders, the earliest order first.
func LinesOfOrders(q db.Q, orders []uint64) ([]OrderLine, error) {
	if len(orders) == 0 {
		return nil, nil
	}
	return orderLines(q, "WHERE order_id IN ? ORDER BY order_id, id", orders)
}

// Share is how many units of a delivery's line were for a line of an order.
type Share struct {
	DeliveryLineID uint64
	OrderLineID    uint64
	Quantity       decimal.Decimal
}

// KeepShares notes for which lines of orders the goods of a delivery were.
func KeepShares(tx db.Tx, shares []Share) error {
	if len(shares) == 0 {
		return nil
	}
	args := make([]any, 0, 3*len(shares))
	for _, s := range shares {
		args = append(args, s.DeliveryLineID, s.OrderLineID, s.Quantity)
	}
	return db.SQL(tx.Q).
		Exec(db.Values("INSERT INTO delivery_share (delivery_line_id, order_line_id, quantity) VALUES ", len(shares),
			"(?, ?, ?)"), args...).
		Error
}

// SharesOf are the shares of a delivery.
func SharesOf(q db.Q, delivery uint64) ([]Share, error) {
	var rows []Share
	return rows, db.SQL(q).
		Raw("SELECT s.* FROM delivery_share s JOIN delivery_line l ON l.id = s.delivery_line_id WHERE "+
			"l.delivery_id = ?", delivery).
		Scan(&rows).
		Error
}

// DropShares forgets for which orders the goods of a delivery were, and lets its lines go.
func DropShares(tx db.Tx, delivery uint64) error {
	return db.SQL(tx.Q).
		Exec("DELETE s FROM delivery_share s JOIN delivery_line l ON l.id = s.delivery_line_id WHERE "+
			"l.delivery_id = ?", delivery).
		Error
}

// PostedDelivery marks a draft as posted. The supplier's number that was posted
// before names the document that holds it.
func PostedDelivery(tx db.Tx, d Delivery) error {
	err := db.SQL(tx.Q).
		Table("delivery").
		Where("id = ?", d.ID).
		Updates(map[string]any{"document_id": d.DocumentID, "posted_number": d.PostedNumber,
			"net": d.Net, "tax": d.Tax, "gross": d.Gross}).
		Error
	if db.Duplicate(err) {
		var number string
		if err := db.SQL(tx.Q).Raw("SELECT x.number FROM delivery d JOIN document x ON x.id = d.document_id WHERE "+
			"d.supplier_id = ? AND d.posted_number = ?", d.SupplierID, d.PostedNumber).Scan(&number).Error; err != nil {
			return err
		}
		return fault.Clash("supplier_number", d.SupplierNumber, "a number not entered yet",
			"The supplier's number %s was entered already, as %s; nothing was posted twice.", d.SupplierNumber, number)
	}
	return err
}

// NumberTaken is the document under which a supplier's number was entered already, but for
// one delivery; empty for none.
func NumberTaken(q db.Q, supplier uint64, number string, but uint64) (string, error) {
	var document string
	return document, db.SQL(q).
		Raw("SELECT x.number FROM delivery d JOIN document x ON x.id = d.document_id WHERE d.supplier_id = ? "+
			"AND d.posted_number = ? AND d.id <> ?",
			supplier, text.Key(number), but).
		Scan(&document).
		Error
}

// DeliveryDraftOf finds the draft of a delivery under a supplier's number; 0 for none.
func DeliveryDraftOf(q db.Q, supplier uint64, number string) (uint64, error) {
	var id uint64
	return id, db.SQL(q).
		Raw("SELECT id FROM delivery WHERE supplier_id = ? AND supplier_number = ? AND document_id IS NULL LIMIT 1",
			supplier, number).
		Scan(&id).
		Error
}

// DropDelivery gives up a draft.
func DropDelivery(tx db.Tx, id uint64) error {
	if err := db.SQL(tx.Q).Exec("DELETE FROM delivery_line WHERE delivery_id = ?", id).Error; err != nil {
		return err
	}
	return db.SQL(tx.Q).Exec("DELETE FROM delivery WHERE id = ? AND document_id IS NULL", id).Error
}

// DeliveryOf finds the delivery that a document posted; 0 for none.
func DeliveryOf(q db.Q, document uint64) (uint64, error) {
	var id uint64
	return id, db.SQL(q).Raw("SELECT id FROM delivery WHERE document_id = ?", document).Scan(&id).Error
}

// ReleaseNumber lets a supplier's number be entered again after its delivery
// was reversed.
func ReleaseNumber(tx db.Tx, document uint64) error {
	return db.SQL(tx.Q).Exec("UPDATE delivery SET posted_number = NULL WHERE document_id = ?", document).Error
}

// LastTyped is what each of some variants cost on the last delivery that was
// posted with costs of the same kind, as it was typed: without freight.
func LastTyped(q db.Q, variants []uint64, includeTax bool) (map[uint64]decimal.Decimal, error) {
	var rows []DeliveryLine
	err := db.SQL(q).
		Raw(`SELECT l.variant_id, l.cost FROM delivery_line l WHERE l.id IN (SELECT MAX(m.id) FROM delivery_line m
			JOIN delivery d ON d.id = m.delivery_id
		WHERE m.variant_id IN ? AND d.document_id IS NOT NULL AND d.costs_include_tax = ? GROUP BY m.variant_id)`,
			variants, includeTax).
		Scan(&rows).
		Error
	costs := make(map[uint64]decimal.Decimal, len(rows))
	for _, r := range rows {
		if r.Cost != nil {
			costs[r.VariantID] = *r.Cost
		}
	}
	return costs, err
}

// Delivery is goods that came in. Until DocumentID is set it is a draft;
// PostedNumber is the supplier's number once it is posted, and unique.
type Delivery struct {
	ID              uint64          `json:"id"`
	DocumentID      *uint64         `json:"document_id"`
	SupplierID      *uint64         `json:"supplier_id"` // nil while it is not chosen yet
	BranchID        uint64          `json:"branch_id"`
	SupplierNumber  string          `json:"supplier_number"`
	PostedNumber    *string         `json:"posted_number"`
	Note            string          `json:"note"`
	CostsIncludeTax bool            `json:"costs_include_tax"`
	BillLater       bool            `json:"bill_later"` // their bill does not come with the goods
	CameOn          *time.Time      `json:"came_on"`    // nil for the day it is posted
	Extra           decimal.Decimal `json:"extra" see:"costs"`
	ExtraTaxClassID *uint64         `json:"extra_tax_class_id"`
	ExtraPercent    decimal.Decimal `json:"extra_percent"`
	Spread          string          `json:"spread"`
	CreatedBy       uint64          `json:"created_by"`
	CreatedAt       time.Time       `json:"created_at"`
	Net             decimal.Decimal `json:"net" see:"costs"`
	Tax             decimal.Decimal `json:"tax" see:"costs"`
	Gross           decimal.Decimal `json:"gross" see:"costs"`
	Revision        uint64          `json:"revision"`
}

// DeliveryLine is a variant, lot and cost of a delivery.
type DeliveryLine struct {
	ID         uint64           `json:"id"`
	DeliveryID uint64           `json:"delivery_id"`
	VariantID  uint64           `json:"variant_id"`
	Quantity   decimal.Decimal  `json:"quantity"`
	Cost       *decimal.Decimal `json:"cost" see:"costs"` // nil while it is not known
	Percent    decimal.Decimal  `json:"percent"`
	LotNumber  string           `json:"lot_number"`
	Expiry     *time.Time       `json:"expiry"`
	Serials    string           `json:"serials"`
	Total      *decimal.Decimal `json:"total" see:"costs"` // of the line, where that was typed; it counts
	How        corebuying.How   `json:"how"`
	ShelfID    *uint64          `json:"shelf_id"` // nil for the branch's default one
	// Unbilled is how many units of a posted line no bill has taken up yet, and UnbilledValue
	// what they stand at under received, not billed.
	Unbilled      decimal.Decimal `json:"unbilled"`
	UnbilledValue decimal.Decimal `json:"unbilled_value" see:"costs"`
	// the product's, as they are read with the line
	ProductName string           `gorm:"->" json:"-"`
	UnitCode    string           `gorm:"->" json:"-"`
	UnitWeight  *decimal.Decimal `gorm:"->" json:"-"`
}

// Kilos is what one of the line's goods weighs; nil while nobody knows.
func (l DeliveryLine) Kilos() *decimal.Decimal { return unit.Kilos(l.UnitCode, l.UnitWeight) }

// Got is how much the line has got, and how that came about.
func (l DeliveryLine) Got() corebuying.Got { return corebuying.Got{Quantity: l.Quantity, How: l.How} }
