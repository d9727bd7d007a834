package reports

import (
	"context"

	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/shop/prices"
	"itemrack/store/book"
)

// Verify holds all records against each other; tell is told of each check as it is done.
func Verify(ctx context.Context, s *deed.Shop, who staff.Actor, tell func(book.Check)) ([]book.Check, error) {
	if err := who.May(staff.DeedVerify); err != nil {
		return nil, err
	}
	if err := prices.PricesDue(ctx, s); err != nil {
		return nil, err
	}
	return book.Verify(ctx, s.Store, tell)
}
