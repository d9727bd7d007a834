// Package sale computes baskets, payments, returns and drawers. Its main rule:
// what a line was paid, taxed and cost is fixed when it is sold; a return gives
// back parts of exactly those figures, which add up to them.
package sale

import (
	"slices"
	"sort"
	"strings"

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
	Minor    money.Minor
}

// amount is quantity × price, rounded.
func (l Line) amount() decimal.Decimal { return l.Minor.Round(l.Quantity.Mul(l.Price)) }

// Total is what the customer pays for the line: quantity × price, rounded, with
// the tax that is not in it yet.
func (l Line) Total() decimal.Decimal {
	return tax.Basis(!l.Untaxed).Gross(l.amount(), l.Percent, l.Minor)
}

// Tax is the tax in the line's total, rounded per line.
func (l Line) Tax() decimal.Decimal { return tax.Basis(!l.Untaxed).Tax(l.amount(), l.Percent, l.Minor) }

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
func Pay(total, handed, card decimal.Decimal, minor money.Minor) (Payment, error) {
	if err := minor.Check("cash", handed); err != nil {
		return Payment{}, err
	}
	if err := minor.Check("card", card); err != nil {
		return Payment{}, err
	}
	if card.GreaterThan(total) {
		return Payment{}, fault.Field("card", card, "no more than "+minor.Text(total),
			"A card can't pay %s for a total of %s.", minor.Text(card), minor.Text(total))
	}
	rest := total.Sub(card)
	if handed.LessThan(rest) {
		return Payment{}, fault.Field("cash", handed, minor.Text(rest)+" or more", "%s is %s short of %s.",
			minor.Text(handed), minor.Text(rest.Sub(handed)), minor.Text(rest))
	}
	return Payment{Handed: handed, Card: card, Change: handed.Sub(rest)}, nil
}

// Left is what is left of a total when a customer hands over cash: Change to give, or
// what is still Short; one of them stands.
type Left struct {
	Change *decimal.Decimal `json:"change,omitempty"`
	Short  *decimal.Decimal `json:"short,omitempty"`
}

// LeftOf works out the change of a total, or what the cash is short of it.
func LeftOf(total, handed decimal.Decimal) Left {
	rest := handed.Sub(total)
	if rest.IsNegative() {
		rest = rest.Neg()
		return Left{Short: &rest}
	}
	return Left{Change: &rest}
}

// CheckShown refuses a payment for another total than the one that was shown, which is
// empty for a sale that was never shown.
func CheckShown(shown string, total decimal.Decimal, minor money.Minor) error {
	if strings.TrimSpace(shown) == "" {
		return nil
	}
	was, err := minor.Parse("total", shown)
	if err != nil {
		return err
	}
	if !was.Equal(total) {
		return fault.Clash("total", shown, minor.Text(total),
			"The basket comes to %s now, and not to %s: somebody changed it meanwhile. Look at it again.",
			minor.Text(total), minor.Text(was))
	}
	return nil
}

// Sold is a line of a sale with what has come back of it so far.
type Sold struct {
	Quantity, Paid, Tax, Cost             decimal.Decimal
	Back, Refunded, TaxBack, CostReturned decimal.Decimal
	Minor                                 money.Minor
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
		return Refund{}, fault.Refuse("quantity", q, "1 to "+left.String(),
			"%s can't come back: %s sold, %s back already.", q, s.Quantity, s.Back)
	}
	return Refund{
		Quantity: q,
		Amount:   s.Minor.Part(s.Paid, s.Refunded, s.Back, q, s.Quantity),
		Tax:      s.Minor.Part(s.Tax, s.TaxBack, s.Back, q, s.Quantity),
		Cost:     s.Minor.Part(s.Cost, s.CostReturned, s.Back, q, s.Quantity),
	}, nil
}

// Denomination is a coin or note and how many of it were counted.
type Denomination struct {
	Value decimal.Decimal `json:"value"`
	Count int64           `json:"count"`
}

// CountCash adds up what was counted in a drawer, in the coins and notes of a currency.
func CountCash(counted []Denomination, currency money.Currency) (decimal.Decimal, error) {
	sum := decimal.Zero
	if len(counted) == 0 {
		return sum, fault.Field("counted", "", "how many of each coin and note there are; 0 where there is none",
			"Nothing is counted yet. Type how many there are; 0 in an empty drawer.")
	}
	for _, d := range counted {
		if d.Count < 0 || d.Count > 100000 {
			return sum, fault.Field("counted", d.Count, "0 to 100,000", "%d pieces of %s can't be in a drawer.",
				d.Count, currency.Minor.Text(d.Value))
		}
		if !slices.ContainsFunc(currency.Pieces(), d.Value.Equal) {
			return sum, fault.Field("counted", d.Value, "a coin or note", "There is no coin or note of %s.", d.Value)
		}
		sum = sum.Add(d.Value.Mul(decimal.New(d.Count, 0)))
	}
	return sum, nil
}

// CheckCashUp refuses to cash a drawer up while a basket with lines is open at its register.
func CheckCashUp(register string, lines int) error {
	if lines == 0 {
		return nil
	}
	return fault.Refuse("basket", lines, "to sell it, or give it up, first",
		"A basket is open at %s, with %d lines. Sell it or give it up first.", register, lines)
}

// Drawer is what went through a drawer from its float to its cash-up.
type Drawer struct {
	Float    decimal.Decimal
	CashIn   decimal.Decimal // cash kept from sales
	CashBack decimal.Decimal // cash refunded
	PaidOut  decimal.Decimal // paid to suppliers
}

// ShouldBe is what should be in the drawer.
func (d Drawer) ShouldBe() decimal.Decimal {
	return d.Float.Add(d.CashIn).Sub(d.CashBack).Sub(d.PaidOut)
}

// Difference is counted less expected: over when positive, short when negative.
func (d Drawer) Difference(counted decimal.Decimal) decimal.Decimal { return counted.Sub(d.ShouldBe()) }
