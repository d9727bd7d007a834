package stock

import (
	"github.com/shopspring/decimal"

	"itemrack/core/fault"
)

// KitPart is how many of a variant one kit holds.
type KitPart struct {
	Variant  uint64
	Quantity decimal.Decimal
}

// kept picks the parts of a kit that have stock, and the default shelf of the
// branch. Parts with lots or serial numbers
// can't be put away in a kit, where neither expiry nor number would be seen any
// more: such a bundle is put together when it is sold.
func (h Holding) kept(kit, branch uint64, parts []KitPart) ([]KitPart, uint64, error) {
	var list []KitPart
	for _, p := range parts {
		switch item := h.Items[p.Variant]; item.Tracking {
		case NotStocked:
		case Counted:
			list = append(list, p)
		default:
			return nil, 0, fault.Refuse("variant_id", item.Name, "a bundle of counted parts",
				"%s holds %s, which has lots or serial numbers: it is put together when it is sold.", h.Items[kit].Name,
				item.Name)
		}
	}
	if len(list) == 0 {
		return nil, 0, fault.Refuse("variant_id", h.Items[kit].Name, "a bundle with parts that have stock",
			"Nothing in %s has stock.", h.Items[kit].Name)
	}
	shelf, err := h.Where(branch)
	return list, shelf, err
}

// MakeUp puts q kits together at a branch: their parts go out, and the kits come
// in on its default shelf at what the parts were worth.
func (d *Draft) MakeUp(kit, branch uint64, q decimal.Decimal, parts []KitPart) error {
	list, shelf, err := d.holding.kept(kit, branch, parts)
	if err != nil {
		return err
	}
	worth := decimal.Zero
	for i, p := range list {
		value, err := d.Take(
			Want{Line: i + 2, Variant: p.Variant, Branch: branch, Condition: ForSale, Quantity: p.Quantity.Mul(q)})
		if err != nil {
			return err
		}
		worth = worth.Add(value)
	}
	return d.Bring(1, Key{Variant: kit, Shelf: shelf, Condition: ForSale}, q, worth, nil)
}

// BreakUp takes q kits apart at a branch: the kits go out, and their parts come
// back on its default shelf. What the kits were worth is shared over the parts by
// what those are worth now, so that nothing is won or lost.
func (d *Draft) BreakUp(kit, branch uint64, q decimal.Decimal, parts []KitPart) error {
	list, shelf, err := d.holding.kept(kit, branch, parts)
	if err != nil {
		return err
	}
	worth, err := d.Take(Want{Line: 1, Variant: kit, Branch: branch, Condition: ForSale, Quantity: q})
	if err != nil {
		return err
	}
	weights := make([]decimal.Decimal, len(list))
	for i, p := range list {
		weights[i] = d.holding.Pools[p.Variant].Average().Mul(p.Quantity)
	}
	for i, share := range d.holding.Minor.Split(worth, weights) {
		if err := d.Restore(i+2, Key{Variant: list[i].Variant, Shelf: shelf, Condition: ForSale},
			list[i].Quantity.Mul(q), share, nil); err != nil {
			return err
		}
	}
	return nil
}
