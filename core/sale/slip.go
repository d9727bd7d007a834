package sale

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/money"
	"itemrack/core/text"
	"itemrack/core/unit"
)

// SlipLine is a line of a sale as a receipt tells it. Quantity is in base units, of
// which a pack holds Factor; Price is of one pack, or of one unit. Own is what was given off the
// line for itself, Why the reason, Note what was noted.
type SlipLine struct {
	Line
	Name, Detail, Serials, Pack string
	Unit                        unit.Unit
	Units, Factor, Paid         decimal.Decimal
	Own                         decimal.Decimal
	Why, Note                   string
	Owed                        bool // its serial number is given later
}

// SlipVoucher is a voucher that was given with a sale.
type SlipVoucher struct {
	Code   string
	Amount decimal.Decimal
}

// Slip is a sale as a receipt tells it. At is in the shop's zone.
type Slip struct {
	Shop, Branch, Register, Clerk, Number string
	At                                    time.Time
	Practice                              bool
	Currency                              money.Currency
	Lines                                 []SlipLine
	Gross                                 decimal.Decimal // of the lines
	Why                                   string          // the reason for what was given off all of it
	Paid                                  Payment
	Vouchers                              []SlipVoucher
	Customer                              string // empty where it is not to be said
	Note                                  string
}

// Receipt writes the receipt of a sale.
func (s Slip) Receipt() Receipt {
	r := s.head("Sale ", "Keep this to bring anything back.")
	var lines []Line
	share := decimal.Zero
	for _, l := range s.Lines {
		asked, own := l.Line, l.Line
		asked.Off, own.Off = decimal.Zero, l.Own
		lines = append(lines, l.Line)
		share = share.Add(own.Total().Sub(l.Paid))
		line := ReceiptLine{Name: l.Name, Detail: l.detail(), Amount: s.amount(asked.Total())}
		if off := asked.Total().Sub(own.Total()); off.IsPositive() {
			line.Less = text.Joined("given off", l.Why)
			line.LessAmount = "−" + s.amount(off)
		}
		r.Lines = append(r.Lines, line)
	}
	for _, v := range s.Vouchers {
		r.Lines = append(r.Lines, ReceiptLine{Name: "Voucher", Detail: v.Code, Amount: s.amount(v.Amount)})
	}
	if share.IsPositive() {
		r.Sums = append(r.Sums, ReceiptSum{Label: text.Joined("Given off", s.Why), Amount: "−" + s.amount(share)})
	}
	due := s.Gross
	for _, v := range s.Vouchers {
		due = due.Add(v.Amount)
	}
	r.Sums = append(r.Sums, ReceiptSum{Label: "Total", Amount: s.Currency.Format(due), Large: true})
	for _, t := range s.Paid {
		r.Sums = append(r.Sums, s.tendered(t)...)
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

// Gift writes a receipt that tells no prices and still takes things back.
func (s Slip) Gift() Receipt {
	r := s.head("Gift receipt ", "With this the things can be brought back or exchanged.")
	for _, l := range s.Lines {
		l.Price = decimal.Zero
		how := ""
		switch {
		case l.Pack != "":
			how = l.Quantity.String() + " × " + l.Pack
		case !l.Units.Equal(decimal.New(1, 0)):
			how = l.Unit.Format(l.Units)
		}
		r.Lines = append(r.Lines, ReceiptLine{Name: l.Name, Detail: text.Joined(l.Detail, l.numbers(), how)})
	}
	return r
}

// Returned writes the slip of a return of a sale, empty for one without a receipt: what came back
// and how its money went back.
func (s Slip) Returned(of string) Receipt {
	r := s.head("Return ", "")
	if of != "" {
		r.Under = append(r.Under, "of sale "+of)
	}
	for _, l := range s.Lines {
		how := ""
		if !l.Units.Equal(decimal.New(1, 0)) {
			how = l.Units.String() + " back"
		}
		r.Lines = append(r.Lines, ReceiptLine{Name: l.Name, Detail: text.Joined(l.Detail, l.numbers(), how),
			Amount: s.amount(l.Paid)})
	}
	r.Sums = append(r.Sums, ReceiptSum{Label: "Given back", Amount: s.Currency.Format(s.Gross), Large: true})
	for _, t := range s.Paid {
		label := map[TenderKind]string{Cash: "in cash", Card: "to the card", ByVoucher: "to the voucher",
			ByCredit:  "as store credit",
			OnAccount: "off the account", Exchange: "for what was taken instead", CashRounded: "rounded"}[t.Kind]
		r.Sums = append(r.Sums, ReceiptSum{Label: text.Joined(label, t.Code), Amount: s.amount(t.Amount.Neg())})
	}
	return r
}

func (s Slip) head(title, foot string) Receipt {
	r := Receipt{Shop: s.Shop, Branch: s.Branch, Title: title + s.Number, Number: s.Number,
		Under: []string{s.At.Format("2 Jan 2006 15:04") + " · " + s.Clerk + " · " + s.Register}, Foot: foot}
	if s.Customer != "" {
		r.Under = append(r.Under, "for "+s.Customer)
	}
	if s.Note != "" {
		r.Under = append(r.Under, s.Note)
	}
	if s.Practice {
		r.Title, r.Foot = "Practice · "+r.Title, "Practice: nothing was sold."
	}
	return r
}

// tendered tells one way of paying.
func (s Slip) tendered(t Tender) []ReceiptSum {
	switch t.Kind {
	case Cash:
		return []ReceiptSum{{Label: "Cash", Amount: s.amount(t.Handed)}, {Label: "Change", Amount: s.amount(t.Change())}}
	case Card:
		return []ReceiptSum{{Label: "Card", Amount: s.amount(t.Amount)}}
	case ByVoucher:
		return []ReceiptSum{{Label: text.Joined("Voucher", t.Code), Amount: s.amount(t.Amount)}}
	case ByCredit:
		return []ReceiptSum{{Label: text.Joined("Store credit", t.Code), Amount: s.amount(t.Amount)}}
	case OnAccount:
		return []ReceiptSum{{Label: "On account", Amount: s.amount(t.Amount)}}
	case Exchange:
		return []ReceiptSum{{Label: "Came back", Amount: s.amount(t.Amount)}}
	}
	return []ReceiptSum{{Label: "Rounded", Amount: s.amount(t.Amount.Neg())}}
}

// amount writes an amount without its currency.
func (s Slip) amount(d decimal.Decimal) string { return money.Group(s.Currency.Minor.Text(d)) }

func (l SlipLine) numbers() string {
	if l.Owed {
		return "its number follows"
	}
	if l.Serials != "" {
		return "No. " + l.Serials
	}
	return ""
}

// detail says which variant and numbers a line has, and how many.
func (l SlipLine) detail() string {
	how, tax := "", ""
	switch each := l.Minor.Text(l.Price); {
	case l.Pack != "":
		how = l.Quantity.String() + " × " + l.Pack + ", " + each + " each"
	case !l.Units.Equal(decimal.New(1, 0)):
		how = l.Unit.Format(l.Units) + " × " + each
	}
	if l.Untaxed {
		tax = "and tax"
	}
	return text.Joined(l.Detail, l.numbers(), how, tax, l.Note)
}
