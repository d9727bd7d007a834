package till

import (
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/sale"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/internal/db"
)

// Till is what a deed at a register needs: the register, its open drawer (0 for none)
// and the basket that it is at (0 for none). The drawer can't be cashed up, and the
// basket not changed, until the transaction ends.
type Till struct {
	Register uint64
	Branch   uint64
	Code     string
	Name     string
	At       string // the branch's name
	Shop     string
	Practice bool
	Drawer   uint64
	BasketID uint64
	sale.Basket
	Backs []Back
}

// Opening is a register that is being read: its queries can be sent with others.
type Opening struct {
	register, basket uint64
	alone            bool
	scanned          *goods.Lookup
	held             func() []db.Part
	till             Till
}

// Open begins to read a register with a basket; 0 is the one that it is at.
func Open(register, basket uint64) *Opening { return &Opening{register: register, basket: basket} }

// OpenAlone begins to read a register without a basket: the one that it is at is left alone.
func OpenAlone(register uint64) *Opening { return &Opening{register: register, alone: true} }

// Scanned sends the first way to look up what was scanned with the queries.
func (o *Opening) Scanned(l *goods.Lookup) { o.scanned = l }

// Holding sends the queries that hold what is sold with the others, for a shop that is set as q takes it to be.
func (o *Opening) Holding(q db.Q, f *book.First) { o.held = func() []db.Part { return f.Parts(q) } }

// Ahead sends the queries as a transaction begins.
func (o *Opening) Ahead() db.Ahead { return db.NewAhead(o.parts) }

func (o *Opening) parts() []db.Part {
	o.till = Till{Register: o.register, Basket: sale.Basket{List: price.Regular, Usual: price.Regular}}
	parts := []db.Part{{SQL: "SELECT id FROM drawer WHERE open_register_id = ? LOCK IN SHARE MODE",
		Args: []any{o.register},
		Row:  func(scan func(into ...any) error) error { return scan(&o.till.Drawer) }}}
	if !o.alone {
		parts = slices.Concat(parts, o.till.basketParts(o.register, o.basket), o.scanned.First())
	}
	if o.held != nil {
		parts = append(parts, o.held()...)
	}
	return parts
}

// Till is what was read.
func (o *Opening) Till(tx db.Tx) (Till, error) {
	t := o.till
	var all map[uint64]desk
	parts, err := desksParts(tx.Q, &all)
	if err != nil {
		return t, err
	}
	if err := db.Read(tx.Q, parts...); err != nil {
		return t, err
	}
	at, known := all[o.register]
	if !known {
		return t, fault.Missing("register", o.register, "There is no register %d.", o.register)
	}
	t.Branch, t.Code, t.Name, t.At = at.branch, at.code, at.name, at.branchName
	if t.Practice, err = book.Practising(tx.Q); err != nil {
		return t, err
	}
	t.Shop, err = tx.Setting("shop_name")
	return t, err
}

// OpenTill reads a register with a basket, in one round trip. Basket 0 takes the one that the register is at.
func OpenTill(tx db.Tx, register, basket uint64) (Till, error) {
	o := Open(register, basket)
	if err := db.Read(tx.Q, o.parts()...); err != nil {
		return o.till, err
	}
	return o.Till(tx)
}

// basketParts read the basket of a register, which is locked; 0 is the one that it is at.
func (t *Till) basketParts(register, basket uint64) []db.Part {
	which, id := "open_register_id = ?", register
	if basket != 0 {
		which, id = "id = ? AND register_id = "+db.IDs([]uint64{register}), basket
	}
	return []db.Part{headPart(&t.BasketID, &t.Basket, which, id, " FOR UPDATE"), linesPart(&t.Basket, which, id),
		vouchersPart(&t.Basket, which, id), backsPart(&t.Backs, which, id)}
}

// desk is a register as it is set up.
type desk struct {
	branch                 uint64
	code, name, branchName string
}

// desksParts are the queries of all registers, or none where a copy is kept.
func desksParts(q db.Q, into *map[uint64]desk) ([]db.Part, error) {
	return db.Copied(q, "registers", into, func(into *map[uint64]desk) []db.Part {
		*into = map[uint64]desk{}
		return []db.Part{{
			SQL: "SELECT r.id, r.branch_id, r.code, r.name, b.name FROM register r JOIN branch b ON b.id = r.branch_id",
			Row: func(scan func(into ...any) error) error {
				var id uint64
				var d desk
				err := scan(&id, &d.branch, &d.code, &d.name, &d.branchName)
				(*into)[id] = d
				return err
			},
		}}
	})
}

// CodeOf is the code of a register, as far as a copy says.
func CodeOf(q db.Q, register uint64) (string, bool) {
	var all map[uint64]desk
	parts, err := desksParts(q, &all)
	return all[register].code, err == nil && len(parts) == 0 && all[register].code != ""
}

// Remember keeps in mind which variants are in a basket, Remembered tells. It is never taken for what is in it: it
// says what a sale of the basket is likely to hold.
func Remember(q db.Q, basket uint64, variants []uint64) {
	if on := remembered(q); on != nil && basket != 0 {
		on.Add(basket, variants)
	}
}

// Remembered are the variants that were last seen in a basket.
func Remembered(q db.Q, basket uint64) []uint64 {
	on := remembered(q)
	if on == nil {
		return nil
	}
	ids, _ := on.Get(basket)
	return ids
}

func remembered(q db.Q) *db.Shelf[[]uint64] {
	return db.ShelfOf(q, "baskets", func(ids []uint64) int { return 100 + 8*len(ids) })
}

// Sells refuses a sale while the drawer is not open.
func (t Till) Sells() error {
	if t.Drawer == 0 {
		return fault.Refuse("register", t.Register, "an open drawer",
			"The drawer of %s is not open. Open it with its float first.", t.Name)
	}
	return nil
}

// Begin makes the basket of a register that is at none.
func (t *Till) Begin(tx db.Tx, user uint64, now time.Time) error {
	if t.BasketID != 0 {
		return nil
	}
	row := Basket{RegisterID: t.Register, BranchID: t.Branch, OpenRegisterID: &t.Register, UserID: user, OpenedAt: now,
		PriceListID: t.List}
	err := db.SQL(tx.Q).Create(&row).Error
	t.BasketID, t.By = row.ID, user
	return err // one that another made meanwhile is met when this is tried again
}

// KeepLine writes what became of a line of a basket; without a quantity it goes. It
// returns the number of the line.
func KeepLine(tx db.Tx, basket uint64, l sale.BasketLine) (uint64, error) {
	if l.ID != 0 && l.Quantity.IsZero() {
		return l.ID, db.SQL(tx.Q).Exec("DELETE FROM basket_line WHERE id = ?", l.ID).Error
	}
	var pack any
	if l.Pack != 0 {
		pack = l.Pack
	}
	args := []any{basket, l.Variant, pack, l.Quantity, l.Price, l.PricedAt, l.Labelled, l.Serial, l.Lot, l.From(),
		l.Note, l.Off.Kind, l.Off.Value, l.Off.Reason, l.ListPrice, l.Why, l.Owed, l.List, l.Shared.Value, l.Shared.Reason,
		l.Yes.Below, l.Yes.For}
	if l.ID != 0 {
		_, err := db.Exec(tx, "UPDATE basket_line SET basket_id = ?, variant_id = ?, pack_id = ?, quantity = ?, "+
			"price = ?, priced_at = ?, labelled = ?, serials = ?, lot_id = ?, `condition` = ?, note = ?, "+
			"off_kind = ?, off_value = ?, off_reason_id = ?, list_price = ?, price_reason_id = ?, owed = ?, "+
			"price_list_id = ?, shared = ?, shared_reason_id = ?, granted = ?, granted_for = ? WHERE id = ?",
			append(args, l.ID)...)
		return l.ID, err
	}
	done, err := db.Exec(tx, "INSERT INTO basket_line (basket_id, variant_id, pack_id, quantity, price, priced_at, "+
		"labelled, serials, lot_id, `condition`, note, off_kind, off_value, off_reason_id, list_price, "+
		"price_reason_id, owed, price_list_id, shared, shared_reason_id, granted, granted_for) VALUES (?"+
		strings.Repeat(", ?", len(args)-1)+")", args...)
	if err != nil {
		return 0, err
	}
	id, err := done.LastInsertId()
	return uint64(id), err
}

// BasketOf reads a basket.
func BasketOf(q db.Q, id uint64) (sale.Basket, error) {
	b, same := sale.Basket{List: price.Regular, Usual: price.Regular}, uint64(0)
	return b, db.Read(q, headPart(&same, &b, "id = ?", id, ""), linesPart(&b, "id = ?", id))
}

// Carry writes lines that carry what was given off their basket, or come onto another one.
func Carry(tx db.Tx, basket uint64, lines []sale.BasketLine) error {
	b := new(db.Batch)
	for _, l := range lines {
		b.Add("UPDATE basket_line SET basket_id = ?, price_list_id = ?, shared = ?, shared_reason_id = ?, granted = ?, "+
			"granted_for = ? WHERE id = ?", basket, l.List, l.Shared.Value, l.Shared.Reason, l.Yes.Below, l.Yes.For, l.ID)
	}
	return b.Run(tx)
}

// PutOn puts a basket on a price list, its lines being priced anew.
func PutOn(tx db.Tx, basket, list uint64, lines []sale.BasketLine) error {
	b := new(db.Batch)
	b.Add("UPDATE basket SET price_list_id = ? WHERE id = ?", list, basket)
	for _, l := range lines {
		b.Add("UPDATE basket_line SET price = ?, price_list_id = ?, granted = ?, granted_for = ? WHERE id = ?", l.Price,
			l.List, l.Yes.Below, l.Yes.For, l.ID)
	}
	return b.Run(tx)
}

// headPart reads the head of a basket.
func headPart(id *uint64, b *sale.Basket, which string, of uint64, lock string) db.Part {
	return db.Part{
		SQL: "SELECT id, price_list_id, COALESCE((SELECT c.price_list_id FROM customer c WHERE c.id = basket.customer_id), 1), " +
			"COALESCE(customer_id, 0), user_id, note, off_kind, off_value, off_reason_id, granted FROM basket WHERE " + which +
			lock,
		Args: []any{of},
		Row: func(scan func(into ...any) error) error {
			return scan(id, &b.List, &b.Usual, &b.Customer, &b.By, &b.Note, &b.Off.Kind, &b.Off.Value, &b.Off.Reason, &b.Granted)
		},
	}
}

// linesPart reads the lines of a basket.
func linesPart(b *sale.Basket, which string, of uint64) db.Part {
	return db.Part{
		SQL: `SELECT id, variant_id, COALESCE(pack_id, 0), quantity, price, labelled, serials, lot_id, priced_at, note,
			off_kind, off_value, off_reason_id, list_price, price_reason_id, owed, price_list_id, shared, shared_reason_id,
			granted, granted_for, ` + "`condition`" + ` FROM basket_line WHERE basket_id = (SELECT id FROM basket WHERE ` + which + `) ORDER BY id`,
		Args: []any{of},
		Row: func(scan func(into ...any) error) error {
			var l sale.BasketLine
			err := scan(&l.ID, &l.Variant, &l.Pack, &l.Quantity, &l.Price, &l.Labelled, &l.Serial, &l.Lot, &l.PricedAt,
				&l.Note, &l.Off.Kind, &l.Off.Value, &l.Off.Reason, &l.ListPrice, &l.Why, &l.Owed,
				&l.List, &l.Shared.Value, &l.Shared.Reason, &l.Yes.Below, &l.Yes.For, &l.Condition)
			if l.Shared.Value.IsPositive() {
				l.Shared.Kind = sale.OffAmount
			}
			b.Lines = append(b.Lines, l)
			return err
		},
	}
}

// vouchersPart reads the vouchers that a basket is to give.
func vouchersPart(b *sale.Basket, which string, of uint64) db.Part {
	return db.Part{
		SQL:  "SELECT amount FROM basket_voucher WHERE basket_id = (SELECT id FROM basket WHERE " + which + ") ORDER BY id",
		Args: []any{of},
		Row: func(scan func(into ...any) error) error {
			var amount decimal.Decimal
			err := scan(&amount)
			b.Vouchers = append(b.Vouchers, amount)
			return err
		},
	}
}

// Back is something on a basket that comes back: of a line of a sale, or without its receipt.
type Back struct {
	ID        uint64
	Sale      string // its number; empty without a receipt
	Line      int
	Variant   uint64
	Quantity  string
	Condition string
	Serials   string
	Price     string
	Cost      string
	Lot       uint64 // that is meant, of several
	Amount    string // of money alone
}

// backsPart reads what comes back on a basket.
func backsPart(list *[]Back, which string, of uint64) db.Part {
	return db.Part{
		SQL: "SELECT b.id, COALESCE(d.number, ''), b.line, b.variant_id, b.quantity, b.`condition`, b.serials, " +
			"b.price, b.cost, " +
			"b.lot_id, b.amount " +
			"FROM basket_back b LEFT JOIN document d ON d.id = b.sale_id WHERE b.basket_id = (SELECT id FROM basket WHERE " +
			which + ") ORDER BY b.id",
		Args: []any{of},
		Row: func(scan func(into ...any) error) error {
			var b Back
			err := scan(&b.ID, &b.Sale, &b.Line, &b.Variant, &b.Quantity, &b.Condition, &b.Serials, &b.Price, &b.Cost,
				&b.Lot, &b.Amount)
			*list = append(*list, b)
			return err
		},
	}
}

// At is the basket that a register is at: its number (0 for none), what comes back on it, and what is
// around the register.
type At struct {
	ID     uint64
	Basket sale.Basket
	Backs  []Back
	Around
}

// ReadAt reads the basket that a register is at with what is around it, in one go.
func ReadAt(q db.Q, register uint64) (At, error) {
	at := At{Basket: sale.Basket{List: price.Regular, Usual: price.Regular}, Around: Around{Held: []Held{}}}
	which := "open_register_id = ?"
	around, err := at.parts(q, register)
	if err != nil {
		return at, err
	}
	parts := append([]db.Part{headPart(&at.ID, &at.Basket, which, register, ""), linesPart(&at.Basket, which, register),
		vouchersPart(&at.Basket, which, register), backsPart(&at.Backs, which, register)}, around...)
	return at, at.known(db.Read(q, parts...), register)
}

// Lines reads the basket that a register is at, its number (0 for none) and what comes back on it.
func Lines(q db.Q, register uint64) (basket uint64, b sale.Basket, backs []Back, err error) {
	b.List, b.Usual = price.Regular, price.Regular
	which := "open_register_id = ?"
	err = db.Read(q, headPart(&basket, &b, which, register, ""), linesPart(&b, which, register),
		vouchersPart(&b, which, register), backsPart(&backs, which, register))
	return basket, b, backs, err
}
