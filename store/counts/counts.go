package counts

import (
	"time"

	"github.com/shopspring/decimal"

	corecount "itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// CountView is a shelf count with the names of what it refers to.
type CountView struct {
	ShelfCount
	Branch   string `json:"branch"`
	Category string `json:"category"`
	By       string `json:"by"`
	Rows     int    `json:"rows"`
	Events   int    `json:"events"`
	Document string `json:"document"`
}

const countSelect = `SELECT c.*, b.name AS branch, g.path AS category, u.name AS 'by', COALESCE(d.number, '') AS
	document,
	(SELECT COUNT(*) FROM count_row r WHERE r.shelf_count_id = c.id) AS 'rows', (SELECT COUNT(*) FROM count_event e
	WHERE e.shelf_count_id = c.id AND e.struck_at IS NULL) AS events
	FROM shelf_count c JOIN branch b ON b.id = c.branch_id JOIN category g ON g.id = c.category_id JOIN user u ON
	u.id = c.created_by LEFT JOIN document d ON d.id = c.document_id `

// Counts lists shelf counts, newest first.
func Counts(q db.Q, page int) ([]CountView, bool, error) {
	var rows []CountView
	err := db.SQL(q).
		Raw(countSelect+"ORDER BY c.id DESC LIMIT ? OFFSET ?", q.PageRows()+1, (page-1)*q.PageRows()).
		Scan(&rows).
		Error
	return rows[:min(len(rows), q.PageRows())], len(rows) > q.PageRows(), err
}

// OpenCounts lists the counts that are not closed.
func OpenCounts(q db.Q) ([]CountView, error) {
	var rows []CountView
	return rows, db.SQL(q).Raw(countSelect + "WHERE c.state <> 'Closed' ORDER BY c.id").Scan(&rows).Error
}

// Count reads a shelf count.
func Count(q db.Q, id uint64) (CountView, error) {
	var v CountView
	err := db.SQL(q).Raw(countSelect+"WHERE c.id = ?", id).Scan(&v).Error
	if err == nil && v.ID == 0 {
		err = fault.Missing("count", id, "There is no shelf count %d.", id)
	}
	return v, err
}

// LockCount reads a shelf count and locks it until the transaction ends.
func LockCount(tx db.Tx, id uint64) (CountView, error) {
	var found uint64
	if err := db.SQL(tx.Q).Raw("SELECT id FROM shelf_count WHERE id = ? FOR UPDATE",
		id).Scan(&found).Error; err != nil {
		return CountView{}, err
	}
	return Count(tx.Q, id)
}

// Countable reads the variants of a category with how they are kept, and what of them
// lies at a branch.
func Countable(q db.Q,
	category, branch uint64) (map[uint64]stock.Tracking, map[corecount.RowKey]decimal.Decimal, error) {
	var path string
	if err := db.SQL(q).Raw("SELECT path_key FROM category WHERE id = ?", category).Scan(&path).Error; err != nil {
		return nil, nil, err
	}
	if path == "" {
		return nil, nil, fault.Missing("category", category, "There is no category %d.", category)
	}
	const of = " FROM category c JOIN product p ON p.category_id = c.id JOIN variant v ON v.product_id = p.id"
	variants, balances := map[uint64]stock.Tracking{}, map[corecount.RowKey]decimal.Decimal{}
	below := db.Like(path) + " > %"
	return variants, balances, db.Read(
		q,
		db.Part{
			SQL:  "SELECT v.id, p.tracking" + of + " WHERE (c.path_key = ? OR c.path_key LIKE ?) AND NOT p.bundle",
			Args: []any{path, below},
			Row: func(scan func(into ...any) error) error {
				var id uint64
				var tracking stock.Tracking
				err := scan(&id, &tracking)
				variants[id] = tracking
				return err
			},
		},
		db.Part{
			SQL: "SELECT b.variant_id, b.lot_id, b.condition, SUM(b.quantity)" + of + ` JOIN balance b ON
				b.variant_id = v.id JOIN shelf s ON s.id = b.shelf_id
			WHERE (c.path_key = ? OR c.path_key LIKE ?) AND s.branch_id = ? GROUP BY b.variant_id, b.lot_id, b.condition`,
			Args: []any{path, below, branch},
			Row: func(scan func(into ...any) error) error {
				var key corecount.RowKey
				var quantity decimal.Decimal
				err := scan(&key.Variant, &key.Lot, &key.Condition, &quantity)
				balances[key] = quantity
				return err
			},
		},
	)
}

// Key names the row for the rule.
func (r CountRow) Key() corecount.RowKey {
	return corecount.RowKey{Variant: r.VariantID, Lot: r.LotID, Condition: stock.Condition(r.Condition)}
}

// PlanCount writes the rows of a count. A row that stands in another open count
// of the branch is refused.
func PlanCount(tx db.Tx, c CountView, keys []corecount.RowKey, planned bool) error {
	list := make([]CountRow, len(keys))
	for i, k := range keys {
		list[i] = CountRow{
			ShelfCountID: c.ID,
			OpenBranchID: &c.BranchID,
			VariantID:    k.Variant,
			LotID:        k.Lot,
			Condition:    string(k.Condition),
			Planned:      planned,
		}
	}
	err := db.Insert(tx, &list)
	if db.Duplicate(err) {
		var number string
		variants := make([]uint64, len(keys))
		for i, k := range keys {
			variants[i] = k.Variant
		}
		if err := db.SQL(tx.Q).Raw("SELECT c.number FROM count_row r JOIN shelf_count c ON c.id = r.shelf_count_id "+
			"WHERE r.open_branch_id = ? AND r.variant_id IN ? AND c.id <> ? LIMIT 1", c.BranchID, variants, c.ID).Scan(&number).Error; err != nil {
			return err
		}
		return fault.Clash("category", c.CategoryID, "a category not being counted",
			"Some of it is being counted at this branch already, in %s.", number)
	}
	return err
}

// CountRows lists the rows of a count.
func CountRows(q db.Q, id uint64) ([]CountRow, error) {
	var rows []CountRow
	return rows, db.SQL(q).Raw("SELECT * FROM count_row WHERE shelf_count_id = ? ORDER BY id", id).Scan(&rows).Error
}

// ReadCountRow finds a row of a count; ID is 0 when there is none.
func ReadCountRow(q db.Q, id uint64, key corecount.RowKey) (CountRow, error) {
	var row CountRow
	return row, db.SQL(q).
		Raw("SELECT * FROM count_row r WHERE r.shelf_count_id = ? AND r.variant_id = ? AND r.lot_id = ? AND "+
			"r.condition = ?", id, key.Variant, key.Lot, key.Condition).
		Scan(&row).
		Error
}

// CountedBefore adds up what a row's entries came to so far, and names who
// counted a serial number already.
func CountedBefore(q db.Q, id uint64, key corecount.RowKey, serial string) (sum decimal.Decimal, by string, err error) {
	err = db.SQL(q).
		Raw("SELECT COALESCE(SUM(e.quantity), 0) FROM count_event e WHERE e.shelf_count_id = ? AND e.variant_id = ? "+
			"AND e.lot_id = ? AND e.condition = ? AND e.struck_at IS NULL",
			id, key.Variant, key.Lot, key.Condition).
		Scan(&sum).
		Error
	if err != nil || serial == "" {
		return sum, "", err
	}
	err = db.SQL(q).
		Raw("SELECT u.name FROM count_event e JOIN user u ON u.id = e.user_id WHERE e.shelf_count_id = ? AND "+
			"e.variant_id = ? AND e.serial = ? AND e.struck_at IS NULL",
			id, key.Variant, serial).
		Scan(&by).
		Error
	return sum, by, err
}

// CountEventView is an event of a count's log with names.
type CountEventView struct {
	CountEvent
	Name  string `json:"name"`
	Label string `json:"label"`
	SKU   string `json:"sku"`
	Who   string `json:"who"`
}

// Hidden is an entry as those see it who count blind: without what the book had.
func (e CountEventView) Hidden() CountEventView {
	e.OnHand = decimal.Zero
	return e
}

// CountEvents lists the log of a count in the order it was written.
func CountEvents(q db.Q, id uint64) ([]CountEventView, error) {
	var rows []CountEventView
	return rows, db.SQL(q).
		Raw(`SELECT e.*, p.name, v.label, v.sku, u.name AS who FROM count_event e JOIN variant v ON v.id =
			e.variant_id JOIN product p ON p.id = v.product_id
		JOIN user u ON u.id = e.user_id WHERE e.shelf_count_id = ? ORDER BY e.id`, id).
		Scan(&rows).
		Error
}

// Core gives an event to the rule.
func (e CountEvent) Core() corecount.Event {
	return corecount.Event{
		Row:      corecount.RowKey{Variant: e.VariantID, Lot: e.LotID, Condition: stock.Condition(e.Condition)},
		Serial:   e.Serial,
		Quantity: e.Quantity,
		OnHand:   e.OnHand,
		At:       e.At,
		Struck:   e.StruckAt != nil,
	}
}

// RowOnHand is the book's figure of rows at a branch.
func RowOnHand(q db.Q, branch uint64, keys []corecount.RowKey) (map[corecount.RowKey]decimal.Decimal, error) {
	figures := map[corecount.RowKey]decimal.Decimal{}
	ids := make([]uint64, len(keys))
	for i, k := range keys {
		ids[i] = k.Variant
	}
	if len(ids) == 0 {
		return figures, nil
	}
	var rows []struct {
		CountRow
		Quantity decimal.Decimal
	}
	err := db.SQL(q).
		Raw(`SELECT b.variant_id, b.lot_id, b.condition, SUM(b.quantity) AS quantity FROM balance b JOIN shelf s ON
			s.id = b.shelf_id
		WHERE s.branch_id = ? AND b.variant_id IN ? GROUP BY b.variant_id, b.lot_id, b.condition`, branch, ids).
		Scan(&rows).
		Error
	for _, r := range rows {
		figures[r.Key()] = r.Quantity
	}
	return figures, err
}

// LockPool keeps a variant from moving until the transaction ends, so that a
// count event and the book's figure belong together.
func LockPool(tx db.Tx, variant uint64) error {
	var id uint64
	return db.SQL(tx.Q).Raw("SELECT variant_id FROM cost_pool WHERE variant_id = ? FOR UPDATE", variant).Scan(&id).Error
}

// StrikeEvent strikes an event of a count; it stays in the log.
func StrikeEvent(tx db.Tx, count, event, user uint64, now time.Time) error {
	result := db.SQL(tx.Q).
		Exec("UPDATE count_event SET struck_at = ?, struck_by = ? WHERE id = ? AND shelf_count_id = ? AND struck_at "+
			"IS NULL", now, user, event, count)
	if result.Error == nil && result.RowsAffected == 0 {
		return fault.Clash("event", event, "an event that stands",
			"That entry was struck already, or is not of this count.")
	}
	return result.Error
}

// SetCountState moves a count on; closing it frees its rows for other counts.
func SetCountState(tx db.Tx, id uint64, state corecount.State, document *uint64) error {
	if err := db.SQL(tx.Q).Exec("UPDATE shelf_count SET state = ?, document_id = COALESCE(?, document_id) WHERE id "+
		"= ?", state, document, id).Error; err != nil {
		return err
	}
	if state != corecount.Closed {
		return nil
	}
	return db.SQL(tx.Q).Exec("UPDATE count_row SET open_branch_id = NULL WHERE shelf_count_id = ?", id).Error
}

// SaveCountRow keeps what a row came to.
func SaveCountRow(tx db.Tx, r CountRow) error {
	return db.SQL(tx.Q).
		Table("count_row").
		Where("id = ?", r.ID).
		Updates(map[string]any{"counted": r.Counted, "expected": r.Expected, "variance": r.Variance, "value": r.Value,
			"reason": r.Reason}).
		Error
}
