package buying

import (
	"fmt"

	"github.com/shopspring/decimal"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/terms"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	storebuying "itemrack/store/buying"
	"itemrack/store/till"
)

// PaymentInput is money paid to a supplier: for which bills, how much of each, and with
// which credit notes. Out of a drawer it is of a register whose drawer is open.
type PaymentInput struct {
	Supplier uint64        `json:"supplier_id"`
	From     buying.From   `json:"from"` // empty for outside the till
	Register uint64        `json:"register_id"`
	PaidOn   string        `json:"paid_on"` // empty for today
	Note     string        `json:"note"`
	Parts    []PaymentPart `json:"parts"`
}

// PaymentPart is how much of a bill is paid, or of a credit note used; empty for all of it.
type PaymentPart struct {
	Bill   uint64 `json:"bill_id"`
	Amount string `json:"amount"`
}

// Pay pays bills of a supplier, in part or whole.
func Pay(do deed.Deed, in PaymentInput) (deed.Posted, error) {
	return deed.Once(do, staff.DeedPay, func(do deed.Deed) (deed.Posted,
		error) {
		return pay(do, in)
	})
}

// pay is Pay within a deed.
func pay(do deed.Deed, in PaymentInput) (deed.Posted, error) {
	set, err := do.Tx.Terms()
	if err != nil {
		return deed.Posted{}, err
	}
	if in.From == "" {
		in.From = buying.Outside
	}
	if text.Len(in.Note) > 250 {
		return deed.Posted{}, fault.Field("note", in.Note, "250 characters or fewer", "The note is too long.")
	}
	p, branch, err := payingOut(do.Tx, do.Who, in.From, in.Register)
	if err != nil {
		return deed.Posted{}, err
	}
	p.SupplierID = &in.Supplier
	if p.PaidOn, err = dayOr("paid_on", in.PaidOn, set.Day(do.Shop.Now())); err != nil {
		return deed.Posted{}, err
	}
	if err := buying.CheckPaidOn(p.PaidOn, set.Day(do.Shop.Now())); err != nil {
		return deed.Posted{}, err
	}
	parts, rows, open, err := readParts(in, set, func(id uint64) (storebuying.BillView, error) {
		bill, _, _, err := storebuying.LockBill(do.Tx, id)
		return bill, err
	})
	if err != nil {
		return deed.Posted{}, err
	}
	amount, postings, err := buying.Pay(parts, in.From)
	if err != nil {
		return deed.Posted{}, err
	}
	if p.DrawerID != nil {
		if err := deed.CashOut(do.Tx, *p.DrawerID, "paid_from", amount); err != nil {
			return deed.Posted{}, err
		}
	}
	name, err := deed.NextNumber(do.Tx, stock.Payment)
	if err != nil {
		return deed.Posted{}, err
	}
	now := do.Shop.Now()
	draft := stock.NewDraft(stock.Holding{}, stock.Document{Kind: stock.Payment, Number: name, Branch: branch,
		By: do.Who.ID, HappenedAt: now,
		RecordedAt: now, Note: text.Prose(in.Note)})
	draft.PostAll(postings)
	done, err := deed.Post(do.Tx, stock.Holding{}, draft)
	if err != nil {
		return done, err
	}
	if err := storebuying.SetOpen(do.Tx, open); err != nil {
		return done, err
	}
	p.DocumentID, p.Amount = done.Document, amount
	return done, storebuying.KeepPayment(do.Tx, &p, rows)
}

// payingOut reads what money is paid out of, where that is said: out of a drawer it is of a
// register whose drawer is open. It returns the branch that pays.
func payingOut(tx store.Tx, who staff.Actor, from buying.From, register uint64) (storebuying.Payment, uint64, error) {
	p := storebuying.Payment{PaidFrom: from}
	if from == "" {
		return p, who.Branch, nil
	}
	if err := who.May(staff.DeedPay); err != nil {
		return p, 0, err
	}
	if err := from.Check(); err != nil || from != buying.Drawer {
		return p, who.Branch, err
	}
	view, err := till.ReadRegister(tx.Q, register)
	if err != nil {
		return p, 0, fault.Field("register_id", register, "a register whose drawer is open",
			"Say out of which drawer it is paid.")
	}
	drawer, err := till.ShareDrawer(tx, register)
	p.DrawerID = &drawer
	return p, view.BranchID, err
}

// paidAtOnce pays a posted delivery: its bill, or, of nobody in particular, the goods.
func paidAtOnce(do deed.Deed, d storebuying.Delivery, out storebuying.Payment, in DeliveryPosting,
	set terms.Terms) error {
	if out.PaidFrom == "" {
		return nil
	}
	if d.SupplierID == nil {
		out.DocumentID, out.Amount, out.PaidOn = *d.DocumentID, d.Gross, set.Day(do.Shop.Now())
		if out.DrawerID != nil {
			if err := deed.CashOut(do.Tx, *out.DrawerID, "paid_from", out.Amount); err != nil {
				return err
			}
		}
		return storebuying.KeepPayment(do.Tx, &out, nil)
	}
	bill, err := storebuying.BillOf(do.Tx.Q, *d.DocumentID)
	if err != nil {
		return err
	}
	_, err = pay(do, PaymentInput{Supplier: *d.SupplierID, From: in.PaidFrom, Register: in.Register,
		Parts: []PaymentPart{{Bill: bill}}})
	return err
}

// readParts reads what of which bills is paid, and what stays open of each.
func readParts(in PaymentInput, set terms.Terms,
	read func(id uint64) (storebuying.BillView, error)) ([]buying.Part, []storebuying.PaymentPart,
	map[uint64]decimal.Decimal, error) {
	var parts []buying.Part
	rows := make([]storebuying.PaymentPart, len(in.Parts))
	open := map[uint64]decimal.Decimal{}
	for i, part := range in.Parts {
		bill, err := read(part.Bill)
		if err != nil {
			return nil, nil, nil, err
		}
		at := fmt.Sprintf("parts.%d.", i)
		if bill.SupplierID != in.Supplier || bill.DocumentID == nil {
			return nil, nil, nil, fault.Field(at+"bill_id", part.Bill, "a posted bill of the supplier",
				"%s is not one.", bill.Name())
		}
		if _, twice := open[bill.ID]; twice {
			return nil, nil, nil, fault.Field(at+"bill_id", part.Bill, "each bill once", "%s is there twice.",
				bill.Name())
		}
		amount := bill.Open
		if part.Amount != "" {
			if amount, err = set.Minor().Parse(at+"amount", part.Amount); err != nil {
				return nil, nil, nil, err
			}
			if bill.Open.IsNegative() {
				amount = amount.Neg()
			}
		}
		parts = append(parts, buying.Part{Number: bill.Name(), Open: bill.Open, Amount: amount})
		rows[i], open[bill.ID] = storebuying.PaymentPart{BillID: bill.ID, Amount: amount}, bill.Open.Sub(amount)
	}
	return parts, rows, open, nil
}

// PaymentSum is what a payment comes to that is not made yet.
type PaymentSum struct {
	Amount decimal.Decimal `json:"amount"`
	Text   string          `json:"text"` // for people
}

// SumPayment works out what a payment would come to, as paying will.
func SumPayment(do deed.Deed, in PaymentInput) (PaymentSum, error) {
	if err := do.Who.May(staff.DeedPay); err != nil {
		return PaymentSum{}, err
	}
	q := do.Shop.Store.Read(do.Ctx)
	set, err := q.Terms()
	if err != nil {
		return PaymentSum{}, err
	}
	parts, _, _, err := readParts(in, set, func(id uint64) (storebuying.BillView, error) {
		bill, _, _, err := storebuying.ReadBill(q, id)
		return bill, err
	})
	if err != nil {
		return PaymentSum{}, err
	}
	amount, _, err := buying.Pay(parts, buying.Outside)
	return PaymentSum{amount, set.Currency.Format(amount)}, err
}

// CreditInput is a supplier's credit note for a credit that is expected. Net is without tax;
// empty for what was expected.
type CreditInput struct {
	Credit   uint64 `json:"credit_id"`
	Number   string `json:"number"`
	BilledOn string `json:"billed_on"`
	Net      string `json:"net"`
}

// EnterCredit posts a supplier's credit note. What it is less than was expected is a price
// variance.
func EnterCredit(do deed.Deed, in CreditInput) (deed.Posted, error) {
	return deed.Once(do, staff.DeedBill, func(do deed.Deed) (deed.Posted, error) {
		c, err := storebuying.LockCredit(do.Tx, in.Credit)
		if err != nil {
			return deed.Posted{}, err
		}
		if c.Open.IsZero() {
			return deed.Posted{}, fault.Clash("credit_id", in.Credit, "a credit that is expected",
				"That credit note was entered already.")
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return deed.Posted{}, err
		}
		b := storebuying.Bill{Kind: storebuying.KindCreditNote, SupplierID: c.SupplierID, BranchID: do.Who.Branch,
			Number: text.Tidy(in.Number), CreatedBy: do.Who.ID,
			CreatedAt: do.Shop.Now(), Spread: buying.ByValue, Revision: 1}
		if b.Number == "" || text.Len(b.Number) > 60 {
			return deed.Posted{}, fault.Field("number", in.Number, "the number on their credit note",
				"What is the number of their credit note?")
		}
		if b.BilledOn, err = dayOr("billed_on", in.BilledOn, set.Day(do.Shop.Now())); err != nil {
			return deed.Posted{}, err
		}
		b.DueOn = b.BilledOn
		net := c.Open
		if in.Net != "" {
			if net, err = set.Minor().Parse("net", in.Net); err != nil {
				return deed.Posted{}, err
			}
		}
		credited := buying.Credit(net, c.Percent, c.Open, set.Minor())
		name, err := deed.NextNumber(do.Tx, stock.CreditNote)
		if err != nil {
			return deed.Posted{}, err
		}
		now := stock.NotBefore(do.Shop.Now(), c.Since)
		draft := stock.NewDraft(stock.Holding{}, stock.Document{Kind: stock.CreditNote, Number: name,
			Branch: do.Who.Branch, By: do.Who.ID, HappenedAt: now,
			RecordedAt: now, Note: c.Why})
		draft.PostAll(credited.Postings())
		done, err := deed.Post(do.Tx, stock.Holding{}, draft)
		if err != nil {
			return done, err
		}
		posted := text.NumberKey(b.Number)
		b.PostedKey, b.DocumentID = &posted, &done.Document
		b.Net, b.Tax, b.Gross, b.Open = net.Neg(), credited.Tax.Neg(), credited.Gross.Neg(), credited.Gross.Neg()
		if err := storebuying.SaveBill(do.Tx, &b); err != nil {
			return done, err
		}
		return done, storebuying.SetCredit(do.Tx, c.ID, decimal.Zero, &b.ID)
	})
}
