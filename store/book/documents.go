package book

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/scan"
	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// Entries returns the entries of a document in the order they were written.
func Entries(q db.Q, document uint64) ([]stock.Entry, error) {
	var rows []struct {
		Line                                       int
		VariantID, ShelfID, LotID                  uint64
		Condition, Serial                          string
		Quantity, Value, QuantityAfter, ValueAfter decimal.Decimal
		Bought                                     bool
		CameOn                                     *time.Time
		OfDocumentID                               *uint64
	}
	err := db.SQL(q).
		Raw("SELECT line, variant_id, shelf_id, lot_id, `condition`, serial, quantity, value, bought, came_on, "+
			"of_document_id, quantity_after, value_after FROM entry WHERE document_id = ? ORDER BY id", document).
		Scan(&rows).
		Error
	list := make([]stock.Entry, len(rows))
	for i, r := range rows {
		list[i] = stock.Entry{
			Line: r.Line,
			Key: stock.Key{
				Variant:   r.VariantID,
				Shelf:     r.ShelfID,
				Lot:       r.LotID,
				Condition: stock.Condition(r.Condition),
			},
			Serial:        r.Serial,
			Quantity:      r.Quantity,
			Value:         r.Value,
			Bought:        r.Bought,
			QuantityAfter: r.QuantityAfter,
			ValueAfter:    r.ValueAfter,
		}
		if r.CameOn != nil {
			list[i].CameOn = *r.CameOn
		}
		if r.OfDocumentID != nil {
			list[i].Of = *r.OfDocumentID
		}
	}
	return list, err
}

// DocumentView is a document with names.
type DocumentView struct {
	ID         uint64    `json:"id"`
	Kind       string    `json:"kind"`
	Number     string    `json:"number"`
	BranchID   uint64    `json:"branch_id"`
	Branch     string    `json:"branch"`
	Who        string    `json:"who"`
	HappenedAt time.Time `json:"happened_at"`
	RecordedAt time.Time `json:"recorded_at"`
	Note       string    `json:"note"`
	Reverses   string    `json:"reverses,omitempty"`
	ReversedBy string    `json:"reversed_by,omitempty"`
}

const documentSelect = `SELECT d.id, d.kind, d.number, d.branch_id, b.name AS branch, u.name AS who, d.happened_at,
	d.recorded_at, d.note,
	COALESCE(r.number, '') AS reverses, COALESCE(x.number, '') AS reversed_by FROM document d JOIN branch b ON b.id
	= d.branch_id JOIN user u ON u.id = d.user_id
	LEFT JOIN document r ON r.id = d.reverses_id LEFT JOIN document x ON x.reverses_id = d.id `

// Document reads a document by its number.
func Document(q db.Q, number string) (DocumentView, error) {
	var v DocumentView
	err := db.SQL(q).Raw(documentSelect+"WHERE d.number = ?", scan.Document(number)).Scan(&v).Error
	if err == nil && v.ID == 0 {
		err = fault.Missing("document", number, "There is no document %s.", number)
	}
	return v, err
}

// LockDocument is Document, locked until the transaction ends.
func LockDocument(tx db.Tx, number string) (DocumentView, error) {
	var id uint64
	if err := db.SQL(tx.Q).Raw("SELECT id FROM document WHERE number = ? FOR UPDATE",
		scan.Document(number)).Scan(&id).Error; err != nil {
		return DocumentView{}, err
	}
	return Document(tx.Q, number)
}

// Documents lists documents, newest first; a kind narrows it.
func Documents(q db.Q, kind string, page int) ([]DocumentView, bool, error) {
	sql, args := documentSelect, []any{}
	if kind != "" {
		sql += "WHERE d.kind = ? "
		args = append(args, kind)
	}
	var rows []DocumentView
	err := db.SQL(q).
		Raw(sql+"ORDER BY d.id DESC LIMIT ? OFFSET ?", append(args, q.PageRows()+1, (page-1)*q.PageRows())...).
		Scan(&rows).
		Error
	return rows[:min(len(rows), q.PageRows())], len(rows) > q.PageRows(), err
}

// EntryView is an entry of a document with names.
type EntryView struct {
	Line          int             `json:"line"`
	VariantID     uint64          `json:"variant_id"`
	Name          string          `json:"name"`
	Label         string          `json:"label"`
	SKU           string          `gorm:"column:sku" json:"sku"`
	Unit          string          `json:"unit"`
	Shelf         string          `json:"shelf"`
	Condition     string          `json:"condition"`
	Lot           string          `json:"lot"`
	Serial        string          `json:"serial"`
	CameOn        *time.Time      `json:"came_on"` // where that is not the document's day
	Quantity      decimal.Decimal `json:"quantity"`
	Value         decimal.Decimal `json:"value" see:"costs"`
	QuantityAfter decimal.Decimal `json:"quantity_after"`
	ValueAfter    decimal.Decimal `json:"value_after" see:"costs"`
}

// EntryViews lists the entries of a document, a thousand at most.
func EntryViews(q db.Q, document uint64) ([]EntryView, error) {
	var rows []EntryView
	return rows, db.SQL(q).
		Raw(`SELECT e.line, e.variant_id, p.name, v.label, v.sku, p.unit, s.name AS shelf, e.condition,
			COALESCE(l.number, '') AS lot, e.serial, e.came_on, e.quantity, e.value, e.quantity_after, e.value_after
		FROM entry e JOIN variant v ON v.id = e.variant_id JOIN product p ON p.id = v.product_id JOIN shelf s ON
		s.id = e.shelf_id LEFT JOIN lot l ON l.id = e.lot_id
		WHERE e.document_id = ? ORDER BY e.id LIMIT 1000`, document).
		Scan(&rows).
		Error
}

// Postings lists the double entry of a document.
func Postings(q db.Q, document uint64) ([]stock.Posting, error) {
	var rows []stock.Posting
	return rows, db.SQL(q).
		Raw("SELECT account, amount FROM ledger_posting WHERE document_id = ? ORDER BY amount < 0, account", document).
		Scan(&rows).
		Error
}

// Accounts adds up every account of the books.
func Accounts(q db.Q) ([]stock.Posting, error) {
	var rows []stock.Posting
	return rows, db.SQL(q).
		Raw("SELECT account, SUM(amount) AS amount FROM ledger_posting GROUP BY account ORDER BY account").
		Scan(&rows).
		Error
}
