package stock

import (
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/text"
)

// ConditionFacts is a condition of the shop's list. Holder says that somebody has goods that are in it: with
// whom, back by when. Days is after how many days one wants attention, nil for never. One that is closed is
// no longer offered; goods can leave it. Sold says that goods in it are sold, apart from those For sale: at
// Percent less than new ones cost, unless a variant has a price of its own; nil for none.
type ConditionFacts struct {
	ID       uint64    `json:"id"`
	Name     Condition `json:"name"`
	Position int       `json:"position"`
	Holder   bool      `json:"holder"`
	Days     *int      `json:"days"`
	Closed   bool      `json:"closed"`
	Sold     bool      `json:"sold"`

	Percent *decimal.Decimal `json:"percent"`
}

// BuiltIn reports whether the program itself puts goods into a condition or sells from it, so that it stays
// and keeps its name.
func BuiltIn(c Condition) bool { return slices.Contains(Conditions, c) }

// longestCondition is how long the name of a condition is at most, in characters.
const longestCondition = 20

// Check refuses a condition that can't be kept; was is what it is now, empty for a new one.
func (f ConditionFacts) Check(was Condition) (ConditionFacts, error) {
	f.Name = Condition(text.Tidy(string(f.Name)))
	switch {
	case f.Name == "" || text.Len(string(f.Name)) > longestCondition:
		return f, fault.Field("name", f.Name, "1 to 20 characters", "A condition needs a name of 1 to 20 characters.")
	case text.Same(string(f.Name), string(OnTheWay)):
		return f, fault.Field("name", f.Name, "another name", "On the way is what sendings put goods into.")
	case was != "" && f.Name != was:
		return f, fault.Refuse("name", f.Name, string(was),
			"A condition keeps its name: it stands in the book. Close it, and make another one.")
	case f.Closed && BuiltIn(f.Name):
		return f, fault.Refuse("closed", f.Name, "a condition of the shop's own",
			"%s stays: the program puts goods into it.", f.Name)
	case f.Days != nil && (*f.Days < 0 || *f.Days > 3660):
		return f, fault.Field("days", *f.Days, "0 to 3,660", "Goods want attention after 0 to 3,660 days.")
	}
	if f.Name == ForSale {
		f.Sold, f.Percent = true, nil
	}
	if !f.Sold {
		f.Percent = nil
	}
	if f.Percent != nil && (f.Percent.IsNegative() || f.Percent.GreaterThan(decimal.New(100, 0)) ||
		f.Percent.Exponent() < -4) {
		return f, fault.Field("percent", f.Percent.String(), "0 to 100", "Goods cost 0 to 100 %% less than new ones.")
	}
	return f, CheckPosition(f.Position)
}

// CheckCondition refuses a condition that the shop does not have.
func (h Holding) CheckCondition(c Condition) error {
	if h.Conditions == nil {
		return CheckCondition(c)
	}
	var names []string
	for _, f := range h.Conditions {
		if f.Name == c {
			return nil
		}
		if !f.Closed {
			names = append(names, string(f.Name))
		}
	}
	return fault.Field("condition", c, strings.Join(names, ", "), "There is no condition %q.", c)
}

// Apart reports whether goods in it are sold, apart from new ones.
func (f ConditionFacts) Apart() bool { return f.Sold && f.Name != ForSale }

// Sides adds up quantities by condition: those that are sold apart from new ones, and those that are not sold.
// What is on the way is on neither side.
func Sides(by map[string]decimal.Decimal, conditions []ConditionFacts) (apart, other decimal.Decimal) {
	for condition, q := range by {
		at := slices.IndexFunc(conditions, func(f ConditionFacts) bool { return string(f.Name) == condition })
		switch {
		case condition == string(ForSale) || condition == string(OnTheWay):
		case at >= 0 && conditions[at].Apart():
			apart = apart.Add(q)
		default:
			other = other.Add(q)
		}
	}
	return apart, other
}

// SoldFrom lists the conditions that the shop sells from, for sale first.
func (h Holding) SoldFrom() []Condition {
	if h.Conditions == nil {
		return []Condition{ForSale, Seconds}
	}
	list := []Condition{ForSale}
	for _, f := range h.Conditions {
		if f.Apart() {
			list = append(list, f.Name)
		}
	}
	return list
}

// Into refuses to put goods into a condition that the shop does not have, or has closed.
func (h Holding) Into(c Condition) error {
	if at := slices.IndexFunc(h.Conditions, func(f ConditionFacts) bool { return f.Name == c && f.Closed }); at >= 0 {
		return fault.Refuse("condition", c, "an open condition", "%s is closed; nothing is put into it any more.", c)
	}
	return h.CheckCondition(c)
}

// HeldBy is with whom goods are, and until when; a zero day is not said.
type HeldBy struct {
	WithWhom string
	BackBy   time.Time
}

// HeldIn reads with whom goods are that are put into a condition: said where somebody holds what is in it.
func (h Holding) HeldIn(c Condition, by HeldBy) (HeldBy, error) {
	by.WithWhom = text.Tidy(by.WithWhom)
	at := slices.IndexFunc(h.Conditions, func(f ConditionFacts) bool { return f.Name == c && f.Holder })
	switch {
	case at < 0:
		return HeldBy{}, nil
	case text.Len(by.WithWhom) > 80:
		return by, fault.Field("with_whom", by.WithWhom, "80 characters or fewer", "That name is too long.")
	case by.WithWhom == "":
		return by, fault.Field("with_whom", "", "a name", "Say with whom it is.")
	}
	return by, nil
}

// Overdue reports whether goods that are in a condition since a moment want attention at another one.
func (f ConditionFacts) Overdue(since, now time.Time) bool {
	return f.Days != nil && now.Sub(since) > time.Duration(*f.Days)*24*time.Hour
}
