package till

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/owed"
	"itemrack/core/sale"
	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// Tendered reads how a document was paid.
func Tendered(q db.Q, document uint64) (sale.Payment, error) {
	paid := sale.Payment{}
	return paid, db.Read(q, db.Part{
		SQL: "SELECT t.kind, t.amount, t.handed, t.reference, COALESCE(t.credit_id, 0), COALESCE(c.code, ''), t.via FROM " +
			"tender t LEFT JOIN credit c ON c.id = t.credit_id WHERE t.document_id = ? ORDER BY t.id",
		Args: []any{document},
		Row: func(scan func(into ...any) error) error {
			var t sale.Tender
			err := scan(&t.Kind, &t.Amount, &t.Handed, &t.Reference, &t.Credit, &t.Code, &t.Via)
			paid = append(paid, t)
			return err
		},
	})
}

// LeftOf reads what is left to give back of each way in which a sale was paid: what paid by an exchange as that had
// been paid, and what was on account as that was paid since. What its other returns gave back by store credit or cash
// does not count.
func LeftOf(q db.Q, document uint64) ([]sale.Tender, error) {
	var left []sale.Tender
	var customer uint64
	const way = "IF(t.kind = 'exchange' AND t.via <> '', t.via, t.kind)"
	err := db.Read(q, db.Part{
		SQL: "SELECT w.kind, SUM(w.amount), w.reference, w.credit, COALESCE(c.code, ''), MAX(w.customer) FROM (SELECT t.id, " +
			way + " AS kind, t.amount, t.reference, COALESCE(t.credit_id, 0) AS credit, COALESCE(t.customer_id, 0) AS customer " +
			"FROM tender t WHERE t.document_id = ? UNION ALL SELECT t.id, " + way + ", t.amount, t.reference, " +
			"COALESCE(t.credit_id, 0), COALESCE(t.customer_id, 0) FROM tender t JOIN sale_return r ON r.document_id = " +
			"t.document_id WHERE r.sale_id = ?) w LEFT JOIN credit c ON c.id = w.credit WHERE c.id IS NULL OR c.blocked_at IS " +
			"NULL GROUP BY w.kind, w.reference, w.credit, c.code ORDER BY MIN(w.id)",
		Args: []any{document, document},
		Row: func(scan func(into ...any) error) error {
			var t sale.Tender
			var of uint64
			err := scan(&t.Kind, &t.Amount, &t.Reference, &t.Credit, &t.Code, &of)
			if t.Kind == sale.OnAccount {
				customer = of
			}
			left = append(left, t)
			return err
		},
	})
	if err != nil || customer == 0 {
		return positive(left), err
	}
	open, by, err := settled(q, customer, document)
	if err != nil {
		return nil, err
	}
	return positive(sale.SettledOf(left, open, by)), nil
}

// positive are the ways of which something is left.
func positive(list []sale.Tender) []sale.Tender {
	return slices.DeleteFunc(list, func(t sale.Tender) bool { return !t.Amount.IsPositive() })
}

// settled is what is open of what a sale put on the account of a customer, and what paid the rest.
func settled(q db.Q, customer, document uint64) (decimal.Decimal, []owed.Payment, error) {
	var debts []owed.Debt
	var payments []owed.Payment
	err := db.Read(q, db.Part{
		SQL: `SELECT COALESCE(r.sale_id, x.sale_id, d.reverses_id, d.id), SUM(t.amount) FROM tender t JOIN document d ON d.id =
			t.document_id LEFT JOIN sale_return r ON r.document_id = d.id LEFT JOIN sale_return x ON x.document_id =
			d.reverses_id LEFT JOIN document o ON o.id = d.reverses_id WHERE t.customer_id = ? AND t.kind = ? AND
			COALESCE(o.kind, d.kind) <> ? GROUP BY 1 ORDER BY 1`,
		Args: []any{customer, sale.OnAccount, stock.AccountPaid},
		Row: func(scan func(into ...any) error) error {
			var one owed.Debt
			err := scan(&one.Document, &one.Amount)
			debts = append(debts, one)
			return err
		},
	}, db.Part{
		SQL: `SELECT p.kind, p.reference, SUM(p.amount) FROM tender t JOIN document d ON d.id = t.document_id JOIN tender p
			ON p.document_id = d.id AND p.kind <> t.kind LEFT JOIN document v ON v.reverses_id = d.id WHERE t.customer_id = ?
			AND t.kind = ? AND d.kind = ? AND v.id IS NULL GROUP BY d.id, p.kind, p.reference ORDER BY d.id`,
		Args: []any{customer, sale.OnAccount, stock.AccountPaid},
		Row: func(scan func(into ...any) error) error {
			var one owed.Payment
			err := scan(&one.Kind, &one.Reference, &one.Amount)
			payments = append(payments, one)
			return err
		},
	})
	if err != nil {
		return decimal.Zero, nil, err
	}
	open, by := owed.Settled(document, debts, payments)
	return open, by, nil
}

// CashBack is what went back of a sale in cash so far: as it was due, and as it was rounded.
func CashBack(q db.Q, document uint64) (exact, given decimal.Decimal, err error) {
	err = db.Read(q, db.Part{
		SQL: `SELECT COALESCE(-SUM(t.amount), 0), COALESCE(-SUM(IF(t.kind = ?, t.amount, 0)), 0) FROM sale_return r JOIN
			tender t ON t.document_id = r.document_id WHERE r.sale_id = ? AND t.kind IN (?, ?)`,
		Args: []any{sale.Cash, document, sale.Cash, sale.CashRounded},
		Row:  func(scan func(into ...any) error) error { return scan(&exact, &given) },
	})
	return exact, given, err
}

// creditColumns are how a voucher or store credit is read.
const creditColumns = "SELECT id, kind, code, balance, given_at, blocked_at, COALESCE(customer_id, 0) FROM " +
	"credit WHERE "

func credits(q db.Q, where string, args ...any) ([]sale.Credit, error) {
	list := []sale.Credit{}
	return list, db.Read(q, db.Part{SQL: creditColumns + where, Args: args, Row: func(scan func(into ...any) error) error {
		var c sale.Credit
		err := scan(&c.ID, &c.Kind, &c.Code, &c.Balance, &c.GivenAt, &c.BlockedAt, &c.Customer)
		list = append(list, c)
		return err
	}})
}

// GivenWith lists the vouchers and store credit that a document gave.
func GivenWith(q db.Q, document uint64) ([]sale.Credit, error) {
	list := []sale.Credit{}
	return list, db.Read(q, db.Part{
		SQL: "SELECT c.id, c.kind, c.code, m.amount, c.given_at, c.blocked_at, COALESCE(c.customer_id, 0) FROM " +
			"credit_move m JOIN " +
			"credit c ON c.id = m.credit_id WHERE m.document_id = ? AND m.id = (SELECT MIN(id) FROM credit_move x WHERE " +
			"x.credit_id = c.id) ORDER BY m.id",
		Args: []any{document},
		Row: func(scan func(into ...any) error) error {
			var c sale.Credit
			err := scan(&c.ID, &c.Kind, &c.Code, &c.Balance, &c.GivenAt, &c.BlockedAt, &c.Customer)
			list = append(list, c)
			return err
		},
	})
}

// ReadVoucher reads a voucher or store credit by its code.
func ReadVoucher(q db.Q, code string) (sale.Credit, error) { return oneCredit(q, code, "") }

// LockVoucher is ReadVoucher, with it locked until the transaction ends.
func LockVoucher(tx db.Tx, code string) (sale.Credit, error) {
	return oneCredit(tx.Q, code, " FOR UPDATE")
}

func oneCredit(q db.Q, code, lock string) (sale.Credit, error) {
	list, err := credits(q, "code = ?"+lock, code)
	if err == nil && len(list) == 0 {
		err = fault.Missing("voucher", code, "The shop never gave a voucher or store credit %s.", code)
	}
	if err != nil {
		return sale.Credit{}, err
	}
	return list[0], nil
}

// VouchersOf lists the store credit of a customer.
func VouchersOf(q db.Q, customer uint64) ([]sale.Credit, error) {
	return credits(q, "customer_id = ? ORDER BY balance > 0 DESC, id DESC LIMIT 50", customer)
}

// Vouchers lists vouchers and store credit, newest first.
func Vouchers(q db.Q, page int) ([]sale.Credit, bool, error) {
	n := q.PageRows()
	rows, err := credits(q, "TRUE ORDER BY id DESC LIMIT ? OFFSET ?", n+1, (page-1)*n)
	return rows[:min(len(rows), n)], len(rows) > n, err
}

// VoucherMove is something that changed what is on a voucher or store credit.
type VoucherMove struct {
	Number string          `json:"number"`
	Kind   string          `json:"kind"`
	At     time.Time       `json:"at"`
	By     string          `json:"by"`
	Amount decimal.Decimal `json:"amount"`
}

// VoucherMoves is the life of a voucher or store credit.
func VoucherMoves(q db.Q, id uint64) ([]VoucherMove, error) {
	var rows []VoucherMove
	return rows, db.SQL(q).Raw("SELECT d.number, d.kind, d.happened_at AS at, u.name AS `by`, m.amount FROM "+
		"credit_move m JOIN "+
		"document d ON d.id = m.document_id JOIN user u ON u.id = d.user_id WHERE m.credit_id = ? ORDER BY m.id", id).
		Scan(&rows).Error
}

// BlockVoucher blocks a voucher or store credit, or lets it be used again.
func BlockVoucher(tx db.Tx, id uint64, at *time.Time) error {
	return db.SQL(tx.Q).Exec("UPDATE credit SET blocked_at = ? WHERE id = ?", at, id).Error
}

// Lowest is the lowest that one of a variant was sold for since a moment, in the whole shop; nil
// when none was.
func Lowest(q db.Q, variant uint64, since time.Time) (*decimal.Decimal, error) {
	var rows []decimal.Decimal
	err := db.SQL(q).Raw(`SELECT FLOOR(MIN(l.paid / l.quantity) * 10000) / 10000 FROM sale_line l JOIN document d ON
		d.id = l.document_id WHERE l.variant_id = ? AND d.happened_at >= ? AND l.quantity > 0 AND NOT EXISTS (SELECT
		1 FROM document x
		WHERE x.reverses_id = d.id) HAVING MIN(l.paid) IS NOT NULL`, variant, since).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	return &rows[0], nil
}

// OwedNumber is a thing that was sold before its serial number was noted.
type OwedNumber struct {
	SaleLineID uint64    `json:"sale_line_id"`
	Sale       string    `json:"sale"`
	At         time.Time `json:"at"`
	VariantID  uint64    `json:"variant_id"`
	Name       string    `json:"name"`
	Detail     string    `json:"detail"`
	Serials    string    `json:"-"` // the one that stands in
	DocumentID uint64    `json:"-"`
	BranchID   uint64    `json:"branch_id"`
}

// Owing lists the things whose serial numbers are owed, the oldest first.
func Owing(q db.Q, most int) ([]OwedNumber, error) {
	rows := []OwedNumber{}
	return rows, db.SQL(q).Raw(`SELECT l.id AS sale_line_id, d.number AS sale, d.happened_at AS at, l.variant_id,
		l.name, l.detail,
		l.serials, l.document_id, d.branch_id FROM sale_line l FORCE INDEX (owing) JOIN document d ON d.id =
		l.document_id WHERE l.owed AND NOT EXISTS
		(SELECT 1 FROM document x WHERE x.reverses_id = d.id) ORDER BY l.document_id, l.line LIMIT
		?`, most).Scan(&rows).Error
}

// LockOwed reads a line whose number is owed, locked until the transaction ends.
func LockOwed(tx db.Tx, line uint64) (OwedNumber, error) {
	var row OwedNumber
	err := db.SQL(tx.Q).Raw(`SELECT l.id AS sale_line_id, d.number AS sale, d.happened_at AS at, l.variant_id,
		l.name, l.detail, l.serials,
		l.document_id, d.branch_id FROM sale_line l JOIN document d ON d.id = l.document_id WHERE l.id = ? AND l.owed
		FOR UPDATE`, line).
		Scan(&row).Error
	if err == nil && row.SaleLineID == 0 {
		err = fault.Clash("sale_line_id", line, "a line whose number is owed", "That number was given already.")
	}
	return row, err
}

// WithNumber is the rows of a number that is given, written with its document; the line costs what
// that unit cost.
func WithNumber(line uint64, number string, dearer decimal.Decimal) func(b *db.Batch) {
	return func(b *db.Batch) {
		b.Add("UPDATE sale_line SET owed = FALSE, serials = ?, cost = cost + ? WHERE id = ?", number, dearer, line)
		b.Add("INSERT INTO number_given (document_id, sale_line_id) VALUES (@document, ?)", line)
	}
}

// NumbersGiven reports whether a sale was given a serial number that it owed.
func NumbersGiven(q db.Q, document uint64) (bool, error) {
	var n int
	err := db.SQL(q).Raw("SELECT COUNT(*) FROM number_given g JOIN sale_line l ON l.id = g.sale_line_id WHERE "+
		"l.document_id = ?",
		document).Scan(&n).Error
	return n > 0, err
}
