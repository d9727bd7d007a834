package prices

import (
	"cmp"
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/tax"
	"itemrack/store/internal/db"
)

// PriceLists lists the price lists, Regular first.
func PriceLists(q db.Q) ([]price.List, error) {
	lists := []price.List{}
	return lists, db.Read(q, listsPart(&lists))
}

func listsPart(into *[]price.List) db.Part {
	return db.Part{
		SQL: "SELECT id, name, rule_kind, rule_percent, rule_amount, COALESCE(rule_list_id, 0), ending FROM " +
			"price_list ORDER BY id",
		Row: func(scan func(into ...any) error) error {
			var l price.List
			var ending string
			err := scan(&l.ID, &l.Name, &l.Rule.Kind, &l.Rule.Percent, &l.Rule.Amount, &l.Rule.List, &ending)
			if e := price.SaidEnding(&ending); e != nil {
				l.Rule.Ending = *e
			}
			*into = append(*into, l)
			return err
		},
	}
}

// LockPriceLists is PriceLists, with the lists locked until the transaction ends.
func LockPriceLists(tx db.Tx) ([]price.List, error) {
	var ids []uint64
	if err := db.SQL(tx.Q).Raw("SELECT id FROM price_list ORDER BY id FOR UPDATE").Scan(&ids).Error; err != nil {
		return nil, err
	}
	return PriceLists(tx.Q)
}

// SavePriceList writes a price list; a new one gets its number.
func SavePriceList(tx db.Tx, l *price.List) error {
	row := PriceList{
		ID:          l.ID,
		Name:        l.Name,
		RuleKind:    string(l.Rule.Kind),
		RulePercent: l.Rule.Percent,
		RuleAmount:  l.Rule.Amount,
		Ending:      l.Rule.Ending.Text(),
	}
	if l.Rule.Kind == price.OtherList {
		row.RuleListID = &l.Rule.List
	}
	err := db.SQL(tx.Q).Save(&row).Error
	if db.Duplicate(err) {
		return fault.Clash("name", l.Name, "a name of its own", "There is a price list %s already.", l.Name)
	}
	l.ID = row.ID
	return err
}

// DropPriceList drops a price list with its prices; one that others start from
// is refused.
func DropPriceList(tx db.Tx, id uint64) error {
	if err := db.SQL(tx.Q).Exec("DELETE FROM price WHERE price_list_id = ?", id).Error; err != nil {
		return err
	}
	err := db.SQL(tx.Q).Exec("DELETE FROM price_list WHERE id = ?", id).Error
	if db.Referenced(err) {
		return fault.Refuse("price_list", id, "a list that nothing uses",
			"Another list starts from this one, or a basket uses it.")
	}
	return err
}

// Pricing is what the prices of some products are found in, at one moment.
type Pricing struct {
	*found
	Moment time.Time `json:"moment"`
}

// found is what was read; copies of a Pricing share it.
type found struct {
	Book    price.Book  `json:"book"`
	Classes []tax.Class `json:"-"`
	rows    map[uint64]Dated
	rules   map[uint64]price.Rule
	from    map[uint64]string
}

// Dated are all prices of a product as they are kept: of its own, of its variants and of their packs.
type Dated map[piece]price.Rows

type piece struct{ variant, pack uint64 }

// Find reads the prices of some products on all lists.
func Find(q db.Q, products []uint64, moment time.Time) (Pricing, error) {
	p, parts, err := Finding(q, db.IDs(products), moment)
	if err != nil {
		return p, err
	}
	return p, db.Read(q, parts...)
}

// Finding is Find as several queries; products is what stands in brackets behind IN.
// The prices are there once the queries are read.
func Finding(q db.Q, products string, moment time.Time) (Pricing, []db.Part, error) {
	p, around, err := Around(q, moment)
	return p, append(around, p.DatedPart(products)), err
}

// DatedPart reads the prices of some products; they are what stands in brackets behind IN.
func (p Pricing) DatedPart(products string) db.Part {
	return db.Part{
		SQL: "SELECT product_id, COALESCE(variant_id, 0), COALESCE(pack_id, 0), price_list_id, from_at, " +
			"from_quantity, amount FROM price WHERE product_id IN (" + products + ")",
		Row: p.row,
	}
}

// DatedOfPart reads the prices of some products that some of their variants have: their own, and the product's.
func (p Pricing) DatedOfPart(products string, variants []uint64) db.Part {
	part := p.DatedPart(products)
	part.SQL += " AND (variant_id IS NULL OR variant_id IN (" + db.IDs(variants) + "))"
	return part
}

// For are the prices among them that one variant has.
func (d Dated) For(variant uint64) Dated {
	own := Dated{}
	for of, rows := range d {
		if of.variant == 0 || of.variant == variant {
			own[of] = rows
		}
	}
	return own
}

// Around is Finding without the prices of any product: those are Given.
func Around(q db.Q, moment time.Time) (Pricing, []db.Part, error) {
	set, err := q.Terms()
	if err != nil {
		return Pricing{}, nil, err
	}
	p := Pricing{
		found: &found{
			Book:  price.Book{Basis: set.Basis, Minor: set.Minor(), Zone: set.Zone},
			rows:  map[uint64]Dated{},
			rules: map[uint64]price.Rule{},
			from:  map[uint64]string{},
		},
		Moment: moment,
	}
	lists, err := db.Copied(q, "price lists", &p.Book.Lists,
		func(into *[]price.List) []db.Part { return []db.Part{listsPart(into)} })
	if err != nil {
		return p, nil, err
	}
	classes, err := TaxClassesParts(q, &p.Classes)
	if err != nil {
		return p, nil, err
	}
	return p, append(lists, classes...), nil
}

// Given takes the prices of a product that were read before.
func (p Pricing) Given(product uint64, all Dated) { p.rows[product] = all }

// Of are the prices of a product.
func (p Pricing) Of(product uint64) Dated { return p.rows[product] }

// row takes a price as it is kept.
func (p Pricing) row(scan func(into ...any) error) error {
	var product, list uint64
	var of piece
	var d price.Dated
	if err := scan(&product, &of.variant, &of.pack, &list, &d.Since, &d.From, &d.Amount); err != nil {
		return err
	}
	if p.rows[product] == nil {
		p.rows[product] = Dated{}
	}
	if p.rows[product][of] == nil {
		p.rows[product][of] = price.Rows{}
	}
	dated := p.rows[product][of][list]
	at, _ := slices.BinarySearchFunc(dated, d,
		func(a, b price.Dated) int { return cmp.Or(a.Since.Compare(b.Since), a.From.Cmp(b.From)) })
	p.rows[product][of][list] = slices.Insert(dated, at, d)
	return nil
}

// Rule says which rule a product has, once its defaults are settled.
func (p Pricing) Rule(product uint64, s catalog.Settled) {
	p.rules[product], p.from[product] = s.Rule(), s.MarkupFrom
}

// Rows are the prices of a variant's own (0 for its product's) on each list, or
// those of a pack.
func (p Pricing) Rows(product, variant, pack uint64) price.Rows {
	return p.rows[product][piece{variant, pack}]
}

// Percent is the rate of a tax class.
func (p Pricing) Percent(class uint64) decimal.Decimal {
	for _, c := range p.Classes {
		if c.ID == class {
			return c.At(p.Moment)
		}
	}
	return decimal.Zero
}

// Goods is what is known of the prices of a variant; class is its tax class, pool what
// is in stock, expected what the variant and its product are expected to cost.
func (p Pricing) Goods(product, variant, class uint64, pool cost.Pool, expected ...*decimal.Decimal) price.Goods {
	return price.Goods{
		Own:      p.Rows(product, variant, 0),
		Product:  p.Rows(product, 0, 0),
		Rule:     p.rules[product],
		RuleFrom: p.from[product],
		Cost:     price.NextCost(pool.Last, expected...),
		Held:     price.CostOf(pool, expected...),
		Percent:  p.Percent(class),
	}
}

// Pack is what is known of the prices of a pack of goods.
func (p Pricing) Pack(product, variant, pack uint64, factor decimal.Decimal, unit price.Goods) price.Goods {
	return price.Goods{
		Own:     p.Rows(product, variant, pack),
		Product: p.Rows(product, 0, pack),
		Cost:    unit.Cost,
		Held:    unit.Held,
		Percent: unit.Percent,
		Factor:  factor,
		Unit:    &unit,
	}
}

// SetPrice gives something a price from a moment on.
func SetPrice(tx db.Tx, p Price) error {
	if p.PriceListID == 0 {
		p.PriceListID = price.Regular
	}
	if err := db.SQL(tx.Q).Exec("DELETE FROM price WHERE product_id = ? AND variant_id <=> ? AND pack_id <=> ? AND "+
		"price_list_id = ? AND from_at = ? AND from_quantity = ?", p.ProductID, p.VariantID, p.PackID, p.PriceListID,
		p.FromAt, p.FromQuantity).Error; err != nil {
		return err
	}
	return db.SQL(tx.Q).Create(&p).Error
}

// DropPrices takes back prices of a product that have not begun yet, or, with
// all, every price of one thing on a list.
func DropPrices(tx db.Tx, product uint64, variant, pack *uint64, list uint64, from time.Time) error {
	return db.SQL(tx.Q).
		Exec("DELETE FROM price WHERE product_id = ? AND variant_id <=> ? AND pack_id <=> ? AND price_list_id = ? "+
			"AND from_at >= ?", product, variant, pack, list, from).
		Error
}

// Due lists the products of which a price that was written before, or the tax on it,
// begins after one moment and up to another.
func Due(q db.Q, after, until time.Time) ([]uint64, error) {
	var ids []uint64
	return ids, db.SQL(q).Raw(`SELECT product_id FROM price WHERE later AND from_at > ? AND from_at <= ?
		UNION SELECT p.id FROM tax_rate r JOIN product p ON p.tax_class_id = r.tax_class_id WHERE r.from_at > ? AND
		r.from_at <= ?`, after, until, after, until).Scan(&ids).Error
}

// AddPrices writes prices, and fills in the number.
func AddPrices(tx db.Tx, row *[]Price) error { return db.Insert(tx, row) }
