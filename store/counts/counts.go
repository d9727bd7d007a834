package counts

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	corecount "itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/core/revision"
	"itemrack/core/stock"
	"itemrack/store/goods"
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

// Income is what each variant brought without tax since a moment, less what came back.
func Income(q db.Q, since time.Time) (map[uint64]decimal.Decimal, error) {
	income := map[uint64]decimal.Decimal{}
	add := func(sql string) db.Part {
		return db.Part{SQL: sql, Args: []any{since}, Row: func(scan func(into ...any) error) error {
			var id uint64
			var amount decimal.Decimal
			err := scan(&id, &amount)
			income[id] = income[id].Add(amount)
			return err
		}}
	}
	return income, db.Read(q, add("SELECT l.variant_id, SUM(l.paid - IF(l.with_tax, l.tax, 0)) FROM document d "+
		"JOIN sale_line l ON l.document_id = d.id "+
		"WHERE d.kind = 'Sale' AND d.happened_at >= ? AND NOT EXISTS (SELECT 1 FROM document r WHERE "+
		"r.reverses_id = d.id) GROUP BY l.variant_id"),
		add("SELECT r.variant_id, -SUM(r.amount - IF(COALESCE(l.with_tax, TRUE), r.tax, 0)) FROM document d "+
			"JOIN return_line r ON r.document_id = d.id "+
			"LEFT JOIN sale_line l ON l.id = r.sale_line_id WHERE d.kind = 'Return' AND d.happened_at >= ? "+
			"GROUP BY r.variant_id"))
}

// LastCounted is when each variant was counted last at a branch, in a count that was settled.
func LastCounted(q db.Q, branch uint64) (map[uint64]time.Time, error) {
	last := map[uint64]time.Time{}
	return last, db.Read(q, db.Part{SQL: "SELECT r.variant_id, MAX(c.closed_at) FROM shelf_count c JOIN " +
		"count_row r ON r.shelf_count_id = c.id WHERE " +
		"c.branch_id = ? AND c.state = 'Closed' AND NOT c.given_up AND r.counted IS NOT NULL GROUP BY r.variant_id",
		Args: []any{branch},
		Row: func(scan func(into ...any) error) error {
			var id uint64
			var at *time.Time
			err := scan(&id, &at)
			if at != nil {
				last[id] = *at
			}
			return err
		}})
}

// LastRow is what the last settled count at a branch found of a variant, all its conditions and lots together.
type LastRow struct {
	Branch   string           `json:"branch"`
	CountID  uint64           `json:"count_id"`
	Number   string           `json:"number"`
	At       time.Time        `json:"at"`
	Counted  decimal.Decimal  `json:"counted"`
	Variance *decimal.Decimal `json:"variance"`
}

// LastOf lists the last count of a variant at each branch that has counted it.
func LastOf(q db.Q, variant uint64) ([]LastRow, error) {
	rows := []LastRow{}
	return rows, db.SQL(q).Raw(`SELECT b.name AS branch, c.id AS count_id, c.number, c.closed_at AS at,
			SUM(r.counted) AS counted, SUM(r.variance) AS variance
		FROM count_row r JOIN shelf_count c ON c.id = r.shelf_count_id JOIN branch b ON b.id = c.branch_id
		WHERE r.variant_id = ? AND r.counted IS NOT NULL AND c.state = 'Closed' AND NOT c.given_up
			AND NOT EXISTS (SELECT 1 FROM count_row n JOIN shelf_count l ON l.id = n.shelf_count_id
				WHERE n.variant_id = r.variant_id AND n.counted IS NOT NULL AND l.branch_id = c.branch_id
					AND l.state = 'Closed' AND NOT l.given_up AND l.closed_at > c.closed_at)
		GROUP BY c.id ORDER BY b.position, b.id`, variant).Scan(&rows).Error
}

// MovedSince are the variants of which something moved at a branch since a moment.
func MovedSince(q db.Q, branch uint64, since time.Time) (map[uint64]bool, error) {
	moved := map[uint64]bool{}
	return moved, db.Read(q, db.Part{SQL: "SELECT DISTINCT e.variant_id FROM document d JOIN entry e ON " +
		"e.document_id = d.id JOIN shelf s ON s.id = e.shelf_id " +
		"WHERE d.happened_at >= ? AND s.branch_id = ? AND e.quantity <> 0", Args: []any{since, branch},
		Row: func(scan func(into ...any) error) error {
			var id uint64
			err := scan(&id)
			moved[id] = true
			return err
		}})
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

// Release lets what a count holds still move again: some rows, or all where none is named.
func Release(tx db.Tx, count uint64, rows []uint64) error {
	if len(rows) == 0 {
		return db.SQL(tx.Q).Exec("UPDATE count_row SET held = FALSE WHERE shelf_count_id = ?", count).Error
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

// StrikeRow strikes all that was counted of a row: by one counter, or by all for 0.
func StrikeRow(tx db.Tx, count uint64, key corecount.RowKey, by, user uint64, now time.Time) error {
	where, args := "", []any{now, user, count, key.Variant, key.Lot, key.Condition}
	if by != 0 {
		where, args = " AND user_id = ?", append(args, by)
	}
	return db.SQL(tx.Q).Exec("UPDATE count_event SET struck_at = ?, struck_by = ? WHERE shelf_count_id = ? AND "+
		"variant_id = ? AND lot_id = ? AND "+
		"`condition` = ? AND struck_at IS NULL"+where, args...).Error
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

// CountRows lists the rows of a count.
func CountRows(q db.Q, id uint64) ([]CountRow, error) {
	var rows []CountRow
	return rows, db.SQL(q).Raw("SELECT * FROM count_row WHERE shelf_count_id = ? ORDER BY id", id).Scan(&rows).Error
}

// rowFilters are the parts of a count that can be looked at by themselves.
var rowFilters = map[string]string{
	"": "", "open": " AND NOT EXISTS (SELECT 1 FROM count_event e WHERE e.shelf_count_id = r.shelf_count_id AND " +
		"e.variant_id = r.variant_id AND " +
		"e.lot_id = r.lot_id AND e.condition = r.condition AND e.struck_at IS NULL AND NOT e.unexpected)",
	"done": " AND EXISTS (SELECT 1 FROM count_event e WHERE e.shelf_count_id = r.shelf_count_id AND " +
		"e.variant_id = r.variant_id AND " +
		"e.lot_id = r.lot_id AND e.condition = r.condition AND e.struck_at IS NULL AND NOT e.unexpected)",
	"unplanned": " AND NOT r.planned", "held": " AND r.held",
}

// RowsPage lists a page of the rows of a count by the names of their goods: all, those that nobody counted
// ("open"), that somebody did ("done"), "unplanned", or "held".
func RowsPage(q db.Q, id uint64, show, words string, page, size int) ([]CountRow, bool, error) {
	list := db.SQL(q).Table("count_row r").Select("r.*").Joins("JOIN variant v ON v.id = r.variant_id JOIN "+
		"product p ON p.id = v.product_id").
		Where("r.shelf_count_id = ?"+rowFilters[show], id)
	var rows []CountRow
	err := goods.Words(list, words).Order("p.name, p.id, v.id, r.lot_id, r.id").Limit(size +
		1).Offset((page - 1) * size).Scan(&rows).Error
	return rows[:min(len(rows), size)], len(rows) > size, err
}

// EventsOf lists the log of some variants of a count in the order in which it happened.
func EventsOf(q db.Q, id uint64, variants []uint64) ([]CountEventView, error) {
	var rows []CountEventView
	if len(variants) == 0 {
		return rows, nil
	}
	return rows, db.SQL(q).Raw(eventSelect+"AND e.variant_id IN ? ORDER BY e.at, e.id", id, variants).Scan(&rows).Error
}

// CategoriesOf are the categories of some variants, by their paths.
func CategoriesOf(q db.Q, variants []uint64) (map[uint64]string, error) {
	paths := map[uint64]string{}
	for part := range slices.Chunk(variants, 5000) {
		if err := db.Read(q, db.Part{SQL: "SELECT v.id, c.path FROM variant v JOIN product p ON p.id = " +
			"v.product_id JOIN category c ON c.id = " +
			"p.category_id WHERE v.id IN (" + db.IDs(part) + ")", Row: func(scan func(into ...any) error) error {
			var id uint64
			var path string
			err := scan(&id, &path)
			paths[id] = path
			return err
		}}); err != nil {
			return nil, err
		}
	}
	return paths, nil
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
// counted a serial number already: in the column of a counter, or in that of all for 0.
func CountedBefore(q db.Q, id uint64, key corecount.RowKey, serial string, column uint64) (sum decimal.Decimal,
	by string, err error) {
	mine, args := "", []any{id, key.Variant, key.Lot, key.Condition}
	if column != 0 {
		mine, args = " AND e.user_id = ?", append(args, column)
	}
	err = db.SQL(q).
		Raw("SELECT COALESCE(SUM(e.quantity), 0) FROM count_event e WHERE e.shelf_count_id = ? AND e.variant_id = ? "+
			"AND e.lot_id = ? AND e.condition = ? AND e.struck_at IS NULL AND NOT e.unexpected"+mine, args...).
		Scan(&sum).
		Error
	if err != nil || serial == "" {
		return sum, "", err
	}
	args = []any{id, key.Variant, serial}
	if column != 0 {
		args = append(args, column)
	}
	err = db.SQL(q).
		Raw("SELECT u.name FROM count_event e JOIN user u ON u.id = e.user_id WHERE e.shelf_count_id = ? AND "+
			"e.variant_id = ? AND e.serial = ? AND e.struck_at IS NULL"+mine, args...).
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

const eventSelect = `SELECT e.*, p.name, v.label, v.sku, u.name AS who FROM count_event e JOIN variant v ON v.id =
	e.variant_id JOIN
	product p ON p.id = v.product_id JOIN user u ON u.id = e.user_id WHERE e.shelf_count_id = ? `

// CountEvents lists the log of a count in the order in which it happened.
func CountEvents(q db.Q, id uint64) ([]CountEventView, error) {
	var rows []CountEventView
	return rows, db.SQL(q).Raw(eventSelect+"ORDER BY e.at, e.id", id).Scan(&rows).Error
}

// LastEvents lists what was counted last, the latest first: of a row where its variant is said; before an
// event, where one is.
func LastEvents(q db.Q, id, variant, before uint64, most int) ([]CountEventView, error) {
	where, args := "", []any{id}
	if variant != 0 {
		where, args = where+"AND e.variant_id = ? ", append(args, variant)
	}
	if before != 0 {
		where, args = where+"AND e.id < ? ", append(args, before)
	}
	rows := []CountEventView{}
	return rows, db.SQL(q).Raw(eventSelect+where+"ORDER BY e.id DESC LIMIT ?", append(args, most)...).Scan(&rows).Error
}

// EventsAfter lists what was counted or struck since another event was: those with a greater number, and
// those that were struck after a moment.
func EventsAfter(q db.Q, id, after uint64, since time.Time, most int) ([]CountEventView, error) {
	rows := []CountEventView{}
	return rows, db.SQL(q).Raw(eventSelect+"AND (e.id > ? OR e.struck_at > ?) ORDER BY e.id LIMIT ?", id, after,
		since, most).Scan(&rows).Error
}

// Core gives an event to the rule.
func (e CountEvent) Core() corecount.Event {
	return corecount.Event{
		Row:        corecount.RowKey{Variant: e.VariantID, Lot: e.LotID, Condition: stock.Condition(e.Condition)},
		Serial:     e.Serial,
		Quantity:   e.Quantity,
		OnHand:     e.OnHand,
		At:         e.At,
		By:         e.UserID,
		Struck:     e.StruckAt != nil,
		Unexpected: e.Unexpected,
	}
}

// RowOnHand is the book's figure of the rows of some variants at a place.
func RowOnHand(q db.Q, at corecount.Place, variants []uint64) (map[corecount.RowKey]decimal.Decimal, error) {
	figures := map[corecount.RowKey]decimal.Decimal{}
	where := ""
	if len(at.Shelves) > 0 {
		where = " AND s.id IN (" + db.IDs(at.Shelves) + ")"
	}
	for part := range slices.Chunk(variants, 5000) {
		if err := db.Read(q, db.Part{SQL: "SELECT b.variant_id, b.lot_id, b.condition, SUM(b.quantity) FROM " +
			"balance b JOIN shelf s ON s.id = b.shelf_id " +
			"WHERE s.branch_id = ? AND b.variant_id IN (" + db.IDs(part) + ")" + where +
			" GROUP BY b.variant_id, b.lot_id, b.condition",
			Args: []any{at.Branch}, Row: func(scan func(into ...any) error) error {
				var key corecount.RowKey
				var quantity decimal.Decimal
				err := scan(&key.Variant, &key.Lot, &key.Condition, &quantity)
				figures[key] = quantity
				return err
			}}); err != nil {
			return nil, err
		}
	}
	return figures, nil
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

// SaveCountRows keeps what rows came to.
func SaveCountRows(tx db.Tx, rows []CountRow) error {
	for part := range slices.Chunk(rows, 500) {
		args := make([]any, 0, 10*len(part))
		for _, r := range part {
			args = append(args, r.ID, r.ShelfCountID, r.VariantID, r.LotID, r.Condition, r.Counted, r.Expected,
				r.Variance, r.Value, r.Reason)
		}
		if err := db.SQL(tx.Q).Exec(db.Values("INSERT INTO count_row (id, shelf_count_id, variant_id, lot_id, "+
			"`condition`, counted, expected, "+
			"variance, value, reason) VALUES ", len(part), "(?, ?, ?, ?, ?, ?, ?, ?, ?, ?)")+
			" ON DUPLICATE KEY UPDATE counted = VALUES(counted), expected = VALUES(expected), "+
			"variance = VALUES(variance), value = VALUES(value), reason = VALUES(reason)", args...).Error; err != nil {
			return err
		}
	}
	return nil
}

// History is what counts of a category, or of a branch, came to in a month: how many rows were right of
// those that were counted.
type History struct {
	Month    string          `json:"month"`
	Branch   string          `json:"branch"`
	Category string          `json:"category"`
	Counts   int             `json:"counts"`
	Rows     int             `json:"rows"`
	Right    int             `json:"right"`
	Short    decimal.Decimal `json:"short"` // units
	Over     decimal.Decimal `json:"over"`
	Value    decimal.Decimal `json:"value" see:"costs"`
}

// Accuracy is how many of 1000 rows were right.
func (h History) Accuracy() int {
	if h.Rows == 0 {
		return 0
	}
	return (1000*h.Right + h.Rows/2) / h.Rows
}

// Histories lists what was counted, by month, branch and category, the latest month first.
func Histories(q db.Q, page int) ([]History, bool, error) {
	n := q.PageRows()
	rows := []History{}
	err := db.SQL(q).Raw(`SELECT DATE_FORMAT(c.closed_at, '%Y-%m') AS month, b.name AS branch, g.path AS category,
		COUNT(DISTINCT c.id) AS counts, COUNT(*) AS 'rows', SUM(r.variance = 0) AS 'right',
		COALESCE(-SUM(LEAST(r.variance, 0)), 0) AS short,
		COALESCE(SUM(GREATEST(r.variance, 0)), 0) AS 'over', COALESCE(SUM(r.value), 0) AS value
		FROM shelf_count c JOIN count_row r ON r.shelf_count_id = c.id JOIN branch b ON b.id = c.branch_id JOIN
		variant v ON v.id = r.variant_id JOIN
		product p ON p.id = v.product_id JOIN category g ON g.id = p.category_id WHERE c.state = 'Closed' AND
		r.counted IS NOT NULL
		GROUP BY month, b.id, g.id ORDER BY month DESC, b.name, g.path LIMIT ? OFFSET
		?`, n+1, (page-1)*n).Scan(&rows).Error
	return rows[:min(len(rows), n)], len(rows) > n, err
}

// ByReason is what was lost and found for a reason.
type ByReason struct {
	Reason string          `json:"reason"`
	Rows   int             `json:"rows"`
	Short  decimal.Decimal `json:"short"`
	Over   decimal.Decimal `json:"over"`
	Value  decimal.Decimal `json:"value" see:"costs"`
}

// Reasons adds up what counts since a moment lost and found, by reason.
func Reasons(q db.Q, since time.Time) ([]ByReason, error) {
	rows := []ByReason{}
	return rows, db.SQL(q).Raw(`SELECT r.reason, COUNT(*) AS 'rows', COALESCE(-SUM(LEAST(r.variance, 0)), 0) AS short,
		COALESCE(SUM(GREATEST(r.variance, 0)), 0) AS 'over', COALESCE(SUM(r.value), 0) AS value FROM shelf_count c
		JOIN count_row r ON
		r.shelf_count_id = c.id WHERE c.state = 'Closed' AND c.closed_at >= ? AND r.variance <> 0 GROUP BY r.reason
		ORDER BY value`, since).
		Scan(&rows).Error
}
