package demo

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/shop/counts"
	"itemrack/shop/deed"
	"itemrack/store/goods"
)

// byTwo plays a count of two counters that is under way: one row stands apart, one is not counted by both,
// and two sizes are perhaps swapped.
func (h *history) byTwo(at time.Time) error {
	then, one := h.shop.At(at), decimal.New(1, 0)
	ref, err := counts.PlanCount(deed.By(h.ctx, then, h.people["callum"], ""), counts.CountPlan{Branch: 1,
		Note:     "before the sale",
		Filter:   goods.ListFilter{Words: "shoreline rash vest"},
		Counters: []uint64{h.people["callum"].ID, h.people["ines"].ID}})
	if err != nil {
		return err
	}
	figures, err := counts.CountStands(deed.By(h.ctx, then, h.people["maren"], ""), ref.ID)
	if err != nil {
		return err
	}
	for n, who := range []string{"callum", "ines"} {
		for i, f := range figures.Rows {
			q := f.Expected
			switch {
			case i == 2:
				q = q.Sub(one)
			case i == 3:
				q = q.Add(one)
			case i == 7 && n == 1:
				q = q.Sub(one).Sub(one)
			case i == 9 && n == 1, i >= len(figures.Rows)-3:
				continue
			}
			if q.IsNegative() {
				q = f.Expected
			}
			later := h.shop.At(at.Add(time.Duration(n*10*60+i*20) * time.Second))
			if _, err := counts.Count(deed.By(h.ctx, later, h.people[who], ""), ref.ID,
				counts.CountInput{Variant: f.Key.Variant, Lot: f.Key.Lot,
					Condition: string(f.Key.Condition), Quantity: q.String()}); err != nil {
				return err
			}
		}
	}
	return nil
}

// schedules lets counts come round.
func (h *history) schedules(at time.Time) error {
	then := h.shop.At(at)
	categories, err := goods.Categories(h.shop.Store.Read(h.ctx))
	if err != nil {
		return err
	}
	id := map[string]uint64{}
	for _, c := range categories {
		id[c.Path] = c.ID
	}
	today := day(h.shop, 0, h.set.Zone).Format(time.DateOnly)
	for _, in := range []counts.ScheduleInput{
		{Name: "Goggles and caps", Branch: 1, Category: id["Swim > Goggles and caps"], Every: "months", N: 1,
			Person: h.people["callum"].ID, NextOn: today},
		{Name: "A quarter of an hour", Branch: 1, Every: "days", N: 1, PerDay: 12, Person: h.people["maren"].ID,
			NextOn: today},
		{Name: "The Boathouse", Branch: 2, Every: "quarters", N: 1, Person: h.people["ines"].ID,
			NextOn: day(h.shop, -20, h.set.Zone).Format(time.DateOnly)},
	} {
		if _, err := counts.SaveSchedule(deed.By(h.ctx, then, h.people["maren"], ""), 0, in); err != nil {
			return err
		}
	}
	return nil
}
