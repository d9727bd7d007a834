package deed

import (
	"context"

	"itemrack/core/staff"
	"itemrack/store"
)

// Deed is one deed: on which shop it is done, by whom, under which request key, and, once that has begun, in which
// transaction. Each try of a transaction gets a Deed of its own.
type Deed struct {
	Ctx  context.Context
	Shop *Shop
	Who  staff.Actor
	Key  string // empty where the request has none
	Tx   store.Tx
	// Shown is the basket that the register was at, 0 for none, as it was shown to who does the deed; nil where that is
	// not said. A deed on another basket is refused.
	Shown *uint64
}

// By is a deed of a person, under a request key or none.
func By(ctx context.Context, s *Shop, who staff.Actor, key string) Deed {
	return Deed{Ctx: ctx, Shop: s, Who: who, Key: key}
}

// In is the deed within a transaction.
func (do Deed) In(tx store.Tx) Deed {
	do.Tx = tx
	return do
}

// As is the deed as another person does it.
func (do Deed) As(who staff.Actor) Deed {
	do.Who = who
	return do
}

// Under is the deed under another request key, or none.
func (do Deed) Under(key string) Deed {
	do.Key = key
	return do
}

// Until is the deed with another end.
func (do Deed) Until(ctx context.Context) Deed {
	do.Ctx = ctx
	return do
}
