package buying

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	corebuying "itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// Order is a purchase order. Its state and figures follow from the lines. SentAt is when it
// last went to the supplier, ChangedAt when it was last changed after it was placed.
type Order struct {
	ID         uint64           `json:"id"`
	Number     string           `json:"number"`
	SupplierID uint64           `json:"supplier_id"`
	BranchID   uint64           `json:"branch_id"`
	State      corebuying.State `json:"state"`
	WantedOn   *time.Time       `json:"wanted_on"`
	Note       string           `json:"note"`
	CreatedBy  uint64           `json:"created_by"`
	CreatedAt  time.Time        `json:"created_at"`
	PlacedAt   *time.Time       `json:"placed_at"`
	SentAt     *time.Time       `json:"sent_at"`
	ChangedAt  *time.Time       `json:"changed_at"`
	Revision   uint64           `json:"revision"`
	Units      decimal.Decimal  `json:"units"`
	ToCome     decimal.Decimal  `json:"to_come"`
	Net        decimal.Decimal  `json:"net" see:"costs"`
	Tax        decimal.Decimal  `json:"tax" see:"costs"`
	Gross      decimal.Decimal  `json:"gross" see:"costs"`
}

// TableName is the table of orders; ORDER alone is a word of SQL.
func (Order) TableName() string { return "purchase_order" }

// OrderLine is a variant of an order; see corebuying.Ordered for its figures. Pack is the name
// of what Factor units make, empty for single units.
type OrderLine struct {
	ID          uint64           `json:"id"`
	OrderID     uint64           `json:"order_id"`
	VariantID   uint64           `json:"variant_id"`
	Quantity    decimal.Decimal  `json:"quantity"`
	Pack        string           `json:"pack"`
	Factor      decimal.Decimal  `json:"factor"`
	Price       *decimal.Decimal `json:"price" see:"costs"` // of a pack; nil while it is not known
	Discount    decimal.Decimal  `json:"discount" see:"costs"`
	Percent     decimal.Decimal  `json:"percent"`
	PartNumber  string           `json:"part_number"`
	Arrived     decimal.Decimal  `json:"arrived"`
	CalledOff   decimal.Decimal  `json:"called_off"`
	Outstanding decimal.Decimal  `json:"outstanding"`
	Revision    uint64           `json:"revision"`
}

// TableName is the table of the lines of orders.
func (OrderLine) TableName() string { return "purchase_order_line" }

// Figures are the figures of the line.
func (l OrderLine) Figures() corebuying.Ordered {
	return corebuying.Ordered{Quantity: l.Quantity, Factor: l.Factor, Price: number.OrZero(l.Price), Discount: l.Discount,
		Percent: l.Percent, Arrived: l.Arrived, CalledOff: l.CalledOff}
}

// Put takes over how many units are ordered, here and called off.
func (l *OrderLine) Put(f corebuying.Ordered) {
	l.Quantity, l.Arrived, l.CalledOff = f.Quantity, f.Arrived, f.CalledOff
}

// FiguresOf are the figures of several lines.
func FiguresOf(lines []OrderLine) []corebuying.Ordered {
	list := make([]corebuying.Ordered, len(lines))
	for i, l := range lines {
		list[i] = l.Figures()
	}
	return list
}

// OrderEvent is something that happened to an order: a knot of its thread.
type OrderEvent struct {
	ID         uint64    `json:"-"`
	OrderID    uint64    `json:"-"`
	UserID     uint64    `json:"user_id"`
	At         time.Time `json:"at"`
	What       string    `json:"what"`
	Detail     string    `json:"detail"`
	Costs      string    `json:"costs" see:"costs"` // what of it tells costs
	DocumentID *uint64   `json:"document_id"`
	Who        string    `gorm:"->" json:"who"`
	Document   string    `gorm:"->" json:"document"`
}

// TableName is the table of what happened to orders.
func (OrderEvent) TableName() string { return "purchase_order_event" }

// OrderView is an order with the names of what it refers to.
type OrderView struct {
	Order
	Supplier string `json:"supplier"`
	Branch   string `json:"branch"`
	By       string `json:"by"`
}

const orderSelect = `SELECT o.*, s.name AS supplier, b.name AS branch, u.name AS 'by' FROM purchase_order o
	JOIN supplier s ON s.id = o.supplier_id JOIN branch b ON b.id = o.branch_id JOIN user u ON u.id = o.created_by `

// OrderFilter narrows a list of orders; what is zero does not.
type OrderFilter struct {
	State    corebuying.State
	Open     bool // placed or part in
	Supplier uint64
	Branch   uint64
	LateOn   *time.Time // open, and wanted before this day
	WantedBy *time.Time // open, and wanted on this day or before
}

// Orders lists orders, newest first.
func Orders(q db.Q, f OrderFilter, page int) ([]OrderView, bool, error) {
	where, args := "WHERE TRUE ", []any{}
	add := func(text string, value any) { where, args = where+"AND "+text, append(args, value) }
	if f.State != "" {
		add("o.state = ? ", f.State)
	}
	if f.Open || f.LateOn != nil || f.WantedBy != nil {
		where += "AND o.state IN ('Placed', 'Part in') "
	}
	if f.Supplier != 0 {
		add("o.supplier_id = ? ", f.Supplier)
	}
	if f.Branch != 0 {
		add("o.branch_id = ? ", f.Branch)
	}
	if f.LateOn != nil {
		add("o.wanted_on < ? ", db.Day(*f.LateOn))
	}
	if f.WantedBy != nil {
		add("o.wanted_on <= ? ", db.Day(*f.WantedBy))
	}
	var rows []OrderView
	err := db.SQL(q).
		Raw(orderSelect+where+"ORDER BY o.id DESC LIMIT ? OFFSET ?",
			append(args, q.PageRows()+1, (page-1)*q.PageRows())...).
		Scan(&rows).
		Error
	return rows[:min(len(rows), q.PageRows())], len(rows) > q.PageRows(), err
}

// ReadOrder reads an order with its lines, in the order in which they were added.
func ReadOrder(q db.Q, id uint64) (OrderView, []OrderLine, error) {
	var v OrderView
	if err := db.SQL(q).Raw(orderSelect+"WHERE o.id = ?", id).Scan(&v).Error; err != nil {
		return v, nil, err
	}
	if v.ID == 0 {
		return v, nil, fault.Missing("order_id", id, "There is no order %d.", id)
	}
	lines, err := orderLines(q, "WHERE order_id = ? ORDER BY id", id)
	return v, lines, err
}

func orderLines(q db.Q, where string, args ...any) ([]OrderLine, error) {
	var lines []OrderLine
	return lines, db.SQL(q).Raw("SELECT * FROM purchase_order_line "+where, args...).Scan(&lines).Error
}

// OrderLinesByID reads some lines of orders, by their numbers.
func OrderLinesByID(q db.Q, ids []uint64) (map[uint64]OrderLine, error) {
	found := map[uint64]OrderLine{}
	if len(ids) == 0 {
		return found, nil
	}
	lines, err := orderLines(q, "WHERE id IN ?", ids)
	for _, l := range lines {
		found[l.ID] = l
	}
	return found, err
}

// OrderByNumber finds an order by its number; 0 for none.
func OrderByNumber(q db.Q, number string) (uint64, error) {
	var id uint64
	return id, db.SQL(q).Raw("SELECT id FROM purchase_order WHERE number = ?", number).Scan(&id).Error
}

// LockOrder is ReadOrder, with the order locked until the transaction ends.
func LockOrder(tx db.Tx, id uint64) (OrderView, []OrderLine, error) {
	var found uint64
	if err := db.SQL(tx.Q).Raw("SELECT id FROM purchase_order WHERE id = ? FOR UPDATE",
		id).Scan(&found).Error; err != nil {
		return OrderView{}, nil, err
	}
	return ReadOrder(tx.Q, id)
}

// OrderEvents lists what happened to an order, in order.
func OrderEvents(q db.Q, order uint64) ([]OrderEvent, error) {
	var rows []OrderEvent
	return rows, db.SQL(q).
		Raw(`SELECT e.*, u.name AS who, COALESCE(d.number, '') AS document FROM purchase_order_event e
			JOIN user u ON u.id = e.user_id LEFT JOIN document d ON d.id = e.document_id
		WHERE e.order_id = ? ORDER BY e.id`, order).
		Scan(&rows).
		Error
}

// AddOrderEvent notes what happened to an order.
func AddOrderEvent(tx db.Tx, e OrderEvent) error {
	return db.SQL(tx.Q).Omit("Who", "Document").Create(&e).Error
}

// SaveOrder writes the head of an order; a new one gets its number in the database.
func SaveOrder(tx db.Tx, o *Order) error { return db.SQL(tx.Q).Save(o).Error }

// SaveOrderLines writes lines of an order, new ones and changed ones.
func SaveOrderLines(tx db.Tx, lines []OrderLine) error {
	if len(lines) == 0 {
		return nil
	}
	return db.SQL(tx.Q).Save(&lines).Error
}

// DropOrderLines takes lines off an order.
func DropOrderLines(tx db.Tx, ids []uint64) error {
	if len(ids) == 0 {
		return nil
	}
	return db.SQL(tx.Q).Exec("DELETE FROM purchase_order_line WHERE id IN ?", ids).Error
}

// DropOrder gives up a draft with its lines.
func DropOrder(tx db.Tx, id uint64) error {
	for _, statement := range []string{"DELETE FROM delivery_order WHERE order_id = ?",
		"DELETE FROM purchase_order_event WHERE order_id = ?",
		"DELETE FROM purchase_order_line WHERE order_id = ?", "DELETE FROM purchase_order WHERE id = ?"} {
		if err := db.SQL(tx.Q).Exec(statement, id).Error; err != nil {
			return err
		}
	}
	return nil
}

// OnOrder is how many of each of some variants are on order for a branch; branch 0 is all.
func OnOrder(q db.Q, variants []uint64, branch uint64) (map[uint64]decimal.Decimal, error) {
	var rows []struct {
		VariantID uint64
		Q         decimal.Decimal
	}
	err := db.SQL(q).
		Raw(`SELECT l.variant_id, SUM(l.outstanding) AS q FROM purchase_order_line l JOIN purchase_order o ON o.id =
			l.order_id
			WHERE l.variant_id IN ? AND l.outstanding > 0 AND (? = 0 OR o.branch_id = ?) GROUP BY l.variant_id`,
			append(variants, 0), branch, branch).
		Scan(&rows).
		Error
	found := make(map[uint64]decimal.Decimal, len(rows))
	for _, r := range rows {
		found[r.VariantID] = r.Q
	}
	return found, err
}

// Supplied is what a supplier asked for a variant the last time: before the discount, for
// a pack of Factor units.
type Supplied struct {
	SupplierID uint64          `gorm:"primaryKey" json:"supplier_id"`
	VariantID  uint64          `gorm:"primaryKey" json:"variant_id"`
	PartNumber string          `json:"part_number"`
	Pack       string          `json:"pack"`
	Factor     decimal.Decimal `json:"factor"`
	Price      decimal.Decimal `json:"price" see:"costs"`
	Discount   decimal.Decimal `json:"discount" see:"costs"`
	At         time.Time       `json:"at"`
	Source     string          `json:"source"` // number of the order or delivery
}

// TableName is the table of what we paid last.
func (Supplied) TableName() string { return "supplied" }

// SuppliedBy reads what a supplier asked last for some variants.
func SuppliedBy(q db.Q, supplier uint64, variants []uint64) (map[uint64]Supplied, error) {
	var rows []Supplied
	err := db.SQL(q).
		Raw("SELECT * FROM supplied WHERE supplier_id = ? AND variant_id IN ?", supplier, append(variants, 0)).
		Scan(&rows).
		Error
	found := make(map[uint64]Supplied, len(rows))
	for _, r := range rows {
		found[r.VariantID] = r
	}
	return found, err
}

// KeepSupplied notes what a supplier asked.
func KeepSupplied(tx db.Tx, rows []Supplied) error {
	if len(rows) == 0 {
		return nil
	}
	args := make([]any, 0, 9*len(rows))
	for _, r := range rows {
		args = append(args, r.SupplierID, r.VariantID, r.PartNumber, r.Pack, r.Factor, r.Price, r.Discount, r.At,
			r.Source)
	}
	return db.SQL(tx.Q).
		Exec(db.Values("INSERT INTO supplied (supplier_id, variant_id, part_number, pack, factor, price, "+
			"discount, at, source) VALUES ",
			len(rows), "(?, ?, ?, ?, ?, ?, ?, ?, ?)")+
			` ON DUPLICATE KEY UPDATE part_number = IF(VALUES(part_number) = '', part_number, VALUES(part_number)),
				pack = VALUES(pack),
				factor = VALUES(factor), price = VALUES(price), discount = VALUES(discount), at = VALUES(at), source
				= VALUES(source)`,
			args...).
		Error
}

// PartNumbers are a supplier's own numbers for the products of some variants.
func PartNumbers(q db.Q, supplier uint64, variants []uint64) (map[uint64]string, error) {
	var rows []struct {
		ID         uint64
		PartNumber string
	}
	err := db.SQL(q).
		Raw(`SELECT v.id, x.part_number FROM variant v JOIN product_supplier x ON x.product_id = v.product_id
			WHERE x.supplier_id = ? AND v.id IN ?`, supplier, append(variants, 0)).
		Scan(&rows).
		Error
	found := make(map[uint64]string, len(rows))
	for _, r := range rows {
		found[r.ID] = r.PartNumber
	}
	return found, err
}

// Asked is a line of an earlier order for the same goods.
type Asked struct {
	OrderLine
	Number   string    `json:"number"`
	PlacedAt time.Time `json:"placed_at"`
}

// AskedBefore are the latest placed orders of a supplier for a variant, but one.
func AskedBefore(q db.Q, supplier, variant, but uint64, most int) ([]Asked, error) {
	var rows []Asked
	return rows, db.SQL(q).
		Raw(`SELECT l.*, o.number, o.placed_at FROM purchase_order_line l JOIN purchase_order o ON o.id = l.order_id
			WHERE l.variant_id = ? AND o.supplier_id = ? AND o.id <> ? AND o.placed_at IS NOT NULL ORDER BY o.id DESC
			LIMIT ?`,
			variant, supplier, but, most).
		Scan(&rows).
		Error
}

// ByPartNumbers finds variants by their supplier's numbers, as it named them last: by the
// keys of the numbers. A number of several variants finds none.
func ByPartNumbers(q db.Q, supplier uint64, parts []string) (map[string]uint64, error) {
	var rows []struct {
		PartNumber string
		VariantID  uint64
	}
	wanted := slices.DeleteFunc(slices.Clone(parts), func(p string) bool { return text.Key(p) == "" })
	if len(wanted) == 0 {
		return map[string]uint64{}, nil
	}
	err := db.SQL(q).
		Raw(`SELECT part_number, variant_id FROM supplied WHERE supplier_id = ? AND part_number IN ? UNION
			SELECT x.part_number, v.id FROM product_supplier x JOIN variant v ON v.product_id = x.product_id
			WHERE x.supplier_id = ? AND x.part_number IN ? AND (SELECT COUNT(*) FROM variant y WHERE y.product_id =
			x.product_id) = 1`,
			supplier, wanted, supplier, wanted).
		Scan(&rows).
		Error
	found, twice := map[string]uint64{}, map[string]bool{}
	for _, r := range rows {
		key := text.Key(r.PartNumber)
		if key == "" { // which the database thinks equal to signs that nobody sees
			continue
		}
		if before := found[key]; before != 0 && before != r.VariantID {
			twice[key] = true
		}
		found[key] = r.VariantID
	}
	for key := range twice {
		delete(found, key)
	}
	return found, err
}

// AwaitedOf are the lines of a supplier's orders that await some variants, the earliest first.
func AwaitedOf(q db.Q, supplier uint64, variants []uint64) ([]OrderLine, error) {
	return orderLines(q, `WHERE outstanding > 0 AND variant_id IN ? AND order_id IN (SELECT id FROM purchase_order
		WHERE supplier_id = ?) ORDER BY id`,
		append(slices.Clone(variants), 0), supplier)
}

// OrderedLine is what of a variant an open order has to come.
type OrderedLine struct {
	ID     uint64
	Number string
	Units  decimal.Decimal
}

// ToCome lists, by variant, the open orders of a branch that have some of it to come.
func ToCome(q db.Q, branch uint64, variants []uint64) (map[uint64][]OrderedLine, error) {
	found := map[uint64][]OrderedLine{}
	return found, db.Read(q, db.Part{SQL: "SELECT l.variant_id, o.id, o.number, SUM(l.quantity - l.arrived - " +
		"l.called_off) FROM purchase_order o JOIN " +
		"purchase_order_line l ON l.order_id = o.id WHERE o.state IN ('Placed', 'Part in') AND o.branch_id = ? " +
		"AND l.variant_id IN (" +
		db.IDs(variants) + ") GROUP BY l.variant_id, o.id HAVING SUM(l.quantity - l.arrived - l.called_off) > 0 " +
		"ORDER BY o.id", Args: []any{branch},
		Row: func(scan func(into ...any) error) error {
			var variant uint64
			var o OrderedLine
			err := scan(&variant, &o.ID, &o.Number, &o.Units)
			found[variant] = append(found[variant], o)
			return err
		}})
}
