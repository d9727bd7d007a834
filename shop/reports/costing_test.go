package reports_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/buying"
	"itemrack/shop/deed"
	"itemrack/shop/office"
	"itemrack/shop/register"
	"itemrack/shop/reports"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
)

var ctx = context.Background()

// TestFirstInFirstOutInTheBook has the figures of the domain, through deliveries
// and sales: 10 at 20.00, 5 at 26.00 with 5.00 freight, 4 sold, the rest sold.
func TestFirstInFirstOutInTheBook(t *testing.T) {
	s, ctx := testkit.FirstIn(t), context.Background()
	settings, err := office.ReadSettings(deed.By(ctx, s.Shop, s.Maren, ""))
	require.NoError(t, err)
	assert.Equal(t, "first in, first out", settings.Costing)
	v := s.Simple(t, "Reef fins", "counted", "49.00")
	first := s.Stock(t, v, "10", "20.00")
	second := s.Receive(t,
		buying.DeliveryInput{Extra: "5.00", Lines: []scan.GoodsLine{{Variant: v, Quantity: "5", Cost: "26.00"}}})
	s.Open(t, 1)
	worth := func() string {
		row, err := book.Look(s.Store.Read(ctx), []uint64{v})
		require.NoError(t, err)
		return row.Pools[v].Quantity.String() + " worth " + row.Pools[v].Value.StringFixed(2)
	}
	s.Sold(t, v, "4")
	assert.Equal(t, "11 worth 255.00", worth(), "80.00 went out")
	e, err := reports.Explain(deed.By(ctx, s.Shop, s.Maren, ""), v, reports.FigureAverage)
	require.NoError(t, err)
	require.Len(t, e.Parts, 4)
	day := s.Now().In(s.Terms(t).Zone).Format("2 Jan 2006")
	assert.Equal(t,
		reports.ExplainPart{Label: "6 of " + day + ", £20.0000 each", Amount: "£120.00", Number: first.Number},
		e.Parts[2])
	assert.Equal(t,
		reports.ExplainPart{Label: "5 of " + day + ", £27.0000 each", Amount: "£135.00", Number: second.Number},
		e.Parts[3])
	s.InStep(t)

	// what came back is the next to go out, at the cost it went out at
	sold := s.Sold(t, v, "7")
	assert.Equal(t, "4 worth 108.00", worth())
	_, err = register.TakeBack(deed.By(ctx, s.Shop, s.Maren, ""), register.ReturnInput{
		Register: 1,
		Sale:     sold.Number,
		Lines:    []register.ReturnLineInput{{Line: 1, Quantity: "7", Condition: "For sale"}},
	},
	)
	require.NoError(t, err)
	assert.Equal(t, "11 worth 255.00", worth())
	_, err = stockroom.ChangeCondition(deed.By(ctx, s.Shop, s.Maren, ""), stockroom.ChangeInput{Variant: v, Branch: 1,
		From: "For sale", To: "For scrap", Quantity: "2"})
	require.NoError(t, err)
	assert.Equal(t, "11 worth 255.00", worth(), "goods that only change their condition stay in the queue")
	_, err = stockroom.Reverse(deed.By(ctx, s.Shop, s.Maren, ""), second.Number, "the wrong shop")
	assert.ErrorContains(t, err, "Q1-00001", "one of the delivery was sold, and what came back is a layer of its own")
	assert.Equal(t, "11 worth 255.00", worth())
	s.InStep(t)
}

// TestFirstInFirstOutIsProved spoils a layer: In step says which variant.
func TestFirstInFirstOutIsProved(t *testing.T) {
	s := testkit.FirstIn(t)
	v := s.Simple(t, "Bow line", "counted", "5.00")
	s.Stock(t, v, "4", "1.00")
	s.InStep(t)
	require.NoError(t, s.Spoil("UPDATE cost_layer SET value = value + 1"))
	checks, err := reports.Verify(s.By(s.Maren), func(book.Check) {})
	require.NoError(t, err)
	wrong := 0
	for _, c := range checks {
		if c.Wrong != "" {
			wrong++
			assert.Equal(t, "variant 1: quantity differs by 0.000, value by 1.0000", c.Wrong)
		}
	}
	assert.Equal(t, 1, wrong)
	_, err = register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1,
		Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}, Cash: "5.00"})
	assert.Error(t, err, "nothing is sold on top of it")
}
