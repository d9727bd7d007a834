package prices

import (
	"itemrack/core/sale"
	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// InConditionsPart reads the prices of their own that some variants have in conditions they are sold in apart
// from new.
func InConditionsPart(variants []uint64, into map[uint64]map[stock.Condition]sale.OwnPrice) db.Part {
	return db.Part{
		SQL: "SELECT variant_id, `condition`, amount, percent FROM condition_price WHERE variant_id IN (" +
			db.IDs(variants) + ")",
		Row: func(scan func(into ...any) error) error {
			var id uint64
			var c stock.Condition
			var p sale.OwnPrice
			err := scan(&id, &c, &p.Amount, &p.Percent)
			if into[id] == nil {
				into[id] = map[stock.Condition]sale.OwnPrice{}
			}
			into[id][c] = p
			return err
		},
	}
}

// InConditions reads the prices of its own that a variant has in conditions.
func InConditions(q db.Q, variant uint64) (map[stock.Condition]sale.OwnPrice, error) {
	all := map[uint64]map[stock.Condition]sale.OwnPrice{}
	err := db.Read(q, InConditionsPart([]uint64{variant}, all))
	return all[variant], err
}

// SetInCondition writes the price of its own of a variant in a condition; one that says nothing goes.
func SetInCondition(tx db.Tx, variant uint64, c stock.Condition, p sale.OwnPrice) error {
	if p.Amount == nil && p.Percent == nil {
		return db.SQL(tx.Q).Exec("DELETE FROM condition_price WHERE variant_id = ? AND `condition` = ?", variant, c).Error
	}
	return db.SQL(tx.Q).Exec("REPLACE INTO condition_price (variant_id, `condition`, amount, percent) VALUES (?, ?, ?, ?)",
		variant, c, p.Amount, p.Percent).Error
}

// LockInCondition reads the price of its own of a variant in a condition, the variant locked until the transaction
// ends.
func LockInCondition(tx db.Tx, variant uint64, c stock.Condition) (sale.OwnPrice, error) {
	if err := db.SQL(tx.Q).Exec("SELECT id FROM variant WHERE id = ? FOR UPDATE", variant).Error; err != nil {
		return sale.OwnPrice{}, err
	}
	own, err := InConditions(tx.Q, variant)
	return own[c], err
}
