package register

import (
	"context"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/device"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/devices"
	storetill "itemrack/store/till"
)

// Loose lists the cards that were charged, or are to be given money back, while the answer
// was lost.
func Loose(ctx context.Context, s *deed.Shop, who staff.Actor) ([]sale.Loose, error) {
	if err := who.May(staff.DeedLook); err != nil {
		return nil, err
	}
	return devices.Loose(s.Store.Read(ctx), s.Now())
}

// GiveBack settles a card: the terminal gives the amount back, once however often it is
// asked.
func GiveBack(ctx context.Context, s *deed.Shop, who staff.Actor, reference string) (sale.Loose, error) {
	if err := who.May(staff.DeedReturn); err != nil {
		return sale.Loose{}, err
	}
	list, err := devices.Loose(s.Store.Read(ctx), s.Now())
	if err != nil {
		return sale.Loose{}, err
	}
	l, err := sale.Find(list, reference)
	if err != nil {
		return l, err
	}
	if l.What == sale.BackNotPaid {
		return l, device.Refund(ctx, devices.Of(s.Store), reference, l.Amount, s.Now())
	}
	return l, device.Return(ctx, devices.Of(s.Store), reference)
}

// InsteadInput says at which register, and how, a customer gets what a card can't be given.
type InsteadInput struct {
	Register  uint64         `json:"register_id"`
	Reference string         `json:"reference"`
	Refund    sale.RefundHow `json:"refund"` // cash or store credit
	Approval  *deed.Approval `json:"approval"`
}

// looseNow finds what is loose, with refunds of this very moment: the customer is still there. A charge
// of this moment may yet be sold.
func looseNow(s *deed.Shop, tx store.Tx, reference string) (sale.Loose, error) {
	list, err := devices.Loose(tx.Q, s.Now().Add(2*time.Minute))
	if err != nil {
		return sale.Loose{}, err
	}
	l, err := sale.Find(list, reference)
	if err != nil || l.What == sale.BackNotPaid {
		return l, err
	}
	if list, err = devices.Loose(tx.Q, s.Now()); err != nil {
		return l, err
	}
	return sale.Find(list, reference)
}

// Given is what a customer got instead of money on a card.
type Given struct {
	deed.Posted
	Cash   decimal.Decimal `json:"cash"`
	Credit *sale.Credit    `json:"credit"`
}

// GiveInstead gives a customer in cash, or as store credit, what a card can't be given back: once, and
// never beside the card.
func GiveInstead(ctx context.Context, s *deed.Shop, who staff.Actor, key string, in InsteadInput) (Given, error) {
	by, err := deed.Approver(ctx, s, in.Approval)
	if err != nil {
		return Given{}, err
	}
	return deed.Once(ctx, s, who, staff.DeedReturn, key, func(tx store.Tx) (Given, error) {
		l, err := looseNow(s, tx, in.Reference)
		if err != nil {
			return Given{}, err
		}
		set, err := tx.Terms()
		if err != nil {
			return Given{}, err
		}
		till, err := openTill(tx, who, in.Register, 0)
		if err != nil {
			return Given{}, err
		}
		if err := till.Sells(); err != nil {
			return Given{}, err
		}
		paid, err := sale.Instead(in.Refund, l.Amount, set.Till.CashStep, l.Reference)
		if err != nil {
			return Given{}, err
		}
		ask := deed.Asks(s, who, by)
		if err := ask.May(staff.DeedRefundCash, set.Currency.Format(l.Amount)+" instead of money on a card"); err != nil {
			return Given{}, err
		}
		mine, err := devices.Settle(tx, l.Reference, device.Approved, device.Otherwise, l.Amount, s.Now())
		if err != nil {
			return Given{}, err
		}
		if !mine {
			_, err := sale.Find(nil, l.Reference)
			return Given{}, err
		}
		given := Given{Cash: paid.Of(sale.Cash).Neg()}
		for i, t := range paid {
			if t.Kind == sale.ByCredit {
				code, err := newCode(sale.ByCredit)
				if err != nil {
					return Given{}, err
				}
				paid[i].Code = code
				given.Credit = &sale.Credit{Kind: sale.ByCredit, Code: code, Balance: l.Amount}
			}
		}
		name, err := deed.NextNumber(tx, "DR")
		if err != nil {
			return Given{}, err
		}
		now := s.Now()
		draft := stock.NewDraft(stock.Holding{}, stock.Document{Kind: stock.CashMoved, Number: name,
			Branch: till.Branch, By: who.ID,
			HappenedAt: now, RecordedAt: now, Note: text.Cut("instead of a card: "+text.Or(l.Number, l.Reference), 250)})
		paid.Post(draft)
		given.Posted, err = deed.Post(tx, stock.Holding{}, draft, storetill.WithInstead(till.Drawer, paid, given.Credit, now),
			storetill.Opens(till.Register, who.ID, now, posted(paid)))
		if err != nil {
			return Given{}, err
		}
		return given, ask.Keep(tx, till.Register, 0, given.Document)
	})
}
