package deed_test

import (
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/stock"
	"itemrack/shop/deed"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
	"itemrack/store/devices"
)

var ctx = context.Background()

// TestKeysBelongToOnePersonAndDeed: the same key means nothing elsewhere.
func TestKeysBelongToOnePersonAndDeed(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "9", "1")
	s.Open(t, 1)
	in := register.SaleInput{
		Register: 1,
		Lines:    []register.SaleLineInput{{Variant: v, Quantity: "1"}},
		Cash:     "4",
	}
	first, err := register.Sell(s.By(s.Tobi, "k"), in)
	require.NoError(t, err)
	other, err := register.Sell(s.By(s.Maren, "k"), in)
	require.NoError(t, err)
	assert.NotEqual(t, first.Number, other.Number)
	_, err = register.Sell(s.By(s.Tobi, strings.Repeat("k", 101)), in)
	assert.Equal(t, "Idempotency-Key", fault.Of(err).Field)
	// a refusal does not use the key up
	in.Lines[0].Quantity, in.Cash = "99", "1000"
	_, err = register.Sell(s.By(s.Tobi, "later"), in)
	require.True(t, fault.Is(err, fault.Refused))
	s.Stock(t, v, "99", "1")
	_, err = register.Sell(s.By(s.Tobi, "later"), in)
	assert.NoError(t, err)
	s.InStep(t)
}

// TestAKeyIsOfOneRequest asks something else under a key that was used.
func TestAKeyIsOfOneRequest(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "9", "1.50")
	s.Open(t, 1)
	sell := func(asked, quantity string) (register.SaleResult, error) {
		in := register.SaleInput{Register: 1, Lines: []register.SaleLineInput{{Variant: v, Quantity: quantity}},
			Card: testkit.D(quantity).Mul(testkit.D("4")).String()}
		return register.Sell(deed.By(deed.Asked(ctx, asked), s.Shop, s.Tobi, "k1"), in)
	}
	first, err := sell("one", "2")
	require.NoError(t, err)
	again, err := sell("one", "2")
	require.NoError(t, err)
	assert.Equal(t, first.Number, again.Number)
	_, err = sell("another", "2")
	require.True(t, fault.Is(err, fault.Conflict), "%v", err)
	assert.Equal(t, deed.KeyField, fault.Of(err).Field)
	loose, err := devices.Loose(s.Store.Read(ctx), s.Now())
	require.NoError(t, err)
	assert.Empty(t, loose, "the card stays charged for the first")
	quiet, err := sell("", "2")
	require.NoError(t, err, "a program that tells nothing of its request")
	assert.Equal(t, first.Number, quiet.Number)
	assert.Equal(t, "7", s.Held(t, v).OnHand(v, 1, stock.ForSale).String(), "sold once")
	s.InStep(t)
}
