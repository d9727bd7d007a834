package sale

import (
	"cmp"
	"slices"
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
	Places          []Place // the other branches that have some
	Numbered        bool    // a serial number is chosen on the line
	Choices         []string
	Lots            []string
	Short           string
}

// Place is how many of something are for sale at another branch, and how many minutes away that is;
// below zero where nobody said.
type Place struct {
	Branch   uint64          `json:"branch_id"`
	Name     string          `json:"name"`
	Quantity decimal.Decimal `json:"quantity"`
	Minutes  int             `json:"minutes"`
}

// Nearest puts places in order: the nearest first, those of which nobody knows how far last.
func Nearest(list []Place) {
	slices.SortStableFunc(list, func(a, b Place) int {
		if (a.Minutes < 0) != (b.Minutes < 0) {
			return cmp.Compare(b.Minutes, a.Minutes)
		}
		return cmp.Or(cmp.Compare(a.Minutes, b.Minutes), cmp.Compare(a.Branch, b.Branch))
	})
}

// LotChoice is a lot that a line can be sold from.
type LotChoice struct {
	ID    uint64          `json:"id"`
	Label string          `json:"label"`
	Here  decimal.Decimal `json:"here"`
}

// LotsAt lists the lots of a variant that are sold from a condition at a branch and not past their expiry on a
// day, in the order in which they are proposed.
func LotsAt(held stock.Holding, variant, branch uint64, from stock.Condition, day time.Time) []LotChoice {
	var list []LotChoice
	for id, lot := range held.Lots {
		here := decimal.Zero
		for key, q := range held.Balances {
			if key.Variant == variant && key.Lot == id && key.Condition == from &&
				held.Shelves[key.Shelf].Branch == branch {
				here = here.Add(q)
			}
		}
		if here.IsPositive() && !lot.Expired(day) {
			list = append(list, LotChoice{id, lotSays(lot), here})
		}
	}
	slices.SortFunc(list, func(a, b LotChoice) int {
		ea, eb := held.Lots[a.ID].Expiry, held.Lots[b.ID].Expiry
		if ea.IsZero() != eb.IsZero() {
			return cmp.Compare(eb.Unix(), ea.Unix())
		}
		return cmp.Or(ea.Compare(eb), cmp.Compare(a.ID, b.ID))
	})
	return list
}

// LotsBack lists, by line, the lots that are still out of lines that took several: one of them can be
// named when something comes back.
func LotsBack(out map[int][]LotOut, held stock.Holding) map[int][]LotChoice {
	list := map[int][]LotChoice{}
	for line, lots := range out {
		for _, o := range lots {
			if o.Quantity.IsPositive() {
				list[line] = append(list[line], LotChoice{o.Lot, lotSays(held.Lots[o.Lot]), o.Quantity})
			}
		}
		if len(list[line]) < 2 {
			delete(list, line)
		}
	}
	return list
}

func lotSays(lot serial.Lot) string {
	if lot.Expiry.IsZero() {
		return "Lot " + lot.Number
	}
	return "Lot " + lot.Number + ", use by " + lot.Expiry.Format("2 Jan 2006")
}

// elsewhere lists the branches besides one that have some of a variant to sell.
func elsewhere(held stock.Holding, variant, branch uint64, day time.Time) []Place {
	seen := map[uint64]bool{branch: true}
	var list []Place
	for _, shelf := range held.Shelves {
		if seen[shelf.Branch] {
			continue
		}
		seen[shelf.Branch] = true
		if q := held.Available(variant, shelf.Branch, day); q.IsPositive() {
			list = append(list, Place{Branch: shelf.Branch, Quantity: q, Minutes: -1})
		}
	}
	return list
}

// Supplied says what there is to sell a line of a basket from, which takes so many units;
// needs has the lines before it. Parts is what one of a bundle holds.
func Supplied(v Sellable, l BasketLine, units decimal.Decimal, parts []Part, needs *Needs) Supply {
	held, branch, day := needs.held, needs.branch, needs.day
	takes, err := needs.Line(v, l, units, parts)
	switch {
	case v.Bundle:
		return bundleSupply(l, parts, needs, v, err)
	case v.Tracking == stock.NotStocked:
		return Supply{}
	}
	s := Supply{Here: held.AvailableIn(v.ID, branch, l.From(), day), Numbered: v.Tracking == stock.BySerial}
	s.Elsewhere = held.AvailableIn(v.ID, 0, l.From(), day).Sub(s.Here)
	if s.Elsewhere.IsPositive() && l.Apart() == "" {
		s.Places = elsewhere(held, v.ID, branch, day)
	}
	if s.Numbered {
		s.Choices = held.NumbersAt(v.ID, branch, l.From())
		if l.Serial == "" && !l.Owed {
			s.Short = "Choose its serial number, or owe it."
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
		s.Lots = append(s.Lots, lotSays(lot))
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
