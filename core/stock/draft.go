package stock

import (
	"maps"
	"slices"
	"sort"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/money"
	"itemrack/core/serial"
	"itemrack/core/text"
)

// Draft makes the entries of one document, each on top of the one before. It
// works on a copy of the holding it was made from.
type Draft struct {
	doc      Document
	holding  Holding
	postings ledger.Postings
}

// NewDraft begins a document over a holding. The head's entries and postings
// are ignored.
func NewDraft(holding Holding, head Document) *Draft {
	head.Entries, head.Postings, head.Revaluations = nil, nil, nil
	d := &Draft{doc: head, holding: holding.clone(), postings: ledger.Postings{}}
	d.holding.Undone = head.Reverses
	if head.Kind == Count {
		d.holding = d.holding.Settles(head.Number)
	}
	return d
}

// Holding is what is on hand after what was drafted so far.
func (d *Draft) Holding() Holding { return d.holding }

// Post adds an amount to an account: a debit when positive.
func (d *Draft) Post(account ledger.Account, amount decimal.Decimal) { d.postings.Add(account, amount) }

// Document ends the draft. It is an error when the postings do not balance.
func (d *Draft) Document() (Document, error) {
	d.doc.Postings = d.postings.List()
	return d.doc, ledger.Balanced(d.doc.Postings)
}

func (d *Draft) add(e Entry) error {
	if err := d.holding.put(&e); err != nil {
		return err
	}
	d.doc.Entries = append(d.doc.Entries, e)
	return nil
}

// Bring takes goods in that were bought: q units worth value, with their serial
// numbers where the product has them (the value is then split evenly).
func (d *Draft) Bring(line int, key Key, q, value decimal.Decimal, serials []string) error {
	return d.in(line, key, q, value, serials, true)
}

// Restore takes goods back in at a value of their own, as a return does; it
// leaves the last cost alone.
func (d *Draft) Restore(line int, key Key, q, value decimal.Decimal, serials []string) error {
	return d.in(line, key, q, value, serials, false)
}

func (d *Draft) in(line int, key Key, q, value decimal.Decimal, serials []string, bought bool) error {
	item := d.holding.Items[key.Variant]
	if item.Tracking != BySerial {
		return d.add(Entry{Line: line, Key: key, Quantity: q, Value: value, Bought: bought})
	}
	if !q.Equal(decimal.New(int64(len(serials)), 0)) {
		return fault.Field("serials", len(serials), q.String()+" numbers",
			"%s: %s, and %s.", item.Name, text.Plural(q, "unit", "units"),
			text.Plural(len(serials), "serial number", "serial numbers"))
	}
	for i, part := range evenly(value, len(serials), d.holding.Minor) {
		if err := d.add(Entry{Line: line, Key: key, Serial: serials[i], Quantity: decimal.New(1, 0), Value: part,
			Bought: bought}); err != nil {
			return err
		}
	}
	return nil
}

// evenly shares a value over n units so that the shares add up exactly.
func evenly(value decimal.Decimal, n int, minor money.Minor) []decimal.Decimal {
	shares := make([]decimal.Decimal, n)
	done, count := decimal.Zero, decimal.New(int64(n), 0)
	for i := range shares {
		shares[i] = minor.Part(value, done, decimal.New(int64(i), 0), decimal.New(1, 0), count)
		done = done.Add(shares[i])
	}
	return shares
}

// Want says what to take out of a branch. Lot 0 lets the rule choose; Day is
// the date in the shop's zone at midnight UTC, against which expiry is held
// when goods are sold. Unsold takes also what has expired.
type Want struct {
	Line      int
	Variant   uint64
	Branch    uint64
	Shelf     uint64 // only from there; 0 for any
	Condition Condition
	Quantity  decimal.Decimal
	Lot       uint64
	Serials   []string
	Day       time.Time
	Unsold    bool
	Owed      bool // the serial numbers stand in for those that will be given
}

// Take is one place that goods are taken from.
type Take struct {
	Key      Key
	Quantity decimal.Decimal
}

// Pick proposes where to take goods from: lots with the earliest expiry first
// and never an expired one, then the default shelf first. When that does not
// suffice it refuses and says how many there are.
func (h Holding) Pick(w Want) ([]Take, error) {
	item, known := h.Items[w.Variant]
	if !known {
		return nil, fault.Missing("variant", w.Variant, "There is no variant %d.", w.Variant)
	}
	if err := item.Unit.Check("quantity", w.Quantity); err != nil {
		return nil, err
	}
	var takes []Take
	var locked error
	left, expired := w.Quantity, decimal.Zero
	for _, key := range h.sources(w.Variant, w.Branch, w.Condition) {
		if w.Lot != 0 && key.Lot != w.Lot || w.Shelf != 0 && key.Shelf != w.Shelf {
			continue
		}
		if err := h.moving(key); err != nil { // what is not locked may do
			locked = err
			continue
		}
		if key.Lot != 0 && !w.Unsold && h.Lots[key.Lot].Expired(w.Day) {
			expired = expired.Add(h.Balances[key])
			continue
		}
		if q := decimal.Min(left, h.Balances[key]); q.IsPositive() {
			takes = append(takes, Take{key, q})
			left = left.Sub(q)
		}
	}
	if left.IsPositive() && locked != nil {
		return nil, locked
	}
	if left.IsPositive() {
		have := w.Quantity.Sub(left)
		past := ""
		if expired.IsPositive() {
			past = " Another " + item.Unit.Format(expired) + " are past their expiry."
		}
		if have.IsZero() {
			return nil, fault.Refuse("quantity", w.Quantity, "0", "%s: none is %s here.%s", item.Name, w.Condition,
				past)
		}
		return nil, fault.Refuse("quantity", w.Quantity, "no more than "+item.Unit.Format(have),
			"%s: %s asked, %s %s here, %s short.%s", item.Name, item.Unit.Format(w.Quantity), item.Unit.Format(have),
			w.Condition, item.Unit.Format(left), past)
	}
	return takes, nil
}

// pickUnits finds the keys of serial-numbered units that a person chose.
func (h Holding) pickUnits(w Want) ([]Entry, error) {
	item := h.Items[w.Variant]
	if !w.Quantity.Equal(decimal.New(int64(len(w.Serials)), 0)) {
		return nil, fault.Field("serials", len(w.Serials), w.Quantity.String()+" numbers",
			"%s: choose a serial number for each of the %s.", item.Name, w.Quantity)
	}
	var entries []Entry
	for _, number := range w.Serials {
		u, known := h.Units[UnitKey{w.Variant, number}]
		if !known || u.State != serial.InStock || u.Key.Condition != w.Condition ||
			h.Shelves[u.Key.Shelf].Branch != w.Branch || w.Shelf != 0 && u.Key.Shelf != w.Shelf {
			return nil, fault.Refuse("serials", number, "a number that is "+string(w.Condition)+" here",
				"%s No. %s is not %s here.", item.Name, number, w.Condition)
		}
		entries = append(entries,
			Entry{Line: w.Line, Key: u.Key, Serial: number, Quantity: decimal.New(-1, 0), Value: u.Cost.Neg(), Owed: w.Owed})
	}
	return entries, nil
}

// Take takes goods out and returns what they were worth: by the shop's method,
// or the own cost of serial-numbered units.
func (d *Draft) Take(w Want) (decimal.Decimal, error) {
	entries, err := d.outs(w, false)
	worth := decimal.Zero
	for _, e := range entries {
		worth = worth.Sub(e.Value)
	}
	return worth, err
}

// outs adds the entries that take goods out, and returns them.
func (d *Draft) outs(w Want, moved bool) ([]Entry, error) {
	var entries []Entry
	if d.holding.Items[w.Variant].Tracking == BySerial {
		units, err := d.holding.pickUnits(w)
		if err != nil {
			return nil, err
		}
		entries = units
	} else {
		takes, err := d.holding.Pick(w)
		if err != nil {
			return nil, err
		}
		for _, t := range takes {
			entries = append(entries, Entry{Line: w.Line, Key: t.Key, Quantity: t.Quantity.Neg()})
		}
	}
	var done []Entry
	for _, e := range entries {
		for _, e := range d.byLayer(e, moved) {
			e.Moved = moved
			if err := d.add(e); err != nil {
				return nil, err
			}
			done = append(done, e)
		}
	}
	return done, nil
}

// byLayer values what goes out. By FIFO goods of several layers go in an entry for each,
// so that a void puts each back at its own cost; goods that only move stay together.
func (d *Draft) byLayer(e Entry, moved bool) []Entry {
	if e.Serial != "" {
		return []Entry{e}
	}
	pool := d.holding.Pools[e.Variant]
	if moved {
		e.Value = pool.Worth(e.Quantity.Neg()).Neg()
		return []Entry{e}
	}
	var parts []Entry
	for _, l := range pool.Next(e.Quantity.Neg()) {
		e.Quantity, e.Value = l.Quantity.Neg(), l.Value.Neg()
		parts = append(parts, e)
	}
	return parts
}

// lotNamed refuses to take goods of lots without saying which, unless there is only one
// of them there.
func (h Holding) lotNamed(w Want) error {
	item := h.Items[w.Variant]
	if item.Tracking != ByLot || w.Lot != 0 {
		return nil
	}
	lots := map[uint64]string{}
	for _, key := range h.sources(w.Variant, w.Branch, w.Condition) {
		lots[key.Lot] = h.Lots[key.Lot].Number
	}
	if len(lots) < 2 {
		return nil
	}
	return fault.Field("lot_id", "", strings.Join(slices.Sorted(maps.Values(lots)), " or "),
		"%s lies here in %d lots; say which.", item.Name, len(lots))
}

// Change puts goods of a branch from one condition into another on the same
// shelf; their value goes along unchanged. Goods of lots say which.
func (d *Draft) Change(w Want, to Condition) error {
	if w.Condition == to {
		return fault.Field("condition", to, "another condition", "The goods are %s already.", to)
	}
	if err := d.holding.lotNamed(w); err != nil {
		return err
	}
	entries, err := d.outs(w, true)
	if err != nil {
		return err
	}
	for _, e := range entries {
		if err := Sellable(d.holding.Lots[e.Lot], to, w.Day); err != nil {
			return err
		}
		key := e.Key
		key.Condition = to
		if err := d.add(Entry{Line: w.Line, Key: key, Serial: e.Serial, Quantity: e.Quantity.Neg(),
			Value: e.Value.Neg(), Moved: true}); err != nil {
			return err
		}
	}
	return nil
}

// Reverse adds the opposite of each entry of the document that the head reverses,
// latest first. What a sale took goes back at the value it had. What a delivery or
// opening stock brought goes out again as if it had never come, or not at all: see
// Holding.untouched. Where what else goes out is worth another value than it came with
// (other goods have gone since, or the last unit takes what is left) the difference is
// posted to the cost of sales. The document's postings are taken back with it. What is
// past its expiry on the day does not go back for sale. What it revalued is as if it had not: see unrevalue.
func (d *Draft) Reverse(doc Document, revalued []Revalued, day time.Time) error {
	of, entries := doc.Kind, doc.Entries
	for _, p := range doc.Postings {
		d.Post(p.Account, p.Amount.Neg())
	}
	if err := d.unrevalue(entries, revalued); err != nil {
		return err
	}
	if of.Moves() {
		return d.moveBack(entries, day)
	}
	if of.Brings() {
		if err := d.holding.untouched(entries); err != nil {
			return err
		}
	}
	difference := decimal.Zero
	for i := len(entries) - 1; i >= 0; i-- {
		e := entries[i]
		if e.Revalues() {
			continue
		}
		back := Entry{Line: e.Line, Key: e.Key, Serial: e.Serial, Quantity: e.Quantity.Neg(), Value: e.Value.Neg()}
		if back.Quantity.IsNegative() {
			value := d.holding.Pools[e.Variant].Undo(e.Quantity, e.Value, cost.Source{Document: d.doc.Reverses, Line: e.Line})
			difference = difference.Add(value.Sub(e.Value))
			back.Value = value.Neg()
		}
		if err := d.add(back); err != nil {
			return err
		}
	}
	d.Post(ledger.Stock, difference.Neg())
	d.Post(ledger.CostOfSales, difference)
	return nil
}

// untouched refuses to reverse what brought goods in unless all can be put back as if it
// had not been: by moving average while nothing of its variants has gone out since, as
// their cost is mixed from it; by FIFO while its own layers are whole. Units with numbers
// of their own must be there.
func (h Holding) untouched(entries []Entry) error {
	brought, worth := map[uint64]decimal.Decimal{}, map[uint64]decimal.Decimal{}
	for _, e := range entries {
		brought[e.Variant], worth[e.Variant] = brought[e.Variant].Add(e.Quantity), worth[e.Variant].Add(e.Value)
	}
	for _, variant := range Touched(entries) {
		item, pool, since := h.Items[variant], h.Pools[variant], h.Since[variant]
		if item.Tracking == BySerial {
			continue // each is taken out by its number
		}
		whole := since.Gone.IsZero()
		if pool.Layered() {
			left, value := pool.Of(cost.Source{Document: h.Undone})
			whole = left.Equal(brought[variant]) && value.Equal(worth[variant])
		}
		if !whole {
			by := ""
			if since.By != "" {
				by = ", first by " + since.By
			}
			return fault.Refuse("document", item.Name,
				"to send what is left back to the supplier, or to correct the bill",
				"%s: %s gone out since%s. What it cost can't be put back as if it had not been; what is left can go back "+
					"to the supplier, or the bill be corrected.", item.Name, item.Unit.Format(since.Gone), by)
		}
	}
	return nil
}

// PostAll adds what a document posts to several accounts.
func (d *Draft) PostAll(postings ledger.Postings) {
	for account, amount := range postings {
		d.Post(account, amount)
	}
}

// moveBack puts goods where they were before they were moved, at what they are
// worth now.
func (d *Draft) moveBack(entries []Entry, day time.Time) error {
	var values []decimal.Decimal // of what went out, in turn
	for i := len(entries) - 1; i >= 0; i-- {
		e := entries[i]
		back := Entry{
			Line:     e.Line,
			Key:      e.Key,
			Serial:   e.Serial,
			Quantity: e.Quantity.Neg(),
			Value:    e.Value.Neg(),
			Moved:    true,
		}
		if back.Quantity.IsPositive() {
			if err := Sellable(d.holding.Lots[back.Lot], back.Condition, day); err != nil {
				return err
			}
		}
		switch {
		case back.Quantity.IsNegative():
			if back.Serial == "" {
				back.Value = d.holding.Pools[e.Variant].Worth(e.Quantity).Neg()
			}
			values = append(values, back.Value.Neg())
		default:
			back.Value, values = values[0], values[1:]
		}
		if err := d.add(back); err != nil {
			return err
		}
	}
	return nil
}

// Touched lists the variants of some entries in ascending order, each once.
func Touched(entries []Entry) []uint64 {
	seen := map[uint64]bool{}
	var list []uint64
	for _, e := range entries {
		if !seen[e.Variant] {
			seen[e.Variant] = true
			list = append(list, e.Variant)
		}
	}
	sort.Slice(list, func(a, b int) bool { return list[a] < list[b] })
	return list
}
