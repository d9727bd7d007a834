package buying

import (
	"time"

	"github.com/shopspring/decimal"

	corebuying "itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/store/internal/db"
)

// The kinds of bill.
const (
	KindBill       = "bill"
	KindCreditNote = "credit note"
)

// Bill is a supplier's bill, or its credit note: then Net, Tax, Gross and Open are below
// zero. Until DocumentID is set it is a draft. A bill that came with its delivery names that,
// and has no lines of its own. Paper is what their paper says in all. Open is what is still
// owed.
type Bill struct {
	ID                uint64            `json:"id"`
	Kind              string            `json:"kind"`
	SupplierID        uint64            `json:"supplier_id"`
	BranchID          uint64            `json:"branch_id"`
	Number            string            `json:"number"`
	PostedKey         *string           `json:"-"`
	DocumentID        *uint64           `json:"document_id"`
	DeliveryID        *uint64           `json:"delivery_id"`
	BilledOn          time.Time         `json:"billed_on"`
	DueOn             time.Time         `json:"due_on"`
	Note              string            `json:"note"`
	Freight           decimal.Decimal   `json:"freight" see:"costs"`
	FreightPercent    decimal.Decimal   `json:"freight_percent"`
	FreightTaxClassID *uint64           `json:"freight_tax_class_id"`
	Spread            corebuying.Spread `json:"spread"`
	Paper             *decimal.Decimal  `json:"paper" see:"costs"`
	Net               decimal.Decimal   `json:"net" see:"costs"`
	Tax               decimal.Decimal   `json:"tax" see:"costs"`
	Gross             decimal.Decimal   `json:"gross" see:"costs"`
	Open              decimal.Decimal   `json:"open" see:"costs"`
	CreatedBy         uint64            `json:"created_by"`
	CreatedAt         time.Time         `json:"created_at"`
	Revision          uint64            `json:"revision"`
}

// BillLine is a line of a bill: of goods that a delivery brought, or that an order awaits.
// See corebuying.BillLine for its figures; the others are what it came to when it was posted.
type BillLine struct {
	ID             uint64          `json:"id"`
	BillID         uint64          `json:"bill_id"`
	VariantID      uint64          `json:"variant_id"`
	DeliveryLineID *uint64         `json:"delivery_line_id"`
	OrderLineID    *uint64         `json:"order_line_id"`
	Quantity       decimal.Decimal `json:"quantity"`
	Net            decimal.Decimal `json:"net" see:"costs"`
	Percent        decimal.Decimal `json:"percent"`
	Dearer         corebuying.Then `json:"dearer"`
	Missing        corebuying.Then `json:"missing"`
	Came           decimal.Decimal `json:"came"`
	Cleared        decimal.Decimal `json:"cleared" see:"costs"`
	AheadUnits     decimal.Decimal `json:"ahead_units"`
	Ahead          decimal.Decimal `json:"ahead" see:"costs"`
	// Shown is what of the line of the delivery was not billed when this one was saved; nil where nobody knows.
	Shown *decimal.Decimal `json:"-"`
}

// BillView is a bill with the names of what it refers to. Document is its number in the
// book.
type BillView struct {
	Bill
	Supplier string `json:"supplier"`
	Branch   string `json:"branch"`
	Document string `json:"document"`
	Delivery string `json:"delivery"`
	By       string `json:"by"`
	Reversed bool   `json:"reversed"`
}

// Name is what people call the bill: the supplier's number, or that of its document.
func (b BillView) Name() string {
	switch {
	case b.Number != "":
		return b.Number
	case b.Document != "":
		return b.Document
	}
	return "draft"
}

const billSelect = `SELECT b.*, s.name AS supplier, r.name AS branch, COALESCE(d.number, '') AS document,
	COALESCE(x.number, '') AS delivery,
	u.name AS 'by', EXISTS (SELECT 1 FROM document y WHERE y.reverses_id = b.document_id) AS reversed
	FROM bill b JOIN supplier s ON s.id = b.supplier_id JOIN branch r ON r.id = b.branch_id JOIN user u ON u.id =
	b.created_by
	LEFT JOIN document d ON d.id = b.document_id LEFT JOIN delivery l ON l.id = b.delivery_id LEFT JOIN document x ON
	x.id = l.document_id `

// BillFilter narrows a list of bills; what is zero does not.
type BillFilter struct {
	Supplier uint64
	Owed     bool // something is open
	Drafts   bool
	DueBy    *time.Time // open, and due on this day or before
}

// Bills lists bills: those that are owed by the day they are due, others newest first.
func Bills(q db.Q, f BillFilter, page int) ([]BillView, bool, error) {
	where, args, order := "WHERE TRUE ", []any{}, "b.id DESC"
	if f.Supplier != 0 {
		where, args = where+"AND b.supplier_id = ? ", append(args, f.Supplier)
	}
	if f.Owed || f.DueBy != nil {
		where, order = where+"AND b.open <> 0 ", "b.due_on, b.id"
	}
	if f.DueBy != nil {
		where, args = where+"AND b.due_on <= ? ", append(args, db.Day(*f.DueBy))
	}
	if f.Drafts {
		where += "AND b.document_id IS NULL "
	}
	var rows []BillView
	err := db.SQL(q).
		Raw(billSelect+where+"ORDER BY "+order+" LIMIT ? OFFSET ?",
			append(args, q.PageRows()+1, (page-1)*q.PageRows())...).
		Scan(&rows).
		Error
	return rows[:min(len(rows), q.PageRows())], len(rows) > q.PageRows(), err
}

// ReadBill reads a bill with its lines and the deliveries it is for.
func ReadBill(q db.Q, id uint64) (BillView, []BillLine, []uint64, error) {
	var v BillView
	if err := db.SQL(q).Raw(billSelect+"WHERE b.id = ?", id).Scan(&v).Error; err != nil {
		return v, nil, nil, err
	}
	if v.ID == 0 {
		return v, nil, nil, fault.Missing("bill_id", id, "There is no bill %d.", id)
	}
	var lines []BillLine
	if err := db.SQL(q).Raw("SELECT * FROM bill_line WHERE bill_id = ? ORDER BY id",
		id).Scan(&lines).Error; err != nil {
		return v, nil, nil, err
	}
	var deliveries []uint64
	return v, lines, deliveries, db.SQL(q).
		Raw("SELECT delivery_id FROM bill_delivery WHERE bill_id = ? ORDER BY delivery_id", id).
		Scan(&deliveries).
		Error
}

// LockBill is ReadBill, with the bill locked until the transaction ends.
func LockBill(tx db.Tx, id uint64) (BillView, []BillLine, []uint64, error) {
	var found uint64
	if err := db.SQL(tx.Q).Raw("SELECT id FROM bill WHERE id = ? FOR UPDATE", id).Scan(&found).Error; err != nil {
		return BillView{}, nil, nil, err
	}
	return ReadBill(tx.Q, id)
}

// BillOf finds the bill that a document posted, or that came with its delivery; 0 for none.
func BillOf(q db.Q, document uint64) (uint64, error) {
	var id uint64
	return id, db.SQL(q).Raw("SELECT id FROM bill WHERE document_id = ? ORDER BY id LIMIT 1", document).Scan(&id).Error
}

// SaveBill writes the head of a bill. A number that its supplier gave before is refused.
func SaveBill(tx db.Tx, b *Bill) error {
	err := db.SQL(tx.Q).Save(b).Error
	if !db.Duplicate(err) {
		return err
	}
	var document string
	if err := db.SQL(tx.Q).Raw("SELECT COALESCE(d.number, '') FROM bill b LEFT JOIN document d ON d.id = "+
		"b.document_id WHERE b.supplier_id = ? "+
		"AND b.kind = ? AND b.posted_key = ?", b.SupplierID, b.Kind, b.PostedKey).Scan(&document).Error; err != nil {
		return err
	}
	return fault.Clash("number", b.Number, "a number not entered yet",
		"Their number %s was entered already, as %s; nothing was posted twice.", b.Number, document)
}

// ReplaceBillLines writes the lines of a bill, and the deliveries it is for, in place of those
// there were.
func ReplaceBillLines(tx db.Tx, bill uint64, lines []BillLine, deliveries []uint64) error {
	for _, statement := range []string{"DELETE FROM bill_line WHERE bill_id = ?",
		"DELETE FROM bill_delivery WHERE bill_id = ?"} {
		if err := db.SQL(tx.Q).Exec(statement, bill).Error; err != nil {
			return err
		}
	}
	for i := range lines {
		lines[i].ID, lines[i].BillID = 0, bill
	}
	if len(lines) > 0 {
		if err := db.Insert(tx, &lines); err != nil {
			return err
		}
	}
	for _, id := range deliveries {
		if err := db.SQL(tx.Q).Exec("INSERT IGNORE INTO bill_delivery (bill_id, delivery_id) VALUES (?, ?)", bill,
			id).Error; err != nil {
			return err
		}
	}
	return nil
}

// SaveBillLines writes lines of a bill again.
func SaveBillLines(tx db.Tx, lines []BillLine) error {
	if len(lines) == 0 {
		return nil
	}
	return db.SQL(tx.Q).Save(&lines).Error
}

// DropBill gives up a draft.
func DropBill(tx db.Tx, id uint64) error {
	return db.SQL(tx.Q).Exec("DELETE FROM bill WHERE id = ? AND document_id IS NULL", id).Error
}

// DraftOf finds the draft of a supplier's bill of a number; 0 for none.
func DraftOf(q db.Q, supplier uint64, number string) (uint64, error) {
	var id uint64
	return id, db.SQL(q).
		Raw("SELECT id FROM bill WHERE supplier_id = ? AND number = ? AND document_id IS NULL AND kind = ? LIMIT 1",
			supplier, number, KindBill).
		Scan(&id).
		Error
}

// ReleaseBill takes a bill out that was undone: nothing of it is owed, and its number can be
// entered again.
func ReleaseBill(tx db.Tx, bill uint64) error {
	return db.SQL(tx.Q).Exec("UPDATE bill SET open = 0, posted_key = NULL, revision = revision + 1 WHERE id = ?",
		bill).Error
}
