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

// reversible are the kinds of document that can be reversed whole.
var reversible = []Kind{Delivery, Opening, ConditionChange, Count, Sale, KitMade, KitBroken, Bill, CreditNote, Payment,
	SupplierReturn, StockSet, Moving}

// Reversible reports whether documents of a kind can be reversed whole.
func (k Kind) Reversible() bool { return slices.Contains(reversible, k) }

// CheckReversal refuses to reverse a document that can't be, or was already; reversedBy
// is the number of the document that did.
func (k Kind) CheckReversal(number, reversedBy string) error {
	if reversedBy != "" {
		return fault.Clash("document", number, "a document not reversed yet",
			"%s was reversed already, by %s; nothing was posted twice.", number, reversedBy)
	}
	if !k.Reversible() {
		return fault.Refuse("document", number, "a delivery, count, change of condition, opening stock, kit or sale",
			"A document of the kind %s can't be reversed.", k)
	}
	return nil
}

// Movements lists the kinds of document that change stock, in the order in which
// they are shown.
var Movements = []Kind{Opening, Delivery, SupplierReturn, Sale, Return, ConditionChange, KitMade, KitBroken, Count,
	StockSet, NumberGiven, Moving, Sent, Arrived, SentSettled, Bill, Reversal}

// Brings reports whether documents of a kind bring goods in that were bought, or that were
// there when the shop began.
func (k Kind) Brings() bool { return k == Delivery || k == Opening }

// Moves reports whether documents of a kind only change the place of goods.
func (k Kind) Moves() bool { return k == ConditionChange || k == Moving }
