package office

import (
	"strings"

	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/office"
)

// ConditionInput is a condition of the shop's list as it is typed.
type ConditionInput struct {
	stock.ConditionFacts
	Percent  string `json:"percent"`  // less than new, where goods are sold in it; empty for none
	Revision string `json:"revision"` // as it was shown; another one is refused
}

// ConditionView is a condition of the shop's list with its revision.
type ConditionView struct {
	stock.ConditionFacts
	Revision string `json:"revision"`
}

// Conditions lists the conditions that goods can be in, as the shop has them.
func Conditions(q store.Q) ([]ConditionView, error) {
	rows, err := office.Conditions(q)
	list := make([]ConditionView, len(rows))
	for i, f := range rows {
		list[i] = ConditionView{f, revision.Of(f)}
	}
	return list, err
}

// SaveCondition keeps a condition of the shop's list; 0 makes a new one.
func SaveCondition(do deed.Deed, id uint64, in ConditionInput) (ConditionView, error) {
	return deed.Once(do, staff.DeedSettings, func(do deed.Deed) (ConditionView, error) {
		var was stock.Condition
		closed := false
		if id != 0 {
			have, err := office.LockCondition(do.Tx, id)
			if err != nil {
				return ConditionView{}, err
			}
			if err := revision.CheckOf(string(have.Name), in.Revision, have); err != nil {
				return ConditionView{}, err
			}
			was, closed = have.Name, have.Closed
		}
		if strings.TrimSpace(in.Percent) != "" {
			p, ok := number.Parse(in.Percent)
			if !ok {
				return ConditionView{}, fault.Field("percent", in.Percent, "a number such as 20",
					"%q is not a number of percent.", in.Percent)
			}
			in.ConditionFacts.Percent = &p
		}
		f, err := in.Check(was)
		if err != nil {
			return ConditionView{}, err
		}
		f.ID = id
		if f.Closed && !closed {
			units, err := book.InCondition(do.Tx.Q, f.Name)
			if err != nil {
				return ConditionView{}, err
			}
			if err := (stock.Leaving{Units: units, Condition: true}).CheckClose(string(f.Name)); err != nil {
				return ConditionView{}, err
			}
		}
		if err := office.SaveCondition(do.Tx, &f); err != nil {
			return ConditionView{}, err
		}
		f, err = office.LockCondition(do.Tx, f.ID) // as it is kept
		return ConditionView{f, revision.Of(f)}, err
	})
}
