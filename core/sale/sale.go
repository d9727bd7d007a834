// Package sale computes baskets, payments, returns and drawers. Its main rule:
// what a line was paid, taxed and cost is fixed when it is sold; a return gives
// back parts of exactly those figures, which add up to them.
package sale

import (
	"slices"
	"sort"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/tax"
	"itemrack/core/text"
)

// Line is one line of a basket. Price is of one of what Quantity counts, with tax
// unless Untaxed; Percent is the tax. Off is what is given off the line, as prices are kept.
type Line struct {
	Quantity decimal.Decimal
	Price    decimal.Decimal
	Off      decimal.Decimal
	Percent  decimal.Decimal
	Untaxed  bool
	Minor    money.Minor
}

// Asked is quantity × price, rounded: what a line comes to before anything is given off, as prices are kept.
func (l Line) Asked() decimal.Decimal { return l.Minor.Round(l.Quantity.Mul(l.Price)) }

// amount is what is asked less what is given off.
func (l Line) amount() decimal.Decimal { return l.Asked().Sub(l.Off) }

// Total is what the customer pays for the line: quantity × price, rounded, less what is
// given off, with the tax that is not in it yet.
func (l Line) Total() decimal.Decimal {
	total, _ := l.Figures()
	return total
}

// Tax is the tax in the line's total, rounded per line.
func (l Line) Tax() decimal.Decimal { return tax.Basis(!l.Untaxed).Tax(l.amount(), l.Percent, l.Minor) }

// Figures are the total of the line and the tax in it.
func (l Line) Figures() (total, included decimal.Decimal) {
	total = l.amount()
	included = tax.Basis(!l.Untaxed).Tax(total, l.Percent, l.Minor)
	if l.Untaxed {
		total = total.Add(included)
	}
	return total, included
}

// Net is what the line brings in without its tax.
func (l Line) Net() decimal.Decimal {
	total, included := l.Figures()
	return total.Sub(included)
}

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
	Off   decimal.Decimal `json:"off"` // given off, as prices are kept
}

// Sum adds lines up; rates stand from the highest to the lowest.
func Sum(lines []Line) Totals {
	t := Totals{Rates: []ByRate{}}
	for _, l := range lines {
		total, included := l.Figures()
		t.add(l.Percent, total, included)
		t.Units, t.Off = t.Units.Add(l.Quantity), t.Off.Add(l.Off)
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

// CheckShown refuses a payment for another total than the one that was shown, which is
// empty for a sale that was never shown.
func CheckShown(shown string, total decimal.Decimal, minor money.Minor) error {
	if strings.TrimSpace(shown) == "" {
		return nil
	}
	figure, back := strings.CutPrefix(strings.TrimSpace(shown), "-")
	was, err := minor.Parse("total", figure)
	if err != nil {
		return err
	}
	if back { // more comes back than is sold
		was = was.Neg()
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
	Lowered, TaxLowered                   decimal.Decimal // of what was refunded: for goods that the customer kept
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
		Amount:   s.part(s.Paid.Sub(s.Lowered), s.Refunded.Sub(s.Lowered), q),
		Tax:      s.part(s.Tax.Sub(s.TaxLowered), s.TaxBack.Sub(s.TaxLowered), q),
		Cost:     s.Minor.Part(s.Cost, s.CostReturned, s.Back, q, s.Quantity),
	}, nil
}

// part is the part of a figure for q more units, never below nothing: where more was refunded for
// kept goods than the rest is worth, the last unit brings what is left.
func (s Sold) part(whole, given, q decimal.Decimal) decimal.Decimal {
	return decimal.Max(decimal.Zero, s.Minor.Part(whole, given, s.Back, q, s.Quantity))
}

// Lower works out the refund of an amount for goods that the customer keeps. More than was paid and
// not refunded yet is refused.
func (s Sold) Lower(amount decimal.Decimal) (Refund, error) {
	left := s.Paid.Sub(s.Refunded)
	if !amount.IsPositive() || amount.GreaterThan(left) {
		return Refund{}, fault.Refuse("amount", s.Minor.Text(amount), "more than 0, up to "+s.Minor.Text(left),
			"%s can't be refunded: %s of this line are paid and not refunded.", s.Minor.Text(amount), s.Minor.Text(left))
	}
	if s.Back.Equal(s.Quantity) {
		return Refund{}, fault.Refuse("amount", s.Minor.Text(amount), "a line of which something is out",
			"All of this line have come back already.")
	}
	share := s.Tax.Sub(s.TaxBack)
	if !amount.Equal(left) {
		share = decimal.Min(share, s.Minor.Round(s.Tax.Mul(amount).Div(s.Paid)))
	}
	return Refund{Amount: amount, Tax: share}, nil
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
		"A basket is open at %s, with %s. Sell it or give it up first.", register, text.Plural(lines, "line", "lines"))
}

// LeftOpen reports whether a drawer that was opened then was left open overnight.
func LeftOpen(opened, dayBegan time.Time) bool { return opened.Before(dayBegan) }

// Drawer is what went through a drawer from its float to its cash-up.
type Drawer struct {
	Float   decimal.Decimal
	Cash    decimal.Decimal // kept from sales, less what was given back
	PutIn   decimal.Decimal
	Taken   decimal.Decimal // taken out
	PaidOut decimal.Decimal // paid to suppliers
}

// ShouldBe is what should be in the drawer.
func (d Drawer) ShouldBe() decimal.Decimal {
	return d.Float.Add(d.Cash).Add(d.PutIn).Sub(d.Taken).Sub(d.PaidOut)
}

// Difference is counted less expected: over when positive, short when negative.
func (d Drawer) Difference(counted decimal.Decimal) decimal.Decimal { return counted.Sub(d.ShouldBe()) }
