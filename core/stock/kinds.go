package stock

import (
	"slices"

	"itemrack/core/fault"
)

// Kind is what a document does.
type Kind string

// The kinds of document.
const (
	Opening         Kind = "Opening stock"
	Delivery        Kind = "Delivery"
	Sale            Kind = "Sale"
	Return          Kind = "Return"
	ConditionChange Kind = "Condition"
	Count           Kind = "Shelf count"
	KitMade         Kind = "Kit made up"
	KitBroken       Kind = "Kit broken up"
	CashUp          Kind = "Cash-up"
	Bill            Kind = "Bill"
	CreditNote      Kind = "Credit note"
	Payment         Kind = "Payment"
	SupplierReturn  Kind = "Back to supplier"
	Reversal        Kind = "Reversal"
	CashMoved       Kind = "Drawer"
	AccountPaid     Kind = "Account paid"
	StockSet        Kind = "Stock set"
	NumberGiven     Kind = "Number given"
	Moving          Kind = "Move"
	Sent            Kind = "Sending"
	Arrived         Kind = "Arrival"
	SentSettled     Kind = "Sending settled"
)

// kind is what there is to know of a kind of document; all of it stands in one table, kinds.
type kind struct {
	Kind
	prefix   string // of its numbers; empty where what it is of gives them
	reversed bool   // it can be reversed whole
	mended   string // by what, where it can't be
	moves    bool   // it changes stock, or what it is worth
	brings   bool   // goods that were bought, or were there when the shop began
	places   bool   // it only changes the place of goods
}

// kinds are the kinds of document, in the order in which they are shown.
var kinds = []kind{
	{Kind: Opening, prefix: "OS", reversed: true, moves: true, brings: true},
	{Kind: Delivery, prefix: "D", reversed: true, moves: true, brings: true},
	{Kind: SupplierReturn, prefix: "BS", reversed: true, moves: true},
	{Kind: Sale, reversed: true, moves: true},
	{Kind: Return, reversed: true, moves: true},
	{Kind: ConditionChange, prefix: "CC", reversed: true, moves: true, places: true},
	{Kind: KitMade, prefix: "KM", reversed: true, moves: true},
	{Kind: KitBroken, prefix: "KB", reversed: true, moves: true},
	{Kind: Count, prefix: "SC", reversed: true, moves: true},
	{Kind: StockSet, prefix: "ST", reversed: true, moves: true},
	{Kind: NumberGiven, prefix: "SN", mended: "a return of the thing that the number was given for", moves: true},
	{Kind: Moving, prefix: "MV", reversed: true, moves: true, places: true},
	{Kind: Sent, prefix: "S", mended: "settling the sending: its goods went back", moves: true},
	{Kind: Arrived, prefix: "SA", mended: "a sending back", moves: true},
	{Kind: SentSettled, prefix: "SS", mended: "correcting the stock of the branch where it was settled", moves: true},
	{Kind: Bill, prefix: "B", reversed: true, moves: true},
	{Kind: Reversal, prefix: "RV", mended: "the document that it reversed, made anew", moves: true},
	{Kind: CashUp, prefix: "CU", mended: "cash put in or taken out of the next drawer, with its reason"},
	{Kind: CreditNote, prefix: "CN", reversed: true},
	{Kind: Payment, prefix: "PY", reversed: true},
	{Kind: CashMoved, prefix: "DR", reversed: true},
	{Kind: AccountPaid, prefix: "AC", reversed: true},
}

// of is what there is to know of a kind; nothing of one that there is not.
func (k Kind) of() kind {
	if at := slices.IndexFunc(kinds, func(x kind) bool { return x.Kind == k }); at >= 0 {
		return kinds[at]
	}
	return kind{Kind: k}
}

// Kinds lists the kinds of document in the order in which they are shown.
func Kinds() []Kind { return those(func(kind) bool { return true }) }

// Movements lists the kinds of document that change stock or its worth, in the order in which they are shown.
func Movements() []Kind { return those(func(k kind) bool { return k.moves }) }

func those(which func(kind) bool) []Kind {
	var list []Kind
	for _, k := range kinds {
		if which(k) {
			list = append(list, k.Kind)
		}
	}
	return list
}

// Prefix is how the numbers of a kind begin: D of D-0207. It is empty for sales and returns, whose register gives them.
func (k Kind) Prefix() string { return k.of().prefix }

// Reversible reports whether documents of a kind can be reversed whole.
func (k Kind) Reversible() bool { return k.of().reversed }

// MendedBy says by what a document is mended that can't be reversed; empty where it can.
func (k Kind) MendedBy() string { return k.of().mended }

// Brings reports whether documents of a kind bring goods in that were bought, or that were
// there when the shop began.
func (k Kind) Brings() bool { return k.of().brings }

// Moves reports whether documents of a kind only change the place of goods.
func (k Kind) Moves() bool { return k.of().places }

// CheckReversal refuses to reverse a document that can't be, or was already; reversedBy
// is the number of the document that did.
func (k Kind) CheckReversal(number, reversedBy string) error {
	if reversedBy != "" {
		return fault.Clash("document", number, "a document not reversed yet",
			"%s was reversed already, by %s; nothing was posted twice.", number, reversedBy)
	}
	if !k.Reversible() {
		return fault.Refuse("document", number, k.MendedBy(), "%s can't be reversed. It is mended by %s.", number,
			k.MendedBy())
	}
	return nil
}
