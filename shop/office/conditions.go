package office

import (
	"context"

	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
)

// ConditionInput is a condition of the shop's list as it is typed.
type ConditionInput struct {
	stock.ConditionFacts
	Revision string `json:"revision"` // as it was shown; another one is refused
}

// SaveCondition keeps a condition of the shop's list; 0 makes a new one.
func SaveCondition(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64, in ConditionInput) (stock.ConditionFacts, error) {
	return deed.Once(ctx, s, who, staff.DeedSettings, key, func(tx store.Tx) (stock.ConditionFacts, error) {
		var was stock.Condition
		if id != 0 {
			have, err := book.LockCondition(tx, id)
			if err != nil {
				return have, err
			}
			if err := revision.CheckOf(string(have.Name), in.Revision, have); err != nil {
				return have, err
			}
			was = have.Name
		}
		f, err := in.Check(was)
		if err != nil {
			return f, err
		}
		f.ID = id
		return f, book.SaveCondition(tx, &f)
	})
}
