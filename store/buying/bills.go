package buying

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
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

// OrderLineOf reads a line of an order with its order.
func OrderLineOf(q db.Q, id uint64) (Order, OrderLine, error) {
	lines, err := orderLines(q, "WHERE id = ?", id)
	if err != nil || len(lines) == 0 {
		return Order{}, OrderLine{}, errors.Join(err, fault.Missing("order_line_id", id,
			"There is no line %d of an order.", id))
	}
	var o Order
	return o, lines[0], db.SQL(q).Raw("SELECT * FROM purchase_order WHERE id = ?", lines[0].OrderID).Scan(&o).Error
}

// OrderLinesFor are the lines of orders that lines of deliveries were for, the latest of
// each, by the delivery's line.
func OrderLinesFor(q db.Q, deliveryLines []uint64) (map[uint64]uint64, error) {
	found := map[uint64]uint64{}
	if len(deliveryLines) == 0 {
		return found, nil
	}
	var rows []Share
	err := db.SQL(q).
		Raw("SELECT delivery_line_id, MAX(order_line_id) AS order_line_id FROM delivery_share WHERE "+
			"delivery_line_id IN ? GROUP BY delivery_line_id", deliveryLines).
		Scan(&rows).
		Error
	for _, r := range rows {
		found[r.DeliveryLineID] = r.OrderLineID
	}
	return found, err
}

// DropBill gives up a draft.
func DropBill(tx db.Tx, id uint64) error {
	return db.SQL(tx.Q).Exec("DELETE FROM bill WHERE id = ? AND document_id IS NULL", id).Error
}

// ToBill is a line of a posted delivery with what of it is not billed yet.
type ToBill struct {
	DeliveryLine
	DocumentID uint64          `json:"document_id"`
	Number     string          `json:"number"` // of the delivery
	SupplierID uint64          `json:"supplier_id"`
	Line       int             `json:"line"` // of the delivery's document
	Ordered    decimal.Decimal `json:"ordered"`
	Name       string          `json:"name"`
	Label      string          `json:"label"`
	Unit       string          `json:"unit"`
}

// toBill reads lines of deliveries, with their places in them.
func toBill(q db.Q, deliveries, where string, args ...any) ([]ToBill, error) {
	var rows []ToBill
	return rows, db.SQL(q).
		Raw(`SELECT l.*, d.document_id, x.number, d.supplier_id, p.name, v.label, p.unit, n.line,
			p.name AS product_name, p.unit AS unit_code, p.weight AS unit_weight, COALESCE(o.quantity, 0) AS ordered
			FROM delivery_line l JOIN (SELECT id, ROW_NUMBER() OVER (PARTITION BY delivery_id ORDER BY id) AS line
			FROM delivery_line
				WHERE delivery_id IN (`+deliveries+`)) n ON n.id = l.id
			JOIN delivery d ON d.id = l.delivery_id JOIN document x ON x.id = d.document_id
			JOIN variant v ON v.id = l.variant_id JOIN product p ON p.id = v.product_id
			LEFT JOIN (SELECT s.delivery_line_id, SUM(o.quantity) AS quantity FROM delivery_share s JOIN
			purchase_order_line o ON o.id = s.order_line_id
				JOIN delivery_line m ON m.id = s.delivery_line_id WHERE m.delivery_id IN (`+deliveries+
			`) GROUP BY s.delivery_line_id) o
				ON o.delivery_line_id = l.id
		WHERE `+where+" ORDER BY l.id", args...).
		Scan(&rows).
		Error
}

// LinesToBill reads lines of deliveries by their numbers.
func LinesToBill(q db.Q, lines []uint64) ([]ToBill, error) {
	in := db.IDs(lines)
	return toBill(q, "SELECT delivery_id FROM delivery_line WHERE id IN ("+in+")", "l.id IN ("+in+")")
}

// LinesOfDeliveries reads all lines of some posted deliveries.
func LinesOfDeliveries(q db.Q, deliveries []uint64) ([]ToBill, error) {
	return toBill(q, db.IDs(deliveries), "TRUE")
}

// LockToBill locks the unbilled lines of some deliveries until the transaction ends.
func LockToBill(tx db.Tx, lines []uint64) error {
	var ids []uint64
	return db.SQL(tx.Q).Raw("SELECT id FROM delivery_line WHERE id IN ? ORDER BY id FOR UPDATE",
		append(lines, 0)).Scan(&ids).Error
}

// Unbilled lists the posted deliveries of a supplier of which something is not billed; supplier
// 0 is all.
func Unbilled(q db.Q, supplier uint64) ([]DeliveryView, error) {
	var rows []DeliveryView
	return rows, db.SQL(q).
		Raw(deliverySelect+`WHERE d.id IN (SELECT l.delivery_id FROM delivery_line l WHERE l.unbilled > 0) AND
			d.document_id IS NOT NULL
			AND (? = 0 OR d.supplier_id = ?) ORDER BY d.id`, supplier, supplier).
		Scan(&rows).
		Error
}

// Left is what stands open of a line: units, and what they are worth.
type Left struct {
	Line         uint64
	Units, Value decimal.Decimal
}

// SetUnbilled writes what of lines of deliveries is not billed. Each line stands in it once.
func SetUnbilled(tx db.Tx, lines []Left) error {
	return setLeft(tx, "UPDATE delivery_line l JOIN (%s) x ON x.id = l.id SET l.unbilled = x.units, "+
		"l.unbilled_value = x.value", lines)
}

// setLeft does an update with the figures of some hundreds of lines at a time.
func setLeft(tx db.Tx, update string, lines []Left) error {
	for part := range slices.Chunk(lines, 500) {
		args := make([]any, 0, 3*len(part))
		for _, l := range part {
			args = append(args, l.Line, l.Units, l.Value)
		}
		figures := "SELECT ? AS id, ? AS units, ? AS value" + strings.Repeat(" UNION ALL SELECT ?, ?, ?", len(part)-1)
		if err := db.SQL(tx.Q).Exec(fmt.Sprintf(update, figures), args...).Error; err != nil {
			return err
		}
	}
	return nil
}

// AheadOf reads what is billed and has not come of some lines of orders, the earliest first.
func AheadOf(tx db.Tx, orderLines []uint64) ([]BillLine, error) {
	var rows []BillLine
	return rows, db.SQL(tx.Q).
		Raw("SELECT * FROM bill_line WHERE order_line_id IN ? AND ahead_units > 0 ORDER BY id FOR UPDATE",
			append(orderLines, 0)).
		Scan(&rows).
		Error
}

// SetAhead writes what lines of bills billed that has not come. Each line stands in it once.
func SetAhead(tx db.Tx, lines []Left) error {
	return setLeft(tx, "UPDATE bill_line l JOIN (%s) x ON x.id = l.id SET l.ahead_units = x.units, l.ahead = x.value",
		lines)
}

// SetOpen writes what of some bills is still owed.
func SetOpen(tx db.Tx, open map[uint64]decimal.Decimal) error {
	lines := make([]Left, 0, len(open))
	for _, id := range slices.Sorted(maps.Keys(open)) {
		lines = append(lines, Left{Line: id, Value: open[id]})
	}
	return setLeft(tx, "UPDATE bill l JOIN (%s) x ON x.id = l.id SET l.open = x.value, l.revision = l.revision + 1",
		lines)
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

// Payment is money paid to a supplier, or, with none, for goods of nobody in particular.
type Payment struct {
	ID         uint64          `json:"id"`
	DocumentID uint64          `json:"document_id"`
	SupplierID *uint64         `json:"supplier_id"`
	PaidFrom   corebuying.From `json:"paid_from"`
	DrawerID   *uint64         `json:"drawer_id"`
	Amount     decimal.Decimal `json:"amount" see:"costs"`
	PaidOn     time.Time       `json:"paid_on"`
	Undone     bool            `json:"undone"`
}

// PaymentPart is what of a payment settled a bill, or used a credit note, below zero.
type PaymentPart struct {
	PaymentID uint64          `gorm:"primaryKey" json:"-"`
	BillID    uint64          `gorm:"primaryKey" json:"bill_id"`
	Amount    decimal.Decimal `json:"amount" see:"costs"`
}

// PaymentView is a payment with its document, and what of it was for a bill.
type PaymentView struct {
	Payment
	Number string          `json:"number"`
	Part   decimal.Decimal `json:"part" see:"costs"`
	Who    string          `json:"who"`
}

// KeepPayment writes a payment with its parts.
func KeepPayment(tx db.Tx, p *Payment, parts []PaymentPart) error {
	if err := db.Insert(tx, p); err != nil {
		return err
	}
	for i := range parts {
		parts[i].PaymentID = p.ID
	}
	if len(parts) == 0 {
		return nil
	}
	return db.Insert(tx, &parts)
}

// PaymentOf reads the payment that a document posted, with its parts.
func PaymentOf(tx db.Tx, document uint64) (Payment, []PaymentPart, error) {
	var p Payment
	if err := db.SQL(tx.Q).Raw("SELECT * FROM payment WHERE document_id = ? FOR UPDATE",
		document).Scan(&p).Error; err != nil {
		return p, nil, err
	}
	var parts []PaymentPart
	return p, parts, db.SQL(tx.Q).Raw("SELECT * FROM payment_part WHERE payment_id = ?", p.ID).Scan(&parts).Error
}

// UndoPayment marks a payment as undone.
func UndoPayment(tx db.Tx, id uint64) error {
	return db.SQL(tx.Q).Exec("UPDATE payment SET undone = TRUE WHERE id = ?", id).Error
}

// PaymentsFor lists what was paid of a bill.
func PaymentsFor(q db.Q, bill uint64) ([]PaymentView, error) {
	var rows []PaymentView
	return rows, db.SQL(q).
		Raw(`SELECT p.*, d.number, x.amount AS part, u.name AS who FROM payment_part x JOIN payment p ON p.id =
			x.payment_id
			JOIN document d ON d.id = p.document_id JOIN user u ON u.id = d.user_id WHERE x.bill_id = ? ORDER BY
			p.id`, bill).
		Scan(&rows).
		Error
}

// CreditExpected is what a supplier owes us until its credit note is there.
type CreditExpected struct {
	ID         uint64          `json:"id"`
	SupplierID uint64          `json:"supplier_id"`
	DocumentID uint64          `json:"document_id"`
	Why        string          `json:"why"`
	Percent    decimal.Decimal `json:"percent"`
	Net        decimal.Decimal `json:"net" see:"costs"`
	Open       decimal.Decimal `json:"open" see:"costs"`
	Since      time.Time       `json:"since"`
	BillID     *uint64         `json:"bill_id"` // the credit note
	Document   string          `gorm:"->" json:"document"`
	Supplier   string          `gorm:"->" json:"supplier"`
}

// TableName is the table of credits that are expected.
func (CreditExpected) TableName() string { return "credit_expected" }

// ExpectCredit notes a credit that is expected.
func ExpectCredit(tx db.Tx, c CreditExpected) error {
	return db.SQL(tx.Q).Omit("Document", "Supplier").Create(&c).Error
}

// Credits lists the credits that are expected, the oldest first; supplier 0 is all.
func Credits(q db.Q, supplier uint64) ([]CreditExpected, error) {
	var rows []CreditExpected
	return rows, db.SQL(q).
		Raw(`SELECT c.*, d.number AS document, s.name AS supplier FROM credit_expected c JOIN document d ON d.id =
			c.document_id
			JOIN supplier s ON s.id = c.supplier_id WHERE c.open <> 0 AND (? = 0 OR c.supplier_id = ?) ORDER BY
			c.since, c.id`, supplier, supplier).
		Scan(&rows).
		Error
}

// LockCredit reads a credit that is expected, locked until the transaction ends.
func LockCredit(tx db.Tx, id uint64) (CreditExpected, error) {
	var c CreditExpected
	err := db.SQL(tx.Q).Raw("SELECT * FROM credit_expected WHERE id = ? FOR UPDATE", id).Scan(&c).Error
	if err == nil && c.ID == 0 {
		err = fault.Missing("credit_id", id, "There is no credit %d.", id)
	}
	return c, err
}

// CreditsOf reads the credits that a document made expected.
func CreditsOf(tx db.Tx, document uint64) ([]CreditExpected, error) {
	var rows []CreditExpected
	return rows, db.SQL(tx.Q).Raw("SELECT * FROM credit_expected WHERE document_id = ? FOR UPDATE",
		document).Scan(&rows).Error
}

// SetCredit writes what of a credit is still expected, and which credit note it came with.
func SetCredit(tx db.Tx, id uint64, open decimal.Decimal, bill *uint64) error {
	return db.SQL(tx.Q).Exec("UPDATE credit_expected SET open = ?, bill_id = ? WHERE id = ?", open, bill, id).Error
}

// CreditBy reads the credit that a credit note was for.
func CreditBy(tx db.Tx, bill uint64) (CreditExpected, error) {
	var c CreditExpected
	return c, db.SQL(tx.Q).Raw("SELECT * FROM credit_expected WHERE bill_id = ? FOR UPDATE", bill).Scan(&c).Error
}

// OwedRow is what is owed to a supplier on bills of one due day.
type OwedRow struct {
	SupplierID uint64
	Supplier   string
	DueOn      time.Time
	Open       decimal.Decimal
}

// Owed adds up what is owed to whom, by due day; supplier 0 is all.
func Owed(q db.Q, supplier uint64) ([]OwedRow, error) {
	var rows []OwedRow
	return rows, db.SQL(q).
		Raw(`SELECT b.supplier_id, s.name AS supplier, b.due_on, SUM(b.open) AS open FROM bill b JOIN supplier s ON
			s.id = b.supplier_id
			WHERE b.open <> 0 AND b.document_id IS NOT NULL AND (? = 0 OR b.supplier_id = ?) GROUP BY b.supplier_id,
			s.name, b.due_on
			ORDER BY s.name, b.due_on`, supplier, supplier).
		Scan(&rows).
		Error
}

// SupplierReturn is goods that went back to a supplier.
type SupplierReturn struct {
	ID         uint64          `json:"id"`
	DocumentID uint64          `json:"document_id"`
	SupplierID uint64          `json:"supplier_id"`
	Worth      decimal.Decimal `json:"worth" see:"costs"`
	Expected   decimal.Decimal `json:"expected" see:"costs"`
}

// KeepReturn writes goods that went back.
func KeepReturn(tx db.Tx, r SupplierReturn) error { return db.Insert(tx, &r) }

// ReturnView is a return to a supplier in a list.
type ReturnView struct {
	SupplierReturn
	Number     string          `json:"number"`
	HappenedAt time.Time       `json:"happened_at"`
	Units      decimal.Decimal `json:"units"`
	Reversed   bool            `json:"reversed"`
}

// ReturnedTo is the name of the supplier that goods of a document went back to.
func ReturnedTo(q db.Q, document uint64) (string, error) {
	var name string
	err := db.SQL(q).Raw("SELECT s.name FROM supplier_return r JOIN supplier s ON s.id = r.supplier_id WHERE "+
		"r.document_id = ?", document).Scan(&name).Error
	if err == nil && name == "" {
		err = fault.Missing("number", document, "Nothing went back to a supplier with that document.")
	}
	return name, err
}

// ReturnsTo lists what went back to a supplier, newest first.
func ReturnsTo(q db.Q, supplier uint64, most int) ([]ReturnView, error) {
	var rows []ReturnView
	return rows, db.SQL(q).
		Raw(`SELECT r.*, d.number, d.happened_at, (SELECT -SUM(e.quantity) FROM entry e WHERE e.document_id = d.id)
			AS units,
			EXISTS (SELECT 1 FROM document y WHERE y.reverses_id = d.id) AS reversed
		FROM supplier_return r JOIN document d ON d.id = r.document_id WHERE r.supplier_id = ? ORDER BY r.id DESC
		LIMIT ?`, supplier, most).
		Scan(&rows).
		Error
}
