package customers

import (
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/customer"
	"itemrack/core/fault"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// Customer is a row of the customers. MergedInto is the one that this one was made one with.
type Customer struct {
	ID          uint64     `json:"id"`
	Name        string     `json:"name"`
	NameKey     string     `json:"-"`
	Mail        string     `json:"mail"`
	MailKey     string     `json:"-"`
	Phone       string     `json:"phone"`
	PhoneKey    string     `json:"-"`
	Address     string     `json:"address"`
	Note        string     `json:"note"`
	PriceListID *uint64    `json:"price_list_id"`
	DaysToPay   *int       `json:"days_to_pay"`
	CreatedAt   time.Time  `json:"created_at"`
	ForgottenAt *time.Time `json:"forgotten_at"`
	MergedInto  *uint64    `json:"merged_into"`
	Revision    uint64     `json:"revision"`
}

// Code is what the customer's card says.
func (c Customer) Code() string { return customer.Code(c.ID) }

// Gone reports whether the customer was merged or forgotten.
func (c Customer) Gone() bool { return c.ForgottenAt != nil || c.MergedInto != nil }

// List is the price list of the customer; 0 for none of its own.
func (c Customer) List() uint64 {
	if c.PriceListID == nil {
		return 0
	}
	return *c.PriceListID
}

// Put fills a row with facts.
func (c *Customer) Put(f customer.Facts) {
	c.Name, c.NameKey, c.Mail, c.MailKey = f.Name, text.Key(f.Name), f.Mail, text.Key(f.Mail)
	c.Phone, c.PhoneKey, c.Address, c.Note, c.DaysToPay = f.Phone, customer.Digits(f.Phone), f.Address, f.Note, f.DaysToPay
	c.PriceListID = nil
	if f.List != 0 {
		c.PriceListID = &f.List
	}
}

// Read reads a customer; one that was merged is the one that it was made one with.
func Read(q db.Q, id uint64) (Customer, error) { return read(q, id, "") }

// Lock is Read, with the customer locked until the transaction ends.
func Lock(tx db.Tx, id uint64) (Customer, error) { return read(tx.Q, id, " FOR UPDATE") }

func read(q db.Q, id uint64, lock string) (Customer, error) {
	var row Customer
	for asked, hops := id, 0; hops < 8; hops++ {
		row = Customer{}
		if err := db.SQL(q).Raw("SELECT * FROM customer WHERE id = ?"+lock, asked).Scan(&row).Error; err != nil {
			return row, err
		}
		if row.MergedInto == nil {
			break
		}
		asked = *row.MergedInto
	}
	if row.ID == 0 {
		return row, fault.Missing("customer_id", id, "There is no customer %d.", id)
	}
	return row, nil
}

// Save writes a customer; a new one gets its number, and each write another revision.
func Save(tx db.Tx, row *Customer) error {
	if row.ID != 0 {
		row.Revision++
	}
	return db.SQL(tx.Q).Save(row).Error
}

// Row is a customer in a list.
type Row struct {
	Customer
	Sales int             `json:"sales"`
	Paid  decimal.Decimal `json:"paid"`
	Owes  decimal.Decimal `json:"owes"`
	Last  *time.Time      `json:"last_at"`
}

// Find lists the customers that words, a mail address, a phone number or a card's code find, by
// name; none lists all.
func Find(q db.Q, words string, page int) ([]Row, bool, error) {
	where, args := "c.merged_into IS NULL AND c.forgotten_at IS NULL", []any{}
	if id, ok := customer.Card(words); ok {
		row, err := Read(q, id) // the card of one who was merged is the other's
		if fault.Of(err) == nil && err != nil {
			return nil, false, err
		}
		where, args = where+" AND c.id = ?", append(args, row.ID)
	} else if key := text.Key(words); key != "" {
		any := []string{"c.mail_key LIKE ?"}
		args = append(args, db.Like(key)+"%")
		if digits := customer.Digits(words); len(digits) >= 3 && strings.Trim(key, "0123456789 +()-./") == "" {
			any, args = append(any, "c.phone_key LIKE ?"), append(args, "%"+strings.TrimPrefix(digits, "0")+"%")
		}
		var named []string
		for _, word := range strings.Fields(key) {
			named, args = append(named, "c.name_key LIKE ?"), append(args, "%"+db.Like(word)+"%")
		}
		where += " AND (" + strings.Join(append(any, "("+strings.Join(named, " AND ")+")"), " OR ") + ")"
	}
	n := q.PageRows()
	var ids []uint64
	err := db.SQL(q).Raw("SELECT c.id FROM customer c WHERE "+where+" ORDER BY c.name_key, c.id LIMIT ? OFFSET ?",
		append(args, n+1, (page-1)*n)...).Scan(&ids).Error
	if err != nil || len(ids) == 0 {
		return nil, false, err
	}
	more := len(ids) > n
	ids = ids[:min(len(ids), n)]
	var rows []Row
	err = db.SQL(q).Raw(`SELECT c.*, COALESCE(s.sales, 0) AS sales, COALESCE(s.paid, 0) AS paid, s.last,
		COALESCE(t.owes, 0) AS owes FROM customer c LEFT JOIN (SELECT s.customer_id, COUNT(*) AS sales, SUM(s.gross)
		AS paid,
			MAX(d.happened_at) AS last FROM sale s JOIN document d ON d.id = s.document_id LEFT JOIN document x ON
			x.reverses_id = d.id WHERE s.customer_id IN (` + db.IDs(ids) + `) AND x.id IS NULL GROUP BY
			s.customer_id) s ON
			s.customer_id = c.id
		LEFT JOIN (SELECT customer_id, SUM(amount) AS owes FROM tender WHERE kind = 'on account' AND customer_id IN (` +
		db.IDs(ids) + `) GROUP BY customer_id) t ON t.customer_id = c.id
		WHERE c.id IN (` + db.IDs(ids) + `) ORDER BY c.name_key, c.id`).Scan(&rows).Error
	return rows, more, err
}

// Event is something that a customer did: a sale or a return.
type Event struct {
	Number     string          `json:"number"`
	Kind       string          `json:"kind"`
	HappenedAt time.Time       `json:"happened_at"`
	Branch     string          `json:"branch"`
	Amount     decimal.Decimal `json:"amount"`
	Void       bool            `json:"void"`
}

// Events lists the sales and returns of a customer, newest first.
func Events(q db.Q, id uint64, page int) ([]Event, bool, error) {
	n := q.PageRows()
	var rows []Event
	err := db.SQL(q).Raw(`SELECT d.number, d.kind, d.happened_at, b.name AS branch, x.amount,
		EXISTS (SELECT 1 FROM document v WHERE v.reverses_id = d.id) AS void FROM (
			SELECT document_id, gross + vouchers AS amount FROM sale WHERE customer_id = ? UNION ALL
			SELECT document_id, -amount FROM sale_return WHERE customer_id = ? UNION ALL
			SELECT document_id, amount FROM tender WHERE customer_id = ? AND kind = 'on account' AND document_id IN
				(SELECT id FROM document WHERE kind = 'Account paid')) x
		JOIN document d ON d.id = x.document_id JOIN branch b ON b.id = d.branch_id
		ORDER BY d.happened_at DESC, d.id DESC LIMIT ? OFFSET ?`, id, id, id, n+1, (page-1)*n).Scan(&rows).Error
	return rows[:min(len(rows), n)], len(rows) > n, err
}

// Bought is a thing that a customer bought.
type Bought struct {
	Sale      string          `json:"sale"`
	Line      int             `json:"line"`
	At        time.Time       `json:"at"`
	VariantID uint64          `json:"variant_id"`
	Name      string          `json:"name"`
	Detail    string          `json:"detail"`
	Serials   string          `json:"serials"`
	Quantity  decimal.Decimal `json:"quantity"`
	Back      decimal.Decimal `json:"back"`
	Paid      decimal.Decimal `json:"paid"`
}

// Things lists what a customer bought last; numbered ones alone, where that is asked.
func Things(q db.Q, id uint64, numbered bool, most int) ([]Bought, error) {
	var rows []Bought
	where := ""
	if numbered {
		where = " AND l.serials <> ''"
	}
	return rows, db.SQL(q).Raw(`SELECT d.number AS sale, l.line, d.happened_at AS at, l.variant_id, l.name, l.detail,
		l.serials,
		l.quantity, l.paid, COALESCE((SELECT SUM(quantity) FROM return_line r WHERE r.sale_line_id = l.id), 0) AS back
		FROM sale s JOIN document d ON d.id = s.document_id JOIN sale_line l ON l.document_id = s.document_id
		LEFT JOIN document v ON v.reverses_id = d.id WHERE s.customer_id = ? AND v.id IS NULL`+where+`
		ORDER BY d.id DESC, l.line LIMIT ?`, id, most).Scan(&rows).Error
}

// Owes is what a customer owes on account.
func Owes(q db.Q, id uint64) (decimal.Decimal, error) {
	var sum decimal.Decimal
	return sum, db.SQL(q).Raw("SELECT COALESCE(SUM(amount), 0) FROM tender WHERE kind = 'on account' AND "+
		"customer_id = ?", id).
		Scan(&sum).Error
}

// Merge hands all that one customer did to another.
func Merge(tx db.Tx, keep, other uint64) error {
	b := new(db.Batch)
	for _, table := range []string{"sale", "sale_return", "basket", "credit", "tender"} {
		b.Add("UPDATE "+table+" SET customer_id = ? WHERE customer_id = ?", keep, other)
	}
	b.Add("UPDATE customer SET merged_into = ?, revision = revision + 1 WHERE id = ?", keep, other)
	return b.Run(tx)
}
