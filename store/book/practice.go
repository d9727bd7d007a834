package book

import (
	"fmt"
	"time"

	"itemrack/store/internal/db"
)

// PracticeSetting says whether what is posted is practice: "on" until the shop
// begins for real.
const PracticeSetting = "practice"

// Practising reports whether what is posted is practice, which can be cleared.
func Practising(q db.Q) (bool, error) {
	value, err := q.Setting(PracticeSetting)
	return value == "on", err
}

// sharePractice keeps a shop that practises from beginning for real until the
// transaction ends. One that has begun never practises again.
func sharePractice(q db.Q, b *db.Batch) error {
	practising, err := Practising(q)
	if practising {
		b.Add(practiceShared)
	}
	return err
}

const practiceShared = "SELECT value FROM setting WHERE name = '" + PracticeSetting + "' LOCK IN SHARE MODE"

// practiceParts is sharePractice as a query before all others: whoever ends the practice
// takes the setting first, too.
func practiceParts(q db.Q) ([]db.Part, error) {
	practising, err := Practising(q)
	if !practising {
		return nil, err
	}
	return []db.Part{{SQL: practiceShared, Row: func(func(into ...any) error) error { return nil }}}, err
}

// LockPractice waits for what is being posted, holds off what would be, and
// reports whether the shop still practises.
func LockPractice(tx db.Tx) (bool, error) {
	var value string
	err := db.SQL(tx.Q).Raw("SELECT value FROM setting WHERE name = ? FOR UPDATE", PracticeSetting).Scan(&value).Error
	return value == "on", err
}

// Practised is what a shop did while it practised.
type Practised struct {
	Documents int64 `json:"documents"`
	Sales     int64 `json:"sales"`
	Entries   int64 `json:"entries"`
	Counts    int64 `json:"counts"`
	Drafts    int64 `json:"drafts"` // deliveries that are not posted
	Open      int64 `json:"open"`   // drawers
}

// ReadPractised counts what a shop did while it practised.
func ReadPractised(q db.Q) (Practised, error) {
	var p Practised
	return p, db.SQL(q).
		Raw(`SELECT (SELECT COUNT(*) FROM document) AS documents, (SELECT COUNT(*) FROM sale) AS sales, (SELECT
			COUNT(*) FROM entry) AS entries,
		(SELECT COUNT(*) FROM shelf_count) AS counts, (SELECT COUNT(*) FROM delivery WHERE document_id IS NULL) AS
		drafts,
		(SELECT COUNT(*) FROM drawer WHERE closed_at IS NULL) AS open`).
		Scan(&p).
		Error
}

// ClearPractice empties the book of a shop that only practised, and all that
// stands on it: the other door into these tables beside Post, and one that
// LockPractice opens. Products, prices, people, settings and labels stay.
func ClearPractice(tx db.Tx, now time.Time) error {
	for _, statement := range []string{
		"UPDATE cost_pool SET quantity = 0, value = 0, last_cost = 0, for_sale = 0", "DELETE FROM product_figure",
		"DELETE FROM approval", "DELETE FROM basket_line", "DELETE FROM basket_voucher", "DELETE FROM basket_back",
		"DELETE FROM basket",
		"DELETE FROM drawer_move", "DELETE FROM drawer_opened", "DELETE FROM tender", "DELETE FROM credit_move",
		"DELETE FROM credit",
		"DELETE FROM number_given",
		"DELETE FROM payment_part", "DELETE FROM payment", "DELETE FROM credit_expected", "DELETE FROM supplier_return",
		"DELETE FROM bill_delivery", "DELETE FROM bill_line", "DELETE FROM bill",
		"DELETE FROM delivery_share", "DELETE FROM delivery_order", "DELETE FROM purchase_order_event",
		"DELETE FROM purchase_order_line",
		"DELETE FROM purchase_order", "DELETE FROM supplied",
		"DELETE FROM return_line", "DELETE FROM sale_return", "DELETE FROM sale_part", "DELETE FROM sale_line",
		"DELETE FROM sale", "DELETE FROM drawer",
		"DELETE FROM delivery_line", "DELETE FROM delivery", "DELETE FROM sending_event", "DELETE FROM sending_line",
		"DELETE FROM sending",
		"DELETE FROM count_event", "DELETE FROM count_row", "DELETE FROM shelf_count",
		"DELETE FROM cost_layer", "DELETE FROM ledger_posting", "DELETE FROM entry", "DELETE FROM balance",
		"DELETE FROM unit", "DELETE FROM lot",
		"DELETE FROM document WHERE reverses_id IS NOT NULL", "DELETE FROM document",
		"DELETE FROM number_range", "DELETE FROM print_job", "DELETE FROM card_charge",
		"DELETE FROM request_key WHERE result <> ''", // that of this very deed has none yet
	} {
		if err := db.SQL(tx.Q).Exec(statement).Error; err != nil {
			return fmt.Errorf("%s: %w", statement, err)
		}
	}
	for more := true; more; {
		var err error
		if more, err = CatchUp(tx, now); err != nil {
			return err
		}
	}
	return nil
}
