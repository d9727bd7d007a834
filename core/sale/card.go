package sale

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
)

// Loose is a card that was charged, or is to be given money back, while the answer was
// lost: it stands until it is settled.
type Loose struct {
	What      LooseKind       `json:"what"`
	Reference string          `json:"reference"` // of the charge, or of the refund
	Number    string          `json:"number"`    // of the sale or return; empty where there is none
	Amount    decimal.Decimal `json:"amount"`
	At        time.Time       `json:"at"`
}

// LooseKind is what is loose about a card.
type LooseKind string

// What can be loose. All of them are settled by giving the amount back.
const (
	ChargedNotSold LooseKind = "charged, not sold"
	VoidNotBack    LooseKind = "void, still charged"
	BackNotPaid    LooseKind = "came back, not paid back"
)

// Find picks what is loose by its reference; what is settled already is refused.
func Find(list []Loose, reference string) (Loose, error) {
	for _, l := range list {
		if l.Reference == reference {
			return l, nil
		}
	}
	return Loose{}, fault.Clash("reference", reference, "a card that is not settled yet",
		"That card is settled already; nothing was given back twice.")
}
