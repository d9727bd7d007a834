package counts

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	corecount "itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/core/stock"
	"itemrack/store/goods"
	"itemrack/store/internal/db"
)

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
