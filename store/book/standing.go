package book

import (
	"maps"
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/price"
	"itemrack/core/stock"
	"itemrack/core/tax"
	"itemrack/store/goods"
	"itemrack/store/internal/db"
)

// piece is how many products or variants are written in one statement.
const piece = 500

// postPools writes the pools of the variants that a document touched, with how they
// stand: what they cost now, and what is left of what they ask.
func postPools(tx db.Tx, b *db.Batch, after stock.Holding, doc stock.Document) error {
	set, err := tx.Terms()
	if err != nil {
		return err
	}
	percent, asks := tax.Percents(after.Taxes, doc.RecordedAt), price.Book{Basis: set.Basis, Minor: set.Minor()}
	day := set.Day(doc.RecordedAt)
	forSale, anew := after.AllAvailable(day), map[uint64]bool{}
	for part := range slices.Chunk(stock.Touched(doc.Entries), piece) {
		args, moved := make([]any, 0, 9*len(part)), make([]any, 0, 5*len(part))
		stands := len(after.Since) == 0 &&
			!slices.ContainsFunc(doc.Entries, func(e stock.Entry) bool { return e.Bought })
		for _, v := range part {
			p, item := after.Pools[v], after.Items[v]
			now := price.Standing{Cost: price.CostOf(p, item.Expected[0], item.Expected[1])}
			if item.Asked != nil {
				now = asks.Stand(*item.Asked, percent[item.TaxClass], now.Cost)
			}
			stood := stock.Stood{
				Cost:   now.Cost.Amount,
				Margin: now.Margin,
				Under:  now.Under,
				Low:    item.Low(forSale[v]),
			}
			before, there := after.Stood[v]
			stands = stands && there && stood.Same(before)
			if !stood.Same(before) || item.Tracking == stock.ByLot || after.Counted(v) { // lots may have expired since
				anew[item.Product] = true
			}
			args = append(args, v, p.Quantity, p.Value, p.Last, forSale[v], stood.Low, stood.Cost, stood.Margin,
				stood.Under)
			moved = append(moved, v, p.Quantity, p.Value, forSale[v], stood.Cost)
		}
		if stands { // what is left of what they ask is as it was
			b.Add(db.Values("INSERT INTO cost_pool (variant_id, quantity, value, for_sale, cost) VALUES ", len(part),
				"(?, ?, ?, ?, ?)")+" ON DUPLICATE KEY UPDATE quantity = VALUES(quantity), value = VALUES(value), "+
				"for_sale = VALUES(for_sale), cost = VALUES(cost)", moved...)
		} else {
			b.Add(db.Values("INSERT INTO cost_pool (variant_id, quantity, value, last_cost, for_sale, low, cost, "+
				"margin, under) VALUES ", len(part), "(?, ?, ?, ?, ?, ?, ?, ?, ?)")+
				" ON DUPLICATE KEY UPDATE quantity = VALUES(quantity), value = VALUES(value), "+
				"last_cost = VALUES(last_cost), for_sale = VALUES(for_sale), low = VALUES(low), "+
				"cost = VALUES(cost), margin = VALUES(margin), under = VALUES(under)", args...)
		}
		if b.Full() {
			if err := b.Run(tx); err != nil {
				return err
			}
		}
	}
	addUp(b, slices.Sorted(maps.Keys(anew)))
	addOn(b, moved(after, doc, anew))
	return nil
}

// moved is how much a document moved of each product, but for some.
func moved(after stock.Holding, doc stock.Document, but map[uint64]bool) map[uint64]*movement {
	by := map[uint64]*movement{}
	for _, e := range doc.Entries {
		product := after.Items[e.Variant].Product
		if but[product] {
			continue
		}
		m := by[product]
		if m == nil {
			m = new(movement)
			by[product] = m
		}
		m.onHand, m.value = m.onHand.Add(e.Quantity), m.value.Add(e.Value)
		if e.Condition == stock.ForSale {
			m.forSale = m.forSale.Add(e.Quantity)
		}
	}
	return by
}

// movement is how much of a product came, or went.
type movement struct{ onHand, forSale, value decimal.Decimal }

// addOn puts what was moved onto the figures of products that stand as before otherwise.
func addOn(b *db.Batch, by map[uint64]*movement) {
	for part := range slices.Chunk(slices.Sorted(maps.Keys(by)), piece) {
		args := make([]any, 0, 4*len(part))
		for _, id := range part {
			args = append(args, id, by[id].onHand, by[id].forSale, by[id].value)
		}
		b.Add(db.Values("INSERT INTO product_figure (product_id, on_hand, for_sale, value) VALUES ", len(part),
			"(?, ?, ?, ?)")+
			" ON DUPLICATE KEY UPDATE on_hand = on_hand + VALUES(on_hand), for_sale = for_sale + VALUES(for_sale), "+
			"value = value + VALUES(value)", args...)
	}
}

// addUp adds the figures of some products up from those of their variants. Their rows
// are locked before, so that of two who do it the second sees what the first wrote.
func addUp(b *db.Batch, products []uint64) {
	for part := range slices.Chunk(products, piece) {
		in := db.IDs(part)
		b.Add("SELECT product_id FROM product_figure WHERE product_id IN (" + in + ") ORDER BY product_id FOR UPDATE")
		b.Add(
			`INSERT INTO product_figure (product_id, on_hand, for_sale, value, price_min, price_max, margin_min,
				under, low)
			SELECT v.product_id, SUM(k.quantity), SUM(k.for_sale), SUM(k.value), MIN(v.list_price),
			MAX(v.list_price), MIN(k.margin), MAX(k.under), SUM(k.low)
			FROM variant v JOIN cost_pool k ON k.variant_id = v.id WHERE v.product_id IN (` + in + `) GROUP BY
				v.product_id ORDER BY v.product_id
			ON DUPLICATE KEY UPDATE on_hand = VALUES(on_hand), for_sale = VALUES(for_sale), value = VALUES(value),
			price_min = VALUES(price_min), price_max = VALUES(price_max),
			margin_min = VALUES(margin_min), under = VALUES(under), low = VALUES(low)`,
		)
	}
}

// stands reports whether a document changes nothing beyond its own variants.
func stands(after stock.Holding, doc stock.Document) bool {
	return !slices.ContainsFunc(doc.Entries, func(e stock.Entry) bool {
		item := after.Items[e.Variant]
		return e.Bought || item.Bundle || item.Bundled
	})
}

// restand works out anew what a document changed beyond its own variants: prices that
// rules make from what was bought, and the bundles that hold what moved.
func restand(tx db.Tx, after stock.Holding, doc stock.Document) error {
	var anew, bundled []uint64
	for _, e := range doc.Entries {
		item := after.Items[e.Variant]
		if e.Bought || item.Bundle {
			anew = append(anew, item.Product)
		}
		if item.Bundled {
			bundled = append(bundled, e.Variant)
		}
	}
	if len(bundled) > 0 {
		err := db.Read(
			tx.Q,
			db.Part{
				SQL: "SELECT v.product_id FROM bundle_part b JOIN variant v ON v.id = b.bundle_id WHERE " +
					"b.variant_id IN (" + db.IDs(
					bundled) + ")",
				Row: func(scan func(into ...any) error) error {
					var id uint64
					err := scan(&id)
					anew = append(anew, id)
					return err
				},
			},
		)
		if err != nil {
			return err
		}
	}
	slices.Sort(anew)
	return Restand(tx, slices.Compact(anew), doc.RecordedAt)
}

// Restand works out how the variants of some products stand at a moment, and keeps it
// for the lists: what they ask on the Regular list, what they cost, what is left of
// that, whether they run low. Whoever changes a price, a rule, a tax class, an expected
// cost, a restock level or the variants themselves calls it.
func Restand(tx db.Tx, products []uint64, moment time.Time) error {
	for part := range slices.Chunk(products, piece) {
		all, err := goods.Standings(tx, part, moment)
		if err != nil {
			return err
		}
		b := new(db.Batch)
		for some := range slices.Chunk(all, piece) {
			var args []any
			for _, s := range some {
				low := stock.Item{Restock: s.Restock}.Low(s.ForSale)
				args = append(args, s.Variant, low, s.Cost.Amount, s.Margin, s.Under)
			}
			goods.ListPrices(b, some)
			b.Add(
				db.Values("INSERT INTO cost_pool (variant_id, low, cost, margin, under) VALUES ", len(some),
					"(?, ?, ?, ?, ?)")+
					" ON DUPLICATE KEY UPDATE low = VALUES(low), cost = VALUES(cost), margin = VALUES(margin), "+
					"under = VALUES(under)",
				args...)
		}
		addUp(b, part)
		if err := b.Run(tx); err != nil {
			return err
		}
	}
	return nil
}

// Forget drops the empty pools of variants that are to be dropped.
func Forget(tx db.Tx, variants []uint64) error {
	b := new(db.Batch)
	b.Add("DELETE FROM cost_pool WHERE variant_id IN (" + db.IDs(variants) + ") AND quantity = 0 AND value = 0")
	return b.Run(tx)
}

// ForgetProduct drops the figures of a product that is to be dropped.
func ForgetProduct(tx db.Tx, product uint64) error {
	b := new(db.Batch)
	b.Add("DELETE FROM product_figure WHERE product_id = ?", product)
	return b.Run(tx)
}

// CatchUp works out the figures of products that have none, and reports whether there may be more.
func CatchUp(tx db.Tx, moment time.Time) (bool, error) {
	const most = 5000
	var ids []uint64
	if err := db.SQL(tx.Q).Raw("SELECT p.id FROM product p LEFT JOIN product_figure f ON f.product_id = p.id WHERE "+
		"f.product_id IS NULL ORDER BY p.id LIMIT ?", most).Scan(&ids).Error; err != nil {
		return false, err
	}
	return len(ids) == most, Restand(tx, ids, moment)
}
