package counts

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	corecount "itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/core/revision"
	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// CountView is a shelf count with the names of what it refers to.
type CountView struct {
	ShelfCount
	Branch   string    `json:"branch"`
	By       string    `json:"by"`
	Closer   string    `json:"closer"`
	Rows     int       `json:"rows"`
	Done     int       `json:"done"` // rows that somebody counted
	Events   int       `json:"events"`
	Document string    `json:"document"`
	Counters []Counter `gorm:"-" json:"counters"` // each with a column; none for one column that all count into
	Shelves  []uint64  `gorm:"-" json:"shelf_ids"`
	// CountersAre is the revision of Counters.
	CountersAre string `gorm:"-" json:"counters_revision"`
}

// Counter is a person who counts in a column of the own.
type Counter struct {
	ID   uint64 `json:"id"`
	Name string `json:"name"`
}

// CounterIDs are the counters of a count.
func (v CountView) CounterIDs() []uint64 {
	ids := make([]uint64, len(v.Counters))
	for i, c := range v.Counters {
		ids[i] = c.ID
	}
	return ids
}

// Place is where a count counts.
func (v CountView) Place() corecount.Place {
	return corecount.Place{Branch: v.BranchID, Shelves: v.Shelves}
}

const countSelect = `SELECT c.*, b.name AS branch, u.name AS 'by', COALESCE(x.name, '') AS closer, COALESCE(d.number,
	'') AS document,
	(SELECT COUNT(*) FROM count_row r WHERE r.shelf_count_id = c.id) AS 'rows',
	(SELECT COUNT(DISTINCT e.variant_id, e.lot_id, e.condition) FROM count_event e WHERE e.shelf_count_id = c.id AND
	e.struck_at IS NULL AND NOT e.unexpected) AS done,
	(SELECT COUNT(*) FROM count_event e WHERE e.shelf_count_id = c.id AND e.struck_at IS NULL) AS events
	FROM shelf_count c JOIN branch b ON b.id = c.branch_id JOIN user u ON u.id = c.created_by LEFT JOIN user x ON
	x.id = c.closed_by
	LEFT JOIN document d ON d.id = c.document_id `

// Counts lists shelf counts, newest first.
func Counts(q db.Q, page int) ([]CountView, bool, error) {
	var rows []CountView
	err := db.SQL(q).
		Raw(countSelect+"ORDER BY c.id DESC LIMIT ? OFFSET ?", q.PageRows()+1, (page-1)*q.PageRows()).
		Scan(&rows).
		Error
	more := len(rows) > q.PageRows()
	rows = rows[:min(len(rows), q.PageRows())]
	if err != nil {
		return rows, more, err
	}
	return rows, more, addCounters(q, rows)
}

// OpenCounts lists the counts that are not closed.
func OpenCounts(q db.Q) ([]CountView, error) {
	var rows []CountView
	if err := db.SQL(q).Raw(countSelect + "WHERE c.state <> 'Closed' ORDER BY c.id").Scan(&rows).Error; err != nil {
		return nil, err
	}
	return rows, addCounters(q, rows)
}

// addCounters reads who counts in some counts, and on which shelves.
func addCounters(q db.Q, rows []CountView) error {
	if len(rows) == 0 {
		return nil
	}
	at := map[uint64]*CountView{}
	ids := make([]uint64, len(rows))
	for i := range rows {
		rows[i].Counters, rows[i].Shelves = []Counter{}, []uint64{}
		at[rows[i].ID], ids[i] = &rows[i], rows[i].ID
	}
	in := db.IDs(ids)
	err := db.Read(q, db.Part{SQL: "SELECT k.shelf_count_id, u.id, u.name FROM count_counter k JOIN user u ON " +
		"u.id = k.user_id WHERE " +
		"k.shelf_count_id IN (" + in + ") ORDER BY k.shelf_count_id, k.position",
		Row: func(scan func(into ...any) error) error {
			var count uint64
			var c Counter
			err := scan(&count, &c.ID, &c.Name)
			at[count].Counters = append(at[count].Counters, c)
			return err
		}}, db.Part{SQL: "SELECT k.shelf_count_id, k.shelf_id FROM count_shelf k JOIN shelf s ON s.id = " +
		"k.shelf_id WHERE k.shelf_count_id IN (" +
		in + ") ORDER BY s.is_default DESC, s.position, s.id", Row: func(scan func(into ...any) error) error {
		var count, shelf uint64
		err := scan(&count, &shelf)
		at[count].Shelves = append(at[count].Shelves, shelf)
		return err
	}})
	for i := range rows {
		rows[i].CountersAre = revision.Of(rows[i].Counters)
	}
	return err
}

// Count reads a shelf count.
func Count(q db.Q, id uint64) (CountView, error) {
	rows := make([]CountView, 1)
	err := db.SQL(q).Raw(countSelect+"WHERE c.id = ?", id).Scan(&rows[0]).Error
	if err == nil && rows[0].ID == 0 {
		return rows[0], fault.Missing("count", id, "There is no shelf count %d.", id)
	}
	if err != nil {
		return rows[0], err
	}
	err = addCounters(q, rows)
	return rows[0], err
}

// Head reads what an event needs to know of a count, without adding its rows up; nobody settles it until
// the transaction ends, and others count on meanwhile. Where alone is said nobody does.
func Head(tx db.Tx, id uint64, alone bool) (CountView, error) {
	rows := make([]CountView, 1)
	mode := " LOCK IN SHARE MODE"
	if alone {
		mode = " FOR UPDATE"
	}
	err := db.SQL(tx.Q).Raw("SELECT * FROM shelf_count WHERE id = ?"+mode, id).Scan(&rows[0].ShelfCount).Error
	if err == nil && rows[0].ID == 0 {
		return rows[0], fault.Missing("count", id, "There is no shelf count %d.", id)
	}
	if err != nil {
		return rows[0], err
	}
	err = addCounters(tx.Q, rows)
	return rows[0], err
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

// Countable reads how some variants are kept, and what of them lies at a place. No variants are all that
// ever lay there.
func Countable(q db.Q, variants []uint64, at corecount.Place) (map[uint64]stock.Tracking,
	map[corecount.RowKey]decimal.Decimal, error) {
	kept, balances := map[uint64]stock.Tracking{}, map[corecount.RowKey]decimal.Decimal{}
	where := "s.branch_id = " + db.IDs([]uint64{at.Branch})
	if len(at.Shelves) > 0 {
		where += " AND s.id IN (" + db.IDs(at.Shelves) + ")"
	}
	read := func(of, those string) error {
		return db.Read(q, db.Part{SQL: "SELECT v.id, p.tracking FROM variant v JOIN product p ON p.id = " +
			"v.product_id WHERE NOT p.bundle AND " + of,
			Row: func(scan func(into ...any) error) error {
				var id uint64
				var tracking stock.Tracking
				err := scan(&id, &tracking)
				kept[id] = tracking
				return err
			}}, db.Part{SQL: "SELECT b.variant_id, b.lot_id, b.condition, SUM(b.quantity) FROM balance b JOIN " +
			"shelf s ON s.id = b.shelf_id WHERE " +
			where + those + " GROUP BY b.variant_id, b.lot_id, b.condition", Row: func(scan func(into ...any) error) error {
			var key corecount.RowKey
			var quantity decimal.Decimal
			err := scan(&key.Variant, &key.Lot, &key.Condition, &quantity)
			balances[key] = quantity
			return err
		}})
	}
	if variants == nil {
		return kept, balances, read("v.id IN (SELECT b.variant_id FROM balance b JOIN shelf s ON s.id = "+
			"b.shelf_id WHERE "+where+
			" AND b.quantity <> 0)", "")
	}
	for part := range slices.Chunk(variants, 5000) {
		in := db.IDs(part)
		if err := read("v.id IN ("+in+")", " AND b.variant_id IN ("+in+")"); err != nil {
			return nil, nil, err
		}
	}
	return kept, balances, nil
}

// Key names the row for the rule.
func (r CountRow) Key() corecount.RowKey {
	return corecount.RowKey{Variant: r.VariantID, Lot: r.LotID, Condition: stock.Condition(r.Condition)}
}

// PlanCount writes the rows of a count. A row that stands in another open count
// of the branch is refused. What is held still is held from now on.
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
			Held:         c.HeldStill,
		}
	}
	if c.HeldStill {
		if err := LockPools(tx, keys); err != nil {
			return err
		}
	}
	err := db.Insert(tx, &list)
	if db.Duplicate(err) {
		return counted(tx, c, keys)
	}
	return err
}

// counted says in which other count some of the rows are.
func counted(tx db.Tx, c CountView, keys []corecount.RowKey) error {
	variants := make([]uint64, len(keys))
	for i, k := range keys {
		variants[i] = k.Variant
	}
	var number string
	for part := range slices.Chunk(variants, 5000) {
		if err := db.SQL(tx.Q).Raw("SELECT c.number FROM count_row r JOIN shelf_count c ON c.id = r.shelf_count_id "+
			"WHERE r.open_branch_id = ? AND r.variant_id IN ? AND c.id <> ? LIMIT 1", c.BranchID, part,
			c.ID).Scan(&number).Error; err != nil {
			return err
		}
		if number != "" {
			break
		}
	}
	return fault.Clash("category_id", c.Scope, "goods not being counted",
		"Some of it is being counted at this branch already, in %s.", number)
}

// LockPools keeps the variants of some rows from moving until the transaction ends.
func LockPools(tx db.Tx, keys []corecount.RowKey) error {
	ids := make([]uint64, len(keys))
	for i, k := range keys {
		ids[i] = k.Variant
	}
	slices.Sort(ids)
	for part := range slices.Chunk(slices.Compact(ids), 5000) {
		var found []uint64
		if err := db.SQL(tx.Q).Raw("SELECT variant_id FROM cost_pool WHERE variant_id IN ? ORDER BY variant_id "+
			"FOR UPDATE", part).
			Scan(&found).Error; err != nil {
			return err
		}
	}
	return nil
}

// Locked are the variants that a count locks, in some of its rows or, where none is named, in all.
func Locked(tx db.Tx, count uint64, rows []uint64) ([]uint64, error) {
	var variants []uint64
	where := ""
	if len(rows) > 0 {
		where = " AND id IN (" + db.IDs(rows) + ")"
	}
	return variants, db.SQL(tx.Q).Raw("SELECT variant_id FROM count_row WHERE held AND shelf_count_id = ?"+where, count).
		Scan(&variants).Error
}

// Overdue are the open counts that lock goods until a moment that is over.
func Overdue(q db.Q, now time.Time) ([]uint64, error) {
	var ids []uint64
	return ids, db.SQL(q).Raw("SELECT id FROM shelf_count WHERE held_still AND state <> 'Closed' AND held_until <= ?",
		now).
		Scan(&ids).Error
}

// Release lets what a count locks move again: some rows, or, where none is named, all, and what comes onto it later.
func Release(tx db.Tx, count uint64, rows []uint64) error {
	if len(rows) == 0 {
		b := new(db.Batch)
		b.Add("UPDATE count_row SET held = FALSE WHERE shelf_count_id = ?", count)
		b.Add("UPDATE shelf_count SET held_still = FALSE WHERE id = ?", count)
		return b.Run(tx)
	}
	return db.SQL(tx.Q).Exec("UPDATE count_row SET held = FALSE WHERE shelf_count_id = ? AND id IN ?", count, rows).Error
}

// Keep makes rows that were not planned part of the count.
func Keep(tx db.Tx, count uint64, row uint64) error {
	return db.SQL(tx.Q).Exec("UPDATE count_row SET planned = TRUE WHERE shelf_count_id = ? AND id = ?", count, row).Error
}

// Choose chooses a counter's column for a row; 0 takes the choice back.
func Choose(tx db.Tx, count, row, counter uint64) error {
	var by any
	if counter != 0 {
		by = counter
	}
	return db.SQL(tx.Q).Exec("UPDATE count_row SET chosen_by = ? WHERE shelf_count_id = ? AND id = ?", by,
		count, row).Error
}

// SetCounters writes who counts in a column of the own, in place of those there were.
func SetCounters(tx db.Tx, count uint64, counters []uint64) error {
	b := new(db.Batch)
	b.Add("DELETE FROM count_counter WHERE shelf_count_id = ?", count)
	for i, user := range counters {
		b.Add("INSERT INTO count_counter (shelf_count_id, user_id, position) VALUES (?, ?, ?)", count, user, i)
	}
	return b.Run(tx)
}

// SetCountState moves a count on.
func SetCountState(tx db.Tx, id uint64, state corecount.State) error {
	return db.SQL(tx.Q).Exec("UPDATE shelf_count SET state = ? WHERE id = ?", state, id).Error
}

// Closing is what a count came to when it was closed; one that is given up came to nothing.
type Closing struct {
	Document        *uint64
	At              time.Time
	By              uint64
	GivenUp         bool
	Counted, Right  int
	Variance, Value decimal.Decimal
}

// CloseCount closes a count and frees its rows, for others and to move.
func CloseCount(tx db.Tx, id uint64, c Closing) error {
	b := new(db.Batch)
	b.Add("UPDATE shelf_count SET state = 'Closed', document_id = ?, closed_at = ?, closed_by = ?, given_up = "+
		"?, counted_rows = ?, right_rows = ?, "+
		"variance = ?, value = ? WHERE id = ?", c.Document, c.At, c.By, c.GivenUp, c.Counted, c.Right, c.Variance,
		c.Value, id)
	b.Add("UPDATE count_row SET open_branch_id = NULL, held = FALSE WHERE shelf_count_id = ?", id)
	return b.Run(tx)
}
