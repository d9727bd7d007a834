package shop_test

import (
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop"
	"itemrack/shop/testkit"
)

// swimSet is a bundle of goggles and two caps, with four sets' worth of them at
// the Quay Shop.
func swimSet(t *testing.T, s *testkit.Shop) (set, goggles, caps uint64, product uint64) {
	goggles, caps = s.Simple(t, "Goggles", "counted", "12.00"), s.Simple(t, "Cap", "counted", "5.00")
	made, err := s.MakeProduct(ctx, s.Maren, "", shop.NewProduct{Name: "Swim set", Category: "Swim > Sets", TaxClass: 1, Price: "19.00", Parts: []shop.PartInput{{Variant: goggles, Quantity: "1"}, {Variant: caps, Quantity: "2"}}})
	require.NoError(t, err)
	s.Stock(t, goggles, "4", "6.00")
	s.Stock(t, caps, "8", "1.50")
	s.Open(t, 1)
	return made.Variants[0].ID, goggles, caps, made.ID
}

// onHand is what is on hand of some variants, and what they are worth together.
func onHand(t *testing.T, s *testkit.Shop, variants ...uint64) string {
	held, err := s.Store.Read(ctx).Look(variants)
	require.NoError(t, err)
	text, worth := "", held.Pools[0].Value
	for _, v := range variants {
		text += held.Pools[v].Quantity.String() + " "
		worth = worth.Add(held.Pools[v].Value)
	}
	return text + "worth " + worth.StringFixed(2)
}

func TestKitsAreSoldBeforeTheirParts(t *testing.T) {
	s := testkit.New(t)
	set, goggles, caps, product := swimSet(t, s)
	done, err := s.MakeUpKits(ctx, s.Callum, "k1", shop.KitInput{Variant: set, Branch: 1, Quantity: "2", Note: "for the window"})
	require.NoError(t, err)
	assert.Equal(t, "KM-0001", done.Number)
	again, err := s.MakeUpKits(ctx, s.Callum, "k1", shop.KitInput{Variant: set, Branch: 1, Quantity: "2"})
	require.NoError(t, err)
	assert.Equal(t, done, again)
	assert.Equal(t, "2 2 4 worth 36.00", onHand(t, s, set, goggles, caps))
	p := view(t, s, product)
	assert.Equal(t, "4 4", p.Variants[0].ForSale.String()+" "+p.Variants[0].Here.String(), "two made up, two to be")
	basket, err := s.AddToBasket(ctx, s.Tobi, "", 1, shop.BasketAdd{Variant: set})
	require.NoError(t, err)
	assert.Equal(t, "4", basket.Lines[0].Here.String())
	_, err = s.Sell(ctx, s.Tobi, "", shop.SaleInput{Register: 1, Basket: basket.ID, Cash: "19.00"})
	require.NoError(t, err)
	assert.Equal(t, "1 2 4 worth 27.00", onHand(t, s, set, goggles, caps), "a made-up one went")

	// three more: one made up, two of parts; each comes back as it went
	one := shop.SaleLineInput{Variant: set, Quantity: "1"}
	sold, err := s.Sell(ctx, s.Tobi, "", shop.SaleInput{Register: 1, Lines: []shop.SaleLineInput{one, one, one}, Cash: "57.00"})
	require.NoError(t, err)
	assert.Equal(t, "0 0 0 worth 0.00", onHand(t, s, set, goggles, caps))
	_, err = s.Sell(ctx, s.Tobi, "", shop.SaleInput{Register: 1, Lines: []shop.SaleLineInput{one}, Cash: "57.00"})
	assert.True(t, fault.Is(err, fault.Refused))
	_, err = s.TakeBack(ctx, s.Tobi, "", shop.ReturnInput{Register: 1, Sale: sold.Number, Lines: []shop.ReturnLineInput{{Line: 1, Quantity: "1", Condition: "For sale"}, {Line: 2, Quantity: "1", Condition: "For sale"}}})
	require.NoError(t, err)
	assert.Equal(t, "1 1 2 worth 18.00", onHand(t, s, set, goggles, caps))

	broken, err := s.BreakUpKits(ctx, s.Maren, "", shop.KitInput{Variant: set, Branch: 1, Quantity: "1"})
	require.NoError(t, err)
	assert.Equal(t, "0 2 4 worth 18.00", onHand(t, s, set, goggles, caps))
	_, err = s.Reverse(ctx, s.Maren, "", broken.Number, "the wrong one")
	require.NoError(t, err)
	assert.Equal(t, "1 1 2 worth 18.00", onHand(t, s, set, goggles, caps))
	s.InStep(t)
}

func TestKitsThatCanNotBe(t *testing.T) {
	s := testkit.New(t)
	set, goggles, _, _ := swimSet(t, s)
	board := s.Simple(t, "Board", "serial", "700.00")
	numbered, err := s.MakeProduct(ctx, s.Maren, "", shop.NewProduct{Name: "Starter kit", Category: "Paddle", TaxClass: 1, Price: "639.00", Parts: []shop.PartInput{{Variant: board, Quantity: "1"}, {Variant: goggles, Quantity: "1"}}})
	require.NoError(t, err)
	for _, c := range []struct {
		in   shop.KitInput
		says string
	}{
		{shop.KitInput{Variant: set, Branch: 1, Quantity: "5"}, "2 short"}, {shop.KitInput{Variant: set, Branch: 1, Quantity: "1.5"}, "whole numbers"}, {shop.KitInput{Variant: set, Branch: 1, Quantity: "0"}, "how many"},
		{shop.KitInput{Variant: set, Branch: 2, Quantity: "1"}, "none is For sale here"}, {shop.KitInput{Variant: set, Branch: 9, Quantity: "1"}, "no branch 9"},
		{shop.KitInput{Variant: goggles, Branch: 1, Quantity: "1"}, "Only a bundle"}, {shop.KitInput{Variant: 999, Branch: 1, Quantity: "1"}, "Only a bundle"},
		{shop.KitInput{Variant: numbered.Variants[0].ID, Branch: 1, Quantity: "1"}, "put together when it is sold"},
	} {
		_, err := s.MakeUpKits(ctx, s.Maren, "", c.in)
		require.NotNil(t, fault.Of(err), c.says)
		assert.ErrorContains(t, err, c.says)
	}
	_, err = s.MakeUpKits(ctx, s.Tobi, "", shop.KitInput{Variant: set, Branch: 1, Quantity: "1"})
	assert.True(t, fault.Is(err, fault.Forbidden))
	_, err = s.BreakUpKits(ctx, s.Maren, "", shop.KitInput{Variant: set, Branch: 1, Quantity: "1"})
	assert.True(t, fault.Is(err, fault.Refused), "none is made up")
	s.InStep(t)
}

// TestTheLastKitOnTwoRegisters: kits and parts go to two registers at once, and
// nothing is sold twice.
func TestTheLastKitOnTwoRegisters(t *testing.T) {
	s := testkit.New(t)
	set, goggles, caps, _ := swimSet(t, s)
	_, err := s.MakeUpKits(ctx, s.Maren, "", shop.KitInput{Variant: set, Branch: 1, Quantity: "2"})
	require.NoError(t, err)
	s.Open(t, 2)
	var wait sync.WaitGroup
	var mutex sync.Mutex
	sold := 0
	for n := range 8 {
		wait.Add(1)
		go func() {
			defer wait.Done()
			_, err := s.Sell(ctx, s.Tobi, "", shop.SaleInput{Register: uint64(n%2 + 1), Lines: []shop.SaleLineInput{{Variant: set, Quantity: "1"}}, Cash: "19.00"})
			mutex.Lock()
			defer mutex.Unlock()
			if err == nil {
				sold++
			} else {
				assert.True(t, fault.Is(err, fault.Refused), "%v", err)
			}
		}()
	}
	wait.Wait()
	assert.Equal(t, 4, sold)
	assert.Equal(t, "0 0 0 worth 0.00", onHand(t, s, set, goggles, caps))
	s.InStep(t)
}
