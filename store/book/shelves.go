package book

import (
	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// Shelves returns every shelf of the shop by its number.
func Shelves(q db.Q) (map[uint64]stock.Shelf, error) {
	var rows []Shelf
	if err := db.SQL(q).Raw("SELECT id, branch_id, name, is_default FROM shelf").Scan(&rows).Error; err != nil {
		return nil, err
	}
	shelves := make(map[uint64]stock.Shelf, len(rows))
	for _, r := range rows {
		shelves[r.ID] = stock.Shelf{ID: r.ID, Branch: r.BranchID, Name: r.Name, Default: r.IsDefault}
	}
	return shelves, nil
}

// Shelf is a place in a branch.
type Shelf struct {
	ID        uint64 `json:"id"`
	BranchID  uint64 `json:"branch_id"`
	Name      string `json:"name"`
	IsDefault bool   `json:"is_default"`
}

// AddShelf writes a shelf, and fills in the number.
func AddShelf(tx db.Tx, row *Shelf) error { return db.Insert(tx, row) }
