package register

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/device"
	"itemrack/shop/deed"
	"itemrack/store/customers"
	"itemrack/store/devices"
	storetill "itemrack/store/till"
)

// TenderInput is one way to pay: Code is that of a voucher or store credit.
type TenderInput struct {
	Kind   sale.TenderKind `json:"kind"`
	Amount string          `json:"amount"`
	Code   string          `json:"code"`
}

// byCredit reports whether a voucher or store credit pays for some of it.
func (in SaleInput) byCredit() bool {
	return slices.ContainsFunc(in.ways(), func(t TenderInput) bool { return t.Code != "" })
}

// ways are the ways to pay in their order, as they were asked for.
func (in SaleInput) ways() []TenderInput {
	all := slices.Clone(in.Tenders)
	if strings.TrimSpace(in.Card) != "" {
		all = append(all, TenderInput{Kind: sale.Card, Amount: in.Card})
	}
	if strings.TrimSpace(in.Cash) != "" {
		all = append(all, TenderInput{Kind: sale.Cash, Amount: in.Cash})
	}
	return all
}

// tenders reads how it is paid; each card gets a reference of its own, so that it is charged once.
func (p *selling) tenders() ([]sale.Tender, error) {
	var given []sale.Tender
	cards := 0
	for _, in := range p.in.ways() {
		way, err := in.read(p.set.Minor())
		if err != nil {
			return nil, err
		}
		t := way.Tender
		if way.All {
			return nil, fault.Field(sale.TenderField(t.Kind), "", "an amount", "Say how much is paid by %s.", t.Kind)
		}
		if t.Kind == sale.Card && t.Amount.IsPositive() {
			if p.Key == "" {
				return nil, fault.Field("Idempotency-Key", "", "a key of its own for each payment",
					"A card payment needs a request key, so that it is charged once.")
			}
			t.Reference = fmt.Sprintf("sale/%d/%s", p.Who.ID, p.Key)
			if cards++; cards > 1 {
				t.Reference += fmt.Sprintf("/%d", cards)
			}
		}
		given = append(given, t)
	}
	return given, nil
}

// read reads a way to pay as it is typed; without an amount it takes what is left.
func (in TenderInput) read(minor money.Minor) (sale.Way, error) {
	way := sale.Way{Tender: sale.Tender{Kind: in.Kind}, All: strings.TrimSpace(in.Amount) == ""}
	var err error
	if way.Kind == sale.ByVoucher || way.Kind == sale.ByCredit {
		if way.Kind, way.Code, err = sale.ReadCredit(in.Code); err != nil {
			return way, err
		}
	}
	if way.All {
		return way, nil
	}
	if way.Amount, err = minor.Parse(sale.TenderField(way.Kind), in.Amount); err != nil {
		return way, err
	}
	if way.Amount.IsNegative() {
		return way, fault.Field(sale.TenderField(way.Kind), in.Amount, "0 or more", "Nobody pays less than nothing.")
	}
	return way, nil
}

// LeftToPay works out what is left of the basket of a register after ways to pay, which are only
// tried: one without an amount takes what is left.
func LeftToPay(do deed.Deed, register uint64, tries []TenderInput) (sale.Left, error) {
	if err := do.Who.May(staff.DeedSell); err != nil {
		return sale.Left{}, err
	}
	q := do.Shop.Store.Read(do.Ctx)
	set, err := q.Terms()
	if err != nil {
		return sale.Left{}, err
	}
	ways := make([]sale.Way, len(tries))
	for i, in := range tries {
		if ways[i], err = in.read(set.Minor()); err != nil {
			return sale.Left{}, err
		}
		if ways[i].Code == "" {
			continue
		}
		c, err := storetill.ReadVoucher(q, ways[i].Code)
		if err != nil {
			return sale.Left{}, err
		}
		if err := c.Use(ways[i].Amount, set.Minor()); err != nil {
			return sale.Left{}, err
		}
		for _, other := range ways[:i] {
			if other.Code == c.Code {
				return sale.Left{}, fault.Refuse("voucher", c.Code, "another one", "%s is among them already.", c.Code)
			}
		}
		ways[i].OnIt = &c.Balance
	}
	view, err := viewBasket(do.Shop, q, register)
	if err != nil {
		return sale.Left{}, err
	}
	return sale.Try(view.Due, ways, set.Till.CashStep, set.Minor())
}

// errTried says that a sale could be posted.
var errTried = errors.New("it can be sold")

// byCard reports whether a card pays for some of it.
func (p *selling) byCard() bool {
	return slices.ContainsFunc(p.in.ways(), func(t TenderInput) bool { return t.Kind == sale.Card })
}

// try works the sale out and keeps nothing of it: a card is only charged for what can be sold.
func (p *selling) try(do deed.Deed) (SaleResult, error) {
	if _, err := p.post(do); err != nil {
		return SaleResult{}, err
	}
	return SaleResult{}, errTried
}

// refused gives back, where a sale is refused, what was charged for it when it was asked for before.
func (p *selling) refused(err error) error {
	said := fault.Of(err)
	if said == nil || said.Field == deed.KeyField {
		return err
	}
	for i := range p.given {
		before, lost := devices.Of(p.Shop.Store).Charged(p.Ctx, p.given[i].Reference)
		if lost != nil {
			return fmt.Errorf("%w; whether a card was charged is not known: %w", err, lost)
		}
		if p.given[i].Reference != "" && before {
			if back := device.Return(context.WithoutCancel(p.Ctx), devices.Of(p.Shop.Store), p.given[i].Reference); back != nil {
				return fmt.Errorf("%w; the card could not be given back: %w", err, back)
			}
		}
	}
	return err
}

// charge charges the cards. Where one is declined those before it are given back; where the
// terminal gives no answer they stay charged until it is asked again under the same key.
func (p *selling) charge() error {
	var err error
	if p.set, err = p.Shop.Store.Read(p.Ctx).Terms(); err != nil {
		return err
	}
	if p.given, err = p.tenders(); err != nil {
		return err
	}
	p.charged = true
	for i, t := range p.given {
		if t.Reference == "" {
			continue
		}
		err := device.Charge(p.Ctx, devices.Of(p.Shop.Store), t.Reference, t.Amount, p.Shop.Now())
		if said := fault.Of(err); said != nil && said.Field != device.NoAnswerField {
			if back := p.uncharge(i); back != nil {
				return fmt.Errorf("%w; the card before could not be given back: %w", err, back)
			}
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// uncharge gives back what the first so many cards were charged.
func (p *selling) uncharge(first int) error {
	var all error
	for _, t := range p.given[:first] {
		if t.Reference != "" {
			all = errors.Join(all, device.Return(context.WithoutCancel(p.Ctx), devices.Of(p.Shop.Store), t.Reference))
		}
	}
	return all
}

// paid settles what is due with what was given: vouchers and store credit must have it, and only a
// customer with terms pays later.
func (p *selling) paid(due decimal.Decimal) (sale.Payment, error) {
	given := slices.Clone(p.given)
	for i := range given {
		t := &given[i]
		switch t.Kind {
		case sale.ByVoucher, sale.ByCredit:
			c, err := storetill.LockVoucher(p.Tx, t.Code)
			if err != nil {
				return nil, err
			}
			asked := t.Amount
			for _, other := range given[:i] { // the same one twice
				if other.Credit == c.ID {
					asked = asked.Add(other.Amount)
				}
			}
			if err := c.Use(asked, p.set.Minor()); err != nil {
				return nil, err
			}
			t.Credit = c.ID
		case sale.OnAccount:
			if !t.Amount.IsPositive() {
				continue
			}
			if err := p.onAccount(); err != nil {
				return nil, err
			}
		}
	}
	return sale.Pay(due, given, p.set.Till.CashStep, p.set.Minor())
}

// onAccount refuses to let somebody pay later who has no terms.
func (p *selling) onAccount() error {
	if p.till.Customer == 0 {
		return fault.Refuse("account", "", "a customer with terms on the basket",
			"On account needs a customer on the basket who has terms.")
	}
	c, err := customers.Read(p.Tx.Q, p.till.Customer)
	if err != nil {
		return err
	}
	if c.DaysToPay == nil {
		return fault.Refuse("account", c.Name, "another way to pay, or terms for the customer",
			"%s has no terms: nothing can be put on account.", c.Name)
	}
	return p.ask.May(staff.DeedAccount, "On account for "+c.Name)
}
