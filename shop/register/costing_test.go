package register_test

import (
	"context"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/buying"
	"itemrack/shop/deed"
	"itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
)

// TestFirstInFirstOutOnTwoRegisters sells the same variant on both registers at
// once: no layer is taken twice.
func TestFirstInFirstOutOnTwoRegisters(t *testing.T) {
	s, ctx := testkit.FirstIn(t), context.Background()
	v := s.Simple(t, "Bow line", "counted", "5.00")
	for _, each := range []string{"1.00", "2.00", "3.00"} {
		s.Stock(t, v, "4", each)
	}
	s.Open(t, 1)
	s.Open(t, 2)
	var wait sync.WaitGroup
	for n := range 12 {
		wait.Add(1)
		go func() {
			defer wait.Done()
			_, err := register.Sell(deed.By(ctx, s.Shop, s.Tobi, ""), register.SaleInput{
				Register: uint64(n%2 + 1),
				Lines:    []register.SaleLineInput{{Variant: v, Quantity: "1"}},
				Cash:     "5.00",
			},
			)
			assert.NoError(t, err)
		}()
	}
	wait.Wait()
	layers, err := book.Layers(s.Store.Read(ctx), v, 10)
	require.NoError(t, err)
	assert.Empty(t, layers)
	s.InStep(t)
}

// TestTheLastCostIsTheOneOfBefore: a delivery that is undone takes its last cost along; a sale leaves it.
func TestTheLastCostIsTheOneOfBefore(t *testing.T) {
	s, ctx := testkit.New(t), context.Background()
	v := s.Simple(t, "Bow line", "counted", "5.00")
	last := func() string { return s.Sellables(t, v)[v].LastCost.String() }
	s.Open(t, 1)
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: v, Quantity: "4", Cost: "2.00"}}})
	second := s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: v, Quantity: "4", Cost: "3.00"}}})
	assert.Equal(t, "3", last())
	_, err := stockroom.Reverse(deed.By(ctx, s.Shop, s.Maren, ""), second.Number, "")
	require.NoError(t, err)
	assert.Equal(t, "2", last())
	s.Sold(t, v, "1")
	assert.Equal(t, "2", last())
	s.InStep(t)
}
