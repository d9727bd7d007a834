package register

import (
	"context"
	"fmt"

	"itemrack/core/fault"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/device"
	"itemrack/shop/deed"
	"itemrack/store/customers"
	"itemrack/store/devices"
	storetill "itemrack/store/till"
)

// AccountInput is what a customer pays of what is on account, by cash or card.
type AccountInput struct {
	Customer uint64          `json:"customer_id"`
	Kind     sale.TenderKind `json:"kind"`
	Amount   string          `json:"amount"`
}

// PayAccount takes what a customer pays of what is on account at a register, once; a card is charged
// before and given its money back where that is refused.
func PayAccount(do deed.Deed, register uint64, in AccountInput) (deed.Posted, error) {
	if err := do.Who.May(staff.DeedSell); err != nil {
		return deed.Posted{}, err
	}
	set, err := do.Shop.Store.Read(do.Ctx).Terms()
	if err != nil {
		return deed.Posted{}, err
	}
	amount, err := set.Minor().Parse("amount", in.Amount)
	if err != nil {
		return deed.Posted{}, err
	}
	reference := ""
	if in.Kind == sale.Card {
		if do.Key == "" {
			return deed.Posted{}, fault.Field(deed.KeyField, "", "a key of its own for each payment",
				"A card payment needs a request key, so that it is charged once.")
		}
		reference = fmt.Sprintf("account/%d/%s", do.Who.ID, do.Key)
		if err := device.Charge(do.Ctx, devices.Of(do.Shop.Store), reference, amount, do.Shop.Now()); err != nil {
			return deed.Posted{}, err
		}
	}
	done, err := deed.Once(do, staff.DeedSell, func(do deed.Deed) (deed.Posted, error) {
		till, err := openTill(do, register, 0)
		if err != nil {
			return deed.Posted{}, err
		}
		if err := till.Sells(); err != nil {
			return deed.Posted{}, err
		}
		c, err := customers.Lock(do.Tx, in.Customer)
		if err != nil {
			return deed.Posted{}, err
		}
		owes, err := customers.Owes(do.Tx.Q, c.ID)
		if err != nil {
			return deed.Posted{}, err
		}
		given, err := sale.PayOff(in.Kind, amount, owes, set.Minor())
		if err != nil {
			return deed.Posted{}, err
		}
		given[0].Reference = reference
		name, err := deed.NextNumber(do.Tx, stock.AccountPaid)
		if err != nil {
			return deed.Posted{}, err
		}
		now := do.Shop.Now()
		draft := stock.NewDraft(stock.Holding{}, stock.Document{Kind: stock.AccountPaid, Number: name,
			Branch: till.Branch, By: do.Who.ID,
			HappenedAt: now, RecordedAt: now, Note: "by " + c.Code()})
		given.Post(draft)
		return deed.Post(do.Tx, stock.Holding{}, draft, storetill.WithPaid(till.Drawer, c.ID, given),
			storetill.Opens(register, do.Who.ID, now, posted(given)))
	})
	if said := fault.Of(err); said != nil && said.Field != deed.KeyField && reference != "" {
		if back := device.Return(context.WithoutCancel(do.Ctx), devices.Of(do.Shop.Store), reference); back != nil {
			return done, fmt.Errorf("%w; the card could not be given back: %w", err, back)
		}
	}
	return done, err
}
