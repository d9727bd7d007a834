package goods

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/cost"
	"itemrack/core/price"
	"itemrack/core/sale"
	"itemrack/core/stock"
	"itemrack/core/unit"
	"itemrack/store/internal/db"
	"itemrack/store/office"
	"itemrack/store/prices"
)

// Sellable is what a basket, a delivery or a label needs to know of a variant.
type Sellable = sale.Sellable

// lasting is what of a variant seldom changes, with what of its product is needed to settle its price; stamp is
// that of the product when it was read.
type lasting struct {
	Sellable
	stamp    uint64
	product  Product
	unit     string
	buyClass uint64
	own      *decimal.Decimal // expected cost of the variant
	packs    []Pack
	dated    prices.Dated
	apart    map[stock.Condition]sale.OwnPrice
}

// Seen is what of variants changes with every sale, and the stamp that tells whether copies of the rest are of today.
type Seen map[uint64]seen

type seen struct {
	pool  cost.Pool
	parts decimal.Decimal // what the parts of a bundle cost
	stamp uint64
}

// seenPart reads what is seen of some variants.
func seenPart(into Seen, ids []uint64) db.Part {
	return db.Part{
		SQL: "SELECT v.id, k.quantity, k.value, k.last_cost, k.cost, c.stamp FROM variant v JOIN cost_pool k ON " +
			"k.variant_id = v.id JOIN product_change c ON c.product_id = v.product_id WHERE v.id IN (" + db.IDs(ids) +
			")",
		Row: func(scan func(into ...any) error) error {
			var id uint64
			var s seen
			err := scan(&id, &s.pool.Quantity, &s.pool.Value, &s.pool.Last, &s.parts, &s.stamp)
			into[id] = s
			return err
		},
	}
}

// Sellables reads some variants with their prices at a moment, in one round trip.
func Sellables(q db.Q, ids []uint64, moment time.Time) (map[uint64]Sellable, error) {
	if len(ids) == 0 {
		return map[uint64]Sellable{}, nil
	}
	parts, settle, err := SellableParts(q, ids, moment)
	if err != nil {
		return nil, err
	}
	if err := db.Read(q, parts...); err != nil {
		return nil, err
	}
	return settle()
}

// mostKept is how many variants are asked for at once that copies are kept of: a report reads them all.
const mostKept = 200

// Copies are copies of what seldom changes of some variants.
type Copies []*lasting

// shelf is where copies are kept; nil for a transaction that has to do without.
func shelf(q db.Q) *db.Shelf[*lasting] { return db.ShelfOf(q, "goods", (*lasting).bytes) }

// bytes is how much memory a copy takes, about: measured, a number takes some 60 and a row of prices some 200.
func (l *lasting) bytes() int {
	const bare, pack, row, apart = 1600, 400, 200, 200
	n := bare + len(l.Name) + len(l.ShortName) + len(l.Label) + len(l.SKU) + len(l.Barcode) + pack*len(l.packs) +
		apart*len(l.apart)
	for _, lists := range l.dated {
		for _, rows := range lists {
			n += row * (1 + len(rows))
		}
	}
	return n
}

// KeptCounted gives the copies of some variants, of whatever day; none where there is not one of each, or where one
// is not simply counted.
func KeptCounted(q db.Q, ids []uint64) Copies {
	known, missing := split(q, ids)
	if len(missing) > 0 || slices.ContainsFunc(known, (*lasting).told) {
		return nil
	}
	return known
}

// told reports whether it may not be simply counted.
func (l *lasting) told() bool { return l.Bundle || l.Tracking != stock.Counted }

// Told are those of some variants that may not be simply counted, as far as copies say.
func Told(q db.Q, ids []uint64) []uint64 {
	known, told := split(q, ids)
	for _, l := range known {
		if l.told() {
			told = append(told, l.ID)
		}
	}
	return told
}

// StampsPart reads the stamps of copies that are taken with the pools of their variants.
func (known Copies) StampsPart(into Seen) db.Part {
	products := make([]uint64, len(known))
	for i, l := range known {
		products[i] = l.product.ID
	}
	return db.Part{
		SQL: "SELECT product_id, stamp FROM product_change WHERE product_id IN (" + db.IDs(products) + ")",
		Row: func(scan func(into ...any) error) error {
			var product, stamp uint64
			err := scan(&product, &stamp)
			for _, l := range known {
				if l.product.ID == product {
					into[l.ID] = seen{stamp: stamp}
				}
			}
			return err
		},
	}
}

// SettleAt settles copies with the pools of their variants; nothing where one is not of today.
func (known Copies) SettleAt(q db.Q, stamps Seen, pools map[uint64]cost.Pool,
	moment time.Time) (map[uint64]Sellable, error) {
	if known.stale(stamps) {
		return nil, nil
	}
	h, err := readHouse(q, moment)
	if err != nil {
		return nil, err
	}
	if err := db.Read(q, h.parts...); err != nil {
		return nil, err
	}
	for id, s := range stamps {
		s.pool = pools[id]
		stamps[id] = s
	}
	return known.settle(h, stamps)
}

// split gives the copies there are of some variants, of whatever day, and the variants of which there are none.
func split(q db.Q, ids []uint64) (known Copies, missing []uint64) {
	on := shelf(q)
	if on == nil || len(ids) > mostKept {
		return nil, ids
	}
	for _, id := range ids {
		if l, ok := on.Get(id); ok {
			known = append(known, l)
		} else {
			missing = append(missing, id)
		}
	}
	return known, missing
}

// stale reports whether one of some copies is not of today.
func (known Copies) stale(now Seen) bool {
	return slices.ContainsFunc(known, func(l *lasting) bool { return now[l.ID].stamp != l.stamp })
}

// SellableParts are the queries of Sellables, and what makes of their answers what they come to. Of goods of which
// there are copies it asks whether they are of today, and reads the rest anew only where one is not.
func SellableParts(q db.Q, ids []uint64, moment time.Time) ([]db.Part, func() (map[uint64]Sellable, error), error) {
	known, missing := split(q, ids)
	h, err := readHouse(q, moment)
	if err != nil {
		return nil, nil, err
	}
	now := Seen{}
	whole, take := wholeParts(q, h, missing)
	return slices.Concat(h.parts, []db.Part{seenPart(now, ids)}, whole), func() (map[uint64]Sellable, error) {
		rows := take(now)
		var old []uint64
		for _, l := range known {
			if now[l.ID].stamp == l.stamp {
				rows = append(rows, l)
			} else {
				old = append(old, l.ID)
			}
		}
		again, take := wholeParts(q, h, old)
		if err := db.Read(q, again...); err != nil {
			return nil, err
		}
		return append(rows, take(now)...).settle(h, now)
	}, nil
}

// house is what is the same for all goods: it is there once its parts are read.
type house struct {
	prices.Pricing
	parts      []db.Part
	above      Inheritance
	conditions []stock.ConditionFacts
}

func readHouse(q db.Q, moment time.Time) (*house, error) {
	h := new(house)
	var err error
	if h.Pricing, h.parts, err = prices.Around(q, moment); err != nil {
		return nil, err
	}
	above, err := inheritanceParts(q, &h.above)
	if err != nil {
		return nil, err
	}
	facts, err := office.ConditionsParts(q, &h.conditions)
	h.parts = slices.Concat(h.parts, above, facts)
	return h, err
}

// wholeParts are the queries that read all of some variants but for what is seen of them, which is to be read
// before, so that no copy is older than its stamp; and what takes the answers and keeps copies.
func wholeParts(q db.Q, h *house, ids []uint64) ([]db.Part, func(now Seen) Copies) {
	if len(ids) == 0 {
		return nil, func(Seen) Copies { return nil }
	}
	in := "SELECT product_id FROM variant WHERE id IN (" + db.IDs(ids) + ")"
	var rows Copies
	packs, bundled, barcodes := map[uint64][]Pack{}, map[uint64]bool{}, map[uint64]string{}
	own := map[uint64]map[stock.Condition]sale.OwnPrice{}
	parts := []db.Part{h.DatedOfPart(in, ids), packsPart(in, packs), lastingPart(ids, &rows), bundledPart(ids, bundled),
		barcodesPart(ids, barcodes), prices.InConditionsPart(ids, own)}
	db.CopiedBy(q, "goods", parts)
	return parts, func(now Seen) Copies {
		rows = slices.DeleteFunc(rows, func(l *lasting) bool { _, there := now[l.ID]; return !there })
		on := shelf(q)
		for _, l := range rows {
			l.stamp, l.packs, l.dated = now[l.ID].stamp, packs[l.product.ID], h.Of(l.product.ID).For(l.ID)
			l.Bundled, l.Barcode, l.apart = bundled[l.ID], barcodes[l.ID], own[l.ID]
			if on != nil && len(rows) <= mostKept {
				on.Add(l.ID, l)
			}
		}
		return rows
	}
}

// lastingPart reads what seldom changes of some variants, but for what they have several of.
func lastingPart(ids []uint64, into *Copies) db.Part {
	return db.Part{
		SQL: `SELECT v.id, p.id, p.name, p.short_name, v.label, v.sku, p.tracking, p.bundle, p.unit, p.category_id,
			p.supplier_id, p.tax_class_id, p.own_tax_class, COALESCE(p.buy_tax_class_id, p.tax_class_id), p.markup,
			p.ending, p.cost, v.cost, v.restock_level, v.list_price
			FROM variant v JOIN product p ON p.id = v.product_id WHERE v.id IN (` + db.IDs(ids) + ")",
		Row: func(scan func(into ...any) error) error {
			r := new(lasting)
			err := scan(&r.ID, &r.product.ID, &r.Name, &r.ShortName, &r.Label, &r.SKU, &r.Tracking, &r.Bundle,
				&r.unit, &r.product.CategoryID, &r.product.SupplierID, &r.product.TaxClassID,
				&r.product.OwnTaxClass, &r.buyClass, &r.product.Markup, &r.product.Ending, &r.product.Cost, &r.own,
				&r.Restock, &r.Listed)
			*into = append(*into, r)
			return err
		},
	}
}

// settle works out what variants cost.
func (known Copies) settle(h *house, now Seen) (map[uint64]Sellable, error) {
	found := make(map[uint64]Sellable, len(known))
	for _, l := range known {
		var err error
		if found[l.ID], err = l.settle(h, now[l.ID]); err != nil {
			return nil, err
		}
	}
	return found, nil
}

// bundledPart finds which variants bundles hold.
func bundledPart(variants []uint64, into map[uint64]bool) db.Part {
	return db.Part{
		SQL: "SELECT DISTINCT variant_id FROM bundle_part WHERE variant_id IN (" + db.IDs(variants) + ")",
		Row: func(scan func(into ...any) error) error {
			var id uint64
			err := scan(&id)
			into[id] = true
			return err
		},
	}
}

// barcodesPart reads the first barcode of each of some variants.
func barcodesPart(variants []uint64, into map[uint64]string) db.Part {
	first := map[uint64]uint64{}
	return db.Part{
		SQL: "SELECT id, variant_id, code FROM barcode WHERE variant_id IN (" + db.IDs(
			variants) + ") AND pack_id IS NULL",
		Row: func(scan func(into ...any) error) error {
			var id, variant uint64
			var code string
			err := scan(&id, &variant, &code)
			if was := first[variant]; was == 0 || id < was {
				first[variant], into[variant] = id, code
			}
			return err
		},
	}
}

// settle works out what a variant costs.
func (l *lasting) settle(h *house, now seen) (Sellable, error) {
	s, product := l.Sellable, l.product
	var err error
	if s.Unit, err = unit.ByCode(l.unit); err != nil {
		return s, err
	}
	product.Name = s.Name
	h.Given(product.ID, l.dated)
	h.Rule(product.ID, h.above.Settle(product))
	s.ProductID, s.Book, s.LastCost, s.In = product.ID, h.Book, now.pool.Last, sale.SoldApart(h.conditions, l.apart)
	s.Expected, s.TaxClass = [2]*decimal.Decimal{l.own, product.Cost}, product.TaxClassID
	s.Percent, s.BuyPercent = h.Percent(product.TaxClassID), h.Percent(l.buyClass)
	s.Goods = h.Goods(s.ProductID, s.ID, product.TaxClassID, now.pool, l.own, product.Cost)
	if s.Bundle {
		s.Goods.Held = price.Cost{Amount: now.parts, From: price.FromParts}
	}
	s.Packed = map[uint64]price.Goods{}
	for _, pack := range l.packs {
		s.Packs = append(s.Packs, sale.Pack{ID: pack.ID, Name: pack.Name, Factor: pack.Factor, Bought: pack.Bought})
		s.Packed[pack.ID] = h.Pack(s.ProductID, s.ID, pack.ID, pack.Factor, s.Goods)
	}
	a := s.PriceOf(price.Regular, 0, decimal.New(1, 0), h.Moment)
	s.Price, s.HasPrice = a.Amount, a.Source != price.NoPrice
	return s, nil
}

// Bundled reads what is in the bundles among some variants.
func Bundled(q db.Q, found map[uint64]Sellable) (map[uint64][]sale.Part, error) {
	var bundles []uint64
	for _, v := range found {
		if v.Bundle {
			bundles = append(bundles, v.ID)
		}
	}
	parts := map[uint64][]sale.Part{}
	if len(bundles) == 0 {
		return parts, nil
	}
	return parts, db.Read(
		q,
		db.Part{
			SQL: `SELECT b.bundle_id, b.variant_id, b.quantity, p.name, v.label, p.tracking FROM bundle_part b JOIN
				variant v ON v.id = b.variant_id
		JOIN product p ON p.id = v.product_id WHERE b.bundle_id IN (` + db.IDs(
				bundles,
			) + ") ORDER BY b.bundle_id, v.sku",
			Row: func(scan func(into ...any) error) error {
				var bundle uint64
				var part sale.Part
				var name, label string
				err := scan(&bundle, &part.Variant, &part.Quantity, &name, &label, &part.Tracking)
				part.Name = catalog.FullName(name, label)
				parts[bundle] = append(parts[bundle], part)
				return err
			},
		},
	)
}

// ProductsOf finds the products of some variants, each once.
func ProductsOf(q db.Q, variants []uint64) ([]uint64, error) {
	var ids []uint64
	return ids, db.SQL(q).Raw("SELECT DISTINCT product_id FROM variant WHERE id IN ?", variants).Scan(&ids).Error
}
