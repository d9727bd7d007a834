package book

import (
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/store/internal/db"

	"gorm.io/gorm"
)

// Shelves returns every shelf of the shop by its number.
func Shelves(q db.Q) (map[uint64]stock.Shelf, error) {
	var shelves map[uint64]stock.Shelf
	parts, err := shelvesParts(q, &shelves)
	if err != nil {
		return nil, err
	}
	return shelves, db.Read(q, parts...)
}

// ShelvesOf returns the shelves of a branch, the default one first.
func ShelvesOf(q db.Q, branch uint64) ([]stock.Shelf, error) {
	all, err := Shelves(q)
	list := []stock.Shelf{}
	for _, s := range all {
		if s.Branch == branch {
			list = append(list, s)
		}
	}
	stock.SortShelves(list)
	return list, err
}

// shelvesParts is the query for all shelves, or none where a copy is kept.
func shelvesParts(q db.Q, into *map[uint64]stock.Shelf) ([]db.Part, error) {
	return db.Copied(q, "shelves", into, func(into *map[uint64]stock.Shelf) []db.Part {
		all := map[uint64]stock.Shelf{}
		*into = all
		return []db.Part{
			{SQL: "SELECT id, branch_id, name, is_default FROM shelf", Row: func(scan func(into ...any) error) error {
				var s stock.Shelf
				err := scan(&s.ID, &s.Branch, &s.Name, &s.Default)
				all[s.ID] = s
				return err
			}},
		}
	})
}

// Shelf is a place in a branch.
type Shelf struct {
	ID        uint64 `json:"id"`
	BranchID  uint64 `json:"branch_id"`
	Name      string `json:"name"`
	NameKey   string `json:"-"`
	IsDefault bool   `json:"is_default"`
}

// BeforeSave keeps the key with the name.
func (r *Shelf) BeforeSave(*gorm.DB) error {
	r.NameKey = text.Key(r.Name)
	return nil
}

// AddShelf writes a shelf, and fills in the number.
func AddShelf(tx db.Tx, row *Shelf) error { return db.Insert(tx, row) }

// ShelfRows lists the shelves, each branch's default one first.
func ShelfRows(q db.Q) ([]Shelf, error) {
	var rows []Shelf
	return rows, db.SQL(q).Raw("SELECT * FROM shelf ORDER BY branch_id, is_default DESC, id").Scan(&rows).Error
}
