// Package stock is the stock book: documents with entries, and what they leave
// on hand. Its main rule: stock changes only by applying the entries of a
// document to a holding, and an entry that would leave less than nothing, or a
// serial number in two places, is refused.
package stock

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"sort"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/money"
	"itemrack/core/serial"
	"itemrack/core/tax"
	"itemrack/core/unit"
)

// Condition is the state that goods are in.
type Condition string

// The conditions that a shop begins with. Only ForSale is available.
const (
	ForSale    Condition = "For sale"
	Seconds    Condition = "Seconds" // shown, scratched, mended
	ToLookOver Condition = "To look over"
	Lent       Condition = "Lent"
	InRepair   Condition = "In repair"
	ForScrap   Condition = "For scrap"
)

// OnTheWay is the condition of goods between branches: at the branch that they go to, in value, and
// available nowhere. Nobody puts goods into it but a sending.
const OnTheWay Condition = "On the way"

// Conditions lists the conditions in the order they are shown.
var Conditions = []Condition{ForSale, Seconds, ToLookOver, Lent, InRepair, ForScrap}

// CheckCondition returns an error when there is no such condition.
func CheckCondition(c Condition) error {
	if slices.Contains(Conditions, c) {
		return nil
	}
	return fault.Field("condition", c, "For sale, Seconds, To look over, Lent, In repair or For scrap",
		"There is no condition %q.", c)
}

// Tracking is how closely a product's stock is followed.
type Tracking string

// The kinds of tracking; it is fixed once a product has entries.
const (
	NotStocked Tracking = "not stocked"
	Counted    Tracking = "counted"
	ByLot      Tracking = "lot"
	BySerial   Tracking = "serial"
)

// Key is where stock lies: which variant, on which shelf, of which lot (0 for
// none), in which condition.
type Key struct {
	Variant   uint64    `json:"variant_id"`
	Shelf     uint64    `json:"shelf_id"`
	Lot       uint64    `json:"lot_id"`
	Condition Condition `json:"condition"`
}

// Compare orders keys; locks are taken in this order.
func (k Key) Compare(o Key) int {
	return cmp.Or(cmp.Compare(k.Variant, o.Variant), cmp.Compare(k.Shelf, o.Shelf), cmp.Compare(k.Lot, o.Lot),
		cmp.Compare(k.Condition, o.Condition))
}

// Entry is one change in the book. Quantity and Value are signed; the two After
// figures are the variant's whole quantity and value once it is applied.
type Entry struct {
	Line int // of the document, from 1
	Key
	Serial        string // normal form; empty for goods without numbers
	Quantity      decimal.Decimal
	Value         decimal.Decimal
	Bought        bool      // sets the last cost
	Moved         bool      // changes its place only; another entry of the document is its other half
	Owed          bool      // the number stands in for one that will be given
	Of            uint64    // the document that brought what is revalued, where nothing moves
	CameOn        time.Time // the day it came in, where that is not the document's; at midnight UTC
	QuantityAfter decimal.Decimal
	ValueAfter    decimal.Decimal
}

// Revalues reports whether the entry only changes what goods are worth.
func (e Entry) Revalues() bool { return e.Quantity.IsZero() && e.Of != 0 }

// Posting is an amount on an account of the books.
type Posting = ledger.Posting

// Document is one deed in the book, with its entries and double entry.
type Document struct {
	Kind       Kind
	Number     string
	Branch     uint64
	By         uint64
	HappenedAt time.Time
	RecordedAt time.Time
	Note       string
	Reverses   uint64
	Entries    []Entry
	Postings   []Posting
	// Revaluations is by how much it changed what goods of other documents cost.
	Revaluations []Revaluation
}

// Value is the sum of the entries' values.
func (d Document) Value() decimal.Decimal {
	sum := decimal.Zero
	for _, e := range d.Entries {
		sum = sum.Add(e.Value)
	}
	return sum
}

// Item is what the book needs to know of a variant.
type Item struct {
	Name     string // product and variant, for sentences
	Tracking Tracking
	Unit     unit.Unit
	Restock  *decimal.Decimal // restock level of the shop; nil for none
	Product  uint64
	TaxClass uint64
	Asked    *decimal.Decimal    // price on the Regular list; nil for none
	Expected [2]*decimal.Decimal // what the variant, and its product, is expected to cost
	Bundle   bool                // it is a bundle, made up
	Bundled  bool                // a bundle holds it
}

// Shelf is a place in a branch; a branch has one default shelf.
type Shelf struct {
	ID      uint64
	Branch  uint64
	Name    string
	Default bool
	Closed  bool
	Order   int // among those of its branch
}

// SortShelves puts shelves in the order of their branches, the default one first, closed ones last.
func SortShelves(list []Shelf) {
	sort.Slice(list, func(a, b int) bool {
		x, y := list[a], list[b]
		switch {
		case x.Branch != y.Branch:
			return x.Branch < y.Branch
		case x.Default != y.Default:
			return x.Default
		case x.Closed != y.Closed:
			return y.Closed
		case x.Order != y.Order:
			return x.Order < y.Order
		}
		return x.ID < y.ID
	})
}

// UnitKey names a serial-numbered unit.
type UnitKey struct {
	Variant uint64
	Serial  string
}

// NumberKey names a serial number of a product, which one of its variants has.
type NumberKey struct {
	Product uint64
	Serial  string
}

// NumberOwner is the variant that has a number.
type NumberOwner struct {
	Variant uint64
	Name    string
}

// Unit is a serial-numbered thing: where it is while in stock, and its own cost.
type Unit struct {
	State serial.State
	Key   Key
	Cost  decimal.Decimal
}

// Holding is what is on hand of some variants at one moment, with the tax classes that
// their prices are taxed by. Undone is the
// document that is being reversed, whose goods go before all others.
type Holding struct {
	Undone uint64
	Since  map[uint64]Since // of a document that is being reversed
	// Later is what came in of a variant after a document whose goods are revalued, and was not taken back: customers'
	// returns and what was found, too. What only moves did not come in.
	Later    map[CameKey]decimal.Decimal
	Minor    money.Minor
	Taxes    []tax.Class
	Items    map[uint64]Item
	Shelves  map[uint64]Shelf
	Pools    map[uint64]cost.Pool
	Balances map[Key]decimal.Decimal
	Lots     map[uint64]serial.Lot
	Units    map[UnitKey]Unit
	Numbers  map[NumberKey]NumberOwner
	Stood    map[uint64]Stood // by variant
	Still    map[StillKey]Still
	// Conditions is the shop's list; nil takes those that a shop begins with.
	Conditions []ConditionFacts
	index      *index
}

// index is where the stock and the units of each variant are, of a holding that is worked on.
type index struct {
	keys    map[uint64][]Key
	numbers map[uint64][]string
}

// of lists where a variant lies.
func (h Holding) of(variant uint64) []Key {
	if h.index != nil {
		return h.index.keys[variant]
	}
	var keys []Key
	for key := range h.Balances {
		if key.Variant == variant {
			keys = append(keys, key)
		}
	}
	return keys
}

// numbersOf lists the serial numbers of a variant's units.
func (h Holding) numbersOf(variant uint64) []string {
	if h.index != nil {
		return h.index.numbers[variant]
	}
	var numbers []string
	for name := range h.Units {
		if name.Variant == variant {
			numbers = append(numbers, name.Serial)
		}
	}
	return numbers
}

// StillKey names goods that a count may hold still: over all shelves of a branch.
type StillKey struct {
	Variant   uint64
	Branch    uint64
	Lot       uint64
	Condition Condition
}

// Still is a count that locks goods, and until when it does so; zero until it is settled. Past says that this is over:
// they can move, and are told as available as soon as somebody takes note.
type Still struct {
	Count string
	Until time.Time // in the shop's zone
	Past  bool
}

// locked reports whether a count locks goods now.
func (h Holding) locked(k Key) (Still, bool) {
	s, held := h.Still[StillKey{k.Variant, h.Shelves[k.Shelf].Branch, k.Lot, k.Condition}]
	return s, held && !s.Past
}

// Counted reports whether a count locks, or did until lately, some of a variant.
func (h Holding) Counted(variant uint64) bool {
	for k := range h.Still {
		if k.Variant == variant {
			return true
		}
	}
	return false
}

// Settles is the holding for a document that settles a count: what that locked can move.
func (h Holding) Settles(count string) Holding {
	others := make(map[StillKey]Still, len(h.Still))
	for k, s := range h.Still {
		if s.Count != count {
			others[k] = s
		}
	}
	h.Still = others
	return h
}

// moving refuses to move goods that a count holds still.
func (h Holding) moving(k Key) error {
	s, held := h.locked(k)
	if !held {
		return nil
	}
	until := "until it is settled"
	if !s.Until.IsZero() {
		until = "until " + s.Until.Format("2 January, 15:04") + ", or until it is settled"
	}
	return fault.Refuse("variant", h.Items[k.Variant].Name, "to wait, or to release the row in "+s.Count,
		"%s is being counted in %s, which holds it still %s.", h.Items[k.Variant].Name, s.Count, until)
}

// Since is what became of a variant since a document brought it in: how much went out and
// by which document first; and the cost of the last purchase but for the document.
type Since struct {
	Gone decimal.Decimal
	By   string
	Last decimal.Decimal
}

// Stood is how a variant stood before: what one cost, what was left of its price in
// percent (nil for no price), whether it was asked for under its cost, and ran low.
type Stood struct {
	Cost   decimal.Decimal
	Margin *decimal.Decimal
	Under  bool
	Low    bool
}

// Same reports whether two standings are equal but for the cost.
func (s Stood) Same(other Stood) bool {
	if s.Under != other.Under || s.Low != other.Low || (s.Margin == nil) != (other.Margin == nil) {
		return false
	}
	return s.Margin == nil || s.Margin.Equal(*other.Margin)
}

// clone copies what applying entries changes.
func (h Holding) clone() Holding {
	h.Pools, h.Balances, h.Units = maps.Clone(h.Pools), maps.Clone(h.Balances), maps.Clone(h.Units)
	if h.Numbers = maps.Clone(h.Numbers); h.Numbers == nil {
		h.Numbers = map[NumberKey]NumberOwner{}
	}
	h.index = &index{keys: make(map[uint64][]Key, len(h.Balances)), numbers: map[uint64][]string{}}
	for key := range h.Balances {
		h.index.keys[key.Variant] = append(h.index.keys[key.Variant], key)
	}
	for name := range h.Units {
		h.index.numbers[name.Variant] = append(h.index.numbers[name.Variant], name.Serial)
	}
	return h
}

// Apply puts entries on a copy of the holding and returns it. It refuses a
// balance or pool below zero, a serial number that is not where the entry says,
// and an entry whose After figures disagree with the holding.
func (h Holding) Apply(entries []Entry) (Holding, error) {
	next := h.clone()
	for i := range entries {
		e := entries[i]
		if err := next.put(&e); err != nil {
			return h, err
		}
		if !e.QuantityAfter.Equal(entries[i].QuantityAfter) || !e.ValueAfter.Equal(entries[i].ValueAfter) {
			return h, fmt.Errorf("entry %d of %s leaves %s worth %s, not %s worth %s", i+1, next.Items[e.Variant].Name,
				e.QuantityAfter, e.ValueAfter, entries[i].QuantityAfter, entries[i].ValueAfter)
		}
	}
	for _, variant := range Touched(entries) {
		if err := next.Pools[variant].Even(); err != nil {
			return h, fmt.Errorf("%s: %w", next.Items[variant].Name, err)
		}
	}
	return next, nil
}

// put applies one entry in place and fills in its After figures.
func (h Holding) put(e *Entry) error {
	item, known := h.Items[e.Variant]
	if !known {
		return fmt.Errorf("variant %d is not held", e.Variant)
	}
	if item.Tracking == NotStocked {
		return fault.Refuse("variant", item.Name, "a product with stock", "%s has no stock: it is a service.",
			item.Name)
	}
	shelf, ok := h.Shelves[e.Shelf]
	if !ok {
		return fault.Missing("shelf", e.Shelf, "There is no shelf %d.", e.Shelf)
	}
	if shelf.Closed && e.Quantity.IsPositive() {
		return fault.Refuse("shelf", shelf.Name, "an open shelf", "%s is closed; nothing can be put there.", shelf.Name)
	}
	if err := item.Unit.Check("quantity", e.Quantity.Abs()); err != nil {
		return err
	}
	if e.Quantity.IsZero() && !e.Revalues() {
		return fault.Field("quantity", 0, "a quantity", "An entry of nothing can't be posted.")
	}
	if (item.Tracking == ByLot) != (e.Lot != 0) {
		return fault.Field("lot", e.Lot, "a lot where the product has lots",
			"%s: a lot is needed exactly where the product is kept by lot.", item.Name)
	}
	if err := h.putUnit(item, e); err != nil {
		return err
	}
	if !e.Quantity.IsZero() {
		if err := h.moving(e.Key); err != nil {
			return err
		}
	}
	was, known := h.Balances[e.Key]
	if !known && h.index != nil {
		h.index.keys[e.Variant] = append(h.index.keys[e.Variant], e.Key)
	}
	after := was.Add(e.Quantity)
	if after.IsNegative() {
		have := h.Balances[e.Key]
		return fault.Refuse("quantity", e.Quantity.Abs(), "no more than "+item.Unit.Format(have),
			"%s: only %s %s at %s, %s asked.", item.Name, item.Unit.Format(have), e.Condition, h.Shelves[e.Shelf].Name,
			item.Unit.Format(e.Quantity.Abs()))
	}
	h.Balances[e.Key] = after
	pool, err := h.pooled(*e)
	if err != nil {
		return err
	}
	if pool.Quantity.IsNegative() || pool.Value.IsNegative() || (pool.Quantity.IsZero() && !pool.Value.IsZero()) {
		return fault.Refuse("value", pool.Value, "a value of zero or more", "%s: %s in stock can't be worth %s.",
			item.Name, pool.Quantity, pool.Value)
	}
	h.Pools[e.Variant] = pool
	e.QuantityAfter, e.ValueAfter = pool.Quantity, pool.Value
	return nil
}

// pooled is the cost pool of an entry's variant once it is applied.
func (h Holding) pooled(e Entry) (cost.Pool, error) {
	pool := h.Pools[e.Variant]
	switch {
	case e.Revalues():
		return pool.Revalue(e.Value, cost.Source{Document: e.Of, Line: e.Line})
	case e.Moved:
		return pool.Move(e.Quantity, e.Value), nil
	case e.Quantity.IsNegative():
		if since, undone := h.Since[e.Variant]; undone {
			pool.Last = since.Last
		}
		return pool.Out(e.Quantity.Neg(), e.Value.Neg(), cost.Source{Document: h.Undone, Line: e.Line})
	case e.Bought:
		return pool.Bought(e.Quantity, e.Value).ByLine(e.Line), nil
	}
	return pool.In(e.Quantity, e.Value).ByLine(e.Line), nil
}

// putUnit checks and moves the serial-numbered unit of an entry.
func (h Holding) putUnit(item Item, e *Entry) error {
	if item.Tracking != BySerial {
		if e.Serial != "" {
			return fault.Field("serials", e.Serial, "no number", "%s has no serial numbers.", item.Name)
		}
		return nil
	}
	if e.Revalues() {
		return h.revalueUnit(item, *e)
	}
	one := decimal.New(1, 0)
	if e.Serial == "" || !e.Quantity.Abs().Equal(one) {
		return fault.Field("serials", e.Serial, "one number for each unit", "%s: each unit needs its serial number.",
			item.Name)
	}
	name := UnitKey{e.Variant, e.Serial}
	u, known := h.Units[name]
	if e.Quantity.IsPositive() {
		if known && u.State == serial.InStock {
			return fault.Clash("serials", e.Serial, "another number", "%s No. %s is in stock already, at %s.",
				item.Name, e.Serial, h.Shelves[u.Key.Shelf].Name)
		}
		number := NumberKey{item.Product, e.Serial}
		if owner := h.Numbers[number]; owner.Variant != 0 && owner.Variant != e.Variant {
			return fault.Clash("serials", e.Serial, "another number",
				"%s: No. %s is known already, of %s. A number belongs to one thing of a product.", item.Name, e.Serial,
				owner.Name)
		}
		h.Numbers[number] = NumberOwner{e.Variant, item.Name}
		if !known && h.index != nil {
			h.index.numbers[e.Variant] = append(h.index.numbers[e.Variant], e.Serial)
		}
		h.Units[name] = Unit{State: serial.InStock, Key: e.Key, Cost: e.Value}
		return nil
	}
	if !known || u.State != serial.InStock || u.Key != e.Key {
		state := "not known"
		if known {
			state = string(u.State)
		}
		if known && u.State == serial.InStock {
			state = string(u.Key.Condition) + " at " + h.Shelves[u.Key.Shelf].Name
		}
		return fault.Refuse("serials", e.Serial, "a number in stock here", "%s No. %s is %s, not in stock here.",
			item.Name, e.Serial, state)
	}
	if u.State = serial.Sold; e.Owed {
		u.State = serial.NumberOwed
	}
	h.Units[name] = u
	return nil
}

// revalueUnit changes the own cost of a unit that is in stock.
func (h Holding) revalueUnit(item Item, e Entry) error {
	name := UnitKey{e.Variant, e.Serial}
	u, known := h.Units[name]
	if u.Cost = u.Cost.Add(e.Value); !known || u.State != serial.InStock || u.Cost.IsNegative() {
		return fault.Refuse("serials", e.Serial, "a number in stock", "%s No. %s can't be worth %s.", item.Name,
			e.Serial, u.Cost)
	}
	h.Units[name] = u
	return nil
}
