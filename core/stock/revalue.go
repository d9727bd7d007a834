package stock

import (
	"github.com/shopspring/decimal"

	"itemrack/core/ledger"
	"itemrack/core/serial"
)

// Revalue changes what goods cost that a document brought, as its entries of one line tell:
// what of them is still there takes its share, what has gone went at the former cost and
// its share is a cost of sales. It posts both, and returns what the goods kept.
func (d *Draft) Revalue(line int, brought []Entry, document uint64, by decimal.Decimal) (decimal.Decimal, error) {
	kept := decimal.Zero
	total := decimal.Zero
	for _, e := range brought {
		total = total.Add(e.Quantity)
	}
	done, shared := decimal.Zero, decimal.Zero
	for _, e := range brought {
		part := d.holding.Minor.Part(by, shared, done, e.Quantity, total)
		done, shared = done.Add(e.Quantity), shared.Add(part)
		e.Line, e.Of = line, document
		k, err := d.revalue(e, part)
		if err != nil {
			return kept, err
		}
		kept = kept.Add(k)
	}
	d.Post(ledger.Stock, kept)
	d.Post(ledger.CostOfSales, by.Sub(kept))
	return kept, nil
}

// revalue changes the worth of what is left of an entry's goods by their share of an
// amount, and returns that share.
func (d *Draft) revalue(e Entry, by decimal.Decimal) (decimal.Decimal, error) {
	share := by
	if e.Serial != "" {
		u := d.holding.Units[UnitKey{e.Variant, e.Serial}]
		if u.State != serial.InStock {
			return decimal.Zero, nil
		}
		share = decimal.Max(share, u.Cost.Neg())
		e.Key = u.Key
	} else {
		pool, brought := d.holding.Pools[e.Variant], e.Quantity
		if brought.IsZero() { // what is undone: whatever is left takes it
			brought = pool.Quantity
		}
		left, worth := pool.LeftOf(e.Of, brought)
		if !e.Quantity.IsZero() {
			share = by.Mul(left).DivRound(e.Quantity, d.holding.Minor.Places())
		}
		if !left.IsPositive() {
			return decimal.Zero, nil
		}
		share = decimal.Max(share, worth.Neg())
	}
	if share.IsZero() {
		return share, nil
	}
	e.Quantity, e.Value, e.Bought, e.Moved = decimal.Zero, share, false, false
	return share, d.add(e)
}
