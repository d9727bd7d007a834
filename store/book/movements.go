package book

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// LayerView is a layer of a variant's stock, with the document that brought it.
type LayerView struct {
	Number     string          `json:"number"`
	Kind       string          `json:"kind"`
	HappenedAt time.Time       `json:"happened_at"`
	Quantity   decimal.Decimal `json:"quantity"`
	Value      decimal.Decimal `json:"value"`
}

// Layers lists what is left of what came in of a variant, the first to go out
// first; nothing in a shop that keeps a moving average.
func Layers(q db.Q, variant uint64, most int) ([]LayerView, error) {
	var rows []LayerView
	return rows, db.SQL(q).
		Raw(`SELECT d.number, d.kind, d.happened_at, l.quantity, l.value FROM cost_layer l JOIN document d ON d.id
			= l.document_id
		WHERE l.variant_id = ? ORDER BY l.position LIMIT ?`, variant, most).
		Scan(&rows).
		Error
}

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
	Value         decimal.Decimal `json:"value" see:"costs"`
	QuantityAfter decimal.Decimal `json:"quantity_after"`
	ValueAfter    decimal.Decimal `json:"value_after" see:"costs"`
}

// MovementFilter narrows a stock card. Before pages backwards: entries with a
// smaller number than it.
type MovementFilter struct {
	Branch uint64 `json:"branch"`
	Kind   string `json:"kind"`
	Before uint64 `json:"before"`
	Limit  int    `json:"limit"`
	// At is the moment up to which entries had been recorded; zero for now.
	At time.Time `json:"at"`
}

// Movements lists the entries of a variant, newest first, and whether there are
// older ones.
func Movements(q db.Q, variant uint64, f MovementFilter) ([]Movement, bool, error) {
	if f.Limit == 0 {
		f.Limit = q.PageRows()
	}
	db := db.SQL(q).
		Table("entry e").
		Select(`e.id, d.happened_at, d.recorded_at, d.kind, d.number, b.name AS branch, s.name AS shelf,
			e.condition, COALESCE(l.number, '') AS lot, e.serial,
		u.name AS who, e.quantity, e.value, e.quantity_after, e.value_after`).
		Joins("JOIN document d ON d.id = e.document_id JOIN shelf s ON s.id = e.shelf_id JOIN branch b ON b.id = "+
			"s.branch_id JOIN user u ON u.id = d.user_id LEFT JOIN lot l ON l.id = e.lot_id").
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
	if !f.At.IsZero() {
		db = db.Where("d.recorded_at <= ?", f.At)
	}
	var rows []Movement
	err := db.Order("e.id DESC").Limit(f.Limit + 1).Scan(&rows).Error
	return rows[:min(len(rows), f.Limit)], len(rows) > f.Limit, err
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
func SumsByKind(q db.Q, variant uint64, condition stock.Condition) ([]KindSum, error) {
	db := db.SQL(q).
		Table("entry e").
		Select("d.kind, COUNT(DISTINCT d.id) AS documents, SUM(e.quantity) AS quantity, SUM(e.value) AS value").
		Joins("JOIN document d ON d.id = e.document_id").
		Where("e.variant_id = ?", variant)
	if condition != "" {
		db = db.Where("e.condition = ?", condition)
	}
	rows := []KindSum{}
	return rows, db.Group("d.kind").Order("MIN(e.id)").Scan(&rows).Error
}

// Level is a point of a variant's level over time.
type Level struct {
	At       time.Time       `json:"at"`
	Quantity decimal.Decimal `json:"quantity"`
}

// Levels returns the level of a variant after each document of its last entries since a
// moment, oldest first, 500 at most, beginning with the level before them.
func Levels(q db.Q, variant uint64, since time.Time) ([]Level, error) {
	var rows []Level
	err := db.SQL(q).
		Raw(`SELECT at, quantity FROM (SELECT e.id, d.happened_at AS at, e.quantity_after AS quantity,
			ROW_NUMBER() OVER (PARTITION BY d.id ORDER BY e.id DESC) AS nth
		FROM entry e JOIN document d ON d.id = e.document_id
		WHERE e.variant_id = ? AND d.happened_at >= ? ORDER BY e.id DESC LIMIT 500) x WHERE nth = 1 ORDER BY id`,
			variant, since).
		Scan(&rows).
		Error
	if err != nil {
		return nil, err
	}
	var first struct{ Quantity *decimal.Decimal }
	err = db.SQL(q).
		Raw(`SELECT e.quantity_after AS quantity FROM entry e JOIN document d ON d.id = e.document_id WHERE
			e.variant_id = ? AND d.happened_at < ?
		ORDER BY e.id DESC LIMIT 1`, variant, since).
		Scan(&first).
		Error
	start := Level{At: since}
	if first.Quantity != nil {
		start.Quantity = *first.Quantity
	}
	return append([]Level{start}, rows...), err
}

// BranchLevels is the level of a variant at a branch over time, oldest first, beginning with the level before.
type BranchLevels struct {
	BranchID uint64  `json:"branch_id"`
	Branch   string  `json:"branch"`
	Levels   []Level `json:"levels"`
}

// LevelsByBranch returns the level of a variant at the end of each day since a moment, at each branch that has
// ever had any.
func LevelsByBranch(q db.Q, variant uint64, since time.Time) ([]BranchLevels, error) {
	var rows []struct {
		BranchID uint64
		Branch   string
		At       time.Time
		Quantity decimal.Decimal
	}
	err := db.SQL(q).
		Raw(`SELECT s.branch_id, b.name AS branch, MAX(d.happened_at) AS at, SUM(e.quantity) AS quantity
		FROM entry e JOIN document d ON d.id = e.document_id JOIN shelf s ON s.id = e.shelf_id
			JOIN branch b ON b.id = s.branch_id
		WHERE e.variant_id = ? GROUP BY s.branch_id, IF(d.happened_at < ?, NULL, DATE(d.happened_at))
		ORDER BY b.position, s.branch_id, at`, variant, since).
		Scan(&rows).Error
	var all []BranchLevels
	for _, r := range rows {
		if n := len(all); n == 0 || all[n-1].BranchID != r.BranchID {
			all = append(all, BranchLevels{BranchID: r.BranchID, Branch: r.Branch, Levels: []Level{{At: since}}})
		}
		levels := &all[len(all)-1].Levels
		level := Level{At: r.At, Quantity: (*levels)[len(*levels)-1].Quantity.Add(r.Quantity)}
		if r.At.Before(since) {
			(*levels)[0].Quantity = level.Quantity
			continue
		}
		*levels = append(*levels, level)
	}
	return all, err
}
