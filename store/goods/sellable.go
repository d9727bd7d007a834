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

// sellableRow is a variant with what of its product is needed to settle its price.
type sellableRow struct {
	Sellable
	product  Product
	unit     string
	buyClass uint64
	own      *decimal.Decimal // expected cost of the variant
	pool     cost.Pool
	parts    decimal.Decimal // what the parts of a bundle cost
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

// SellableParts are the queries of Sellables, and what makes of their answers what they come to.
func SellableParts(q db.Q, ids []uint64, moment time.Time) ([]db.Part, func() (map[uint64]Sellable, error), error) {
	in := "SELECT product_id FROM variant WHERE id IN (" + db.IDs(ids) + ")"
	p, parts, err := prices.Finding(q, in, moment)
	if err != nil {
		return nil, nil, err
	}
	var rows []sellableRow
	packs, bundled, barcodes := map[uint64][]Pack{}, map[uint64]bool{}, map[uint64]string{}
	own := map[uint64]map[stock.Condition]sale.OwnPrice{}
	var inherited Inheritance
	above, err := inheritanceParts(q, &inherited)
	if err != nil {
		return nil, nil, err
	}
	parts = append(
		parts,
		packsPart(in, packs),
		db.Part{
			SQL: `SELECT v.id, p.id, p.name, p.short_name, v.label, v.sku, p.tracking, p.bundle, p.unit,
				p.category_id, p.supplier_id, p.tax_class_id,
		p.own_tax_class, COALESCE(p.buy_tax_class_id, p.tax_class_id), p.markup, p.ending, p.cost, v.cost,
		v.restock_level, v.list_price,
		k.quantity, k.value, k.last_cost, k.cost FROM variant v JOIN product p ON p.id = v.product_id JOIN
		cost_pool k ON k.variant_id = v.id WHERE v.id IN (` + db.IDs(
				ids,
			) + ")",
			Row: func(scan func(into ...any) error) error {
				var r sellableRow
				err := scan(&r.ID, &r.product.ID, &r.Name, &r.ShortName, &r.Label, &r.SKU, &r.Tracking, &r.Bundle,
					&r.unit, &r.product.CategoryID, &r.product.SupplierID, &r.product.TaxClassID,
					&r.product.OwnTaxClass, &r.buyClass, &r.product.Markup, &r.product.Ending, &r.product.Cost, &r.own,
					&r.Restock, &r.Listed, &r.pool.Quantity, &r.pool.Value, &r.pool.Last, &r.parts)
				rows = append(rows, r)
				return err
			},
		},
		bundledPart(ids, bundled),
		barcodesPart(ids, barcodes),
		prices.InConditionsPart(ids, own),
	)
	var conditions []stock.ConditionFacts
	facts, err := office.ConditionsParts(q, &conditions)
	if err != nil {
		return nil, nil, err
	}
	return slices.Concat(parts, facts, above), func() (map[uint64]Sellable, error) {
		found := make(map[uint64]Sellable, len(rows))
		for _, r := range rows {
			r.Bundled, r.Barcode = bundled[r.ID], barcodes[r.ID]
			r.In = sale.SoldApart(conditions, own[r.ID])
			var err error
			if found[r.ID], err = r.settle(p, inherited, packs[r.product.ID]); err != nil {
				return nil, err
			}
		}
		return found, nil
	}, nil
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
func (r sellableRow) settle(p prices.Pricing, in Inheritance, packs []Pack) (Sellable, error) {
	s := r.Sellable
	var err error
	if s.Unit, err = unit.ByCode(r.unit); err != nil {
		return s, err
	}
	r.product.Name = s.Name
	p.Rule(r.product.ID, in.Settle(r.product))
	s.ProductID, s.Book, s.LastCost = r.product.ID, p.Book, r.pool.Last
	s.Expected, s.TaxClass = [2]*decimal.Decimal{r.own, r.product.Cost}, r.product.TaxClassID
	s.Percent, s.BuyPercent = p.Percent(r.product.TaxClassID), p.Percent(r.buyClass)
	s.Goods = p.Goods(s.ProductID, s.ID, r.product.TaxClassID, r.pool, r.own, r.product.Cost)
	if s.Bundle {
		s.Goods.Held = price.Cost{Amount: r.parts, From: price.FromParts}
	}
	s.Packed = map[uint64]price.Goods{}
	for _, pack := range packs {
		s.Packs = append(s.Packs, sale.Pack{ID: pack.ID, Name: pack.Name, Factor: pack.Factor, Bought: pack.Bought})
		s.Packed[pack.ID] = p.Pack(s.ProductID, s.ID, pack.ID, pack.Factor, s.Goods)
	}
	a := s.PriceOf(price.Regular, 0, decimal.New(1, 0), p.Moment)
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
