// Package count works out shelf counts. Its main rule: what is expected of a
// row is the book's figure at the moment that row was last counted, so that the
// shop may sell on meanwhile.
package count

import (
	"slices"
	"sort"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/stock"
)

// State is how far a count has come.
type State string

// The states of a count.
const (
	Planned  State = "Planned"
	Counting State = "Counting"
	Settling State = "Settling"
	Closed   State = "Closed"
)

// RowKey is what is counted together: a variant, lot and condition at a branch,
// over all of its shelves.
type RowKey struct {
	Variant   uint64          `json:"variant"`
	Lot       uint64          `json:"lot"`
	Condition stock.Condition `json:"condition"`
}

// Event is one thing a counter did: a scan (+1) or a typed quantity, which adds
// too. OnHand is the book's figure for the row at that moment; By who counted. Unexpected
// is a serial number that the book does not have here: it is listed, and does not count.
type Event struct {
	Row        RowKey
	Serial     string
	Quantity   decimal.Decimal
	OnHand     decimal.Decimal
	At         time.Time
	By         uint64
	Struck     bool
	Unexpected bool
}

// Row is what a row came to. Without a counted event Counted is false: blank is
// not zero.
type Row struct {
	Key      RowKey          `json:"key"`
	Counted  bool            `json:"counted"`
	Quantity decimal.Decimal `json:"quantity"`
	Expected decimal.Decimal `json:"expected"` // at the last event, or now for a row not counted
	First    decimal.Decimal `json:"first"`    // what was expected at the first event
	Moved    bool            `json:"moved"`    // stock moved between the first and the last event
	Serials  []string        `json:"serials"`  // found, for serial-numbered goods
	Came     []string        `json:"-"`        // serial numbers that came in since the row was counted
	At       time.Time       `json:"at"`       // when it was counted last
	Columns  []Column        `json:"columns"`  // of a count with several counters: what each counted
	Apart    bool            `json:"apart"`    // the counters differ, or one of them has not counted it
}

// Column is what one counter counted of a row, each at that person's own moment.
type Column struct {
	By       uint64          `json:"by"`
	Counted  bool            `json:"counted"`
	Quantity decimal.Decimal `json:"quantity"`
	Expected decimal.Decimal `json:"expected"`
	Serials  []string        `json:"serials"`
	At       time.Time       `json:"at"`
}

// Variance is counted less expected at the counter's moment.
func (c Column) Variance() decimal.Decimal { return c.Quantity.Sub(c.Expected) }

// Variance is counted less expected; zero for a row that was not counted.
func (r Row) Variance() decimal.Decimal {
	if !r.Counted {
		return decimal.Zero
	}
	return r.Quantity.Sub(r.Expected)
}

// ByFirst is the variance by the first reading: what moved came from the part that was
// counted already.
func (r Row) ByFirst() decimal.Decimal { return r.Quantity.Sub(r.First) }

// Stands reports whether a row is of the count: one that was not planned is only while
// something is counted in it.
func (r Row) Stands(planned bool) bool { return planned || r.Counted }

// Reading says what is made of a row that was counted in several goes while goods moved in
// between: what moved came from the part that was counted already (ByFirst), or from the
// rest (ByLast); or the row is left as it is until somebody has looked again.
type Reading string

// The readings; a row that did not move needs none.
const (
	ByLast  Reading = "last"
	ByFirst Reading = "first"
	NotYet  Reading = "leave"
)

// read puts a reading on a row: what is expected by it. A row that moved and has none asks.
func (r Row) read(by Reading, name string) (Row, error) {
	if !r.Moved || !r.Counted {
		return r, nil
	}
	switch by {
	case ByFirst:
		r.Expected = r.First
	case ByLast:
	case NotYet:
		r.Counted = false
	default:
		return r, fault.Field("readings", name, "first, last or leave",
			"%s was counted in several goes while some of it moved: %s were expected at the first, %s at the last. Look "+
				"again, and say which holds.", name, r.First, r.Expected)
	}
	return r, nil
}

// Rows adds up the events of each planned row, and of rows that were scanned
// without being planned. Events must be in the order they happened; now holds
// the book's figure of each planned row. Rows come back in the plan's order.
func Rows(plan []RowKey, events []Event, now map[RowKey]decimal.Decimal) []Row {
	index := map[RowKey]int{}
	rows := make([]Row, 0, len(plan))
	add := func(key RowKey) int {
		i, ok := index[key]
		if !ok {
			i = len(rows)
			index[key] = i
			rows = append(rows, Row{Key: key, Expected: now[key]})
		}
		return i
	}
	for _, key := range plan {
		add(key)
	}
	for _, e := range events {
		if e.Struck || e.Unexpected {
			continue
		}
		row := &rows[add(e.Row)]
		row.At = e.At
		if !row.Counted {
			row.First = e.OnHand
		} else if !row.Expected.Equal(e.OnHand) && e.Serial == "" {
			row.Moved = true
		}
		row.Counted = true
		row.Quantity = row.Quantity.Add(e.Quantity)
		row.Expected = e.OnHand
		if e.Serial != "" {
			row.Serials = append(row.Serials, e.Serial)
		}
	}
	return rows
}

// ByCounters is Rows of a count in which each counter has a column: a row holds where all of them came to
// the same variance, each at the own moment, and to the same serial numbers; else it stands apart. Chosen
// says, by row, whose column was chosen.
func ByCounters(plan []RowKey, events []Event, now map[RowKey]decimal.Decimal, counters []uint64,
	chosen map[RowKey]uint64) []Row {
	rows := Rows(plan, events, now)
	columns := make([]map[RowKey]Row, len(counters))
	for i, by := range counters {
		var own []Event
		for _, e := range events {
			if e.By == by {
				own = append(own, e)
			}
		}
		columns[i] = map[RowKey]Row{}
		for _, r := range Rows(nil, own, nil) {
			columns[i][r.Key] = r
		}
	}
	for i, r := range rows {
		merged := Row{Key: r.Key, Expected: now[r.Key], Apart: false}
		for c, by := range counters {
			one, counted := columns[c][r.Key]
			merged.Columns = append(merged.Columns,
				Column{By: by, Counted: counted, Quantity: one.Quantity, Expected: one.Expected,
					Serials: one.Serials, At: one.At})
		}
		rows[i] = merged.agree(columns, chosen[r.Key])
	}
	return rows
}

// agree takes over what the columns agree on, or the chosen one.
func (r Row) agree(columns []map[RowKey]Row, chosen uint64) Row {
	var last Row
	same, some := true, false
	for i, c := range r.Columns {
		if chosen != 0 && c.By == chosen && c.Counted {
			taken := columns[i][r.Key]
			taken.Columns = r.Columns
			return taken
		}
		some = some || c.Counted
		first := r.Columns[0]
		same = same && c.Counted == first.Counted && c.Variance().Equal(first.Variance()) &&
			sameNumbers(c.Serials, first.Serials)
		if one := columns[i][r.Key]; c.Counted && !one.At.Before(last.At) {
			last = one
		}
	}
	if !some {
		return r
	}
	last.Columns, last.Apart = r.Columns, !same
	last.Key = r.Key
	return last
}

func sameNumbers(a, b []string) bool {
	x, y := slices.Sorted(slices.Values(a)), slices.Sorted(slices.Values(b))
	return slices.Equal(x, y)
}

// Reason is why a count differs.
type Reason string

// The reasons for a variance.
const (
	Loss   Reason = "loss"
	Found  Reason = "found"
	Waste  Reason = "waste"
	Damage Reason = "damage"
	Mix    Reason = "error"
	// MixUp is that of two rows of one product that cancel: the one was counted, or sold, as the other.
	MixUp Reason = "mix-up"
)

// Reasons lists the reasons in the order they are offered.
var Reasons = []Reason{Loss, Found, Waste, Damage, Mix}

// CheckReason returns an error when there is no such reason; an empty one takes
// the usual: found for more, loss for less.
func CheckReason(reason Reason, variance decimal.Decimal) (Reason, error) {
	if reason == "" {
		if variance.IsPositive() {
			return Found, nil
		}
		return Loss, nil
	}
	if reason == MixUp || slices.Contains(Reasons, reason) {
		return reason, nil
	}
	return "", fault.Field("reason", reason, "loss, found, waste, damage or error", "There is no reason %q.", reason)
}

// Unscanned lists the expected serial numbers that were not found, in order.
func Unscanned(expected, found []string) []string {
	seen := map[string]bool{}
	for _, f := range found {
		seen[f] = true
	}
	var missing []string
	for _, e := range expected {
		if !seen[e] {
			missing = append(missing, e)
		}
	}
	sort.Strings(missing)
	return missing
}
