package book

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/store/internal/db"
)

// HeldBy is a note with whom goods are that a document put into a condition.
type HeldBy struct {
	DocumentID uint64          `json:"-"`
	VariantID  uint64          `json:"-"`
	BranchID   uint64          `json:"-"`
	LotID      uint64          `json:"-"`
	Condition  string          `json:"-"`
	Serials    string          `json:"serials"`
	Quantity   decimal.Decimal `json:"quantity"`
	WithWhom   string          `json:"with_whom"`
	BackBy     *time.Time      `json:"back_by"`
}

// TableName is the table of the notes.
func (HeldBy) TableName() string { return "held_by" }

// NoteHolder writes with whom goods are.
func NoteHolder(tx db.Tx, h *HeldBy) error { return db.Insert(tx, h) }
