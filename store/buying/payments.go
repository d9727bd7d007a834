package buying

import (
	"time"

	"github.com/shopspring/decimal"

	corebuying "itemrack/core/buying"
	"itemrack/store/internal/db"
)

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
