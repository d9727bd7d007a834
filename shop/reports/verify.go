package reports

import (
	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/shop/prices"
	"itemrack/store/book"
)

// Verify holds all records against each other; tell is told of each check as it is done.
func Verify(do deed.Deed, tell func(book.Check)) ([]book.Check, error) {
	if err := do.Who.May(staff.DeedVerify); err != nil {
		return nil, err
	}
	if err := prices.PricesDue(do.Ctx, do.Shop); err != nil {
		return nil, err
	}
	return book.Verify(do.Ctx, do.Shop.Store, do.Shop.Now(), tell)
}
