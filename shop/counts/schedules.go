package counts

import (
	"context"
	"crypto/rand"
	"fmt"
	"slices"
	"strings"
	"time"

	ical "github.com/arran4/golang-ical"

	"itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/core/number"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/counts"
	"itemrack/store/goods"
	"itemrack/store/office"
)

// ScheduleInput is a count that comes round, as it is typed. PerDay makes it a rolling count of so many
// variants, what has waited longest; Category 0 is all of the branch.
type ScheduleInput struct {
	Name     string `json:"name"`
	Branch   uint64 `json:"branch_id"`
	Category uint64 `json:"category_id"`
	Every    string `json:"every"`
	N        int    `json:"n"`
	Person   uint64 `json:"user_id"`
	NextOn   string `json:"next_on"`
	PerDay   int    `json:"per_day"`
	DaysA    int    `json:"days_a"`
	DaysB    int    `json:"days_b"`
	DaysC    int    `json:"days_c"`
	Closed   bool   `json:"closed"`
	Revision string `json:"revision"` // as it was shown; another one is refused
}

// ScheduleView is a schedule with names and its revision.
type ScheduleView struct {
	counts.ScheduleView
	Revision string `json:"revision"`
}

func viewSchedule(v counts.ScheduleView) ScheduleView {
	return ScheduleView{v, revision.Of(v.Schedule)}
}

// Schedules lists the counts that come round.
func Schedules(q store.Q) ([]ScheduleView, error) {
	rows, err := counts.Schedules(q)
	list := make([]ScheduleView, len(rows))
	for i, v := range rows {
		list[i] = viewSchedule(v)
	}
	return list, err
}

// SaveSchedule keeps a schedule; 0 makes a new one.
func SaveSchedule(do deed.Deed, id uint64, in ScheduleInput) (ScheduleView, error) {
	return deed.Once(do, staff.DeedSchedule, func(do deed.Deed) (ScheduleView, error) {
		row, err := in.read(do.Tx.Q, id)
		if err != nil {
			return ScheduleView{}, err
		}
		if err := deed.At(do.Tx.Q, do.Who, row.BranchID); err != nil {
			return ScheduleView{}, err
		}
		if id != 0 {
			have, err := counts.LockSchedule(do.Tx, id)
			if err != nil {
				return ScheduleView{}, err
			}
			if err := deed.At(do.Tx.Q, do.Who, have.BranchID); err != nil {
				return ScheduleView{}, err
			}
			if err := revision.CheckOf(have.Name, in.Revision, have.Schedule); err != nil {
				return ScheduleView{}, err
			}
			if have.NextOn.Equal(row.NextOn) {
				row.Anchor = have.Anchor
			}
		}
		if err := counts.SaveSchedule(do.Tx, &row); err != nil {
			return ScheduleView{}, err
		}
		kept, err := counts.LockSchedule(do.Tx, row.ID)
		return viewSchedule(kept), err
	})
}

func (in ScheduleInput) read(q store.Q, id uint64) (counts.Schedule, error) {
	row := counts.Schedule{ID: id, Name: text.Tidy(in.Name), BranchID: in.Branch,
		CategoryID: deed.Reference(in.Category), Every: in.Every, N: in.N,
		UserID: in.Person, PerDay: in.PerDay, DaysA: in.DaysA, DaysB: in.DaysB, DaysC: in.DaysC, Closed: in.Closed}
	for class, days := range map[count.Class]*int{count.ClassA: &row.DaysA, count.ClassB: &row.DaysB,
		count.ClassC: &row.DaysC} {
		if *days == 0 {
			*days = count.UsualDays[class]
		}
	}
	if text.Tidy(in.NextOn) != "" {
		day, err := number.Day("next_on", in.NextOn)
		if err != nil {
			return row, err
		}
		row.NextOn, row.Anchor = day, day.Day()
	}
	if err := row.Core().Check(); err != nil {
		return row, err
	}
	branches, err := office.Branches(q)
	if err != nil {
		return row, err
	}
	if !slices.ContainsFunc(branches, func(b office.Branch) bool { return b.ID == in.Branch }) {
		return row, fault.Field("branch_id", in.Branch, "a branch of the shop", "Choose the branch to count at.")
	}
	if in.Category != 0 {
		categories, err := goods.Categories(q)
		if err != nil {
			return row, err
		}
		if !slices.ContainsFunc(categories, func(c goods.Category) bool { return c.ID == in.Category }) {
			return row, fault.Missing("category_id", in.Category, "There is no category %d.", in.Category)
		}
	}
	err = countersAre(q, []uint64{in.Person}, in.Branch)
	if f := fault.Of(err); f != nil {
		err = f.In("user_id")
	}
	return row, err
}

// Due is what a schedule has due: how many variants, and of how many of them somebody took a part already.
type Due struct {
	counts.ScheduleView
	Says  string `json:"says"`
	Left  int    `json:"left"`
	Taken int    `json:"taken"`
	Late  int    `json:"late_days"` // since it was due; below zero for days to come
	left  []uint64
}

// DueOf lists what a person has to count today or has missed, with what is left of each.
func DueOf(ctx context.Context, s *deed.Shop, person uint64) ([]Due, error) {
	q := s.Store.Read(ctx)
	set, err := q.Terms()
	if err != nil {
		return nil, err
	}
	today := set.Day(s.Now())
	list, err := counts.SchedulesOf(q, person)
	if err != nil {
		return nil, err
	}
	var due []Due
	for _, v := range list {
		if !v.Core().Due(today) {
			continue
		}
		d, err := dueOf(s, q, v, today)
		if err != nil {
			return nil, err
		}
		due = append(due, d)
	}
	return due, nil
}

// dueOf works out what is left of what a schedule has due.
func dueOf(s *deed.Shop, q store.Q, v counts.ScheduleView, today time.Time) (Due, error) {
	d := Due{ScheduleView: v, Says: v.Core().Says(), Late: int(today.Sub(v.NextOn).Hours() / 24)}
	taken, err := counts.TakenOf(q, v.ID, v.NextOn)
	if err != nil {
		return d, err
	}
	d.Taken = len(taken)
	all, err := inScope(s, q, v, today)
	if err != nil {
		return d, err
	}
	if v.PerDay > 0 { // so many a day: those that were taken are of them
		all = all[:min(len(all), max(0, v.PerDay-d.Taken))]
	}
	d.left = slices.DeleteFunc(all, func(id uint64) bool { return taken[id] })
	d.Left = len(d.left)
	return d, nil
}

// inScope are the variants that a schedule is of, in the order in which they are due.
func inScope(s *deed.Shop, q store.Q, v counts.ScheduleView, today time.Time) ([]uint64, error) {
	var of []uint64
	if v.CategoryID != nil {
		ids, err := goods.VariantIDs(q, goods.ListFilter{Category: *v.CategoryID}, 0, 1_000_000)
		if err != nil {
			return nil, err
		}
		of = notNil(ids)
	}
	kept, balances, err := counts.Countable(q, of, count.Place{Branch: v.BranchID})
	if err != nil {
		return nil, err
	}
	var variants []uint64
	for _, k := range count.Plan(kept, balances) {
		if n := len(variants); n == 0 || variants[n-1] != k.Variant {
			variants = append(variants, k.Variant)
		}
	}
	if v.PerDay == 0 {
		return variants, nil
	}
	classes, err := Classes(s, q)
	if err != nil {
		return nil, err
	}
	last, err := counts.LastCounted(q, v.BranchID)
	if err != nil {
		return nil, err
	}
	waiting := make([]count.Waiting, len(variants))
	for i, id := range variants {
		waiting[i] = count.Waiting{Variant: id, Class: classOf(classes, id), Counted: last[id]}
	}
	return count.Rolling(waiting, len(waiting), v.Core().DayCount, today), nil
}

// PrepareInput prepares the count that a schedule has due: all of what is left, or so many of it; the rest
// stays due.
type PrepareInput struct {
	Most     int      `json:"most"`
	Counters []uint64 `json:"counter_ids"`
	Blind    bool     `json:"blind"`
}

// Prepare prepares the count that a schedule has due. The next day follows once nothing of it is left.
func Prepare(do deed.Deed, id uint64, in PrepareInput) (CountRef, error) {
	return deed.Once(do, staff.DeedCount, func(do deed.Deed) (CountRef, error) {
		v, err := counts.LockSchedule(do.Tx, id)
		if err != nil {
			return CountRef{}, err
		}
		if v.Closed {
			return CountRef{}, fault.Refuse("schedule", v.Name, "a schedule that goes on", "%s has ended.", v.Name)
		}
		if in.Most < 0 {
			return CountRef{}, fault.Field("most", in.Most, "0 for all of it, or how many", "Say how many are taken.")
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return CountRef{}, err
		}
		today := set.Day(do.Shop.Now())
		d, err := dueOf(do.Shop, do.Tx.Q, v, today)
		if err != nil {
			return CountRef{}, err
		}
		if d.Left == 0 { // nothing is due of it: the next day follows
			return CountRef{}, fault.Refuse("schedule", v.Name, "something that is due",
				"Nothing of %s is left to count.", v.Name)
		}
		take := d.left
		if in.Most > 0 {
			take = take[:min(len(take), in.Most)]
		}
		due := v.NextOn
		made, err := plan(do, CountPlan{Branch: v.BranchID, Category: 0, Counters: in.Counters,
			Blind: in.Blind, Note: v.Name,
			variants: take, says: text.Or(v.Category, "all of "+v.Branch), schedule: &v.ID, due: &due})
		if err != nil || len(take) < d.Left {
			return made, err
		}
		return made, counts.MoveSchedule(do.Tx, id, count.After(v.NextOn, count.Every(v.Every), v.N, v.Anchor, today))
	})
}

// CalendarKey is the secret address of a person's calendar; it is shown once.
type CalendarKey struct {
	Path string `json:"path"`
}

// NewCalendar makes the secret address of one's own calendar, in place of the one there was.
func NewCalendar(do deed.Deed) (CalendarKey, error) {
	return deed.Once(do, staff.DeedLook, func(do deed.Deed) (CalendarKey, error) {
		if err := do.Who.WithPassword(); err != nil {
			return CalendarKey{}, err
		}
		secret := strings.ToLower(rand.Text())
		return CalendarKey{Path: "/calendar/" + secret + ".ics"},
			counts.SetCalendarKey(do.Tx, do.Who.ID, office.Hash(secret), do.Shop.Now())
	})
}

// Calendar is the calendar of whose secret it is, as iCalendar (RFC 5545): each schedule as an event of a
// whole day that recurs.
func Calendar(ctx context.Context, s *deed.Shop, secret string) (string, error) {
	q := s.Store.Read(ctx)
	person, err := counts.CalendarOf(q, office.Hash(strings.ToLower(strings.TrimSuffix(secret, ".ics"))))
	if err != nil {
		return "", err
	}
	if person == 0 {
		return "", fault.Missing("calendar", "", "There is no calendar at this address. A new address is made "+
			"under one's name.")
	}
	list, err := counts.SchedulesOf(q, person)
	if err != nil {
		return "", err
	}
	shop, err := office.Setting(q, "shop_name")
	if err != nil {
		return "", err
	}
	cal := ical.NewCalendarFor("Item Rack")
	cal.SetMethod(ical.MethodPublish)
	cal.SetName(shop + ": counts")
	cal.SetXWRCalName(shop + ": counts")
	for _, v := range list {
		e := cal.AddEvent(fmt.Sprintf("count-schedule-%d@itemrack", v.ID))
		e.SetDtStampTime(s.Now())
		e.SetAllDayStartAt(v.NextOn)
		e.SetAllDayEndAt(v.NextOn.AddDate(0, 0, 1))
		e.SetSummary("Count: " + v.Name)
		e.SetLocation(v.Branch)
		e.SetDescription(text.Joined(text.Or(v.Category, "all that lies there"), v.Core().Says()))
		e.AddRrule(v.Core().Recurs(v.Anchor))
	}
	return cal.Serialize(ical.WithNewLineWindows), nil // RFC 5545, 3.1: lines end in CRLF
}
