package book

import (
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/serial"
	"itemrack/core/stock"
	"itemrack/core/unit"
	"itemrack/store/goods"
	"itemrack/store/internal/db"
	"itemrack/store/office"
	"itemrack/store/prices"
)

// Hold locks the cost pools and balances of some variants, in key order, and
// returns what is on hand of them. Nothing else can move them until the
// transaction ends. Units are those of the named serial numbers and, for each
// serial-numbered variant, those in stock.
func Hold(tx db.Tx, variants []uint64, serials []string) (stock.Holding, error) {
	return holding(tx.Q, nil, variants, serials, " FOR UPDATE")
}

// First is a hold of variants of which nothing was read yet and copies are kept, with their prices and the next
// number of a range. Its queries may be sent before it is certain that these are the variants.
type First struct {
	variants []uint64
	numbers  string
	known    goods.Copies
	stamps   goods.Seen
	settle   func(q db.Q) (stock.Holding, error)
	err      error
	next     uint64
}

// FirstOf begins to hold some variants; nil where there is not a copy of each, or where one is not simply counted.
func FirstOf(q db.Q, variants []uint64, numbers string) *First {
	known := goods.KeptCounted(q, variants)
	if len(known) == 0 {
		return nil
	}
	return &First{variants: variants, numbers: numbers, known: known}
}

// Of reports whether variants are among those that are held.
func (f *First) Of(variants []uint64) bool {
	return !slices.ContainsFunc(variants, func(v uint64) bool { return !slices.Contains(f.variants, v) })
}

// Parts are its queries, for a shop that is set as q takes it to be.
func (f *First) Parts(q db.Q) []db.Part {
	counted := make(map[uint64]stock.Item, len(f.known))
	for _, id := range f.variants {
		counted[id] = stock.Item{Tracking: stock.Counted}
	}
	f.stamps, f.next = goods.Seen{}, 0
	var parts []db.Part
	parts, f.settle, f.err = holdingParts(q, counted, f.variants, nil, " FOR UPDATE",
		[]db.Part{f.known.StampsPart(f.stamps)}, numberPart(f.numbers, 1, &f.next))
	return parts
}

// Read sends its queries.
func (f *First) Read(q db.Q) error { return db.Read(q, f.Parts(q)...) }

// Take gives what was held, the number that was taken, and the variants with their prices at a moment. Where a copy
// is not of today it gives the number alone.
func (f *First) Take(q db.Q, moment time.Time) (stock.Holding, uint64, map[uint64]goods.Sellable, error) {
	if f.err != nil {
		return stock.Holding{}, 0, nil, f.err
	}
	h, err := f.settle(q)
	if err != nil {
		return h, 0, nil, err
	}
	found, err := f.known.SettleAt(q, f.stamps, h.Pools, moment)
	for id, v := range found {
		h.Items[id] = v.Item()
	}
	return h, f.next, found, err
}

// HoldNumbered is Hold where some variants are known already, and takes the next number of a range in the same
// round trip unless one was taken.
func HoldNumbered(tx db.Tx, known map[uint64]goods.Sellable, variants []uint64, serials []string,
	numbers string, next *uint64) (stock.Holding, error) {
	items := make(map[uint64]stock.Item, len(known))
	for id, v := range known {
		items[id] = v.Item()
	}
	if *next != 0 {
		return holding(tx.Q, items, variants, serials, " FOR UPDATE")
	}
	return holding(tx.Q, items, variants, serials, " FOR UPDATE", numberPart(numbers, 1, next))
}

// Look is Hold without the locks: for previews and proposals, which posting
// computes again.
func Look(q db.Q, variants []uint64) (stock.Holding, error) {
	return holding(q, nil, variants, nil, "")
}

// Known is Look with the units of some serial numbers, also those that are not in stock.
func Known(q db.Q, variants []uint64, serials []string) (stock.Holding, error) {
	return holding(q, nil, variants, serials, "")
}

// holding reads what is on hand of some variants, in one round trip with what else is to be done last.
func holding(q db.Q, known map[uint64]stock.Item, variants []uint64, serials []string, lock string,
	last ...db.Part) (stock.Holding, error) {
	if len(variants) == 0 {
		return nothing(), db.Read(q, last...)
	}
	parts, settle, err := holdingParts(q, known, variants, serials, lock, nil, last...)
	if err != nil {
		return nothing(), err
	}
	if err := db.Read(q, parts...); err != nil {
		return nothing(), err
	}
	return settle(q)
}

// holdingParts are the queries of what is on hand of some variants, with others of which each has a row for sure, and
// what makes of their answers what it is.
func holdingParts(q db.Q, known map[uint64]stock.Item, variants []uint64, serials []string, lock string,
	sure []db.Part, last ...db.Part) ([]db.Part, func(q db.Q) (stock.Holding, error), error) {
	ids, h := slices.Compact(slices.Sorted(slices.Values(variants))), nothing()
	set, err := q.Terms()
	if err != nil {
		return nil, nil, err
	}
	h.Minor = set.Minor()
	parts, err := aroundParts(q, &h, lock)
	if err != nil {
		return nil, nil, err
	}
	in, layers := db.IDs(ids), map[uint64][]cost.Layer{}
	parts = append(parts, poolsPart(h, in, lock), balancesPart(h, in))
	if set.Costing == cost.FIFO {
		parts = append(parts, layersPart(layers, in, lock))
	}
	still, more, err := stillParts(q, h, in, set.Zone, lock, sure...)
	if err != nil {
		return nil, nil, err
	}
	parts = slices.Concat(parts, still, goodsParts(h, known, ids, serials), last)
	return parts, func(q db.Q) (stock.Holding, error) {
		if err := db.Read(q, more()...); err != nil {
			return h, err
		}
		for _, id := range ids {
			item, ok := h.Items[id]
			if !ok {
				return h, fault.Missing("variant", id, "There is no variant %d.", id)
			}
			// units with serial numbers have a cost of their own and no layers
			if set.Costing == cost.FIFO && item.Tracking != stock.BySerial {
				p := h.Pools[id]
				p.Method, p.Layers = cost.FIFO, layers[id]
				h.Pools[id] = p
			}
		}
		return h, nil
	}, nil
}

// nothing is what is on hand of no variants.
func nothing() stock.Holding {
	return stock.Holding{
		Items:    map[uint64]stock.Item{},
		Pools:    map[uint64]cost.Pool{},
		Balances: map[stock.Key]decimal.Decimal{},
		Shelves:  map[uint64]stock.Shelf{},
		Lots:     map[uint64]serial.Lot{},
		Units:    map[stock.UnitKey]stock.Unit{},
		Numbers:  map[stock.NumberKey]stock.NumberOwner{},
		Stood:    map[uint64]stock.Stood{},
		Still:    map[stock.StillKey]stock.Still{},
	}
}

// Standing is goods with their prices, and what is on hand of them without what it is worth: enough to show a
// basket.
type Standing struct {
	Goods map[uint64]goods.Sellable
	Held  stock.Holding
}

// Stand reads how some variants stand at a moment, without locks, in one round trip with what else is wanted.
func Stand(q db.Q, variants []uint64, moment time.Time, more ...db.Part) (Standing, error) {
	st := Standing{Goods: map[uint64]goods.Sellable{}, Held: nothing()}
	if len(variants) == 0 {
		return st, db.Read(q, more...)
	}
	set, err := q.Terms()
	if err != nil {
		return st, err
	}
	h := &st.Held
	h.Minor = set.Minor()
	parts, settle, err := goods.SellableParts(q, variants, moment)
	if err != nil {
		return st, err
	}
	around, err := aroundParts(q, h, "")
	if err != nil {
		return st, err
	}
	in, told := db.IDs(variants), goods.Told(q, variants)
	still, _, err := stillParts(q, *h, in, set.Zone, "")
	if err != nil {
		return st, err
	}
	if err := db.Read(q, slices.Concat(parts, around, still, []db.Part{balancesPart(*h, in)}, piecesParts(*h, told),
		more)...); err != nil {
		return st, err
	}
	if st.Goods, err = settle(); err != nil {
		return st, err
	}
	var since []uint64 // told apart, which the copy did not know
	for id, v := range st.Goods {
		h.Items[id] = v.Item()
		if h.Items[id].Tracking != stock.Counted && !slices.Contains(told, id) {
			since = append(since, id)
		}
	}
	return st, db.Read(q, piecesParts(*h, since)...)
}

// piecesParts read the lots and units of variants whose pieces are told apart.
func piecesParts(h stock.Holding, told []uint64) []db.Part {
	if len(told) == 0 {
		return nil
	}
	return []db.Part{lotsPart(h.Lots, db.IDs(told)), unitsPart(h.Units, db.IDs(told), nil)}
}

// aroundParts reads what is the same for all variants; where rows are to be locked, the
// practice setting comes before them.
func aroundParts(q db.Q, h *stock.Holding, lock string) ([]db.Part, error) {
	var parts []db.Part
	var err error
	if lock != "" {
		if parts, err = practiceParts(q); err != nil {
			return nil, err
		}
	}
	classes, err := prices.TaxClassesParts(q, &h.Taxes)
	if err != nil {
		return nil, err
	}
	shelves, err := shelvesParts(q, &h.Shelves)
	if err != nil {
		return nil, err
	}
	conditions, err := office.ConditionsParts(q, &h.Conditions)
	return slices.Concat(parts, classes, shelves, conditions), err
}

// poolsPart reads the pools of some variants, and how they stand. Whoever has them
// locked has all that hangs on them.
func poolsPart(h stock.Holding, variants, lock string) db.Part {
	return db.Part{
		SQL: "SELECT variant_id, quantity, value, last_cost, cost, margin, under, low FROM cost_pool WHERE " +
			"variant_id IN (" + variants + ") ORDER BY variant_id" + lock,
		Row: func(scan func(into ...any) error) error {
			var id uint64
			p := cost.Pool{Minor: h.Minor}
			var stood stock.Stood
			err := scan(&id, &p.Quantity, &p.Value, &p.Last, &stood.Cost, &stood.Margin, &stood.Under, &stood.Low)
			h.Pools[id], h.Stood[id] = p, stood
			return err
		},
	}
}

// balancesPart reads the balances of some variants.
func balancesPart(h stock.Holding, variants string) db.Part {
	return db.Part{
		SQL: "SELECT variant_id, shelf_id, lot_id, `condition`, quantity FROM balance WHERE variant_id IN (" +
			variants + ")",
		Row: func(scan func(into ...any) error) error {
			var k stock.Key
			var q decimal.Decimal
			err := scan(&k.Variant, &k.Shelf, &k.Lot, &k.Condition, &q)
			h.Balances[k] = q
			return err
		},
	}
}

// stillParts are the queries of what counts hold still of some variants, and what is left to ask once they are
// read: a copy says whether any count holds anything, which where rows are locked is to be of a moment after that. It
// is asked with the first of the queries that have a row for sure.
func stillParts(q db.Q, h stock.Holding, variants string, zone *time.Location, lock string,
	sure ...db.Part) (parts []db.Part, more func() []db.Part, err error) {
	whole, unchanged := stillPart(h, variants, zone), true
	more = func() []db.Part {
		if unchanged {
			return nil
		}
		return []db.Part{whole}
	}
	var holds bool
	reads, err := db.Copied(q, "counts that hold", &holds, func(into *bool) []db.Part {
		return []db.Part{{SQL: "SELECT EXISTS (SELECT 1 FROM shelf_count WHERE held_still AND state <> 'Closed')",
			Row: func(scan func(into ...any) error) error { return scan(into) }}}
	})
	switch {
	case err != nil || holds || len(reads) > 0:
		return slices.Concat(reads, []db.Part{whole}, sure), more, err
	case lock == "":
		return sure, more, nil
	case len(sure) == 0:
		return []db.Part{db.UnchangedPart(q, &unchanged)}, more, nil
	}
	return append([]db.Part{db.UnchangedWith(q, &unchanged, sure[0])}, sure[1:]...), more, nil
}

// stillPart reads which of some variants counts hold still. Whoever holds them has their pools locked
// first, as whoever moves them has.
func stillPart(h stock.Holding, variants string, zone *time.Location) db.Part {
	return db.Part{
		SQL: "SELECT r.variant_id, c.branch_id, r.lot_id, r.`condition`, c.number, c.held_until, " +
			"COALESCE(c.held_until <= UTC_TIMESTAMP(6), FALSE) FROM count_row " +
			"r JOIN shelf_count c ON " +
			"c.id = r.shelf_count_id WHERE r.held AND r.variant_id IN (" + variants + ") AND c.state <> 'Closed'",
		Row: func(scan func(into ...any) error) error {
			var k stock.StillKey
			var s stock.Still
			var until *time.Time
			err := scan(&k.Variant, &k.Branch, &k.Lot, &k.Condition, &s.Count, &until, &s.Past)
			if until != nil {
				s.Until = until.In(zone)
			}
			h.Still[k] = s
			return err
		},
	}
}

// layersPart reads the layers of some variants.
func layersPart(into map[uint64][]cost.Layer, variants, lock string) db.Part {
	return db.Part{
		SQL: "SELECT variant_id, document_id, line, quantity, value FROM cost_layer WHERE variant_id IN (" + variants +
			") ORDER BY variant_id, position" + lock,
		Row: func(scan func(into ...any) error) error {
			var id uint64
			var l cost.Layer
			err := scan(&id, &l.Document, &l.Line, &l.Quantity, &l.Value)
			into[id] = append(into[id], l)
			return err
		},
	}
}

// goodsParts reads what the book needs to know of variants that are not known yet, and
// the lots and units of those whose pieces are told apart.
func goodsParts(h stock.Holding, known map[uint64]stock.Item, ids []uint64, serials []string) []db.Part {
	var strange, told []uint64
	for _, id := range ids {
		item, ok := known[id]
		if ok {
			h.Items[id] = item
		} else {
			strange = append(strange, id)
		}
		if !ok || h.Items[id].Tracking != stock.Counted {
			told = append(told, id)
		}
	}
	var parts []db.Part
	if len(told) > 0 {
		parts = append(parts, lotsPart(h.Lots, db.IDs(told)), unitsPart(h.Units, db.IDs(told), serials))
	}
	if len(told) > 0 && len(serials) > 0 {
		parts = append(parts, numbersPart(h.Numbers, db.IDs(told), serials))
	}
	if len(strange) > 0 {
		parts = append(parts, itemsPart(h.Items, db.IDs(strange)))
	}
	return parts
}

// itemsPart reads what the book needs to know of some variants.
func itemsPart(into map[uint64]stock.Item, variants string) db.Part {
	return db.Part{
		SQL: `SELECT v.id, p.id, p.name, v.label, IF(p.bundle, 'counted', p.tracking), p.unit, v.restock_level,
			v.list_price, v.cost, p.cost, p.tax_class_id,
		p.bundle, EXISTS (SELECT 1 FROM bundle_part b WHERE b.variant_id = v.id) FROM variant v JOIN product p ON
		p.id = v.product_id WHERE v.id IN (` + variants + ")",
		Row: func(scan func(into ...any) error) error {
			var id uint64
			var i stock.Item
			var name, label, of string
			if err := scan(&id, &i.Product, &name, &label, &i.Tracking, &of, &i.Restock, &i.Asked, &i.Expected[0],
				&i.Expected[1], &i.TaxClass, &i.Bundle, &i.Bundled); err != nil {
				return err
			}
			var err error
			i.Name = catalog.FullName(name, label)
			i.Unit, err = unit.ByCode(of)
			into[id] = i
			return err
		},
	}
}

// lotsPart reads the lots of some variants.
func lotsPart(into map[uint64]serial.Lot, variants string) db.Part {
	return db.Part{
		SQL: "SELECT id, variant_id, number, expiry FROM lot WHERE variant_id IN (" + variants + ")",
		Row: func(scan func(into ...any) error) error {
			var l lot
			err := scan(&l.ID, &l.VariantID, &l.Number, &l.Expiry)
			into[l.ID] = l.core()
			return err
		},
	}
}

// unitsPart reads the units of some variants that are in stock, or have one of some
// serial numbers.
func unitsPart(into map[stock.UnitKey]stock.Unit, variants string, serials []string) db.Part {
	part := db.Part{
		SQL: "SELECT variant_id, number, state, shelf_id, lot_id, `condition`, cost FROM unit WHERE variant_id IN " +
			"(" + variants + ") AND (state = ?",
		Args: []any{serial.InStock},
	}
	if len(serials) > 0 {
		part.SQL += " OR number IN (" + db.Values("", len(serials), "?") + ")"
		part.Args = append(part.Args, texts(serials)...)
	}
	part.SQL += ")"
	part.Row = func(scan func(into ...any) error) error {
		var name stock.UnitKey
		var u stock.Unit
		err := scan(&name.Variant, &name.Serial, &u.State, &u.Key.Shelf, &u.Key.Lot, &u.Key.Condition, &u.Cost)
		u.Key.Variant = name.Variant
		into[name] = u
		return err
	}
	return part
}

// numbersPart reads which variants have some serial numbers, of the products of some
// variants; those whose delivery was undone are free.
func numbersPart(into map[stock.NumberKey]stock.NumberOwner, variants string, serials []string) db.Part {
	return db.Part{
		SQL: "SELECT v.product_id, u.number, u.variant_id, p.name, v.label FROM unit u JOIN variant v ON v.id = " +
			"u.variant_id " +
			"JOIN product p ON p.id = v.product_id WHERE " +
			"u.number IN (" + db.Values("", len(serials), "?") + ") AND u.state <> 'undone' AND v.product_id IN " +
			"(SELECT product_id FROM variant WHERE id IN (" + variants + ")) ORDER BY u.state = 'in stock'",
		Args: texts(serials),
		Row: func(scan func(into ...any) error) error {
			var key stock.NumberKey
			var owner stock.NumberOwner
			var name, label string
			err := scan(&key.Product, &key.Serial, &owner.Variant, &name, &label)
			owner.Name = catalog.FullName(name, label)
			into[key] = owner
			return err
		},
	}
}

// texts are texts as arguments of a query.
func texts(list []string) []any {
	args := make([]any, len(list))
	for i, s := range list {
		args[i] = s
	}
	return args
}

// EntriesSince lists what the book took in of a variant after a moment.
func EntriesSince(q db.Q, variant uint64, since time.Time) ([]stock.Entry, error) {
	var list []stock.Entry
	return list, db.Read(q, db.Part{SQL: "SELECT e.variant_id, e.shelf_id, e.lot_id, e.condition, e.quantity " +
		"FROM entry e JOIN document d ON " +
		"d.id = e.document_id WHERE e.variant_id = ? AND d.recorded_at > ?", Args: []any{variant, since},
		Row: func(scan func(into ...any) error) error {
			var e stock.Entry
			err := scan(&e.Variant, &e.Shelf, &e.Lot, &e.Condition, &e.Quantity)
			list = append(list, e)
			return err
		}})
}
