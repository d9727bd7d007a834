package sale

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/money"
	"itemrack/core/text"
	"itemrack/core/unit"
)

// SlipLine is a line of a sale as a receipt tells it. Quantity is in base units, of
// which a pack holds Factor; Price is of one pack, or of one unit.
type SlipLine struct {
	Line
	Name, Detail, Serials, Pack string
	Unit                        unit.Unit
	Units, Factor, Paid         decimal.Decimal
}

// Slip is a sale as a receipt tells it. At is in the shop's zone.
type Slip struct {
	Shop, Branch, Register, Clerk, Number string
	At                                    time.Time
	Practice                              bool
	Currency                              money.Currency
	Lines                                 []SlipLine
	Gross, Handed, Change, Card           decimal.Decimal
}

// Receipt writes the receipt of a sale.
func (s Slip) Receipt() Receipt {
	r := Receipt{Shop: s.Shop, Branch: s.Branch, Title: "Sale " + s.Number, Number: s.Number,
		Under: []string{
			s.At.Format("2 Jan 2006 15:04") + " · " + s.Clerk + " · " + s.Register}, Foot: "Keep this to bring " +
			"anything back."}
	if s.Practice {
		r.Title, r.Foot = "Practice · "+r.Title, "Practice: nothing was sold."
	}
	var lines []Line
	for _, l := range s.Lines {
		lines = append(lines, l.Line)
		r.Lines = append(r.Lines, ReceiptLine{Name: l.Name, Detail: l.detail(), Amount: s.amount(l.Paid)})
	}
	r.Sums = append(r.Sums, ReceiptSum{Label: "Total", Amount: s.Currency.Format(s.Gross), Large: true})
	if s.Handed.IsPositive() {
		r.Sums = append(r.Sums, ReceiptSum{Label: "Cash", Amount: s.amount(s.Handed)},
			ReceiptSum{Label: "Change", Amount: s.amount(s.Change)})
	}
	if s.Card.IsPositive() {
		r.Sums = append(r.Sums, ReceiptSum{Label: "Card", Amount: s.amount(s.Card)})
	}
	for _, rate := range Sum(lines).Rates {
		r.Sums = append(
			r.Sums,
			ReceiptSum{
				Label:  "Tax " + rate.Percent.String() + " % in " + s.amount(rate.Gross),
				Amount: s.amount(rate.Tax),
			},
		)
	}
	return r
}

// amount writes an amount without its currency.
func (s Slip) amount(d decimal.Decimal) string { return money.Group(s.Currency.Minor.Text(d)) }

// detail says which variant and numbers a line has, and how many.
func (l SlipLine) detail() string {
	numbers, how, tax := "", "", ""
	if l.Serials != "" {
		numbers = "No. " + l.Serials
	}
	switch each := l.Minor.Text(l.Price); {
	case l.Pack != "":
		how = l.Quantity.String() + " × " + l.Pack + ", " + each + " each"
	case !l.Units.Equal(decimal.New(1, 0)):
		how = l.Unit.Format(l.Units) + " × " + each
	}
	if l.Untaxed {
		tax = "and tax"
	}
	return text.Joined(l.Detail, numbers, how, tax)
}
