package count

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/text"
)

// Class is how much of the income a variant brings: A those that bring the first 80 %, B the next 15 %, C
// the rest.
type Class string

// The classes.
const (
	ClassA Class = "A"
	ClassB Class = "B"
	ClassC Class = "C"
)

// Classes lists the classes, the best first.
var Classes = []Class{ClassA, ClassB, ClassC}

// ClassDays is how far back income is looked at for the classes.
const ClassDays = 90

// Classify says of which class each variant is, by its income; one without any is C. Equal incomes are in
// the order of their numbers.
func Classify(income map[uint64]decimal.Decimal) map[uint64]Class {
	total := decimal.Zero
	for _, amount := range income {
		total = total.Add(decimal.Max(amount, decimal.Zero))
	}
	order := slices.SortedFunc(maps.Keys(income), func(a, b uint64) int {
		return cmp.Or(income[b].Cmp(income[a]), cmp.Compare(a, b))
	})
	classes, before := make(map[uint64]Class, len(income)), decimal.Zero
	for _, variant := range order {
		class := ClassC
		if share := before.Mul(decimal.New(100, 0)); income[variant].IsPositive() {
			switch {
			case share.LessThan(total.Mul(decimal.New(80, 0))):
				class = ClassA
			case share.LessThan(total.Mul(decimal.New(95, 0))):
				class = ClassB
			}
			before = before.Add(income[variant])
		}
		classes[variant] = class
	}
	return classes
}

// Waiting is a variant that waits for a rolling count: of which class it is, and when it was counted last,
// zero for never.
type Waiting struct {
	Variant uint64
	Class   Class
	Counted time.Time
}

// UsualDays are the days after which a class is counted again unless a shop says otherwise.
var UsualDays = map[Class]int{ClassA: 30, ClassB: 90, ClassC: 180}

// Rolling picks so many variants for a rolling count of a day: what has waited longest measured by the days
// of its class, the never counted first, and among equals the better class. What is not due yet is left.
func Rolling(list []Waiting, most int, days map[Class]int, today time.Time) []uint64 {
	type due struct {
		Waiting
		share float64
	}
	var all []due
	for _, w := range list {
		after := days[w.Class]
		if after <= 0 {
			after = UsualDays[w.Class]
		}
		d := due{w, 1e9}
		if !w.Counted.IsZero() {
			d.share = today.Sub(w.Counted).Hours() / 24 / float64(after)
		}
		if d.share >= 1 {
			all = append(all, d)
		}
	}
	slices.SortFunc(all, func(a, b due) int {
		return cmp.Or(cmp.Compare(b.share, a.share), cmp.Compare(a.Class, b.Class), cmp.Compare(a.Variant, b.Variant))
	})
	ids := make([]uint64, 0, min(most, len(all)))
	for _, d := range all[:min(most, len(all))] {
		ids = append(ids, d.Variant)
	}
	return ids
}

// Every is the unit in which a schedule comes round.
type Every string

// The units.
const (
	Days     Every = "days"
	Weeks    Every = "weeks"
	Months   Every = "months"
	Quarters Every = "quarters"
	Years    Every = "years"
)

// Units lists the units in which a schedule comes round.
var Units = []Every{Days, Weeks, Months, Quarters, Years}

// Next is the day on which a schedule comes round after another one, n units later. A month that is too
// short has it on its last day; anchor is the day of the month that was agreed.
func Next(day time.Time, every Every, n, anchor int) time.Time {
	months := map[Every]int{Months: 1, Quarters: 3, Years: 12}[every]
	switch {
	case every == Days:
		return day.AddDate(0, 0, n)
	case months == 0:
		return day.AddDate(0, 0, 7*n)
	}
	first := time.Date(day.Year(), day.Month()+time.Month(months*n), 1, 0, 0, 0, 0, time.UTC)
	last := first.AddDate(0, 1, -1).Day()
	return time.Date(first.Year(), first.Month(), min(anchor, last), 0, 0, 0, 0, time.UTC)
}

// After is the day on which a schedule comes round after it was done: the next one that is not before
// today, so that what was missed is not made up for twice.
func After(due time.Time, every Every, n, anchor int, today time.Time) time.Time {
	next := Next(due, every, n, anchor)
	for !next.After(today) {
		next = Next(next, every, n, anchor)
	}
	return next
}

// Schedule is a count that comes round: what, how often, who. Category 0 is all of the branch; PerDay makes
// it a rolling one of so many rows. Days are those of the classes of a rolling one.
type Schedule struct {
	Name     string
	Every    Every
	N        int
	PerDay   int
	NextOn   time.Time
	DayCount map[Class]int
}

// Due reports whether a count is to be done by a day.
func (s Schedule) Due(today time.Time) bool { return !s.NextOn.After(today) }

// Check refuses a schedule that does not come round.
func (s Schedule) Check() error {
	switch {
	case text.Tidy(s.Name) == "" || text.Len(s.Name) > 80:
		return fault.Field("name", s.Name, "1 to 80 characters", "Give the schedule a name.")
	case !slices.Contains(Units, s.Every):
		return fault.Field("every", s.Every, "days, weeks, months, quarters or years",
			"A schedule comes round by days, weeks, "+
				"months, quarters or years.")
	case s.N < 1 || s.N > 366:
		return fault.Field("n", s.N, "1 to 366", "A schedule comes round after 1 to 366 %s.", s.Every)
	case s.PerDay < 0 || s.PerDay > 500:
		return fault.Field("per_day", s.PerDay, "up to 500", "A rolling count is of 1 to 500 rows.")
	case s.NextOn.IsZero():
		return fault.Field("next_on", "", "a day", "Say when it is due first.")
	}
	for class, days := range s.DayCount {
		if days < 0 || days > 3660 {
			return fault.Field("days_"+string(class), days, "1 to 3,660",
				"Class %s is counted again after 1 to 3,660 days.", class)
		}
	}
	return nil
}

// Says is how often a schedule comes round, in words.
func (s Schedule) Says() string {
	if s.N == 1 {
		return "each " + map[Every]string{Days: "day", Weeks: "week", Months: "month", Quarters: "quarter",
			Years: "year"}[s.Every]
	}
	return fmt.Sprintf("each %d %s", s.N, s.Every)
}

// Recurs is how often a schedule comes round as a recurrence rule of RFC 5545. One that was agreed for a day
// that not each month has comes on the last one there is.
func (s Schedule) Recurs(anchor int) string {
	n := s.N
	switch s.Every {
	case Days:
		return fmt.Sprintf("FREQ=DAILY;INTERVAL=%d", n)
	case Weeks:
		return fmt.Sprintf("FREQ=WEEKLY;INTERVAL=%d", n)
	}
	n *= map[Every]int{Months: 1, Quarters: 3, Years: 12}[s.Every]
	if anchor <= 28 {
		return fmt.Sprintf("FREQ=MONTHLY;INTERVAL=%d", n)
	}
	var days []string
	for day := 28; day <= anchor; day++ {
		days = append(days, fmt.Sprint(day))
	}
	return fmt.Sprintf("FREQ=MONTHLY;INTERVAL=%d;BYMONTHDAY=%s;BYSETPOS=-1", n, strings.Join(days, ","))
}
