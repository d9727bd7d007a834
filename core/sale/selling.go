package sale

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/reason"
	"itemrack/core/serial"
	"itemrack/core/stock"
)

// Selling is a line of a basket that is ready to be sold.
type Selling struct {
	Sellable
	BasketLine
	Sum     Line
	Own     decimal.Decimal // given off this line for itself
	Carried decimal.Decimal // its share of what was given off baskets that it was on before
	Share   decimal.Decimal // its share of what is given off the basket
	Units   decimal.Decimal // base units
	Pack    Pack
	Parts   []Part // of a bundle
}

// Ready makes the lines of a basket ready to be sold, with what is given off each.
func Ready(b Basket, found map[uint64]Sellable, parts map[uint64][]Part) ([]Selling, error) {
	list := make([]Selling, len(b.Lines))
	for i, l := range b.Lines {
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
	_, off := b.discounted(found)
	for i, o := range off {
		list[i].Own, list[i].Carried, list[i].Share, list[i].Sum.Off = o.own, o.carried, o.split, o.all()
	}
	return list, nil
}

// CheckSome refuses a basket on which there is nothing at all.
func CheckSome(lines int, backs int, vouchers int) error {
	if lines+backs+vouchers == 0 {
		return fault.Field("lines", "", "at least one line", "The basket is empty.")
	}
	return nil
}

// UnderCost lists the lines that bring in less, without their tax, than what they took from stock had
// cost, by their full names: those on which something was agreed by hand, or all.
func UnderCost(lines []Selling, taken []Taken, all bool) []string {
	var names []string
	for i, l := range lines {
		byHand := l.ListPrice != nil || l.Sum.Off.IsPositive()
		if (all || byHand) && l.Sum.Net().LessThan(taken[i].Cost) {
			names = append(names, l.FullName())
		}
	}
	return names
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
	// PassedOver are the lots that would have been taken before the one that was chosen, in words.
	PassedOver string
}

// TakenPart is a part of a bundle that was sold.
type TakenPart struct {
	Variant  uint64
	Quantity decimal.Decimal
	Cost     decimal.Decimal
	Serials  []string
}

// Sell takes lines out of stock at a branch on a day, and posts the sale: how it was paid, its
// tax, the income, what was given off to the accounts of its reasons, the vouchers that are
// given, and what the goods had cost.
func Sell(draft *stock.Draft, branch uint64, day time.Time, b Basket, lines []Selling, paid Payment,
	reasons []reason.Reason) ([]Taken, error) {
	taken := make([]Taken, len(lines))
	cost := decimal.Zero
	needs := NewNeeds(draft.Holding(), branch, day)
	for _, l := range lines { // what all of them need is said before any is taken
		if _, err := needs.Line(l.Sellable, l.BasketLine, l.Units, l.Parts); err != nil {
			return nil, err
		}
	}
	for i, l := range lines {
		want := stock.Want{Line: i + 1, Branch: branch, Condition: l.From(), Day: day, Owed: l.Owed}
		passed := PassedOver(draft.Holding(), l.BasketLine, branch, day)
		var err error
		if l.Owed {
			if lines[i].Serial, err = standIn(draft.Holding(), l, branch); err != nil {
				return nil, err
			}
			l = lines[i]
		}
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
		taken[i].PassedOver = passed
		cost = cost.Add(taken[i].Cost)
	}
	paid.Post(draft)
	draft.Post(ledger.TaxOut, Sums(lines).Tax.Neg())
	for _, l := range lines {
		l.income(draft, b, reasons)
	}
	for _, v := range b.Vouchers {
		Give(draft, v)
	}
	draft.Post(ledger.CostOfSales, cost)
	draft.Post(ledger.Stock, cost.Neg())
	return taken, nil
}

// standIn is the number that stands in for one that is owed: the first that is for sale there.
func standIn(held stock.Holding, l Selling, branch uint64) (string, error) {
	numbers := held.NumbersAt(l.Sellable.ID, branch, l.From())
	if len(numbers) == 0 {
		return "", fault.Refuse("quantity", l.Units, "0", "%s: none is %s here.", l.FullName(), l.From())
	}
	return numbers[0], nil
}

// GiveNumber gives a sale the number that it owed: the unit that stood in comes back at what it had
// cost, and the one that was sold goes out at its own cost, which may be the same. It returns by how
// much that is dearer.
func GiveNumber(draft *stock.Draft, variant uint64, standIn, number string) (decimal.Decimal, error) {
	held := draft.Holding()
	in, known := held.Units[stock.UnitKey{Variant: variant, Serial: standIn}]
	if !known || in.State != serial.NumberOwed {
		return decimal.Zero, fault.Clash("serial", number, "a number that is owed", "That number was given already.")
	}
	if err := draft.Restore(1, in.Key, decimal.New(1, 0), in.Cost, []string{standIn}); err != nil {
		return decimal.Zero, err
	}
	out, known := draft.Holding().Units[stock.UnitKey{Variant: variant, Serial: number}]
	if !known {
		return decimal.Zero, fault.Refuse("serial", number, "a number that the book has", "The book has no %s No. %s.",
			held.Items[variant].Name, number)
	}
	worth, err := draft.Take(stock.Want{Line: 1, Variant: variant, Branch: held.Shelves[out.Key.Shelf].Branch,
		Condition: out.Key.Condition, Quantity: decimal.New(1, 0), Serials: []string{number}, Unsold: true})
	if err != nil {
		return decimal.Zero, err
	}
	dearer := worth.Sub(in.Cost)
	draft.Post(ledger.CostOfSales, dearer)
	draft.Post(ledger.Stock, dearer.Neg())
	return dearer, nil
}

// income posts what a line brings in as it is listed, and what it brings less to the accounts of
// the reasons why: for another price, for what was given off the line, and off the basket.
func (l Selling) income(draft *stock.Draft, b Basket, reasons []reason.Reason) {
	asked, own, carried := l.Sum, l.Sum, l.Sum
	asked.Off, own.Off, carried.Off = decimal.Zero, l.Own, l.Own.Add(l.Carried)
	at := asked
	if l.ListPrice != nil {
		at.Price = *l.ListPrice
	}
	net := at.Net()
	draft.Post(ledger.Income, net.Neg())
	for _, step := range []struct {
		to  Line
		why uint64
	}{{asked, l.Why}, {own, l.Off.Reason}, {carried, l.Shared.Reason}, {l.Sum, b.Off.Reason}} {
		if step.to.Price.Equal(at.Price) && step.to.Off.Equal(at.Off) {
			continue
		}
		then := step.to.Net()
		draft.Post(accountOf(reasons, step.why), net.Sub(then))
		at, net = step.to, then
	}
}

// accountOf is the account of a reason; less income where there is none.
func accountOf(reasons []reason.Reason, id uint64) ledger.Account {
	for _, r := range reasons {
		if r.ID == id && id != 0 {
			return r.Account
		}
	}
	return ledger.Income
}

// takeParts takes a bundle out of stock: kits that are made up, or else what it holds.
func takeParts(draft *stock.Draft, want stock.Want, l Selling) (Taken, error) {
	if l.Units.LessThanOrEqual(draft.Holding().OnHand(l.Sellable.ID, want.Branch, stock.ForSale)) {
		want.Variant, want.Quantity = l.Sellable.ID, l.Units
		worth, err := draft.Take(want)
		return Taken{Cost: worth, Parts: []TakenPart{{Variant: want.Variant, Quantity: l.Units, Cost: worth}}}, err
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

// CheckUnused refuses to make a sale void whose voucher was used meanwhile.
func CheckUnused(given, now Credit) error {
	if now.Balance.Equal(given.Balance) {
		return nil
	}
	return fault.Refuse("document", given.Code, "a sale whose vouchers were not used",
		"Of %s, which was given with it, some was used already; that goes first.", given.Code)
}

// CheckGiven refuses to make a sale void to which a serial number was given later, or for which
// something else came back.
func CheckGiven(number string, given, exchanged bool) error {
	if given {
		return fault.Refuse("document", number, "to take the goods back instead",
			"Sale %s was given a serial number later; take the goods back instead.", number)
	}
	if exchanged {
		return fault.Refuse("document", number, "to take the goods back instead",
			"Something came back for sale %s on the same basket; take the goods back instead.", number)
	}
	return nil
}

// CashUp posts what a drawer that is cashed up is over or short of.
func CashUp(draft *stock.Draft, difference decimal.Decimal) {
	draft.Post(ledger.Cash, difference)
	draft.Post(ledger.CashOver, difference.Neg())
}
