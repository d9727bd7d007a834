package buying

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/store/internal/db"
)

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
