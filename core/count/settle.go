package count

import (
	"slices"

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
		return fault.Field("uncounted", u, "leave them as they are, or take them as zero",
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
	f.Columns, f.Apart = nil, false
	f.Expected, f.First, f.Moved, f.Missing = decimal.Zero, decimal.Zero, false, nil
	f.Differs, f.Value = decimal.Zero, decimal.Zero
	return f
}

// Settlement is a count that is settled at a branch, in a draft: the one that is posted,
// or one that only shows what posting will do.
type Settlement struct {
	Draft     *stock.Draft
	Branch    uint64
	Shelves   []uint64 // that were counted; none for all of the branch
	Uncounted Uncounted
	Readings  map[RowKey]Reading
	MixUps    map[RowKey]bool // rows that are one half of a mix-up
	line      int
}

// Figure works out what settling makes of a row, and adds it to the draft.
func (s *Settlement) Figure(row Row) (Figure, error) {
	s.line++
	f := Figure{Row: row}
	held := s.Draft.Holding()
	var err error
	if row.Apart {
		if s.Readings[row.Key] != NotYet {
			return f, fault.Field("choices", held.Items[row.Key.Variant].Name, "a recount, a choice, or to leave it",
				"%s: its counters differ.",
				held.Items[row.Key.Variant].Name)
		}
		f.Counted = false
		return f, nil
	}
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
		f.Missing = Unscanned(held.NumbersOn(f.Key.Variant, s.Branch, s.Shelves, f.Key.Condition),
			append(f.Came, f.Serials...))
		f.Differs = decimal.New(-int64(len(f.Missing)), 0)
	}
	if f.Differs.IsZero() {
		return f, nil
	}
	if f.Differs.IsNegative() {
		worth, err := s.takeOut(f)
		if err != nil {
			return f, err
		}
		f.Value = worth.Neg()
		s.Draft.Post(ledger.StockLoss, worth)
	} else {
		shelf, err := s.shelf(held)
		if err != nil {
			return f, err
		}
		f.Value = held.Pools[f.Key.Variant].Worth(f.Differs)
		key := stock.Key{Variant: f.Key.Variant, Shelf: shelf, Lot: f.Key.Lot, Condition: f.Key.Condition}
		if err := s.Draft.Restore(s.line, key, f.Differs, f.Value, nil); err != nil {
			return f, err
		}
		account := ledger.StockGain
		if s.MixUps[f.Key] { // against what the other half lost
			account = ledger.StockLoss
		}
		s.Draft.Post(account, f.Value.Neg())
	}
	s.Draft.Post(ledger.Stock, f.Value)
	return f, nil
}

// takeOut takes what is missing out of the shelves that were counted, one after another, and says what it
// was worth. What moved to another shelf of the branch since is taken there.
func (s *Settlement) takeOut(f Figure) (decimal.Decimal, error) {
	want := stock.Want{Line: s.line, Variant: f.Key.Variant, Branch: s.Branch, Condition: f.Key.Condition,
		Quantity: f.Differs.Abs(), Lot: f.Key.Lot, Serials: f.Missing, Unsold: true}
	if len(f.Missing) > 0 || len(s.Shelves) == 0 {
		return s.Draft.Take(want)
	}
	worth := decimal.Zero
	for _, shelf := range append(slices.Clone(s.Shelves), 0) {
		part := want
		part.Shelf = shelf
		part.Quantity = decimal.Min(want.Quantity, s.Draft.Holding().OnShelfOf(f.Key.Variant, shelf, s.Branch, f.Key.Lot,
			f.Key.Condition))
		if shelf == 0 {
			part.Quantity = want.Quantity
		}
		if !part.Quantity.IsPositive() {
			continue
		}
		value, err := s.Draft.Take(part)
		if err != nil {
			return worth, err
		}
		worth, want.Quantity = worth.Add(value), want.Quantity.Sub(part.Quantity)
	}
	return worth, nil
}

// shelf is where what is found goes: the first one that was counted, else the default one.
func (s *Settlement) shelf(held stock.Holding) (uint64, error) {
	if len(s.Shelves) > 0 && !held.Shelves[s.Shelves[0]].Closed {
		return s.Shelves[0], nil
	}
	return held.Where(s.Branch)
}

// Beyond reports whether what a count comes to, taken row by row, is more than the shop's tolerance lets
// everybody settle who may settle; zero lets all.
func Beyond(figures []Figure, tolerance decimal.Decimal) (decimal.Decimal, bool) {
	sum := decimal.Zero
	for _, f := range figures {
		sum = sum.Add(f.Value.Abs())
	}
	return sum, Above(sum, tolerance)
}

// Above reports whether a sum is more than the shop's tolerance, which zero is not.
func Above(sum, tolerance decimal.Decimal) bool {
	return tolerance.IsPositive() && sum.GreaterThan(tolerance)
}
