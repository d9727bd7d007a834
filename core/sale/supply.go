package sale

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/serial"
	"itemrack/core/stock"
)

// Supply is what there is to sell a line from: how many are for sale at the register's
// branch and elsewhere, the serial numbers to choose from, the lots that will be taken,
// and what is in the way, in words.
type Supply struct {
	Here, Elsewhere decimal.Decimal
	Numbered        bool // a serial number is chosen on the line
	Choices         []string
	Lots            []string
	Short           string
}

// Supplied says what there is to sell a line of a basket from, which takes so many units;
// needs has the lines before it. Parts is what one of a bundle holds.
func Supplied(v Sellable, l BasketLine, units decimal.Decimal, parts []Part, needs *Needs) Supply {
	held, branch, day := needs.held, needs.branch, needs.day
	takes, err := needs.Line(v, l.Lot, units, parts)
	switch {
	case v.Bundle:
		return bundleSupply(l, parts, needs, v, err)
	case v.Tracking == stock.NotStocked:
		return Supply{}
	}
	s := Supply{Here: held.Available(v.ID, branch, day), Numbered: v.Tracking == stock.BySerial}
	s.Elsewhere = held.Available(v.ID, 0, day).Sub(s.Here)
	if s.Numbered {
		s.Choices = held.NumbersAt(v.ID, branch, stock.ForSale)
		if l.Serial == "" {
			s.Short = "Choose its serial number."
		}
		return s
	}
	if err != nil {
		s.Short = err.Error()
		return s
	}
	for _, t := range takes {
		lot, ok := held.Lots[t.Key.Lot]
		if !ok {
			continue
		}
		said := "Lot " + lot.Number
		if !lot.Expiry.IsZero() {
			said += ", use by " + lot.Expiry.Format("2 Jan 2006")
		}
		s.Lots = append(s.Lots, said)
	}
	return s
}

// bundleSupply is how many of a bundle are made up or its parts allow; short says what its
// parts are short of.
func bundleSupply(l BasketLine, parts []Part, needs *Needs, v Sellable, short error) Supply {
	held, branch, day := needs.held, needs.branch, needs.day
	var s Supply
	need := 0
	for _, p := range parts {
		if p.Tracking == stock.BySerial {
			need++
			s.Choices = append(s.Choices, held.NumbersAt(p.Variant, branch, stock.ForSale)...)
		}
	}
	s.Numbered = need > 0
	s.Here = Made(v.ID, parts, held, branch, day)
	s.Elsewhere = decimal.Max(decimal.Zero, Made(v.ID, parts, held, 0, day).Sub(s.Here))
	switch {
	case short != nil:
		s.Short = short.Error()
	case s.Here.LessThan(l.Quantity):
		s.Short = "Its parts are not all here."
	case len(serial.Kept(l.Serial)) < need:
		s.Short = "Choose its serial number."
	}
	return s
}

// Made is how many of a bundle there are at a branch (0 for all) on a day: those made up,
// and those that its parts allow.
func Made(bundle uint64, parts []Part, held stock.Holding, branch uint64, day time.Time) decimal.Decimal {
	list := make([]catalog.Part, len(parts))
	for i, p := range parts {
		list[i] = catalog.Part{
			Quantity:   p.Quantity,
			Available:  held.Available(p.Variant, branch, day),
			NotStocked: p.Tracking == stock.NotStocked,
		}
	}
	return held.OnHand(bundle, branch, stock.ForSale).Add(catalog.Available(list))
}
