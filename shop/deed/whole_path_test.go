package deed_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/buying"
	"itemrack/shop/register"
	"itemrack/shop/reports"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	"itemrack/store/till"
)

// TestTheWholePath does the shop's cycle and holds each figure.
func TestTheWholePath(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	m := made.Variants[1]
	delivery := s.Receive(
		t,
		buying.DeliveryInput{
			SupplierNumber: "K-77",
			Lines:          []scan.GoodsLine{{Variant: m.ID, Quantity: "10", Cost: "20"}},
		},
	)
	assert.Equal(t, "D-0001", delivery.Number)
	s.Receive(t,
		buying.DeliveryInput{Extra: "5.00", Lines: []scan.GoodsLine{{Variant: m.ID, Quantity: "5", Cost: "26"}}})
	s.Open(t, 1)
	basket, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: m.Barcode})
	require.NoError(t, err)
	basket, err = register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: "3 x " + m.SKU})
	require.NoError(t, err)
	require.Len(t, basket.Lines, 1)
	assert.Equal(t, "139.80", basket.Totals.Gross.StringFixed(2))
	done, err := register.Sell(s.By(s.Tobi, "pay-1"), register.SaleInput{Register: 1, Basket: basket.ID, Cash: "150"})
	require.NoError(t, err)
	assert.Equal(t, "Q1-00001", done.Number)
	assert.Equal(t, "10.20", done.Change.StringFixed(2))
	again, err := register.Sell(s.By(s.Tobi, "pay-1"), register.SaleInput{Register: 1, Basket: basket.ID, Cash: "150"})
	require.NoError(t, err)
	assert.Equal(t, done.Number, again.Number, "a repeated request gets the first answer")
	_, err = register.Sell(s.By(s.Tobi, "pay-2"), register.SaleInput{Register: 1, Basket: basket.ID, Cash: "150"})
	assert.True(t, fault.Is(err, fault.Conflict), "the basket is gone")

	sold, err := till.SaleByNumber(s.Store.Read(ctx), done.Number)
	require.NoError(t, err)
	assert.Equal(t, "89.33", sold.Lines[0].Cost.StringFixed(2))
	back, err := register.TakeBack(s.By(s.Tobi), register.ReturnInput{
		Register: 1,
		Sale:     "q1-00001",
		Lines:    []register.ReturnLineInput{{Line: 1, Quantity: "1"}},
	},
	)
	require.NoError(t, err)
	assert.Equal(t, "Q1-R0001", back.Number)
	assert.Equal(t, "34.95", back.Cash.StringFixed(2))
	held, err := book.Look(s.Store.Read(ctx), []uint64{m.ID})
	require.NoError(t, err)
	assert.Equal(t, "268.00", held.Pools[m.ID].Value.StringFixed(2), "245.67 and the 22.33 at which it went out")
	assert.Equal(t, "11", held.ForSale()[m.ID].String(), "what is to check is not available")
	_, err = stockroom.ChangeCondition(s.By(s.Tobi), stockroom.ChangeInput{Variant: m.ID, Branch: 1, From: "To look over",
		To: "For sale", Quantity: "1"})
	require.NoError(t, err)
	held, err = book.Look(s.Store.Read(ctx), []uint64{m.ID})
	require.NoError(t, err)
	assert.Equal(t, "12", held.ForSale()[m.ID].String())
	assert.Equal(t, "268.00", held.Pools[m.ID].Value.StringFixed(2))

	for figure, want := range map[string]string{reports.FigureOnHand: "12", reports.FigureAvailable: "12",
		reports.FigureAverage: "£22.3333"} {
		e, err := reports.Explain(s.By(s.Callum), m.ID, figure)
		require.NoError(t, err)
		assert.Equal(t, want, e.Amount, figure)
		assert.NotEmpty(t, e.Parts)
		assert.NotEmpty(t, e.Latest[0].Number)
	}
	s.InStep(t)
}
