package office

import (
	"context"
	"strings"

	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/office"
)

// ConditionInput is a condition of the shop's list as it is typed.
type ConditionInput struct {
	stock.ConditionFacts
	Percent  string `json:"percent"`  // less than new, where goods are sold in it; empty for none
	Revision string `json:"revision"` // as it was shown; another one is refused
}

// SaveCondition keeps a condition of the shop's list; 0 makes a new one.
func SaveCondition(ctx context.Context, s *deed.Shop, who staff.Actor, key string, id uint64,
	in ConditionInput) (stock.ConditionFacts, error) {
	return deed.Once(ctx, s, who, staff.DeedSettings, key, func(tx store.Tx) (stock.ConditionFacts, error) {
		var was stock.Condition
		if id != 0 {
			have, err := office.LockCondition(tx, id)
			if err != nil {
				return have, err
			}
			if err := revision.CheckOf(string(have.Name), in.Revision, have); err != nil {
				return have, err
			}
			was = have.Name
		}
		if strings.TrimSpace(in.Percent) != "" {
			p, ok := number.Parse(in.Percent)
			if !ok {
				return in.ConditionFacts, fault.Field("percent", in.Percent, "a number such as 20",
					"%q is not a number of percent.", in.Percent)
			}
			in.ConditionFacts.Percent = &p
		}
		f, err := in.Check(was)
		if err != nil {
			return f, err
		}
		f.ID = id
		return f, office.SaveCondition(tx, &f)
	})
}
