package prices

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/tax"
	"itemrack/store/internal/db"
)

// PackPrice is what a pack costs on the Regular list at a moment; nil for none.
func PackPrice(q db.Q, product, pack uint64, moment time.Time) (*decimal.Decimal, error) {
	var rows []Price
	err := db.SQL(q).Raw("SELECT * FROM price WHERE product_id = ? AND pack_id = ? AND variant_id IS NULL AND price_list_id = 1 AND from_quantity = 0 AND from_at <= ? ORDER BY from_at DESC, id DESC LIMIT 1", product, pack, moment).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	return &rows[0].Amount, nil
}

// PriceLists lists the price lists, Regular first.
func PriceLists(q db.Q) ([]price.List, error) {
	var rows []PriceList
	err := db.SQL(q).Raw("SELECT * FROM price_list ORDER BY id").Scan(&rows).Error
	lists := make([]price.List, len(rows))
	for i, r := range rows {
		lists[i] = price.List{ID: r.ID, Name: r.Name, Rule: price.Rule{Kind: price.RuleKind(r.RuleKind), Percent: r.RulePercent, Amount: r.RuleAmount}}
		if r.RuleListID != nil {
			lists[i].Rule.List = *r.RuleListID
		}
		if e := price.SaidEnding(&r.Ending); e != nil {
			lists[i].Rule.Ending = *e
		}
	}
	return lists, err
}

// SavePriceList writes a price list; a new one gets its number.
func SavePriceList(tx db.Tx, l *price.List) error {
	row := PriceList{ID: l.ID, Name: l.Name, RuleKind: string(l.Rule.Kind), RulePercent: l.Rule.Percent, RuleAmount: l.Rule.Amount, Ending: l.Rule.Ending.Text()}
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
		return fault.Refuse("price_list", id, "a list that nothing uses", "Another list starts from this one, or a basket uses it.")
	}
	return err
}

// Pricing is what the prices of some products are found in, at one moment.
type Pricing struct {
	Book    price.Book `json:"book"`
	Moment  time.Time  `json:"moment"`
	rows    map[priceKey]price.Rows
	Rules   map[uint64]price.Rule
	from    map[uint64]string
	percent map[uint64]decimal.Decimal // by tax class
	Classes []tax.Class
}

type priceKey struct{ product, variant, pack uint64 }

// Find reads the prices of some products on all lists.
func Find(q db.Q, products []uint64, moment time.Time) (Pricing, error) {
	p := Pricing{Book: price.Book{Basis: q.Basis(), Zone: q.Zone()}, Moment: moment, rows: map[priceKey]price.Rows{}, Rules: map[uint64]price.Rule{}, from: map[uint64]string{}, percent: map[uint64]decimal.Decimal{}}
	var err error
	if p.Book.Lists, err = PriceLists(q); err != nil {
		return p, err
	}
	if p.Classes, err = TaxClasses(q); err != nil {
		return p, err
	}
	for _, c := range p.Classes {
		p.percent[c.ID] = c.At(moment)
	}
	var rows []Price
	if err := db.SQL(q).Raw("SELECT * FROM price WHERE product_id IN ? ORDER BY from_at, id", products).Scan(&rows).Error; err != nil {
		return p, err
	}
	for _, r := range rows {
		key := priceKey{product: r.ProductID}
		if r.VariantID != nil {
			key.variant = *r.VariantID
		}
		if r.PackID != nil {
			key.pack = *r.PackID
		}
		if p.rows[key] == nil {
			p.rows[key] = price.Rows{}
		}
		p.rows[key][r.PriceListID] = append(p.rows[key][r.PriceListID], price.Dated{Since: r.FromAt, From: r.FromQuantity, Amount: r.Amount})
	}
	return p, nil
}

// Rule says which rule a product has, once its defaults are settled.
func (p Pricing) Rule(product uint64, s catalog.Settled) {
	p.Rules[product], p.from[product] = s.Rule(), s.MarkupFrom
}

// Rows are the prices of a variant's own (0 for its product's) on each list, or
// those of a pack.
func (p Pricing) Rows(product, variant, pack uint64) price.Rows {
	return p.rows[priceKey{product, variant, pack}]
}

// Goods is what is known of the prices of a variant; class is its tax class.
func (p Pricing) Goods(product, variant, class uint64, cost decimal.Decimal) price.Goods {
	return price.Goods{Own: p.Rows(product, variant, 0), Product: p.Rows(product, 0, 0), Rule: p.Rules[product], RuleFrom: p.from[product], Cost: cost, Percent: p.percent[class]}
}

// Pack is what is known of the prices of a pack of goods.
func (p Pricing) Pack(product, variant, pack uint64, factor decimal.Decimal, unit price.Goods) price.Goods {
	return price.Goods{Own: p.Rows(product, variant, pack), Product: p.Rows(product, 0, pack), Cost: unit.Cost, Percent: unit.Percent, Factor: factor, Unit: &unit}
}

// SetPrice gives something a price from a moment on.
func SetPrice(tx db.Tx, p Price) error {
	if p.PriceListID == 0 {
		p.PriceListID = price.Regular
	}
	return db.SQL(tx.Q).Create(&p).Error
}

// DropPrices takes back prices of a product that have not begun yet, or, with
// all, every price of one thing on a list.
func DropPrices(tx db.Tx, product uint64, variant, pack *uint64, list uint64, from time.Time) error {
	return db.SQL(tx.Q).Exec("DELETE FROM price WHERE product_id = ? AND variant_id <=> ? AND pack_id <=> ? AND price_list_id = ? AND from_at >= ?", product, variant, pack, list, from).Error
}

// Due lists the products of which a price begins after one moment and up to
// another.
func Due(q db.Q, after, until time.Time) ([]uint64, error) {
	var ids []uint64
	return ids, db.SQL(q).Raw("SELECT DISTINCT product_id FROM price WHERE from_at > ? AND from_at <= ?", after, until).Scan(&ids).Error
}

// AddPrices writes prices, and fills in the number.
func AddPrices(tx db.Tx, row *[]Price) error { return db.Insert(tx, row) }
