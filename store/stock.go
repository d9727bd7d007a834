package store

import (
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/stock"
)

// Movement is an entry of a stock card.
type Movement struct {
	ID            uint64          `json:"id"`
	HappenedAt    time.Time       `json:"happened_at"`
	RecordedAt    time.Time       `json:"recorded_at"`
	Kind          string          `json:"kind"`
	Number        string          `json:"number"`
	Branch        string          `json:"branch"`
	Shelf         string          `json:"shelf"`
	Condition     string          `json:"condition"`
	Lot           string          `json:"lot,omitempty"`
	Serial        string          `json:"serial,omitempty"`
	Who           string          `json:"who"`
	Quantity      decimal.Decimal `json:"quantity"`
	Value         decimal.Decimal `json:"value"`
	QuantityAfter decimal.Decimal `json:"quantity_after"`
	ValueAfter    decimal.Decimal `json:"value_after"`
}

// MovementFilter narrows a stock card. Before pages backwards: entries with a
// smaller number than it.
type MovementFilter struct {
	Branch uint64 `json:"branch"`
	Kind   string `json:"kind"`
	Before uint64 `json:"before"`
	Limit  int    `json:"limit"`
}

// Movements lists the entries of a variant, newest first, and whether there are
// older ones.
func (q Q) Movements(variant uint64, f MovementFilter) ([]Movement, bool, error) {
	if f.Limit == 0 {
		f.Limit = q.PageRows()
	}
	db := q.db.Table("entry e").Select(`e.id, d.happened_at, d.recorded_at, d.kind, d.number, b.name AS branch, s.name AS shelf, e.condition, COALESCE(l.number, '') AS lot, e.serial,
		u.name AS who, e.quantity, e.value, e.quantity_after, e.value_after`).
		Joins("JOIN document d ON d.id = e.document_id JOIN shelf s ON s.id = e.shelf_id JOIN branch b ON b.id = s.branch_id JOIN user u ON u.id = d.user_id LEFT JOIN lot l ON l.id = e.lot_id").
		Where("e.variant_id = ?", variant)
	if f.Branch != 0 {
		db = db.Where("s.branch_id = ?", f.Branch)
	}
	if f.Kind != "" {
		db = db.Where("d.kind = ?", f.Kind)
	}
	if f.Before != 0 {
		db = db.Where("e.id < ?", f.Before)
	}
	var rows []Movement
	err := db.Order("e.id DESC").Limit(f.Limit + 1).Scan(&rows).Error
	return rows[:min(len(rows), f.Limit)], len(rows) > f.Limit, err
}

// Place is how much of a variant lies where.
type Place struct {
	BranchID  uint64          `json:"branch_id"`
	Branch    string          `json:"branch"`
	ShelfID   uint64          `json:"shelf_id"`
	Shelf     string          `json:"shelf"`
	Condition string          `json:"condition"`
	LotID     uint64          `json:"lot_id,omitempty"`
	Lot       string          `json:"lot,omitempty"`
	Expiry    *time.Time      `json:"expiry,omitempty"`
	Quantity  decimal.Decimal `json:"quantity"`
}

// Places lists where a variant lies, by branch.
func (q Q) Places(variant uint64) ([]Place, error) { return q.places("balance", variant) }

// places lists where a variant lies by a table of balances, or a query in
// brackets that makes one of its arguments.
func (q Q) places(balances string, variant uint64, args ...any) ([]Place, error) {
	rows := []Place{}
	err := q.db.Raw(`SELECT s.branch_id, b.name AS branch, s.id AS shelf_id, s.name AS shelf, x.condition, x.lot_id, COALESCE(l.number, '') AS lot, l.expiry, x.quantity
		FROM `+balances+` x JOIN shelf s ON s.id = x.shelf_id JOIN branch b ON b.id = s.branch_id LEFT JOIN lot l ON l.id = x.lot_id
		WHERE x.variant_id = ? AND x.quantity <> 0 ORDER BY s.branch_id, s.is_default DESC, s.id, l.expiry, x.condition`, append(args, variant)...).Scan(&rows).Error
	for i := range rows {
		if rows[i].Expiry != nil && !rows[i].Expiry.Before(never) {
			rows[i].Expiry = nil
		}
	}
	return rows, err
}

// UnitView is a serial-numbered unit of a variant.
type UnitView struct {
	Number    string          `json:"number"`
	State     string          `json:"state"`
	Branch    string          `json:"branch"`
	BranchID  uint64          `json:"branch_id"`
	Condition string          `json:"condition"`
	Cost      decimal.Decimal `json:"cost"`
}

// Units lists a variant's units, those in stock first.
func (q Q) Units(variant uint64, most int) ([]UnitView, error) {
	var rows []UnitView
	return rows, q.db.Raw("SELECT u.number, u.state, b.name AS branch, b.id AS branch_id, u.condition, u.cost FROM unit u JOIN shelf s ON s.id = u.shelf_id JOIN branch b ON b.id = s.branch_id "+
		"WHERE u.variant_id = ? ORDER BY u.state = 'in stock' DESC, u.number LIMIT ?", variant, most).Scan(&rows).Error
}

// KindSum is what documents of one kind did to a variant.
type KindSum struct {
	Kind      string          `json:"kind"`
	Documents int             `json:"documents"`
	Quantity  decimal.Decimal `json:"quantity"`
	Value     decimal.Decimal `json:"value"`
}

// SumsByKind adds up a variant's entries by kind of document; a condition
// narrows it to that condition.
func (q Q) SumsByKind(variant uint64, condition stock.Condition) ([]KindSum, error) {
	db := q.db.Table("entry e").Select("d.kind, COUNT(DISTINCT d.id) AS documents, SUM(e.quantity) AS quantity, SUM(e.value) AS value").
		Joins("JOIN document d ON d.id = e.document_id").Where("e.variant_id = ?", variant)
	if condition != "" {
		db = db.Where("e.condition = ?", condition)
	}
	rows := []KindSum{}
	return rows, db.Group("d.kind").Order("MIN(e.id)").Scan(&rows).Error
}

// StockRow is a variant in the list of stock.
type StockRow struct {
	ID           uint64           `json:"id"`
	ProductID    uint64           `json:"product_id"`
	Name         string           `json:"name"`
	Label        string           `json:"label"`
	SKU          string           `gorm:"column:sku" json:"sku"`
	Unit         string           `json:"unit"`
	Quantity     decimal.Decimal  `json:"quantity"`
	ForSale      decimal.Decimal  `json:"for_sale"`
	Value        decimal.Decimal  `json:"value"`
	LastCost     decimal.Decimal  `json:"last_cost"`
	RestockLevel *decimal.Decimal `json:"restock_level"`
	Low          bool             `json:"low"`
}

// Average is the variant's moving average.
func (r StockRow) Average() decimal.Decimal {
	return cost.Of(r.Quantity, r.Value, r.LastCost).Average()
}

const stockColumns = "v.id, v.product_id, p.name, v.label, v.sku, p.unit, c.quantity, c.for_sale, c.value, c.last_cost, v.restock_level, c.low"

// StockList lists a page of variants by product name. It takes only as many
// products as hold the page: each of them has a variant that is listed.
func (q Q) StockList(text string, page int) ([]StockRow, bool, error) {
	offset := (page - 1) * q.PageRows()
	from := "product p"
	if strings.TrimSpace(text) == "" {
		from = "product p FORCE INDEX (name)"
	}
	products := words(q.db.Table(from).Select("p.id"), text).
		Where("(p.tracking <> 'not stocked' OR p.bundle AND EXISTS (SELECT 1 FROM variant v JOIN cost_pool c ON c.variant_id = v.id WHERE v.product_id = p.id AND c.quantity > 0))").
		Order("p.name, p.id").Limit(offset + q.PageRows() + 1)
	var rows []StockRow
	err := q.db.Table("(?) x", products).Select(stockColumns).Joins("JOIN product p ON p.id = x.id JOIN variant v ON v.product_id = p.id JOIN cost_pool c ON c.variant_id = v.id").
		Order("p.name, p.id, v.id").Limit(q.PageRows() + 1).Offset(offset).Scan(&rows).Error
	return rows[:min(len(rows), q.PageRows())], len(rows) > q.PageRows(), err
}

// Low lists variants below their restock level, and how many there are.
func (q Q) Low(most int) ([]StockRow, int, error) {
	var rows []StockRow
	err := q.db.Raw("SELECT "+stockColumns+` FROM cost_pool c JOIN variant v ON v.id = c.variant_id JOIN product p ON p.id = v.product_id
		WHERE c.low ORDER BY c.variant_id LIMIT ?`, most).Scan(&rows).Error
	if err != nil {
		return nil, 0, err
	}
	var n int
	return rows, n, q.db.Raw("SELECT COUNT(*) FROM cost_pool WHERE low").Scan(&n).Error
}

// OffRow is goods that are not for sale.
type OffRow struct {
	VariantID    uint64          `json:"variant_id"`
	Name         string          `json:"name"`
	Label        string          `json:"label"`
	SKU          string          `gorm:"column:sku" json:"sku"`
	Unit         string          `json:"unit"`
	BranchID     uint64          `json:"branch_id"`
	Branch       string          `json:"branch"`
	LotID        uint64          `json:"lot_id"`
	Lot          string          `json:"lot"`
	Condition    string          `json:"condition"`
	Quantity     decimal.Decimal `json:"quantity"`
	PoolQuantity decimal.Decimal `json:"pool_quantity"`
	PoolValue    decimal.Decimal `json:"pool_value"`
	Serials      string          `json:"serials"`
	Since        *time.Time      `json:"since"`
}

// Worth is what the goods are worth.
func (r OffRow) Worth() decimal.Decimal {
	return cost.Of(r.PoolQuantity, r.PoolValue, decimal.Zero).Worth(r.Quantity)
}

// NotForSale lists what lies in another condition than for sale, and since when
// at the earliest of its last time at zero.
func (q Q) NotForSale(most int) ([]OffRow, error) {
	var rows []OffRow
	return rows, q.db.Raw(`SELECT b.variant_id, p.name, v.label, v.sku, p.unit, s.branch_id, x.name AS branch, b.lot_id, COALESCE(l.number, '') AS lot, b.condition, SUM(b.quantity) AS quantity,
		c.quantity AS pool_quantity, c.value AS pool_value,
		(SELECT MAX(d.happened_at) FROM entry e JOIN document d ON d.id = e.document_id WHERE e.variant_id = b.variant_id AND e.condition = b.condition AND e.quantity > 0) AS since,
		COALESCE((SELECT GROUP_CONCAT(u.number ORDER BY u.number) FROM unit u JOIN shelf y ON y.id = u.shelf_id WHERE u.variant_id = b.variant_id AND u.state = 'in stock' AND u.condition = b.condition AND y.branch_id = s.branch_id), '') AS serials
		FROM balance b JOIN shelf s ON s.id = b.shelf_id JOIN branch x ON x.id = s.branch_id JOIN variant v ON v.id = b.variant_id JOIN product p ON p.id = v.product_id
		JOIN cost_pool c ON c.variant_id = v.id LEFT JOIN lot l ON l.id = b.lot_id
		WHERE b.condition <> 'For sale' AND b.quantity > 0
		GROUP BY b.variant_id, s.branch_id, b.lot_id, b.condition ORDER BY b.condition, p.name, v.id LIMIT ?`, most).Scan(&rows).Error
}

// DocumentView is a document with names.
type DocumentView struct {
	ID         uint64    `json:"id"`
	Kind       string    `json:"kind"`
	Number     string    `json:"number"`
	BranchID   uint64    `json:"branch_id"`
	Branch     string    `json:"branch"`
	Who        string    `json:"who"`
	HappenedAt time.Time `json:"happened_at"`
	RecordedAt time.Time `json:"recorded_at"`
	Note       string    `json:"note"`
	Reverses   string    `json:"reverses,omitempty"`
	ReversedBy string    `json:"reversed_by,omitempty"`
}

const documentSelect = `SELECT d.id, d.kind, d.number, d.branch_id, b.name AS branch, u.name AS who, d.happened_at, d.recorded_at, d.note,
	COALESCE(r.number, '') AS reverses, COALESCE(x.number, '') AS reversed_by FROM document d JOIN branch b ON b.id = d.branch_id JOIN user u ON u.id = d.user_id
	LEFT JOIN document r ON r.id = d.reverses_id LEFT JOIN document x ON x.reverses_id = d.id `

// Document reads a document by its number.
func (q Q) Document(number string) (DocumentView, error) {
	var v DocumentView
	err := q.db.Raw(documentSelect+"WHERE d.number = ?", number).Scan(&v).Error
	if err == nil && v.ID == 0 {
		err = fault.Missing("document", number, "There is no document %s.", number)
	}
	return v, err
}

// LockDocument is Document, locked until the transaction ends.
func (tx Tx) LockDocument(number string) (DocumentView, error) {
	var id uint64
	if err := tx.db.Raw("SELECT id FROM document WHERE number = ? FOR UPDATE", number).Scan(&id).Error; err != nil {
		return DocumentView{}, err
	}
	return tx.Document(number)
}

// Documents lists documents, newest first; a kind narrows it.
func (q Q) Documents(kind string, page int) ([]DocumentView, bool, error) {
	sql, args := documentSelect, []any{}
	if kind != "" {
		sql += "WHERE d.kind = ? "
		args = append(args, kind)
	}
	var rows []DocumentView
	err := q.db.Raw(sql+"ORDER BY d.id DESC LIMIT ? OFFSET ?", append(args, q.PageRows()+1, (page-1)*q.PageRows())...).Scan(&rows).Error
	return rows[:min(len(rows), q.PageRows())], len(rows) > q.PageRows(), err
}

// EntryView is an entry of a document with names.
type EntryView struct {
	Line          int             `json:"line"`
	VariantID     uint64          `json:"variant_id"`
	Name          string          `json:"name"`
	Label         string          `json:"label"`
	SKU           string          `gorm:"column:sku" json:"sku"`
	Unit          string          `json:"unit"`
	Shelf         string          `json:"shelf"`
	Condition     string          `json:"condition"`
	Lot           string          `json:"lot"`
	Serial        string          `json:"serial"`
	Quantity      decimal.Decimal `json:"quantity"`
	Value         decimal.Decimal `json:"value"`
	QuantityAfter decimal.Decimal `json:"quantity_after"`
	ValueAfter    decimal.Decimal `json:"value_after"`
}

// EntryViews lists the entries of a document, a thousand at most.
func (q Q) EntryViews(document uint64) ([]EntryView, error) {
	var rows []EntryView
	return rows, q.db.Raw(`SELECT e.line, e.variant_id, p.name, v.label, v.sku, p.unit, s.name AS shelf, e.condition, COALESCE(l.number, '') AS lot, e.serial, e.quantity, e.value, e.quantity_after, e.value_after
		FROM entry e JOIN variant v ON v.id = e.variant_id JOIN product p ON p.id = v.product_id JOIN shelf s ON s.id = e.shelf_id LEFT JOIN lot l ON l.id = e.lot_id
		WHERE e.document_id = ? ORDER BY e.id LIMIT 1000`, document).Scan(&rows).Error
}

// Postings lists the double entry of a document.
func (q Q) Postings(document uint64) ([]ledger.Posting, error) {
	var rows []ledger.Posting
	return rows, q.db.Raw("SELECT account, amount FROM ledger_posting WHERE document_id = ? ORDER BY amount < 0, account", document).Scan(&rows).Error
}

// Level is a point of a variant's level over time.
type Level struct {
	At       time.Time       `json:"at"`
	Quantity decimal.Decimal `json:"quantity"`
}

// Levels returns the level of a variant after each of its last entries since a
// moment, oldest first, 500 at most, beginning with the level before them.
func (q Q) Levels(variant uint64, since time.Time) ([]Level, error) {
	var rows []Level
	err := q.db.Raw(`SELECT * FROM (SELECT e.id, d.happened_at AS at, e.quantity_after AS quantity FROM entry e JOIN document d ON d.id = e.document_id
		WHERE e.variant_id = ? AND d.happened_at >= ? ORDER BY e.id DESC LIMIT 500) x ORDER BY id`, variant, since).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	var first struct{ Quantity *decimal.Decimal }
	err = q.db.Raw(`SELECT e.quantity_after AS quantity FROM entry e JOIN document d ON d.id = e.document_id WHERE e.variant_id = ? AND d.happened_at < ?
		ORDER BY e.id DESC LIMIT 1`, variant, since).Scan(&first).Error
	start := Level{At: since}
	if first.Quantity != nil {
		start.Quantity = *first.Quantity
	}
	return append([]Level{start}, rows...), err
}

// Accounts adds up every account of the books.
func (q Q) Accounts() ([]ledger.Posting, error) {
	var rows []ledger.Posting
	return rows, q.db.Raw("SELECT account, SUM(amount) AS amount FROM ledger_posting GROUP BY account ORDER BY account").Scan(&rows).Error
}
