package register_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/testkit"
	"itemrack/store/till"
)

func TestPacksAreScannedSoldAndTakenBack(t *testing.T) {
	s := testkit.New(t)
	bar := s.Simple(t, "Energy bar", "counted", "1.60")
	p := s.View(t, 1)
	s.Stock(t, bar, "40", "0.98")
	pack, err := catalog.SavePack(s.By(s.Maren), p.ID, 0,
		catalog.PackInput{Name: "box of 12", Factor: "12", Barcode: "96385074", Price: "17.40"})
	require.NoError(t, err)
	for _, bad := range []catalog.PackInput{{Name: "one", Factor: "1"}, {Name: "", Factor: "12"},
		{Name: "box of 12", Factor: "12"}, {Name: "half", Factor: "1.5"},
		{Name: "six", Factor: "6", Barcode: "96385074"}} {
		_, err = catalog.SavePack(s.By(s.Maren), p.ID, 0, bad)
		assert.Error(t, err, "%+v", bad)
	}
	s.Open(t, 1)
	basket, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: "96385074"})
	require.NoError(t, err)
	basket, err = register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: "2 x 96385074"})
	require.NoError(t, err)
	require.Len(t, basket.Lines, 1)
	assert.Equal(
		t,
		[]string{"box of 12", "3", "52.20", "ok"},
		[]string{basket.Lines[0].Pack, basket.Lines[0].Quantity.String(), basket.Totals.Gross.StringFixed(2),
			"ok" + basket.Lines[0].Short},
	)
	basket, err = register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: bar, Quantity: "4"})
	require.NoError(t, err)
	require.Len(t, basket.Lines, 2)
	done, err := register.Sell(s.By(s.Tobi, "pack"), register.SaleInput{Register: 1, Basket: basket.ID, Cash: "100"})
	require.NoError(t, err)
	assert.Equal(t, "58.60", done.Total.StringFixed(2))
	assert.Equal(t, "0", s.View(t, p.ID).Variants[0].ForSale.String(), "3 boxes of 12 and 4 loose are 40")
	back, err := register.TakeBack(s.By(s.Tobi), register.ReturnInput{
		Register: 1,
		Sale:     done.Number,
		Lines:    []register.ReturnLineInput{{Line: 1, Quantity: "12"}},
	},
	)
	require.NoError(t, err)
	assert.Equal(t, "17.40", back.Amount.StringFixed(2))
	receipt, err := register.Receipt(ctx, s.Shop, done.Number)
	require.NoError(t, err)
	assert.Contains(t, receipt.SVG("r"), "3 × box of 12")
	_, err = catalog.DropPack(s.By(s.Maren), p.ID, pack.ID)
	require.NoError(t, err)
	s.InStep(t)
}

func TestBundlesMoveTheirParts(t *testing.T) {
	s := testkit.New(t)
	board, leash := s.Simple(t, "Board", "serial", "549.00"), s.Simple(t, "Leash", "counted", "29.00")
	s.Receive(t,
		buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: board, Quantity: "2", Cost: "310", Serials: "BW1,BW2"}}})
	s.Stock(t, leash, "5", "11.30")
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Starter kit",
		Category: "Paddle",
		TaxClass: 1,
		Price:    "569.00",
		Parts:    []catalog.PartInput{{Variant: board, Quantity: "1"}, {Variant: leash, Quantity: "2"}},
	},
	)
	require.NoError(t, err)
	kit := made.Variants[0].ID
	p := s.View(t, made.ID)
	assert.Equal(t, []string{"2", "332.6"}, []string{p.Variants[0].ForSale.String(), p.Variants[0].Average.String()},
		"available is the least, cost the sum")
	for _, bad := range [][]catalog.PartInput{{{Variant: kit, Quantity: "1"}}, {{Variant: board, Quantity: "2"}},
		{{Variant: leash, Quantity: "0"}}, {{Variant: leash, Quantity: "1"}, {Variant: leash, Quantity: "1"}}, {}} {
		_, err := catalog.ReadSetParts(s.By(s.Maren), made.ID, catalog.PartsInput{Parts: bad})
		assert.Error(t, err, "%+v", bad)
	}
	seen, err := catalog.PartsOf(s.Store.Read(ctx), s.View(t, made.ID), 1)
	require.NoError(t, err)
	three := catalog.PartsInput{Parts: []catalog.PartInput{{Variant: board, Quantity: "1"},
		{Variant: leash, Quantity: "3"}},
		Revision: seen.Revision}
	_, err = catalog.ReadSetParts(s.By(s.Maren), made.ID, three)
	require.NoError(t, err)
	three.Parts[1].Quantity = "2"
	_, err = catalog.ReadSetParts(s.By(s.Maren), made.ID, three)
	require.True(t, fault.Is(err, fault.Conflict), "on top of what somebody else saved")
	three.Revision = ""
	_, err = catalog.ReadSetParts(s.By(s.Maren), made.ID, three)
	require.NoError(t, err)
	s.Open(t, 1)
	basket, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: kit})
	require.NoError(t, err)
	assert.Equal(t, []string{"BW1", "BW2"}, basket.Lines[0].Choices)
	assert.Contains(t, basket.Lines[0].Short, "serial number")
	number := "BW2"
	basket, err = register.ChangeBasketLine(s.By(s.Tobi), 1, basket.Lines[0].ID,
		register.BasketChange{Serial: &number})
	require.NoError(t, err)
	assert.Empty(t, basket.Lines[0].Short)
	done, err := register.Sell(s.By(s.Tobi, "kit"), register.SaleInput{Register: 1, Basket: basket.ID, Card: "569.00"})
	require.NoError(t, err)
	sold, err := till.SaleByNumber(s.Store.Read(ctx), done.Number)
	require.NoError(t, err)
	assert.Equal(t, "332.60", sold.Lines[0].Cost.StringFixed(2))
	assert.Len(t, sold.Lines[0].Parts, 2)
	assert.Equal(t, "3", s.View(t, 2).Variants[0].ForSale.String())
	assert.Equal(t, "1", s.View(t, made.ID).Variants[0].ForSale.String())
	_, err = register.TakeBack(s.By(s.Tobi), register.ReturnInput{
		Register: 1,
		Sale:     done.Number,
		Lines:    []register.ReturnLineInput{{Line: 1, Quantity: "1", Condition: "For sale"}},
	},
	)
	require.NoError(t, err)
	assert.Equal(t, "2", s.View(t, made.ID).Variants[0].ForSale.String())
	_, err = register.TakeBack(s.By(s.Tobi), register.ReturnInput{
		Register: 1,
		Sale:     done.Number,
		Lines:    []register.ReturnLineInput{{Line: 1, Quantity: "1"}},
	},
	)
	assert.True(t, fault.Is(err, fault.Refused))
	s.InStep(t)
}
