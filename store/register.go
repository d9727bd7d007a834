package store

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/sale"
)

// RegisterView is a register with its branch and its open session, if any.
type RegisterView struct {
	Register
	Branch   string     `json:"branch"`
	Drawer   uint64     `json:"drawer_id"` // 0 while it is not open
	OpenedAt *time.Time `json:"opened_at"`
	OpenedBy string     `json:"opened_by"`
}

// Registers lists the registers with their open sessions.
func (q Q) Registers() ([]RegisterView, error) {
	var rows []RegisterView
	return rows, q.db.Raw(`SELECT r.*, b.name AS branch, COALESCE(d.id, 0) AS drawer, d.opened_at, COALESCE(u.name, '') AS opened_by FROM register r
		JOIN branch b ON b.id = r.branch_id LEFT JOIN drawer d ON d.open_register_id = r.id LEFT JOIN user u ON u.id = d.opened_by ORDER BY r.id`).Scan(&rows).Error
}

// Register finds a register with its open session.
func (q Q) Register(id uint64) (RegisterView, error) {
	all, err := q.Registers()
	if err != nil {
		return RegisterView{}, err
	}
	for _, r := range all {
		if r.ID == id {
			return r, nil
		}
	}
	return RegisterView{}, fault.Missing("register", id, "There is no register %d.", id)
}

// OpenDrawer writes a new session; a register has one open at a time.
func (tx Tx) OpenDrawer(s *Drawer) error {
	err := tx.db.Create(s).Error
	if duplicate(err) {
		return fault.Clash("register", s.RegisterID, "a register whose drawer is closed", "The drawer of this register is open already.")
	}
	return err
}

// Drawer reads a session, locked until the transaction ends.
func (tx Tx) Drawer(id uint64) (Drawer, error) {
	var s Drawer
	if err := tx.db.Raw("SELECT * FROM drawer WHERE id = ? FOR UPDATE", id).Scan(&s).Error; err != nil {
		return s, err
	}
	if s.ID == 0 {
		return s, fault.Missing("session", id, "There is no cash-up %d.", id)
	}
	return s, nil
}

// ShareDrawer keeps a register's session from being closed until the
// transaction ends, and refuses when it is not open. Sales share it.
func (tx Tx) ShareDrawer(register uint64) (uint64, error) {
	var id uint64
	if err := tx.db.Raw("SELECT id FROM drawer WHERE open_register_id = ? LOCK IN SHARE MODE", register).Scan(&id).Error; err != nil {
		return 0, err
	}
	if id == 0 {
		return 0, fault.Refuse("register", register, "an open drawer", "The drawer of this register is not open. Open it with its float first.")
	}
	return id, nil
}

// CashUpDrawer writes how a session ended.
func (tx Tx) CashUpDrawer(s Drawer) error {
	return tx.db.Table("drawer").Where("id = ?", s.ID).Updates(map[string]any{"open_register_id": nil, "closed_by": s.ClosedBy,
		"closed_at": s.ClosedAt, "should_be": s.ShouldBe, "counted": s.Counted, "document_id": s.DocumentID}).Error
}

// DrawerFigures adds up what went through a drawer.
type DrawerFigures struct {
	Float    decimal.Decimal `json:"float"`
	Sales    int             `json:"sales"`
	CashIn   decimal.Decimal `json:"cash_in"`
	Card     decimal.Decimal `json:"card"`
	Returns  int             `json:"returns"`
	CashBack decimal.Decimal `json:"cash_back"`
	CardBack decimal.Decimal `json:"card_back"`
}

// Core gives the figures to the rule that computes the difference.
func (f DrawerFigures) Core() sale.Drawer {
	return sale.Drawer{Float: f.Float, CashIn: f.CashIn, CashBack: f.CashBack}
}

// DrawerFigures reads what went through a drawer in a session.
func (q Q) DrawerFigures(session uint64) (DrawerFigures, error) {
	var f DrawerFigures
	err := q.db.Raw("SELECT d.`float`, COUNT(s.document_id) AS sales, COALESCE(SUM(s.handed - s.change_given), 0) AS cash_in, COALESCE(SUM(s.card), 0) AS card "+
		"FROM drawer d LEFT JOIN sale s ON s.drawer_id = d.id AND NOT EXISTS (SELECT 1 FROM document x WHERE x.reverses_id = s.document_id) WHERE d.id = ? GROUP BY d.id", session).Scan(&f).Error
	if err != nil {
		return f, err
	}
	var back DrawerFigures
	err = q.db.Raw(`SELECT COUNT(*) AS returns, COALESCE(SUM(cash), 0) AS cash_back, COALESCE(SUM(card), 0) AS card_back
		FROM sale_return WHERE drawer_id = ?`, session).Scan(&back).Error
	f.Returns, f.CashBack, f.CardBack = back.Returns, back.CashBack, back.CardBack
	return f, err
}

// DrawerRow is a session in a list.
type DrawerRow struct {
	Drawer
	Register string `json:"register"`
	Opener   string `json:"opener"`
	Closer   string `json:"closer"`
	Number   string `json:"number"`
}

// Drawers lists the sessions, newest first.
func (q Q) Drawers(page int) ([]DrawerRow, bool, error) {
	var rows []DrawerRow
	err := q.db.Raw(`SELECT d.*, r.name AS register, u.name AS opener, COALESCE(c.name, '') AS closer, COALESCE(x.number, '') AS number FROM drawer d
		JOIN register r ON r.id = d.register_id JOIN user u ON u.id = d.opened_by LEFT JOIN user c ON c.id = d.closed_by LEFT JOIN document x ON x.id = d.document_id
		ORDER BY d.id DESC LIMIT ? OFFSET ?`, q.PageRows()+1, (page-1)*q.PageRows()).Scan(&rows).Error
	return rows[:min(len(rows), q.PageRows())], len(rows) > q.PageRows(), err
}

// DrawerRow reads one session.
func (q Q) DrawerRow(id uint64) (DrawerRow, error) {
	var row DrawerRow
	err := q.db.Raw(`SELECT d.*, r.name AS register, u.name AS opener, COALESCE(c.name, '') AS closer, COALESCE(x.number, '') AS number FROM drawer d
		JOIN register r ON r.id = d.register_id JOIN user u ON u.id = d.opened_by LEFT JOIN user c ON c.id = d.closed_by LEFT JOIN document x ON x.id = d.document_id
		WHERE d.id = ?`, id).Scan(&row).Error
	if err == nil && row.ID == 0 {
		err = fault.Missing("session", id, "There is no cash-up %d.", id)
	}
	return row, err
}

// OpenBasket returns the basket that a register is at, made if there is none.
func (tx Tx) OpenBasket(register, user uint64, now time.Time) (Basket, error) {
	var t Basket
	find := func() error {
		return tx.db.Raw("SELECT * FROM basket WHERE open_register_id = ? FOR UPDATE", register).Scan(&t).Error
	}
	if err := find(); err != nil || t.ID != 0 {
		return t, err
	}
	t = Basket{RegisterID: register, OpenRegisterID: &register, UserID: user, OpenedAt: now, PriceListID: price.Regular}
	err := tx.db.Create(&t).Error
	if duplicate(err) {
		t = Basket{}
		err = find()
	}
	return t, err
}

// LockBasket reads a basket, locked until the transaction ends; ID is 0 when it
// is gone.
func (tx Tx) LockBasket(id uint64) (Basket, error) {
	var t Basket
	return t, tx.db.Raw("SELECT * FROM basket WHERE id = ? FOR UPDATE", id).Scan(&t).Error
}

// CurrentBasket reads the basket that a register is at; ID is 0 for none.
func (q Q) CurrentBasket(register uint64) (Basket, error) {
	var t Basket
	return t, q.db.Raw("SELECT * FROM basket WHERE open_register_id = ?", register).Scan(&t).Error
}

// BasketLines lists the lines of a basket.
func (q Q) BasketLines(basket uint64) ([]BasketLine, error) {
	var rows []BasketLine
	return rows, q.db.Raw("SELECT * FROM basket_line WHERE basket_id = ? ORDER BY id", basket).Scan(&rows).Error
}

// SaveBasketLine changes a line's quantity and serial numbers, or removes it
// when the quantity is zero.
func (tx Tx) SaveBasketLine(line BasketLine) error {
	if line.Quantity.IsZero() {
		return tx.db.Exec("DELETE FROM basket_line WHERE id = ?", line.ID).Error
	}
	return tx.db.Exec("UPDATE basket_line SET quantity = ?, price = ?, labelled = ?, serials = ? WHERE id = ?", line.Quantity, line.Price, line.Labelled, line.Serials, line.ID).Error
}

// SetBasketList puts a basket on a price list.
func (tx Tx) SetBasketList(id, list uint64) error {
	return tx.db.Exec("UPDATE basket SET price_list_id = ? WHERE id = ?", list, id).Error
}

// DropBasket ends a basket: it was paid, or given up.
func (tx Tx) DropBasket(id uint64) error {
	if err := tx.db.Exec("DELETE FROM basket_line WHERE basket_id = ?", id).Error; err != nil {
		return err
	}
	return tx.db.Exec("DELETE FROM basket WHERE id = ?", id).Error
}

// SaleView is a sale with its document and lines.
type SaleView struct {
	Sale
	Number     string         `json:"number"`
	HappenedAt time.Time      `json:"happened_at"`
	Branch     string         `json:"branch"`
	BranchID   uint64         `json:"branch_id"`
	Register   string         `json:"register"`
	Clerk      string         `json:"clerk"`
	Reversed   bool           `json:"reversed"`
	Lines      []SaleLineView `gorm:"-" json:"lines"`
}

// SaleLineView is a line of a sale with what has come back of it. BackSerials
// are the numbers that came back.
type SaleLineView struct {
	SaleLine
	Unit         string          `json:"unit"`
	Bundle       bool            `json:"bundle"`
	Back         decimal.Decimal `json:"back"`
	Refunded     decimal.Decimal `json:"refunded"`
	TaxBack      decimal.Decimal `json:"tax_back"`
	CostReturned decimal.Decimal `json:"cost_returned"`
	BackSerials  string          `json:"back_serials"`
	Parts        []SalePart      `gorm:"-" json:"parts"` // what a bundle took from stock: its parts, or itself made up
}

// Core gives the line to the rule of returns.
func (l SaleLineView) Core() sale.Sold {
	return sale.Sold{Quantity: l.Quantity, Paid: l.Paid, Tax: l.Tax, Cost: l.Cost, Back: l.Back, Refunded: l.Refunded, TaxBack: l.TaxBack, CostReturned: l.CostReturned}
}

// SaleByNumber reads a sale.
func (q Q) SaleByNumber(number string) (SaleView, error) { return q.sale(number, "") }

// LockSale reads a sale and keeps others from returning any of it until the
// transaction ends.
func (tx Tx) LockSale(number string) (SaleView, error) { return tx.sale(number, " FOR UPDATE") }

func (q Q) sale(number, lock string) (SaleView, error) {
	var v SaleView
	if lock != "" {
		var id uint64
		if err := q.db.Raw("SELECT s.document_id FROM sale s WHERE s.document_id = (SELECT id FROM document WHERE number = ?)"+lock, number).Scan(&id).Error; err != nil {
			return v, err
		}
	}
	err := q.db.Raw(`SELECT s.*, d.number, d.happened_at, d.branch_id, b.name AS branch, r.name AS register, u.name AS clerk,
		EXISTS (SELECT 1 FROM document x WHERE x.reverses_id = d.id) AS reversed
		FROM document d JOIN sale s ON s.document_id = d.id JOIN branch b ON b.id = d.branch_id JOIN register r ON r.id = s.register_id JOIN user u ON u.id = d.user_id
		WHERE d.number = ?`, number).Scan(&v).Error
	if err != nil {
		return v, err
	}
	if v.DocumentID == 0 {
		return v, fault.Missing("sale", number, "There is no sale %s.", number)
	}
	err = q.db.Raw(`SELECT l.*, p.unit, p.bundle, COALESCE(SUM(x.quantity), 0) AS back, COALESCE(SUM(x.amount), 0) AS refunded, COALESCE(SUM(x.tax), 0) AS tax_back,
		COALESCE(SUM(x.cost), 0) AS cost_returned, COALESCE(GROUP_CONCAT(NULLIF(x.serials, '')), '') AS back_serials
		FROM sale_line l JOIN variant v ON v.id = l.variant_id JOIN product p ON p.id = v.product_id LEFT JOIN return_line x ON x.sale_line_id = l.id
		WHERE l.document_id = ? GROUP BY l.id ORDER BY l.line`, v.DocumentID).Scan(&v.Lines).Error
	if err != nil {
		return v, err
	}
	var parts []SalePart
	err = q.db.Raw("SELECT s.* FROM sale_part s JOIN sale_line l ON l.id = s.sale_line_id WHERE l.document_id = ? ORDER BY s.id", v.DocumentID).Scan(&parts).Error
	for i := range v.Lines {
		for _, p := range parts {
			if p.SaleLineID == v.Lines[i].ID {
				v.Lines[i].Parts = append(v.Lines[i].Parts, p)
			}
		}
	}
	return v, err
}

// TodaySales adds up the sales of a span of time, less what was reversed.
func (q Q) TodaySales(from, to time.Time) (count int, gross decimal.Decimal, err error) {
	var row struct {
		Count int
		Gross decimal.Decimal
	}
	err = q.db.Raw(`SELECT COUNT(*) AS count, COALESCE(SUM(s.gross), 0) AS gross FROM document d JOIN sale s ON s.document_id = d.id
		LEFT JOIN document x ON x.reverses_id = d.id WHERE d.kind = 'Sale' AND d.happened_at >= ? AND d.happened_at < ? AND x.id IS NULL`, from, to).Scan(&row).Error
	return row.Count, row.Gross, err
}

// CategoryTile is a category as the register offers it.
type CategoryTile struct {
	ID        uint64 `json:"id"`
	Name      string `json:"name"`
	Path      string `json:"path"`
	Colour    string `json:"colour"`
	PictureID uint64 `json:"picture_id"`
	Products  int    `json:"products"`
}

// CategoryTiles lists the categories that hold products.
func (q Q) CategoryTiles() ([]CategoryTile, error) {
	var rows []CategoryTile
	return rows, q.db.Raw(`SELECT c.id, c.name, c.path, c.colour, COALESCE(c.picture_id, 0) AS picture_id, COUNT(p.id) AS products FROM category c JOIN product p ON p.category_id = c.id
		GROUP BY c.id ORDER BY c.path`).Scan(&rows).Error
}

// LotOut is how much of a lot a line of a sale took that is not back yet.
type LotOut struct {
	Line     int             `json:"line"`
	Variant  uint64          `json:"variant"`
	Lot      uint64          `json:"lot"`
	Quantity decimal.Decimal `json:"quantity"`
}

// LotsOut lists, by line, the lots of a sale that are still out, in the order
// they went.
func (q Q) LotsOut(sale uint64) (map[int][]LotOut, error) {
	var rows []LotOut
	err := q.db.Raw(`SELECT line, variant_id AS variant, lot_id AS lot, -SUM(quantity) AS quantity FROM entry WHERE lot_id <> 0 AND
		document_id IN (SELECT ? UNION ALL SELECT document_id FROM sale_return WHERE sale_id = ?) GROUP BY line, variant_id, lot_id ORDER BY line, MIN(id)`, sale, sale).Scan(&rows).Error
	byLine := map[int][]LotOut{}
	for _, r := range rows {
		byLine[r.Line] = append(byLine[r.Line], r)
	}
	return byLine, err
}

// CardRefunded is how much of a sale went back to its card.
func (q Q) CardRefunded(sale uint64) (decimal.Decimal, error) {
	var sum decimal.Decimal
	err := q.db.Raw("SELECT COALESCE(SUM(card), 0) FROM sale_return WHERE sale_id = ?", sale).Scan(&sum).Error
	return sum, err
}

// HasReturns reports whether any of a sale came back.
func (q Q) HasReturns(sale uint64) (bool, error) {
	var n int
	err := q.db.Raw("SELECT COUNT(*) FROM sale_return WHERE sale_id = ?", sale).Scan(&n).Error
	return n > 0, err
}
