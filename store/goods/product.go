package goods

import (
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/price"
	"itemrack/core/stock"
	"itemrack/core/tax"
	"itemrack/core/unit"
	"itemrack/store/internal/db"
	"itemrack/store/prices"
)

// VariantView is a variant with what a rack or a swing tag says of it.
type VariantView struct {
	ID           uint64           `json:"id"`
	ProductID    uint64           `json:"product_id"`
	SKU          string           `json:"sku"`
	Label        string           `json:"label"`
	Choice       catalog.Choice   `json:"choice"`
	Barcode      string           `json:"barcode"` // the first one
	RestockLevel *decimal.Decimal `json:"restock_level"`
	OwnRestock   *decimal.Decimal `json:"own_restock"`
	OwnCost      *decimal.Decimal `json:"own_cost" see:"costs"` // expected, its own
	Price        decimal.Decimal  `json:"price"`                // of one on the Regular list
	PriceSource  price.Source     `json:"price_source"`
	Under        bool             `json:"under" see:"costs"` // priced under cost
	Answer       price.Answer     `json:"answer"`
	OnHand       decimal.Decimal  `json:"on_hand"`  // all conditions
	ForSale      decimal.Decimal  `json:"for_sale"` // all branches
	Here         decimal.Decimal  `json:"here"`     // for sale at the branch asked for
	Value        decimal.Decimal  `json:"value" see:"costs"`
	Average      decimal.Decimal  `json:"average" see:"costs"`
	LastCost     decimal.Decimal  `json:"last_cost" see:"costs"`
	Low          bool             `json:"low"` // less for sale than the restock level
	Retired      bool             `json:"retired"`
	PictureID    uint64           `json:"picture_id"`
}

// ProductView is a product with its axes and variants.
type ProductView struct {
	Product
	Category Category        `json:"category"`
	Supplier string          `json:"supplier"`
	TaxClass tax.Class       `json:"tax_class"`
	UnitOf   unit.Unit       `json:"unit_of"`
	Axes     []catalog.Axis  `json:"axes"`
	AxisIDs  []uint64        `json:"axis_ids"`
	ValueIDs [][]uint64      `json:"value_ids"`
	Variants []VariantView   `json:"variants"`
	Settled  catalog.Settled `json:"settled"`
	Packs    []Pack          `json:"packs"`
	Pricing  prices.Pricing  `json:"pricing"`
}

// Rack hangs the product's variants.
func (p ProductView) Rack() catalog.Rack { return catalog.Hang(p.Axes, p.Choices()) }

// Choices lists the choice of each variant.
func (p ProductView) Choices() []catalog.Choice {
	choices := make([]catalog.Choice, len(p.Variants))
	for i, v := range p.Variants {
		choices[i] = v.Choice
	}
	return choices
}

// Variant finds one of the product's variants.
func (p ProductView) Variant(id uint64) (VariantView, bool) {
	for _, v := range p.Variants {
		if v.ID == id {
			return v, true
		}
	}
	return VariantView{}, false
}

// Goods is what is known of the prices of one of the product's variants.
func (p ProductView) Goods(v VariantView) price.Goods {
	goods := p.Pricing.Goods(p.ID, v.ID, p.TaxClassID, cost.Of(v.OnHand, v.Value, v.LastCost), v.OwnCost, p.Cost)
	if p.Bundle {
		goods.Held = price.Cost{Amount: v.Average, From: price.FromParts}
	}
	return goods
}

// LeastMargin is the margin of the variant of which the least is left, in words; empty
// where there is none.
func (p ProductView) LeastMargin() string {
	var least price.Standing
	for _, v := range p.Variants {
		if m := v.Answer.Margin; m != nil && (least.Margin == nil || m.LessThan(*least.Margin)) {
			least = v.Answer.Standing
		}
	}
	return least.MarginText()
}

// ReadProduct reads a product with all of its variants; prices are those of a
// moment, Here is at a branch.
func ReadProduct(q db.Q, id, branch uint64, moment time.Time) (ProductView, error) {
	found, err := ProductViews(q, []uint64{id}, branch, moment)
	if err == nil && len(found) == 0 {
		err = fault.Missing("product", id, "There is no product %d.", id)
	}
	if err != nil {
		return ProductView{}, err
	}
	return *found[0], nil
}

// ProductViews reads some products with all of their variants, in the order
// asked for and without those that are not there. It takes the same number of
// queries however many they are.
func ProductViews(q db.Q, ids []uint64, branch uint64, moment time.Time) ([]*ProductView, error) {
	if len(ids) == 0 {
		return nil, nil
	}
	var rows []Product
	if err := db.SQL(q).Raw("SELECT * FROM product WHERE id IN ?", ids).Scan(&rows).Error; err != nil {
		return nil, err
	}
	in, err := ReadInheritance(q)
	if err != nil {
		return nil, err
	}
	pricing, err := prices.Find(q, ids, moment)
	if err != nil {
		return nil, err
	}
	packs, err := Packs(q, ids)
	if err != nil {
		return nil, err
	}
	byID := map[uint64]*ProductView{}
	for _, r := range rows {
		p := &ProductView{
			Product:  r,
			Category: in.categories[r.CategoryID],
			Settled:  in.Settle(r),
			Packs:    packs[r.ID],
			Pricing:  pricing,
		}
		if r.SupplierID != nil {
			p.Supplier = in.suppliers[*r.SupplierID].Name
		}
		for i := range p.Packs {
			p.Packs[i] = p.Packs[i].Revised()
		}
		pricing.Rule(r.ID, in.Settle(r))
		for _, c := range pricing.Classes {
			if c.ID == p.TaxClassID {
				p.TaxClass = c
			}
		}
		if p.UnitOf, err = unit.ByCode(p.Unit); err != nil {
			return nil, err
		}
		byID[p.ID] = p
	}
	names, err := productAxes(q, byID, ids)
	if err != nil {
		return nil, err
	}
	if err := productVariants(q, byID, ids, names, branch, moment); err != nil {
		return nil, err
	}
	var list []*ProductView
	for _, id := range ids {
		if p := byID[id]; p != nil {
			list = append(list, p)
		}
	}
	return list, nil
}

// productAxes reads the axes and returns the name of each value.
func productAxes(q db.Q, byID map[uint64]*ProductView, ids []uint64) (map[uint64]string, error) {
	var rows []struct {
		ProductID, AxisID, ValueID uint64
		Axis, Sets, Name, Swatch   string
		Retired                    bool
	}
	err := db.SQL(q).
		Raw(`SELECT a.product_id, a.id AS axis_id, a.name AS axis, s.name AS sets, x.id AS value_id, v.name,
			v.swatch, x.retired FROM axis a
		JOIN value_set s ON s.id = a.value_set_id JOIN axis_value x ON x.axis_id = a.id JOIN set_value v ON v.id =
		x.value_id WHERE a.product_id IN ? ORDER BY a.product_id, a.position, x.position, x.id`, ids).
		Scan(&rows).
		Error
	names := map[uint64]string{}
	for _, r := range rows {
		p := byID[r.ProductID]
		if n := len(p.AxisIDs); n == 0 || p.AxisIDs[n-1] != r.AxisID {
			p.AxisIDs = append(p.AxisIDs, r.AxisID)
			p.Axes = append(p.Axes, catalog.Axis{Name: r.Axis, Set: r.Sets})
			p.ValueIDs = append(p.ValueIDs, nil)
		}
		n := len(p.Axes) - 1
		p.Axes[n].Values = append(p.Axes[n].Values, catalog.Value{Name: r.Name, Swatch: r.Swatch, Retired: r.Retired})
		p.ValueIDs[n] = append(p.ValueIDs[n], r.ValueID)
		names[r.ValueID] = r.Name
	}
	return names, err
}

func productVariants(q db.Q, byID map[uint64]*ProductView, ids []uint64, names map[uint64]string, branch uint64,
	moment time.Time) error {
	var rows []struct {
		Variant
		Barcode                   string
		Quantity, Value, LastCost decimal.Decimal
		ForSale, Here             decimal.Decimal
		Low                       bool
	}
	err := db.SQL(q).
		Raw(`SELECT v.*, c.quantity, c.value, c.last_cost, c.for_sale, c.low, COALESCE((SELECT code FROM barcode b
			WHERE b.variant_id = v.id AND b.pack_id IS NULL ORDER BY b.id LIMIT 1), '') AS barcode,
		COALESCE((SELECT SUM(quantity) FROM balance b JOIN shelf s ON s.id = b.shelf_id WHERE b.variant_id = v.id
		AND b.condition = ? AND s.branch_id = ? AND NOT EXISTS (SELECT 1 FROM lot l WHERE l.id = b.lot_id AND
		l.expiry < `+expiredBefore+`) AND NOT `+Locked("b")+`), 0) AS here
		FROM variant v JOIN cost_pool c ON c.variant_id = v.id WHERE v.product_id IN ? ORDER BY v.id`, stock.ForSale,
			branch, ids).
		Scan(&rows).
		Error
	if err != nil {
		return err
	}
	one := decimal.New(1, 0)
	var bundles []uint64
	for _, r := range rows {
		p := byID[r.ProductID]
		view := VariantView{
			ID:           r.ID,
			ProductID:    r.ProductID,
			SKU:          r.SKU,
			Label:        r.Label,
			Barcode:      r.Barcode,
			RestockLevel: r.RestockLevel,
			OwnRestock:   r.OwnRestockLevel,
			OwnCost:      r.Cost,
			Retired:      r.Retired,
			OnHand:       r.Quantity,
			Value:        r.Value,
			LastCost:     r.LastCost,
			Average:      cost.Of(r.Quantity, r.Value, r.LastCost).Average(),
			Choice:       catalog.Choice{},
			ForSale:      r.ForSale,
			Here:         r.Here,
			Low:          r.Low,
		}
		if r.PictureID != nil {
			view.PictureID = *r.PictureID
		}
		for _, value := range []*uint64{r.Value1ID, r.Value2ID, r.Value3ID} {
			if value != nil {
				view.Choice = append(view.Choice, names[*value])
			}
		}
		if p.Bundle {
			bundles = append(bundles, view.ID)
		}
		p.Variants = append(p.Variants, view)
	}
	if err := bundleFigures(q, byID, bundles, branch); err != nil {
		return err
	}
	for _, p := range byID {
		for i := range p.Variants {
			v := &p.Variants[i]
			v.Answer = p.Pricing.Book.Find(p.Goods(*v), price.Regular, one, moment)
			v.Price, v.PriceSource, v.Under = v.Answer.Amount, v.Answer.Source, v.Answer.Under
		}
	}
	return nil
}
