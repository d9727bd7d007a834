package stock

import (
	"regexp"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/text"
)

// mostPlaceName is how long the name of a branch or shelf is at most, in characters.
const mostPlaceName = 60

// PlaceName tidies the name of a branch or shelf.
func PlaceName(typed string) (string, error) {
	name := text.Tidy(typed)
	if name == "" || text.Len(name) > mostPlaceName {
		return name, fault.Field("name", typed, "1 to 60 characters", "A branch or shelf needs a name of 1 to 60 characters.")
	}
	return name, nil
}

// CheckPosition refuses a place in a list that is none.
func CheckPosition(n int) error {
	if n < 0 || n > 9999 {
		return fault.Field("position", n, "0 to 9,999", "The place in lists is a number from 0 to 9,999.")
	}
	return nil
}

// registerCode is what the code of a register may be: it begins the numbers of its sales, and those of
// other documents begin with letters alone.
var registerCode = regexp.MustCompile(`^[A-Z]{1,4}[0-9]{1,2}$`)

// RegisterCode reads the code of a register.
func RegisterCode(typed string) (string, error) {
	code := strings.ToUpper(text.Tidy(typed))
	if !registerCode.MatchString(code) {
		return code, fault.Field("code", typed, "1 to 4 letters and a number, such as Q3",
			"A register needs a code of letters and a number, such as Q3; it begins the numbers of its sales.")
	}
	return code, nil
}

// Leaving is what keeps a branch or shelf from being closed: how many units lie there, and of a
// branch what is open at it, in words.
type Leaving struct {
	Units   decimal.Decimal
	Open    []string
	Default bool // the branch's default shelf
	Last    bool // the only one that is open

	Condition bool // it is a condition, and not a place
}

// where says where the units of something that is closed are.
func (l Leaving) where(name string) string {
	if l.Condition {
		return "still " + name
	}
	return "at " + name + ", or on the way there"
}

// CheckClose refuses to close a branch or shelf that is not empty, or that the shop can't do without.
func (l Leaving) CheckClose(name string) error {
	switch {
	case l.Last:
		return fault.Refuse("closed", name, "another one that is open", "%s is the last one; it can't be closed.", name)
	case l.Default:
		return fault.Refuse("closed", name, "another default shelf first",
			"%s is where goods go unless another shelf is named. Make another one the default first.", name)
	case !l.Units.IsZero():
		return fault.Refuse("closed", name, "an empty place", "%s %s. Move them first.",
			text.Plural(l.Units, "unit is", "units are"), l.where(name))
	case len(l.Open) > 0:
		return fault.Refuse("closed", name, "nothing open there", "%s can't be closed yet: %s.", name, text.Listed(l.Open))
	}
	return nil
}

// Move puts goods of a branch on another of its shelves, in the condition and of the lot that they
// are; their value does not change.
func (d *Draft) Move(w Want, to uint64) error {
	shelf, known := d.holding.Shelves[to]
	if !known || shelf.Branch != w.Branch || shelf.Closed {
		return fault.Field("to_shelf_id", to, "an open shelf of this branch", "There is no such shelf here to move goods to.")
	}
	if w.Shelf == to {
		return fault.Field("to_shelf_id", to, "another shelf", "The goods are on %s already.", shelf.Name)
	}
	if w.Condition == OnTheWay {
		return CheckCondition(w.Condition)
	}
	if w.Shelf == 0 {
		return d.moveFromOthers(w, to)
	}
	return d.shift(w, func(k Key) Key { k.Shelf = to; return k })
}

// moveFromOthers moves goods from wherever they lie at the branch but the shelf that they go to:
// the default shelf first.
func (d *Draft) moveFromOthers(w Want, to uint64) error {
	left := w.Quantity
	if d.holding.Items[w.Variant].Tracking == BySerial {
		for _, n := range w.Serials {
			if d.holding.Units[UnitKey{w.Variant, n}].Key.Shelf == to {
				return fault.Refuse("serials", n, "a number on another shelf", "No. %s is on %s already.", n,
					d.holding.Shelves[to].Name)
			}
		}
		return d.shift(w, func(k Key) Key { k.Shelf = to; return k })
	}
	for _, key := range d.holding.sources(w.Variant, w.Branch, w.Condition) {
		if key.Shelf == to || w.Lot != 0 && key.Lot != w.Lot || !left.IsPositive() {
			continue
		}
		from := w
		from.Shelf, from.Lot, from.Quantity = key.Shelf, key.Lot, decimal.Min(left, d.holding.Balances[key])
		if err := d.shift(from, func(k Key) Key { k.Shelf = to; return k }); err != nil {
			return err
		}
		left = left.Sub(from.Quantity)
	}
	if left.IsPositive() {
		item := d.holding.Items[w.Variant]
		return fault.Refuse("quantity", w.Quantity, "no more than "+item.Unit.Format(w.Quantity.Sub(left)),
			"%s: %s asked, %s %s on the other shelves.", item.Name, item.Unit.Format(w.Quantity),
			item.Unit.Format(w.Quantity.Sub(left)), w.Condition)
	}
	return nil
}

// shift takes goods out of their places and puts them, of the same value, where to says.
func (d *Draft) shift(w Want, to func(Key) Key) error {
	entries, err := d.outs(w, true)
	if err != nil {
		return err
	}
	return d.into(entries, to)
}

// into puts what entries took out where to says.
func (d *Draft) into(entries []Entry, to func(Key) Key) error {
	for _, e := range entries {
		if err := d.add(Entry{Line: e.Line, Key: to(e.Key), Serial: e.Serial, Quantity: e.Quantity.Neg(),
			Value: e.Value.Neg(), Moved: true}); err != nil {
			return err
		}
	}
	return nil
}
