package sale

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/serial"
	"itemrack/core/stock"
)

// Selling is a line of a basket that is ready to be sold.
type Selling struct {
	Sellable
	BasketLine
	Sum   Line
	Units decimal.Decimal // base units
	Pack  Pack
	Parts []Part // of a bundle
}

// Ready makes the lines of a basket ready to be sold. An empty basket is refused.
func Ready(lines []BasketLine, found map[uint64]Sellable, parts map[uint64][]Part) ([]Selling, error) {
	if len(lines) == 0 {
		return nil, fault.Field("lines", "", "at least one line", "The basket is empty.")
	}
	list := make([]Selling, len(lines))
	for i, l := range lines {
		v, ok := found[l.Variant]
		if !ok {
			return nil, fault.Missing("variant_id", l.Variant, "There is no variant %d.", l.Variant)
		}
		units, pack, err := v.Units(l)
		if err != nil {
			return nil, err
		}
		list[i] = Selling{Sellable: v, BasketLine: l, Sum: v.Line(l), Units: units, Pack: pack, Parts: parts[v.ID]}
	}
	return list, nil
}

// Sums are what lines come to.
func Sums(lines []Selling) Totals {
	list := make([]Line, len(lines))
	for i, l := range lines {
		list[i] = l.Sum
	}
	return Sum(list)
}

// Moved lists what selling lines takes from stock: variants, and the serial numbers.
func Moved(lines []Selling) (variants []uint64, serials []string) {
	for _, l := range lines {
		if l.Stocked() {
			variants = append(variants, l.Sellable.ID)
		}
		for _, p := range l.Parts {
			if p.Tracking != stock.NotStocked {
				variants = append(variants, p.Variant)
			}
		}
		serials = append(serials, serial.Kept(l.Serial)...)
	}
	return variants, serials
}

// Taken is what a line that is sold took from stock, and what that was worth. A bundle
// took Parts: its parts, or kits that were made up.
type Taken struct {
	Cost  decimal.Decimal
	Parts []TakenPart
}

// TakenPart is a part of a bundle that was sold.
type TakenPart struct {
	Variant  uint64
	Quantity decimal.Decimal
	Cost     decimal.Decimal
	Serials  []string
}

// Sell takes lines out of stock at a branch on a day, and posts the sale: what was paid,
// its tax, the income, and what the goods had cost.
func Sell(draft *stock.Draft, branch uint64, day time.Time, lines []Selling, totals Totals,
	paid Payment) ([]Taken, error) {
	taken := make([]Taken, len(lines))
	cost := decimal.Zero
	needs := NewNeeds(draft.Holding(), branch, day)
	for _, l := range lines { // what all of them need is said before any is taken
		if _, err := needs.Line(l.Sellable, l.Lot, l.Units, l.Parts); err != nil {
			return nil, err
		}
	}
	for i, l := range lines {
		want := stock.Want{Line: i + 1, Branch: branch, Condition: stock.ForSale, Day: day}
		var err error
		switch {
		case l.Bundle:
			taken[i], err = takeParts(draft, want, l)
		case l.Tracking != stock.NotStocked:
			want.Variant, want.Quantity, want.Serials = l.Sellable.ID, l.Units, serial.Kept(l.Serial)
			want.Lot = l.Lot
			taken[i].Cost, err = draft.Take(want)
		}
		if err != nil {
			return nil, err
		}
		cost = cost.Add(taken[i].Cost)
	}
	draft.Post(ledger.Cash, paid.Cash())
	draft.Post(ledger.Card, paid.Card)
	draft.Post(ledger.TaxOut, totals.Tax.Neg())
	draft.Post(ledger.Income, totals.Tax.Sub(totals.Gross))
	draft.Post(ledger.CostOfSales, cost)
	draft.Post(ledger.Stock, cost.Neg())
	return taken, nil
}

// takeParts takes a bundle out of stock: kits that are made up, or else what it holds.
func takeParts(draft *stock.Draft, want stock.Want, l Selling) (Taken, error) {
	if l.Units.LessThanOrEqual(draft.Holding().OnHand(l.Sellable.ID, want.Branch, stock.ForSale)) {
		want.Variant, want.Quantity = l.Sellable.ID, l.Units
		worth, err := draft.Take(want)
		return Taken{worth, []TakenPart{{Variant: want.Variant, Quantity: l.Units, Cost: worth}}}, err
	}
	numbers := serial.Kept(l.Serial)
	var taken Taken
	for _, p := range l.Parts {
		if p.Tracking == stock.NotStocked {
			continue
		}
		want.Variant, want.Quantity, want.Serials = p.Variant, p.Quantity.Mul(l.Units), nil
		if p.Tracking == stock.BySerial {
			want.Serials = draft.Holding().Known(p.Variant, numbers)
		}
		worth, err := draft.Take(want)
		if err != nil {
			return taken, err
		}
		taken.Cost = taken.Cost.Add(worth)
		taken.Parts = append(taken.Parts, TakenPart{p.Variant, want.Quantity, worth, want.Serials})
	}
	return taken, nil
}

// CheckVoid refuses to make a sale void whose drawer is cashed up, or of which some came
// back.
func CheckVoid(number string, cashedUp, cameBack bool) error {
	if cashedUp {
		return fault.Refuse("document", number, "a sale of an open drawer",
			"The drawer of sale %s is cashed up; take the goods back instead.", number)
	}
	if cameBack {
		return fault.Refuse("document", number, "a sale of which nothing came back",
			"Some of sale %s came back already; take the rest back instead.", number)
	}
	return nil
}

// CashUp posts what a drawer that is cashed up is over or short of.
func CashUp(draft *stock.Draft, difference decimal.Decimal) {
	draft.Post(ledger.Cash, difference)
	draft.Post(ledger.CashOver, difference.Neg())
}
