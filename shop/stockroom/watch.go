package stockroom

import (
	"context"
	"slices"

	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	"itemrack/store/book"
	"itemrack/store/office"
)

// MostOff is how many rows of what is not for sale are shown.
const MostOff = 500

// Off is goods that are not for sale.
type Off struct {
	book.OffRow
	Late bool `json:"wants_attention"`
}

// OffList is what is not for sale, that which is so for longest first, and what that comes to by condition. Full says
// that there may be more.
type OffList struct {
	Rows []Off              `json:"rows"`
	Sums []stock.WatchedSum `json:"by_condition"`
	Late int                `json:"want_attention"`
	Full bool               `json:"full"`
}

// NotForSale lists what lies in another condition than for sale, at a branch or at all of them; only those of one
// condition where one is named, while the sums are of all.
func NotForSale(ctx context.Context, s *deed.Shop, who staff.Actor, branch uint64, only string) (OffList, error) {
	list := OffList{Rows: []Off{}}
	if err := who.May(staff.DeedLook); err != nil {
		return list, err
	}
	q := s.Store.Read(ctx)
	set, err := q.Terms()
	if err != nil {
		return list, err
	}
	facts, err := office.Conditions(q)
	if err != nil {
		return list, err
	}
	rows, err := book.NotForSale(q, branch, MostOff)
	if err != nil {
		return list, err
	}
	now := s.Now()
	watched := make([]stock.Watched, len(rows))
	for i, r := range rows {
		w := stock.Watched{Condition: stock.Condition(r.Condition), Units: r.Quantity, Worth: r.Worth(set.Minor()),
			Since: r.Since}
		for _, h := range r.Holders {
			if h.BackBy != nil {
				w.BackBy = append(w.BackBy, *h.BackBy)
			}
		}
		watched[i] = w
		late := w.Wants(facts, now, set.Day(now))
		if late {
			list.Late++
		}
		if only == "" || only == r.Condition {
			list.Rows = append(list.Rows, Off{r, late})
		}
	}
	list.Sums, list.Full = stock.Watch(watched, facts, now, set.Day(now)), len(rows) == MostOff
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
