package deed

import (
	"itemrack/core/stock"
	"itemrack/store/book"
)

// PostOpening posts opening stock of a branch as one document, and returns its number.
func PostOpening(do Deed, branch uint64, list []stock.Opened) (Posted, error) {
	if err := At(do.Tx.Q, do.Who, branch); err != nil {
		return Posted{}, err
	}
	variants := make([]uint64, len(list))
	var serials []string
	for i, o := range list {
		variants[i] = o.Variant
		serials = append(serials, o.Serials...)
	}
	held, err := book.Hold(do.Tx, variants, serials)
	if err != nil {
		return Posted{}, err
	}
	shelf, err := held.Where(branch)
	if err != nil {
		return Posted{}, err
	}
	name, err := NextNumber(do.Tx, stock.Opening)
	if err != nil {
		return Posted{}, err
	}
	now := do.Shop.Now()
	draft := stock.NewDraft(held,
		stock.Document{Kind: stock.Opening, Number: name, Branch: branch, By: do.Who.ID, HappenedAt: now, RecordedAt: now})
	for i, o := range stock.InTurn(list) {
		key := stock.Key{Variant: o.Variant, Shelf: shelf, Condition: stock.ForSale}
		if o.Shelf != 0 {
			key.Shelf = o.Shelf
		}
		if o.Lot.Number != "" {
			lot, err := book.KeepLot(do.Tx, held, o.Variant, o.Lot.Number, o.Lot.Expiry)
			if err != nil {
				return Posted{}, err
			}
			key.Lot = lot.ID
		}
		if err := draft.Open(i+1, key, o); err != nil {
			return Posted{}, err
		}
	}
	return Post(do.Tx, held, draft)
}
