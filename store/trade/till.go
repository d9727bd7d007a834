package trade

import (
	"time"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/price"
	"itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/store/book"
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
}

// OpenTill reads a register for a sale, in one round trip. Basket 0 takes the one that
// the register is at.
func OpenTill(tx db.Tx, register, basket uint64) (Till, error) {
	t := Till{Basket: sale.Basket{List: price.Regular}}
	which, id := "open_register_id = ?", register
	if basket != 0 {
		which, id = "id = ? AND register_id = "+db.IDs([]uint64{register}), basket
	}
	err := db.Read(
		tx.Q,
		db.Part{
			SQL: "SELECT r.id, r.branch_id, r.code, r.name, b.name FROM register r JOIN branch b ON b.id = " +
				"r.branch_id WHERE r.id = ?",
			Args: []any{register},
			Row: func(scan func(into ...any) error) error {
				return scan(&t.Register, &t.Branch, &t.Code, &t.Name,
					&t.At)
			},
		},
		db.Part{SQL: "SELECT id FROM drawer WHERE open_register_id = ? LOCK IN SHARE MODE", Args: []any{register},
			Row: func(scan func(into ...any) error) error { return scan(&t.Drawer) }},
		db.Part{SQL: "SELECT id, price_list_id FROM basket WHERE " + which + " FOR UPDATE", Args: []any{id},
			Row: func(scan func(into ...any) error) error { return scan(&t.BasketID, &t.List) }},
		db.Part{
			SQL: "SELECT id, variant_id, COALESCE(pack_id, 0), quantity, price, labelled, serials, lot_id, priced_at FROM " +
				"basket_line WHERE basket_id = (SELECT id FROM basket WHERE " + which + ") ORDER BY id",
			Args: []any{id},
			Row: func(scan func(into ...any) error) error {
				var l sale.BasketLine
				err := scan(&l.ID, &l.Variant, &l.Pack, &l.Quantity, &l.Price, &l.Labelled, &l.Serial, &l.Lot,
					&l.PricedAt)
				t.Lines = append(t.Lines, l)
				return err
			},
		},
	)
	if err != nil {
		return t, err
	}
	if t.Register == 0 {
		return t, fault.Missing("register", register, "There is no register %d.", register)
	}
	if t.Practice, err = book.Practising(tx.Q); err != nil {
		return t, err
	}
	t.Shop, err = tx.Setting("shop_name")
	return t, err
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
	row := Basket{RegisterID: t.Register, OpenRegisterID: &t.Register, UserID: user, OpenedAt: now, PriceListID: t.List}
	err := db.SQL(tx.Q).Create(&row).Error
	t.BasketID = row.ID
	return err // one that another made meanwhile is met when this is tried again
}

// KeepLine writes what became of a line of a basket; without a quantity it goes. It
// returns the number of the line.
func KeepLine(tx db.Tx, basket uint64, l sale.BasketLine) (uint64, error) {
	if l.ID != 0 && l.Quantity.IsZero() {
		return l.ID, db.SQL(tx.Q).Exec("DELETE FROM basket_line WHERE id = ?", l.ID).Error
	}
	if l.ID != 0 {
		return l.ID, db.SQL(tx.Q).
			Exec("UPDATE basket_line SET quantity = ?, price = ?, labelled = ?, serials = ? WHERE id = ?", l.Quantity,
				l.Price, l.Labelled, l.Serial, l.ID).
			Error
	}
	row := BasketLine{
		BasketID:  basket,
		VariantID: l.Variant,
		Quantity:  l.Quantity,
		Price:     l.Price,
		PricedAt:  l.PricedAt,
		Labelled:  l.Labelled,
		Serials:   l.Serial,
		LotID:     l.Lot,
	}
	if l.Pack != 0 {
		row.PackID = &l.Pack
	}
	err := db.SQL(tx.Q).Create(&row).Error
	return row.ID, err
}

// PutOn puts a basket on a price list, its lines being priced anew.
func PutOn(tx db.Tx, basket, list uint64, lines []sale.BasketLine) error {
	b := new(db.Batch)
	b.Add("UPDATE basket SET price_list_id = ? WHERE id = ?", list, basket)
	for _, l := range lines {
		b.Add("UPDATE basket_line SET price = ? WHERE id = ?", l.Price, l.ID)
	}
	return b.Run(tx)
}

// Lines reads the lines of the basket that a register is at, and the basket's number (0
// for none) and list.
func Lines(q db.Q, register uint64) (basket uint64, b sale.Basket, err error) {
	b.List = price.Regular
	err = db.Read(
		q,
		db.Part{
			SQL:  "SELECT id, price_list_id FROM basket WHERE open_register_id = ?",
			Args: []any{register},
			Row:  func(scan func(into ...any) error) error { return scan(&basket, &b.List) },
		},
		db.Part{
			SQL: `SELECT l.id, l.variant_id, COALESCE(l.pack_id, 0), l.quantity, l.price, l.labelled, l.serials,
				l.lot_id, l.priced_at FROM basket b JOIN basket_line l ON l.basket_id = b.id
			WHERE b.open_register_id = ? ORDER BY l.id`,
			Args: []any{register},
			Row: func(scan func(into ...any) error) error {
				var l sale.BasketLine
				err := scan(&l.ID, &l.Variant, &l.Pack, &l.Quantity, &l.Price, &l.Labelled, &l.Serial, &l.Lot,
					&l.PricedAt)
				b.Lines = append(b.Lines, l)
				return err
			},
		},
	)
	return basket, b, err
}

// WithSale is the rows of a sale, written with its document; the basket that it was made
// of (0 for none) goes.
func WithSale(s Sale, lines []sale.Selling, taken []sale.Taken, basket uint64) book.With {
	return func(b *db.Batch) {
		b.Add(
			"INSERT INTO sale (document_id, register_id, drawer_id, gross, tax, handed, change_given, card, "+
				"card_reference) VALUES (@document, ?, ?, ?, ?, ?, ?, ?, ?)",
			s.RegisterID, s.DrawerID, s.Gross, s.Tax, s.Handed, s.ChangeGiven, s.Card, s.CardReference)
		args := make([]any, 0, 15*len(lines))
		for i, l := range lines {
			args = append(args, i+1, l.Sellable.ID, l.Name, l.Label, l.SKU, l.Serial, l.Units, l.Sum.Price,
				l.Sum.Percent, l.Sum.Total(), l.Sum.Tax(), taken[i].Cost, l.Pack.Name, l.Pack.Factor, !l.Sum.Untaxed)
		}
		b.Add(
			db.Values(
				"INSERT INTO sale_line (document_id, line, variant_id, name, detail, sku, serials, quantity, price, "+
					"percent, paid, tax, cost, pack, factor, with_tax) VALUES ",
				len(lines), "(@document, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"),
			args...)
		for i, t := range taken {
			for _, p := range t.Parts {
				b.Add(
					"INSERT INTO sale_part (sale_line_id, variant_id, quantity, cost, serials) SELECT id, ?, ?, ?, "+
						"? FROM sale_line WHERE document_id = @document AND line = ?",
					p.Variant, p.Quantity, p.Cost, serial.Keep(p.Serials), i+1)
			}
		}
		if basket != 0 {
			b.Add("DELETE FROM basket_line WHERE basket_id = ?", basket)
			b.Add("DELETE FROM basket WHERE id = ?", basket)
		}
	}
}

// WithReturn is the rows of a return, written with its document.
func WithReturn(r SaleReturn, lines []sale.BackLine) book.With {
	return func(b *db.Batch) {
		b.Add(
			"INSERT INTO sale_return (document_id, sale_id, drawer_id, amount, tax, cash, card) VALUES (@document, "+
				"?, ?, ?, ?, ?, ?)",
			r.SaleID, r.DrawerID, r.Amount, r.Tax, r.Cash, r.Card)
		for _, l := range lines {
			b.Add(
				"INSERT INTO return_line (document_id, sale_line_id, serials, `condition`, quantity, amount, tax, "+
					"cost) VALUES (@document, ?, ?, ?, ?, ?, ?, ?)",
				l.SoldLine, serial.Keep(l.Serials), l.Condition, l.Quantity, l.Amount, l.Tax, l.Cost)
		}
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
