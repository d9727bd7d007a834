package testkit

import (
	"context"
	"image"
	"image/color"
	"strings"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/require"

	"itemrack/core/cost"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/buying"
	"itemrack/shop/deed"
	shopregister "itemrack/shop/register"
	"itemrack/store"
	"itemrack/store/book"
	"itemrack/store/goods"
)

// By is a deed of a person, under a request key where one is said.
func (s *Shop) By(who staff.Actor, key ...string) deed.Deed {
	return deed.By(context.Background(), s.Shop, who, strings.Join(key, ""))
}

// View reads a product as it stands.
func (s *Shop) View(t testing.TB, id uint64) goods.ProductView {
	t.Helper()
	p, err := goods.ReadProduct(s.Store.Read(context.Background()), id, 1, s.Now())
	require.NoError(t, err)
	return p
}

// Held is what is on hand of a variant.
func (s *Shop) Held(t testing.TB, variant uint64) stock.Holding {
	t.Helper()
	h, err := book.Look(s.Store.Read(context.Background()), []uint64{variant})
	require.NoError(t, err)
	return h
}

// FirstIn is a shop that values its stock first in, first out.
func FirstIn(t testing.TB) *Shop {
	plan := Plan
	plan.Costing = string(cost.FIFO)
	return Planned(t, plan)
}

// TakeBack takes q of a line back at a register.
func (s *Shop) TakeBack(register uint64, number string, line int,
	q, condition string) (shopregister.ReturnResult, error) {
	in := shopregister.ReturnInput{
		Register: register,
		Sale:     number,
		Lines:    []shopregister.ReturnLineInput{{Line: line, Quantity: q, Condition: condition}},
	}
	return shopregister.TakeBack(s.By(s.Tobi), in)
}

// DraftFor begins a delivery to scan into.
func (s *Shop) DraftFor(t testing.TB) uint64 {
	t.Helper()
	draft, err := buying.SaveDelivery(s.By(s.Callum), 0,
		buying.DeliveryInput{Supplier: 1, Branch: 1})
	require.NoError(t, err)
	return draft.ID
}

// Shot draws a picture of a size.
func Shot(w, h int, alpha uint8) image.Image {
	picture := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			picture.Set(x, y, color.NRGBA{uint8(x), uint8(y), 90, alpha})
		}
	}
	return picture
}

// D reads a decimal.
func D(text string) decimal.Decimal { return decimal.RequireFromString(text) }

// Beside is another server on the same database.
func (s *Shop) Beside(t testing.TB) *deed.Shop {
	t.Helper()
	db, err := store.Open(s.DSN)
	require.NoError(t, err)
	other := deed.New(context.Background(), db)
	t.Cleanup(func() {
		other.Close()
		require.NoError(t, db.Close())
	})
	return other
}

// Sellables reads what a basket knows of some variants.
func (s *Shop) Sellables(t testing.TB, variants ...uint64) map[uint64]goods.Sellable {
	found, err := goods.Sellables(s.Store.Read(context.Background()), variants, s.Now())
	require.NoError(t, err)
	return found
}
