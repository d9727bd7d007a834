package register_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/prices"
	"itemrack/shop/register"
	"itemrack/shop/reports"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	"itemrack/store/goods"
)

// TestAScanThatSaysALotMeansThatOne: it is that lot that is sold, or it is said why not.
func TestAScanThatSaysALotMeansThatOne(t *testing.T) {
	s := testkit.New(t)
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{Name: "Sun cream", Category: "Shore",
		TaxClass: 1, Tracking: "lot", Price: "14.50", Supplier: "Pale Dune Supplies", Barcode: "2000000000107"})
	require.NoError(t, err)
	cream := made.Variants[0].ID
	today := s.Terms(t).Day(s.Now())
	at := func(days int) time.Time { return today.AddDate(0, 0, days) }
	for _, l := range []struct {
		lot  string
		days int
	}{{"OLD", -1}, {"SOON", 0}, {"LATE", 90}} {
		s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: cream, Quantity: "5", Cost: "6", Lot: l.lot,
			Expiry: at(l.days).Format(time.DateOnly)}}})
	}
	s.Receive(t, buying.DeliveryInput{Branch: 2, Lines: []scan.GoodsLine{{Variant: cream, Quantity: "5", Cost: "6",
		Lot: "AWAY", Expiry: at(60).Format(time.DateOnly)}}})
	s.Open(t, 1)
	code := func(lot string, days int) string {
		text := "(01)02000000000107(17)" + at(days).Format("060102")
		if lot != "" {
			text += "(10)" + lot
		}
		return text
	}
	add := func(code string) (register.BasketView, error) {
		return register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: code})
	}
	for _, refused := range []struct{ code, says string }{
		{code("OLD", -1), "can't be sold"}, {code("", -1), "can't be sold"}, {code("LATE", -3), "can't be sold"},
		{code("AWAY", 60), "not for sale here"}, {code("NEW", 60), "has no lot"}, {code("LATE", 89), "has no lot"},
		{"(01)02000000000107(10)OLD", "can't be sold"},
	} {
		_, err := add(refused.code)
		require.NotNil(t, fault.Of(err), "%s: %v", refused.code, err)
		assert.ErrorContains(t, err, refused.says, refused.code)
	}
	view, err := add("2 x " + code("LATE", 90))
	require.NoError(t, err)
	view, err = add("(01)02000000000107(10)late")
	require.NoError(t, err)
	require.Len(t, view.Lines, 1, "the same lot again")
	view, err = add("2000000000107")
	require.NoError(t, err)
	require.Len(t, view.Lines, 2, "one that says no lot has a line of its own")
	assert.Contains(t, view.Lines[0].Lots[0], "LATE")
	assert.Contains(t, view.Lines[1].Lots[0], "SOON", "it goes on its last day")
	_, err = register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Basket: view.ID, Cash: "100"})
	require.NoError(t, err)
	left := map[string]string{}
	places, err := book.Places(s.Store.Read(ctx), cream)
	require.NoError(t, err)
	for _, p := range places {
		left[p.Lot] += p.Quantity.String()
	}
	assert.Equal(t, map[string]string{"OLD": "5", "SOON": "4", "LATE": "2", "AWAY": "5"}, left)
	_, err = register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Cash: "100",
		Lines: []register.SaleLineInput{{Variant: cream, Quantity: "3", Lot: "late"}}})
	assert.ErrorContains(t, err, "1 short", "two are left of that lot, whatever the others have")
	rows, _, err := goods.Variants(s.Store.Read(ctx), goods.ListFilter{}, 1)
	require.NoError(t, err)
	assert.Equal(t, "11", rows[0].ForSale.String(), "what has expired is not available")
	assert.Equal(t, "16", rows[0].OnHand.String())
	available, err := reports.Explain(s.By(s.Tobi), cream, reports.FigureAvailable)
	require.NoError(t, err)
	assert.Equal(t, "11", available.Amount)
	assert.Equal(t, []string{"Past its expiry", "−5"}, []string{available.Parts[1].Label, available.Parts[1].Amount})
	// goods of lots say which when their condition changes
	change := func(lot uint64, from, to string) error {
		_, err := stockroom.ChangeCondition(s.By(s.Maren), stockroom.ChangeInput{Variant: cream, Branch: 1,
			Lot: lot, From: from, To: to, Quantity: "1"})
		return err
	}
	err = change(0, "For sale", "To look over")
	require.NotNil(t, fault.Of(err), "%v", err)
	assert.Equal(t, "lot_id", fault.Of(err).Field)
	lots := map[string]uint64{}
	for _, p := range places {
		lots[p.Lot] = p.LotID
	}
	require.NoError(t, change(lots["OLD"], "For sale", "For scrap"))
	assert.ErrorContains(t, change(0, "For scrap", "For sale"), "past its expiry", "the only one there")
	s.InStep(t)
}

// TestLotsThatExpireOvernight are not available the next day, and low is told.
func TestLotsThatExpireOvernight(t *testing.T) {
	s := testkit.New(t)
	cream := s.Simple(t, "Sun cream", "lot", "14.50")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: cream, Quantity: "5", Cost: "6", Lot: "A",
		Expiry: s.Terms(t).Day(s.Now()).Format(time.DateOnly)}}})
	require.NoError(t, s.Spoil("UPDATE lot SET expiry = expiry - INTERVAL 1 DAY")) // a day has passed
	require.NoError(t, s.Spoil("UPDATE setting SET value = value - INTERVAL 1 DAY WHERE name = 'expired_before'"))
	before, err := goods.VariantRows(s.Store.Read(ctx), []uint64{cream})
	require.NoError(t, err)
	require.NoError(t, prices.PricesDue(ctx, s.Shop))
	after, err := goods.VariantRows(s.Store.Read(ctx), []uint64{cream})
	require.NoError(t, err)
	assert.Equal(t, "5 0", before[0].ForSale.String()+" "+after[0].ForSale.String())
	s.InStep(t)
}

// TestNumbersAreReadInOneWay on baskets and sales, and belong to a product.
func TestNumbersAreReadInOneWay(t *testing.T) {
	s := testkit.New(t)
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{Name: "Board", Category: "Boards",
		TaxClass: 1, Tracking: "serial", Price: "549", Supplier: "Brackwater Boards",
		Axes: []catalog.AxisInput{{Name: "Colour", Values: []catalog.ValueInput{{Name: "Red"}, {Name: "Blue"}}}}})
	require.NoError(t, err)
	red, blue := made.Variants[0].ID, made.Variants[1].ID
	in := func(variant uint64, numbers string, n int) error {
		draft, err := buying.SaveDelivery(s.By(s.Maren), 0, buying.DeliveryInput{Supplier: 1, Branch: 1,
			Lines: []scan.GoodsLine{{Variant: variant, Quantity: fmt.Sprint(n), Cost: "310", Serials: numbers}}})
		require.NoError(t, err)
		_, err = buying.PostDelivery(s.By(s.Maren), draft.ID, buying.DeliveryPosting{})
		return err
	}
	require.NoError(t, in(red, "ab 12, E1, É1, Ｅ1, n4", 5), "é is not e")
	assert.ErrorContains(t, in(blue, "AB12", 1), "of Board, Red")
	both, err := buying.SaveDelivery(s.By(s.Maren), 0, buying.DeliveryInput{Supplier: 1, Branch: 1,
		Lines: []scan.GoodsLine{{Variant: red, Quantity: "1", Cost: "1", Serials: "z9"},
			{Variant: blue, Quantity: "1", Cost: "1", Serials: "Z 9"}}})
	require.NoError(t, err)
	_, err = buying.PostDelivery(s.By(s.Maren), both.ID, buying.DeliveryPosting{})
	assert.ErrorContains(t, err, "of Board, Red", "nor in one delivery")
	require.NoError(t, in(blue, "B1", 1))
	s.Open(t, 1)
	sell := func(l register.SaleLineInput) error {
		_, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Cash: "5000",
			Lines: []register.SaleLineInput{l}})
		return err
	}
	require.NoError(t, sell(register.SaleLineInput{Variant: red, Quantity: "1", Serial: " ab\u200b 12 "}))
	assert.ErrorContains(t, in(blue, "AB12", 1), "known already", "nor once it is sold")
	require.NoError(t, sell(register.SaleLineInput{Variant: red, Quantity: "2", Serial: "e1, é1"}), "a line for each")
	view, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: red, Serial: "ü1"})
	require.Error(t, err, "it is not there: %v", view)
	view, err = register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: red, Serial: "N 4"})
	require.NoError(t, err)
	assert.Equal(t, []string{"N4"}, view.Lines[0].Serials)
	_, err = register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: red, Serial: "AB12"})
	assert.ErrorContains(t, err, "not in stock")
	_, err = register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Variant: red, Serial: "B1"})
	assert.ErrorContains(t, err, "has no")
	s.InStep(t)
}

// TestBundlesTakeTheirNumbers, are sold several at once, and say what all lines together
// are short of.
func TestBundlesTakeTheirNumbers(t *testing.T) {
	s := testkit.New(t)
	make := func(name, tracking, number string) uint64 {
		v := s.Simple(t, name, tracking, "100")
		if number != "" {
			s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: v, Quantity: "2", Cost: "40",
				Serials: number}}})
		}
		return v
	}
	board, watch := make("Board", "serial", "N1, N2"), make("Watch", "serial", "N1, W2")
	leash := s.Simple(t, "Leash", "counted", "10")
	s.Stock(t, leash, "10", "4")
	bundle := func(name string, parts ...catalog.PartInput) uint64 {
		made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{Name: name, Category: "Boards",
			TaxClass: 1, Price: "180", Parts: parts})
		require.NoError(t, err)
		return made.Variants[0].ID
	}
	kit := bundle("Starter kit", catalog.PartInput{Variant: board, Quantity: "1"},
		catalog.PartInput{Variant: watch, Quantity: "1"})
	pair := bundle("Leash pair", catalog.PartInput{Variant: leash, Quantity: "2"})
	s.Open(t, 1)
	sell := func(v uint64, q, numbers string) error {
		_, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Cash: "5000",
			Lines: []register.SaleLineInput{{Variant: v, Quantity: q, Serial: numbers}}})
		return err
	}
	require.NoError(t, sell(watch, "1", "N1"), "the watch N1 is sold by itself")
	require.NoError(t, sell(kit, "1", "N1, W2"), "the kit takes the board N1 and the watch W2")
	available, err := reports.Explain(s.By(s.Tobi), pair, reports.FigureAvailable)
	require.NoError(t, err)
	assert.Equal(t, "5", available.Amount, "ten leashes are five pairs")
	assert.Contains(t, available.Parts[1].Label, "10 available, 2 in each")
	view, err := register.AddToBasket(s.By(s.Tobi), 1, register.BasketAdd{Code: "6 x " + sku(t, s, pair)})
	require.NoError(t, err)
	require.Len(t, view.Lines, 6)
	assert.Empty(t, view.Lines[4].Short, "ten leashes are enough for five")
	assert.Contains(t, view.Lines[5].Short, "12 asked, 10 For sale here, 2 short")
	_, err = register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1, Basket: view.ID, Cash: "5000"})
	assert.ErrorContains(t, err, "Leash: 12 asked, 10 For sale here, 2 short")
	require.NoError(t, sell(pair, "5", ""))
	s.InStep(t)
}

func sku(t *testing.T, s *testkit.Shop, variant uint64) string {
	rows, err := goods.VariantRows(s.Store.Read(ctx), []uint64{variant})
	require.NoError(t, err)
	return rows[0].SKU
}

// TestNothingFollowsBeforeWhatItFollowsFrom, whatever the machine's clock does.
func TestNothingFollowsBeforeWhatItFollowsFrom(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	in := s.Stock(t, v, "9", "2.00")
	s.Open(t, 1)
	sold := s.Sold(t, v, "2")
	s.Shop = s.Shop.At(time.Now().Add(-3 * time.Hour)) // the clock is set back
	back, err := s.TakeBack(1, sold.Number, 1, "1", "")
	require.NoError(t, err)
	s.Shop = s.Shop.At(time.Now())
	assert.False(t, back.At.Before(sold.At), "%s before %s", back.At, sold.At)
	void, err := stockroom.Reverse(s.By(s.Maren), s.Sold(t, v, "1").Number, "")
	require.NoError(t, err)
	assert.False(t, void.At.After(time.Now()))
	s.Shop = s.Shop.At(time.Now())
	late := s.Stock(t, v, "1", "2.00")
	s.Shop = s.Shop.At(time.Now().Add(-time.Hour))
	gone, err := stockroom.Reverse(s.By(s.Maren), late.Number, "")
	require.NoError(t, err)
	assert.False(t, gone.At.Before(late.At))
	assert.True(t, in.At.Before(sold.At))
}
