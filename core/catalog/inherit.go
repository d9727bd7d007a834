package catalog

import (
	"github.com/shopspring/decimal"

	"itemrack/core/price"
)

// Defaults are what a product takes over when it says nothing of its own: a nil
// or zero figure is not said. Name is whose they are.
type Defaults struct {
	Name     string           `json:"name"`
	TaxClass uint64           `json:"tax_class"`
	Markup   *decimal.Decimal `json:"markup" see:"costs"`
	Ending   *price.Ending    `json:"ending"`
	Restock  *decimal.Decimal `json:"restock"`
}

// Settled is what holds for a product, and where each comes from: its own name
// for what it says itself, a category's, a supplier's or the shop's.
type Settled struct {
	TaxClass     uint64           `json:"tax_class"`
	TaxFrom      string           `json:"tax_from"`
	Markup       *decimal.Decimal `json:"markup" see:"costs"`
	MarkupFrom   string           `json:"markup_from"`
	Ending       price.Ending     `json:"ending"`
	EndingFrom   string           `json:"ending_from"`
	Restock      *decimal.Decimal `json:"restock"`
	RestockFrom  string           `json:"restock_from"`
	MarkupIsHere bool             `json:"markup_is_here"` // said by the product itself
}

// Settle finds what holds for a product: the first in the chain that says
// something is heard, for each figure by itself. The chain begins with the
// product and goes on with its categories, nearest first, its supplier and the
// shop.
func Settle(chain []Defaults) Settled {
	var s Settled
	for i, d := range chain {
		if s.TaxClass == 0 && d.TaxClass != 0 {
			s.TaxClass, s.TaxFrom = d.TaxClass, d.Name
		}
		if s.Markup == nil && d.Markup != nil {
			s.Markup, s.MarkupFrom, s.MarkupIsHere = d.Markup, d.Name, i == 0
		}
		if s.EndingFrom == "" && d.Ending != nil {
			s.Ending, s.EndingFrom = *d.Ending, d.Name
		}
		if s.Restock == nil && d.Restock != nil {
			s.Restock, s.RestockFrom = d.Restock, d.Name
		}
	}
	return s
}

// Rule is the price rule that holds: cost plus markup, with the ending.
func (s Settled) Rule() price.Rule {
	if s.Markup == nil {
		return price.Rule{Ending: s.Ending}
	}
	return price.Rule{Kind: price.Markup, Percent: *s.Markup, Ending: s.Ending}
}
