package goods

import (
	"github.com/shopspring/decimal"

	"itemrack/core/catalog"
	"itemrack/core/cost"
	"itemrack/core/price"
	"itemrack/core/stock"
	"itemrack/store/internal/db"
)

// expiredBefore is the day before which lots have expired that are not available any more.
const expiredBefore = "COALESCE((SELECT value FROM setting WHERE name = 'expired_before'), '1000-01-01')"

// coreParts gives parts to the rule.
func coreParts(parts []PartView) []catalog.Part {
	list := make([]catalog.Part, len(parts))
	for i, p := range parts {
		list[i] = p.Part
	}
	return list
}

// bundleFigures works out what is available of bundles, made up or to be, and
// what they cost.
func bundleFigures(q db.Q, byID map[uint64]*ProductView, bundles []uint64, branch uint64) error {
	parts, err := BundleParts(q, bundles, branch)
	if err != nil || len(parts) == 0 {
		return err
	}
	for _, p := range byID {
		for i := range p.Variants {
			v := &p.Variants[i]
			list, ok := parts[v.ID]
			if !ok {
				continue
			}
			everywhere, here := make([]catalog.Part, len(list)), make([]catalog.Part, len(list))
			for n, part := range list {
				everywhere[n] = part.Part
				here[n] = part.Part
				here[n].Available = part.Here
			}
			v.ForSale, v.Here, v.Average = v.ForSale.Add(catalog.Available(everywhere)), v.Here.Add(
				catalog.Available(here)), catalog.BundleCost(everywhere)
		}
	}
	return nil
}

// PartView is a component of a bundle.
type PartView struct {
	catalog.Part
	Variant  uint64          `json:"variant_id"`
	Tracking stock.Tracking  `json:"tracking"`
	SKU      string          `json:"sku"`
	Here     decimal.Decimal `json:"here"` // for sale at a branch
}

// Locked finds, of a balance by its alias, whether a count locks it.
func Locked(balance string) string {
	return "EXISTS (SELECT 1 FROM count_row lr JOIN shelf_count lc ON lc.id = lr.shelf_count_id JOIN shelf ls ON ls.id = " +
		balance + ".shelf_id WHERE lr.variant_id = " + balance + ".variant_id AND lr.held AND lr.lot_id = " + balance +
		".lot_id AND lr.`condition` = " + balance + ".`condition` AND lc.branch_id = ls.branch_id AND lc.state <> 'Closed')"
}

// BundleParts reads the components of some bundles, with what is available of
// them everywhere and at a branch.
func BundleParts(q db.Q, bundles []uint64, branch uint64) (map[uint64][]PartView, error) {
	parts := map[uint64][]PartView{}
	if len(bundles) == 0 {
		return parts, nil
	}
	var rows []struct {
		BundleID, VariantID        uint64
		Quantity, ForSale, Here    decimal.Decimal
		PoolQuantity, Value, Last  decimal.Decimal
		Name, Label, SKU, Tracking string
		Cost                       *decimal.Decimal
	}
	err := db.SQL(q).
		Raw(`SELECT b.bundle_id, b.variant_id, b.quantity, c.for_sale, c.quantity AS pool_quantity, c.value,
			c.last_cost AS last, p.name, v.label, v.sku, p.tracking, COALESCE(v.cost, p.cost) AS cost,
		COALESCE((SELECT SUM(x.quantity) FROM balance x JOIN shelf s ON s.id = x.shelf_id WHERE x.variant_id = v.id
		AND x.condition = ? AND s.branch_id = ? AND NOT EXISTS (SELECT 1 FROM lot l WHERE l.id = x.lot_id AND
		l.expiry < `+expiredBefore+`) AND NOT `+Locked("x")+`), 0) AS here
		FROM bundle_part b JOIN variant v ON v.id = b.variant_id JOIN product p ON p.id = v.product_id JOIN
		cost_pool c ON c.variant_id = v.id WHERE b.bundle_id IN ? ORDER BY b.bundle_id, v.sku`,
			stock.ForSale, branch, bundles).
		Scan(&rows).
		Error
	for _, r := range rows {
		cost := price.CostOf(cost.Of(r.PoolQuantity, r.Value, r.Last), r.Cost).Amount
		parts[r.BundleID] = append(
			parts[r.BundleID],
			PartView{Variant: r.VariantID, Tracking: stock.Tracking(r.Tracking), SKU: r.SKU, Here: r.Here,
				Part: catalog.Part{
					Name:       catalog.FullName(r.Name, r.Label),
					Quantity:   r.Quantity,
					Available:  r.ForSale,
					Cost:       cost,
					NotStocked: r.Tracking == string(stock.NotStocked),
				}},
		)
	}
	return parts, err
}

// SetBundleParts writes the components of a bundle in place of those there were.
func SetBundleParts(tx db.Tx, bundle uint64, parts []BundlePart) error {
	if err := db.SQL(tx.Q).Exec("DELETE FROM bundle_part WHERE bundle_id = ?", bundle).Error; err != nil ||
		len(parts) == 0 {
		return err
	}
	return db.Insert(tx, &parts)
}
