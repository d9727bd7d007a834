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
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
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
	Gone    []string // serial numbers that are not out by this sale any more, as they came in or went out otherwise since
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
// and the condition it goes into, empty for To look over. Of several lots the one sold last comes
// back first, unless Lot says another. Amount without a quantity gives money back alone: the
// customer keeps the goods.
type Back struct {
	Line      int
	Quantity  string
	Condition string
	Serials   string
	Lot       uint64
	Amount    string
}

// BackLine is what came back of a line.
type BackLine struct {
	Refund
	SoldLine  uint64 // 0 without a receipt
	Variant   uint64
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
	if strings.TrimSpace(in.Quantity) == "" && strings.TrimSpace(in.Amount) == "" {
		return nil
	}
	at := slices.IndexFunc(r.Lines, func(l SoldLine) bool { return l.Line == in.Line })
	if at < 0 {
		return fault.Field("line", in.Line, fmt.Sprintf("1 to %d", len(r.Lines)), "Sale %s has no line %d.", r.Number,
			in.Line)
	}
	line := &r.Lines[at]
	if strings.TrimSpace(in.Quantity) == "" {
		return r.lower(line, in.Amount)
	}
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
	if err := r.Draft.Holding().Into(condition); err != nil {
		return err
	}
	if in.Lot != 0 && !slices.ContainsFunc(line.Out, func(o LotOut) bool { return o.Lot == in.Lot }) {
		return fault.Field("lot_id", in.Lot, "a lot of this line, or none", "The sale took nothing of that lot.")
	}
	numbers, err := line.numbers(in.Serials, q)
	if err != nil {
		return err
	}
	switch {
	case len(line.Parts) > 0:
		err = r.restoreParts(line, condition, q, back.Cost, numbers, in.Lot)
	case r.Draft.Holding().Items[line.Variant].Tracking != stock.NotStocked && !line.Bundle:
		err = r.restore(line, line.Variant, condition, q, back.Cost, numbers, in.Lot)
	}
	if err != nil {
		return err
	}
	line.Back, line.Refunded = line.Back.Add(q), line.Refunded.Add(back.Amount)
	line.TaxBack, line.CostReturned = line.TaxBack.Add(back.Tax), line.CostReturned.Add(back.Cost)
	line.Came = append(line.Came, numbers...)
	r.Rows = append(r.Rows, BackLine{back, line.ID, line.Variant, condition, numbers})
	r.Sum.Amount, r.Sum.Tax, r.Sum.Cost = r.Sum.Amount.Add(back.Amount), r.Sum.Tax.Add(
		back.Tax), r.Sum.Cost.Add(back.Cost)
	return nil
}

// lower gives money back for a line whose goods the customer keeps.
func (r *Returning) lower(line *SoldLine, typed string) error {
	amount, err := r.Minor.Parse("amount", typed)
	if err != nil {
		return err
	}
	back, err := line.Lower(amount)
	if err != nil {
		return err
	}
	line.Refunded, line.TaxBack = line.Refunded.Add(back.Amount), line.TaxBack.Add(back.Tax)
	line.Lowered, line.TaxLowered = line.Lowered.Add(back.Amount), line.TaxLowered.Add(back.Tax)
	r.Rows = append(r.Rows, BackLine{Refund: back, SoldLine: line.ID, Variant: line.Variant})
	r.Sum.Amount, r.Sum.Tax = r.Sum.Amount.Add(back.Amount), r.Sum.Tax.Add(back.Tax)
	return nil
}

// numbers are the serial numbers that come back: those given, which must have been sold
// on the line, or all that are out where so many come back.
func (l *SoldLine) numbers(given string, q decimal.Decimal) ([]string, error) {
	if len(l.Serials) == 0 {
		return nil, nil
	}
	out := slices.DeleteFunc(slices.Clone(l.Serials), func(n string) bool {
		return slices.Contains(l.Came, n) || slices.Contains(l.Gone, n)
	})
	numbers, err := serial.ReadList(given)
	if err != nil {
		return nil, err
	}
	if len(numbers) == 0 && (q.Equal(decimal.New(int64(len(out)), 0)) || q.Equal(l.Quantity.Sub(l.Back))) {
		numbers = out
	}
	for _, n := range numbers {
		if slices.Contains(l.Gone, n) {
			return nil, fault.Refuse("serials", n, "its last sale", "No. %s came back in another way since it was sold "+
				"here, or was sold anew: it comes back by its last sale.", n)
		}
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
	numbers []string, lot uint64) error {
	weights := make([]decimal.Decimal, len(line.Parts))
	for i, p := range line.Parts {
		weights[i] = p.Cost
	}
	for i, share := range r.Minor.Split(cost, weights) {
		p := line.Parts[i]
		own := slices.DeleteFunc(slices.Clone(numbers), func(n string) bool { return !slices.Contains(p.Serials, n) })
		if err := r.restore(line, p.Variant, condition, p.Quantity.Mul(q).DivRound(line.Quantity, 3), share,
			own, lot); err != nil {
			return err
		}
	}
	return nil
}

// restore puts goods back into stock: the lot that went out last first, or the one that is named.
// A lot that has expired can't go back for sale.
func (r *Returning) restore(line *SoldLine, variant uint64, condition stock.Condition, q, cost decimal.Decimal,
	numbers []string, named uint64) error {
	held := r.Draft.Holding()
	key := stock.Key{Variant: variant, Shelf: r.Shelf, Condition: condition}
	if held.Items[variant].Tracking != stock.ByLot {
		return r.Draft.Restore(line.Line, key, q, cost, numbers)
	}
	done, given := decimal.Zero, decimal.Zero
	for i := range slices.Backward(line.Out) {
		out := &line.Out[i]
		part := decimal.Min(out.Quantity, q.Sub(done))
		if out.Variant != variant || !part.IsPositive() || named != 0 && out.Lot != named && line.hasLot(variant, named) {
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
	if done.LessThan(q) {
		return fault.Refuse("lot_id", held.Lots[named].Number, "no more than went out of it",
			"Only %s of lot %s went out and are not back.", done, held.Lots[named].Number)
	}
	return nil
}

// hasLot reports whether a lot of a variant went out.
func (l *SoldLine) hasLot(variant, lot uint64) bool {
	return slices.ContainsFunc(l.Out, func(o LotOut) bool { return o.Variant == variant && o.Lot == lot })
}

// Wants is what of a return wants the yes of somebody who may: what has no receipt, and money for goods that the
// customer keeps.
func (r *Returning) Wants(currency money.Currency) []Wanted {
	unsold, alone := decimal.Zero, decimal.Zero
	for _, row := range r.Rows {
		switch {
		case row.SoldLine == 0:
			unsold = unsold.Add(row.Amount)
		case row.Quantity.IsZero():
			alone = alone.Add(row.Amount)
		}
	}
	var list []Wanted
	if r.Number == "" && len(r.Rows) > 0 {
		list = append(list, Wanted{staff.DeedNoReceipt, "Back without a receipt for " + currency.Format(unsold)})
	}
	if alone.IsPositive() {
		list = append(list, Wanted{staff.DeedMoneyAlone, currency.Format(alone) +
			" back, and the goods stay with the customer"})
	}
	return list
}

// Post posts what came back, and how it is paid back. A return of nothing is refused.
func (r *Returning) Post(back Payment) error {
	if len(r.Rows) == 0 {
		return fault.Field("lines", "", "a quantity on at least one line", "Say how many of what came back.")
	}
	back.Post(r.Draft)
	r.Draft.Post(ledger.Income, r.Sum.Amount.Sub(r.Sum.Tax))
	r.Draft.Post(ledger.TaxOut, r.Sum.Tax)
	r.Draft.Post(ledger.Stock, r.Sum.Cost)
	r.Draft.Post(ledger.CostOfSales, r.Sum.Cost.Neg())
	return nil
}

// Unsold is what comes back without a receipt, or was never sold here: the quantity and serial
// number as they were typed. Price is what each is given back for, empty for the lowest of the
// last 90 days; Cost is what each is worth to the shop, empty for the last cost.
type Unsold struct {
	Quantity  string `json:"quantity"`
	Price     string `json:"price"`
	Cost      string `json:"cost"`
	Serial    string `json:"serial"`
	Condition string `json:"condition"`
}

// LowestDays is for how many days back the lowest price is looked for that a return without a
// receipt gives.
const LowestDays = 90

// TakeUnsold takes something back that no receipt tells of: it is paid back at the price said, at
// the tax of today, and costs the last cost, else what is said. An unknown serial number becomes
// a unit; one that is out by a sale comes back by that, which sold names. Lowest is the lowest price of the last 90
// days, nil where there was none.
func (r *Returning) TakeUnsold(v Sellable, in Unsold, lowest *decimal.Decimal, sold string) error {
	q, err := v.Quantity(0, text.Or(in.Quantity, "1"))
	if err != nil {
		return err
	}
	if !q.IsPositive() {
		return fault.Field("quantity", in.Quantity, "1 or more", "Say how many came back.")
	}
	condition := stock.Condition(in.Condition)
	if condition == "" {
		condition = stock.ToLookOver
	}
	if err := r.Draft.Holding().Into(condition); err != nil {
		return err
	}
	var price decimal.Decimal
	switch {
	case strings.TrimSpace(in.Price) != "":
		if price, err = r.Minor.Parse("price", in.Price); err != nil {
			return err
		}
	case lowest != nil:
		price = *lowest
	default:
		return fault.Field("price", "", "what each is given back for", "%s has no price of the last %d days; say one.",
			v.FullName(), LowestDays)
	}
	if price.IsNegative() {
		return fault.Field("price", in.Price, "0 or more", "Nobody pays for bringing something back.")
	}
	if v.Bundle || v.Tracking == stock.ByLot {
		return fault.Refuse("variant_id", v.FullName(), "its receipt, or its parts one by one",
			"%s can't come back without its receipt: nobody knows which %s it is.", v.FullName(),
			map[bool]string{true: "parts", false: "lot"}[v.Bundle])
	}
	sum := v.Line(BasketLine{Variant: v.ID, Quantity: q, Price: price})
	back := Refund{Quantity: q, Amount: sum.Total(), Tax: sum.Tax()}
	var numbers []string
	if v.Tracking != stock.NotStocked {
		each := v.LastCost
		if strings.TrimSpace(in.Cost) != "" {
			if each, err = money.ParseCost("cost", in.Cost); err != nil {
				return err
			}
		}
		if each.IsNegative() {
			return fault.Field("cost", in.Cost, "0 or more", "Nothing costs less than nothing.")
		}
		back.Cost = r.Minor.Round(each.Mul(q))
		if numbers, err = serial.ReadList(in.Serial); err != nil {
			return err
		}
		for _, n := range numbers {
			if sold != "" && r.Draft.Holding().Units[stock.UnitKey{Variant: v.ID, Serial: n}].State == serial.Sold {
				return fault.Refuse("serials", n, "to take it back by "+sold, "%s No. %s was sold on %s.", v.FullName(), n, sold)
			}
		}
		key := stock.Key{Variant: v.ID, Shelf: r.Shelf, Condition: condition}
		line := len(r.Rows) + 1
		if err := r.Draft.Restore(line, key, q, back.Cost, numbers); err != nil {
			return err
		}
	}
	r.Rows = append(r.Rows, BackLine{Refund: back, Variant: v.ID, Condition: condition, Serials: numbers})
	r.Sum.Amount, r.Sum.Tax, r.Sum.Cost = r.Sum.Amount.Add(back.Amount), r.Sum.Tax.Add(back.Tax),
		r.Sum.Cost.Add(back.Cost)
	return nil
}
