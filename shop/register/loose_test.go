package register_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/sale"
	"itemrack/device"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/register"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/devices"
)

// TestCardsStandOnTodayUntilTheyAreSettled: one that was charged for nothing, one whose sale
// is void, one whose goods came back, each while the terminal gave no answer.
func TestCardsStandOnTodayUntilTheyAreSettled(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "9", "1.50")
	s.Open(t, 1)
	terminal := func(state string) {
		_, err := office.SetDevice(s.By(s.Maren), device.CardTerminal, state)
		require.NoError(t, err)
	}
	byCard := func(key string) register.SaleResult {
		done, err := register.Sell(s.By(s.Tobi, key), register.SaleInput{Register: 1, Card: "4.00",
			Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}})
		require.NoError(t, err)
		return done
	}
	void, back := byCard("k1"), byCard("k2")
	require.NoError(t, device.Charge(ctx, devices.Of(s.Store), "sale/1/lost", testkit.D("12"), s.Now()))
	terminal(device.NoAnswer)
	undone, err := stockroom.Reverse(s.By(s.Maren), void.Number, "")
	require.NoError(t, err)
	assert.Contains(t, undone.Owed, "no answer")
	returned, err := s.TakeBack(1, back.Number, 1, "1", "")
	require.NoError(t, err, "the return stands")
	assert.Contains(t, returned.Owed, "from Today")
	s.Shop = s.Shop.At(time.Now().Add(2 * time.Minute))
	list, err := register.Loose(s.By(s.Tobi))
	require.NoError(t, err)
	kinds := map[sale.LooseKind]string{}
	for _, l := range list {
		kinds[l.What] = l.Number + " " + l.Amount.StringFixed(2)
	}
	assert.Equal(t, map[sale.LooseKind]string{sale.ChargedNotSold: " 12.00", sale.VoidNotBack: void.Number + " 4.00",
		sale.BackNotPaid: returned.Number + " 4.00"}, kinds)
	_, err = register.GiveBack(s.By(s.Tobi), list[0].Reference)
	assert.ErrorContains(t, err, "no answer", "it stays")
	terminal(device.Ready)
	for _, l := range list {
		_, err = register.GiveBack(s.By(s.Tobi), l.Reference)
		require.NoError(t, err)
		_, err = register.GiveBack(s.By(s.Tobi), l.Reference)
		assert.True(t, fault.Is(err, fault.Conflict), "once")
	}
	list, err = register.Loose(s.By(s.Tobi))
	require.NoError(t, err)
	assert.Empty(t, list)
	s.InStep(t)
}

// TestARepeatedSalePrintsAReceiptThatNeverCameOut, and no other.
func TestARepeatedSalePrintsAReceiptThatNeverCameOut(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "9", "1.50")
	s.Open(t, 1)
	in := register.SaleInput{Register: 1, Cash: "5", Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}}
	papers := func() int {
		list, err := devices.Prints(s.Store.Read(ctx), 9)
		require.NoError(t, err)
		return len(list)
	}
	first, err := register.Sell(s.By(s.Tobi, "k1"), in)
	require.NoError(t, err)
	again, err := register.Sell(s.By(s.Tobi, "k1"), in)
	require.NoError(t, err)
	assert.Equal(t, deed.JSON(first), deed.JSON(again), "the first answer, whole")
	assert.Equal(t, 1, papers())
	require.NoError(t, s.Spoil("DELETE FROM print_job")) // the program ended before it was printed
	again, err = register.Sell(s.By(s.Tobi, "k1"), in)
	require.NoError(t, err)
	assert.Equal(t, deed.JSON(first), deed.JSON(again))
	assert.Equal(t, 1, papers())
}

// TestADrawerIsNotCashedUpOverAnOpenBasket.
func TestADrawerIsNotCashedUpOverAnOpenBasket(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "9", "1.50")
	s.Open(t, 1)
	_, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: v})
	require.NoError(t, err)
	counted := []sale.Denomination{{Value: testkit.D("50"), Count: 2}}
	_, err = register.CashUpDrawer(s.By(s.Tobi), 1, counted)
	assert.ErrorContains(t, err, "A basket is open")
	_, err = register.DropBasket(s.By(s.Tobi), 1)
	require.NoError(t, err)
	_, err = register.CashUpDrawer(s.By(s.Tobi), 1, counted)
	assert.NoError(t, err)
}
