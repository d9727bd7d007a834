package reports

import (
	"context"

	"itemrack/core/staff"
	"itemrack/shop/deed"
	"itemrack/store/book"
)

// Verify holds all records against each other.
func Verify(ctx context.Context, s *deed.Shop, who staff.Actor) ([]book.Check, error) {
	if err := who.May(staff.DeedVerify); err != nil {
		return nil, err
	}
	return book.Verify(ctx, s.Store)
}
