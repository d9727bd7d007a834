package buying

import (
	"fmt"
	"net/mail"
	"strconv"
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/price"
	"itemrack/core/revision"
	"itemrack/core/staff"
	"itemrack/core/text"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/book"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// SupplierInput is a supplier as it is typed. Empty figures are none.
type SupplierInput struct {
	Name          string                  `json:"name"`
	AccountNumber string                  `json:"account_number"`
	CurrencyNote  string                  `json:"currency_note"`
	Note          string                  `json:"note"`
	Discount      string                  `json:"discount"`
	Freight       string                  `json:"freight"`
	Markup        string                  `json:"markup"`
	Ending        string                  `json:"ending"`
	DaysToPay     string                  `json:"days_to_pay"`
	LeadDays      string                  `json:"lead_days"`
	MinimumOrder  string                  `json:"minimum_order"`
	Contacts      []goods.SupplierContact `json:"contacts"`
	Revision      uint64                  `json:"revision"` // as it was shown; another one is refused
}

// SupplierRef names a supplier.
type SupplierRef struct {
	ID       uint64 `json:"id"`
	Name     string `json:"name"`
	Revision uint64 `json:"revision"`
	Said     string `json:"said,omitempty"`
}

// SaveSupplier changes a supplier, or makes a new one when id is 0.
func SaveSupplier(do deed.Deed, id uint64, in SupplierInput) (SupplierRef, error) {
	return deed.Once(do, staff.DeedSupplier, func(do deed.Deed) (SupplierRef, error) {
		row := goods.Supplier{}
		if id != 0 {
			var err error
			if row, _, err = goods.LockSupplier(do.Tx, id); err != nil {
				return SupplierRef{}, err
			}
			if err := revision.Check(row.Name, in.Revision, row.Revision); err != nil {
				return SupplierRef{}, err
			}
		}
		if err := readSupplier(do.Tx, &row, in); err != nil {
			return SupplierRef{}, err
		}
		contacts, err := readContacts(in.Contacts)
		if err != nil {
			return SupplierRef{}, err
		}
		row.Revision++
		if err := goods.KeepSupplierRow(do.Tx, &row, contacts); err != nil {
			return SupplierRef{}, err
		}
		ref := SupplierRef{ID: row.ID, Name: row.Name, Revision: row.Revision, Said: "Saved."}
		products, err := goods.ProductIDs(do.Tx.Q, goods.ListFilter{Supplier: row.ID}, 0, 1_000_000)
		if err != nil {
			return ref, err
		}
		return ref, book.Restand(do.Tx, products, do.Shop.Now())
	})
}

// readSupplier reads what was typed of a supplier.
func readSupplier(tx store.Tx, row *goods.Supplier, in SupplierInput) error {
	set, err := tx.Terms()
	if err != nil {
		return err
	}
	row.Name = text.Tidy(in.Name)
	for _, t := range []struct {
		field, value string
		most         int
		into         *string
	}{{"name", row.Name, 120, &row.Name}, {"account_number", text.Tidy(in.AccountNumber), 60, &row.AccountNumber},
		{"currency_note", text.Tidy(in.CurrencyNote), 120, &row.CurrencyNote}, {"note", text.Prose(in.Note), 2000,
			&row.Note}} {
		if text.Len(t.value) > t.most {
			return fault.Field(t.field, text.Cut(t.value, 60), fmt.Sprintf("%d characters or fewer", t.most),
				"That is too long.")
		}
		*t.into = t.value
	}
	if text.Key(row.Name) == "" {
		return fault.Field("name", in.Name, "a name of 1 to 120 characters", "A supplier needs a name.")
	}
	percent := func(field, typed string) (decimal.Decimal, error) {
		amount, err := number.Optional(field, typed, price.ParsePercent)
		return number.OrZero(amount), err
	}
	if row.Discount, err = percent("discount", in.Discount); err != nil {
		return err
	}
	if row.Freight, err = percent("freight", in.Freight); err != nil {
		return err
	}
	if row.DaysToPay, err = days("days_to_pay", in.DaysToPay); err != nil {
		return err
	}
	if row.LeadDays, err = days("lead_days", in.LeadDays); err != nil {
		return err
	}
	least, err := number.Optional("minimum_order", in.MinimumOrder, set.Minor().Parse)
	if err != nil {
		return err
	}
	row.MinimumOrder = number.OrZero(least)
	if err := row.Check(); err != nil {
		return err
	}
	if row.Markup, err = number.Optional("markup", in.Markup, price.ParsePercent); err != nil {
		return err
	}
	row.Ending, err = price.OptionalEnding(in.Ending, money.Thousandth)
	return err
}

// days reads a number of days; none is 0.
func days(field, typed string) (int, error) {
	typed = strings.TrimSpace(typed)
	if typed == "" {
		return 0, nil
	}
	n, err := strconv.Atoi(typed)
	if err != nil {
		return 0, fault.Field(field, typed, "a whole number of days", "%q is not a number of days.", typed)
	}
	return n, nil
}

// mostContacts is how many people to ask a supplier has at most.
const mostContacts = 20

// readContacts reads the people to ask at a supplier; those of whom nothing is said are
// left out.
func readContacts(in []goods.SupplierContact) ([]goods.SupplierContact, error) {
	var list []goods.SupplierContact
	for i, c := range in {
		at := func(field string) string { return fmt.Sprintf("contacts.%d.%s", i, field) }
		c = goods.SupplierContact{Name: text.Tidy(c.Name), Mail: strings.TrimSpace(c.Mail), Phone: text.Tidy(c.Phone),
			Note: text.Tidy(c.Note)}
		if c == (goods.SupplierContact{}) {
			continue
		}
		for _, t := range []struct {
			field, value string
			most         int
		}{{"name", c.Name, 80}, {"mail", c.Mail, 254}, {"phone", c.Phone, 40}, {"note", c.Note, 120}} {
			if text.Len(t.value) > t.most {
				return nil, fault.Field(at(t.field), text.Cut(t.value, 60),
					fmt.Sprintf("%d characters or fewer", t.most), "That is too long.")
			}
		}
		if c.Mail != "" {
			if parsed, err := mail.ParseAddress(c.Mail); err != nil || parsed.Address != c.Mail {
				return nil, fault.Field(at("mail"), c.Mail, "an address such as orders@example.com",
					"%q is not a mail address.", c.Mail)
			}
		}
		list = append(list, c)
	}
	if len(list) > mostContacts {
		return nil, fault.Field("contacts", len(list), fmt.Sprintf("%d or fewer", mostContacts),
			"That is more people than can be kept.")
	}
	return list, nil
}

// CloseSupplier closes a supplier, or opens it again: what was bought there stays, and
// nothing more is ordered.
func CloseSupplier(do deed.Deed, id uint64, closed bool) (SupplierRef, error) {
	return deed.Once(do, staff.DeedSupplier, func(do deed.Deed) (SupplierRef, error) {
		row, contacts, err := goods.LockSupplier(do.Tx, id)
		if err != nil {
			return SupplierRef{}, err
		}
		said := row.Name + " is closed."
		if row.ClosedAt = nil; closed {
			now := do.Shop.Now()
			row.ClosedAt = &now
			open, _, err := storebuying.Orders(do.Tx.Q, storebuying.OrderFilter{Supplier: id, Open: true}, 1)
			if err != nil {
				return SupplierRef{}, err
			}
			if len(open) > 0 {
				return SupplierRef{}, fault.Refuse("supplier_id", row.Name,
					"to take in or call off what is outstanding",
					"%s still has %s to bring; call it off first.", row.Name, open[0].Number)
			}
		} else {
			said = row.Name + " is open again."
		}
		row.Revision++
		return SupplierRef{ID: id, Name: row.Name, Revision: row.Revision, Said: said}, goods.KeepSupplierRow(do.Tx, &row,
			contacts)
	})
}

// MergeSuppliers gives all that one supplier has to another, and drops it.
func MergeSuppliers(do deed.Deed, from, into uint64) (SupplierRef, error) {
	return deed.Once(do, staff.DeedSupplier, func(do deed.Deed) (SupplierRef, error) {
		if from == into {
			return SupplierRef{}, fault.Field("into_id", into, "another supplier",
				"Those are the same supplier already.")
		}
		rows := map[uint64]goods.Supplier{}
		for _, id := range []uint64{min(from, into), max(from, into)} { // in one order, whoever else merges
			row, _, err := goods.LockSupplier(do.Tx, id)
			if err != nil {
				return SupplierRef{}, err
			}
			rows[id] = row
		}
		products, err := goods.ProductIDs(do.Tx.Q, goods.ListFilter{Supplier: from}, 0, 1_000_000)
		if err != nil {
			return SupplierRef{}, err
		}
		if err := storebuying.MergeSuppliers(do.Tx, from, into); err != nil {
			return SupplierRef{}, err
		}
		ref := SupplierRef{ID: into, Name: rows[into].Name, Revision: rows[into].Revision, Said: rows[from].Name +
			" is " + rows[into].Name + " now."}
		return ref, book.Restand(do.Tx, products, do.Shop.Now())
	})
}
