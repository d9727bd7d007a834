package counts

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/terms"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/shop/scan"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/counts"
	"itemrack/store/goods"
	"itemrack/store/office"
)

// CountPlan plans a count at a branch: on some shelves or on all; of all that lies there, or of what is
// chosen. What is chosen by several things is what all of them have in common. Blind hides what the book
// expects from whoever counts; each of the counters has an own column.
type CountPlan struct {
	Branch     uint64           `json:"branch_id"`
	Category   uint64           `json:"category_id"`
	Whole      bool             `json:"whole"`
	Shelves    []uint64         `json:"shelf_ids"`
	Filter     goods.ListFilter `json:"filter"`      // as the catalog's lists have it
	Class      string           `json:"class"`       // A, B or C, empty for any
	NotSince   string           `json:"not_counted"` // not counted since this day
	MovedSince string           `json:"moved"`       // moved since this day
	Codes      []string         `json:"codes"`       // scanned, one each
	Counters   []uint64         `json:"counter_ids"` // people, each with a column
	Note       string           `json:"note"`
	Blind      bool             `json:"blind"`
	HeldStill  bool             `json:"held_still"`
	HeldUntil  string           `json:"held_until"` // a moment; empty until it is settled
	variants   []uint64         // of a schedule
	says       string
	schedule   *uint64
	due        *time.Time
}

// CountRef names a shelf count.
type CountRef struct {
	ID     uint64 `json:"id"`
	Number string `json:"number"`
	Rows   int    `json:"rows"`
}

// PlanCount plans a shelf count. A row that is being counted at the branch in
// another count is refused.
func PlanCount(do deed.Deed, in CountPlan) (CountRef, error) {
	return deed.Once(do, staff.DeedCount, func(do deed.Deed) (CountRef, error) {
		return plan(do, in)
	})
}

// plan makes a count of what is planned.
func plan(do deed.Deed, in CountPlan) (CountRef, error) {
	set, err := do.Tx.Terms()
	if err != nil {
		return CountRef{}, err
	}
	row, err := in.head(do, set)
	if err != nil {
		return CountRef{}, err
	}
	variants, says, err := in.chosen(do.Shop, do.Tx.Q, set)
	if err != nil {
		return CountRef{}, err
	}
	row.Scope = text.Cut(says, 400)
	at := count.Place{Branch: in.Branch, Shelves: in.Shelves}
	kept, balances, err := counts.Countable(do.Tx.Q, variants, at)
	if err != nil {
		return CountRef{}, err
	}
	keys := count.Plan(kept, balances)
	if len(keys) == 0 {
		return CountRef{}, fault.Refuse("category_id", in.Category, "goods with stock",
			"There is nothing to count in that.")
	}
	if row.Number, err = deed.NextNumber(do.Tx, stock.Count); err != nil {
		return CountRef{}, err
	}
	if err := counts.AddCount(do.Tx, &row, in.Counters, in.Shelves); err != nil {
		return CountRef{}, err
	}
	if err := counts.PlanCount(do.Tx, counts.CountView{ShelfCount: row}, keys, true); err != nil || !row.HeldStill {
		return CountRef{row.ID, row.Number, len(keys)}, err
	}
	locked := make([]uint64, len(keys))
	for i, k := range keys {
		locked[i] = k.Variant
	}
	return CountRef{row.ID, row.Number, len(keys)}, book.AvailableAnew(do.Tx, locked, do.Shop.Now())
}

// head checks what a count is and who counts it.
func (in CountPlan) head(do deed.Deed, set terms.Terms) (counts.ShelfCount, error) {
	row := counts.ShelfCount{BranchID: in.Branch, Note: in.Note, Blind: in.Blind, HeldStill: in.HeldStill,
		State: string(count.Planned), CreatedBy: do.Who.ID, CreatedAt: do.Shop.Now(), ScheduleID: in.schedule, DueOn: in.due,
		CategoryID: deed.Reference(in.Category)}
	if text.Len(in.Note) > 250 {
		return row, fault.Field("note", in.Note, "250 characters or fewer", "The note is too long.")
	}
	branches, err := office.Branches(do.Tx.Q)
	if err != nil {
		return row, err
	}
	if !slices.ContainsFunc(branches, func(b office.Branch) bool { return b.ID == in.Branch }) {
		return row, fault.Field("branch_id", in.Branch, "a branch of the shop", "Choose the branch to count at.")
	}
	if err := deed.At(do.Tx.Q, do.Who, in.Branch); err != nil {
		return row, err
	}
	if err := shelvesOf(do.Tx.Q, in.Branch, in.Shelves); err != nil {
		return row, err
	}
	if err := countersAre(do.Tx.Q, in.Counters, in.Branch); err != nil {
		return row, err
	}
	if in.HeldStill && text.Tidy(in.HeldUntil) != "" {
		until, err := do.Shop.Moment(set, "held_until", in.HeldUntil)
		if err != nil {
			return row, err
		}
		if !until.After(do.Shop.Now()) {
			return row, fault.Field("held_until", in.HeldUntil, "a moment to come",
				"Rows can't be held still until what is past.")
		}
		row.HeldUntil = &until
	}
	return row, nil
}

func shelvesOf(q store.Q, branch uint64, shelves []uint64) error {
	if len(shelves) == 0 {
		return nil
	}
	all, err := book.ShelvesOf(q, branch)
	if err != nil {
		return err
	}
	for i, id := range shelves {
		if slices.Contains(shelves[:i], id) || !slices.ContainsFunc(all, func(s stock.Shelf) bool { return s.ID == id }) {
			return fault.Field("shelf_ids", id, "open shelves of the branch, each once", "The branch has no shelf %d.", id)
		}
	}
	return nil
}

// countersAre refuses counters who may not count, or are named twice.
func countersAre(q store.Q, counters []uint64, branch uint64) error {
	if len(counters) > 8 {
		return fault.Field("counter_ids", len(counters), "8 or fewer", "A count has 8 counters at most.")
	}
	people, err := office.Users(q)
	if err != nil {
		return err
	}
	for i, id := range counters {
		at := slices.IndexFunc(people, func(u office.User) bool { return u.ID == id && u.ClosedAt == nil })
		if at < 0 || slices.Contains(counters[:i], id) || !deed.Actor(people[at]).Can(staff.DeedCount) {
			return fault.Field("counter_ids", id, "people who may count, each once",
				"Person %d can't be a counter of this count.", id)
		}
		if err := deed.Actor(people[at]).At(branch, ""); err != nil {
			return fault.Field("counter_ids", people[at].Name, "people who work at the branch",
				"%s does not work there, and can't count there.", people[at].Name)
		}
	}
	return nil
}

// chosen finds the variants that a plan is of, nil for all that lies there, and says it in words.
func (in CountPlan) chosen(s *deed.Shop, q store.Q, set terms.Terms) ([]uint64, string, error) {
	if in.says != "" {
		return in.variants, in.says, nil
	}
	var says []string
	filter := in.Filter
	filter.Sort = ""
	if in.Category != 0 {
		all, err := goods.Categories(q)
		if err != nil {
			return nil, "", err
		}
		at := slices.IndexFunc(all, func(c goods.Category) bool { return c.ID == in.Category })
		if at < 0 {
			return nil, "", fault.Missing("category", in.Category, "There is no category %d.", in.Category)
		}
		filter.Category = in.Category
		says = append(says, all[at].Path)
	}
	more, err := filterSays(q, filter)
	if err != nil {
		return nil, "", err
	}
	says = append(says, more...)
	var variants []uint64
	if len(says) > 0 {
		if variants, err = goods.VariantIDs(q, filter, 0, 1_000_000); err != nil {
			return nil, "", err
		}
		variants = notNil(variants)
	}
	if len(in.Codes) > 0 {
		scanned, err := scannedCodes(q, in.Codes)
		if err != nil {
			return nil, "", err
		}
		says = append(says, fmt.Sprintf("%d scanned", len(scanned)))
		if variants == nil {
			variants = notNil(scanned)
		}
		variants = slices.DeleteFunc(variants, func(id uint64) bool { return !slices.Contains(scanned, id) })
	}
	if variants == nil && (in.Class != "" || in.NotSince != "" || in.MovedSince != "") { // of all that lies there
		kept, _, err := counts.Countable(q, nil, count.Place{Branch: in.Branch, Shelves: in.Shelves})
		if err != nil {
			return nil, "", err
		}
		variants = notNil(slices.Sorted(maps.Keys(kept)))
	}
	narrow := func(words string, of func(uint64) bool) {
		says = append(says, words)
		variants = slices.DeleteFunc(variants, func(id uint64) bool { return !of(id) })
	}
	if err := in.byTime(s, q, set, narrow); err != nil {
		return nil, "", err
	}
	if len(says) == 0 {
		if !in.Whole && len(in.Shelves) == 0 {
			return nil, "", fault.Field("category_id", "", "all that lies there, or what is chosen", "Say what is counted.")
		}
		says = append(says, "all that lies there")
	}
	return variants, strings.Join(says, " · "), nil
}

func notNil(ids []uint64) []uint64 {
	if ids == nil {
		return []uint64{}
	}
	return ids
}

// byTime narrows a plan by class, by when things were counted and by when they moved.
func (in CountPlan) byTime(s *deed.Shop, q store.Q, set terms.Terms,
	narrow func(words string, of func(uint64) bool)) error {
	if in.Class != "" {
		if !slices.Contains(count.Classes, count.Class(in.Class)) {
			return fault.Field("class", in.Class, "A, B or C", "There is no class %q.", in.Class)
		}
		classes, err := Classes(s, q)
		if err != nil {
			return err
		}
		narrow("class "+in.Class, func(id uint64) bool { return classOf(classes, id) == count.Class(in.Class) })
	}
	if text.Tidy(in.NotSince) != "" {
		since, err := s.Moment(set, "not_counted", in.NotSince)
		if err != nil {
			return err
		}
		last, err := counts.LastCounted(q, in.Branch)
		if err != nil {
			return err
		}
		narrow("not counted since "+since.In(set.Zone).Format("2 January 2006"),
			func(id uint64) bool { return last[id].Before(since) })
	}
	if text.Tidy(in.MovedSince) != "" {
		since, err := s.Moment(set, "moved", in.MovedSince)
		if err != nil {
			return err
		}
		moved, err := counts.MovedSince(q, in.Branch, since)
		if err != nil {
			return err
		}
		narrow("moved since "+since.In(set.Zone).Format("2 January 2006"), func(id uint64) bool { return moved[id] })
	}
	return nil
}

// Classes are the classes of the variants, by what they brought in the last 90 days; one that brought
// nothing is C.
func Classes(s *deed.Shop, q store.Q) (map[uint64]count.Class, error) {
	income, err := counts.Income(q, s.Now().AddDate(0, 0, -count.ClassDays))
	return count.Classify(income), err
}

func classOf(classes map[uint64]count.Class, id uint64) count.Class {
	if c, ok := classes[id]; ok {
		return c
	}
	return count.ClassC
}

// scannedCodes finds the variants of codes that were scanned.
func scannedCodes(q store.Q, codes []string) ([]uint64, error) {
	if len(codes) > 2000 {
		return nil, fault.Field("codes", len(codes), "2,000 or fewer", "These are too many codes for one count.")
	}
	var ids []uint64
	for _, code := range codes {
		if text.Tidy(code) == "" {
			continue
		}
		meant, err := scan.Read(q, code, 2)
		if err != nil {
			return nil, err
		}
		if !meant.One() {
			return nil, fault.Missing("codes", code, "Nothing that can be counted is called %s.", code)
		}
		if id := meant.Found[0].ID; !slices.Contains(ids, id) {
			ids = append(ids, id)
		}
	}
	return ids, nil
}

// filterSays says in words what a filter of the catalog narrows by.
func filterSays(q store.Q, f goods.ListFilter) ([]string, error) {
	var says []string
	if text.Tidy(f.Words) != "" {
		says = append(says, "“"+text.Tidy(f.Words)+"”")
	}
	if f.Supplier != 0 {
		all, err := goods.Suppliers(q)
		if err != nil {
			return nil, err
		}
		at := slices.IndexFunc(all, func(s goods.Supplier) bool { return s.ID == f.Supplier })
		if at < 0 {
			return nil, fault.Missing("filter.supplier", f.Supplier, "There is no supplier %d.", f.Supplier)
		}
		says = append(says, all[at].Name)
	}
	for _, part := range []string{f.Brand, f.Value, f.Attribute, f.Tracking} {
		if part != "" {
			says = append(says, part)
		}
	}
	if f.PriceFrom != nil || f.PriceTo != nil || f.MarginFrom != nil || f.MarginTo != nil || f.StockFrom != nil ||
		f.StockTo != nil ||
		f.Discontinued != "" || f.NoBarcode || f.NoPicture || f.NoPrice || f.UnderCost || f.Low || len(f.IDs) > 0 {
		says = append(says, "as the catalog was filtered")
	}
	return says, nil
}
