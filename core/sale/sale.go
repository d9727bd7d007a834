// Package sale computes baskets, payments, returns and drawers. Its main rule:
// what a line was paid, taxed and cost is fixed when it is sold; a return gives
// back parts of exactly those figures, which add up to them.
package sale

import (
	"sort"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/tax"
)

// Line is one line of a basket. Price is of one of what Quantity counts, with tax
// unless Untaxed; Percent is the tax.
type Line struct {
	Quantity decimal.Decimal
	Price    decimal.Decimal
	Percent  decimal.Decimal
	Untaxed  bool
}

// amount is quantity × price, rounded.
func (l Line) amount() decimal.Decimal { return money.Round(l.Quantity.Mul(l.Price)) }

// Total is what the customer pays for the line: quantity × price, rounded, with
// the tax that is not in it yet.
func (l Line) Total() decimal.Decimal { return tax.Basis(!l.Untaxed).Gross(l.amount(), l.Percent) }

// Tax is the tax in the line's total, rounded per line.
func (l Line) Tax() decimal.Decimal { return tax.Basis(!l.Untaxed).Tax(l.amount(), l.Percent) }

// ByRate is what a receipt holds at one tax rate.
type ByRate struct {
	Percent decimal.Decimal `json:"percent"`
	Gross   decimal.Decimal `json:"gross"`
	Tax     decimal.Decimal `json:"tax"`
}

// Totals is what a basket comes to.
type Totals struct {
	Gross decimal.Decimal `json:"gross"`
	Tax   decimal.Decimal `json:"tax"`
	Units decimal.Decimal `json:"units"`
	Rates []ByRate        `json:"rates"`
}

// Sum adds lines up; rates stand from the highest to the lowest.
func Sum(lines []Line) Totals {
	t := Totals{Rates: []ByRate{}}
	for _, l := range lines {
		t.add(l.Percent, l.Total(), l.Tax())
		t.Units = t.Units.Add(l.Quantity)
	}
	return t
}

func (t *Totals) add(percent, gross, included decimal.Decimal) {
	t.Gross, t.Tax = t.Gross.Add(gross), t.Tax.Add(included)
	for i := range t.Rates {
		if t.Rates[i].Percent.Equal(percent) {
			t.Rates[i].Gross = t.Rates[i].Gross.Add(gross)
			t.Rates[i].Tax = t.Rates[i].Tax.Add(included)
			return
		}
	}
	t.Rates = append(t.Rates, ByRate{percent, gross, included})
	sort.Slice(t.Rates, func(a, b int) bool { return t.Rates[a].Percent.GreaterThan(t.Rates[b].Percent) })
}

// Payment is how a basket is paid: Handed is the cash the customer gives, Card
// what the terminal takes. Change is what goes back out of the drawer.
type Payment struct {
	Handed decimal.Decimal
	Card   decimal.Decimal
	Change decimal.Decimal
}

// Cash is the cash that stays in the drawer.
func (p Payment) Cash() decimal.Decimal { return p.Handed.Sub(p.Change) }

// Pay works out the change. Card can't be more than the total; cash must cover
// the rest; cash with nothing left to pay is refused.
func Pay(total, handed, card decimal.Decimal) (Payment, error) {
	if err := money.Check("cash", handed, money.Places); err != nil {
		return Payment{}, err
	}
	if err := money.Check("card", card, money.Places); err != nil {
		return Payment{}, err
	}
	if card.GreaterThan(total) {
		return Payment{}, fault.Field("card", card, "no more than "+total.StringFixed(2), "A card can't pay %s for a total of %s.", card.StringFixed(2), total.StringFixed(2))
	}
	rest := total.Sub(card)
	if handed.LessThan(rest) {
		return Payment{}, fault.Field("cash", handed, rest.StringFixed(2)+" or more", "%s is %s short of %s.", handed.StringFixed(2), rest.Sub(handed).StringFixed(2), rest.StringFixed(2))
	}
	return Payment{Handed: handed, Card: card, Change: handed.Sub(rest)}, nil
}

// Sold is a line of a sale with what has come back of it so far.
type Sold struct {
	Quantity, Paid, Tax, Cost             decimal.Decimal
	Back, Refunded, TaxBack, CostReturned decimal.Decimal
}

// Refund is what taking back some units of a line gives.
type Refund struct {
	Quantity, Amount, Tax, Cost decimal.Decimal
}

// TakeBack works out the refund for q more units of a sold line: of each figure
// the part round(figure × (back before + q) ÷ sold) − given back before. More
// than is left to take back is refused.
func (s Sold) TakeBack(q decimal.Decimal) (Refund, error) {
	left := s.Quantity.Sub(s.Back)
	if !q.IsPositive() || q.GreaterThan(left) {
		if left.IsZero() {
			return Refund{}, fault.Refuse("quantity", q, "0", "All %s of this line have come back already.", s.Quantity)
		}
		return Refund{}, fault.Refuse("quantity", q, "1 to "+left.String(), "%s can't come back: %s sold, %s back already.", q, s.Quantity, s.Back)
	}
	return Refund{
		Quantity: q,
		Amount:   money.Part(s.Paid, s.Refunded, s.Back, q, s.Quantity),
		Tax:      money.Part(s.Tax, s.TaxBack, s.Back, q, s.Quantity),
		Cost:     money.Part(s.Cost, s.CostReturned, s.Back, q, s.Quantity),
	}, nil
}

// Denomination is a coin or note and how many of it were counted.
type Denomination struct {
	Value decimal.Decimal `json:"value"`
	Count int64           `json:"count"`
}

// Denominations of the pound that a closing count asks for, largest first.
var Denominations = []decimal.Decimal{
	decimal.New(50, 0), decimal.New(20, 0), decimal.New(10, 0), decimal.New(5, 0), decimal.New(2, 0), decimal.New(1, 0),
	decimal.New(50, -2), decimal.New(20, -2), decimal.New(10, -2), decimal.New(5, -2), decimal.New(2, -2), decimal.New(1, -2),
}

// CountCash adds up what was counted in a drawer.
func CountCash(counted []Denomination) (decimal.Decimal, error) {
	sum := decimal.Zero
	for _, d := range counted {
		if d.Count < 0 || d.Count > 100000 {
			return sum, fault.Field("counted", d.Count, "0 to 100,000", "%d pieces of %s can't be in a drawer.", d.Count, d.Value.StringFixed(2))
		}
		known := false
		for _, v := range Denominations {
			known = known || v.Equal(d.Value)
		}
		if !known {
			return sum, fault.Field("counted", d.Value, "a coin or note", "There is no coin or note of %s.", d.Value)
		}
		sum = sum.Add(d.Value.Mul(decimal.New(d.Count, 0)))
	}
	return sum, nil
}

// Drawer is what went through a drawer from its float to its cash-up.
type Drawer struct {
	Float    decimal.Decimal
	CashIn   decimal.Decimal // cash kept from sales
	CashBack decimal.Decimal // cash refunded
}

// ShouldBe is what should be in the drawer.
func (d Drawer) ShouldBe() decimal.Decimal { return d.Float.Add(d.CashIn).Sub(d.CashBack) }

// Difference is counted less expected: over when positive, short when negative.
func (d Drawer) Difference(counted decimal.Decimal) decimal.Decimal { return counted.Sub(d.ShouldBe()) }
