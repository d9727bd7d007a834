package deed_test

import (
	"context"
	"itemrack/core/fault"
	shopregister "itemrack/shop/register"
	"itemrack/shop/testkit"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var ctx = context.Background()

// TestKeysBelongToOnePersonAndDeed: the same key means nothing elsewhere.
func TestKeysBelongToOnePersonAndDeed(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "9", "1")
	s.Open(t, 1)
	in := shopregister.SaleInput{
		Register: 1,
		Lines:    []shopregister.SaleLineInput{{Variant: v, Quantity: "1"}},
		Cash:     "4",
	}
	first, err := shopregister.Sell(ctx, s.Shop, s.Tobi, "k", in)
	require.NoError(t, err)
	other, err := shopregister.Sell(ctx, s.Shop, s.Maren, "k", in)
	require.NoError(t, err)
	assert.NotEqual(t, first.Number, other.Number)
	_, err = shopregister.Sell(ctx, s.Shop, s.Tobi, strings.Repeat("k", 101), in)
	assert.Equal(t, "Idempotency-Key", fault.Of(err).Field)
	// a refusal does not use the key up
	in.Lines[0].Quantity, in.Cash = "99", "1000"
	_, err = shopregister.Sell(ctx, s.Shop, s.Tobi, "later", in)
	require.True(t, fault.Is(err, fault.Refused))
	s.Stock(t, v, "99", "1")
	_, err = shopregister.Sell(ctx, s.Shop, s.Tobi, "later", in)
	assert.NoError(t, err)
	s.InStep(t)
}
