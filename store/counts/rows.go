package counts

import (
	"time"

	"github.com/shopspring/decimal"

	corecount "itemrack/core/count"
	"itemrack/store/internal/db"
)

// ShelfCount is a count at a branch. Scope says in words what it is of; HeldUntil is when what it holds
// still is released by itself, nil for when it is settled. DueOn is the day of the schedule that it was
// prepared for. CountedRows, RightRows, Variance and Value are what it came to, once it is closed.
type ShelfCount struct {
	ID          uint64          `json:"id"`
	Number      string          `json:"number"`
	BranchID    uint64          `json:"branch_id"`
	CategoryID  *uint64         `json:"category_id"`
	Scope       string          `json:"scope"`
	Note        string          `json:"note"`
	Blind       bool            `json:"blind"`
	HeldStill   bool            `json:"held_still"`
	HeldUntil   *time.Time      `json:"held_until"`
	State       string          `json:"state"`
	GivenUp     bool            `json:"given_up"`
	CreatedBy   uint64          `json:"created_by"`
	CreatedAt   time.Time       `json:"created_at"`
	ScheduleID  *uint64         `json:"schedule_id"`
	DueOn       *time.Time      `json:"due_on"`
	ClosedAt    *time.Time      `json:"closed_at"`
	ClosedBy    *uint64         `json:"closed_by"`
	CountedRows int             `json:"counted_rows"`
	RightRows   int             `json:"right_rows"`
	Variance    decimal.Decimal `json:"variance"`
	Value       decimal.Decimal `json:"value" see:"costs"`
	DocumentID  *uint64         `json:"document_id"`
}

// CountRow is a row of a count: planned, or scanned without being planned. ChosenBy is the counter whose
// column was chosen.
type CountRow struct {
	ID           uint64           `json:"id"`
	ShelfCountID uint64           `json:"shelf_count_id"`
	OpenBranchID *uint64          `json:"open_branch_id"`
	VariantID    uint64           `json:"variant_id"`
	LotID        uint64           `json:"lot_id"`
	Condition    string           `json:"condition"`
	Planned      bool             `json:"planned"`
	Held         bool             `json:"held"`
	ChosenBy     *uint64          `json:"chosen_by"`
	Counted      *decimal.Decimal `json:"counted"`
	Expected     *decimal.Decimal `json:"expected"`
	Variance     *decimal.Decimal `json:"variance"`
	Value        *decimal.Decimal `json:"value" see:"costs"`
	Reason       string           `json:"reason"`
}

// CountEvent is one scan or typed quantity of a count's log. Unexpected is a serial number that the book
// does not have there.
type CountEvent struct {
	ID           uint64          `json:"id"`
	ShelfCountID uint64          `json:"shelf_count_id"`
	VariantID    uint64          `json:"variant_id"`
	LotID        uint64          `json:"lot_id"`
	Condition    string          `json:"condition"`
	Serial       string          `json:"serial"`
	Unexpected   bool            `json:"unexpected"`
	Scanned      bool            `json:"scanned"`
	Quantity     decimal.Decimal `json:"quantity"`
	OnHand       decimal.Decimal `json:"on_hand"`
	LastEntryID  uint64          `json:"-"` // of the book, of its variant, at that moment
	UserID       uint64          `json:"user_id"`
	At           time.Time       `json:"at"`
	StruckAt     *time.Time      `json:"struck_at"`
	StruckBy     *uint64         `json:"struck_by"`
}

// AddCount writes a shelf count with its counters and shelves, and fills in the number.
func AddCount(tx db.Tx, row *ShelfCount, counters, shelves []uint64) error {
	if err := db.Insert(tx, row); err != nil {
		return err
	}
	b := new(db.Batch)
	for i, user := range counters {
		b.Add("INSERT INTO count_counter (shelf_count_id, user_id, position) VALUES (?, ?, ?)", row.ID, user, i)
	}
	for _, shelf := range shelves {
		b.Add("INSERT INTO count_shelf (shelf_count_id, shelf_id) VALUES (?, ?)", row.ID, shelf)
	}
	return b.Run(tx)
}

// AddCountEvent writes an event of a count, and fills in the number; late is one that comes after its
// moment.
func AddCountEvent(tx db.Tx, row *CountEvent, late bool) error {
	query := db.SQL(tx.Q).Raw("SELECT COALESCE(MAX(id), 0) FROM entry WHERE variant_id = ?", row.VariantID)
	if late {
		query = db.SQL(tx.Q).Raw("SELECT COALESCE(MAX(e.id), 0) FROM entry e JOIN document d ON d.id = e.document_id WHERE "+
			"e.variant_id = ? AND d.recorded_at <= ?", row.VariantID, row.At)
	}
	if err := query.Scan(&row.LastEntryID).Error; err != nil {
		return err
	}
	return db.Insert(tx, row)
}

// CameSince lists, by row, the serial numbers that came in at a count's branch after the row
// was counted last.
func CameSince(q db.Q, count uint64) (map[corecount.RowKey][]string, error) {
	came := map[corecount.RowKey][]string{}
	return came, db.Read(q, db.Part{
		SQL: `SELECT DISTINCT e.variant_id, e.lot_id, e.condition, e.serial FROM (SELECT variant_id, lot_id,
			` + "`condition`" + `, MAX(last_entry_id) AS last FROM count_event WHERE shelf_count_id = ? AND serial >
			'' AND
			struck_at IS NULL AND NOT unexpected GROUP BY variant_id, lot_id, ` + "`condition`" +
			`) c JOIN entry e ON e.variant_id = c.variant_id
			AND e.id > c.last AND e.lot_id = c.lot_id AND e.condition = c.condition JOIN shelf s ON s.id = e.shelf_id
			JOIN shelf_count k ON k.id = ? AND k.branch_id = s.branch_id WHERE e.quantity > 0 AND e.serial > ''`,
		Args: []any{count, count},
		Row: func(scan func(into ...any) error) error {
			var key corecount.RowKey
			var number string
			err := scan(&key.Variant, &key.Lot, &key.Condition, &number)
			came[key] = append(came[key], number)
			return err
		},
	})
}
