package goods

import (
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/cost"
	"itemrack/core/price"
	"itemrack/store/internal/db"
	"itemrack/store/prices"
)

// Standing is what one of a variant costs and asks on the Regular list, and what is left
// of that. Asked is nil without a price; Listed is what the lists say that it asks.
type Standing struct {
	price.Standing
	Variant, Product uint64
	Asked, Listed    *decimal.Decimal
	ForSale          decimal.Decimal
	Restock          *decimal.Decimal
}

// ListPrices adds a statement that keeps what some variants ask on the Regular list,
// where that has changed.
func ListPrices(b *db.Batch, list []Standing) {
	var args []any
	var ids []uint64
	for _, s := range list {
		if !same(s.Asked, s.Listed) {
			args, ids = append(args, s.Variant, s.Asked), append(ids, s.Variant)
		}
	}
	if len(ids) > 0 {
		b.Add(
			"UPDATE variant SET list_price = CASE id"+strings.Repeat(" WHEN ? THEN ?",
				len(ids))+" END WHERE id IN ("+db.IDs(
				ids,
			)+")",
			args...)
	}
}

// same reports whether two figures that may be missing are the same.
func same(a, b *decimal.Decimal) bool {
	if a == nil || b == nil {
		return a == b
	}
	return a.Equal(*b)
}

// Listed is how a variant stands by what is kept of it for lists.
type Listed struct {
	Variant uint64
	Asked   *decimal.Decimal
	Cost    decimal.Decimal
	Margin  *decimal.Decimal
	Under   bool
}

// Agrees reports whether lists say of a variant what it stands at.
func (l Listed) Agrees(s Standing) bool {
	return l.Cost.Equal(s.Cost.Amount) && same(l.Margin, s.Margin) && l.Under == s.Under && same(l.Asked, s.Asked)
}

// ListedOf reads what is kept for lists of the variants of some products that have a pool.
func ListedOf(q db.Q, products []uint64) (map[uint64]Listed, error) {
	list := map[uint64]Listed{}
	return list, db.Read(q, db.Part{SQL: `SELECT v.id, v.list_price, k.cost, k.margin, k.under FROM variant v
		JOIN cost_pool k ON k.variant_id = v.id WHERE v.product_id IN (` + db.IDs(products) + ")",
		Row: func(scan func(into ...any) error) error {
			var l Listed
			err := scan(&l.Variant, &l.Asked, &l.Cost, &l.Margin, &l.Under)
			list[l.Variant] = l
			return err
		}})
}

// Standings works out the standing of the variants of some products at a moment, their
// pools being locked until the transaction ends.
func Standings(tx db.Tx, products []uint64, moment time.Time) ([]Standing, error) {
	return standings(tx.Q, products, moment, " FOR UPDATE")
}

// StandingsSeen is Standings of queries that lock nothing.
func StandingsSeen(q db.Q, products []uint64, moment time.Time) ([]Standing, error) {
	return standings(q, products, moment, "")
}

func standings(q db.Q, products []uint64, moment time.Time, lock string) ([]Standing, error) {
	in := db.IDs(products)
	p, parts, err := prices.Finding(q, in, moment)
	if err != nil {
		return nil, err
	}
	type row struct {
		Standing
		product     Product
		own, bundle *decimal.Decimal
		pool        cost.Pool
	}
	var rows []row
	var inherited Inheritance
	above, err := inheritanceParts(q, &inherited)
	if err != nil {
		return nil, err
	}
	parts = append(
		parts,
		db.Part{
			SQL: `SELECT v.id, p.id, p.name, p.category_id, p.supplier_id, p.tax_class_id, p.own_tax_class,
				p.markup, p.ending, p.cost, v.cost, v.list_price, v.restock_level,
		COALESCE(k.quantity, 0), COALESCE(k.value, 0), COALESCE(k.last_cost, 0), COALESCE(k.for_sale, 0),
		IF(p.bundle, (SELECT SUM(b.quantity * x.cost) FROM bundle_part b JOIN cost_pool x ON x.variant_id =
		b.variant_id WHERE b.bundle_id = v.id), NULL)
		FROM product p JOIN variant v ON v.product_id = p.id LEFT JOIN cost_pool k ON k.variant_id = v.id WHERE
		p.id IN (` + in + ") ORDER BY v.id" + lock,
			Row: func(scan func(into ...any) error) error {
				var r row
				err := scan(&r.Variant, &r.product.ID, &r.product.Name, &r.product.CategoryID, &r.product.SupplierID,
					&r.product.TaxClassID, &r.product.OwnTaxClass, &r.product.Markup, &r.product.Ending,
					&r.product.Cost, &r.own, &r.Listed, &r.Restock, &r.pool.Quantity, &r.pool.Value, &r.pool.Last,
					&r.ForSale, &r.bundle)
				rows = append(rows, r)
				return err
			},
		},
	)
	if err := db.Read(q, append(parts, above...)...); err != nil {
		return nil, err
	}
	list := make([]Standing, len(rows))
	for i, r := range rows {
		p.Rule(r.product.ID, inherited.Settle(r.product))
		goods := p.Goods(r.product.ID, r.Variant, r.product.TaxClassID, r.pool, r.own, r.product.Cost)
		if r.bundle != nil {
			goods.Held = price.Cost{Amount: *r.bundle, From: price.FromParts}
		}
		a := p.Book.Find(goods, price.Regular, decimal.New(1, 0), moment)
		list[i] = r.Standing
		list[i].Product, list[i].Standing = r.product.ID, a.Standing
		if list[i].Cost = goods.Held; a.Source != price.NoPrice {
			list[i].Asked = &a.Amount
		}
	}
	return list, nil
}
