package register

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/core/text"
	"itemrack/device"
	"itemrack/shop/deed"
	"itemrack/store/devices"
	storetill "itemrack/store/till"
)

// Loose lists the cards that were charged, or are to be given money back, while the answer
// was lost.
func Loose(do deed.Deed) ([]sale.Loose, error) {
	if err := do.Who.May(staff.DeedLook); err != nil {
		return nil, err
	}
	return devices.Loose(do.Shop.Store.Read(do.Ctx), do.Shop.Now())
}

// GiveBack settles a card: the terminal gives the amount back, once however often it is
// asked.
func GiveBack(do deed.Deed, reference string) (sale.Loose, error) {
	if err := do.Who.May(staff.DeedReturn); err != nil {
		return sale.Loose{}, err
	}
	list, err := devices.Loose(do.Shop.Store.Read(do.Ctx), do.Shop.Now())
	if err != nil {
		return sale.Loose{}, err
	}
	l, err := sale.Find(list, reference)
	if err != nil {
		return l, err
	}
	if l.What == sale.BackNotPaid {
		return l, device.Refund(do.Ctx, devices.Of(do.Shop.Store), reference, l.Amount, do.Shop.Now())
	}
	return l, device.Return(do.Ctx, devices.Of(do.Shop.Store), reference)
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
func looseNow(do deed.Deed, reference string) (sale.Loose, error) {
	list, err := devices.Loose(do.Tx.Q, do.Shop.Now().Add(2*time.Minute))
	if err != nil {
		return sale.Loose{}, err
	}
	l, err := sale.Find(list, reference)
	if err != nil || l.What == sale.BackNotPaid {
		return l, err
	}
	if list, err = devices.Loose(do.Tx.Q, do.Shop.Now()); err != nil {
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
func GiveInstead(do deed.Deed, in InsteadInput) (Given, error) {
	by, err := deed.Approver(do.Ctx, do.Shop, in.Approval)
	if err != nil {
		return Given{}, err
	}
	return deed.Once(do, staff.DeedReturn, func(do deed.Deed) (Given, error) {
		l, err := looseNow(do, in.Reference)
		if err != nil {
			return Given{}, err
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return Given{}, err
		}
		till, err := openTill(do, in.Register, 0)
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
		ask := deed.Asks(do.Shop, do.Who, by)
		if err := ask.May(staff.DeedRefundCash, set.Currency.Format(l.Amount)+" instead of money on a card"); err != nil {
			return Given{}, err
		}
		mine, err := devices.Settle(do.Tx, l.Reference, device.Approved, device.Otherwise, l.Amount, do.Shop.Now())
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
		name, err := deed.NextNumber(do.Tx, stock.CashMoved)
		if err != nil {
			return Given{}, err
		}
		now := do.Shop.Now()
		draft := stock.NewDraft(stock.Holding{}, stock.Document{Kind: stock.CashMoved, Number: name,
			Branch: till.Branch, By: do.Who.ID,
			HappenedAt: now, RecordedAt: now, Note: text.Cut("instead of a card: "+text.Or(l.Number, l.Reference), 250)})
		paid.Post(draft)
		given.Posted, err = deed.Post(do.Tx, stock.Holding{}, draft, storetill.WithInstead(till.Drawer, paid, given.Credit,
			now),
			storetill.Opens(till.Register, do.Who.ID, now, posted(paid)))
		if err != nil {
			return Given{}, err
		}
		return given, ask.Keep(do.Tx, till.Register, 0, given.Document)
	})
}
