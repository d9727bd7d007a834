package store

import (
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/stock"
	"itemrack/core/tax"
	"itemrack/core/unit"
)

// PriceLists lists the price lists, Regular first.
func (q Q) PriceLists() ([]price.List, error) {
	var rows []PriceList
	err := q.db.Raw("SELECT * FROM price_list ORDER BY id").Scan(&rows).Error
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
func (tx Tx) SavePriceList(l *price.List) error {
	row := PriceList{ID: l.ID, Name: l.Name, RuleKind: string(l.Rule.Kind), RulePercent: l.Rule.Percent, RuleAmount: l.Rule.Amount, Ending: l.Rule.Ending.Text()}
	if l.Rule.Kind == price.OtherList {
		row.RuleListID = &l.Rule.List
	}
	err := tx.db.Save(&row).Error
	if duplicate(err) {
		return fault.Clash("name", l.Name, "a name of its own", "There is a price list %s already.", l.Name)
	}
	l.ID = row.ID
	return err
}

// DropPriceList drops a price list with its prices; one that others start from
// is refused.
func (tx Tx) DropPriceList(id uint64) error {
	if err := tx.db.Exec("DELETE FROM price WHERE price_list_id = ?", id).Error; err != nil {
		return err
	}
	err := tx.db.Exec("DELETE FROM price_list WHERE id = ?", id).Error
	if referenced(err) {
		return fault.Refuse("price_list", id, "a list that nothing uses", "Another list starts from this one, or a basket uses it.")
	}
	return err
}

// Pricing is what the prices of some products are found in, at one moment.
type Pricing struct {
	Book    price.Book `json:"book"`
	Moment  time.Time  `json:"moment"`
	rows    map[priceKey]price.Rows
	rules   map[uint64]price.Rule
	from    map[uint64]string
	percent map[uint64]decimal.Decimal // by tax class
	classes []tax.Class
}

type priceKey struct{ product, variant, pack uint64 }

// Pricing reads the prices of some products on all lists.
func (q Q) Pricing(products []uint64, moment time.Time) (Pricing, error) {
	p := Pricing{Book: price.Book{Basis: q.Basis(), Zone: q.Zone()}, Moment: moment, rows: map[priceKey]price.Rows{}, rules: map[uint64]price.Rule{}, from: map[uint64]string{}, percent: map[uint64]decimal.Decimal{}}
	var err error
	if p.Book.Lists, err = q.PriceLists(); err != nil {
		return p, err
	}
	if p.classes, err = q.TaxClasses(); err != nil {
		return p, err
	}
	for _, c := range p.classes {
		p.percent[c.ID] = c.At(moment)
	}
	var rows []Price
	if err := q.db.Raw("SELECT * FROM price WHERE product_id IN ? ORDER BY from_at, id", products).Scan(&rows).Error; err != nil {
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

// rule says which rule a product has, once its defaults are settled.
func (p Pricing) rule(product uint64, s catalog.Settled) {
	p.rules[product], p.from[product] = s.Rule(), s.MarkupFrom
}

// Rows are the prices of a variant's own (0 for its product's) on each list, or
// those of a pack.
func (p Pricing) Rows(product, variant, pack uint64) price.Rows {
	return p.rows[priceKey{product, variant, pack}]
}

// Goods is what is known of the prices of a variant; class is its tax class.
func (p Pricing) Goods(product, variant, class uint64, cost decimal.Decimal) price.Goods {
	return price.Goods{Own: p.Rows(product, variant, 0), Product: p.Rows(product, 0, 0), Rule: p.rules[product], RuleFrom: p.from[product], Cost: cost, Percent: p.percent[class]}
}

// Pack is what is known of the prices of a pack of goods.
func (p Pricing) Pack(product, variant, pack uint64, factor decimal.Decimal, unit price.Goods) price.Goods {
	return price.Goods{Own: p.Rows(product, variant, pack), Product: p.Rows(product, 0, pack), Cost: unit.Cost, Percent: unit.Percent, Factor: factor, Unit: &unit}
}

// unitCost is the cost that prices are held against: of the last purchase, else
// what the variant or its product is expected to cost.
func unitCost(last decimal.Decimal, expected ...*decimal.Decimal) decimal.Decimal {
	if last.IsPositive() {
		return last
	}
	for _, e := range expected {
		if e != nil {
			return *e
		}
	}
	return decimal.Zero
}

// Packs lists the packs of some products.
func (q Q) Packs(products []uint64) (map[uint64][]Pack, error) {
	var rows []Pack
	err := q.db.Raw("SELECT * FROM pack WHERE product_id IN ? ORDER BY product_id, factor, id", products).Scan(&rows).Error
	packs := map[uint64][]Pack{}
	for _, r := range rows {
		packs[r.ProductID] = append(packs[r.ProductID], r)
	}
	return packs, err
}

// SetPrice gives something a price from a moment on.
func (tx Tx) SetPrice(p Price) error {
	if p.PriceListID == 0 {
		p.PriceListID = price.Regular
	}
	return tx.db.Create(&p).Error
}

// DropPrices takes back prices of a product that have not begun yet, or, with
// all, every price of one thing on a list.
func (tx Tx) DropPrices(product uint64, variant, pack *uint64, list uint64, from time.Time) error {
	return tx.db.Exec("DELETE FROM price WHERE product_id = ? AND variant_id <=> ? AND pack_id <=> ? AND price_list_id = ? AND from_at >= ?", product, variant, pack, list, from).Error
}

// Reprice works out what the variants of some products cost on the Regular list
// now, and keeps it for lists and searches.
func (tx Tx) Reprice(products []uint64, now time.Time) error {
	for start := 0; start < len(products); start += 500 {
		part := products[start:min(start+500, len(products))]
		views, err := tx.priced(part, now)
		if err != nil {
			return err
		}
		var args, ids []any
		for _, v := range views {
			var amount any
			if v.answer.Source != price.NoPrice {
				amount = v.answer.Amount
			}
			if same(v.now, v.answer) {
				continue
			}
			args = append(args, v.id, amount)
			ids = append(ids, v.id)
		}
		if len(ids) == 0 {
			continue
		}
		sql := "UPDATE variant SET list_price = CASE id" + strings.Repeat(" WHEN ? THEN ?", len(ids)) + " END WHERE id IN ?"
		if err := tx.db.Exec(sql, append(args, ids)...).Error; err != nil {
			return err
		}
	}
	return nil
}

func same(now *decimal.Decimal, a price.Answer) bool {
	if now == nil {
		return a.Source == price.NoPrice
	}
	return a.Source != price.NoPrice && a.Amount.Equal(*now)
}

type pricedVariant struct {
	id     uint64
	now    *decimal.Decimal
	answer price.Answer
}

// priced finds the Regular price of each variant of some products.
func (q Q) priced(products []uint64, now time.Time) ([]pricedVariant, error) {
	var rows []struct {
		Product
		VariantID         uint64
		VariantCost, Last *decimal.Decimal
		ListPrice         *decimal.Decimal
	}
	err := q.db.Raw(`SELECT p.id, p.name, p.category_id, p.supplier_id, p.tax_class_id, p.own_tax_class, p.markup, p.ending, p.restock_level, p.cost, v.id AS variant_id, v.cost AS variant_cost, c.last_cost AS last, v.list_price
		FROM product p JOIN variant v ON v.product_id = p.id JOIN cost_pool c ON c.variant_id = v.id WHERE p.id IN ?`, products).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	p, err := q.Pricing(products, now)
	if err != nil {
		return nil, err
	}
	in, err := q.Inheritance()
	if err != nil {
		return nil, err
	}
	list := make([]pricedVariant, len(rows))
	one := decimal.New(1, 0)
	for i, r := range rows {
		if _, ok := p.rules[r.ID]; !ok {
			p.rule(r.ID, in.Settle(r.Product))
		}
		last := decimal.Zero
		if r.Last != nil {
			last = *r.Last
		}
		list[i] = pricedVariant{r.VariantID, r.ListPrice, p.Book.Find(p.Goods(r.ID, r.VariantID, r.TaxClassID, unitCost(last, r.VariantCost, r.Cost)), price.Regular, one, now)}
	}
	return list, nil
}

// ProductsOf finds the products of some variants, each once.
func (q Q) ProductsOf(variants []uint64) ([]uint64, error) {
	var ids []uint64
	return ids, q.db.Raw("SELECT DISTINCT product_id FROM variant WHERE id IN ?", variants).Scan(&ids).Error
}

// Due lists the products of which a price begins after one moment and up to
// another.
func (q Q) Due(after, until time.Time) ([]uint64, error) {
	var ids []uint64
	return ids, q.db.Raw("SELECT DISTINCT product_id FROM price WHERE from_at > ? AND from_at <= ?", after, until).Scan(&ids).Error
}

// Sellable is what a basket, a delivery or a label needs to know of a variant.
// Price is for one on the Regular list.
type Sellable struct {
	ID        uint64          `json:"id"`
	ProductID uint64          `json:"product_id"`
	Name      string          `json:"name"`
	ShortName string          `json:"short_name"`
	Label     string          `json:"label"`
	SKU       string          `json:"sku"`
	Barcode   string          `json:"barcode"`
	Tracking  stock.Tracking  `json:"tracking"`
	Unit      unit.Unit       `json:"unit"`
	TaxClass  uint64          `json:"tax_class"`
	BuyTax    uint64          `json:"buy_tax"`
	Bundle    bool            `json:"bundle"`
	Price     decimal.Decimal `json:"price"`
	LastCost  decimal.Decimal `json:"last_cost"`
	HasPrice  bool            `json:"has_price"`
	Goods     price.Goods     `json:"goods"`
	Book      price.Book      `json:"book"`
	Packs     []Pack          `json:"packs"`
	packs     map[uint64]price.Goods
}

// FullName is the product with the variant.
func (s Sellable) FullName() string { return catalog.FullName(s.Name, s.Label) }

// Pack finds one of the packs.
func (s Sellable) Pack(id uint64) (Pack, bool) {
	at := slices.IndexFunc(s.Packs, func(p Pack) bool { return p.ID == id })
	if at < 0 {
		return Pack{}, false
	}
	return s.Packs[at], true
}

// PriceOf works out the price of one, or of one pack, on a list for a quantity.
func (s Sellable) PriceOf(list uint64, pack *uint64, quantity decimal.Decimal, moment time.Time) price.Answer {
	if pack != nil {
		return s.Book.Find(s.packs[*pack], list, quantity, moment)
	}
	return s.Book.Find(s.Goods, list, quantity, moment)
}

// Sellables reads some variants with their prices at a moment.
func (q Q) Sellables(ids []uint64, moment time.Time) (map[uint64]Sellable, error) {
	found := map[uint64]Sellable{}
	if len(ids) == 0 {
		return found, nil
	}
	var rows []struct {
		Product
		VariantID   uint64
		Label       string
		SKU         string `gorm:"column:sku"`
		Barcode     string
		VariantCost *decimal.Decimal
		LastCost    decimal.Decimal
	}
	err := q.db.Raw(`SELECT p.*, v.id AS variant_id, v.label, v.sku, v.cost AS variant_cost, c.last_cost,
		COALESCE((SELECT code FROM barcode b WHERE b.variant_id = v.id AND b.pack_id IS NULL ORDER BY b.id LIMIT 1), '') AS barcode
		FROM variant v JOIN product p ON p.id = v.product_id JOIN cost_pool c ON c.variant_id = v.id WHERE v.id IN ?`, ids).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return found, err
	}
	var products []uint64
	for _, r := range rows {
		products = append(products, r.ID)
	}
	products = slices.Compact(slices.Sorted(slices.Values(products)))
	p, err := q.Pricing(products, moment)
	if err != nil {
		return nil, err
	}
	packs, err := q.Packs(products)
	if err != nil {
		return nil, err
	}
	in, err := q.Inheritance()
	if err != nil {
		return nil, err
	}
	one := decimal.New(1, 0)
	for _, r := range rows {
		u, err := unit.ByCode(r.Unit)
		if err != nil {
			return nil, err
		}
		p.rule(r.ID, in.Settle(r.Product))
		s := Sellable{ID: r.VariantID, ProductID: r.ID, Name: r.Name, ShortName: r.ShortName, Label: r.Label, SKU: r.SKU, Barcode: r.Barcode, Tracking: stock.Tracking(r.Tracking), Unit: u, TaxClass: r.TaxClassID,
			BuyTax: r.TaxClassID, Bundle: r.Bundle, LastCost: r.LastCost, Book: p.Book, Packs: packs[r.ID], packs: map[uint64]price.Goods{}}
		if r.BuyTaxClassID != nil {
			s.BuyTax = *r.BuyTaxClassID
		}
		s.Goods = p.Goods(r.ID, r.VariantID, r.TaxClassID, unitCost(r.LastCost, r.VariantCost, r.Cost))
		for _, pack := range s.Packs {
			s.packs[pack.ID] = p.Pack(r.ID, r.VariantID, pack.ID, pack.Factor, s.Goods)
		}
		a := s.PriceOf(price.Regular, nil, one, moment)
		s.Price, s.HasPrice = a.Amount, a.Source != price.NoPrice
		found[s.ID] = s
	}
	return found, nil
}
