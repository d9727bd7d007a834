package lists

import (
	"time"

	"itemrack/core/text"
	"itemrack/store/internal/db"

	"gorm.io/gorm"
)

// SavedView is a list as a person likes to see it.
type SavedView struct {
	ID      uint64 `json:"id"`
	UserID  uint64 `json:"-"`
	Name    string `json:"name"`
	NameKey string `json:"-"`
	Query   string `json:"query"`
}

// BeforeSave keeps the key with the name.
func (r *SavedView) BeforeSave(*gorm.DB) error {
	r.NameKey = text.Key(r.Name)
	return nil
}

// BulkEdit is a change of many products that can be undone; Changes is JSON.
type BulkEdit struct {
	ID       uint64     `json:"id"`
	UserID   uint64     `json:"user_id"`
	At       time.Time  `json:"at"`
	Says     string     `json:"says"`
	Changes  string     `json:"changes"`
	UndoneAt *time.Time `json:"undone_at"`
}

// ImportJob is a file that is read in, and how far that has come.
type ImportJob struct {
	ID             uint64    `json:"id"`
	Kind           string    `json:"kind"`
	Name           string    `json:"name"`
	Size           int64     `json:"size"`
	State          string    `json:"state"`
	DryRun         bool      `json:"dry_run"`
	UserID         uint64    `json:"-"`
	BranchID       uint64    `json:"branch_id"`
	CreatedAt      time.Time `json:"created_at"`
	SeenAt         time.Time `json:"-"`
	Matching       string    `json:"-"`
	Done           int       `json:"done"`
	Total          int       `json:"total"`
	Made           int       `json:"made"`
	Changed        int       `json:"changed"`
	Same           int       `json:"same"`
	Refused        int       `json:"refused"`
	Pictures       int       `json:"pictures"`
	Says           string    `json:"says"`
	DocumentNumber string    `json:"document_number"`
}

// ImportRow is what becomes of one row of a file. Record is the row as it stood,
// JSON, kept for those that are refused.
type ImportRow struct {
	ImportID uint64 `gorm:"primaryKey" json:"-"`
	Line     int    `gorm:"primaryKey" json:"line"`
	Outcome  string `json:"outcome"`
	Product  string `json:"product"`
	Variant  string `json:"variant"`
	SKU      string `gorm:"column:sku" json:"sku"`
	Detail   string `json:"detail,omitempty"`
	Field    string `json:"field,omitempty"`
	Want     string `json:"want,omitempty"`
	Record   string `json:"-"`
}

// AddBulkEdit writes a change of many products, and fills in the number.
func AddBulkEdit(tx db.Tx, row *BulkEdit) error { return db.Insert(tx, row) }
