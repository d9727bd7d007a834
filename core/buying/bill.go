package buying

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/money"
	"itemrack/core/tax"
)

// Then is what is done about a line of a bill that is not as it should be.
type Then string

// What can be done: it is paid as it is billed, and what has not come is waited for; or a
// credit note is expected for what is too much.
const (
	PayIt        Then = ""
	ExpectCredit Then = "credit"
)

// BillLine is a line of a supplier's bill, held against what came. Unbilled is how many
// units of it came and were not billed yet, and UnbilledValue what they stand at under
// received, not billed. Net is what the bill asks for Quantity units, without tax.
type BillLine struct {
	Quantity      decimal.Decimal
	Net           decimal.Decimal
	Percent       decimal.Decimal
	Unbilled      decimal.Decimal
	UnbilledValue decimal.Decimal
	Dearer        Then // what is done where it costs more than was agreed
	Missing       Then // and where more is billed than came
}

// BilledLine is what a line of a bill comes to. Cleared goes out of received, not billed;
// Came units are billed by it. Ahead is the net of what is billed and has not come, AheadUnits
// of it; Differs is how much dearer the goods are that came (cheaper, below zero); Credit is
// expected back.
type BilledLine struct {
	Came       decimal.Decimal `json:"came"`
	Cleared    decimal.Decimal `json:"cleared" see:"costs"`
	AheadUnits decimal.Decimal `json:"ahead_units"`
	Ahead      decimal.Decimal `json:"ahead" see:"costs"`
	Differs    decimal.Decimal `json:"differs" see:"costs"`
	Credit     decimal.Decimal `json:"credit" see:"costs"`
	Tax        decimal.Decimal `json:"tax" see:"costs"`
	Left       decimal.Decimal `json:"left"` // units that came and stay unbilled
	MissingNet decimal.Decimal `json:"missing_net" see:"costs"`
}

// Bill works out one line.
func (l BillLine) Bill(minor money.Minor) BilledLine {
	b := BilledLine{Came: decimal.Min(l.Quantity, l.Unbilled), Tax: tax.On(l.Net, l.Percent, minor)}
	missing := l.Quantity.Sub(b.Came)
	if l.Quantity.IsPositive() {
		b.MissingNet = l.Net.Mul(missing).DivRound(l.Quantity, minor.Places())
	}
	if b.Came.Equal(l.Unbilled) {
		b.Cleared = l.UnbilledValue
	} else if l.Unbilled.IsPositive() {
		b.Cleared = l.UnbilledValue.Mul(b.Came).DivRound(l.Unbilled, minor.Places())
	}
	b.Left = l.Unbilled.Sub(b.Came)
	if b.Came.IsZero() { // all of it has not come
		b.Cleared, b.MissingNet = decimal.Zero, l.Net
	}
	b.Differs = l.Net.Sub(b.MissingNet).Sub(b.Cleared)
	if b.Differs.IsPositive() && l.Dearer == ExpectCredit {
		b.Credit, b.Differs = b.Credit.Add(b.Differs), decimal.Zero
	}
	if l.Missing == ExpectCredit {
		b.Credit = b.Credit.Add(b.MissingNet)
	} else {
		b.AheadUnits, b.Ahead = missing, b.MissingNet
	}
	return b
}

// Billed is what a bill comes to. Payable is what their paper asks for; Rounding is how much
// that differs from the sum of the lines, which is taken as it stands.
type Billed struct {
	Net      decimal.Decimal `json:"net" see:"costs"`
	Freight  decimal.Decimal `json:"freight" see:"costs"`
	Tax      decimal.Decimal `json:"tax" see:"costs"`
	Gross    decimal.Decimal `json:"gross" see:"costs"`
	Payable  decimal.Decimal `json:"payable" see:"costs"`
	Rounding decimal.Decimal `json:"rounding" see:"costs"`
	Cleared  decimal.Decimal `json:"cleared" see:"costs"`
	Ahead    decimal.Decimal `json:"ahead" see:"costs"`
	Differs  decimal.Decimal `json:"differs" see:"costs"`
	Credit   decimal.Decimal `json:"credit" see:"costs"`
	Lines    []BilledLine    `json:"lines"`
}

// mostRounding is by how much a supplier's bill may differ from the sum of its lines.
var mostRounding = decimal.New(5, -2)

// CheckUnbilled refuses to post a line of a bill when what is not billed of its goods has changed since the bill was
// saved: another bill took it up, or its delivery was undone. A bill posts what was shown.
func CheckUnbilled(name, delivery string, shown, now decimal.Decimal) error {
	if shown.Equal(now) {
		return nil
	}
	return fault.Clash("delivery_line_id", now, "to save the bill again as it stands now",
		"%s of %s: %s were not billed when this bill was saved, %s are now. Another bill took them up, or was undone, or "+
			"the "+
			"delivery was. Nothing was posted; look at the bill and save it again to go on.", name, delivery, shown, now)
}

// BillOf works out a bill with freight at a tax, and in all what their paper says, where
// that was typed. It returns what it can and why it could not be posted.
func BillOf(lines []BillLine, freight, freightPercent decimal.Decimal, paper *decimal.Decimal,
	minor money.Minor) (Billed, error) {
	b := Billed{Freight: freight, Lines: make([]BilledLine, len(lines))}
	b.Tax = tax.On(freight, freightPercent, minor)
	for i, l := range lines {
		line := l.Bill(minor)
		b.Lines[i] = line
		b.Net, b.Tax = b.Net.Add(l.Net), b.Tax.Add(line.Tax)
		b.Cleared, b.Ahead = b.Cleared.Add(line.Cleared), b.Ahead.Add(line.Ahead)
		b.Differs, b.Credit = b.Differs.Add(line.Differs), b.Credit.Add(line.Credit)
	}
	b.Gross = b.Net.Add(b.Freight).Add(b.Tax)
	b.Payable = b.Gross
	if paper == nil {
		return b, nil
	}
	b.Payable, b.Rounding = *paper, paper.Sub(b.Gross)
	if b.Rounding.Abs().GreaterThan(mostRounding) {
		return b, fault.Refuse("total", paper, b.Gross.StringFixed(minor.Places()),
			"Their paper says %s; the lines come to %s, %s apart.", minor.Text(*paper), minor.Text(b.Gross),
			minor.Text(b.Rounding.Abs()))
	}
	return b, nil
}

// Goods is what lines of deliveries are billed at: Units of what line Line brought, at Net,
// Differs dearer than was agreed. Kilos is what one weighs, nil while it is not known.
type Goods struct {
	Line    uint64
	Name    string
	Units   decimal.Decimal
	Net     decimal.Decimal
	Differs decimal.Decimal
	Kilos   *decimal.Decimal
}

// Dearer is by how much the goods of each line of deliveries become dearer: what a bill asks
// beyond what was agreed, and their share of its freight. Goods of which no units are billed
// take no freight.
func Dearer(billed []Goods, freight decimal.Decimal, spread Spread,
	minor money.Minor) (map[uint64]decimal.Decimal, error) {
	by := map[uint64]decimal.Decimal{}
	var lines []uint64
	var weights []decimal.Decimal
	for _, g := range billed {
		by[g.Line] = by[g.Line].Add(g.Differs)
		if !g.Units.IsPositive() || !freight.IsPositive() {
			continue
		}
		if spread == ByWeight && g.Kilos == nil {
			return nil, NotWeighed(g.Name)
		}
		lines = append(lines, g.Line)
		weights = append(weights, spread.Share(g.Units, g.Net, g.Kilos))
	}
	if freight.IsPositive() && len(lines) == 0 {
		return nil, fault.Field("delivery_ids", "", "the deliveries that the freight is of",
			"Say which goods the freight is of.")
	}
	for i, share := range minor.Split(freight, weights) {
		by[lines[i]] = by[lines[i]].Add(share)
	}
	return by, nil
}

// TaxedCredit is what of a bill's expected credit is at one tax.
type TaxedCredit struct {
	Percent decimal.Decimal
	Net     decimal.Decimal
}

// CreditsByTax is the credit that a bill expects by the tax on it, as the credit notes will
// say it; lines are those it was worked out from.
func (b Billed) CreditsByTax(lines []BillLine) []TaxedCredit {
	var list []TaxedCredit
	for i, l := range lines {
		credit := b.Lines[i].Credit
		if !credit.IsPositive() {
			continue
		}
		at := slices.IndexFunc(list, func(c TaxedCredit) bool { return c.Percent.Equal(l.Percent) })
		if at < 0 {
			list, at = append(list, TaxedCredit{Percent: l.Percent}), len(list)
		}
		list[at].Net = list[at].Net.Add(credit)
	}
	return list
}

// Postings is the double entry of a bill but for the goods it makes dearer or cheaper, which
// stock.Draft.Revalue posts.
func (b Billed) Postings() ledger.Postings {
	return ledger.Postings{ledger.ReceivedNotBilled: b.Cleared.Add(b.Ahead), ledger.TaxIn: b.Tax,
		ledger.CreditExpected: b.Credit,
		ledger.PriceVariance:  b.Rounding, ledger.Payable: b.Payable.Neg()}
}

// LaterPostings is the double entry of a delivery whose bill has not come: at what was
// agreed, without tax.
func (t Totals) LaterPostings() ledger.Postings {
	return ledger.Postings{ledger.Stock: t.Net, ledger.ReceivedNotBilled: t.Net.Neg()}
}

// PaidPostings is the double entry of a delivery of nobody in particular, paid at once.
func (t Totals) PaidPostings(from From) ledger.Postings {
	return ledger.Postings{ledger.Stock: t.Net, ledger.TaxIn: t.Tax, from.account(): t.Gross.Neg()}
}

// account is the one that money is paid out of.
func (f From) account() ledger.Account {
	if f == Drawer {
		return ledger.Cash
	}
	return ledger.Bank
}

// Check refuses what nothing is paid out of.
func (f From) Check() error {
	if f != Outside && f != Drawer {
		return fault.Field("from", f, "outside the till, or drawer", "Nothing is paid out of %q.", f)
	}
	return nil
}

// Credited is what a supplier's credit note comes to against what was expected.
type Credited struct {
	Tax      decimal.Decimal `json:"tax" see:"costs"`
	Gross    decimal.Decimal `json:"gross" see:"costs"`
	Variance decimal.Decimal `json:"variance" see:"costs"` // how much less it is than was expected
}

// Credit works out a credit note of a net amount for what was expected.
func Credit(net, percent, expected decimal.Decimal, minor money.Minor) Credited {
	t := tax.On(net, percent, minor)
	return Credited{Tax: t, Gross: net.Add(t), Variance: expected.Sub(net)}
}

// Postings is the double entry of a credit note.
func (c Credited) Postings() ledger.Postings {
	net := c.Gross.Sub(c.Tax)
	return ledger.Postings{ledger.CreditExpected: net.Add(c.Variance).Neg(), ledger.TaxIn: c.Tax.Neg(),
		ledger.PriceVariance: c.Variance,
		ledger.Payable:       c.Gross}
}

// SentBack is the double entry of goods that went back to a supplier: they leave at what
// they are worth, and a credit is expected.
func SentBack(worth, expected decimal.Decimal) ledger.Postings {
	return ledger.Postings{ledger.Stock: worth.Neg(), ledger.CreditExpected: expected,
		ledger.PriceVariance: worth.Sub(expected)}
}

// From says what a payment is paid out of.
type From string

// What is paid out of.
const (
	Outside From = "outside the till"
	Drawer  From = "drawer"
)

// Part is what of a payment settles a bill, or, below zero, uses a credit note.
type Part struct {
	Number string
	Open   decimal.Decimal // below zero for a credit note
	Amount decimal.Decimal
}

// Pay adds up a payment: never more of anything than is open, and in all nothing below zero.
func Pay(parts []Part, from From) (decimal.Decimal, ledger.Postings, error) {
	sum := decimal.Zero
	for _, p := range parts {
		if p.Amount.IsZero() || p.Amount.IsNegative() != p.Open.IsNegative() ||
			p.Amount.Abs().GreaterThan(p.Open.Abs()) {
			return sum, nil, fault.Refuse("amount", p.Amount.Abs(), "no more than "+p.Open.Abs().String(),
				"%s: %s is open, not %s.", p.Number, p.Open.Abs(), p.Amount.Abs())
		}
		sum = sum.Add(p.Amount)
	}
	switch {
	case len(parts) == 0:
		return sum, nil, fault.Field("parts", "", "at least one bill", "Say what is paid.")
	case sum.IsNegative():
		return sum, nil, fault.Refuse("parts", sum, "bills that come to more than the credits",
			"The credits are %s more than the bills.", sum.Abs())
	}
	return sum, ledger.Postings{ledger.Payable: sum, from.account(): sum.Neg()}, from.Check()
}

// Age is how old what is owed is.
type Age string

// The ages, from what is not due yet to what is long over.
const (
	NotDue     Age = "not due"
	DueSoon    Age = "due within 7 days"
	Over30     Age = "over by 1–30"
	Over60     Age = "over by 31–60"
	OverLong   Age = "over by more"
	daysSoon       = 7
	daysMonth      = 30
	daysMonths     = 60
)

// Ages lists the ages, the youngest first.
var Ages = []Age{NotDue, DueSoon, Over30, Over60, OverLong}

// AgeOf is how old a bill is on a day; both are at midnight UTC.
func AgeOf(due, today time.Time) Age {
	over := int(today.Sub(due).Hours() / 24)
	switch {
	case over < -daysSoon:
		return NotDue
	case over <= 0:
		return DueSoon
	case over <= daysMonth:
		return Over30
	case over <= daysMonths:
		return Over60
	}
	return OverLong
}
