package count

import (
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/stock"
)

// Uncounted says what becomes of the rows that nobody counted.
type Uncounted string

// What becomes of them.
const (
	Leave Uncounted = "leave"
	Zero  Uncounted = "zero"
)

// Check refuses anything else.
func (u Uncounted) Check() error {
	if u != Leave && u != Zero {
		return fault.Field("uncounted", u, "leave or zero",
			"Say what becomes of the rows that nobody counted: leave them as they are, or take them as zero.")
	}
	return nil
}

// Figure is a row of a count with what settling makes of it: the serial numbers that are
// missing, how many units too many or too few, and what those are worth.
type Figure struct {
	Row
	Missing []string        `json:"missing"`
	Differs decimal.Decimal `json:"differs"`
	Value   decimal.Decimal `json:"value" see:"costs"`
}

// Hidden is a row as those see it who count without knowing what the book has: what was
// counted, and nothing that tells what was expected.
func (f Figure) Hidden() Figure {
	f.Expected, f.First, f.Moved, f.Missing = decimal.Zero, decimal.Zero, false, nil
	f.Differs, f.Value = decimal.Zero, decimal.Zero
	return f
}

// Settlement is a count that is settled at a branch, in a draft: the one that is posted,
// or one that only shows what posting will do.
type Settlement struct {
	Draft     *stock.Draft
	Branch    uint64
	Uncounted Uncounted
	Readings  map[RowKey]Reading
	line      int
}

// Figure works out what settling makes of a row, and adds it to the draft.
func (s *Settlement) Figure(row Row) (Figure, error) {
	s.line++
	f := Figure{Row: row}
	held := s.Draft.Holding()
	var err error
	if f.Row, err = row.read(s.Readings[row.Key], held.Items[row.Key.Variant].Name); err != nil {
		return f, err
	}
	if !row.Counted && s.Uncounted == Zero {
		f.Counted = true
	}
	if !f.Counted {
		return f, nil
	}
	f.Differs = f.Variance()
	if held.Items[f.Key.Variant].Tracking == stock.BySerial {
		f.Missing = Unscanned(held.NumbersAt(f.Key.Variant, s.Branch, f.Key.Condition), append(f.Came, f.Serials...))
		f.Differs = decimal.New(-int64(len(f.Missing)), 0)
	}
	if f.Differs.IsZero() {
		return f, nil
	}
	if f.Differs.IsNegative() {
		worth, err := s.Draft.Take(
			stock.Want{Line: s.line, Variant: f.Key.Variant, Branch: s.Branch, Condition: f.Key.Condition,
				Quantity: f.Differs.Abs(), Lot: f.Key.Lot, Serials: f.Missing, Unsold: true},
		)
		if err != nil {
			return f, err
		}
		f.Value = worth.Neg()
		s.Draft.Post(ledger.StockLoss, worth)
	} else {
		shelf, err := held.Where(s.Branch)
		if err != nil {
			return f, err
		}
		f.Value = held.Pools[f.Key.Variant].Worth(f.Differs)
		key := stock.Key{Variant: f.Key.Variant, Shelf: shelf, Lot: f.Key.Lot, Condition: f.Key.Condition}
		if err := s.Draft.Restore(s.line, key, f.Differs, f.Value, nil); err != nil {
			return f, err
		}
		s.Draft.Post(ledger.StockGain, f.Value.Neg())
	}
	s.Draft.Post(ledger.Stock, f.Value)
	return f, nil
}
