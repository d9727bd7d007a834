package trade

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	coresale "itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/unit"
	"itemrack/store/internal/db"
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
func Registers(q db.Q) ([]RegisterView, error) {
	var rows []RegisterView
	return rows, db.SQL(q).
		Raw(`SELECT r.*, b.name AS branch, COALESCE(d.id, 0) AS drawer, d.opened_at, COALESCE(u.name, '') AS
			opened_by FROM register r
		JOIN branch b ON b.id = r.branch_id LEFT JOIN drawer d ON d.open_register_id = r.id LEFT JOIN user u ON
		u.id = d.opened_by ORDER BY r.id`).
		Scan(&rows).
		Error
}

// ReadRegister finds a register with its open session.
func ReadRegister(q db.Q, id uint64) (RegisterView, error) {
	all, err := Registers(q)
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
func OpenDrawer(tx db.Tx, s *Drawer) error {
	err := db.SQL(tx.Q).Create(s).Error
	if db.Duplicate(err) {
		return fault.Clash("register", s.RegisterID, "a register whose drawer is closed",
			"The drawer of this register is open already.")
	}
	return err
}

// ReadDrawer reads a session, locked until the transaction ends.
func ReadDrawer(tx db.Tx, id uint64) (Drawer, error) {
	var s Drawer
	if err := db.SQL(tx.Q).Raw("SELECT * FROM drawer WHERE id = ? FOR UPDATE", id).Scan(&s).Error; err != nil {
		return s, err
	}
	if s.ID == 0 {
		return s, fault.Missing("session", id, "There is no cash-up %d.", id)
	}
	return s, nil
}

// ShareDrawer keeps a register's session from being closed until the
// transaction ends, and refuses when it is not open. Sales share it.
func ShareDrawer(tx db.Tx, register uint64) (uint64, error) {
	var id uint64
	if err := db.SQL(tx.Q).Raw("SELECT id FROM drawer WHERE open_register_id = ? LOCK IN SHARE MODE",
		register).Scan(&id).Error; err != nil {
		return 0, err
	}
	if id == 0 {
		return 0, fault.Refuse("register", register, "an open drawer",
			"The drawer of this register is not open. Open it with its float first.")
	}
	return id, nil
}

// CashUpDrawer writes how a session ended.
func CashUpDrawer(tx db.Tx, s Drawer) error {
	return db.SQL(tx.Q).
		Table("drawer").
		Where("id = ?", s.ID).
		Updates(map[string]any{"open_register_id": nil, "closed_by": s.ClosedBy,
			"closed_at": s.ClosedAt, "should_be": s.ShouldBe, "counted": s.Counted, "document_id": s.DocumentID}).
		Error
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
	PaidOut  decimal.Decimal `json:"paid_out"` // to suppliers
}

// Core gives the figures to the rule that computes the difference.
func (f DrawerFigures) Core() coresale.Drawer {
	return coresale.Drawer{Float: f.Float, CashIn: f.CashIn, CashBack: f.CashBack, PaidOut: f.PaidOut}
}

// ReadDrawerFigures reads what went through a drawer in a session.
func ReadDrawerFigures(q db.Q, session uint64) (DrawerFigures, error) {
	var f DrawerFigures
	err := db.SQL(q).
		Raw("SELECT d.`float`, COUNT(s.document_id) AS sales, COALESCE(SUM(s.handed - s.change_given), 0) AS "+
			"cash_in, COALESCE(SUM(s.card), 0) AS card "+
			"FROM drawer d LEFT JOIN sale s ON s.drawer_id = d.id AND NOT EXISTS (SELECT 1 FROM document x WHERE "+
			"x.reverses_id = s.document_id) WHERE d.id = ? GROUP BY d.id", session).
		Scan(&f).
		Error
	if err != nil {
		return f, err
	}
	var back DrawerFigures
	err = db.SQL(q).
		Raw(`SELECT COUNT(*) AS returns, COALESCE(SUM(cash), 0) AS cash_back, COALESCE(SUM(card), 0) AS card_back
		FROM sale_return WHERE drawer_id = ?`, session).
		Scan(&back).
		Error
	f.Returns, f.CashBack, f.CardBack = back.Returns, back.CashBack, back.CardBack
	if err != nil {
		return f, err
	}
	return f, db.SQL(q).
		Raw("SELECT COALESCE(SUM(amount), 0) FROM payment WHERE drawer_id = ? AND NOT undone", session).
		Scan(&f.PaidOut).
		Error
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
func Drawers(q db.Q, page int) ([]DrawerRow, bool, error) {
	var rows []DrawerRow
	err := db.SQL(q).
		Raw(`SELECT d.*, r.name AS register, u.name AS opener, COALESCE(c.name, '') AS closer, COALESCE(x.number,
			'') AS number FROM drawer d
		JOIN register r ON r.id = d.register_id JOIN user u ON u.id = d.opened_by LEFT JOIN user c ON c.id =
		d.closed_by LEFT JOIN document x ON x.id = d.document_id
		ORDER BY d.id DESC LIMIT ? OFFSET ?`, q.PageRows()+1, (page-1)*q.PageRows()).
		Scan(&rows).
		Error
	return rows[:min(len(rows), q.PageRows())], len(rows) > q.PageRows(), err
}

// ReadDrawerRow reads one session.
func ReadDrawerRow(q db.Q, id uint64) (DrawerRow, error) {
	var row DrawerRow
	err := db.SQL(q).
		Raw(`SELECT d.*, r.name AS register, u.name AS opener, COALESCE(c.name, '') AS closer, COALESCE(x.number,
			'') AS number FROM drawer d
		JOIN register r ON r.id = d.register_id JOIN user u ON u.id = d.opened_by LEFT JOIN user c ON c.id =
		d.closed_by LEFT JOIN document x ON x.id = d.document_id
		WHERE d.id = ?`, id).
		Scan(&row).
		Error
	if err == nil && row.ID == 0 {
		err = fault.Missing("session", id, "There is no cash-up %d.", id)
	}
	return row, err
}

// core gives the line to the rule of returns.
func (l SaleLineView) core() (coresale.SoldLine, error) {
	s := coresale.SoldLine{
		ID:      l.ID,
		Line:    l.Line,
		Variant: l.VariantID,
		Bundle:  l.Bundle,
		Serials: serial.Kept(l.Serials),
		Came:    serial.Kept(l.BackSerials),
		Sold: coresale.Sold{
			Quantity:     l.Quantity,
			Paid:         l.Paid,
			Tax:          l.Tax,
			Cost:         l.Cost,
			Back:         l.Back,
			Refunded:     l.Refunded,
			TaxBack:      l.TaxBack,
			CostReturned: l.CostReturned,
		},
	}
	for _, p := range l.Parts {
		s.Parts = append(
			s.Parts,
			coresale.TakenPart{
				Variant:  p.VariantID,
				Quantity: p.Quantity,
				Cost:     p.Cost,
				Serials:  serial.Kept(p.Serials),
			},
		)
	}
	var err error
	s.Unit, err = unit.ByCode(l.Unit)
	return s, err
}

// Register is where sales are made; Code begins its sale numbers.
type Register struct {
	ID       uint64 `json:"id"`
	BranchID uint64 `json:"branch_id"`
	Name     string `json:"name"`
	Code     string `json:"code"`
}

// Drawer is a drawer from float to closing. OpenRegisterID is the
// register while the session is open, and unique: one at a time.
type Drawer struct {
	ID             uint64           `json:"id"`
	RegisterID     uint64           `json:"register_id"`
	OpenRegisterID *uint64          `json:"open_register_id"`
	OpenedBy       uint64           `json:"opened_by"`
	OpenedAt       time.Time        `json:"opened_at"`
	Float          decimal.Decimal  `json:"float"`
	ClosedBy       *uint64          `json:"closed_by"`
	ClosedAt       *time.Time       `json:"closed_at"`
	ShouldBe       *decimal.Decimal `json:"should_be"`
	Counted        *decimal.Decimal `json:"counted"`
	DocumentID     *uint64          `json:"document_id"`
}

// AddRegister writes a register, and fills in the number.
func AddRegister(tx db.Tx, row *Register) error { return db.Insert(tx, row) }
