package counts

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/store/internal/db"
)

// ShelfCount is a count of one category at a branch.
type ShelfCount struct {
	ID         uint64    `json:"id"`
	Number     string    `json:"number"`
	BranchID   uint64    `json:"branch_id"`
	CategoryID uint64    `json:"category_id"`
	Note       string    `json:"note"`
	Blind      bool      `json:"blind"`
	State      string    `json:"state"`
	CreatedBy  uint64    `json:"created_by"`
	CreatedAt  time.Time `json:"created_at"`
	DocumentID *uint64   `json:"document_id"`
}

// CountRow is a row of a count: planned, or scanned without being planned.
type CountRow struct {
	ID           uint64           `json:"id"`
	ShelfCountID uint64           `json:"shelf_count_id"`
	OpenBranchID *uint64          `json:"open_branch_id"`
	VariantID    uint64           `json:"variant_id"`
	LotID        uint64           `json:"lot_id"`
	Condition    string           `json:"condition"`
	Planned      bool             `json:"planned"`
	Counted      *decimal.Decimal `json:"counted"`
	Expected     *decimal.Decimal `json:"expected"`
	Variance     *decimal.Decimal `json:"variance"`
	Value        *decimal.Decimal `json:"value"`
	Reason       string           `json:"reason"`
}

// CountEvent is one scan or typed quantity of a count's log.
type CountEvent struct {
	ID           uint64          `json:"id"`
	ShelfCountID uint64          `json:"shelf_count_id"`
	VariantID    uint64          `json:"variant_id"`
	LotID        uint64          `json:"lot_id"`
	Condition    string          `json:"condition"`
	Serial       string          `json:"serial"`
	Scanned      bool            `json:"scanned"`
	Quantity     decimal.Decimal `json:"quantity"`
	OnHand       decimal.Decimal `json:"on_hand"`
	UserID       uint64          `json:"user_id"`
	At           time.Time       `json:"at"`
	StruckAt     *time.Time      `json:"struck_at"`
	StruckBy     *uint64         `json:"struck_by"`
}

// AddCount writes a shelf count, and fills in the number.
func AddCount(tx db.Tx, row *ShelfCount) error { return db.Insert(tx, row) }

// AddCountEvent writes an event of a count, and fills in the number.
func AddCountEvent(tx db.Tx, row *CountEvent) error { return db.Insert(tx, row) }
