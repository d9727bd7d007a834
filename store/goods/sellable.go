package goods

import (
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/price"
	"itemrack/core/stock"
	"itemrack/core/unit"
	"itemrack/store/internal/db"
	"itemrack/store/prices"
)

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

// Reprice works out what the variants of some products cost on the Regular list
// now, and keeps it for lists and searches.
func Reprice(tx db.Tx, products []uint64, now time.Time) error {
	for start := 0; start < len(products); start += 500 {
		part := products[start:min(start+500, len(products))]
		views, err := priced(tx.Q, part, now)
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
		if err := db.SQL(tx.Q).Exec(sql, append(args, ids)...).Error; err != nil {
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
func priced(q db.Q, products []uint64, now time.Time) ([]pricedVariant, error) {
	var rows []struct {
		Product
		VariantID         uint64
		VariantCost, Last *decimal.Decimal
		ListPrice         *decimal.Decimal
	}
	err := db.SQL(q).Raw(`SELECT p.id, p.name, p.category_id, p.supplier_id, p.tax_class_id, p.own_tax_class, p.markup, p.ending, p.restock_level, p.cost, v.id AS variant_id, v.cost AS variant_cost, c.last_cost AS last, v.list_price
		FROM product p JOIN variant v ON v.product_id = p.id JOIN cost_pool c ON c.variant_id = v.id WHERE p.id IN ?`, products).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	p, err := prices.Find(q, products, now)
	if err != nil {
		return nil, err
	}
	in, err := ReadInheritance(q)
	if err != nil {
		return nil, err
	}
	list := make([]pricedVariant, len(rows))
	one := decimal.New(1, 0)
	for i, r := range rows {
		if _, ok := p.Rules[r.ID]; !ok {
			p.Rule(r.ID, in.Settle(r.Product))
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
func ProductsOf(q db.Q, variants []uint64) ([]uint64, error) {
	var ids []uint64
	return ids, db.SQL(q).Raw("SELECT DISTINCT product_id FROM variant WHERE id IN ?", variants).Scan(&ids).Error
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
func Sellables(q db.Q, ids []uint64, moment time.Time) (map[uint64]Sellable, error) {
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
	err := db.SQL(q).Raw(`SELECT p.*, v.id AS variant_id, v.label, v.sku, v.cost AS variant_cost, c.last_cost,
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
	p, err := prices.Find(q, products, moment)
	if err != nil {
		return nil, err
	}
	packs, err := Packs(q, products)
	if err != nil {
		return nil, err
	}
	in, err := ReadInheritance(q)
	if err != nil {
		return nil, err
	}
	one := decimal.New(1, 0)
	for _, r := range rows {
		u, err := unit.ByCode(r.Unit)
		if err != nil {
			return nil, err
		}
		p.Rule(r.ID, in.Settle(r.Product))
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
