package book

import (
	"github.com/shopspring/decimal"
	"gorm.io/gorm"

	"itemrack/core/fault"
	"itemrack/core/scan"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/store/internal/db"
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

// ShelvesOf returns the open shelves of a branch, the default one first.
func ShelvesOf(q db.Q, branch uint64) ([]stock.Shelf, error) {
	all, err := Shelves(q)
	list := []stock.Shelf{}
	for _, s := range all {
		if s.Branch == branch && !s.Closed {
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
			{SQL: "SELECT id, branch_id, name, is_default, closed, position FROM shelf",
				Row: func(scan func(into ...any) error) error {
					var s stock.Shelf
					err := scan(&s.ID, &s.Branch, &s.Name, &s.Default, &s.Closed, &s.Order)
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
	Position  int    `json:"position"`
	Closed    bool   `json:"closed"`
}

// BeforeSave keeps the key with the name.
func (r *Shelf) BeforeSave(*gorm.DB) error {
	r.NameKey = text.Key(r.Name)
	return nil
}

// AddShelf writes a shelf, and fills in the number.
func AddShelf(tx db.Tx, row *Shelf) error { return db.Insert(tx, row) }

// ShelfRows lists the shelves, each branch's default one first and closed ones last.
func ShelfRows(q db.Q) ([]Shelf, error) {
	var rows []Shelf
	const all = "SELECT * FROM shelf ORDER BY branch_id, closed, is_default DESC, position, id"
	return rows, db.SQL(q).Raw(all).Scan(&rows).Error
}

// SaveShelf writes a shelf; a new one gets its number.
func SaveShelf(tx db.Tx, row *Shelf) error {
	err := db.SQL(tx.Q).Save(row).Error
	if db.Duplicate(err) {
		return fault.Clash("name", row.Name, "another name", "There is a shelf %s at this branch already.", row.Name)
	}
	return err
}

// LockShelves reads the shelves of a branch, closed ones too, locked until the transaction ends.
func LockShelves(tx db.Tx, branch uint64) ([]Shelf, error) {
	var rows []Shelf
	return rows, db.SQL(tx.Q).Raw("SELECT * FROM shelf WHERE branch_id = ? ORDER BY id FOR UPDATE",
		branch).Scan(&rows).Error
}

// OnShelf is how much lies on a shelf.
type OnShelf struct {
	Units    decimal.Decimal
	Variants int
}

// OnShelves reads how much lies on each shelf.
func OnShelves(q db.Q) (map[uint64]OnShelf, error) {
	on := map[uint64]OnShelf{}
	return on, db.Read(q, db.Part{
		SQL: "SELECT shelf_id, SUM(quantity), COUNT(DISTINCT variant_id) FROM balance WHERE quantity <> 0 GROUP BY shelf_id",
		Row: func(scan func(into ...any) error) error {
			var shelf uint64
			var o OnShelf
			err := scan(&shelf, &o.Units, &o.Variants)
			on[shelf] = o
			return err
		},
	})
}

// ShelfCode is the code on the label of a shelf.
func ShelfCode(id uint64) string { return scan.ShelfCode(id) }

// Lying is how many units lie on some shelves, with those on the way there.
func Lying(q db.Q, shelves []uint64) (decimal.Decimal, error) {
	var sum decimal.Decimal
	return sum, db.SQL(q).Raw("SELECT COALESCE(SUM(quantity), 0) FROM balance WHERE shelf_id IN ?",
		shelves).Scan(&sum).Error
}

// InCondition is how many units of all goods are in a condition.
func InCondition(q db.Q, condition stock.Condition) (decimal.Decimal, error) {
	var sum decimal.Decimal
	return sum, db.SQL(q).Raw("SELECT COALESCE(SUM(quantity), 0) FROM balance WHERE `condition` = ?", condition).
		Scan(&sum).Error
}
