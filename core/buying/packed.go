package buying

import (
	"strings"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/unit"
)

// Packed is goods as they came: Packs of Of units each, and Loose ones; nil where nothing is
// said. What they cost is said of one, or of all.
type Packed struct {
	Packs, Of, Loose *decimal.Decimal
	Each, Total      *decimal.Decimal
}

// ReadPacked reads goods as they are typed.
func ReadPacked(packs, of, loose, each, total string, minor money.Minor) (Packed, error) {
	var p Packed
	var err error
	for _, t := range []struct {
		into        **decimal.Decimal
		field, text string
		parse       func(field, text string) (decimal.Decimal, error)
	}{{&p.Packs, "packs", packs, unit.Piece.Parse}, {&p.Of, "pack_of", of, money.ParseCost}, {&p.Loose, "loose", loose,
		unit.Kilogram.Parse},
		{&p.Each, "cost", each, money.ParseCost}, {&p.Total, "total", total, minor.Parse}} {
		if *t.into, err = number.Optional(t.field, strings.TrimSpace(t.text), t.parse); err != nil {
			return p, err
		}
	}
	switch {
	case p.Packs != nil && p.Packs.IsPositive() && (p.Of == nil || !p.Of.IsPositive()):
		return p, fault.Field("pack_of", of, "how many are in one", "How many are in a pack?")
	case p.Of != nil && !p.Of.IsPositive():
		return p, fault.Field("pack_of", of, "1 or more", "A pack of %s is none.", of)
	}
	return p, nil
}

// Units is how many there are in all: 8 packs of 12 and 4 loose are 100.
func (p Packed) Units() decimal.Decimal {
	return number.OrZero(p.Packs).Mul(number.OrZero(p.Of)).Add(number.OrZero(p.Loose))
}

// One is what one cost, to 6 decimals; nil while it can't be said. The total counts before it.
func (p Packed) One() *decimal.Decimal {
	if p.Total == nil || !p.Units().IsPositive() {
		return p.Each
	}
	one := p.Total.DivRound(p.Units(), money.CostPlaces)
	return &one
}
