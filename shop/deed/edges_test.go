package deed_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/count"
	"itemrack/core/fault"
	"itemrack/core/sale"
	"itemrack/core/staff"
	"itemrack/core/stock"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/counts"
	"itemrack/shop/prices"
	shopregister "itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/stockroom"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	"itemrack/store/goods"
	"itemrack/store/trade"
)

// held is what is on hand of a variant.
func held(t *testing.T, s *testkit.Shop, variant uint64) stock.Holding {
	t.Helper()
	h, err := book.Look(s.Store.Read(ctx), []uint64{variant})
	require.NoError(t, err)
	return h
}

// takeBack takes q of a line back at a register.
func takeBack(s *testkit.Shop, register uint64, number string, line int, q, condition string) (shopregister.ReturnResult, error) {
	return shopregister.TakeBack(ctx, s.Shop, s.Tobi, "", shopregister.ReturnInput{Register: register, Sale: number, Lines: []shopregister.ReturnLineInput{{Line: line, Quantity: q, Condition: condition}}})
}

func TestReturnsOneByOneAddUp(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "9.49")
	s.Stock(t, v, "7", "3.142857")
	s.Open(t, 1)
	number := s.Sold(t, v, "3").Number
	sold, err := trade.SaleByNumber(s.Store.Read(ctx), number)
	require.NoError(t, err)
	assert.Equal(t, []string{"28.47", "4.75", "9.43"}, []string{sold.Lines[0].Paid.StringFixed(2), sold.Lines[0].Tax.StringFixed(2), sold.Lines[0].Cost.StringFixed(2)})
	sum := decimal.Zero
	for range 3 {
		back, err := takeBack(s, 1, number, 1, "1", "For sale")
		require.NoError(t, err)
		sum = sum.Add(back.Amount)
	}
	assert.Equal(t, "28.47", sum.StringFixed(2))
	_, err = takeBack(s, 1, number, 1, "1", "")
	assert.ErrorContains(t, err, "have come back already")
	h := held(t, s, v)
	assert.Equal(t, "7 22.00", h.Pools[v].Quantity.String()+" "+h.Pools[v].Value.StringFixed(2), "as if nothing had been sold")
	s.InStep(t)
}

func TestReturnsThatAreRefused(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "9", "1")
	s.Open(t, 1)
	number := s.Sold(t, v, "3").Number
	for _, c := range []struct {
		sale, q, condition string
		line               int
		field, says        string
	}{
		{"Q9-99999", "1", "", 1, "sale", "no sale"},
		{number, "4", "", 1, "quantity", "3 sold"},
		{number, "1", "Lost", 1, "condition", "no condition"},
		{number, "1", "", 7, "line", "no line 7"},
		{number, "0.5", "", 1, "quantity", "whole numbers"},
		{number, "", "", 1, "lines", "how many"},
		{number, "0", "", 1, "lines", "how many"},
	} {
		_, err := takeBack(s, 1, c.sale, c.line, c.q, c.condition)
		require.Error(t, err, c.says)
		assert.Equal(t, c.field, fault.Of(err).Field)
		assert.Contains(t, err.Error(), c.says)
	}
	_, err := takeBack(s, 2, number, 1, "1", "")
	assert.ErrorContains(t, err, "is not open")
	_, err = shopregister.TakeBack(ctx, s.Shop, s.Callum, "", shopregister.ReturnInput{Register: 1, Sale: number})
	assert.True(t, fault.Is(err, fault.Forbidden))
	_, err = shopregister.TakeBack(ctx, s.Shop, s.Tobi, "", shopregister.ReturnInput{Register: 1, Sale: number, Lines: []shopregister.ReturnLineInput{{Line: 1, Quantity: "2"}, {Line: 1, Quantity: "2"}}})
	assert.ErrorContains(t, err, "2 back already", "the same line twice in one return counts twice")
	s.InStep(t)
}

func TestReturnAtAnotherBranchAtTheSalesCost(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "40.00")
	s.Stock(t, v, "5", "21.00")
	s.Open(t, 1)
	s.Open(t, 3)
	number := s.Sold(t, v, "1").Number
	s.Stock(t, v, "1", "37.00")
	back, err := takeBack(s, 3, number, 1, "1", "For sale")
	require.NoError(t, err)
	assert.Equal(t, "B1-R0001", back.Number)
	h := held(t, s, v)
	assert.Equal(t, "1", h.OnHand(v, 2, stock.ForSale).String(), "stock is there now")
	assert.Equal(t, "142.00", h.Pools[v].Value.StringFixed(2), "84.00 + 37.00 and the 21.00 at which it went out")
	s.InStep(t)
}

func TestReturnAfterTheTaxRateChanged(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "12.00")
	s.Stock(t, v, "2", "1")
	s.Open(t, 1)
	number := s.Sold(t, v, "2").Number
	require.NoError(t, s.Spoil("INSERT INTO tax_rate (tax_class_id, from_at, percent) VALUES (1, NOW() - INTERVAL 1 SECOND, 25)"))
	back, err := takeBack(s, 1, number, 1, "1", "")
	require.NoError(t, err)
	postings, err := book.Postings(s.Store.Read(ctx), back.Document)
	require.NoError(t, err)
	for _, p := range postings {
		if p.Account == "tax out" {
			assert.Equal(t, "2.00", p.Amount.StringFixed(2), "at the rate of the sale, not 2.40")
		}
	}
	s.InStep(t)
}

func TestABasketKeepsThePriceItWasScannedAt(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	m := made.Variants[1]
	s.Stock(t, m.ID, "9", "10")
	s.Open(t, 1)
	_, err := shopregister.AddToBasket(ctx, s.Shop, s.Tobi, "", 1, shopregister.BasketAdd{Code: m.Barcode})
	require.NoError(t, err)
	_, err = prices.SetPrices(ctx, s.Shop, s.Maren, "", made.ID, prices.PriceChange{Price: "44.00"})
	require.NoError(t, err)
	basket, err := shopregister.AddToBasket(ctx, s.Shop, s.Tobi, "", 1, shopregister.BasketAdd{Code: m.Barcode})
	require.NoError(t, err)
	require.Len(t, basket.Lines, 2, "the new price has a line of its own")
	assert.Equal(t, "78.95", basket.Totals.Gross.StringFixed(2))
	done, err := shopregister.Sell(ctx, s.Shop, s.Tobi, "", shopregister.SaleInput{Register: 1, Basket: basket.ID, Cash: "78.95"})
	require.NoError(t, err)
	assert.True(t, done.Change.IsZero())
	s.InStep(t)
}

func TestBasketEdges(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	m := made.Variants[1]
	s.Stock(t, m.ID, "2", "10")
	add := func(in shopregister.BasketAdd) (shopregister.BasketView, error) {
		return shopregister.AddToBasket(ctx, s.Shop, s.Tobi, "", 1, in)
	}
	_, err := add(shopregister.BasketAdd{Code: m.Barcode})
	assert.ErrorContains(t, err, "drawer of Register 1 is not open")
	s.Open(t, 1)
	for code, says := range map[string]string{"nothing at all": "Nothing here is called", "0 x " + m.Barcode: "can't be sold", "1.5 x " + m.Barcode: "whole numbers", "": "Nothing here"} {
		_, err := add(shopregister.BasketAdd{Code: code})
		require.Error(t, err, code)
		assert.Contains(t, err.Error(), says, code)
	}
	_, err = add(shopregister.BasketAdd{Variant: 999})
	assert.True(t, fault.Is(err, fault.NotFound))
	_, err = add(shopregister.BasketAdd{Variant: m.ID, Quantity: "2000000000015"})
	assert.ErrorContains(t, err, "Was a barcode scanned into the quantity?")
	view, err := add(shopregister.BasketAdd{Code: "tidewater"})
	require.NoError(t, err)
	require.NotNil(t, view.Pick, "one product: its rack is to be opened")
	assert.Empty(t, view.Lines)
	s.Simple(t, "Tidewater towel", "counted", "9.00")
	view, err = add(shopregister.BasketAdd{Code: "tidewater"})
	require.NoError(t, err)
	assert.Len(t, view.Offers, 2)

	view, err = add(shopregister.BasketAdd{Code: "5 × " + strings.ToLower(m.SKU)})
	require.NoError(t, err)
	assert.Contains(t, view.Lines[0].Short, "3 short", "more than there is is said at once")
	_, err = shopregister.Sell(ctx, s.Shop, s.Tobi, "", shopregister.SaleInput{Register: 1, Basket: view.ID, Cash: "1000"})
	assert.ErrorContains(t, err, "5 asked, 2 For sale here, 3 short")
	line := view.Lines[0].ID
	change := func(q string) (shopregister.BasketView, error) {
		return shopregister.ChangeBasketLine(ctx, s.Shop, s.Tobi, "", 1, line, shopregister.BasketChange{Quantity: q})
	}
	view, err = change("2")
	require.NoError(t, err)
	assert.Equal(t, "5", view.Before.String(), "what it was, for undo")
	for _, bad := range []string{"-1", "1.5", "x", "1e9"} {
		_, err := change(bad)
		assert.Equal(t, "quantity", fault.Of(err).Field, bad)
	}
	for _, pay := range []shopregister.SaleInput{{Cash: "10"}, {Cash: "abc"}, {Cash: "-5"}, {}} {
		pay.Register, pay.Basket = 1, view.ID
		_, err := shopregister.Sell(ctx, s.Shop, s.Tobi, "", pay)
		require.NotNil(t, fault.Of(err))
		assert.Equal(t, "cash", fault.Of(err).Field)
	}
	_, err = shopregister.Sell(ctx, s.Shop, s.Tobi, "", shopregister.SaleInput{Register: 2, Basket: view.ID, Cash: "100"})
	assert.Error(t, err, "the basket of another register")
	view, err = change("0")
	require.NoError(t, err)
	assert.Empty(t, view.Lines)
	_, err = change("1")
	assert.True(t, fault.Is(err, fault.NotFound))
	_, err = shopregister.Sell(ctx, s.Shop, s.Tobi, "", shopregister.SaleInput{Register: 1, Basket: view.ID, Cash: "100"})
	assert.ErrorContains(t, err, "basket is empty")
	view, err = shopregister.DropBasket(ctx, s.Shop, s.Tobi, 1)
	require.NoError(t, err)
	assert.Zero(t, view.ID)
	s.InStep(t)
}

func TestSoldByTheMetre(t *testing.T) {
	s := testkit.New(t)
	made, err := catalog.MakeProduct(ctx, s.Shop, s.Maren, "", catalog.NewProduct{Name: "Floating rope 8 mm", Category: "Shore", TaxClass: 1, Unit: "m", Tracking: "counted", Price: "1.80", Supplier: "Oar & Thole"})
	require.NoError(t, err)
	v := made.Variants[0].ID
	s.Stock(t, v, "100.50", "0.62")
	s.Open(t, 1)
	done := s.Sold(t, v, "4.50")
	assert.Equal(t, "8.10", done.Total.StringFixed(2))
	_, err = shopregister.Sell(ctx, s.Shop, s.Tobi, "", shopregister.SaleInput{Register: 1, Lines: []shopregister.SaleLineInput{{Variant: v, Quantity: "1.005"}}, Cash: "10"})
	assert.ErrorContains(t, err, "finer than the 2 decimals")
	assert.Equal(t, "96.00", held(t, s, v).ForSale()[v].StringFixed(2))
	_, err = catalog.MakeProduct(ctx, s.Shop, s.Maren, "", catalog.NewProduct{Name: "Numbered rope", Category: "Shore", TaxClass: 1, Unit: "m", Tracking: "serial", Price: "1.80"})
	assert.Equal(t, "unit", fault.Of(err).Field)
	s.InStep(t)
}

func TestAServiceHasNoStock(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Lesson", "not stocked", "35.00")
	s.Simple(t, "Whistle", "counted", "4.00")
	s.Open(t, 1)
	number := s.Sold(t, v, "2").Number
	back, err := takeBack(s, 1, number, 1, "1", "")
	require.NoError(t, err)
	assert.Equal(t, "35.00", back.Amount.StringFixed(2))
	_, err = buying.SaveDelivery(ctx, s.Shop, s.Callum, "", 0, buying.DeliveryInput{Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: v, Quantity: "1"}}})
	assert.ErrorContains(t, err, "is a service")
	plan, err := counts.PlanCount(ctx, s.Shop, s.Callum, "", counts.CountPlan{Branch: 1, Category: 1})
	require.NoError(t, err)
	assert.Equal(t, 1, plan.Rows, "services are left out of counts")
	_, err = counts.Count(ctx, s.Shop, s.Callum, "", plan.ID, counts.CountInput{Variant: v, Quantity: "1"})
	assert.ErrorContains(t, err, "no stock to count")
	s.InStep(t)
}

func TestCountEdges(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	a, b := made.Variants[0], made.Variants[1]
	whistle := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, a.ID, "4", "10")
	s.Stock(t, b.ID, "6", "10")
	s.Stock(t, whistle, "2", "1")
	_, err := stockroom.ChangeCondition(ctx, s.Shop, s.Tobi, "", stockroom.ChangeInput{Variant: a.ID, Branch: 1, From: "For sale", To: "Lent", Quantity: "1"})
	require.NoError(t, err)
	categories, err := goods.Categories(s.Store.Read(ctx))
	require.NoError(t, err)
	var vests uint64
	for _, c := range categories {
		if c.Path == "Swim > Rash vests" {
			vests = c.ID
		}
	}
	plan, err := counts.PlanCount(ctx, s.Shop, s.Callum, "", counts.CountPlan{Branch: 1, Category: vests})
	require.NoError(t, err)
	assert.Equal(t, 7, plan.Rows, "every condition is a row")
	typed := func(in counts.CountInput) (counts.Counted, error) {
		return counts.Count(ctx, s.Shop, s.Callum, "", plan.ID, in)
	}
	_, err = typed(counts.CountInput{Variant: a.ID, Condition: "Lent", Quantity: "1"})
	require.NoError(t, err)
	got, err := typed(counts.CountInput{Variant: whistle, Quantity: "3"})
	require.NoError(t, err)
	assert.False(t, got.Planned)
	assert.Contains(t, got.Said, "not planned")
	for _, bad := range []counts.CountInput{{Code: "nonsense"}, {Variant: a.ID, Quantity: "-1"}, {Variant: a.ID, Quantity: "1.5"}, {Variant: a.ID, Condition: "Gone", Quantity: "1"}, {Variant: 999, Quantity: "1"}} {
		_, err := typed(bad)
		assert.NotNil(t, fault.Of(err), "%+v", bad)
	}
	// sold between two entries of one row: marked, to look again
	_, err = typed(counts.CountInput{Variant: b.ID, Quantity: "3"})
	require.NoError(t, err)
	s.Open(t, 1)
	s.Sold(t, b.ID, "1")
	_, err = typed(counts.CountInput{Variant: b.ID, Quantity: "2"})
	require.NoError(t, err)
	figures, err := counts.CountStands(ctx, s.Shop, plan.ID)
	require.NoError(t, err)
	moved := 0
	for _, f := range figures.Rows {
		if f.Moved {
			moved++
			assert.Equal(t, b.ID, f.Key.Variant)
			assert.True(t, f.Variance().IsZero())
		}
	}
	assert.Equal(t, 1, moved)
	_, err = counts.MoveCount(ctx, s.Shop, s.Callum, "", plan.ID, count.Closed)
	assert.Equal(t, "state", fault.Of(err).Field)
	_, err = counts.MoveCount(ctx, s.Shop, s.Callum, "", plan.ID, count.Settling)
	require.NoError(t, err)
	_, err = counts.MoveCount(ctx, s.Shop, s.Callum, "", plan.ID, count.Counting)
	require.NoError(t, err, "one may go back and count on")
	_, err = counts.SettleCount(ctx, s.Shop, s.Callum, "", plan.ID, counts.SettleInput{Uncounted: "leave", Reasons: map[uint64]string{figures.Rows[7].RowID: "mice"}})
	assert.Equal(t, "reason", fault.Of(err).Field)
	// nobody counted what is for sale of a: taken as zero when that is said
	done, err := counts.SettleCount(ctx, s.Shop, s.Callum, "", plan.ID, counts.SettleInput{Uncounted: "zero", Reasons: map[uint64]string{figures.Rows[7].RowID: "error"}})
	require.NoError(t, err)
	assert.Equal(t, plan.Number, done.Number)
	assert.True(t, held(t, s, a.ID).ForSale()[a.ID].IsZero())
	assert.Equal(t, "1", held(t, s, a.ID).OnHand(a.ID, 1, stock.Lent).String())
	assert.Equal(t, "3", held(t, s, whistle).ForSale()[whistle].String())
	_, err = counts.Strike(ctx, s.Shop, s.Callum, "", plan.ID, 1)
	assert.ErrorContains(t, err, "is closed")
	_, err = counts.PlanCount(ctx, s.Shop, s.Callum, "", counts.CountPlan{Branch: 1, Category: vests})
	require.NoError(t, err, "a closed count frees its rows")
	_, err = counts.PlanCount(ctx, s.Shop, s.Callum, "", counts.CountPlan{Branch: 9, Category: vests})
	assert.Equal(t, "branch_id", fault.Of(err).Field)
	_, err = counts.PlanCount(ctx, s.Shop, s.Callum, "", counts.CountPlan{Branch: 1, Category: 999})
	assert.True(t, fault.Is(err, fault.NotFound))
	s.InStep(t)
}

func TestCountOfLots(t *testing.T) {
	s := testkit.New(t)
	cream := s.Simple(t, "Sun cream", "lot", "14.50")
	for _, lot := range []string{"K1", "K2"} {
		s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: cream, Quantity: "5", Cost: "6", Lot: lot, Expiry: "2027-04-30"}}})
	}
	plan, err := counts.PlanCount(ctx, s.Shop, s.Callum, "", counts.CountPlan{Branch: 1, Category: 1})
	require.NoError(t, err)
	require.Equal(t, 2, plan.Rows, "every lot is a row")
	found, err := goods.Sellables(s.Store.Read(ctx), []uint64{cream}, s.Now())
	require.NoError(t, err)
	_, err = counts.Count(ctx, s.Shop, s.Callum, "", plan.ID, counts.CountInput{Code: found[cream].Barcode})
	assert.ErrorContains(t, err, "lies here in 2 lots")
	assert.Equal(t, "K1 or K2", fault.Of(err).Want)
	_, err = counts.Count(ctx, s.Shop, s.Callum, "", plan.ID, counts.CountInput{Variant: cream, Lot: 2, Quantity: "4"})
	require.NoError(t, err)
	_, err = counts.SettleCount(ctx, s.Shop, s.Callum, "", plan.ID, counts.SettleInput{Uncounted: "leave"})
	require.NoError(t, err)
	places, err := book.Places(s.Store.Read(ctx), cream)
	require.NoError(t, err)
	left := map[string]string{}
	for _, p := range places {
		left[p.Lot] = p.Quantity.String()
	}
	assert.Equal(t, map[string]string{"K1": "5", "K2": "4"}, left)
	s.InStep(t)
}

// TestSameLotNumberOtherExpiry: two lots; same both: one lot, value added.
func TestSameLotNumberOtherExpiry(t *testing.T) {
	s := testkit.New(t)
	cream := s.Simple(t, "Sun cream", "lot", "14.50")
	for _, expiry := range []string{"2027-04-30", "2027-05-31", "2027-04-30", ""} {
		s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: cream, Quantity: "5", Cost: "6", Lot: "K1", Expiry: expiry}}})
	}
	places, err := book.Places(s.Store.Read(ctx), cream)
	require.NoError(t, err)
	require.Len(t, places, 3)
	assert.Equal(t, "10", places[0].Quantity.String())
	assert.Nil(t, places[2].Expiry)
	draft, err := buying.SaveDelivery(ctx, s.Shop, s.Callum, "", 0, buying.DeliveryInput{Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: cream, Quantity: "5"}}})
	require.NoError(t, err)
	_, err = buying.PostDelivery(ctx, s.Shop, s.Callum, "", draft.ID)
	assert.ErrorContains(t, err, "lot number is missing")
	s.InStep(t)
}

func TestSerialNumbersThatAreRefused(t *testing.T) {
	s := testkit.New(t)
	board := s.Simple(t, "Board", "serial", "549.00")
	in := func(serials string) buying.DeliveryInput {
		return buying.DeliveryInput{Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: board, Quantity: "2", Cost: "310", Serials: serials}}}
	}
	_, err := buying.SaveDelivery(ctx, s.Shop, s.Callum, "", 0, in("A1, a 1"))
	assert.ErrorContains(t, err, "stands there twice")
	s.Receive(t, in("A1, A2"))
	draft, err := buying.SaveDelivery(ctx, s.Shop, s.Callum, "", 0, in("a2, A3"))
	require.NoError(t, err)
	_, err = buying.PostDelivery(ctx, s.Shop, s.Callum, "", draft.ID)
	require.ErrorContains(t, err, "No. A2 is in stock already, at Floor")
	assert.Equal(t, "2", held(t, s, board).Pools[board].Quantity.String(), "nothing of it was posted")
	s.Open(t, 1)
	for serial, says := range map[string]string{"A9": "not For sale here", "": "choose a serial number"} {
		_, err := shopregister.Sell(ctx, s.Shop, s.Tobi, "", shopregister.SaleInput{Register: 1, Lines: []shopregister.SaleLineInput{{Variant: board, Quantity: "1", Serial: serial}}, Cash: "600"})
		assert.ErrorContains(t, err, says)
	}
	_, err = shopregister.Sell(ctx, s.Shop, s.Tobi, "", shopregister.SaleInput{Register: 1, Lines: []shopregister.SaleLineInput{{Variant: board, Quantity: "2", Serial: "A1"}}, Cash: "2000"})
	assert.ErrorContains(t, err, "one by one")
	_, err = shopregister.Sell(ctx, s.Shop, s.Tobi, "", shopregister.SaleInput{Register: 1, Lines: []shopregister.SaleLineInput{{Variant: board, Quantity: "1", Serial: "A1"}}, Cash: "600"})
	require.NoError(t, err)
	_, err = shopregister.Sell(ctx, s.Shop, s.Tobi, "", shopregister.SaleInput{Register: 1, Lines: []shopregister.SaleLineInput{{Variant: board, Quantity: "1", Serial: "A1"}}, Cash: "600"})
	assert.True(t, fault.Is(err, fault.Refused), "sold once")
	s.InStep(t)
}

func TestChangeOfConditionRefused(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "2", "1")
	good := stockroom.ChangeInput{Variant: v, Branch: 1, From: "For sale", To: "For scrap", Quantity: "1"}
	for field, spoil := range map[string]func(*stockroom.ChangeInput){
		"condition": func(c *stockroom.ChangeInput) { c.To = "Gone" },
		"quantity":  func(c *stockroom.ChangeInput) { c.Quantity = "3" },
		"variant":   func(c *stockroom.ChangeInput) { c.Variant = 99 },
	} {
		bad := good
		spoil(&bad)
		_, err := stockroom.ChangeCondition(ctx, s.Shop, s.Tobi, "", bad)
		require.NotNil(t, fault.Of(err), field)
		assert.Equal(t, field, fault.Of(err).Field)
	}
	done, err := stockroom.ChangeCondition(ctx, s.Shop, s.Tobi, "k", good)
	require.NoError(t, err)
	again, err := stockroom.ChangeCondition(ctx, s.Shop, s.Tobi, "k", good)
	require.NoError(t, err)
	assert.Equal(t, done.Number, again.Number)
	assert.Equal(t, "1", held(t, s, v).ForSale()[v].String())
	_, err = stockroom.Reverse(ctx, s.Shop, s.Maren, "", done.Number, "")
	require.NoError(t, err)
	assert.Equal(t, "2", held(t, s, v).ForSale()[v].String())
	s.InStep(t)
}

func TestWhatCantBeReversed(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "5", "1")
	s.Open(t, 1)
	number := s.Sold(t, v, "2").Number
	back, err := takeBack(s, 1, number, 1, "1", "")
	require.NoError(t, err)
	_, err = stockroom.Reverse(ctx, s.Shop, s.Maren, "", number, "")
	assert.ErrorContains(t, err, "came back already")
	_, err = stockroom.Reverse(ctx, s.Shop, s.Maren, "", back.Number, "")
	assert.ErrorContains(t, err, "can't be reversed")
	_, err = stockroom.Reverse(ctx, s.Shop, s.Maren, "", "X-1", "")
	assert.True(t, fault.Is(err, fault.NotFound))
	_, err = stockroom.Reverse(ctx, s.Shop, s.Tobi, "", number, "")
	assert.True(t, fault.Is(err, fault.Forbidden))
	s.InStep(t)
}

// TestKeysBelongToOnePersonAndDeed: the same key means nothing elsewhere.
func TestKeysBelongToOnePersonAndDeed(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "9", "1")
	s.Open(t, 1)
	in := shopregister.SaleInput{Register: 1, Lines: []shopregister.SaleLineInput{{Variant: v, Quantity: "1"}}, Cash: "4"}
	first, err := shopregister.Sell(ctx, s.Shop, s.Tobi, "k", in)
	require.NoError(t, err)
	other, err := shopregister.Sell(ctx, s.Shop, s.Maren, "k", in)
	require.NoError(t, err)
	assert.NotEqual(t, first.Number, other.Number)
	_, err = shopregister.Sell(ctx, s.Shop, s.Tobi, strings.Repeat("k", 101), in)
	assert.Equal(t, "Idempotency-Key", fault.Of(err).Field)
	// a refusal does not use the key up
	in.Lines[0].Quantity, in.Cash = "99", "1000"
	_, err = shopregister.Sell(ctx, s.Shop, s.Tobi, "later", in)
	require.True(t, fault.Is(err, fault.Refused))
	s.Stock(t, v, "99", "1")
	_, err = shopregister.Sell(ctx, s.Shop, s.Tobi, "later", in)
	assert.NoError(t, err)
	s.InStep(t)
}

// TestPermissions holds the table of who may do what, in words.
func TestPermissions(t *testing.T) {
	want := map[staff.Role]string{
		staff.Manager: "look catalog prices settings labels receive drawer sell take back change condition make up kits count settle a count reverse verify devices",
		staff.Clerk:   "look labels drawer sell take back change condition count devices",
		staff.Stock:   "look labels receive change condition make up kits count settle a count verify devices",
	}
	order := []staff.Deed{staff.DeedLook, staff.DeedCatalog, staff.DeedPrices, staff.DeedSettings, staff.DeedLabels, staff.DeedReceive, staff.DeedDrawer, staff.DeedSell, staff.DeedReturn, staff.DeedChange, staff.DeedKits, staff.DeedCount, staff.DeedSettle, staff.DeedReverse, staff.DeedVerify, staff.DeedDevices}
	assert.Len(t, staff.Permissions, len(order))
	for role, words := range want {
		var can []string
		for _, deed := range order {
			if (staff.Actor{Role: role}).Can(deed) {
				can = append(can, string(deed))
			}
		}
		assert.Equal(t, words, strings.Join(can, " "), role)
	}
	err := staff.Actor{Name: "Tobi Ashdown", Role: staff.Clerk}.May(staff.DeedReverse)
	assert.EqualError(t, err, "To reverse takes the role manager; Tobi Ashdown has register.")
	assert.Error(t, staff.Actor{}.May(staff.DeedLook), "nobody may nothing")
}

func TestDrawerCountIsChecked(t *testing.T) {
	s := testkit.New(t)
	s.Open(t, 1)
	_, err := shopregister.CashUpDrawer(ctx, s.Shop, s.Tobi, "", 1, []sale.Denomination{{Value: d("3"), Count: 1}})
	assert.Equal(t, "counted", fault.Of(err).Field)
	closing, err := shopregister.CashUpDrawer(ctx, s.Shop, s.Tobi, "twice", 1, []sale.Denomination{{Value: d("50"), Count: 2}})
	require.NoError(t, err)
	again, err := shopregister.CashUpDrawer(ctx, s.Shop, s.Tobi, "twice", 1, []sale.Denomination{{Value: d("50"), Count: 2}})
	require.NoError(t, err)
	assert.Equal(t, closing.Number, again.Number)
	assert.True(t, closing.Difference.IsZero())
	for _, float := range []string{"", "x", "-1", "1.005"} {
		_, err := shopregister.OpenDrawer(ctx, s.Shop, s.Tobi, "", 1, float)
		assert.Equal(t, "float", fault.Of(err).Field, float)
	}
	_, err = shopregister.OpenDrawer(ctx, s.Shop, s.Tobi, "", 99, "1")
	assert.True(t, fault.Is(err, fault.NotFound))
	s.InStep(t)
}

// TestBackDated enters a delivery with the clock of the day before.
func TestBackDated(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	then := &testkit.Shop{Shop: s.At(s.Now().Add(-48 * time.Hour)), Callum: s.Callum}
	then.Stock(t, v, "5", "1")
	moves, _, err := book.Movements(s.Store.Read(ctx), v, book.MovementFilter{})
	require.NoError(t, err)
	require.Len(t, moves, 1)
	assert.WithinDuration(t, time.Now().Add(-48*time.Hour), moves[0].HappenedAt, time.Minute)
}

func TestMovementsPageByPage(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Stock(t, v, "100", "1")
	s.Open(t, 1)
	for range 7 {
		s.Sold(t, v, "1")
	}
	q := s.Store.Read(ctx)
	seen := []string{}
	filter := book.MovementFilter{Limit: 3}
	for more := true; more; {
		var rows []book.Movement
		var err error
		rows, more, err = book.Movements(q, v, filter)
		require.NoError(t, err)
		for _, r := range rows {
			seen = append(seen, r.QuantityAfter.String())
		}
		filter.Before = rows[len(rows)-1].ID
	}
	assert.Equal(t, []string{"93", "94", "95", "96", "97", "98", "99", "100"}, seen)
	rows, _, err := book.Movements(q, v, book.MovementFilter{Kind: "Delivery"})
	require.NoError(t, err)
	assert.Len(t, rows, 1)
	rows, _, err = book.Movements(q, v, book.MovementFilter{Branch: 2})
	require.NoError(t, err)
	assert.Empty(t, rows)
	levels, err := book.Levels(q, v, s.Now().AddDate(0, 0, -1))
	require.NoError(t, err)
	assert.Len(t, levels, 9)
	assert.True(t, levels[0].Quantity.IsZero())
	assert.Equal(t, "93", levels[8].Quantity.String())
}

// TestRestockLevel: at the level it is not low, below it is.
func TestRestockLevel(t *testing.T) {
	s := testkit.New(t)
	made, err := catalog.MakeProduct(ctx, s.Shop, s.Maren, "", catalog.NewProduct{Name: "Whistle", Category: "Swim", TaxClass: 1, Tracking: "counted", Price: "4.00", Restock: "3", Supplier: "Oar & Thole"})
	require.NoError(t, err)
	v := made.Variants[0].ID
	low := func() int {
		_, n, err := book.Low(s.Store.Read(ctx), 10)
		require.NoError(t, err)
		return n
	}
	assert.Equal(t, 1, low(), "none of 3")
	s.Stock(t, v, "4", "1")
	assert.Zero(t, low())
	s.Open(t, 1)
	s.Sold(t, v, "1")
	assert.Zero(t, low(), "at the level")
	s.Sold(t, v, "1")
	assert.Equal(t, 1, low())
	s.InStep(t)
}

func TestFindGoesFromExactToWords(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: s.Simple(t, "Board", "serial", "549.00"), Quantity: "1", Cost: "1", Serials: "AB 12"}}})
	find := func(text string) string {
		found, err := goods.Find(s.Store.Read(ctx), text, 10)
		require.NoError(t, err, text)
		var said []string
		for _, f := range found {
			said = append(said, fmt.Sprint(f.Kind, " ", f.Name, " ", f.Detail, f.Serial))
		}
		return strings.Join(said, "; ")
	}
	vest := "variant Tidewater rash vest Coral · S"
	for text, want := range map[string]string{made.Variants[0].Barcode: vest, "0" + made.Variants[0].Barcode: vest, "twv-cor-s": vest, " TWV-COR-S ": vest, "ab12": "variant Board AB12", "AB 12": "variant Board AB12",
		"d-0001": "document Delivery ", "rash": "product Tidewater rash vest ", "tide vest": "product Tidewater rash vest ", "ti": "product Tidewater rash vest ", "vest board": "", "": "", "%": "", "_": "", "+-*\"()~<>@": "", "'; DROP": ""} {
		assert.Equal(t, want, find(text), text)
	}
	assert.Empty(t, find(strings.Repeat("x", 500)))
}

// TestTheLastCostIsProposedWithoutItsFreight: a line without a cost takes what
// was typed last, not what it came to with freight.
func TestTheLastCostIsProposedWithoutItsFreight(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "4.00")
	s.Receive(t, buying.DeliveryInput{Extra: "5.00", Lines: []scan.GoodsLine{{Variant: v, Quantity: "5", Cost: "1.00"}}})
	assert.Equal(t, "2", held(t, s, v).Pools[v].Last.String(), "the landed cost")
	s.Receive(t, buying.DeliveryInput{Lines: []scan.GoodsLine{{Variant: v, Quantity: "5"}}})
	assert.Equal(t, "15.00", held(t, s, v).Pools[v].Value.StringFixed(2))
	s.InStep(t)
}
