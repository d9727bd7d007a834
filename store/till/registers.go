package till

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	coresale "itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/unit"
	"itemrack/store/book"
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
	Float   decimal.Decimal                         `json:"float"`
	Sales   int                                     `json:"sales"`
	Returns int                                     `json:"returns"`
	By      map[coresale.TenderKind]decimal.Decimal `gorm:"-" json:"by"` // what came in each way, less what went back
	PutIn   decimal.Decimal                         `json:"put_in"`
	Taken   decimal.Decimal                         `json:"taken_out"`
	PaidOut decimal.Decimal                         `json:"paid_out"` // to suppliers
}

// Core gives the figures to the rule that computes the difference.
func (f DrawerFigures) Core() coresale.Drawer {
	return coresale.Drawer{Float: f.Float, Cash: f.By[coresale.Cash], PutIn: f.PutIn, Taken: f.Taken, PaidOut: f.PaidOut}
}

// ReadDrawerFigures reads what went through a drawer in a session.
func ReadDrawerFigures(q db.Q, session uint64) (DrawerFigures, error) {
	f := DrawerFigures{By: map[coresale.TenderKind]decimal.Decimal{}}
	return f, db.Read(q,
		db.Part{SQL: "SELECT d.`float`, (SELECT COUNT(*) FROM sale s WHERE s.drawer_id = d.id AND NOT EXISTS " +
			"(SELECT 1 FROM " +
			"document x WHERE x.reverses_id = s.document_id)), (SELECT COALESCE(SUM(IF(x.reverses_id IS NULL, 1, -1)), 0) FROM sale_return r " +
			"JOIN document x ON x.id = r.document_id WHERE r.drawer_id = d.id), " +
			"(SELECT COALESCE(SUM(amount), 0) FROM payment p WHERE p.drawer_id = d.id AND NOT p.undone) FROM " +
			"drawer d WHERE d.id = ?",
			Args: []any{session},
			Row: func(scan func(into ...any) error) error {
				return scan(&f.Float, &f.Sales, &f.Returns, &f.PaidOut)
			}},
		db.Part{SQL: "SELECT kind, SUM(amount) FROM tender WHERE drawer_id = ? GROUP BY kind", Args: []any{session},
			Row: func(scan func(into ...any) error) error {
				var kind coresale.TenderKind
				var sum decimal.Decimal
				err := scan(&kind, &sum)
				f.By[kind] = sum
				return err
			}},
		db.Part{SQL: "SELECT kind, SUM(amount) FROM drawer_move WHERE drawer_id = ? GROUP BY kind", Args: []any{session},
			Row: func(scan func(into ...any) error) error {
				var kind coresale.MoveKind
				var sum decimal.Decimal
				err := scan(&kind, &sum)
				if kind == coresale.PutIn {
					f.PutIn = sum
				} else {
					f.Taken = sum
				}
				return err
			}})
}

// DrawerMove is cash that was put into a drawer or taken out of it.
type DrawerMove struct {
	DocumentID uint64            `gorm:"primaryKey" json:"document_id"`
	DrawerID   uint64            `json:"drawer_id"`
	Kind       coresale.MoveKind `json:"kind"`
	Amount     decimal.Decimal   `json:"amount"`
	Reason     string            `json:"reason"`
	Note       string            `json:"note"`
	Number     string            `gorm:"->" json:"number"`
	At         time.Time         `gorm:"->" json:"at"`
	By         string            `gorm:"->" json:"by"`
}

// WithMove is the row of cash that is moved, written with its document.
func WithMove(m DrawerMove) book.With {
	return func(b *db.Batch) {
		b.Add("INSERT INTO drawer_move (document_id, drawer_id, kind, amount, reason, note) VALUES (@document, "+
			"?, ?, ?, ?, ?)",
			m.DrawerID, m.Kind, m.Amount, m.Reason, m.Note)
	}
}

// WithMoveBack takes back, with its reversal, that cash was moved.
func WithMoveBack(m DrawerMove) book.With {
	m.Amount = m.Amount.Neg()
	return WithMove(m)
}

// MoveOf is the cash that a document moved; nil where it moved none.
func MoveOf(q db.Q, document uint64) (*DrawerMove, error) {
	var rows []DrawerMove
	if err := db.SQL(q).Raw("SELECT * FROM drawer_move WHERE document_id = ?", document).Scan(&rows).Error; err != nil ||
		len(rows) == 0 {
		return nil, err
	}
	return &rows[0], nil
}

// DrawerOf is the drawer in which a document was paid.
func DrawerOf(tx db.Tx, document uint64) (Drawer, error) {
	var id uint64
	if err := db.SQL(tx.Q).Raw("SELECT MIN(drawer_id) FROM tender WHERE document_id = ?",
		document).Scan(&id).Error; err != nil {
		return Drawer{}, err
	}
	return ReadDrawer(tx, id)
}

// DrawerMoves lists the cash that was put into a drawer and taken out of it.
func DrawerMoves(q db.Q, drawer uint64) ([]DrawerMove, error) {
	var rows []DrawerMove
	return rows, db.SQL(q).Raw("SELECT m.*, d.number, d.happened_at AS at, u.name AS `by` FROM drawer_move m "+
		"JOIN document d ON "+
		"d.id = m.document_id JOIN user u ON u.id = d.user_id WHERE m.drawer_id = ? ORDER BY d.id", drawer).Scan(&rows).Error
}

// Opened is a drawer that opened.
type Opened struct {
	RegisterID uint64    `json:"register_id"`
	At         time.Time `json:"at"`
	UserID     uint64    `json:"user_id"`
	Why        string    `json:"why"`
	By         string    `gorm:"->" json:"by"`
	Register   string    `gorm:"->" json:"register"`
}

// KeepOpened writes that a drawer opened.
func KeepOpened(tx db.Tx, o Opened) error {
	return db.SQL(tx.Q).Exec("INSERT INTO drawer_opened (register_id, at, user_id, why) VALUES (?, ?, ?, ?)",
		o.RegisterID, o.At,
		o.UserID, o.Why).Error
}

// Opens is the row of a drawer that opens, written with a document; without a reason it stays shut.
func Opens(register, user uint64, at time.Time, why string) book.With {
	return func(b *db.Batch) {
		if why != "" {
			b.Add("INSERT INTO drawer_opened (register_id, at, user_id, why) VALUES (?, ?, ?, ?)", register, at, user, why)
		}
	}
}

// OpenedLast lists when drawers opened, the last first.
func OpenedLast(q db.Q, most int) ([]Opened, error) {
	var rows []Opened
	return rows, db.SQL(q).Raw("SELECT o.*, u.name AS `by`, r.name AS register FROM drawer_opened o JOIN user u "+
		"ON u.id = o.user_id "+
		"JOIN register r ON r.id = o.register_id ORDER BY o.id DESC LIMIT ?", most).Scan(&rows).Error
}

// OpenedFor is how often a drawer opened for one reason.
type OpenedFor struct {
	Why   string `json:"why"`
	Times int    `json:"times"`
}

// HowOpened adds up why the drawer of a register opened in a session.
func HowOpened(q db.Q, d Drawer) ([]OpenedFor, error) {
	var rows []OpenedFor
	return rows, db.SQL(q).Raw("SELECT why, COUNT(*) AS times FROM drawer_opened WHERE register_id = ? AND at "+
		">= ? AND (? IS NULL OR "+
		"at <= ?) GROUP BY why ORDER BY why", d.RegisterID, d.OpenedAt, d.ClosedAt, d.ClosedAt).Scan(&rows).Error
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

// LineOf is the line of the sale on which a serial number is out; 0 for none.
func (v SaleView) LineOf(number string) int {
	for _, l := range v.Lines {
		if number != "" && slices.Contains(serial.Kept(l.Serials), number) &&
			!slices.Contains(serial.Kept(l.BackSerials), number) {
			return l.Line
		}
	}
	return 0
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
			Lowered:      l.Lowered,
			TaxLowered:   l.TaxLowered,
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
func AddRegister(tx db.Tx, row *Register) error {
	err := db.Insert(tx, row)
	if db.Duplicate(err) {
		return fault.Clash("code", row.Code, "a code of its own", "There is a register %s already.", row.Code)
	}
	return err
}
