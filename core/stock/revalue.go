package stock

import (
	"slices"

	"github.com/shopspring/decimal"

	"itemrack/core/cost"
	"itemrack/core/ledger"
	"itemrack/core/serial"
)

// Revaluation is by how much goods cost more, or less, that a line of a document brought. A document that revalues
// keeps it, so that it can be undone whatever has become of the goods meanwhile.
type Revaluation struct {
	Of      uint64 // the document that brought the goods
	Line    int    // of it
	Variant uint64
	By      decimal.Decimal
}

// CameKey names goods by the document that brought them.
type CameKey struct {
	Document uint64
	Variant  uint64
}

// Revalue changes what goods cost that a document brought, all of whose entries are brought: what of them is still
// there takes its share, what has gone went at the former cost and its share is a cost of sales. It posts both, and
// returns what the goods kept. What is left is reckoned first in, first out; see Holding.Later.
func (d *Draft) Revalue(r Revaluation, brought []Entry) (decimal.Decimal, error) {
	kept, by, err := d.reworth(r, brought)
	if err != nil {
		return kept, err
	}
	d.doc.Revaluations = append(d.doc.Revaluations, Revaluation{r.Of, r.Line, r.Variant, by})
	d.Post(ledger.Stock, kept)
	d.Post(ledger.CostOfSales, r.By.Sub(kept))
	return kept, nil
}

// reworth changes the worth of what is left of a line's goods. It returns what they kept, and the change of all goods
// of the line that this is the share of: less than was asked for where they would have been worth nothing.
func (d *Draft) reworth(r Revaluation, brought []Entry) (kept, by decimal.Decimal, err error) {
	var own []Entry
	var afters []decimal.Decimal // what came in after each of them
	total, after := decimal.Zero, d.holding.Later[CameKey{r.Of, r.Variant}]
	for i := len(brought) - 1; i >= 0; i-- {
		e := brought[i]
		if e.Variant != r.Variant || !e.Quantity.IsPositive() {
			continue
		}
		if e.Line == r.Line {
			own, afters, total = append(own, e), append(afters, after), total.Add(e.Quantity)
		}
		after = after.Add(e.Quantity)
	}
	slices.Reverse(own)
	slices.Reverse(afters)
	if d.holding.Pools[r.Variant].Layered() && len(own) > 1 && own[0].Serial == "" {
		// its layers are one line's, whatever shelf or lot they went to
		own[0].Quantity, own = total, own[:1]
	}
	done, shared := decimal.Zero, decimal.Zero
	for i, e := range own {
		part := d.holding.Minor.Part(r.By, shared, done, e.Quantity, total)
		done, shared = done.Add(e.Quantity), shared.Add(part)
		e.Of = r.Of
		share, whole, err := d.revalue(e, afters[i], part)
		if err != nil {
			return kept, by, err
		}
		kept, by = kept.Add(share), by.Add(whole)
	}
	return kept, by, nil
}

// effectPlaces are the decimals to which the change of a line is kept where it had to stop at a bound.
const effectPlaces = 8

// revalue changes the worth of what is left of an entry's goods by their share of an amount. It returns that share, and
// the amount that it is the share of: the one given, unless what is there would be worth less than the smallest sum.
func (d *Draft) revalue(e Entry, after, by decimal.Decimal) (share, whole decimal.Decimal, err error) {
	left := e.Quantity
	var worth decimal.Decimal
	if e.Serial != "" {
		u := d.holding.Units[UnitKey{e.Variant, e.Serial}]
		if u.State != serial.InStock {
			return decimal.Zero, by, nil
		}
		worth, e.Key = u.Cost, u.Key
	} else {
		left, worth = d.holding.Pools[e.Variant].LeftOf(cost.Source{Document: e.Of, Line: e.Line}, e.Quantity, after)
		if !left.IsPositive() {
			return decimal.Zero, by, nil
		}
	}
	share, whole = by.Mul(left).DivRound(e.Quantity, d.holding.Minor.Places()), by
	if least := decimal.Min(d.holding.Minor.Smallest().Sub(worth), decimal.Zero); share.LessThan(least) {
		share, whole = least, least.Mul(e.Quantity).DivRound(left, effectPlaces)
	}
	if share.IsZero() {
		return share, whole, nil
	}
	e.Quantity, e.Value, e.Bought, e.Moved = decimal.Zero, share, false, false
	return share, whole, d.add(e)
}

// unrevalue takes back what a document revalued, as if it had never been: what is left of the goods by now gives its
// share back, and what has gone since was no dearer. The document's own postings are taken back already.
func (d *Draft) unrevalue(entries []Entry, revalued []Revalued) error {
	difference := decimal.Zero
	for _, e := range entries {
		if e.Revalues() {
			difference = difference.Add(e.Value)
		}
	}
	for _, r := range revalued {
		r.By = r.By.Neg()
		kept, _, err := d.reworth(r.Revaluation, r.Brought)
		if err != nil {
			return err
		}
		difference = difference.Add(kept)
	}
	d.Post(ledger.Stock, difference)
	d.Post(ledger.CostOfSales, difference.Neg())
	return nil
}

// Revalued is a revaluation with all entries of the document that brought the goods.
type Revalued struct {
	Revaluation
	Brought []Entry
}
