// Package customers keeps whom the shop sells to: made, changed, merged, exported and forgotten.
package customers

import (
	"slices"

	"github.com/shopspring/decimal"

	"itemrack/core/customer"
	"itemrack/core/fault"
	"itemrack/core/label"
	"itemrack/core/paper"
	"itemrack/core/price"
	"itemrack/core/revision"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/device/face"
	"itemrack/shop/deed"
	"itemrack/store/customers"
	"itemrack/store/office"
	"itemrack/store/prices"
	"itemrack/store/till"
)

// Input is a customer as it is typed.
type Input struct {
	customer.Facts
	Revision uint64         `json:"revision"` // as it was shown; another one is refused
	Approval *deed.Approval `json:"approval"` // of somebody who may, where the person may not
}

// Ref names a customer.
type Ref struct {
	ID       uint64 `json:"id"`
	Name     string `json:"name"`
	Code     string `json:"code"`
	Revision uint64 `json:"revision"`
}

func refOf(c customers.Customer) Ref { return Ref{c.ID, c.Name, c.Code(), c.Revision} }

// Make makes a customer.
func Make(do deed.Deed, in Input) (Ref, error) {
	by, err := deed.Approver(do.Ctx, do.Shop, in.Approval)
	if err != nil {
		return Ref{}, err
	}
	return deed.Once(do, staff.DeedCustomer, func(do deed.Deed) (Ref, error) {
		row := customers.Customer{CreatedAt: do.Shop.Now(), Revision: 1}
		return save(do, by, &row, in)
	})
}

// Change changes a customer.
func Change(do deed.Deed, id uint64, in Input) (Ref, error) {
	by, err := deed.Approver(do.Ctx, do.Shop, in.Approval)
	if err != nil {
		return Ref{}, err
	}
	return deed.Once(do, staff.DeedCustomer, func(do deed.Deed) (Ref, error) {
		row, err := customers.Lock(do.Tx, id)
		if err != nil {
			return Ref{}, err
		}
		if err := revision.Check(row.Name, in.Revision, row.Revision); err != nil {
			return Ref{}, err
		}
		if row.Gone() {
			return Ref{}, fault.Refuse("customer_id", id, "a customer who is there", "That customer was forgotten.")
		}
		return save(do, by, &row, in)
	})
}

// save checks what was typed of a customer and writes it; another list and other terms want a yes.
func save(do deed.Deed, by staff.Actor, row *customers.Customer, in Input) (Ref, error) {
	now, err := customer.Check(in.Facts)
	if err != nil {
		return Ref{}, err
	}
	list := ""
	if now.List != 0 {
		lists, err := prices.PriceLists(do.Tx.Q)
		if err != nil {
			return Ref{}, err
		}
		at := slices.IndexFunc(lists, func(l price.List) bool { return l.ID == now.List })
		if at < 0 {
			return Ref{}, fault.Missing("price_list_id", now.List, "There is no price list %d.", now.List)
		}
		list = lists[at].Name
	}
	ask := deed.Asks(do.Shop, do.Who, by)
	for _, favour := range customer.Favours(facts(*row), now, list) {
		if err := ask.May(staff.DeedTerms, favour); err != nil {
			return Ref{}, err
		}
	}
	row.Put(now)
	if err := customers.Save(do.Tx, row); err != nil {
		return Ref{}, err
	}
	return refOf(*row), ask.Keep(do.Tx, 0, 0, 0)
}

// Record is all that the shop knows of a customer.
type Record struct {
	customers.Customer
	Card    string             `json:"card"` // what the customer's card says
	Owes    decimal.Decimal    `json:"owes"`
	Credits []sale.Credit      `json:"store_credit"`
	Events  []customers.Event  `json:"events"`
	Bought  []customers.Bought `json:"bought"`
	Units   []customers.Bought `json:"units"` // with serial numbers
	Held    []till.Held        `json:"baskets_on_hold"`
}

// Read reads all that the shop knows of a customer; events a page at a time.
func Read(do deed.Deed, id uint64, page int) (Record, bool, error) {
	if err := do.Who.May(staff.DeedLook); err != nil {
		return Record{}, false, err
	}
	q := do.Shop.Store.Read(do.Ctx)
	c, err := customers.Read(q, id)
	if err != nil {
		return Record{}, false, err
	}
	r := Record{Customer: c, Card: c.Code()}
	if r.Owes, err = customers.Owes(q, c.ID); err != nil {
		return r, false, err
	}
	if r.Credits, err = till.VouchersOf(q, c.ID); err != nil {
		return r, false, err
	}
	if r.Bought, err = customers.Things(q, c.ID, false, 100); err != nil {
		return r, false, err
	}
	if r.Units, err = customers.Things(q, c.ID, true, 100); err != nil {
		return r, false, err
	}
	if r.Held, err = till.HeldOf(q, c.ID); err != nil {
		return r, false, err
	}
	more := false
	r.Events, more, err = customers.Events(q, c.ID, page)
	return r, more, err
}

// Card draws a customer's card: the name of the shop, the customer's, and the card's code.
func Card(do deed.Deed, id uint64) ([]paper.Page, error) {
	if err := do.Who.May(staff.DeedSell); err != nil {
		return nil, err
	}
	q := do.Shop.Store.Read(do.Ctx)
	c, err := customers.Read(q, id)
	if err != nil {
		return nil, err
	}
	shop, err := office.Setting(q, "shop_name")
	if err != nil {
		return nil, err
	}
	page, err := label.CustomerCard(shop, c.Name, c.Code(), face.Measure)
	return []paper.Page{page}, err
}

// mostExported is how many pages of sales and returns go into a file at most.
const mostExported = 1000

// Export reads all that the shop knows of a customer, all events among it, to be handed over on demand.
func Export(do deed.Deed, id uint64) (Record, error) {
	if err := do.Who.May(staff.DeedForget); err != nil {
		return Record{}, err
	}
	all, more, err := Read(do, id, 1)
	for page := 2; more && err == nil && page <= mostExported; page++ {
		var events []customers.Event
		events, more, err = customers.Events(do.Shop.Store.Read(do.Ctx), all.ID, page)
		all.Events = append(all.Events, events...)
	}
	return all, err
}

// Forget clears the name, mail, phone, address and note of a customer on demand. What documents say
// stays, and so do figures, store credit and what is owed.
func Forget(do deed.Deed, id uint64) (Ref, error) {
	return deed.Once(do, staff.DeedForget, func(do deed.Deed) (Ref, error) {
		row, err := customers.Lock(do.Tx, id)
		if err != nil {
			return Ref{}, err
		}
		if row.ForgottenAt != nil {
			return refOf(row), nil
		}
		traces, err := customers.TracesOf(do.Tx, row.ID)
		if err != nil {
			return Ref{}, err
		}
		now := do.Shop.Now()
		row.Put(customer.Forgotten(row.ID))
		row.ForgottenAt = &now
		if err := customers.Save(do.Tx, &row); err != nil {
			return Ref{}, err
		}
		return refOf(row), customers.Forget(do.Tx, row, traces)
	})
}

// MergeInput names the customer that is made one with another.
type MergeInput struct {
	Other uint64 `json:"other_id"`
}

// Merge makes one of two customers: what the other did is this one's from then on.
func Merge(do deed.Deed, keep uint64, in MergeInput) (Ref, error) {
	return deed.Once(do, staff.DeedForget, func(do deed.Deed) (Ref, error) {
		rows := map[uint64]customers.Customer{}
		for _, id := range []uint64{min(keep, in.Other), max(keep, in.Other)} {
			row, err := customers.Lock(do.Tx, id)
			if err != nil {
				return Ref{}, err
			}
			rows[id] = row
		}
		row, other := rows[keep], rows[in.Other]
		if err := customer.CheckMerge(row.ID, other.ID, row.Gone() || other.Gone()); err != nil {
			return Ref{}, err
		}
		row.Put(customer.Together(facts(row), facts(other)))
		if err := customers.Save(do.Tx, &row); err != nil {
			return Ref{}, err
		}
		return refOf(row), customers.Merge(do.Tx, row.ID, other.ID)
	})
}

func facts(c customers.Customer) customer.Facts {
	return customer.Facts{Name: c.Name, Mail: c.Mail, Phone: c.Phone, Address: c.Address, Note: c.Note, List: c.List(),
		DaysToPay: c.DaysToPay}
}
