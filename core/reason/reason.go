// Package reason knows why stock or money changes that nobody bought or sold. Its main rule: each
// reason is the shop's own and names the account of the books that it is posted to.
package reason

import (
	"slices"

	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/text"
)

// Kind is what a reason is given for.
type Kind string

// What reasons are given for.
const (
	GivenOff Kind = "given off"
	Price    Kind = "price"
	PutIn    Kind = "put in"
	TakenOut Kind = "taken out"
	Stock    Kind = "stock"
)

// Kinds lists what reasons are given for.
var Kinds = []Kind{GivenOff, Price, PutIn, TakenOut, Stock}

// Reason is why something changed. Stock that goes under it is posted to its account, and so is
// stock that is found under it.
type Reason struct {
	ID      uint64         `json:"id"`
	Kind    Kind           `json:"kind"`
	Name    string         `json:"name"`
	Account ledger.Account `json:"account"`
	Closed  bool           `json:"closed"`
}

// own are the accounts of the books that a reason of each kind may not post to: they are
// kept by documents of their own, and In step holds them against those.
var own = []ledger.Account{ledger.Stock, ledger.Cash, ledger.Card, ledger.Payable, ledger.TaxIn, ledger.TaxOut,
	ledger.ReceivedNotBilled, ledger.CreditExpected, ledger.Vouchers, ledger.StoreCredit, ledger.Receivable,
	ledger.Exchange, ledger.CashOver, ledger.CashRounding}

// Check tidies a reason that is typed, and refuses one without a name, or with an account that
// documents keep.
func Check(r Reason) (Reason, error) {
	r.Name, r.Account = text.Tidy(r.Name), ledger.Account(text.Tidy(string(r.Account)))
	switch {
	case !slices.Contains(Kinds, r.Kind):
		return r, fault.Field("kind", r.Kind, "given off, price, put in, taken out or stock",
			"There is no kind of reason %q.", r.Kind)
	case r.Name == "" || text.Len(r.Name) > 60:
		return r, fault.Field("name", r.Name, "1 to 60 characters", "A reason needs a name of 1 to 60 characters.")
	case r.Account == "" || text.Len(string(r.Account)) > 30:
		return r, fault.Field("account", r.Account, "an account of 1 to 30 characters",
			"A reason needs an account of the books.")
	case slices.ContainsFunc(own, func(a ledger.Account) bool {
		return text.Key(string(a)) == text.Key(string(r.Account))
	}):
		return r, fault.Field("account", r.Account, "an account such as income, given off or expenses",
			"The account %s is kept by its own documents; no reason posts to it.", r.Account)
	}
	return r, nil
}

// Accounts lists the accounts of the books that reasons usually post to.
func Accounts() []ledger.Account {
	return []ledger.Account{ledger.Income, ledger.GivenOff, ledger.Expenses, ledger.Owner, ledger.Bank,
		ledger.StockLoss, ledger.StockGain}
}

// Find picks the open reason of a kind that was chosen. A kind of which the shop has no reasons
// asks for none.
func Find(list []Reason, kind Kind, id uint64) (Reason, error) {
	var names []string
	for _, r := range list {
		if r.Kind != kind || r.Closed {
			continue
		}
		if r.ID == id {
			return r, nil
		}
		names = append(names, r.Name)
	}
	if len(names) == 0 {
		return Reason{Kind: kind, Account: usual[kind]}, nil
	}
	return Reason{}, fault.Field("reason_id", id, text.Listed(names), "Say why: choose a reason.")
}

// usual are the accounts where a shop keeps no reasons of a kind.
var usual = map[Kind]ledger.Account{GivenOff: ledger.Income, Price: ledger.Income, PutIn: ledger.Owner,
	TakenOut: ledger.Owner, Stock: ledger.StockLoss}
