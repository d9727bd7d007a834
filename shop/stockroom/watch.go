package stockroom

import (
	"slices"

	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	"itemrack/store/book"
	"itemrack/store/office"
)

// MostOff is how many rows of what is not for sale a page shows, mostWatched how many are looked at and added up.
const (
	MostOff     = 500
	mostWatched = 10_000
)

// Off is goods that are not for sale. Next is the condition that they usually go to next, empty for none.
type Off struct {
	book.OffRow
	Late bool            `json:"wants_attention"`
	Next stock.Condition `json:"next"`
}

// OffList is what is not for sale, that which is so for longest first, and what that comes to by condition. Left is how
// many more rows there are; Full says that there is more than was added up.
type OffList struct {
	Rows []Off              `json:"rows"`
	Sums []stock.WatchedSum `json:"by_condition"`
	Late int                `json:"want_attention"`
	Left int                `json:"left"`
	Full bool               `json:"full"`
}

// NotForSale lists what lies in another condition than for sale, at a branch or at all of them; only those of one
// condition where one is named, while the sums are of all. It gives so many rows, 0 for all of them.
func NotForSale(do deed.Deed, branch uint64, only string, most int) (OffList, error) {
	list := OffList{Rows: []Off{}}
	if err := do.Who.May(staff.DeedLook); err != nil {
		return list, err
	}
	q := do.Shop.Store.Read(do.Ctx)
	set, err := q.Terms()
	if err != nil {
		return list, err
	}
	facts, err := office.Conditions(q)
	if err != nil {
		return list, err
	}
	rows, err := book.NotForSale(q, branch, mostWatched)
	if err != nil {
		return list, err
	}
	now := do.Shop.Now()
	watched := make([]stock.Watched, len(rows))
	for i, r := range rows {
		w := stock.Watched{Condition: stock.Condition(r.Condition), Units: r.Quantity, Worth: r.Worth(set.Minor()),
			Since: r.Since}
		for _, h := range r.Holders {
			if h.BackBy != nil {
				w.BackBy = append(w.BackBy, *h.BackBy)
			}
		}
		if w.Late = w.Wants(facts, now, set.Day(now)); w.Late {
			list.Late++
		}
		watched[i] = w
		if only == "" || only == r.Condition {
			list.Rows = append(list.Rows, Off{r, w.Late, stock.Next(w.Condition, facts)})
		}
	}
	list.Sums, list.Full = stock.Watch(watched, facts), len(rows) == mostWatched
	if most > 0 && len(list.Rows) > most {
		list.Rows, list.Left = list.Rows[:most], len(list.Rows)-most
	}
	return list, nil
}

// First are the first few, those that want attention before the others.
func (l OffList) First(few int) []Off {
	rows := slices.Clone(l.Rows)
	slices.SortStableFunc(rows, func(a, b Off) int {
		switch {
		case a.Late == b.Late:
			return 0
		case a.Late:
			return -1
		}
		return 1
	})
	return rows[:min(few, len(rows))]
}
