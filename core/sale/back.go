package sale

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/money"
	"itemrack/core/serial"
	"itemrack/core/stock"
	"itemrack/core/unit"
)

// SoldLine is a line of a sale with what has come back of it. Out are the lots that it
// took and that are still out, in the order in which they went.
type SoldLine struct {
	Sold
	ID      uint64
	Line    int // of the sale, from 1
	Variant uint64
	Unit    unit.Unit
	Bundle  bool
	Serials []string
	Came    []string // serial numbers that came back
	Parts   []TakenPart
	Out     []LotOut
}

// LotOut is how much of a lot of a variant is still out.
type LotOut struct {
	Variant  uint64
	Lot      uint64
	Quantity decimal.Decimal
}

// Back is what comes back of a line: the quantity and serial numbers as they were typed,
// and the condition it goes into, empty for To look over.
type Back struct {
	Line      int
	Quantity  string
	Condition string
	Serials   string
}

// BackLine is what came back of a line.
type BackLine struct {
	Refund
	SoldLine  uint64
	Condition stock.Condition
	Serials   []string
}

// Returning is a return while it is worked out: onto a shelf, on a day, in a draft.
type Returning struct {
	Number string // of the sale
	Lines  []SoldLine
	Draft  *stock.Draft
	Shelf  uint64
	Day    time.Time
	Minor  money.Minor
	Rows   []BackLine
	Sum    Refund
}

// Take takes something back: it goes into stock at the cost at which it went out. A line
// without a quantity is left out.
func (r *Returning) Take(in Back) error {
	if strings.TrimSpace(in.Quantity) == "" {
		return nil
	}
	at := slices.IndexFunc(r.Lines, func(l SoldLine) bool { return l.Line == in.Line })
	if at < 0 {
		return fault.Field("line", in.Line, fmt.Sprintf("1 to %d", len(r.Lines)), "Sale %s has no line %d.", r.Number,
			in.Line)
	}
	line := &r.Lines[at]
	q, err := line.Unit.Parse("quantity", in.Quantity)
	if err != nil || q.IsZero() {
		return err
	}
	back, err := line.TakeBack(q)
	if err != nil {
		return err
	}
	condition := stock.Condition(in.Condition)
	if condition == "" {
		condition = stock.ToLookOver
	}
	if err := stock.CheckCondition(condition); err != nil {
		return err
	}
	numbers, err := line.numbers(in.Serials, q)
	if err != nil {
		return err
	}
	switch {
	case len(line.Parts) > 0:
		err = r.restoreParts(line, condition, q, back.Cost, numbers)
	case r.Draft.Holding().Items[line.Variant].Tracking != stock.NotStocked && !line.Bundle:
		err = r.restore(line, line.Variant, condition, q, back.Cost, numbers)
	}
	if err != nil {
		return err
	}
	line.Back, line.Refunded = line.Back.Add(q), line.Refunded.Add(back.Amount)
	line.TaxBack, line.CostReturned = line.TaxBack.Add(back.Tax), line.CostReturned.Add(back.Cost)
	line.Came = append(line.Came, numbers...)
	r.Rows = append(r.Rows, BackLine{back, line.ID, condition, numbers})
	r.Sum.Amount, r.Sum.Tax, r.Sum.Cost = r.Sum.Amount.Add(back.Amount), r.Sum.Tax.Add(
		back.Tax), r.Sum.Cost.Add(back.Cost)
	return nil
}

// numbers are the serial numbers that come back: those given, which must have been sold
// on the line, or all that are out where so many come back.
func (l *SoldLine) numbers(given string, q decimal.Decimal) ([]string, error) {
	if len(l.Serials) == 0 {
		return nil, nil
	}
	out := slices.DeleteFunc(slices.Clone(l.Serials), func(n string) bool { return slices.Contains(l.Came, n) })
	numbers, err := serial.ReadList(given)
	if err != nil {
		return nil, err
	}
	if len(numbers) == 0 && (q.Equal(decimal.New(int64(len(out)), 0)) || q.Equal(l.Quantity.Sub(l.Back))) {
		numbers = out
	}
	for _, n := range numbers {
		if !slices.Contains(out, n) {
			return nil, fault.Refuse("serials", n, strings.Join(out, ", "),
				"No. %s was not sold on this line, or is back already.", n)
		}
	}
	return numbers, nil
}

// restoreParts puts what a bundle held back into stock, the cost shared over its parts
// as it went out.
func (r *Returning) restoreParts(line *SoldLine, condition stock.Condition, q, cost decimal.Decimal,
	numbers []string) error {
	weights := make([]decimal.Decimal, len(line.Parts))
	for i, p := range line.Parts {
		weights[i] = p.Cost
	}
	for i, share := range r.Minor.Split(cost, weights) {
		p := line.Parts[i]
		own := slices.DeleteFunc(slices.Clone(numbers), func(n string) bool { return !slices.Contains(p.Serials, n) })
		if err := r.restore(line, p.Variant, condition, p.Quantity.Mul(q).DivRound(line.Quantity, 3), share,
			own); err != nil {
			return err
		}
	}
	return nil
}

// restore puts goods back into stock: lots as they went out, one after another. A lot
// that has expired can't go back for sale.
func (r *Returning) restore(line *SoldLine, variant uint64, condition stock.Condition, q, cost decimal.Decimal,
	numbers []string) error {
	held := r.Draft.Holding()
	key := stock.Key{Variant: variant, Shelf: r.Shelf, Condition: condition}
	if held.Items[variant].Tracking != stock.ByLot {
		return r.Draft.Restore(line.Line, key, q, cost, numbers)
	}
	done, given := decimal.Zero, decimal.Zero
	for i := range line.Out {
		out := &line.Out[i]
		part := decimal.Min(out.Quantity, q.Sub(done))
		if out.Variant != variant || !part.IsPositive() {
			continue
		}
		lot := held.Lots[out.Lot]
		if err := stock.Sellable(lot, condition, r.Day); err != nil {
			return err
		}
		value := r.Minor.Part(cost, given, done, part, q)
		done, given = done.Add(part), given.Add(value)
		out.Quantity = out.Quantity.Sub(part)
		key.Lot = lot.ID
		if err := r.Draft.Restore(line.Line, key, part, value, nil); err != nil {
			return err
		}
	}
	return nil
}

// Pay splits the refund as the sale was paid, to the card first and never more than is
// left on it, and posts the return. A return of nothing is refused.
func (r *Returning) Pay(leftOnCard decimal.Decimal) (cash, card decimal.Decimal, err error) {
	if len(r.Rows) == 0 {
		return cash, card, fault.Field("lines", "", "a quantity on at least one line",
			"Say how many of what came back.")
	}
	card = decimal.Max(decimal.Zero, decimal.Min(r.Sum.Amount, leftOnCard))
	cash = r.Sum.Amount.Sub(card)
	r.Draft.Post(ledger.Income, r.Sum.Amount.Sub(r.Sum.Tax))
	r.Draft.Post(ledger.TaxOut, r.Sum.Tax)
	r.Draft.Post(ledger.Cash, cash.Neg())
	r.Draft.Post(ledger.Card, card.Neg())
	r.Draft.Post(ledger.Stock, r.Sum.Cost)
	r.Draft.Post(ledger.CostOfSales, r.Sum.Cost.Neg())
	return cash, card, nil
}
