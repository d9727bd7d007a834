package buying

import (
	"maps"
	"slices"

	"github.com/shopspring/decimal"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/price"
	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/shop/prices"
	"itemrack/store"
	storebuying "itemrack/store/buying"
	"itemrack/store/goods"
)

// NewPrice is goods of a delivery whose rule makes another price than they have of what they
// cost now.
type NewPrice struct {
	Item  goods.Sellable  `json:"item"`
	Cost  decimal.Decimal `json:"cost" see:"costs"` // landed, of one
	Offer price.Arrival   `json:"offer" see:"costs"`
}

// NewPrices are the new prices that a posted delivery offers; nothing changes by itself.
func NewPrices(s *deed.Shop, q store.Q, delivery uint64) ([]NewPrice, error) {
	view, lines, err := storebuying.ReadDelivery(q, delivery)
	if err != nil {
		return nil, err
	}
	if view.DocumentID == nil {
		return nil, fault.Refuse("delivery", delivery, "a posted delivery",
			"The delivery is a draft yet; it has no cost to price from.")
	}
	set, err := q.Terms()
	if err != nil {
		return nil, err
	}
	totals, err := DeliveryTotals(view.Delivery, lines, set.Minor())
	if err != nil {
		return nil, err
	}
	ids := make([]uint64, len(lines))
	for i, l := range lines {
		ids[i] = l.VariantID
	}
	found, err := goods.Sellables(q, ids, s.Now())
	if err != nil {
		return nil, err
	}
	list := []NewPrice{}
	one := decimal.New(1, 0)
	for i, l := range lines {
		v := found[l.VariantID]
		if slices.ContainsFunc(list, func(n NewPrice) bool { return n.Item.ID == v.ID }) || l.Quantity.IsZero() {
			continue
		}
		cost := totals.Lines[i].Value.DivRound(l.Quantity, money.CostPlaces)
		if offer, ok := v.Book.Arrived(v.Goods, v.PriceOf(price.Regular, 0, one, s.Now()), cost); ok {
			list = append(list, NewPrice{v, cost, offer})
		}
	}
	return list, nil
}

// TakePricesInput names the variants whose new price is taken; none for all.
type TakePricesInput struct {
	Variants []uint64 `json:"variant_ids"`
}

// TakenPrices is whose prices a deed changed.
type TakenPrices struct {
	Variants []uint64 `json:"variant_ids"`
}

// TakePrices gives goods of a delivery the prices that it offers, as prices of their own.
func TakePrices(do deed.Deed, delivery uint64, in TakePricesInput) (TakenPrices, error) {
	return deed.Once(do, staff.DeedPrices, func(do deed.Deed) (TakenPrices, error) {
		offered, err := NewPrices(do.Shop, do.Tx.Q, delivery)
		if err != nil {
			return TakenPrices{}, err
		}
		set, err := do.Tx.Terms()
		if err != nil {
			return TakenPrices{}, err
		}
		changes := map[uint64]prices.PriceChange{}
		done := TakenPrices{Variants: []uint64{}}
		for _, n := range offered {
			if len(in.Variants) > 0 && !slices.Contains(in.Variants, n.Item.ID) {
				continue
			}
			c := changes[n.Item.ProductID]
			c.Variants = append(c.Variants, prices.VariantPricing{Variant: n.Item.ID,
				Price: set.Minor().Text(n.Offer.Ruled.Amount)})
			changes[n.Item.ProductID] = c
			done.Variants = append(done.Variants, n.Item.ID)
		}
		for _, product := range slices.Sorted(maps.Keys(changes)) {
			if _, err := prices.Change(do, product, changes[product]); err != nil {
				return TakenPrices{}, err
			}
		}
		return done, nil
	})
}
