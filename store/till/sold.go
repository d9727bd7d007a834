package till

import (
	"cmp"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/money"
	"itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/stock"
	"itemrack/store/book"
	"itemrack/store/internal/db"
)

// Sold is the rows of a sale: whose basket it was made of (0 for none), its lines and what they
// took, how it was paid, and the vouchers that it gives.
type Sold struct {
	Sale
	Lines    []sale.Selling
	Taken    []sale.Taken
	Whys     map[uint64]string // reasons by number
	Paid     sale.Payment
	Vouchers []sale.Credit
	BasketID uint64
	At       time.Time
}

// SaleColumns are the columns of a sale, LineColumns those of its lines and TenderColumns those of how a document was
// paid.
var (
	SaleColumns = append(db.Columns("register_id", "drawer_id", "gross", "tax"), db.Column{Name: "customer_id"},
		db.Column{Name: "off_why", Default: ""}, db.Column{Name: "vouchers", Default: decimal.Zero},
		db.Column{Name: "note", Default: ""})
	LineColumns = append(db.Columns("line", "variant_id", "name", "detail", "sku", "quantity", "price", "percent",
		"paid", "tax", "cost"), db.Column{Name: "serials", Default: ""}, db.Column{Name: "pack", Default: ""},
		db.Column{Name: "factor", Default: decimal.New(1, 0)}, db.Column{Name: "with_tax", Default: true},
		db.Column{Name: "list_price"}, db.Column{Name: "off", Default: decimal.Zero},
		db.Column{Name: "own_off", Default: decimal.Zero}, db.Column{Name: "off_why", Default: ""},
		db.Column{Name: "note", Default: ""}, db.Column{Name: "owed", Default: false},
		db.Column{Name: "`condition`", Default: stock.ForSale}, db.Column{Name: "passed_over", Default: ""})
	TenderColumns = append(db.Columns("drawer_id", "kind", "amount"), db.Column{Name: "handed", Default: decimal.Zero},
		db.Column{Name: "reference", Default: ""}, db.Column{Name: "credit_id"}, db.Column{Name: "customer_id"},
		db.Column{Name: "via", Default: ""})
)

// WithSale is the rows of a sale, written with its document; the basket that it was made
// of goes.
func WithSale(s Sold) book.With {
	return func(b *db.Batch) {
		var customer any
		if s.CustomerID != nil {
			customer = *s.CustomerID
		}
		b.AddRows("sale", SaleColumns, [][]any{{s.RegisterID, s.DrawerID, s.Gross, s.Tax, customer, s.OffWhy,
			s.Sale.Vouchers, s.Note}})
		rows := make([][]any, len(s.Lines))
		for i, l := range s.Lines {
			total, included := l.Sum.Figures()
			rows[i] = []any{i + 1, l.Sellable.ID, l.Name, l.Detail(l.BasketLine), l.SKU, l.Units, l.Sum.Price,
				l.Sum.Percent, total, included, s.Taken[i].Cost, l.Serial, l.Pack.Name, l.Pack.Factor, !l.Sum.Untaxed,
				l.ListPrice, l.Sum.Off, l.Own, s.Whys[cmp.Or(l.Off.Reason, l.Shared.Reason)], l.Note, l.Owed, l.From(),
				s.Taken[i].PassedOver}
		}
		b.AddRows("sale_line", LineColumns, rows)
		for i, t := range s.Taken {
			for _, p := range t.Parts {
				b.Add(
					"INSERT INTO sale_part (sale_line_id, variant_id, quantity, cost, serials) SELECT id, ?, ?, ?, "+
						"? FROM sale_line WHERE document_id = @document AND line = ?",
					p.Variant, p.Quantity, p.Cost, serial.Keep(p.Serials), i+1)
			}
		}
		tenders(b, s.DrawerID, s.CustomerID, s.Paid)
		for _, v := range s.Vouchers {
			giveCredit(b, v, s.At)
		}
		if s.BasketID != 0 {
			b.Add("UPDATE approval SET document_id = @document, basket_id = NULL WHERE basket_id = ?", s.BasketID)
			dropBasket(b, s.BasketID)
		}
	}
}

// tenders writes how a document was paid, and what that leaves on vouchers and store credit.
func tenders(b *db.Batch, drawer uint64, customer *uint64, paid sale.Payment) {
	if len(paid) == 0 {
		return
	}
	rows := make([][]any, len(paid))
	for i, t := range paid {
		var credit, who any
		if t.Credit != 0 {
			credit = t.Credit
		}
		if t.Kind == sale.OnAccount && customer != nil {
			who = *customer
		}
		rows[i] = []any{drawer, t.Kind, t.Amount, t.Handed, t.Reference, credit, who, t.Via}
	}
	b.AddRows("tender", TenderColumns, rows)
	for _, t := range paid {
		if t.Credit != 0 && t.Kind != sale.Exchange {
			b.Add("UPDATE credit SET balance = balance - ? WHERE id = ?", t.Amount, t.Credit)
			b.Add("INSERT INTO credit_move (credit_id, document_id, amount) VALUES (?, @document, ?)", t.Credit, t.Amount.Neg())
		}
	}
}

// WithPaid is how a document was paid that is neither a sale nor a return, written with it.
func WithPaid(drawer, customer uint64, paid sale.Payment) book.With {
	return func(b *db.Batch) { tenders(b, drawer, &customer, paid) }
}

// WithInstead is how a customer got in another way what a card can't be given, with the store credit
// that was given for it, if one was.
func WithInstead(drawer uint64, paid sale.Payment, given *sale.Credit, at time.Time) book.With {
	return func(b *db.Batch) {
		tenders(b, drawer, nil, paid)
		giveNew(b, given, at)
	}
}

// giveCredit writes a new voucher or store credit.
func giveCredit(b *db.Batch, c sale.Credit, at time.Time) {
	var who any
	if c.Customer != 0 {
		who = c.Customer
	}
	b.Add("INSERT INTO credit (kind, code, customer_id, balance, given_at) VALUES (?, ?, ?, ?, ?)", c.Kind, c.Code, who,
		c.Balance, at)
	b.Add("INSERT INTO credit_move (credit_id, document_id, amount) VALUES (LAST_INSERT_ID(), @document, ?)", c.Balance)
}

// WithReturn is the rows of a return, written with its document: how it was paid back, and the
// new store credit that was given for it.
func WithReturn(r SaleReturn, lines []sale.BackLine, back sale.Payment, given *sale.Credit, at time.Time) book.With {
	return func(b *db.Batch) {
		b.Add("INSERT INTO sale_return (document_id, sale_id, drawer_id, amount, tax, customer_id) VALUES "+
			"(@document, ?, ?, ?, ?, ?)",
			r.SaleID, r.DrawerID, r.Amount, r.Tax, r.CustomerID)
		for _, l := range lines {
			var of any
			if l.SoldLine != 0 {
				of = l.SoldLine
			}
			b.Add(
				"INSERT INTO return_line (document_id, sale_line_id, variant_id, serials, `condition`, quantity, amount, tax, "+
					"cost) VALUES (@document, ?, ?, ?, ?, ?, ?, ?, ?)",
				of, l.Variant, serial.Keep(l.Serials), l.Condition, l.Quantity, l.Amount, l.Tax, l.Cost)
		}
		tenders(b, r.DrawerID, r.CustomerID, back)
		giveNew(b, given, at)
	}
}

// WithReturnBack takes back, with its reversal, that things came back: its rows stand against those of the return.
func WithReturnBack(document uint64) book.With {
	return func(b *db.Batch) {
		b.Add("INSERT INTO sale_return (document_id, sale_id, drawer_id, amount, tax, customer_id) SELECT @document, "+
			"sale_id, drawer_id, -amount, -tax, customer_id FROM sale_return WHERE document_id = ?", document)
		b.Add("INSERT INTO return_line (document_id, sale_line_id, variant_id, serials, `condition`, quantity, amount, tax, "+
			"cost) SELECT @document, sale_line_id, variant_id, serials, `condition`, -quantity, -amount, -tax, -cost FROM "+
			"return_line WHERE document_id = ?", document)
	}
}

// giveNew writes the new store credit that a document gives, if it gives one, and that its tender is it.
func giveNew(b *db.Batch, given *sale.Credit, at time.Time) {
	if given == nil {
		return
	}
	giveCredit(b, *given, at)
	b.Add("UPDATE tender SET credit_id = (SELECT id FROM credit WHERE code = ?) WHERE document_id = @document AND "+
		"kind = ? AND credit_id IS NULL", given.Code, sale.ByCredit)
}

// WithVoid takes back, with the reversal of a sale or a payment, how it was paid, in a drawer: vouchers and store
// credit have again what was on them, and what was given with the sale is worth nothing.
func WithVoid(document, drawer uint64) book.With {
	return func(b *db.Batch) {
		b.Add("INSERT INTO tender (document_id, drawer_id, kind, amount, handed, reference, credit_id, customer_id, via) "+
			"SELECT @document, ?, kind, -amount, -handed, reference, credit_id, customer_id, via FROM tender WHERE document_id = ?",
			drawer, document)
		b.Add("UPDATE credit c JOIN credit_move m ON m.credit_id = c.id SET c.balance = c.balance - m.amount WHERE "+
			"m.document_id = ?", document)
		b.Add("INSERT INTO credit_move (credit_id, document_id, amount) SELECT credit_id, @document, -amount "+
			"FROM credit_move "+
			"WHERE document_id = ?", document)
	}
}

// SoldLines gives the lines of a sale to the rule of returns, with what is still out of
// its lots.
func (v SaleView) SoldLines(out map[int][]sale.LotOut, minor money.Minor) ([]sale.SoldLine, error) {
	lines := make([]sale.SoldLine, len(v.Lines))
	for i, l := range v.Lines {
		var err error
		if lines[i], err = l.core(); err != nil {
			return nil, err
		}
		lines[i].Out, lines[i].Minor = out[l.Line], minor
	}
	return lines, nil
}

// LotsOut lists, by line, the lots of a sale that are still out, in the order they went.
func LotsOut(q db.Q, document uint64) (map[int][]sale.LotOut, error) {
	out := map[int][]sale.LotOut{}
	return out, db.Read(
		q,
		db.Part{SQL: `SELECT line, variant_id, lot_id, -SUM(quantity) FROM entry WHERE lot_id <> 0 AND
		document_id IN (SELECT ? UNION ALL SELECT document_id FROM sale_return WHERE sale_id = ?) GROUP BY line,
		variant_id, lot_id ORDER BY line, MIN(id)`, Args: []any{document, document},
			Row: func(scan func(into ...any) error) error {
				var line int
				var o sale.LotOut
				err := scan(&line, &o.Variant, &o.Lot, &o.Quantity)
				out[line] = append(out[line], o)
				return err
			}},
	)
}
