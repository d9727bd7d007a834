package register_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/sale"
	"itemrack/core/stock"
	"itemrack/shop/buying"
	"itemrack/shop/catalog"
	"itemrack/shop/counts"
	"itemrack/shop/prices"
	shopregister "itemrack/shop/register"
	"itemrack/shop/scan"
	"itemrack/shop/testkit"
	"itemrack/store/book"
	"itemrack/store/till"
)

func TestReturnsOneByOneAddUp(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "9.49")
	s.Stock(t, v, "7", "3.142857")
	s.Open(t, 1)
	number := s.Sold(t, v, "3").Number
	sold, err := till.SaleByNumber(s.Store.Read(ctx), number)
	require.NoError(t, err)
	assert.Equal(
		t,
		[]string{"28.47", "4.75", "9.43"},
		[]string{sold.Lines[0].Paid.StringFixed(2), sold.Lines[0].Tax.StringFixed(2),
			sold.Lines[0].Cost.StringFixed(2)},
	)
	sum := decimal.Zero
	for range 3 {
		back, err := s.TakeBack(1, number, 1, "1", "For sale")
		require.NoError(t, err)
		sum = sum.Add(back.Amount)
	}
	assert.Equal(t, "28.47", sum.StringFixed(2))
	_, err = s.TakeBack(1, number, 1, "1", "")
	assert.ErrorContains(t, err, "have come back already")
	h := s.Held(t, v)
	assert.Equal(t, "7 22.00", h.Pools[v].Quantity.String()+" "+h.Pools[v].Value.StringFixed(2),
		"as if nothing had been sold")
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
	}{{"Q9-99999", "1", "", 1, "sale", "no sale"}, {number, "4", "", 1, "quantity", "3 sold"},
		{number, "1", "Lost", 1, "condition", "no condition"}, {number, "1", "", 7, "line", "no line 7"},
		{number, "0.5", "", 1, "quantity", "whole numbers"}, {number, "", "", 1, "lines", "how many"},
		{number, "0", "", 1, "lines", "how many"}} {
		_, err := s.TakeBack(1, c.sale, c.line, c.q, c.condition)
		require.Error(t, err, c.says)
		assert.Equal(t, c.field, fault.Of(err).Field)
		assert.Contains(t, err.Error(), c.says)
	}
	_, err := s.TakeBack(2, number, 1, "1", "")
	assert.ErrorContains(t, err, "is not open")
	_, err = shopregister.TakeBack(s.By(s.Callum), shopregister.ReturnInput{Register: 1, Sale: number})
	assert.True(t, fault.Is(err, fault.Forbidden))
	_, err = shopregister.TakeBack(s.By(s.Tobi), shopregister.ReturnInput{
		Register: 1,
		Sale:     number,
		Lines:    []shopregister.ReturnLineInput{{Line: 1, Quantity: "2"}, {Line: 1, Quantity: "2"}},
	},
	)
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
	back, err := s.TakeBack(3, number, 1, "1", "For sale")
	require.NoError(t, err)
	assert.Equal(t, "B1-R0001", back.Number)
	h := s.Held(t, v)
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
	require.NoError(t,
		s.Spoil("INSERT INTO tax_rate (tax_class_id, from_at, percent) VALUES (1, NOW() - INTERVAL 1 SECOND, 25)"))
	back, err := s.TakeBack(1, number, 1, "1", "")
	require.NoError(t, err)
	postings, err := book.Postings(s.Store.Read(ctx), back.Document)
	require.NoError(t, err)
	at := slices.IndexFunc(postings, func(p stock.Posting) bool { return p.Account == "tax out" })
	require.GreaterOrEqual(t, at, 0, "tax is given back")
	assert.Equal(t, "2.00", postings[at].Amount.StringFixed(2), "at the rate of the sale, not 2.40")
	s.InStep(t)
}

func TestABasketKeepsThePriceItWasScannedAt(t *testing.T) {
	s := testkit.New(t)
	made := s.Vest(t)
	m := made.Variants[1]
	s.Stock(t, m.ID, "9", "10")
	s.Open(t, 1)
	_, err := shopregister.AddToBasket(s.By(s.Tobi), 1, shopregister.BasketAdd{Code: m.Barcode})
	require.NoError(t, err)
	_, err = prices.SetPrices(s.By(s.Maren), made.ID, prices.PriceChange{Price: "44.00"})
	require.NoError(t, err)
	basket, err := shopregister.AddToBasket(s.By(s.Tobi), 1, shopregister.BasketAdd{Code: m.Barcode})
	require.NoError(t, err)
	require.Len(t, basket.Lines, 2, "the new price has a line of its own")
	assert.Equal(t, "78.95", basket.Totals.Gross.StringFixed(2))
	done, err := shopregister.Sell(s.By(s.Tobi), shopregister.SaleInput{Register: 1, Basket: basket.ID, Cash: "78.95"})
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
		return shopregister.AddToBasket(s.By(s.Tobi), 1, in)
	}
	_, err := add(shopregister.BasketAdd{Code: m.Barcode})
	assert.ErrorContains(t, err, "drawer of Register 1 is not open")
	s.Open(t, 1)
	for code, says := range map[string]string{"nothing at all": "Nothing here is called", "0 x " +
		m.Barcode: "can't be sold", "1.5 x " + m.Barcode: "whole numbers", "": "Nothing here"} {
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
	_, err = shopregister.Sell(s.By(s.Tobi), shopregister.SaleInput{Register: 1, Basket: view.ID, Cash: "1000"})
	assert.ErrorContains(t, err, "5 asked, 2 For sale here, 3 short")
	line := view.Lines[0].ID
	change := func(q string) (shopregister.BasketView, error) {
		return shopregister.ChangeBasketLine(s.By(s.Tobi), 1, line, shopregister.BasketChange{Quantity: q})
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
		_, err := shopregister.Sell(s.By(s.Tobi), pay)
		require.NotNil(t, fault.Of(err))
		assert.Equal(t, "cash", fault.Of(err).Field)
	}
	_, err = shopregister.Sell(s.By(s.Tobi), shopregister.SaleInput{Register: 2, Basket: view.ID, Cash: "100"})
	assert.Error(t, err, "the basket of another register")
	view, err = change("0")
	require.NoError(t, err)
	assert.Empty(t, view.Lines)
	_, err = change("1")
	assert.True(t, fault.Is(err, fault.NotFound))
	_, err = shopregister.Sell(s.By(s.Tobi), shopregister.SaleInput{Register: 1, Basket: view.ID, Cash: "100"})
	assert.ErrorContains(t, err, "basket is empty")
	view, err = shopregister.DropBasket(s.By(s.Tobi), 1)
	require.NoError(t, err)
	assert.Zero(t, view.ID)
	s.InStep(t)
}

func TestSoldByTheMetre(t *testing.T) {
	s := testkit.New(t)
	made, err := catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Floating rope 8 mm",
		Category: "Shore",
		TaxClass: 1,
		Unit:     "m",
		Tracking: "counted",
		Price:    "1.80",
		Supplier: "Oar & Thole",
	},
	)
	require.NoError(t, err)
	v := made.Variants[0].ID
	s.Stock(t, v, "100.50", "0.62")
	s.Open(t, 1)
	done := s.Sold(t, v, "4.50")
	assert.Equal(t, "8.10", done.Total.StringFixed(2))
	_, err = shopregister.Sell(s.By(s.Tobi), shopregister.SaleInput{
		Register: 1,
		Lines:    []shopregister.SaleLineInput{{Variant: v, Quantity: "1.005"}},
		Cash:     "10",
	},
	)
	assert.ErrorContains(t, err, "finer than the 2 decimals")
	assert.Equal(t, "96.00", s.Held(t, v).ForSale()[v].StringFixed(2))
	_, err = catalog.MakeProduct(s.By(s.Maren), catalog.NewProduct{
		Name:     "Numbered rope",
		Category: "Shore",
		TaxClass: 1,
		Unit:     "m",
		Tracking: "serial",
		Price:    "1.80",
	},
	)
	assert.Equal(t, "unit", fault.Of(err).Field)
	s.InStep(t)
}

func TestAServiceHasNoStock(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Lesson", "not stocked", "35.00")
	s.Simple(t, "Whistle", "counted", "4.00")
	s.Open(t, 1)
	number := s.Sold(t, v, "2").Number
	back, err := s.TakeBack(1, number, 1, "1", "")
	require.NoError(t, err)
	assert.Equal(t, "35.00", back.Amount.StringFixed(2))
	_, err = buying.SaveDelivery(s.By(s.Maren), 0,
		buying.DeliveryInput{Supplier: 1, Branch: 1, Lines: []scan.GoodsLine{{Variant: v, Quantity: "1"}}})
	assert.ErrorContains(t, err, "is a service")
	plan, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Category: 1})
	require.NoError(t, err)
	assert.Equal(t, 1, plan.Rows, "services are left out of counts")
	_, err = counts.Count(s.By(s.Callum), plan.ID, counts.CountInput{Variant: v, Quantity: "1"})
	assert.ErrorContains(t, err, "no stock to count")
	s.InStep(t)
}

func TestDrawerCountIsChecked(t *testing.T) {
	s := testkit.New(t)
	s.Open(t, 1)
	_, err := shopregister.CashUpDrawer(s.By(s.Tobi), 1,
		[]sale.Denomination{{Value: testkit.D("3"), Count: 1}})
	assert.Equal(t, "counted", fault.Of(err).Field)
	closing, err := shopregister.CashUpDrawer(s.By(s.Tobi, "twice"), 1,
		[]sale.Denomination{{Value: testkit.D("50"), Count: 2}})
	require.NoError(t, err)
	again, err := shopregister.CashUpDrawer(s.By(s.Tobi, "twice"), 1,
		[]sale.Denomination{{Value: testkit.D("50"), Count: 2}})
	require.NoError(t, err)
	assert.Equal(t, closing.Number, again.Number)
	assert.True(t, closing.Difference.IsZero())
	for _, float := range []string{"", "x", "-1", "1.005"} {
		_, err := shopregister.OpenDrawer(s.By(s.Tobi), 1, float)
		assert.Equal(t, "float", fault.Of(err).Field, float)
	}
	_, err = shopregister.OpenDrawer(s.By(s.Tobi), 99, "1")
	assert.True(t, fault.Is(err, fault.NotFound))
	s.InStep(t)
}
