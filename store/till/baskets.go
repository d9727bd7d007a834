package till

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/store/internal/db"
)

// DropBasket ends a basket: it was paid, or given up.
func DropBasket(tx db.Tx, id uint64) error {
	b := new(db.Batch)
	b.Add("UPDATE approval SET basket_id = NULL WHERE basket_id = ?", id) // what was said yes to stays on the list
	dropBasket(b, id)
	return b.Run(tx)
}

// BasketPaid lets a basket go on which things only came back; what was approved on it is kept with
// the document.
func BasketPaid(tx db.Tx, id, document uint64) error {
	b := new(db.Batch)
	b.Add("UPDATE approval SET document_id = ?, basket_id = NULL WHERE basket_id = ?", document, id)
	dropBasket(b, id)
	return b.Run(tx)
}

func dropBasket(b *db.Batch, id uint64) {
	for _, table := range []string{"basket_line", "basket_voucher", "basket_back"} {
		b.Add("DELETE FROM "+table+" WHERE basket_id = ?", id)
	}
	b.Add("DELETE FROM basket WHERE id = ?", id)
}

// Basket is a sale while it is being made, at the prices of a list; a register
// has one open at a time. One on hold has none, and a name.
type Basket struct {
	ID             uint64          `json:"id"`
	RegisterID     uint64          `json:"register_id"`
	BranchID       uint64          `json:"branch_id"`
	OpenRegisterID *uint64         `json:"open_register_id"`
	UserID         uint64          `json:"user_id"`
	OpenedAt       time.Time       `json:"opened_at"`
	PriceListID    uint64          `json:"price_list_id"`
	Name           string          `json:"name"`
	HeldAt         *time.Time      `json:"held_at"`
	CustomerID     *uint64         `json:"customer_id"`
	Note           string          `json:"note"`
	OffKind        string          `json:"off_kind"`
	OffValue       decimal.Decimal `json:"off_value"`
	OffReasonID    uint64          `json:"off_reason_id"`
	// Granted is how much somebody who may said can be given off all of it, ListAgreed that they said yes to its list.
	Granted    decimal.Decimal `json:"granted"`
	ListAgreed bool            `json:"list_agreed"`
}

// CurrentBasket reads the basket that a register is at; ID is 0 for none.
func CurrentBasket(q db.Q, register uint64) (Basket, error) {
	var t Basket
	return t, db.SQL(q).Raw("SELECT * FROM basket WHERE open_register_id = ?", register).Scan(&t).Error
}

// LockBasket reads a basket, locked until the transaction ends.
func LockBasket(tx db.Tx, id uint64) (Basket, error) {
	var t Basket
	if err := db.SQL(tx.Q).Raw("SELECT * FROM basket WHERE id = ? FOR UPDATE", id).Scan(&t).Error; err != nil {
		return t, err
	}
	if t.ID == 0 {
		return t, fault.Clash("basket_id", id, "a basket that is there", "That basket has been paid or given up already.")
	}
	return t, nil
}

// SaveBasket writes the head of a basket.
func SaveBasket(tx db.Tx, b *Basket) error {
	err := db.SQL(tx.Q).Select("*").Save(b).Error
	if db.Duplicate(err) {
		return fault.Clash("register", b.RegisterID, "a register without a basket", "That register is at another basket.")
	}
	return err
}

// MoveLines moves lines from one basket to another; none named moves all of them, with what comes
// back and the vouchers.
func MoveLines(tx db.Tx, from, to uint64, lines []uint64) error {
	b := new(db.Batch)
	if lines != nil {
		b.Add("UPDATE basket_line SET basket_id = ? WHERE basket_id = ? AND id IN ("+db.IDs(lines)+")", to, from)
		return b.Run(tx)
	}
	for _, table := range []string{"basket_line", "basket_voucher", "basket_back", "approval"} {
		b.Add("UPDATE "+table+" SET basket_id = ? WHERE basket_id = ?", to, from)
	}
	return b.Run(tx)
}

// Held is a basket on hold, as its slip shows it.
type Held struct {
	ID       uint64    `json:"id"`
	Name     string    `json:"name"`
	HeldAt   time.Time `json:"held_at"`
	By       string    `json:"by"`
	Register string    `json:"register"`
	Customer string    `json:"customer"`
	Lines    int       `json:"lines"`
}

// OnHold lists the baskets on hold at a branch, the first put by first.
func OnHold(q db.Q, branch uint64) ([]Held, error) {
	rows := []Held{}
	return rows, db.Read(q, heldPart(&rows, "b.branch_id = ?", branch))
}

// HeldOf lists the baskets on hold of a customer.
func HeldOf(q db.Q, customer uint64) ([]Held, error) {
	rows := []Held{}
	return rows, db.Read(q, heldPart(&rows, "b.customer_id = ?", customer))
}

func heldPart(rows *[]Held, where string, args ...any) db.Part {
	return db.Part{SQL: `SELECT b.id, b.name, b.held_at, u.name, r.name, COALESCE(c.name, ''),
		(SELECT COUNT(*) FROM basket_line l WHERE l.basket_id = b.id) + (SELECT COUNT(*) FROM basket_back l WHERE
		l.basket_id = b.id) +
		(SELECT COUNT(*) FROM basket_voucher l WHERE l.basket_id = b.id) FROM basket b JOIN user u ON u.id = b.user_id
		JOIN register r ON r.id = b.register_id LEFT JOIN customer c ON c.id = b.customer_id
		WHERE b.held_at IS NOT NULL AND ` + where + ` ORDER BY b.held_at, b.id LIMIT 50`, Args: args,
		Row: func(scan func(into ...any) error) error {
			var h Held
			err := scan(&h.ID, &h.Name, &h.HeldAt, &h.By, &h.Register, &h.Customer, &h.Lines)
			*rows = append(*rows, h)
			return err
		}}
}

// Around is what is around a register: its branch, the baskets on hold there, what the branches are
// called, and how many minutes the others are away.
type Around struct {
	Branch uint64
	Held   []Held
	ways   ways
}

// ways say what branches are called, and how many minutes it takes from one to another.
type ways struct {
	names   map[uint64]string
	minutes map[[2]uint64]int
}

// Name is what a branch is called.
func (a Around) Name(branch uint64) string { return a.ways.names[branch] }

// Minutes is how many minutes another branch is away, where that is known.
func (a Around) Minutes(branch uint64) (int, bool) {
	n, known := a.ways.minutes[[2]uint64{a.Branch, branch}]
	return n, known
}

// AroundAt is what is around the registers of a branch, and the queries that read it.
func AroundAt(q db.Q, branch uint64) (*Around, []db.Part, error) {
	a := &Around{Branch: branch, Held: []Held{}}
	parts, err := waysParts(q, &a.ways)
	return a, append(parts, heldPart(&a.Held, "b.branch_id = ?", branch)), err
}

// waysParts are the queries of the ways, or none where a copy is kept.
func waysParts(q db.Q, into *ways) ([]db.Part, error) {
	return db.Copied(q, "ways", into, func(into *ways) []db.Part {
		*into = ways{map[uint64]string{}, map[[2]uint64]int{}}
		return []db.Part{
			{SQL: "SELECT id, name FROM branch", Row: func(scan func(into ...any) error) error {
				var id uint64
				var name string
				err := scan(&id, &name)
				into.names[id] = name
				return err
			}},
			{SQL: "SELECT from_id, to_id, minutes FROM branch_way", Row: func(scan func(into ...any) error) error {
				var pair [2]uint64
				var minutes int
				err := scan(&pair[0], &pair[1], &minutes)
				into.minutes[pair] = minutes
				return err
			}},
		}
	})
}

// parts are the queries of what is around a register of which the branch is not known yet.
func (a *Around) parts(q db.Q, register uint64) ([]db.Part, error) {
	parts, err := waysParts(q, &a.ways)
	return append(parts, db.Part{SQL: "SELECT branch_id FROM register WHERE id = ?", Args: []any{register},
		Row: func(scan func(into ...any) error) error { return scan(&a.Branch) }},
		heldPart(&a.Held, "b.branch_id = (SELECT branch_id FROM register WHERE id = ?)", register)), err
}

// known refuses a register that there is not.
func (a *Around) known(err error, register uint64) error {
	if err == nil && a.Branch == 0 {
		err = fault.Missing("register", register, "There is no register %d.", register)
	}
	return err
}

// AddVoucher puts a voucher on a basket that it is to give.
func AddVoucher(tx db.Tx, basket uint64, amount decimal.Decimal) error {
	return db.SQL(tx.Q).Exec("INSERT INTO basket_voucher (basket_id, amount) VALUES (?, ?)", basket, amount).Error
}

// DropVoucher takes the nth voucher, from 0, off a basket.
func DropVoucher(tx db.Tx, basket uint64, n int) error {
	return db.SQL(tx.Q).Exec("DELETE FROM basket_voucher WHERE id = (SELECT id FROM (SELECT id FROM basket_voucher WHERE "+
		"basket_id = ? ORDER BY id LIMIT 1 OFFSET ?) x)", basket, n).Error
}

// AddBack puts something that comes back on a basket; sale is its document, 0 without a receipt.
func AddBack(tx db.Tx, basket, sale uint64, b Back) error {
	var of any
	if sale != 0 {
		of = sale
	}
	return db.SQL(tx.Q).Exec("INSERT INTO basket_back (basket_id, sale_id, line, variant_id, quantity, "+
		"`condition`, serials, price, "+
		"cost, lot_id, amount) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)", basket, of, b.Line, b.Variant, b.Quantity,
		b.Condition, b.Serials, b.Price,
		b.Cost, b.Lot, b.Amount).Error
}

// DropBack takes something that comes back off a basket; it reports whether it was there.
func DropBack(tx db.Tx, basket, id uint64) (bool, error) {
	done := db.SQL(tx.Q).Exec("DELETE FROM basket_back WHERE basket_id = ? AND id = ?", basket, id)
	return done.RowsAffected > 0, done.Error
}
