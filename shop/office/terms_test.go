package office_test

import (
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/cost"
	"itemrack/shop/office"
	"itemrack/shop/register"
	"itemrack/shop/testkit"
	"itemrack/store/book"
)

// TestTwoServersOnANewDatabase has one server open the shop while another runs already:
// both keep to what the shop is set to.
func TestTwoServersOnANewDatabase(t *testing.T) {
	s := testkit.Bare(t)
	before, err := s.Store.Read(ctx).Terms()
	require.NoError(t, err)
	assert.Equal(t, cost.MovingAverage, before.Costing, "a database with no shop in it")
	plan := testkit.Plan
	plan.Currency, plan.Costing, plan.WithoutTax, plan.Zone = "JPY", string(cost.FIFO), true, "Asia/Tokyo"
	_, err = office.SetUp(ctx, s.Beside(t), plan)
	require.NoError(t, err)
	s.People(t)

	after := s.Terms(t)
	assert.Equal(t, []string{"JPY", "first in, first out", "Asia/Tokyo", "without tax"},
		[]string{after.Currency.Code, string(after.Costing), after.Zone.String(), after.Basis.String()})
	v := s.Simple(t, "Paddle float", "counted", "1000")
	s.Stock(t, v, "3", "333")
	s.Stock(t, v, "3", "500")
	s.Open(t, 1)
	sold, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1,
		Lines: []register.SaleLineInput{{Variant: v, Quantity: "4"}}, Cash: "5000"})
	require.NoError(t, err)
	assert.Equal(t, []string{"4800", "200"}, []string{sold.Total.String(), sold.Change.String()},
		"in whole yen, tax on top")
	assert.Equal(t, "1499", worth(t, s, sold.Document).Neg().String(), "three at 333 and one at 500")
	s.InStep(t)
}

// worth is what a document moved in stock.
func worth(t *testing.T, s *testkit.Shop, document uint64) decimal.Decimal {
	t.Helper()
	postings, err := book.Postings(s.Store.Read(ctx), document)
	require.NoError(t, err)
	sum := decimal.Zero
	for _, p := range postings {
		if p.Account == "stock" {
			sum = sum.Add(p.Amount)
		}
	}
	return sum
}

// TestAShopInDinar sells, takes back and cashes up in a currency of three places.
func TestAShopInDinar(t *testing.T) {
	plan := testkit.Plan
	plan.Currency = "KWD"
	s := testkit.Planned(t, plan)
	v := s.Simple(t, "Paddle float", "counted", "1.255")
	s.Stock(t, v, "10", "0.333")
	_, err := register.OpenDrawer(s.By(s.Tobi), 1, "10.005")
	require.NoError(t, err)
	sold, err := register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1,
		Lines: []register.SaleLineInput{{Variant: v, Quantity: "3"}}, Cash: "4"})
	require.NoError(t, err)
	assert.Equal(t, []string{"3.765", "0.628", "0.235"},
		[]string{sold.Total.String(), sold.Tax.String(), sold.Change.String()})
	back, err := s.TakeBack(1, sold.Number, 1, "1", "For sale")
	require.NoError(t, err)
	assert.Equal(t, "1.255", back.Cash.String())
	_, err = register.Sell(s.By(s.Tobi), register.SaleInput{Register: 1,
		Lines: []register.SaleLineInput{{Variant: v, Quantity: "1"}}, Cash: "1.2555"})
	require.Error(t, err, "four places")
	s.InStep(t)
}
