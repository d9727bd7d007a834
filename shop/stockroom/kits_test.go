package stockroom_test

import (
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/catalog"
	"itemrack/shop/register"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
)

// swimSet is a bundle of goggles and two caps, with four sets' worth of them at
// the Quay Shop.
func swimSet(t *testing.T, s *testkit.Shop) (set, goggles, caps uint64, product uint64) {
	goggles, caps = s.Simple(t, "Goggles", "counted", "12.00"), s.Simple(t, "Cap", "counted", "5.00")
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Swim set",
		Category: "Swim > Sets",
		TaxClass: 1,
		Price:    "19.00",
		Parts:    []catalog.PartInput{{Variant: goggles, Quantity: "1"}, {Variant: caps, Quantity: "2"}},
	},
	)
	require.NoError(t, err)
	s.Stock(t, goggles, "4", "6.00")
	s.Stock(t, caps, "8", "1.50")
	s.Open(t, 1)
	return made.Variants[0].ID, goggles, caps, made.ID
}

// onHand is what is on hand of some variants, and what they are worth together.
func onHand(t *testing.T, s *testkit.Shop, variants ...uint64) string {
	held, err := book.Look(s.Store.Read(ctx), variants)
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
	done, err := stockroom.MakeUpKits(s.By(s.Callum, "k1"), stockroom.KitInput{Variant: set, Branch: 1, Quantity: "2",
		Note: "for the window"})
	require.NoError(t, err)
	assert.Equal(t, "KM-0001", done.Number)
	again, err := stockroom.MakeUpKits(s.By(s.Callum, "k1"), stockroom.KitInput{Variant: set, Branch: 1, Quantity: "2"})
	require.NoError(t, err)
	assert.Equal(t, done, again)
	assert.Equal(t, "2 2 4 worth 36.00", onHand(t, s, set, goggles, caps))
	p := s.View(t, product)
	assert.Equal(t, "4 4", p.Variants[0].ForSale.String()+" "+p.Variants[0].Here.String(), "two made up, two to be")
	basket, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: set})
	require.NoError(t, err)
	assert.Equal(t, "4", basket.Lines[0].Here.String())
	_, err = register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Basket: basket.ID, Cash: "19.00"})
	require.NoError(t, err)
	assert.Equal(t, "1 2 4 worth 27.00", onHand(t, s, set, goggles, caps), "a made-up one went")

	// three more: one made up, two of parts; each comes back as it went
	one := register.SaleLineInput{Variant: set, Quantity: "1"}
	sold, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1,
		Lines: []register.SaleLineInput{one, one, one}, Cash: "57.00"})
	require.NoError(t, err)
	assert.Equal(t, "0 0 0 worth 0.00", onHand(t, s, set, goggles, caps))
	_, err = register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Lines: []register.SaleLineInput{one},
		Cash: "57.00"})
	assert.True(t, fault.Is(err, fault.Refused))
	_, err = register.TakeBack(s.By(s.Tobi), register.ReturnInput{
		Register: 1,
		Sale:     sold.Number,
		Lines: []register.ReturnLineInput{{Line: 1, Quantity: "1", Condition: "For sale"},
			{Line: 2, Quantity: "1", Condition: "For sale"}},
	},
	)
	require.NoError(t, err)
	assert.Equal(t, "1 1 2 worth 18.00", onHand(t, s, set, goggles, caps))

	broken, err := stockroom.BreakUpKits(s.By(s.Maren), stockroom.KitInput{Variant: set, Branch: 1, Quantity: "1"})
	require.NoError(t, err)
	assert.Equal(t, "0 2 4 worth 18.00", onHand(t, s, set, goggles, caps))
	_, err = stockroom.Reverse(s.By(s.Maren), broken.Number, "the wrong one")
	require.NoError(t, err)
	assert.Equal(t, "1 1 2 worth 18.00", onHand(t, s, set, goggles, caps))
	s.InStep(t)
}

func TestKitsThatCanNotBe(t *testing.T) {
	s := testkit.New(t)
	set, goggles, _, _ := swimSet(t, s)
	board := s.Simple(t, "Board", "serial", "700.00")
	numbered, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Starter kit",
		Category: "Paddle",
		TaxClass: 1,
		Price:    "639.00",
		Parts:    []catalog.PartInput{{Variant: board, Quantity: "1"}, {Variant: goggles, Quantity: "1"}},
	},
	)
	require.NoError(t, err)
	for _, c := range []struct {
		in   stockroom.KitInput
		says string
	}{
		{stockroom.KitInput{Variant: set, Branch: 1, Quantity: "5"},
			"2 short"}, {stockroom.KitInput{Variant: set, Branch: 1, Quantity: "1.5"}, "whole numbers"},
		{stockroom.KitInput{Variant: set, Branch: 1, Quantity: "0"}, "how many"},
		{stockroom.KitInput{Variant: set, Branch: 2, Quantity: "1"},
			"none is For sale here"}, {stockroom.KitInput{Variant: set, Branch: 9, Quantity: "1"}, "no branch 9"},
		{stockroom.KitInput{Variant: goggles, Branch: 1, Quantity: "1"},
			"Only a bundle"}, {stockroom.KitInput{Variant: 999, Branch: 1, Quantity: "1"}, "Only a bundle"},
		{stockroom.KitInput{Variant: numbered.Variants[0].ID, Branch: 1, Quantity: "1"}, "put together when it is " +
			"sold"}} {
		_, err := stockroom.MakeUpKits(s.By(s.Maren), c.in)
		require.NotNil(t, fault.Of(err), c.says)
		assert.ErrorContains(t, err, c.says)
	}
	_, err = stockroom.MakeUpKits(s.By(s.Tobi), stockroom.KitInput{Variant: set, Branch: 1, Quantity: "1"})
	assert.True(t, fault.Is(err, fault.Forbidden))
	_, err = stockroom.BreakUpKits(s.By(s.Maren), stockroom.KitInput{Variant: set, Branch: 1, Quantity: "1"})
	assert.True(t, fault.Is(err, fault.Refused), "none is made up")
	s.InStep(t)
}

// TestTheLastKitOnTwoRegisters: kits and parts go to two registers at once, and
// nothing is sold twice.
func TestTheLastKitOnTwoRegisters(t *testing.T) {
	s := testkit.New(t)
	set, goggles, caps, _ := swimSet(t, s)
	_, err := stockroom.MakeUpKits(s.By(s.Maren), stockroom.KitInput{Variant: set, Branch: 1, Quantity: "2"})
	require.NoError(t, err)
	s.Open(t, 2)
	var wait sync.WaitGroup
	var mutex sync.Mutex
	sold := 0
	for n := range 8 {
		wait.Add(1)
		go func() {
			defer wait.Done()
			_, err := register.Sell(s.By(s.Tobi), register.SaleInput{
				Register: uint64(n%2 + 1),
				Lines:    []register.SaleLineInput{{Variant: set, Quantity: "1"}},
				Cash:     "19.00",
			},
			)
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
