package deed_test

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/label"
	"itemrack/core/price"
	"itemrack/core/staff"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/deed"
	"itemrack/shop/labels"
	"itemrack/shop/office"
	"itemrack/shop/prices"
	"itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/testkit"
	"itemrack/store/goods"
	"itemrack/store/lists"
	"itemrack/store/trade"
)

// view reads a product as it stands.
func view(t *testing.T, s *testkit.Shop, id uint64) goods.ProductView {
	t.Helper()
	p, err := goods.ReadProduct(s.Store.Read(ctx), id, 1, s.Now())
	require.NoError(t, err)
	return p
}

func TestProductsTakeOverFromCategoryAndSupplier(t *testing.T) {
	s := testkit.New(t)
	swim, err := catalog.SaveCategory(ctx, s.Shop, s.Maren, "", 0, catalog.CategoryInput{Name: "Swim", TaxClass: 1, Restock: "4"})
	require.NoError(t, err)
	vests, err := catalog.SaveCategory(ctx, s.Shop, s.Maren, "", 0, catalog.CategoryInput{Parent: swim.ID, Name: "Rash vests", Markup: "110", Ending: "1/0.95/nearest"})
	require.NoError(t, err)
	made, err := catalog.MakeProduct(ctx, s.Shop, s.Maren, "", catalog.NewProduct{Name: "Tidewater rash vest", Category: "rash", Supplier: "Kelpline Textiles", Tracking: "counted", Cost: "13.95"})
	require.NoError(t, err)
	p := view(t, s, made.ID)
	assert.Equal(t, "Swim > Rash vests", p.Category.Path, "the first letters were enough")
	assert.Equal(t, []any{"34.95", price.ByRule, "Rash vests"}, []any{p.Variants[0].Price.StringFixed(2), p.Variants[0].PriceSource, p.Settled.MarkupFrom})
	assert.Equal(t, []any{"Standard", "Swim", "4"}, []any{p.TaxClass.Name, p.Settled.TaxFrom, p.Variants[0].RestockLevel.String()})

	// the category changes, and what follows it with it
	_, err = catalog.SaveCategory(ctx, s.Shop, s.Maren, "", vests.ID, catalog.CategoryInput{Parent: swim.ID, Name: "Rash vests", Markup: "50", TaxClass: 3, Restock: "2"})
	require.NoError(t, err)
	p = view(t, s, made.ID)
	assert.Equal(t, []any{"20.93", "Zero", "2"}, []any{p.Variants[0].Price.StringFixed(2), p.TaxClass.Name, p.Variants[0].RestockLevel.String()})
	rows, _, err := goods.Variants(s.Store.Read(ctx), goods.ListFilter{Words: "tidewater"}, 1)
	require.NoError(t, err)
	assert.Equal(t, "20.93", rows[0].Price.StringFixed(2), "lists see it, too")

	// moving takes what lies below along; a tree can't lie below itself
	shore, err := catalog.SaveCategory(ctx, s.Shop, s.Maren, "", 0, catalog.CategoryInput{Name: "Shore", TaxClass: 2})
	require.NoError(t, err)
	_, err = catalog.SaveCategory(ctx, s.Shop, s.Maren, "", swim.ID, catalog.CategoryInput{Parent: shore.ID, Name: "Swim"})
	require.NoError(t, err)
	assert.Equal(t, "Shore > Swim > Rash vests", view(t, s, made.ID).Category.Path)
	_, err = catalog.SaveCategory(ctx, s.Shop, s.Maren, "", shore.ID, catalog.CategoryInput{Parent: vests.ID, Name: "Shore"})
	assert.True(t, fault.Is(err, fault.Refused))
	_, err = catalog.MergeCategory(ctx, s.Shop, s.Maren, "", swim.ID, shore.ID)
	assert.True(t, fault.Is(err, fault.Refused), "something lies below it")
	_, err = catalog.MergeCategory(ctx, s.Shop, s.Maren, "", vests.ID, swim.ID)
	require.NoError(t, err)
	assert.Equal(t, "Shore > Swim", view(t, s, made.ID).Category.Path)
	_, err = catalog.DropCategory(ctx, s.Shop, s.Maren, swim.ID)
	assert.True(t, fault.Is(err, fault.Refused))
	for _, bad := range []catalog.CategoryInput{{Name: " > "}, {Name: "x", Markup: "-1"}, {Name: "x", Ending: "1"}, {Name: "x", TaxClass: 99}, {Name: "x", Parent: 99}, {Name: "Shore"}} {
		_, err = catalog.SaveCategory(ctx, s.Shop, s.Maren, "", 0, bad)
		assert.Error(t, err, "%+v", bad)
	}
}

func TestValuesAreSharedAndRenamedEverywhere(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "5", "10")
	s.Open(t, 1)
	sold := s.Sold(t, made.Variants[0].ID, "1")
	second, err := catalog.MakeProduct(ctx, s.Shop, s.Maren, "", catalog.NewProduct{Name: "Tide tee", Category: "Swim", TaxClass: 1, Tracking: "counted", Price: "19.95", Axes: []catalog.AxisInput{{Name: "Colour", Text: "co sl, Navy"}, {Name: "Size", Text: "xs-l"}}})
	require.NoError(t, err)
	assert.Len(t, second.Variants, 12)
	p := view(t, s, second.ID)
	assert.Equal(t, "#D9604C", p.Axes[0].Values[0].Swatch, "the set knows it")
	assert.Equal(t, "#24364F", p.Axes[0].Values[2].Swatch, "the usual one of its name")
	_, values, err := goods.ValueSets(s.Store.Read(ctx))
	require.NoError(t, err)
	var coral goods.Value
	for _, list := range values {
		for _, v := range list {
			if v.Name == "Coral" {
				coral = v
			}
		}
	}
	_, err = catalog.RenameValue(ctx, s.Shop, s.Maren, "", coral.ID, catalog.ValueInSet{Name: "Sunset", Swatch: "#D9604C #54646F stripes"})
	require.NoError(t, err)
	assert.Equal(t, "Sunset · S", view(t, s, made.ID).Variants[0].Label)
	assert.Equal(t, "Sunset · XS", view(t, s, second.ID).Variants[0].Label)
	found, err := goods.Find(s.Store.Read(ctx), made.Variants[0].Barcode, 5)
	require.NoError(t, err)
	require.Len(t, found, 1, "old labels scan")
	assert.Equal(t, "Sunset · S", found[0].Detail)
	receipt, err := trade.SaleByNumber(s.Store.Read(ctx), sold.Number)
	require.NoError(t, err)
	assert.Equal(t, "Coral · S", receipt.Lines[0].Detail, "old receipts keep the old name")
	found, err = goods.Find(s.Store.Read(ctx), "sunset tee", 5)
	require.NoError(t, err)
	require.Len(t, found, 1)
	_, err = catalog.RenameValue(ctx, s.Shop, s.Maren, "", coral.ID, catalog.ValueInSet{Name: "Slate"})
	assert.True(t, fault.Is(err, fault.Conflict))
	_, err = catalog.DropValue(ctx, s.Shop, s.Maren, coral.ID)
	assert.True(t, fault.Is(err, fault.Refused))

	// one with stock or sales is retired, and not dropped
	_, err = catalog.ChangeValue(ctx, s.Shop, s.Maren, "", made.ID, catalog.ValueChange{Axis: "Colour", Value: "Sunset", Do: "drop"})
	assert.True(t, fault.Is(err, fault.Refused))
	_, err = catalog.ChangeValue(ctx, s.Shop, s.Maren, "", made.ID, catalog.ValueChange{Axis: "Colour", Value: "Sunset", Do: "retire"})
	require.NoError(t, err)
	assert.True(t, view(t, s, made.ID).Variants[0].Retired)
	s.Sold(t, made.Variants[0].ID, "1")
	done, err := catalog.ChangeValue(ctx, s.Shop, s.Maren, "", made.ID, catalog.ValueChange{Axis: "Colour", Value: "Slate", Do: "drop"})
	require.NoError(t, err)
	assert.Contains(t, done.Says, "3 variants")
	assert.Len(t, view(t, s, made.ID).Variants, 3)
	_, err = catalog.ChangeValue(ctx, s.Shop, s.Maren, "", made.ID, catalog.ValueChange{Axis: "Colour", Value: "Sunset", Do: "drop"})
	assert.Error(t, err, "nothing would be left")
	s.InStep(t)
}

func TestPriceListsBreaksAndDatedPrices(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	v := made.Variants[0].ID // 34.95
	s.Stock(t, v, "60", "13.95")
	club, err := prices.SavePriceList(ctx, s.Shop, s.Maren, "", 0, prices.ListInput{Name: "Club", Kind: "other list", Base: 1, Percent: "−10", Ending: "1/0.95/nearest"})
	require.NoError(t, err)
	_, err = prices.SavePriceList(ctx, s.Shop, s.Maren, "", club.ID, prices.ListInput{Name: "Club", Kind: "other list", Base: club.ID, Percent: "-10"})
	assert.True(t, fault.Is(err, fault.Refused), "it would start from itself")
	result, err := prices.SetPrices(ctx, s.Shop, s.Maren, "", made.ID, prices.PriceChange{Price: "31.50", Quantity: "10"})
	require.NoError(t, err)
	assert.Len(t, result.Own, 2, "the two of 36.95 keep their own")
	_, err = prices.SetPrices(ctx, s.Shop, s.Maren, "", made.ID, prices.PriceChange{Price: "39.95", From: "2026-11-30T09:00"})
	assert.NoError(t, err)
	_, err = prices.SetPrices(ctx, s.Shop, s.Maren, "", made.ID, prices.PriceChange{Price: "39.95", From: "2020-01-01"})
	assert.Error(t, err, "not in the past")

	s.Open(t, 1)
	basket, err := register.AddToBasket(ctx, s.Shop, s.Tobi, "", 1, register.BasketAdd{Variant: v})
	require.NoError(t, err)
	line := basket.Lines[0]
	assert.Equal(t, "34.95", line.Price.StringFixed(2))
	basket, err = register.ChangeBasketLine(ctx, s.Shop, s.Tobi, "", 1, line.ID, register.BasketChange{Quantity: "12"})
	require.NoError(t, err)
	assert.Equal(t, []string{"31.50", "378.00"}, []string{basket.Lines[0].Price.StringFixed(2), basket.Totals.Gross.StringFixed(2)})
	basket, err = register.PutOnList(ctx, s.Shop, s.Tobi, "", 1, club.ID)
	require.NoError(t, err)
	assert.Equal(t, "27.95", basket.Lines[0].Price.StringFixed(2), "31.50 − 10 % = 28.35, nearest ending .95 is 27.95")
	later := s.At(s.Now().AddDate(0, 0, 20))
	basket, err = register.ChangeBasketLine(ctx, later, s.Tobi, "", 1, line.ID, register.BasketChange{Quantity: "1"})
	require.NoError(t, err)
	assert.Equal(t, "31.95", basket.Lines[0].Price.StringFixed(2), "34.95 − 10 % = 31.455: the price that began meanwhile does not count")
	basket, err = register.AddToBasket(ctx, later, s.Tobi, "", 1, register.BasketAdd{Variant: v})
	require.NoError(t, err)
	require.Len(t, basket.Lines, 2, "what is scanned now is a line of its own")
	assert.Equal(t, "35.95", basket.Lines[1].Price.StringFixed(2))

	why, err := prices.ExplainPrice(ctx, s.Shop, s.Tobi, v, "12", "")
	require.NoError(t, err)
	require.Len(t, why, 2)
	assert.Contains(t, why[0].Answer.Why[0].Says, "from 10")
	assert.Equal(t, "27.95", why[1].Answer.Amount.StringFixed(2))
	_, err = prices.DropLaterPrices(ctx, s.Shop, s.Maren, "", made.ID, prices.DropPrice{})
	require.NoError(t, err)
	why, err = prices.ExplainPrice(ctx, later, s.Tobi, v, "", "")
	require.NoError(t, err)
	assert.Equal(t, "34.95", why[0].Answer.Amount.StringFixed(2))
	_, err = prices.DropPriceList(ctx, s.Shop, s.Maren, price.Regular)
	assert.True(t, fault.Is(err, fault.Refused))
}

func TestListsFollowDatedPrices(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	_, err := prices.SetPrices(ctx, s.Shop, s.Maren, "", made.ID, prices.PriceChange{Price: "40.00", From: s.Now().Add(48 * time.Hour).In(s.Terms(t).Zone).Format("2006-01-02T15:04")})
	require.NoError(t, err)
	listed := func(sh *deed.Shop) string {
		require.NoError(t, prices.PricesDue(ctx, sh))
		rows, _, err := goods.Variants(sh.Store.Read(ctx), goods.ListFilter{Sort: "price"}, 1)
		require.NoError(t, err)
		return rows[0].Price.StringFixed(2)
	}
	assert.Equal(t, "34.95", listed(s.Shop))
	assert.Equal(t, "36.95", listed(s.At(s.Now().AddDate(0, 0, 3))), "the four that follow cost 40.00 now")
}

func TestPacksAreScannedSoldAndTakenBack(t *testing.T) {
	s := testkit.New(t)
	bar := s.Simple(t, "Energy bar", "counted", "1.60")
	p := view(t, s, 1)
	s.Stock(t, bar, "40", "0.98")
	pack, err := catalog.SavePack(ctx, s.Shop, s.Maren, "", p.ID, 0, catalog.PackInput{Name: "box of 12", Factor: "12", Barcode: "96385074", Price: "17.40"})
	require.NoError(t, err)
	for _, bad := range []catalog.PackInput{{Name: "one", Factor: "1"}, {Name: "", Factor: "12"}, {Name: "box of 12", Factor: "12"}, {Name: "half", Factor: "1.5"}, {Name: "six", Factor: "6", Barcode: "96385074"}} {
		_, err = catalog.SavePack(ctx, s.Shop, s.Maren, "", p.ID, 0, bad)
		assert.Error(t, err, "%+v", bad)
	}
	s.Open(t, 1)
	basket, err := register.AddToBasket(ctx, s.Shop, s.Tobi, "", 1, register.BasketAdd{Code: "96385074"})
	require.NoError(t, err)
	basket, err = register.AddToBasket(ctx, s.Shop, s.Tobi, "", 1, register.BasketAdd{Code: "2 x 96385074"})
	require.NoError(t, err)
	require.Len(t, basket.Lines, 1)
	assert.Equal(t, []string{"box of 12", "3", "52.20", "ok"}, []string{basket.Lines[0].Pack, basket.Lines[0].Quantity.String(), basket.Totals.Gross.StringFixed(2), "ok" + basket.Lines[0].Short})
	basket, err = register.AddToBasket(ctx, s.Shop, s.Tobi, "", 1, register.BasketAdd{Variant: bar, Quantity: "4"})
	require.NoError(t, err)
	require.Len(t, basket.Lines, 2)
	done, err := register.Sell(ctx, s.Shop, s.Tobi, "pack", register.SaleInput{Register: 1, Basket: basket.ID, Cash: "100"})
	require.NoError(t, err)
	assert.Equal(t, "58.60", done.Total.StringFixed(2))
	assert.Equal(t, "0", view(t, s, p.ID).Variants[0].ForSale.String(), "3 boxes of 12 and 4 loose are 40")
	back, err := register.TakeBack(ctx, s.Shop, s.Tobi, "", register.ReturnInput{Register: 1, Sale: done.Number, Lines: []register.ReturnLineInput{{Line: 1, Quantity: "12"}}})
	require.NoError(t, err)
	assert.Equal(t, "17.40", back.Amount.StringFixed(2))
	receipt, err := register.Receipt(ctx, s.Shop, done.Number)
	require.NoError(t, err)
	assert.Contains(t, receipt.SVG("r"), "3 × box of 12")
	_, err = catalog.DropPack(ctx, s.Shop, s.Maren, p.ID, pack.ID)
	require.NoError(t, err)
	s.InStep(t)
}

func TestBundlesMoveTheirParts(t *testing.T) {
	s := testkit.New(t)
	board, leash := s.Simple(t, "Board", "serial", "549.00"), s.Simple(t, "Leash", "counted", "29.00")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: board, Quantity: "2", Cost: "310", Serials: "BW1,BW2"}}})
	s.Stock(t, leash, "5", "11.30")
	made, err := catalog.MakeProduct(ctx, s.Shop, s.Maren, "", catalog.NewProduct{Name: "Starter kit", Category: "Paddle", TaxClass: 1, Price: "569.00", Parts: []catalog.PartInput{{Variant: board, Quantity: "1"}, {Variant: leash, Quantity: "2"}}})
	require.NoError(t, err)
	kit := made.Variants[0].ID
	p := view(t, s, made.ID)
	assert.Equal(t, []string{"2", "332.6"}, []string{p.Variants[0].ForSale.String(), p.Variants[0].Average.String()}, "available is the least, cost the sum")
	for _, bad := range [][]catalog.PartInput{{{Variant: kit, Quantity: "1"}}, {{Variant: board, Quantity: "2"}}, {{Variant: leash, Quantity: "0"}}, {{Variant: leash, Quantity: "1"}, {Variant: leash, Quantity: "1"}}, {}} {
		_, err := catalog.ReadSetParts(ctx, s.Shop, s.Maren, "", made.ID, bad)
		assert.Error(t, err, "%+v", bad)
	}
	s.Open(t, 1)
	basket, err := register.AddToBasket(ctx, s.Shop, s.Tobi, "", 1, register.BasketAdd{Variant: kit})
	require.NoError(t, err)
	assert.Equal(t, []string{"BW1", "BW2"}, basket.Lines[0].Choices)
	assert.Contains(t, basket.Lines[0].Short, "serial number")
	number := "BW2"
	basket, err = register.ChangeBasketLine(ctx, s.Shop, s.Tobi, "", 1, basket.Lines[0].ID, register.BasketChange{Serial: &number})
	require.NoError(t, err)
	assert.Empty(t, basket.Lines[0].Short)
	done, err := register.Sell(ctx, s.Shop, s.Tobi, "kit", register.SaleInput{Register: 1, Basket: basket.ID, Card: "569.00"})
	require.NoError(t, err)
	sold, err := trade.SaleByNumber(s.Store.Read(ctx), done.Number)
	require.NoError(t, err)
	assert.Equal(t, "332.60", sold.Lines[0].Cost.StringFixed(2))
	assert.Len(t, sold.Lines[0].Parts, 2)
	assert.Equal(t, "3", view(t, s, 2).Variants[0].ForSale.String())
	assert.Equal(t, "1", view(t, s, made.ID).Variants[0].ForSale.String())
	_, err = register.TakeBack(ctx, s.Shop, s.Tobi, "", register.ReturnInput{Register: 1, Sale: done.Number, Lines: []register.ReturnLineInput{{Line: 1, Quantity: "1", Condition: "For sale"}}})
	require.NoError(t, err)
	assert.Equal(t, "2", view(t, s, made.ID).Variants[0].ForSale.String())
	_, err = register.TakeBack(ctx, s.Shop, s.Tobi, "", register.ReturnInput{Register: 1, Sale: done.Number, Lines: []register.ReturnLineInput{{Line: 1, Quantity: "1"}}})
	assert.True(t, fault.Is(err, fault.Refused))
	s.InStep(t)
}

func TestPricesWithoutTax(t *testing.T) {
	s := testkit.Bare(t)
	plan := testkit.Plan
	plan.WithoutTax = true
	_, err := office.SetUp(ctx, s.Shop, plan)
	require.NoError(t, err)
	_, err = office.MakePerson(ctx, s.Shop, office.NewPerson{Login: "maren", Name: "Maren Holt", Password: testkit.Password, Role: staff.Manager, Branch: 1})
	require.NoError(t, err)
	s.Maren, err = office.PersonByLogin(ctx, s.Shop, "maren")
	require.NoError(t, err)
	s.Tobi, s.Callum = s.Maren, s.Maren
	v := s.Simple(t, "Whistle", "counted", "9.49")
	s.Stock(t, v, "9", "4")
	s.Open(t, 1)
	done := s.Sold(t, v, "3")
	assert.Equal(t, []string{"34.16", "5.69"}, []string{done.Total.StringFixed(2), done.Tax.StringFixed(2)}, "28.47 and 20 %")
	back, err := register.TakeBack(ctx, s.Shop, s.Maren, "", register.ReturnInput{Register: 1, Sale: done.Number, Lines: []register.ReturnLineInput{{Line: 1, Quantity: "3"}}})
	require.NoError(t, err)
	assert.Equal(t, "34.16", back.Amount.StringFixed(2))
	s.InStep(t)
}

func TestFactsOfAProduct(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "2", "13.95")
	facts := catalog.ProductFacts{NewProduct: catalog.NewProduct{Name: "Tidewater vest", ShortName: "Vest", Category: "Swim > Rash vests", Brand: "Kelpline", Tracking: "counted", Content: "200 ml", Description: "Dries fast.", Restock: "3", Attributes: map[string]string{"Material": "Nylon", "Care": ""}},
		Discontinued: true, Suppliers: []catalog.SupplierInput{{Supplier: "Oar & Thole", Part: "OT-7"}, {Supplier: "Kelpline Textiles", Part: "KT-1180"}, {}}}
	_, err := catalog.SaveProduct(ctx, s.Shop, s.Maren, "", made.ID, facts)
	require.NoError(t, err)
	p := view(t, s, made.ID)
	assert.Equal(t, []any{"Tidewater vest", "Oar & Thole", true, "ml", "3"}, []any{p.Name, p.Supplier, p.Discontinued, p.Measure, p.Variants[0].RestockLevel.String()})
	for words, want := range map[string]int{"kt-1180": 1, "nylon": 1, "kelpline vest": 1, "tidewatre": 1, "velvet": 0} {
		found, err := goods.Find(s.Store.Read(ctx), words, 5)
		require.NoError(t, err)
		assert.Len(t, found, want, words)
	}
	facts.Tracking = "lot"
	_, err = catalog.SaveProduct(ctx, s.Shop, s.Maren, "", made.ID, facts)
	assert.Equal(t, "tracking", fault.Of(err).Field)
	assert.Contains(t, err.Error(), "take over its name")
	next, err := catalog.Succeed(ctx, s.Shop, s.Maren, "", made.ID, catalog.Successor{Tracking: "lot"})
	require.NoError(t, err)
	assert.Equal(t, "Tidewater vest", next.Name)
	found, err := goods.Find(s.Store.Read(ctx), made.Variants[0].Barcode, 5)
	require.NoError(t, err)
	assert.Equal(t, next.Variants[0].ID, found[0].ID, "the barcodes went along")
	assert.Equal(t, "34.95", view(t, s, next.ID).Variants[0].Price.StringFixed(2))
	assert.Contains(t, view(t, s, made.ID).Name, "before")
	for _, bad := range []catalog.ProductFacts{{NewProduct: catalog.NewProduct{Name: "", Category: "x", Tracking: "counted"}}, {NewProduct: catalog.NewProduct{Name: "x", Category: "", Tracking: "counted"}},
		{NewProduct: catalog.NewProduct{Name: "x", Category: "x", Tracking: "counted", Content: "2 miles"}}, {NewProduct: catalog.NewProduct{Name: "x", Category: "x", Tracking: "counted"}, Suppliers: []catalog.SupplierInput{{Supplier: "A"}, {Supplier: "a"}}}} {
		_, err := catalog.SaveProduct(ctx, s.Shop, s.Maren, "", next.ID, bad)
		assert.Error(t, err, "%+v", bad)
	}
	_, err = catalog.DropProduct(ctx, s.Shop, s.Maren, made.ID)
	assert.True(t, fault.Is(err, fault.Refused))
	_, err = catalog.DropProduct(ctx, s.Shop, s.Maren, next.ID)
	require.NoError(t, err)
	s.InStep(t)
}

func TestCellsAndBarcodes(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	first, second := made.Variants[0], made.Variants[1]
	_, err := catalog.ChangeCells(ctx, s.Shop, s.Maren, "", made.ID, catalog.CellChange{Figure: "restock_level", Cells: []catalog.CellTyped{{Variant: first.ID, Text: "4"}, {Variant: second.ID, Text: "x"}}})
	assert.Error(t, err)
	assert.Nil(t, view(t, s, made.ID).Variants[0].RestockLevel, "all or none")
	for figure, text := range map[string]string{"restock_level": "4", "cost": "13.95", "sku": "tw-1", "retired": "yes"} {
		_, err := catalog.ChangeCells(ctx, s.Shop, s.Maren, "", made.ID, catalog.CellChange{Figure: figure, Cells: []catalog.CellTyped{{Variant: first.ID, Text: text}}})
		require.NoError(t, err, figure)
	}
	v := view(t, s, made.ID).Variants[0]
	assert.Equal(t, []any{"4", "13.95", "TW-1", true}, []any{v.RestockLevel.String(), v.OwnCost.String(), v.SKU, v.Retired})
	_, err = catalog.ChangeCells(ctx, s.Shop, s.Maren, "", made.ID, catalog.CellChange{Figure: "sku", Cells: []catalog.CellTyped{{Variant: second.ID, Text: "TW-1"}}})
	assert.True(t, fault.Is(err, fault.Conflict))
	got, err := catalog.AddBarcode(ctx, s.Shop, s.Maren, "", first.ID, catalog.BarcodeInput{Code: "012345678905"})
	require.NoError(t, err)
	assert.Equal(t, "012345678905", got.Barcode)
	_, err = catalog.AddBarcode(ctx, s.Shop, s.Maren, "", second.ID, catalog.BarcodeInput{Code: "0012345678905"})
	assert.ErrorContains(t, err, "belongs to Tidewater rash vest, Coral · S")
	_, err = catalog.AddBarcode(ctx, s.Shop, s.Maren, "", second.ID, catalog.BarcodeInput{Code: "200000000001"})
	assert.ErrorContains(t, err, "check digit")
	own, err := catalog.AddBarcode(ctx, s.Shop, s.Maren, "", second.ID, catalog.BarcodeInput{})
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(own.Barcode, "20"))
	_, err = catalog.DropBarcode(ctx, s.Shop, s.Maren, first.ID, "012345678905")
	require.NoError(t, err)
	_, err = catalog.DropBarcode(ctx, s.Shop, s.Maren, first.ID, own.Barcode)
	assert.True(t, fault.Is(err, fault.NotFound))
	made2, err := catalog.MakeProduct(ctx, s.Shop, s.Maren, "", catalog.NewProduct{Name: "Tee", Category: "Swim", TaxClass: 1, Tracking: "counted", Price: "1", Axes: []catalog.AxisInput{{Name: "Size", Text: "s,m"}}, Barcodes: []catalog.CellText{{Choice: []string{"S"}, Text: "96385074"}}})
	require.NoError(t, err)
	assert.Equal(t, []string{"96385074", "20"}, []string{made2.Variants[0].Barcode, made2.Variants[1].Barcode[:2]})
}

func TestRangesOfOwnNumbers(t *testing.T) {
	s := testkit.New(t)
	ranges, err := goods.BarcodeRanges(s.Store.Read(ctx))
	require.NoError(t, err)
	small, err := office.AddRange(ctx, s.Shop, s.Maren, "", office.RangeInput{Name: "Winter", Prefix: "21", First: 5, Last: 7})
	require.NoError(t, err)
	_, err = office.SwitchRange(ctx, s.Shop, s.Maren, ranges[0].ID, false)
	require.NoError(t, err)
	made, err := catalog.MakeProduct(ctx, s.Shop, s.Maren, "", catalog.NewProduct{Name: "Cap", Category: "Swim", TaxClass: 1, Tracking: "counted", Price: "5", Axes: []catalog.AxisInput{{Name: "Colour", Text: "Red, Blue"}}})
	require.NoError(t, err)
	assert.Equal(t, []string{"2100000000050", "2100000000067"}, []string{made.Variants[0].Barcode, made.Variants[1].Barcode})
	_, err = catalog.MakeProduct(ctx, s.Shop, s.Maren, "", catalog.NewProduct{Name: "Hat", Category: "Swim", TaxClass: 1, Tracking: "counted", Price: "5", Axes: []catalog.AxisInput{{Name: "Colour", Text: "Red, Blue"}}})
	assert.ErrorContains(t, err, "given out")
	_, err = office.SwitchRange(ctx, s.Shop, s.Maren, ranges[0].ID, true)
	require.NoError(t, err)
	for _, bad := range []office.RangeInput{{Name: "x", Prefix: "50", First: 1, Last: 2}, {Name: "Winter", Prefix: "22", First: 1, Last: 2}, {Name: "x", Prefix: "21", First: 7, Last: 9}, {Name: "x", Prefix: "22", First: 9, Last: 2}, {Prefix: "22", First: 1, Last: 2}} {
		_, err := office.AddRange(ctx, s.Shop, s.Maren, "", bad)
		assert.Error(t, err, "%+v", bad)
	}
	assert.Equal(t, uint64(5), small.Next)
	_, err = office.SaveSettings(ctx, s.Shop, s.Maren, "", office.SettingsInput{Name: "Saltmarsh", ScalePrefix: "21"})
	assert.Error(t, err, "that prefix is a range's")
	_, err = office.SaveSettings(ctx, s.Shop, s.Maren, "", office.SettingsInput{Name: "Saltmarsh", ScalePrefix: "28"})
	require.NoError(t, err)
}

func TestAWeighedItemIsScanned(t *testing.T) {
	s := testkit.New(t)
	made, err := catalog.MakeProduct(ctx, s.Shop, s.Maren, "", catalog.NewProduct{Name: "Sea salt", Category: "Shore", Supplier: "Oar & Thole", TaxClass: 1, Unit: "kg", Tracking: "counted", Price: "8.00", Barcode: "2812345000007"})
	require.NoError(t, err)
	s.Stock(t, made.Variants[0].ID, "10", "2")
	_, err = office.SaveSettings(ctx, s.Shop, s.Maren, "", office.SettingsInput{Name: "Saltmarsh", ScalePrefix: "28"})
	require.NoError(t, err)
	s.Open(t, 1)
	basket, err := register.AddToBasket(ctx, s.Shop, s.Tobi, "", 1, register.BasketAdd{Code: "2812345012505"})
	require.NoError(t, err)
	assert.Equal(t, []string{"1.25", "10.00"}, []string{basket.Lines[0].Quantity.String(), basket.Totals.Gross.StringFixed(2)})
}

func TestManyProductsChangeAtOnceAndBack(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	other := s.Simple(t, "Whistle", "counted", "4.00")
	ids := []uint64{made.ID, made.ID + 1}
	preview, err := catalog.PreviewBulk(ctx, s.Shop, s.Maren, catalog.BulkChange{Products: ids, What: "price_percent", To: "+10 %"})
	require.NoError(t, err)
	require.Len(t, preview.Rows, 4, "the product's price, two of their own, and the whistle's")
	assert.Equal(t, "34.95", view(t, s, made.ID).Variants[0].Price.StringFixed(2), "a preview changes nothing")
	done, err := catalog.ChangeBulk(ctx, s.Shop, s.Maren, "b1", catalog.BulkChange{Products: ids, What: "price_percent", To: "10"})
	require.NoError(t, err)
	assert.Equal(t, preview.Rows, done.Rows, "a preview can't differ from the result")
	again, err := catalog.ChangeBulk(ctx, s.Shop, s.Maren, "b1", catalog.BulkChange{Products: ids, What: "price_percent", To: "10"})
	require.NoError(t, err)
	assert.Equal(t, done.ID, again.ID, "once")
	assert.Equal(t, "38.45", view(t, s, made.ID).Variants[0].Price.StringFixed(2))
	_, err = prices.SetPrices(ctx, s.Shop, s.Maren, "", made.ID+1, prices.PriceChange{Price: "5.00"})
	require.NoError(t, err)
	undone, err := catalog.UndoBulk(ctx, s.Shop, s.Maren, "", done.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"Whistle was changed since, and stays."}, undone.Left, "what was changed since stays")
	assert.Equal(t, []string{"34.95", "36.95"}, []string{view(t, s, made.ID).Variants[0].Price.StringFixed(2), view(t, s, made.ID).Variants[2].Price.StringFixed(2)})
	_, err = catalog.UndoBulk(ctx, s.Shop, s.Maren, "", done.ID)
	assert.True(t, fault.Is(err, fault.Conflict))

	for what, to := range map[string]string{"category": "Shore > Odds", "supplier": "Pale Dune Supplies", "brand": "Kelpline", "tax_class": "Zero", "restock_level": "7", "markup": "80", "ending": "1/0.95/up", "discontinued": "yes"} {
		changed, err := catalog.ChangeBulk(ctx, s.Shop, s.Maren, "", catalog.BulkChange{Products: ids, What: what, To: to})
		require.NoError(t, err, what)
		assert.Len(t, changed.Rows, 2, what)
		back, err := catalog.UndoBulk(ctx, s.Shop, s.Maren, "", changed.ID)
		require.NoError(t, err, what)
		assert.Len(t, back.Rows, 2, what)
	}
	p := view(t, s, made.ID)
	assert.Equal(t, []any{"Swim > Rash vests", "Kelpline Textiles", false, "Standard"}, []any{p.Category.Path, p.Supplier, p.Discontinued, p.TaxClass.Name})
	for _, bad := range []catalog.BulkChange{{What: "brand", To: "x"}, {Products: ids, What: "mood"}, {Products: ids, What: "tax_class", To: "Luxury"}, {Products: ids, What: "price_percent", To: "-100"}, {Products: ids, What: "price_amount", To: "-1000"}, {Products: ids, What: "discontinued", To: "maybe"}, {Products: ids, What: "brand", To: ""}} {
		_, err := catalog.ChangeBulk(ctx, s.Shop, s.Maren, "", bad)
		assert.Error(t, err, "%+v", bad)
	}
	_ = other
}

func TestFiltersCombine(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Stock(t, made.Variants[0].ID, "5", "40") // under cost
	s.Simple(t, "Whistle", "counted", "4.00")
	_, err := catalog.MakeProduct(ctx, s.Shop, s.Maren, "", catalog.NewProduct{Name: "Lesson", Category: "Services", TaxClass: 1, Tracking: "not stocked"})
	require.NoError(t, err)
	q := s.Store.Read(ctx)
	d := func(text string) *decimal.Decimal { v := decimal.RequireFromString(text); return &v }
	for name, c := range map[string]struct {
		filter   goods.ListFilter
		products int
		variants int
	}{
		"all": {goods.ListFilter{}, 3, 8}, "words": {goods.ListFilter{Words: "rash coral m"}, 1, 1}, "words of two": {goods.ListFilter{Words: "tide sla"}, 1, 3}, "value": {goods.ListFilter{Value: "Coral"}, 1, 3}, "price": {goods.ListFilter{PriceFrom: d("36"), PriceTo: d("37")}, 1, 2},
		"stock": {goods.ListFilter{StockFrom: d("1")}, 1, 1}, "under cost": {goods.ListFilter{UnderCost: true}, 1, 1}, "margin": {goods.ListFilter{MarginTo: d("-1")}, 1, 1}, "no price": {goods.ListFilter{NoPrice: true}, 1, 1}, "no barcode": {goods.ListFilter{NoBarcode: true}, 0, 0},
		"no picture": {goods.ListFilter{NoPicture: true}, 3, 8}, "tracking": {goods.ListFilter{Tracking: "not stocked"}, 1, 1}, "barcode": {goods.ListFilter{Words: made.Variants[1].Barcode}, 1, 1}, "category": {goods.ListFilter{Category: 1}, 2, 7}, "none of both": {goods.ListFilter{Words: "whistle", Value: "Coral"}, 0, 0},
	} {
		for _, sort := range []string{"", "-price", "margin", "-on_hand", "value", "category", "supplier", "created", "sku", "brand", "for_sale"} {
			c.filter.Sort = sort
			products, err := goods.ProductIDs(q, c.filter, 0, 100)
			require.NoError(t, err, "%s by %s", name, sort)
			assert.Len(t, products, c.products, "%s by %s", name, sort)
			variants, err := goods.VariantIDs(q, c.filter, 0, 100)
			require.NoError(t, err, "%s by %s", name, sort)
			assert.Len(t, variants, c.variants, "%s by %s", name, sort)
		}
	}
	_, err = goods.ProductIDs(q, goods.ListFilter{Sort: "mood"}, 0, 1)
	assert.Error(t, err)
	_, err = catalog.SaveView(ctx, s.Shop, s.Tobi, catalog.ViewInput{Name: "Vests", Query: "?q=vest"})
	require.NoError(t, err)
	views, err := lists.SavedViews(q, s.Tobi.ID)
	require.NoError(t, err)
	require.Len(t, views, 1)
	_, err = catalog.DropView(ctx, s.Shop, s.Maren, views[0].ID)
	require.NoError(t, err)
	views, _ = lists.SavedViews(q, s.Tobi.ID)
	assert.Len(t, views, 1, "a view is its owner's")
}

// shot draws a picture of a size.
func shot(w, h int, alpha uint8) image.Image {
	picture := image.NewNRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			picture.Set(x, y, color.NRGBA{uint8(x), uint8(y), 90, alpha})
		}
	}
	return picture
}

func TestPicturesAreCheckedAndCleaned(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	var plain bytes.Buffer
	require.NoError(t, jpeg.Encode(&plain, shot(80, 40, 255), nil))
	// the same with a place in it, turned a quarter
	exif := []byte("\xff\xe1\x00\x40Exif\x00\x00II*\x00\x08\x00\x00\x00\x01\x00\x12\x01\x03\x00\x01\x00\x00\x00\x06\x00\x00\x00\x00\x00\x00\x00GPS 54.1 N 2.9 W, quay, by the second bollard")
	exif[3] = byte(len(exif) - 2)
	placed := append(append(append([]byte{}, plain.Bytes()[:2]...), exif...), plain.Bytes()[2:]...)
	done, err := catalog.AddPicture(ctx, s.Shop, s.Maren, "", made.ID, "vest.jpg", placed)
	require.NoError(t, err)
	p, err := goods.ReadPicture(s.Store.Read(ctx), done.ID, false)
	require.NoError(t, err)
	assert.Equal(t, []any{"jpeg", 40, 80}, []any{p.Type, p.Width, p.Height}, "it stands upright")
	assert.NotContains(t, string(p.Data), "bollard", "where it was taken is gone")
	var holes bytes.Buffer
	require.NoError(t, png.Encode(&holes, shot(2000, 900, 90)))
	second, err := catalog.AddPicture(ctx, s.Shop, s.Maren, "", made.ID, "vest.png", holes.Bytes())
	require.NoError(t, err)
	p, err = goods.ReadPicture(s.Store.Read(ctx), second.ID, false)
	require.NoError(t, err)
	assert.Equal(t, []any{"png", 1600, 720}, []any{p.Type, p.Width, p.Height})
	small, err := goods.ReadPicture(s.Store.Read(ctx), second.ID, true)
	require.NoError(t, err)
	assert.Equal(t, []any{320, 144}, []any{small.SmallWidth, small.SmallHeight})
	again, err := catalog.AddPicture(ctx, s.Shop, s.Maren, "", made.ID, "again.jpg", placed)
	require.NoError(t, err)
	assert.Equal(t, done.ID, again.ID, "the same picture is kept once")
	_, err = catalog.ChangePicture(ctx, s.Shop, s.Maren, made.ID, second.ID, catalog.PictureChange{Do: "lead"})
	require.NoError(t, err)
	assert.Equal(t, second.ID, *view(t, s, made.ID).PictureID)
	_, err = catalog.ChangePicture(ctx, s.Shop, s.Maren, made.ID, second.ID, catalog.PictureChange{Do: "drop"})
	require.NoError(t, err)
	assert.Equal(t, done.ID, *view(t, s, made.ID).PictureID)
	_, err = catalog.ChangePicture(ctx, s.Shop, s.Maren, made.ID, done.ID, catalog.PictureChange{Do: "variant", Variant: made.Variants[1].ID})
	require.NoError(t, err)

	// 300 megapixels in a few bytes: the head of a PNG says so, and it is not drawn
	huge := append([]byte{}, holes.Bytes()...)
	copy(huge[16:24], []byte{0, 0, 0x4e, 0x20, 0, 0, 0x3a, 0x98}) // 20,000 × 15,000
	fixCRC(huge)
	for name, c := range map[string]struct {
		data []byte
		says string
	}{"huge.png": {huge, "300 megapixels"}, "text.jpg": {[]byte("not a picture"), "not a picture"}, "half.jpg": {plain.Bytes()[:len(plain.Bytes())-40], "broken"}, "big.jpg": {make([]byte, catalog.MostPicture+1), "20 MB"}} {
		_, err := catalog.AddPicture(ctx, s.Shop, s.Maren, "", made.ID, name, c.data)
		require.Error(t, err, name)
		assert.Contains(t, err.Error(), c.says, name)
	}
}

func TestLabelsSayWhatTheyAreAskedFor(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	_, err := prices.SetPrices(ctx, s.Shop, s.Maren, "", made.ID, prices.PriceChange{Price: "29.95"})
	require.NoError(t, err)
	text := func(in labels.LabelRequest) string {
		sheet, err := labels.Labels(ctx, s.Shop, s.Tobi, in)
		require.NoError(t, err)
		all := ""
		for _, shape := range sheet.Pages[0].Shapes {
			all += shape.Text + "|"
		}
		return all
	}
	one := []labels.LabelWish{{Variant: made.Variants[0].ID, Copies: 1, Lot: "K614", Expiry: "2027-06-30", Serial: "BW1"}}
	shelf := text(labels.LabelRequest{Template: "shelf-a4", Labels: one})
	assert.Contains(t, shelf, "£29.95|")
	assert.Contains(t, shelf, "£34.95|", "the former price, struck through")
	large := text(labels.LabelRequest{Template: "roll-100x50", Labels: one})
	for _, want := range []string{"Lot K614|", "Use by 30 Jun 2027|", "No. BW1|"} {
		assert.Contains(t, large, want)
	}
	club, err := prices.SavePriceList(ctx, s.Shop, s.Maren, "", 0, prices.ListInput{Name: "Club", Kind: "fixed", Amount: "25"})
	require.NoError(t, err)
	assert.Contains(t, text(labels.LabelRequest{List: club.ID, Labels: one}), "£25.00|")

	template, err := labels.LabelTemplate(ctx, s.Shop, "a4-40x25")
	require.NoError(t, err)
	template.Name = "Ours"
	template.Fields = append(template.Fields[:3:3], label.Field{Kind: label.Barcode, X: 0, Y: 9, W: 20, H: 15})
	page, remarks, err := labels.Design(ctx, s.Shop, s.Maren, template, made.Variants[0].ID)
	require.NoError(t, err)
	assert.NotEmpty(t, page.Shapes)
	assert.Contains(t, strings.Join(remarks, " "), "too small", "said in words while it is designed")
	kept, err := labels.SaveLabelTemplate(ctx, s.Shop, s.Maren, "k", "new", template)
	require.NoError(t, err)
	assert.Equal(t, "own-1", kept.Code)
	_, err = labels.Labels(ctx, s.Shop, s.Tobi, labels.LabelRequest{Template: "own-1", Labels: one})
	assert.ErrorContains(t, err, "too small")
	_, err = labels.SaveLabelTemplate(ctx, s.Shop, s.Maren, "", "new", template)
	assert.True(t, fault.Is(err, fault.Conflict), "a name of its own")
	_, err = labels.DropLabelTemplate(ctx, s.Shop, s.Maren, "a4-40x25")
	assert.True(t, fault.Is(err, fault.Refused))
	_, err = labels.DropLabelTemplate(ctx, s.Shop, s.Maren, "own-1")
	require.NoError(t, err)
	for _, bad := range []labels.LabelRequest{{Template: "x", Labels: one}, {Labels: one, Skip: 55}, {Labels: []labels.LabelWish{{Variant: made.Variants[0].ID, Copies: 1, Expiry: "soon"}}}, {}} {
		_, err := labels.Labels(ctx, s.Shop, s.Tobi, bad)
		assert.Error(t, err, "%+v", bad)
	}
}

func TestTheFirstStart(t *testing.T) {
	s := testkit.Bare(t)
	empty, err := office.IsEmpty(ctx, s.Shop)
	require.NoError(t, err)
	assert.True(t, empty)
	start := office.FirstStart{Name: "Saltmarsh", Currency: "EUR", WithoutTax: true, Branch: "Quay Shop", Manager: "Maren Holt", Login: "maren", Password: testkit.Password, Taxes: []office.FirstTax{{Name: "Standard", Percent: "19"}, {}, {Name: "Zero", Percent: "0"}}}
	for field, spoil := range map[string]func(f *office.FirstStart){"name": func(f *office.FirstStart) { f.Name = " " }, "currency": func(f *office.FirstStart) { f.Currency = "XTS" }, "barcode_prefix": func(f *office.FirstStart) { f.Prefix = "50" }, "zone": func(f *office.FirstStart) { f.Zone = "Mars" },
		"branch": func(f *office.FirstStart) { f.Branch = "" }, "password": func(f *office.FirstStart) { f.Password = "short" }, "login": func(f *office.FirstStart) { f.Login = "two words" }, "taxes": func(f *office.FirstStart) { f.Taxes = nil }, "costing": func(f *office.FirstStart) { f.Costing = "guess" }, "manager": func(f *office.FirstStart) { f.Manager = "" }} {
		bad := start
		spoil(&bad)
		_, err := office.Begin(ctx, s.Shop, bad)
		require.Error(t, err, field)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	var wait sync.WaitGroup
	var mutex sync.Mutex
	opened := 0
	for range 6 { // several people press it at once
		wait.Add(1)
		go func() {
			defer wait.Done()
			if _, err := office.Begin(context.Background(), s.Shop, start); err == nil {
				mutex.Lock()
				opened++
				mutex.Unlock()
			} else {
				assert.NotNil(t, fault.Of(err), err)
			}
		}()
	}
	wait.Wait()
	assert.Equal(t, 1, opened)
	who, err := office.SignIn(ctx, s.Shop, "maren", testkit.Password)
	require.NoError(t, err)
	settings, err := office.ReadSettings(ctx, s.Shop, who)
	require.NoError(t, err)
	assert.Equal(t, []string{"EUR", "without tax", "moving average", "20"}, []string{settings.Currency, settings.Prices, settings.Costing, settings.Ranges[0].Prefix})
	assert.Equal(t, "€", s.Terms(t).Currency.Symbol)
	_, err = prices.SetTaxRate(ctx, s.Shop, who, "", 1, prices.RateInput{Percent: "21", From: s.Now().AddDate(0, 1, 0).Format(time.DateOnly)})
	require.NoError(t, err)
	for _, bad := range []prices.RateInput{{Percent: "21", From: "2001-01-01"}, {Percent: "x"}, {Percent: "101"}} {
		_, err = prices.SetTaxRate(ctx, s.Shop, who, "", 1, bad)
		assert.Error(t, err, fmt.Sprint(bad))
	}
}
