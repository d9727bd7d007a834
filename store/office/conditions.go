package office

import (
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/store/internal/db"
)

// Conditions lists the conditions of the shop in their order, closed ones last.
func Conditions(q db.Q) ([]stock.ConditionFacts, error) {
	var list []stock.ConditionFacts
	parts, err := ConditionsParts(q, &list)
	if err != nil {
		return nil, err
	}
	return list, db.Read(q, parts...)
}

// OpenConditions are the names of the conditions that goods can be put into.
func OpenConditions(q db.Q) ([]stock.Condition, error) {
	list, err := Conditions(q)
	var names []stock.Condition
	for _, f := range list {
		if !f.Closed {
			names = append(names, f.Name)
		}
	}
	return names, err
}

// ConditionsParts is the query for the conditions, or none where a copy is kept.
func ConditionsParts(q db.Q, into *[]stock.ConditionFacts) ([]db.Part, error) {
	return db.Copied(q, "conditions", into, func(into *[]stock.ConditionFacts) []db.Part {
		*into = []stock.ConditionFacts{}
		return []db.Part{{SQL: "SELECT id, name, position, holder, days, closed, sold, percent FROM " +
			"stock_condition ORDER BY closed, position, id",
			Row: func(scan func(into ...any) error) error {
				var f stock.ConditionFacts
				err := scan(&f.ID, &f.Name, &f.Position, &f.Holder, &f.Days, &f.Closed, &f.Sold, &f.Percent)
				*into = append(*into, f)
				return err
			}}}
	})
}

// LockCondition reads a condition, locked until the transaction ends.
func LockCondition(tx db.Tx, id uint64) (stock.ConditionFacts, error) {
	var f stock.ConditionFacts
	err := db.SQL(tx.Q).Raw("SELECT id, name, position, holder, days, closed, sold, percent FROM "+
		"stock_condition WHERE id = ? FOR UPDATE", id).Scan(&f).Error
	if err == nil && f.ID == 0 {
		err = fault.Missing("condition_id", id, "There is no condition %d.", id)
	}
	return f, err
}

// SaveCondition writes a condition; a new one gets its number.
func SaveCondition(tx db.Tx, f *stock.ConditionFacts) error {
	row := struct {
		ID                   uint64
		Name, NameKey        string
		Position             int
		Holder, Closed, Sold bool
		Days                 *int
		Percent              *decimal.Decimal
	}{f.ID, string(f.Name), text.Key(string(f.Name)), f.Position, f.Holder, f.Closed, f.Sold, f.Days, f.Percent}
	err := db.SQL(tx.Q).Table("stock_condition").Save(&row).Error
	if db.Duplicate(err) {
		return fault.Clash("name", string(f.Name), "another name", "There is a condition %s already.", f.Name)
	}
	f.ID = row.ID
	return err
}
