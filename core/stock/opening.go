package stock

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/money"
	"itemrack/core/serial"
)

// Opened is a line of opening stock: so many of a variant, and what one cost or what all of it
// is worth. A zero Shelf is the branch's usual one; CameOn is the day it came in, at midnight
// UTC, zero for the day of the document.
type Opened struct {
	Variant  uint64
	Name     string // for sentences
	Tracking Tracking
	Quantity decimal.Decimal
	Cost     *decimal.Decimal
	Worth    *decimal.Decimal
	Lot      serial.Lot
	Serials  []string
	Shelf    uint64
	CameOn   time.Time
}

// Value is what all of the line is worth: what was said, else quantity × cost, rounded.
func (o Opened) Value(minor money.Minor) decimal.Decimal {
	switch {
	case o.Worth != nil:
		return minor.Round(*o.Worth)
	case o.Cost != nil:
		return minor.Round(o.Quantity.Mul(*o.Cost))
	}
	return decimal.Zero
}

// Check refuses a line that can't be posted: without a cost, with lots or numbers that are not
// the product's way, or of a day that is still to come after today.
func (o Opened) Check(minor money.Minor, today time.Time) error {
	switch {
	case o.Tracking == NotStocked:
		return fault.Refuse("quantity", o.Quantity, "a product with stock", "%s has no stock: it is a service.", o.Name)
	case o.Cost == nil && o.Worth == nil:
		return fault.Field("cost", "", "what one cost, or what all of it is worth; 0 if it cost nothing",
			"%s: the cost of one is missing.", o.Name)
	case o.Cost != nil && o.Worth != nil && !minor.Round(o.Quantity.Mul(*o.Cost)).Equal(minor.Round(*o.Worth)):
		return fault.Field("worth", o.Worth, "one of the two", "%s: %s at %s each are not worth %s.", o.Name,
			o.Quantity,
			o.Cost, o.Worth)
	case o.Tracking == ByLot && o.Lot.Number == "":
		return fault.Field("lot", "", "its lot number", "%s is kept by lot, and no lot is given.", o.Name)
	case o.Tracking != ByLot && o.Lot.Number != "":
		return fault.Field("lot", o.Lot.Number, "nothing", "%s is not kept by lot.", o.Name)
	case o.Tracking == BySerial && !o.Quantity.Equal(decimal.New(int64(len(o.Serials)), 0)):
		return fault.Field("serials", len(o.Serials), o.Quantity.String()+" numbers",
			"%s needs a serial number for each of the %s.", o.Name, o.Quantity)
	case o.Tracking != BySerial && len(o.Serials) > 0:
		return fault.Field("serials", o.Serials[0], "nothing", "%s has no serial numbers.", o.Name)
	case o.CameOn.After(today):
		return fault.Field("came_on", o.CameOn.Format(time.DateOnly), "today or before",
			"%s: the day it came in is still to come.",
			o.Name)
	}
	return nil
}

// InTurn puts lines in the order in which they came in, which is the order of their layers;
// those without a day come last, and lines of one day stay as they are.
func InTurn(lines []Opened) []Opened {
	lines = slices.Clone(lines)
	slices.SortStableFunc(lines, func(a, b Opened) int {
		if a.CameOn.IsZero() != b.CameOn.IsZero() {
			if a.CameOn.IsZero() {
				return 1
			}
			return -1
		}
		return a.CameOn.Compare(b.CameOn)
	})
	return lines
}

// Open takes in what is there when a shop or a product begins, a line of the document at a
// place.
func (d *Draft) Open(line int, at Key, o Opened) error {
	value := o.Value(d.holding.Minor)
	d.Post(ledger.Stock, value)
	d.Post(ledger.Opening, value.Neg())
	from := len(d.doc.Entries)
	if err := d.Bring(line, at, o.Quantity, value, o.Serials); err != nil {
		return err
	}
	for i := range d.doc.Entries[from:] {
		d.doc.Entries[from+i].CameOn = o.CameOn
	}
	return nil
}
