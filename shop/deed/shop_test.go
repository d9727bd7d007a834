package deed_test

import (
	"context"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/device"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/counts"
	"itemrack/shop/labels"
	"itemrack/shop/lists"
	"itemrack/shop/office"
	"itemrack/shop/prices"
	"itemrack/shop/register"
	"itemrack/shop/reports"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	"itemrack/store/devices"
	"itemrack/store/goods"
	"itemrack/store/trade"
)

var ctx = context.Background()

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

func TestMakeAProductAndAddAColour(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	require.Len(t, made.Variants, 6)
	assert.Equal(t, "TWV-COR-S", made.Variants[0].SKU)
	assert.Equal(t, "2000000000015", made.Variants[0].Barcode)
	view, err := goods.ReadProduct(s.Store.Read(ctx), made.ID, 1, s.Now())
	require.NoError(t, err)
	assert.Equal(t, "34.95", view.Variants[0].Price.StringFixed(2))
	assert.Equal(t, "36.95", view.Variants[2].Price.StringFixed(2))

	more, err := catalog.AddValues(ctx, s.Shop, s.Maren, "", made.ID, catalog.Extension{Axes: []catalog.AxisInput{{Name: "Colour", Values: []catalog.ValueInput{{Name: "Kelp", Swatch: "#3F6B4F"}}}}, LeftOut: [][]string{{"Kelp", "S"}}})
	require.NoError(t, err)
	require.Len(t, more.Variants, 2)
	assert.Equal(t, "TWV-KEL-M", more.Variants[0].SKU)
	more, err = catalog.AddValues(ctx, s.Shop, s.Maren, "", made.ID, catalog.Extension{Axes: []catalog.AxisInput{{Name: "Size", Values: []catalog.ValueInput{{Name: "XL"}}}}})
	require.NoError(t, err)
	assert.Len(t, more.Variants, 3, "the cell left out before stays left out")

	_, err = catalog.AddValues(ctx, s.Shop, s.Maren, "", made.ID, catalog.Extension{Axes: []catalog.AxisInput{{Name: "Size", Values: []catalog.ValueInput{{Name: "xl"}}}}})
	assert.ErrorContains(t, err, "twice")
	_, err = catalog.AddValues(ctx, s.Shop, s.Maren, "", made.ID, catalog.Extension{Axes: []catalog.AxisInput{{Name: "Length", Values: []catalog.ValueInput{{Name: "Long"}}}}})
	assert.ErrorContains(t, err, "does not vary")

	result, err := prices.SetPrices(ctx, s.Shop, s.Maren, "", made.ID, prices.PriceChange{Price: "35.95"})
	require.NoError(t, err)
	assert.Len(t, result.Own, 2, "those with a price of their own are listed")
	assert.Len(t, result.Follow, 9)
	s.InStep(t)
}

func TestMakeProductRefuses(t *testing.T) {
	s := testkit.New(t)
	s.Vest(t)
	good := catalog.NewProduct{Name: "Thing", Category: "Swim", TaxClass: 1, Tracking: "counted", Price: "1.00"}
	for field, spoil := range map[string]func(*catalog.NewProduct){
		"name":         func(p *catalog.NewProduct) { p.Name = " " },
		"price":        func(p *catalog.NewProduct) { p.Price = "1,5x" },
		"category":     func(p *catalog.NewProduct) { p.Category = " > " },
		"tax_class_id": func(p *catalog.NewProduct) { p.TaxClass = 99 },
		"tracking":     func(p *catalog.NewProduct) { p.Tracking = "loosely" },
		"unit":         func(p *catalog.NewProduct) { p.Unit = "yard" },
		"sku_pattern":  func(p *catalog.NewProduct) { p.SKUPattern = "{colour}" },
	} {
		bad := good
		spoil(&bad)
		_, err := catalog.MakeProduct(ctx, s.Shop, s.Maren, "", bad)
		require.Error(t, err, field)
		require.NotNil(t, fault.Of(err), field)
		assert.Equal(t, field, fault.Of(err).Field)
		assert.NotEmpty(t, fault.Of(err).Want)
	}
	good.Name = "tidewater RASH vest"
	_, err := catalog.MakeProduct(ctx, s.Shop, s.Maren, "", good)
	assert.True(t, fault.Is(err, fault.Conflict))
	_, err = catalog.MakeProduct(ctx, s.Shop, s.Tobi, "", good)
	assert.True(t, fault.Is(err, fault.Forbidden))
}

// TestTheWholePath does the shop's cycle and holds each figure.
func TestTheWholePath(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	m := made.Variants[1]
	delivery := s.Receive(t, buying.DeliveryInput{SupplierNumber: "K-77", Lines: []scan.GoodsLine{{Variant: m.ID, Quantity: "10", Cost: "20"}}})
	assert.Equal(t, "D-0001", delivery.Number)
	s.Receive(t, buying.DeliveryInput{Extra: "5.00", Lines: []scan.GoodsLine{{Variant: m.ID, Quantity: "5", Cost: "26"}}})
	s.Open(t, 1)
	basket, err := register.AddToBasket(ctx, s.Shop, s.Tobi, "", 1, register.BasketAdd{Code: m.Barcode})
	require.NoError(t, err)
	basket, err = register.AddToBasket(ctx, s.Shop, s.Tobi, "", 1, register.BasketAdd{Code: "3 x " + m.SKU})
	require.NoError(t, err)
	require.Len(t, basket.Lines, 1)
	assert.Equal(t, "139.80", basket.Totals.Gross.StringFixed(2))
	done, err := register.Sell(ctx, s.Shop, s.Tobi, "pay-1", register.SaleInput{Register: 1, Basket: basket.ID, Cash: "150"})
	require.NoError(t, err)
	assert.Equal(t, "Q1-00001", done.Number)
	assert.Equal(t, "10.20", done.Change.StringFixed(2))
	again, err := register.Sell(ctx, s.Shop, s.Tobi, "pay-1", register.SaleInput{Register: 1, Basket: basket.ID, Cash: "150"})
	require.NoError(t, err)
	assert.Equal(t, done.Number, again.Number, "a repeated request gets the first answer")
	_, err = register.Sell(ctx, s.Shop, s.Tobi, "pay-2", register.SaleInput{Register: 1, Basket: basket.ID, Cash: "150"})
	assert.True(t, fault.Is(err, fault.Conflict), "the basket is gone")

	sold, err := trade.SaleByNumber(s.Store.Read(ctx), done.Number)
	require.NoError(t, err)
	assert.Equal(t, "89.33", sold.Lines[0].Cost.StringFixed(2))
	back, err := register.TakeBack(ctx, s.Shop, s.Tobi, "", register.ReturnInput{Register: 1, Sale: "q1-00001", Lines: []register.ReturnLineInput{{Line: 1, Quantity: "1"}}})
	require.NoError(t, err)
	assert.Equal(t, "Q1-R0001", back.Number)
	assert.Equal(t, "34.95", back.Cash.StringFixed(2))
	held, err := book.Look(s.Store.Read(ctx), []uint64{m.ID})
	require.NoError(t, err)
	assert.Equal(t, "268.00", held.Pools[m.ID].Value.StringFixed(2), "245.67 and the 22.33 at which it went out")
	assert.Equal(t, "11", held.ForSale()[m.ID].String(), "what is to check is not available")
	_, err = stockroom.ChangeCondition(ctx, s.Shop, s.Tobi, "", stockroom.ChangeInput{Variant: m.ID, Branch: 1, From: "To look over", To: "For sale", Quantity: "1"})
	require.NoError(t, err)
	held, err = book.Look(s.Store.Read(ctx), []uint64{m.ID})
	require.NoError(t, err)
	assert.Equal(t, "12", held.ForSale()[m.ID].String())
	assert.Equal(t, "268.00", held.Pools[m.ID].Value.StringFixed(2))

	for figure, want := range map[string]string{reports.FigureOnHand: "12", reports.FigureAvailable: "12", reports.FigureAverage: "£22.3333"} {
		e, err := reports.Explain(ctx, s.Shop, s.Tobi, m.ID, figure)
		require.NoError(t, err)
		assert.Equal(t, want, e.Amount, figure)
		assert.NotEmpty(t, e.Parts)
		assert.NotEmpty(t, e.Latest[0].Number)
	}
	s.InStep(t)
}

func TestCountWhileSelling(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	a, b, c := made.Variants[0], made.Variants[1], made.Variants[2]
	s.Stock(t, a.ID, "20", "10")
	s.Stock(t, b.ID, "5", "10")
	s.Stock(t, c.ID, "4", "10")
	s.Open(t, 1)
	plan, err := counts.PlanCount(ctx, s.Shop, s.Callum, "", counts.CountPlan{Branch: 1, Category: 1})
	require.NoError(t, err)
	assert.Equal(t, 6, plan.Rows)
	_, err = counts.PlanCount(ctx, s.Shop, s.Callum, "", counts.CountPlan{Branch: 1, Category: 2})
	assert.ErrorContains(t, err, "being counted at this branch already, in SC-0001")

	_, err = counts.Count(ctx, s.Shop, s.Callum, "", plan.ID, counts.CountInput{Variant: a.ID, Quantity: "18"})
	require.NoError(t, err)
	s.Sold(t, a.ID, "3")
	for i := 1; i <= 5; i++ {
		got, err := counts.Count(ctx, s.Shop, s.Callum, "", plan.ID, counts.CountInput{Code: b.Barcode})
		require.NoError(t, err)
		assert.Equal(t, int64(i), got.Counted.IntPart())
	}
	got, err := counts.Count(ctx, s.Shop, s.Callum, "", plan.ID, counts.CountInput{Code: "3 x " + b.Barcode})
	require.NoError(t, err)
	_, err = counts.Strike(ctx, s.Shop, s.Callum, "", plan.ID, got.Event)
	require.NoError(t, err)
	_, err = counts.Strike(ctx, s.Shop, s.Callum, "", plan.ID, got.Event)
	assert.True(t, fault.Is(err, fault.Conflict))
	_, err = counts.Count(ctx, s.Shop, s.Callum, "", plan.ID, counts.CountInput{Variant: c.ID, Quantity: "6"})
	require.NoError(t, err)

	_, err = counts.MoveCount(ctx, s.Shop, s.Callum, "", plan.ID, count.Settling)
	require.NoError(t, err)
	_, err = counts.Count(ctx, s.Shop, s.Callum, "", plan.ID, counts.CountInput{Variant: c.ID, Quantity: "1"})
	assert.ErrorContains(t, err, "nothing more can be counted")
	_, err = counts.SettleCount(ctx, s.Shop, s.Callum, "", plan.ID, counts.SettleInput{})
	assert.Equal(t, "uncounted", fault.Of(err).Field)
	_, err = counts.SettleCount(ctx, s.Shop, s.Tobi, "", plan.ID, counts.SettleInput{Uncounted: "leave"})
	assert.True(t, fault.Is(err, fault.Forbidden))
	done, err := counts.SettleCount(ctx, s.Shop, s.Callum, "", plan.ID, counts.SettleInput{Uncounted: "leave"})
	require.NoError(t, err)
	_, err = counts.SettleCount(ctx, s.Shop, s.Callum, "", plan.ID, counts.SettleInput{Uncounted: "leave"})
	assert.ErrorContains(t, err, "nothing was posted twice")

	held, err := book.Look(s.Store.Read(ctx), []uint64{a.ID, b.ID, c.ID})
	require.NoError(t, err)
	assert.Equal(t, []string{"15", "5", "6"}, []string{held.ForSale()[a.ID].String(), held.ForSale()[b.ID].String(), held.ForSale()[c.ID].String()})
	figures, err := counts.CountStands(ctx, s.Shop, plan.ID)
	require.NoError(t, err)
	assert.Equal(t, "-20.00", figures.Rows[0].Value.StringFixed(2))
	assert.Equal(t, "loss", figures.Rows[0].Reason)
	assert.Equal(t, "found", figures.Rows[2].Reason)
	assert.False(t, figures.Rows[3].Counted, "blank is not zero")
	s.InStep(t)

	_, err = stockroom.Reverse(ctx, s.Shop, s.Maren, "", done.Number, "counted the wrong wall")
	require.NoError(t, err)
	held, err = book.Look(s.Store.Read(ctx), []uint64{a.ID, c.ID})
	require.NoError(t, err)
	assert.Equal(t, []string{"17", "4"}, []string{held.ForSale()[a.ID].String(), held.ForSale()[c.ID].String()})
	s.InStep(t)
}

func TestSerialNumbersThroughTheShop(t *testing.T) {
	s := testkit.New(t)
	board := s.Simple(t, "Brackwater 10′6 board", "serial", "549.00")
	draft, err := buying.SaveDelivery(ctx, s.Shop, s.Callum, "", 0, buying.DeliveryInput{Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: board, Quantity: "3", Cost: "310", Serials: "ab 1, AB2"}}})
	require.NoError(t, err)
	_, err = buying.PostDelivery(ctx, s.Shop, s.Callum, "", draft.ID)
	require.ErrorContains(t, err, "3 units need 3 serial numbers", "three delivered, two numbers typed")
	_, err = buying.SaveDelivery(ctx, s.Shop, s.Callum, "", draft.ID, buying.DeliveryInput{Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: board, Quantity: "3", Cost: "310", Serials: "ab 1, AB2\nAB3"}}})
	require.NoError(t, err)
	_, err = buying.PostDelivery(ctx, s.Shop, s.Callum, "", draft.ID)
	require.NoError(t, err)
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: board, Quantity: "1", Cost: "325", Serials: "AB4"}}})
	s.Open(t, 1)
	basket, err := register.AddToBasket(ctx, s.Shop, s.Tobi, "", 1, register.BasketAdd{Code: "ab4"})
	require.NoError(t, err)
	assert.Equal(t, []string{"AB4"}, basket.Lines[0].Serials)
	_, err = register.AddToBasket(ctx, s.Shop, s.Tobi, "", 1, register.BasketAdd{Code: "AB4"})
	assert.ErrorContains(t, err, "on the basket already")
	basket, err = register.AddToBasket(ctx, s.Shop, s.Tobi, "", 1, register.BasketAdd{Variant: board})
	require.NoError(t, err)
	assert.Equal(t, "Choose its serial number.", basket.Lines[1].Short)
	assert.Equal(t, []string{"AB1", "AB2", "AB3", "AB4"}, basket.Lines[1].Choices)
	_, err = register.Sell(ctx, s.Shop, s.Tobi, "", register.SaleInput{Register: 1, Basket: basket.ID, Cash: "2000"})
	assert.ErrorContains(t, err, "choose a serial number")
	one := "AB1"
	_, err = register.ChangeBasketLine(ctx, s.Shop, s.Tobi, "", 1, basket.Lines[1].ID, register.BasketChange{Serial: &one})
	require.NoError(t, err)
	done, err := register.Sell(ctx, s.Shop, s.Tobi, "", register.SaleInput{Register: 1, Basket: basket.ID, Cash: "2000"})
	require.NoError(t, err)
	sold, err := trade.SaleByNumber(s.Store.Read(ctx), done.Number)
	require.NoError(t, err)
	assert.Equal(t, []string{"325.00", "310.00"}, []string{sold.Lines[0].Cost.StringFixed(2), sold.Lines[1].Cost.StringFixed(2)})
	_, err = register.TakeBack(ctx, s.Shop, s.Tobi, "", register.ReturnInput{Register: 1, Sale: done.Number, Lines: []register.ReturnLineInput{{Line: 1, Quantity: "1", Serials: "AB2"}}})
	assert.ErrorContains(t, err, "was not sold on this line")
	_, err = register.TakeBack(ctx, s.Shop, s.Tobi, "", register.ReturnInput{Register: 1, Sale: done.Number, Lines: []register.ReturnLineInput{{Line: 1, Quantity: "1"}}})
	require.NoError(t, err)
	units, err := book.Units(s.Store.Read(ctx), board, 10)
	require.NoError(t, err)
	states := map[string]string{}
	for _, u := range units {
		states[u.Number] = u.State + " " + u.Condition
	}
	assert.Equal(t, map[string]string{"AB1": "sold For sale", "AB2": "in stock For sale", "AB3": "in stock For sale", "AB4": "in stock To look over"}, states)
	s.InStep(t)

	plan, err := counts.PlanCount(ctx, s.Shop, s.Callum, "", counts.CountPlan{Branch: 1, Category: 1})
	require.NoError(t, err)
	_, err = counts.Count(ctx, s.Shop, s.Callum, "", plan.ID, counts.CountInput{Code: "ab2"})
	require.NoError(t, err)
	_, err = counts.Count(ctx, s.Shop, s.Callum, "", plan.ID, counts.CountInput{Code: "AB2"})
	assert.ErrorContains(t, err, "counted already")
	figures, err := counts.CountStands(ctx, s.Shop, plan.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"AB3"}, figures.Rows[0].Missing)
	_, err = counts.SettleCount(ctx, s.Shop, s.Callum, "", plan.ID, counts.SettleInput{Uncounted: "leave"})
	require.NoError(t, err)
	s.InStep(t)
}

func TestLotsThroughTheShop(t *testing.T) {
	s := testkit.New(t)
	cream := s.Simple(t, "Sun cream SPF 50", "lot", "14.50")
	line := func(q, lot, expiry string) buying.DeliveryInput {
		return buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: cream, Quantity: q, Cost: "6", Lot: lot, Expiry: expiry}}}
	}
	s.Receive(t, line("50", "K615", "2027-04-30"))
	s.Receive(t, line("32", "K614", "2026-12-31"))
	at := s.At(time.Date(2026, 12, 31, 23, 0, 0, 0, time.UTC))
	s.Open(t, 1)
	done, err := register.Sell(ctx, at, s.Tobi, "", register.SaleInput{Register: 1, Lines: []register.SaleLineInput{{Variant: cream, Quantity: "45"}}, Cash: "1000"})
	require.NoError(t, err)
	held, err := book.Look(s.Store.Read(ctx), []uint64{cream})
	require.NoError(t, err)
	assert.Equal(t, "37", held.ForSale()[cream].String())
	back, err := register.TakeBack(ctx, at, s.Tobi, "", register.ReturnInput{Register: 1, Sale: done.Number, Lines: []register.ReturnLineInput{{Line: 1, Quantity: "40"}}})
	require.NoError(t, err)
	assert.Equal(t, "580.00", back.Amount.StringFixed(2))
	places, err := book.Places(s.Store.Read(ctx), cream)
	require.NoError(t, err)
	toCheck := map[string]string{}
	for _, p := range places {
		if p.Condition == "To look over" {
			toCheck[p.Lot] = p.Quantity.String()
		}
	}
	assert.Equal(t, map[string]string{"K614": "32", "K615": "8"}, toCheck)
	later := s.At(time.Date(2027, 1, 1, 12, 0, 0, 0, time.UTC))
	_, err = stockroom.ChangeCondition(ctx, later, s.Tobi, "", stockroom.ChangeInput{Variant: cream, Branch: 1, Lot: 2, From: "To look over", To: "For sale", Quantity: "1"})
	assert.ErrorContains(t, err, "past its expiry")
	_, err = register.TakeBack(ctx, later, s.Tobi, "", register.ReturnInput{Register: 1, Sale: done.Number, Lines: []register.ReturnLineInput{{Line: 1, Quantity: "5", Condition: "For sale"}}})
	require.NoError(t, err, "the later lot may go back for sale")
	s.InStep(t)
}

func TestDeliveryEdges(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Receive(t, buying.DeliveryInput{SupplierNumber: "INV-9", CostsIncludeTax: true, Lines: []scan.GoodsLine{{Variant: v, Quantity: "12", Cost: "25.20"}}})
	held, err := book.Look(s.Store.Read(ctx), []uint64{v})
	require.NoError(t, err)
	assert.Equal(t, "252.00", held.Pools[v].Value.StringFixed(2))
	draft, err := buying.SaveDelivery(ctx, s.Shop, s.Callum, "", 0, buying.DeliveryInput{Supplier: 1, Branch: 1, SupplierNumber: "inv-9", Lines: []scan.GoodsLine{{Variant: v, Quantity: "12", Cost: "1"}}})
	require.NoError(t, err)
	_, err = buying.PostDelivery(ctx, s.Shop, s.Callum, "", draft.ID)
	require.ErrorContains(t, err, "entered already, as D-0001")
	require.NoError(t, buying.DropDelivery(ctx, s.Shop, s.Callum, draft.ID))
	_, err = buying.PostDelivery(ctx, s.Shop, s.Callum, "", draft.ID)
	assert.True(t, fault.Is(err, fault.NotFound))

	for field, in := range map[string]buying.DeliveryInput{
		"supplier_id": {Supplier: 99, Branch: 1}, "branch_id": {Supplier: 1, Branch: 99}, "extra": {Supplier: 1, Branch: 1, Extra: "x"}, "spread": {Supplier: 1, Branch: 1, Spread: "mood"},
		"lines.0.quantity": {Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: v, Quantity: "1.5"}}}, "lines.0.cost": {Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: v, Quantity: "1", Cost: "-2"}}},
		"lines.0.lot": {Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: v, Quantity: "1", Lot: "K1"}}}, "lines.0.expiry": {Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: v, Quantity: "1", Expiry: "soon"}}},
	} {
		_, err := buying.SaveDelivery(ctx, s.Shop, s.Callum, "", 0, in)
		require.Error(t, err, field)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	empty, err := buying.SaveDelivery(ctx, s.Shop, s.Callum, "", 0, buying.DeliveryInput{Supplier: 1, Branch: 1})
	require.NoError(t, err)
	_, err = buying.PostDelivery(ctx, s.Shop, s.Callum, "", empty.ID)
	assert.ErrorContains(t, err, "no goods")

	s.Open(t, 1)
	s.Sold(t, v, "4")
	_, err = stockroom.Reverse(ctx, s.Shop, s.Maren, "", "D-0001", "")
	assert.True(t, fault.Is(err, fault.Refused), "10 of 12 can't go back when 4 are sold")
	other := s.Simple(t, "Leash", "counted", "9.00")
	posted := s.Receive(t, buying.DeliveryInput{SupplierNumber: "INV-10", Lines: []scan.GoodsLine{{Variant: other, Quantity: "2", Cost: "3"}}})
	_, err = stockroom.Reverse(ctx, s.Shop, s.Maren, "", posted.Number, "")
	require.NoError(t, err)
	_, err = stockroom.Reverse(ctx, s.Shop, s.Maren, "", posted.Number, "")
	assert.ErrorContains(t, err, "reversed already")
	s.Receive(t, buying.DeliveryInput{SupplierNumber: "INV-10", Lines: []scan.GoodsLine{{Variant: other, Quantity: "2", Cost: "3"}}})
	s.InStep(t)
}

func TestCardTerminalAndPrinter(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "5", "1")
	s.Open(t, 1)
	set := func(name, state string) {
		_, err := office.SetDevice(ctx, s.Shop, s.Tobi, name, state)
		require.NoError(t, err)
	}
	in := register.SaleInput{Register: 1, Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}, Card: "4.00"}
	set(device.CardTerminal, device.Declines)
	_, err := register.Sell(ctx, s.Shop, s.Tobi, "c1", in)
	assert.ErrorContains(t, err, "declined")
	set(device.CardTerminal, device.NoAnswer)
	_, err = register.Sell(ctx, s.Shop, s.Tobi, "c1", in)
	assert.ErrorContains(t, err, "no answer")
	set(device.CardTerminal, device.Ready)
	set(device.ReceiptPrinter, device.OutOfPaper)
	done, err := register.Sell(ctx, s.Shop, s.Tobi, "c1", in)
	require.NoError(t, err)
	assert.Contains(t, done.Printer, "out of paper", "the sale stands")
	assert.ErrorContains(t, register.Reprint(ctx, s.Shop, s.Tobi, done.Number), "out of paper")
	set(device.ReceiptPrinter, device.Ready)
	require.NoError(t, register.Reprint(ctx, s.Shop, s.Tobi, done.Number))
	papers, err := office.Papers(ctx, s.Shop, 5)
	require.NoError(t, err)
	require.Len(t, papers, 1)
	_, err = register.Sell(ctx, s.Shop, s.Tobi, "", in)
	assert.Equal(t, "Idempotency-Key", fault.Of(err).Field)

	in.Lines[0].Quantity, in.Card = "9", "36.00"
	_, err = register.Sell(ctx, s.Shop, s.Tobi, "c2", in)
	assert.True(t, fault.Is(err, fault.Refused))
	state, amount, err := devices.Of(s.Store).KeepCharge(ctx, fmt.Sprintf("sale/%d/c2", s.Tobi.ID), d("0"), "x", s.Now())
	require.NoError(t, err)
	assert.Equal(t, "returned 36.00", state+" "+amount.StringFixed(2), "a refused sale gives the card its money back")

	back, err := register.TakeBack(ctx, s.Shop, s.Tobi, "", register.ReturnInput{Register: 1, Sale: done.Number, Lines: []register.ReturnLineInput{{Line: 1, Quantity: "1"}}})
	require.NoError(t, err)
	assert.Equal(t, "4.00", back.Card.StringFixed(2))
	_, err = office.SetDevice(ctx, s.Shop, s.Tobi, device.CardTerminal, "on fire")
	assert.Error(t, err)
	s.InStep(t)
}

func TestDrawer(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "5", "1")
	_, err := register.Sell(ctx, s.Shop, s.Tobi, "", register.SaleInput{Register: 1, Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}, Cash: "4"})
	assert.ErrorContains(t, err, "is not open")
	s.Open(t, 1)
	_, err = register.OpenDrawer(ctx, s.Shop, s.Tobi, "", 1, "50")
	assert.ErrorContains(t, err, "open already")
	first := s.Sold(t, v, "2")
	s.Sold(t, v, "1")
	_, err = stockroom.Reverse(ctx, s.Shop, s.Maren, "", first.Number, "rung up twice")
	require.NoError(t, err)
	_, err = register.TakeBack(ctx, s.Shop, s.Tobi, "", register.ReturnInput{Register: 1, Sale: first.Number, Lines: []register.ReturnLineInput{{Line: 1, Quantity: "1"}}})
	assert.ErrorContains(t, err, "made void")
	closing, err := register.CashUpDrawer(ctx, s.Shop, s.Tobi, "", 1, []sale.Denomination{{Value: d("50"), Count: 2}, {Value: d("1"), Count: 3}})
	require.NoError(t, err)
	assert.Equal(t, "104.00 103.00 -1.00", closing.ShouldBe.StringFixed(2)+" "+closing.Counted.StringFixed(2)+" "+closing.Difference.StringFixed(2))
	_, err = register.CashUpDrawer(ctx, s.Shop, s.Tobi, "", 1, nil)
	assert.ErrorContains(t, err, "is not open")
	_, err = stockroom.Reverse(ctx, s.Shop, s.Maren, "", "Q1-00002", "")
	assert.ErrorContains(t, err, "drawer of sale Q1-00002 is cashed up")
	s.InStep(t)
}

// TestTheBooks: buy 150 at 32.00, sell all at 55.00 with no tax.
func TestTheBooks(t *testing.T) {
	s := testkit.New(t)
	made, err := catalog.MakeProduct(ctx, s.Shop, s.Maren, "", catalog.NewProduct{Name: "Child's vest", Category: "Swim", TaxClass: 3, Supplier: "Kelpline Textiles", Tracking: "counted", Price: "55.00"})
	require.NoError(t, err)
	v := made.Variants[0].ID
	s.Stock(t, v, "150", "32")
	s.Open(t, 1)
	_, err = register.Sell(ctx, s.Shop, s.Tobi, "", register.SaleInput{Register: 1, Lines: []register.SaleLineInput{{Variant: v, Quantity: "150"}}, Cash: "8250"})
	require.NoError(t, err)
	accounts, err := book.Accounts(s.Store.Read(ctx))
	require.NoError(t, err)
	books := map[ledger.Account]string{}
	for _, a := range accounts {
		books[a.Account] = a.Amount.StringFixed(2)
	}
	assert.Equal(t, map[ledger.Account]string{ledger.Cash: "8250.00", ledger.Payable: "-4800.00", ledger.Stock: "0.00", ledger.Income: "-8250.00", ledger.CostOfSales: "4800.00"}, books)
}

func TestSixteenRegistersSellTheLastTen(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "10", "1.37")
	s.Open(t, 1)
	s.Open(t, 2)
	var wait sync.WaitGroup
	results := make([]error, 16)
	for i := range results {
		wait.Go(func() {
			_, results[i] = register.Sell(ctx, s.Shop, s.Tobi, fmt.Sprint("r", i), register.SaleInput{Register: uint64(1 + i%2), Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}, Cash: "5"})
		})
	}
	wait.Wait()
	sold, refused := 0, 0
	for _, err := range results {
		if err == nil {
			sold++
			continue
		}
		require.True(t, fault.Is(err, fault.Refused), "%v", err)
		assert.Contains(t, err.Error(), "none is For sale here")
		refused++
	}
	assert.Equal(t, []int{10, 6}, []int{sold, refused})
	s.InStep(t)
}

func TestTheSameRequestTwentyTimesAtOnce(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "1", "1")
	s.Open(t, 1)
	var wait sync.WaitGroup
	var mutex sync.Mutex
	numbers := map[string]int{}
	for range 20 {
		wait.Go(func() {
			done, err := register.Sell(ctx, s.Shop, s.Tobi, "once", register.SaleInput{Register: 1, Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}, Card: "4.00"})
			mutex.Lock()
			defer mutex.Unlock()
			if assert.NoError(t, err) {
				numbers[done.Number]++
			}
		})
	}
	wait.Wait()
	assert.Equal(t, map[string]int{"Q1-00001": 20}, numbers)
	s.InStep(t)
}

// TestManyVariantsAtOnce sells baskets of the same variants in opposite orders.
func TestManyVariantsAtOnce(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	var forward, backward []register.SaleLineInput
	for _, v := range made.Variants {
		s.Stock(t, v.ID, "100", "10")
		forward = append(forward, register.SaleLineInput{Variant: v.ID, Quantity: "1"})
		backward = append([]register.SaleLineInput{{Variant: v.ID, Quantity: "1"}}, backward...)
	}
	s.Open(t, 1)
	s.Open(t, 2)
	var wait sync.WaitGroup
	for i := range 24 {
		wait.Go(func() {
			lines := forward
			if i%2 == 1 {
				lines = backward
			}
			_, err := register.Sell(ctx, s.Shop, s.Tobi, "", register.SaleInput{Register: uint64(1 + i%2), Lines: lines, Cash: "1000"})
			assert.NoError(t, err)
		})
	}
	wait.Wait()
	s.InStep(t)
}

const stockList = `product,style,colour,swatch,size,category,supplier,tax class,sku,barcode,price,cost,opening quantity,restock level
Tidewater rash vest,TWV,Coral,#D9604C,S,Swim > Rash vests,Kelpline Textiles,Standard,,00123,34.95,13.95,6,4
Tidewater rash vest,TWV,Coral,#D9604C,M,Swim > Rash vests,Kelpline Textiles,Standard,,,34.95,13.95,0,4
Tidewater rash vest,TWV,Kelp,,M,Swim > Rash vests,Kelpline Textiles,Standard,,,36.95,13.95,2,4
Whistle,,,,,Boathouse,,Standard,LESSON,,35.00,,,
`

func TestImport(t *testing.T) {
	s := testkit.New(t)
	load := func(text string, dry bool) lists.ListReport {
		t.Helper()
		report, err := lists.ImportList(ctx, s.Shop, s.Maren, "", strings.NewReader(text), 1, dry)
		require.NoError(t, err)
		return report
	}
	dry := load(stockList, true)
	assert.Equal(t, 4, dry.Made)
	rows, _, err := book.StockList(s.Store.Read(ctx), "", 1)
	require.NoError(t, err)
	assert.Empty(t, rows, "a dry run keeps nothing")

	report := load(stockList, false)
	assert.Equal(t, []int{4, 0, 0, 0}, []int{report.Made, report.Changed, report.Same, report.Refused})
	assert.Equal(t, "OS-0001", report.Opening)
	rows, _, err = book.StockList(s.Store.Read(ctx), "tidewater", 1)
	require.NoError(t, err)
	require.Len(t, rows, 3)
	assert.Equal(t, "83.70", rows[0].Value.StringFixed(2))
	assert.True(t, rows[1].Low, "none of a restock level of 4")
	found, err := goods.Find(s.Store.Read(ctx), "00123", 5)
	require.NoError(t, err)
	require.Len(t, found, 1)
	assert.Equal(t, "TWV-COR-S", found[0].Code)
	s.InStep(t)

	again := load(stockList, false)
	assert.Equal(t, []int{0, 0, 4, 0}, []int{again.Made, again.Changed, again.Same, again.Refused}, "the same file twice changes nothing")
	assert.Empty(t, again.Opening)

	changed := strings.Replace(stockList, "S,Swim > Rash vests,Kelpline Textiles,Standard,,00123,34.95", "S,Swim > Rash vests,Kelpline Textiles,Standard,,00123,33.95", 1) +
		"Tidewater rash vest,TWV,Sand,#D8C29A,M,Swim > Rash vests,Kelpline Textiles,Standard,,,34.95,13.95,3,4\n"
	report = load(changed, false)
	assert.Equal(t, []int{1, 1, 3, 0}, []int{report.Made, report.Changed, report.Same, report.Refused})
	assert.Equal(t, "price 34.95 → 33.95", report.Rows[0].Detail)

	head, _, _ := strings.Cut(stockList, "\n")
	bad := load(head+"\nOther,,,,,Swim,,Standard,,00123,1.00,,,\nThird,,,,,Swim,,Nonesuch,,,1.00,,,\nTidewater rash vest,,,,,Swim > Rash vests,,Standard,,,1.00,,,\n", false)
	assert.Equal(t, 3, bad.Refused)
	assert.Contains(t, bad.Rows[0].Detail, "belongs to Tidewater rash vest, Coral · S")
	assert.Contains(t, bad.Rows[1].Detail, "no tax class")
	assert.NotEmpty(t, bad.Rows[2].Detail)
	id, err := goods.ProductByName(s.Store.Read(ctx), "Other")
	require.NoError(t, err)
	assert.Zero(t, id, "one refused row keeps all from being imported")
	s.InStep(t)
}

func TestLabels(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	sheet, err := labels.Labels(ctx, s.Shop, s.Tobi, labels.LabelRequest{Labels: []labels.LabelWish{{Variant: made.Variants[0].ID, Copies: 50}, {Variant: made.Variants[2].ID, Copies: 10}}})
	require.NoError(t, err)
	assert.Len(t, sheet.Pages, 2)
	assert.Equal(t, 60, sheet.Count)
	svg := sheet.Pages[1].SVG("x")
	assert.Contains(t, svg, "£36.95")
	assert.Contains(t, svg, "Coral · L")
	_, err = labels.Labels(ctx, s.Shop, s.Tobi, labels.LabelRequest{Labels: []labels.LabelWish{{Variant: 999, Copies: 1}}})
	assert.True(t, fault.Is(err, fault.NotFound))
	_, err = labels.Labels(ctx, s.Shop, s.Tobi, labels.LabelRequest{Labels: []labels.LabelWish{{Variant: made.Variants[0].ID, Copies: -1}}})
	assert.Equal(t, "copies", fault.Of(err).Field)
}

func TestSignIn(t *testing.T) {
	s := testkit.New(t)
	who, err := office.SignIn(ctx, s.Shop, " Maren ", testkit.Password)
	require.NoError(t, err)
	assert.Equal(t, staff.Manager, who.Role)
	for _, pair := range [][2]string{{"maren", "wrong"}, {"nobody", testkit.Password}, {"", ""}} {
		_, err := office.SignIn(ctx, s.Shop, pair[0], pair[1])
		assert.True(t, fault.Is(err, fault.Forbidden))
	}
	token, err := office.MakeToken(ctx, s.Shop, who)
	require.NoError(t, err)
	same, err := office.PersonByToken(ctx, s.Shop, token)
	require.NoError(t, err)
	assert.Equal(t, who, same)
	nobody, err := office.PersonByToken(ctx, s.Shop, token+"x")
	require.NoError(t, err)
	assert.Zero(t, nobody.ID)
	for _, bad := range []office.NewPerson{{Login: "x", Name: "X", Password: "short", Role: staff.Clerk}, {Login: "x", Name: "X", Password: testkit.Password, Role: "king"}, {Login: "maren", Name: "X", Password: testkit.Password, Role: staff.Clerk, Branch: 1}} {
		_, err := office.MakePerson(ctx, s.Shop, bad)
		assert.NotNil(t, fault.Of(err))
	}
}

// TestVerifyNamesWhatIsWrong spoils one record after another behind the door's
// back, and holds that the check that should see it does.
func TestVerifyNamesWhatIsWrong(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	board := s.Simple(t, "Board", "serial", "400.00")
	s.Stock(t, v, "5", "1")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: board, Quantity: "1", Cost: "310", Serials: "A1"}}})
	s.Open(t, 1)
	s.Sold(t, v, "2")
	s.InStep(t)
	for check, spoil := range map[string][2]string{
		"every balance is the sum of its entries":                   {"UPDATE balance SET quantity = quantity + 1 WHERE variant_id = 1", "UPDATE balance SET quantity = quantity - 1 WHERE variant_id = 1"},
		"every cost pool is the sum of its entries":                 {"UPDATE cost_pool SET value = value + 0.01 WHERE variant_id = 1", "UPDATE cost_pool SET value = value - 0.01 WHERE variant_id = 1"},
		"what is for sale, and what runs low, follows the balances": {"UPDATE cost_pool SET low = 1 WHERE variant_id = 1", "UPDATE cost_pool SET low = 0 WHERE variant_id = 1"},
		"the figures after each entry run on from the one before":   {"UPDATE entry SET quantity_after = quantity_after + 1 WHERE id = 1", "UPDATE entry SET quantity_after = quantity_after - 1 WHERE id = 1"},
		"every unit in stock lies where the balances say":           {"UPDATE unit SET shelf_id = 2", "UPDATE unit SET shelf_id = 1"},
		"serial-numbered stock is worth its units' own costs":       {"UPDATE unit SET cost = cost + 1", "UPDATE unit SET cost = cost - 1"},
		"every document's postings add up to zero":                  {"UPDATE ledger_posting SET amount = amount + 1 WHERE id = 1", "UPDATE ledger_posting SET amount = amount - 1 WHERE id = 1"},
		"every sale is the sum of its lines and of what was paid":   {"UPDATE sale SET gross = gross + 1", "UPDATE sale SET gross = gross - 1"},
		"every sale's cost is what its entries took out":            {"UPDATE sale_line SET cost = cost + 1", "UPDATE sale_line SET cost = cost - 1"},
		"every drawer's cash is in the books":                       {"UPDATE sale SET change_given = change_given + 1", "UPDATE sale SET change_given = change_given - 1"},
	} {
		require.NoError(t, s.Spoil(spoil[0]))
		checks, err := book.Verify(ctx, s.Store, func(book.Check) {})
		require.NoError(t, err)
		named := ""
		for _, c := range checks {
			if c.Name == check {
				named = c.Wrong
			}
		}
		assert.NotEmpty(t, named, check)
		require.NoError(t, s.Spoil(spoil[1]))
		s.InStep(t)
	}
}
