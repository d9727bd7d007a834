package deed

import (
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/store"
	"itemrack/store/book"
)

// PostOpening posts opening stock of a branch as one document, and returns its number.
func PostOpening(s *Shop, tx store.Tx, who staff.Actor, branch uint64, list []stock.Opened) (string, error) {
	if err := At(tx.Q, who, branch); err != nil {
		return "", err
	}
	variants := make([]uint64, len(list))
	var serials []string
	for i, o := range list {
		variants[i] = o.Variant
		serials = append(serials, o.Serials...)
	}
	held, err := book.Hold(tx, variants, serials)
	if err != nil {
		return "", err
	}
	shelf, err := held.Where(branch)
	if err != nil {
		return "", err
	}
	name, err := NextNumber(tx, "OS")
	if err != nil {
		return "", err
	}
	now := s.Now()
	draft := stock.NewDraft(held,
		stock.Document{Kind: stock.Opening, Number: name, Branch: branch, By: who.ID, HappenedAt: now, RecordedAt: now})
	for i, o := range stock.InTurn(list) {
		key := stock.Key{Variant: o.Variant, Shelf: shelf, Condition: stock.ForSale}
		if o.Shelf != 0 {
			key.Shelf = o.Shelf
		}
		if o.Lot.Number != "" {
			lot, err := book.KeepLot(tx, o.Variant, o.Lot.Number, o.Lot.Expiry)
			if err != nil {
				return "", err
			}
			key.Lot = lot.ID
		}
		if err := draft.Open(i+1, key, o); err != nil {
			return "", err
		}
	}
	_, err = Post(tx, held, draft)
	return name, err
}
