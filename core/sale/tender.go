package sale

import (
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/money"
	"itemrack/core/owed"
	"itemrack/core/stock"
)

// TenderKind is a way to pay.
type TenderKind string

// The ways to pay. Exchange is what comes back on the same basket; Rounding is what cash is
// rounded by.
const (
	Cash        TenderKind = "cash"
	Card        TenderKind = "card"
	ByVoucher   TenderKind = "voucher"
	ByCredit    TenderKind = "store credit"
	OnAccount   TenderKind = "on account"
	Exchange    TenderKind = "exchange"
	CashRounded TenderKind = "rounding"
)

// TenderKinds lists the ways to pay, in the order in which they are told.
var TenderKinds = []TenderKind{Cash, Card, ByVoucher, ByCredit, OnAccount, Exchange, CashRounded}

// paidWith lists what a customer can be asked to pay with.
var paidWith = []TenderKind{Cash, Card, ByVoucher, ByCredit, OnAccount}

// accounts are where each tender is posted.
var accounts = map[TenderKind]ledger.Account{Cash: ledger.Cash, Card: ledger.Card, ByVoucher: ledger.Vouchers,
	ByCredit: ledger.StoreCredit, OnAccount: ledger.Receivable, Exchange: ledger.Exchange,
	CashRounded: ledger.CashRounding}

// Tender is one way in which a document was paid. Amount is what the shop keeps of it, below zero
// for what it gives; Handed is the cash that the customer gave. Reference names the card's charge,
// Credit the voucher or store credit; of an exchange they are those by which what came back had been paid.
type Tender struct {
	Kind      TenderKind      `json:"kind"`
	Amount    decimal.Decimal `json:"amount"`
	Handed    decimal.Decimal `json:"handed"`
	Reference string          `json:"reference,omitempty"`
	Credit    uint64          `json:"credit_id,omitempty"`
	Code      string          `json:"code,omitempty"` // of the voucher or store credit
	Via       TenderKind      `json:"via,omitempty"`  // of an exchange: how what came back had been paid
}

// Change is what the customer gets back of cash.
func (t Tender) Change() decimal.Decimal {
	if t.Kind != Cash || !t.Handed.IsPositive() {
		return decimal.Zero
	}
	return t.Handed.Sub(t.Amount)
}

// Payment is how something is paid.
type Payment []Tender

// Of is what was paid in one way.
func (p Payment) Of(kind TenderKind) decimal.Decimal {
	sum := decimal.Zero
	for _, t := range p {
		if t.Kind == kind {
			sum = sum.Add(t.Amount)
		}
	}
	return sum
}

// Exchanged is how something is paid by what comes back on the same basket, which these payments gave back.
func Exchanged(back []Payment) Payment {
	var paid Payment
	for _, p := range back {
		for _, t := range p {
			if t.Kind == Exchange {
				t.Amount = t.Amount.Neg()
				paid = append(paid, t)
			}
		}
	}
	return paid
}

// Sum is what all ways come to.
func (p Payment) Sum() decimal.Decimal {
	sum := decimal.Zero
	for _, t := range p {
		sum = sum.Add(t.Amount)
	}
	return sum
}

// Handed is the cash that the customer gave.
func (p Payment) Handed() decimal.Decimal {
	sum := decimal.Zero
	for _, t := range p {
		sum = sum.Add(t.Handed)
	}
	return sum
}

// Change is what the customer gets back of cash.
func (p Payment) Change() decimal.Decimal {
	sum := decimal.Zero
	for _, t := range p {
		sum = sum.Add(t.Change())
	}
	return sum
}

// Charged lists the references of what cards were charged.
func (p Payment) Charged() []string {
	var list []string
	for _, t := range p {
		if t.Kind == Card && t.Reference != "" {
			list = append(list, t.Reference)
		}
	}
	return list
}

// Post posts each way to its account: what came in is a debit.
func (p Payment) Post(draft *stock.Draft) {
	for _, t := range p {
		draft.Post(accounts[t.Kind], t.Amount)
	}
}

// Rounded is an amount in cash, to the next multiple of a step, half away from zero. A step of
// zero leaves it.
func Rounded(amount, step decimal.Decimal) decimal.Decimal {
	if !step.IsPositive() {
		return amount
	}
	return amount.DivRound(step, 0).Mul(step)
}

// Steps are what cash can be rounded to in a currency of so many places: 5, 10, 50 and 100 of its smallest parts, as
// texts; the first, empty, rounds nothing.
func Steps(minor money.Minor) []string {
	steps := []string{""}
	for _, n := range []int64{5, 10, 50, 100} {
		steps = append(steps, minor.Text(minor.Smallest().Mul(decimal.New(n, 0))))
	}
	return steps
}

// Step reads what cash is rounded to.
func Step(field, typed string, minor money.Minor) (decimal.Decimal, error) {
	if typed == "" {
		return decimal.Zero, nil
	}
	steps := Steps(minor)[1:]
	step, err := decimal.NewFromString(typed)
	if err != nil || !slices.ContainsFunc(steps,
		func(s string) bool { return decimal.RequireFromString(s).Equal(step) }) {
		return decimal.Zero, fault.Field(field, typed, "nothing, "+strings.Join(steps, ", "), "Cash can't be rounded to %q.",
			typed)
	}
	return step, nil
}

// Pay settles what is due with what is given: each way but cash takes what it says and no more
// than is left; cash covers the rest, rounded to the step, and its change goes back. Change comes
// from cash only.
func Pay(due decimal.Decimal, given []Tender, step decimal.Decimal, minor money.Minor) (Payment, error) {
	var paid Payment
	left, cash, handed := due, false, decimal.Zero
	for _, t := range given {
		if err := minor.Check(TenderField(t.Kind), t.Amount); err != nil {
			return nil, err
		}
		if !slices.Contains(paidWith, t.Kind) {
			return nil, fault.Field("kind", t.Kind, "cash, card, voucher, store credit or on account",
				"Nobody can pay with %q.", t.Kind)
		}
		if t.Kind == Cash {
			cash, handed = true, handed.Add(t.Amount)
			continue
		}
		if t.Amount.IsZero() {
			continue
		}
		if t.Amount.GreaterThan(left) {
			return nil, tooMuch(t, left, minor)
		}
		left = left.Sub(t.Amount)
		t.Handed = decimal.Zero
		paid = append(paid, t)
	}
	if !cash && left.IsZero() {
		return paid, nil
	}
	asked := Rounded(left, step)
	if len(paid) > 0 && !handed.IsPositive() && asked.IsZero() && !left.IsZero() {
		last := paid[len(paid)-1]
		return nil, fault.Field(TenderField(last.Kind), last.Amount, minor.Text(last.Amount.Add(left)),
			"%s is left to pay. Only what is paid in cash is rounded.", minor.Text(left))
	}
	if handed.LessThan(asked) {
		return nil, fault.Field("cash", handed, minor.Text(asked)+" or more", "%s is %s short of %s.",
			minor.Text(handed), minor.Text(asked.Sub(handed)), minor.Text(asked))
	}
	if handed.IsPositive() || !asked.IsZero() {
		paid = append(paid, Tender{Kind: Cash, Amount: asked, Handed: handed})
	}
	if !asked.Equal(left) {
		paid = append(paid, Tender{Kind: CashRounded, Amount: left.Sub(asked)})
	}
	return paid, nil
}

// TenderField is the field that a way to pay is typed in.
func TenderField(kind TenderKind) string {
	switch kind {
	case ByVoucher, ByCredit:
		return "voucher"
	case OnAccount:
		return "account"
	}
	return string(kind)
}

// Way is a way to pay that is tried on what is due. All takes what is left, of a voucher or store
// credit no more than is on it.
type Way struct {
	Tender
	All  bool
	OnIt *decimal.Decimal // of a voucher or store credit
}

// Left is what is left to pay after ways to pay that were tried: Ways with what each pays, or what
// is handed over; InCash is Left as cash would pay it; Change goes back once nothing is left.
type Left struct {
	Ways   []Tender        `json:"tenders"`
	Left   decimal.Decimal `json:"left"`
	InCash decimal.Decimal `json:"left_in_cash"`
	Change decimal.Decimal `json:"change"`
	Done   bool            `json:"done"` // nothing is left
}

// Try works out what is left of what is due after ways to pay, by the rules of Pay, which posts them.
func Try(due decimal.Decimal, ways []Way, step decimal.Decimal, minor money.Minor) (Left, error) {
	l := Left{Ways: []Tender{}}
	left, handed, cash := due, decimal.Zero, false
	for _, w := range ways {
		t := w.Tender
		rest := decimal.Max(decimal.Zero, left.Sub(handed))
		switch {
		case w.All && t.Kind == Cash:
			t.Amount = decimal.Max(decimal.Zero, Rounded(left, step).Sub(handed))
		case w.All:
			t.Amount = rest
			if w.OnIt != nil {
				t.Amount = decimal.Min(rest, *w.OnIt)
			}
		}
		if t.Kind == Cash {
			cash, handed = true, handed.Add(t.Amount)
		} else {
			if t.Amount.GreaterThan(left) {
				return l, tooMuch(t, left, minor)
			}
			left = left.Sub(t.Amount)
		}
		l.Ways = append(l.Ways, t)
	}
	asked := Rounded(left, step)
	rounded := left.LessThan(due) && !handed.IsPositive() && asked.IsZero() // by nothing in cash: see Pay
	if l.Done = left.IsZero() || cash && !handed.LessThan(asked) && !rounded; l.Done {
		l.Change = decimal.Max(decimal.Zero, handed.Sub(asked))
		return l, nil
	}
	l.Left = decimal.Max(decimal.Zero, left.Sub(handed))
	l.InCash = asked.Sub(handed)
	if rounded {
		l.InCash = l.Left
	}
	return l, nil
}

func tooMuch(t Tender, left decimal.Decimal, minor money.Minor) error {
	return fault.Field(TenderField(t.Kind), t.Amount, "no more than "+minor.Text(left),
		"%s by %s is more than the %s that are left to pay.", minor.Text(t.Amount), t.Kind, minor.Text(left))
}

// PayOff is how a customer pays what is on account, by cash or card: never more than is owed.
func PayOff(kind TenderKind, amount, owes decimal.Decimal, minor money.Minor) (Payment, error) {
	if kind != Cash && kind != Card {
		return nil, fault.Field("kind", kind, "cash or card", "What is on account is paid by cash or card, not by %q.", kind)
	}
	if !amount.IsPositive() || amount.GreaterThan(owes) {
		return nil, fault.Field("amount", minor.Text(amount), "more than 0, up to "+
			minor.Text(decimal.Max(owes, decimal.Zero)),
			"%s are owed; %s can't be paid off.", minor.Text(owes), minor.Text(amount))
	}
	paid := Tender{Kind: kind, Amount: amount}
	if kind == Cash {
		paid.Handed = amount
	}
	return Payment{paid, {Kind: OnAccount, Amount: amount.Neg()}}, nil
}

// Instead is how a customer gets in another way what a card can't be given: in cash, or as store credit,
// which has no number yet. Reference is the card's.
func Instead(how RefundHow, amount, step decimal.Decimal, reference string) (Payment, error) {
	if how != InCash && how != ToCredit {
		return nil, fault.Field("refund", how, "cash or store credit",
			"What a card can't be given goes back in cash or as store credit.")
	}
	back := (&Refunding{Step: step}).Of(amount, nil, how)
	return append(Payment{{Kind: Card, Amount: amount, Reference: reference}}, back...), nil
}

// RefundHow is how a refund goes back.
type RefundHow string

// The ways of a refund: as it was paid, all to a new store credit, or all in cash.
const (
	AsPaid   RefundHow = ""
	ToCredit RefundHow = "store credit"
	InCash   RefundHow = "cash"
)

// CheckHow refuses a way of refund that there is not.
func CheckHow(how RefundHow) error {
	if how == AsPaid || how == ToCredit || how == InCash {
		return nil
	}
	return fault.Field("refund", how, "nothing, store credit or cash",
		"The refund can go back as it was paid, to a store credit, or in cash.")
}

// Refunding is how money goes back at a register, for one return after another. Due is what is sold on the same basket,
// for which what comes back is exchanged. Exact and Given are what went back in cash before: as it was due, and as it
// was rounded; what of a sale comes back in parts is rounded in all, not each part by itself.
type Refunding struct {
	Step  decimal.Decimal
	Due   decimal.Decimal
	Exact decimal.Decimal
	Given decimal.Decimal
}

// After goes on from what went back in cash of a sale before, and not on this basket.
func (r *Refunding) After(exact, given decimal.Decimal) {
	r.Exact, r.Given = r.Exact.Add(exact), r.Given.Add(given)
}

// Of works out how an amount goes back. What of the sale is on account comes off it first, whoever brings the goods and
// whatever else is bought; then it pays what is due on the basket, and that will go back as this was paid. The rest
// goes back as it was paid: to the cards first and never more than is left on each, then to the voucher or store credit
// that paid, cash last; or as how says. Paid has what is left of each way in which it was paid. What returns are
// written with has signs below zero. New store credit has no number yet.
func (r *Refunding) Of(amount decimal.Decimal, paid []Tender, how RefundHow) Payment {
	var back Payment
	left := amount
	give := func(t Tender, q decimal.Decimal) {
		if q = decimal.Min(left, q); q.IsPositive() {
			t.Amount, t.Handed = q.Neg(), decimal.Zero
			back = append(back, t)
			left = left.Sub(q)
		}
	}
	all := func(kinds ...TenderKind) {
		for _, t := range paid {
			if slices.Contains(kinds, t.Kind) {
				give(t, t.Amount)
			}
		}
	}
	all(OnAccount)
	paid = slices.Clone(paid)
	for _, kind := range []TenderKind{Card, ByVoucher, ByCredit} {
		for i, t := range paid {
			if t.Kind == kind {
				given := decimal.Min(decimal.Min(left, r.Due), t.Amount)
				give(Tender{Kind: Exchange, Via: t.Kind, Reference: t.Reference, Credit: t.Credit, Code: t.Code}, given)
				r.Due, paid[i].Amount = r.Due.Sub(given), t.Amount.Sub(given)
			}
		}
	}
	before := left
	give(Tender{Kind: Exchange, Via: Cash}, r.Due)
	r.Due = r.Due.Sub(before.Sub(left))
	switch how {
	case AsPaid:
		all(Card)
		all(ByVoucher, ByCredit)
	case ToCredit:
		give(Tender{Kind: ByCredit}, left)
	}
	if left.IsPositive() {
		r.Exact = r.Exact.Add(left)
		out := decimal.Max(Rounded(r.Exact, r.Step).Sub(r.Given), decimal.Zero)
		r.Given = r.Given.Add(out)
		if out.IsPositive() {
			back = append(back, Tender{Kind: Cash, Amount: out.Neg()})
		}
		if !out.Equal(left) {
			back = append(back, Tender{Kind: CashRounded, Amount: out.Sub(left)})
		}
	}
	return back
}

// SettledOf puts, for what a sale had on account, what is open of it and what paid the rest, to what is left of the
// ways in which it was paid; what went back by the same way before is taken off.
func SettledOf(left []Tender, open decimal.Decimal, by []owed.Payment) []Tender {
	list := slices.Clone(left)
	for i, t := range list {
		if t.Kind == OnAccount {
			list[i].Amount = decimal.Min(t.Amount, open)
		}
	}
	for _, p := range by {
		at := slices.IndexFunc(list, func(t Tender) bool { return string(t.Kind) == p.Kind && t.Reference == p.Reference })
		if at < 0 {
			list = append(list, Tender{Kind: TenderKind(p.Kind), Reference: p.Reference, Amount: p.Amount})
			continue
		}
		list[at].Amount = list[at].Amount.Add(p.Amount)
	}
	return list
}

// MoreInCash reports whether more of an amount goes back in cash by a way than went that way when it was paid.
func (r Refunding) MoreInCash(amount decimal.Decimal, paid []Tender, how RefundHow) bool {
	was := r
	return r.Of(amount, paid, how).Of(Cash).LessThan(was.Of(amount, paid, AsPaid).Of(Cash))
}
