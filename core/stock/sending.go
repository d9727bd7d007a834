package stock

import (
	"cmp"
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/serial"
)

// SendingState is how far a sending between branches has come.
type SendingState string

// The states of a sending.
const (
	SendingWanted  SendingState = "Wanted"  // a branch asks for goods; nothing is packed
	SendingPacking SendingState = "Packing" // being made ready at the sender's
	SendingOnWay   SendingState = "On the way"
	SendingSettled SendingState = "Settled" // nothing is on the way or over any more
	SendingDropped SendingState = "Given up"
)

// Edits refuses to change what is packed of a sending that has left or is given up.
func (s SendingState) Edits(number string) error {
	if s == SendingWanted || s == SendingPacking {
		return nil
	}
	return fault.Refuse("sending", number, "a sending that is being packed", "%s is %s; what is in it can't be changed.",
		number, lowered(s))
}

// Arrives refuses to take in what is not on the way.
func (s SendingState) Arrives(number string) error {
	if s == SendingOnWay {
		return nil
	}
	return fault.Refuse("sending", number, "a sending that is on the way",
		"%s is %s; nothing of it can be taken in.", number,
		lowered(s))
}

func lowered(s SendingState) string {
	return map[SendingState]string{SendingWanted: "only wanted so far", SendingPacking: "still being packed",
		SendingOnWay: "on the way", SendingSettled: "settled already", SendingDropped: "given up"}[s]
}

// SendingLine is goods of one kind in a sending: how many are wanted, packed, sent; how many were
// counted in the arrival that is being taken in (Here), arrived before, went back, were lost; how many
// arrived that were not sent, and how many of those are settled. Lot is 0 where it is not said yet.
// Numbers are the serial numbers that are packed, and then sent; Ended those that arrived, went back or
// were lost; OverNumbers those that are over.
type SendingLine struct {
	ID          uint64          `json:"id"`
	Variant     uint64          `json:"variant_id"`
	Lot         uint64          `json:"lot_id"`
	Condition   Condition       `json:"condition"`
	Wanted      decimal.Decimal `json:"wanted"`
	Packed      decimal.Decimal `json:"packed"`
	Sent        decimal.Decimal `json:"sent"`
	Here        decimal.Decimal `json:"here"`
	Arrived     decimal.Decimal `json:"arrived"`
	Back        decimal.Decimal `json:"back"`
	Lost        decimal.Decimal `json:"lost"`
	Over        decimal.Decimal `json:"over"`
	OverSettled decimal.Decimal `json:"over_settled"`
	Numbers     []string        `json:"numbers"`
	HereNumbers []string        `json:"here_numbers"`
	Ended       []string        `json:"ended"`
	OverNumbers []string        `json:"over_numbers"`
}

// OnWay is how many of the line are on the way.
func (l SendingLine) OnWay() decimal.Decimal { return l.Sent.Sub(l.Arrived).Sub(l.Back).Sub(l.Lost) }

// OverLeft is how many arrived unsent and are not settled.
func (l SendingLine) OverLeft() decimal.Decimal { return l.Over.Sub(l.OverSettled) }

// Open reports whether something of the line is still to be settled.
func (l SendingLine) Open() bool { return l.OnWay().IsPositive() || l.OverLeft().IsPositive() }

// NumbersOnWay are the serial numbers of the line that are on the way.
func (l SendingLine) NumbersOnWay() []string { return without(l.Numbers, l.Ended) }

// NumbersOver are the serial numbers of the line that are over and not settled.
func (l SendingLine) NumbersOver() []string { return without(l.OverNumbers, l.Ended) }

func without(list, less []string) []string {
	return slices.DeleteFunc(slices.Clone(list), func(n string) bool { return slices.Contains(less, n) })
}

// SendingPut is goods that are put into a sending that has not left: what was scanned adds to its line,
// what is typed is how many there are in all. Wanted puts them into what is wanted, else into what is
// packed. Was is how many stood there when it was shown, empty for nothing said.
type SendingPut struct {
	Line     SendingLine // variant, lot, condition and serial numbers
	Adds     bool
	Wanted   bool
	Quantity string
	Was      string
	From     uint64
}

// PutInSending puts goods into a sending, and says what became of it.
func (h Holding) PutInSending(lines []SendingLine, p SendingPut) (SendingLine, string, error) {
	item, known := h.Items[p.Line.Variant]
	if !known || item.Tracking == NotStocked {
		return p.Line, "", fault.Refuse("variant_id", item.Name, "a product with stock",
			"%s has no stock to send.", item.Name)
	}
	if p.Line.Condition == "" {
		p.Line.Condition = ForSale
		if item.Tracking == BySerial && len(p.Line.Numbers) == 1 { // a number says which condition it is in
			if u := h.Units[UnitKey{p.Line.Variant, p.Line.Numbers[0]}]; u.State == serial.InStock {
				p.Line.Condition = u.Key.Condition
			}
		}
	}
	if err := h.CheckCondition(p.Line.Condition); err != nil {
		return p.Line, "", err
	}
	q, err := p.quantity(item)
	if err != nil {
		return p.Line, "", err
	}
	line := p.Line
	line.Numbers = nil
	at := slices.IndexFunc(lines, func(l SendingLine) bool {
		return l.Variant == line.Variant && l.Lot == line.Lot && l.Condition == line.Condition
	})
	if at >= 0 {
		line = lines[at]
	}
	figure := &line.Packed
	if p.Wanted {
		figure = &line.Wanted
	}
	if p.Was != "" && p.Was != figure.String() && !q.Equal(*figure) {
		return line, "", fault.Clash("quantity", q, "a look at what it is now",
			"%s: somebody else made it %s meanwhile.", item.Name,
			item.Unit.Format(*figure))
	}
	if item.Tracking == BySerial && !p.Wanted {
		if q, err = h.packNumbers(&line, p, item); err != nil {
			return line, "", err
		}
	} else if p.Adds {
		q = figure.Add(q)
	}
	*figure = q
	if q.IsNegative() {
		return line, "", fault.Field("quantity", q, "0 or more", "%s: less than none can't be sent.", item.Name)
	}
	verb := " packed."
	if p.Wanted {
		verb = " wanted."
	} else if have := h.OnHand(line.Variant, p.From, line.Condition); q.GreaterThan(have) {
		return line, "", fault.Refuse("quantity", q, "no more than "+item.Unit.Format(have),
			"%s: %s %s at the sender's, %s asked.",
			item.Name, item.Unit.Format(have), line.Condition, item.Unit.Format(q))
	}
	return line, item.Name + ": " + item.Unit.Format(q) + verb, nil
}

func (p SendingPut) quantity(item Item) (decimal.Decimal, error) {
	if item.Tracking == BySerial && !p.Wanted && p.Quantity == "" {
		return decimal.New(int64(len(p.Line.Numbers)), 0), nil
	}
	return item.Unit.Parse("quantity", p.Quantity)
}

// packNumbers puts serial numbers into a line: a scanned one adds, a typed list replaces.
func (h Holding) packNumbers(line *SendingLine, p SendingPut, item Item) (decimal.Decimal, error) {
	numbers := p.Line.Numbers
	if p.Adds {
		if len(numbers) == 0 {
			return decimal.Zero, fault.Field("serials", "", "the number on the unit",
				"%s is sent by its serial numbers: scan each.",
				item.Name)
		}
		if slices.Contains(line.Numbers, numbers[0]) {
			return decimal.Zero, fault.Clash("serials", numbers[0], "each number once",
				"%s No. %s is packed already.", item.Name,
				numbers[0])
		}
		numbers = append(slices.Clone(line.Numbers), numbers...)
	}
	q := decimal.New(int64(len(numbers)), 0)
	if len(numbers) > 0 {
		if _, err := h.pickUnits(Want{Variant: line.Variant, Branch: p.From, Condition: line.Condition, Quantity: q,
			Serials: numbers}); err != nil {
			return q, err
		}
	}
	line.Numbers = numbers
	return q, nil
}

// HereInput is what is counted as here of a sending: what was scanned adds, what is typed of a line is
// how many are here in all. Came is the goods, with the number that was scanned.
type HereInput struct {
	Came     SendingLine
	Line     uint64
	Adds     bool
	Quantity string
}

// CountHere counts what arrives: on the line that is named, else on the one of the same goods that still
// has some to come; what was not sent makes a line of its own. It says what became of it.
func (h Holding) CountHere(lines []SendingLine, in HereInput) (SendingLine, string, error) {
	item := h.Items[in.Came.Variant]
	if item.Tracking == NotStocked {
		return in.Came, "", fault.Refuse("variant_id", item.Name, "a product with stock", "%s has no stock.", item.Name)
	}
	line := in.meant(lines)
	q, err := decimal.New(int64(len(in.Came.Numbers)), 0), error(nil)
	if item.Tracking != BySerial || in.Quantity != "" && len(in.Came.Numbers) == 0 {
		q, err = item.Unit.Parse("quantity", in.Quantity)
	}
	if err != nil {
		return line, "", err
	}
	if item.Tracking == BySerial {
		if line, err = line.hereNumbers(item, in, q); err != nil {
			return line, "", err
		}
		q = decimal.New(int64(len(line.HereNumbers)), 0)
	} else if in.Adds {
		q = line.Here.Add(q)
	}
	if q.IsNegative() {
		return line, "", fault.Field("quantity", q, "0 or more", "%s: less than none can't be here.", item.Name)
	}
	line.Here = q
	said := item.Name + ": " + item.Unit.Format(q) + " of " + item.Unit.Format(line.OnWay()) + " here."
	if over := q.Sub(line.OnWay()); over.IsPositive() {
		said = item.Name + ": " + item.Unit.Format(over) + " more than sent."
	}
	return line, said, nil
}

// meant finds the line that is counted.
func (in HereInput) meant(lines []SendingLine) SendingLine {
	at := -1
	for i, l := range lines {
		switch {
		case in.Line != 0:
			if l.ID == in.Line {
				return l
			}
		case l.Variant != in.Came.Variant || in.Came.Lot != 0 && l.Lot != in.Came.Lot:
		case len(in.Came.Numbers) == 1 && slices.Contains(l.NumbersOnWay(), in.Came.Numbers[0]):
			return l
		case at < 0 || !lines[at].Here.LessThan(lines[at].OnWay()):
			at = i
		}
	}
	if at >= 0 {
		return lines[at]
	}
	return SendingLine{Variant: in.Came.Variant, Lot: in.Came.Lot, Condition: ForSale}
}

// hereNumbers notes serial numbers as here: a scanned one adds, a typed list replaces.
func (l SendingLine) hereNumbers(item Item, in HereInput, q decimal.Decimal) (SendingLine, error) {
	if len(in.Came.Numbers) == 0 && !q.IsZero() {
		return l, fault.Field("serials", "", "the number on the unit",
			"%s arrives by its serial numbers: scan each.", item.Name)
	}
	if !in.Adds {
		l.HereNumbers = in.Came.Numbers
		return l, nil
	}
	for _, n := range in.Came.Numbers {
		if slices.Contains(l.HereNumbers, n) {
			return l, fault.Clash("serials", n, "each number once", "%s No. %s is here already.", item.Name, n)
		}
	}
	l.HereNumbers = append(slices.Clone(l.HereNumbers), in.Came.Numbers...)
	return l, nil
}

// AllHere counts all that is on the way as here.
func AllHere(lines []SendingLine) []SendingLine {
	all := slices.Clone(lines)
	for i, l := range all {
		all[i].Here, all[i].HereNumbers = decimal.Max(l.Here, l.OnWay()), l.HereNumbers
		for _, n := range l.NumbersOnWay() {
			if !slices.Contains(l.HereNumbers, n) {
				all[i].HereNumbers = append(slices.Clone(all[i].HereNumbers), n)
			}
		}
		if len(l.Numbers) > 0 {
			all[i].Here = decimal.New(int64(len(all[i].HereNumbers)), 0)
		}
	}
	return all
}

// WorthOf is what so many units of a variant are worth: those with numbers what they cost themselves.
func (h Holding) WorthOf(variant uint64, q decimal.Decimal, numbers []string) decimal.Decimal {
	if h.Items[variant].Tracking != BySerial {
		return h.Pools[variant].Worth(q)
	}
	sum := decimal.Zero
	for _, n := range numbers {
		sum = sum.Add(h.Units[UnitKey{variant, n}].Cost)
	}
	return sum
}

// Pack proposes what to pack of what a branch wants: no more than is available at the sender's on a
// day.
func (h Holding) Pack(from uint64, lines []SendingLine, day time.Time) []SendingLine {
	left := map[uint64]decimal.Decimal{}
	packed := slices.Clone(lines)
	for i, l := range packed {
		if h.Items[l.Variant].Tracking == BySerial {
			continue // somebody says which
		}
		have, seen := left[l.Variant]
		if !seen {
			have = h.Available(l.Variant, from, day)
		}
		packed[i].Packed = decimal.Min(l.Wanted, have)
		left[l.Variant] = have.Sub(packed[i].Packed)
	}
	return packed
}

// Send takes what is packed out at the sender's and puts it on the way to another branch, at its cost.
// It returns the lines as they left: one for each lot. A line whose lot is not said takes the earliest
// expiry first.
func (d *Draft) Send(from, to uint64, lines []SendingLine, day time.Time) ([]SendingLine, error) {
	if from == to {
		return nil, fault.Field("to_branch_id", to, "another branch", "A sending goes from one branch to another.")
	}
	if !slices.ContainsFunc(lines, func(l SendingLine) bool { return l.Packed.IsPositive() }) {
		return nil, fault.Field("lines", "", "something packed",
			"Nothing is packed yet. Scan what goes, or pack what is wanted.")
	}
	shelf, err := d.holding.Where(to)
	if err != nil {
		return nil, err
	}
	var left []SendingLine
	for i, l := range lines {
		if !l.Packed.IsPositive() {
			if l.Wanted.IsPositive() {
				left = append(left, l)
			}
			continue
		}
		if l.Condition == OnTheWay {
			return nil, CheckCondition(l.Condition)
		}
		entries, err := d.outs(Want{Line: i + 1, Variant: l.Variant, Branch: from, Condition: l.Condition, Quantity: l.Packed,
			Lot: l.Lot, Serials: l.Numbers, Day: day, Unsold: l.Lot != 0 || l.Condition != ForSale}, true)
		if err != nil {
			return nil, err
		}
		if err := d.into(entries, func(k Key) Key { k.Shelf, k.Condition = shelf, OnTheWay; return k }); err != nil {
			return nil, err
		}
		left = append(left, l.parted(entries)...)
	}
	return left, nil
}

// parted is a line as it left, one for each lot; the first keeps what was wanted.
func (l SendingLine) parted(entries []Entry) []SendingLine {
	var parts []SendingLine
	for _, e := range entries {
		at := slices.IndexFunc(parts, func(p SendingLine) bool { return p.Lot == e.Lot })
		if at < 0 {
			part := SendingLine{Variant: l.Variant, Lot: e.Lot, Condition: l.Condition, Numbers: []string{}}
			if len(parts) == 0 {
				part.ID, part.Wanted = l.ID, l.Wanted
			}
			parts = append(parts, part)
			at = len(parts) - 1
		}
		parts[at].Packed = parts[at].Packed.Sub(e.Quantity)
		parts[at].Sent = parts[at].Packed
		if e.Serial != "" {
			parts[at].Numbers = append(parts[at].Numbers, e.Serial)
		}
	}
	slices.SortStableFunc(parts, func(a, b SendingLine) int { return cmp.Compare(a.Lot, b.Lot) })
	return parts
}

// Arrive takes in at a branch what is here of the lines, on a shelf, in the condition in which it was
// sent. What is here beyond what is on the way is over, and stays out of the book until it is settled.
// It returns the lines as they stand then.
func (d *Draft) Arrive(branch, shelf uint64, lines []SendingLine) ([]SendingLine, error) {
	if s, known := d.holding.Shelves[shelf]; !known || s.Branch != branch || s.Closed {
		return nil, fault.Field("shelf_id", shelf, "an open shelf of the branch",
			"There is no such shelf to take goods in on.")
	}
	after, some := slices.Clone(lines), false
	for i, l := range lines {
		if !l.Here.IsPositive() {
			continue
		}
		some = true
		due := decimal.Min(l.Here, l.OnWay())
		known := intersect(l.HereNumbers, l.NumbersOnWay())
		if d.holding.Items[l.Variant].Tracking == BySerial {
			due = decimal.New(int64(len(known)), 0)
		}
		a := &after[i]
		if due.IsPositive() {
			if err := d.shift(onWay(i+1, branch, l, due, known), func(k Key) Key {
				k.Shelf, k.Condition = shelf, l.Condition
				return k
			}); err != nil {
				return nil, err
			}
			a.Arrived, a.Ended = a.Arrived.Add(due), append(slices.Clone(a.Ended), known...)
		}
		a.Over = a.Over.Add(l.Here.Sub(due))
		a.OverNumbers = append(slices.Clone(a.OverNumbers), without(l.HereNumbers, known)...)
		a.Here, a.HereNumbers = decimal.Zero, nil
	}
	if !some {
		return nil, fault.Field("lines", "", "something that is here", "Nothing is counted as here yet. Scan what arrived.")
	}
	return after, nil
}

// onWay wants goods of a line out of those that are on the way to a branch.
func onWay(line int, branch uint64, l SendingLine, q decimal.Decimal, numbers []string) Want {
	return Want{Line: line, Variant: l.Variant, Branch: branch, Condition: OnTheWay, Quantity: q, Lot: l.Lot,
		Serials: numbers,
		Unsold:  true}
}

func intersect(a, b []string) []string {
	return slices.DeleteFunc(slices.Clone(a), func(n string) bool { return !slices.Contains(b, n) })
}

// SendingNow is the state of a sending that has left, by its lines.
func SendingNow(lines []SendingLine) SendingState {
	if slices.ContainsFunc(lines, SendingLine.Open) {
		return SendingOnWay
	}
	return SendingSettled
}

// SendingTotal is how many units of a sending were sent, arrived, and are on the way and over.
type SendingTotal struct {
	Wanted  decimal.Decimal `json:"wanted"`
	Packed  decimal.Decimal `json:"packed"`
	Sent    decimal.Decimal `json:"sent"`
	Here    decimal.Decimal `json:"here"`
	Arrived decimal.Decimal `json:"arrived"`
	OnWay   decimal.Decimal `json:"on_the_way"`
	Over    decimal.Decimal `json:"over"`
}

// TotalSending adds the lines of a sending up.
func TotalSending(lines []SendingLine) SendingTotal {
	var t SendingTotal
	for _, l := range lines {
		t.Wanted, t.Packed, t.Sent = t.Wanted.Add(l.Wanted), t.Packed.Add(l.Packed), t.Sent.Add(l.Sent)
		t.Here, t.Arrived = t.Here.Add(l.Here), t.Arrived.Add(l.Arrived)
		t.OnWay, t.Over = t.OnWay.Add(l.OnWay()), t.Over.Add(l.OverLeft())
	}
	return t
}
