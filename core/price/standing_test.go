package price

import (
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"

	"itemrack/core/cost"
	"itemrack/core/money"
	"itemrack/core/tax"
)

// TestWhatItCosts says where a cost is known from: the first that there is.
func TestWhatItCosts(t *testing.T) {
	d := decimal.RequireFromString
	own, product := d("9"), d("8")
	for _, c := range []struct {
		pool     cost.Pool
		expected []*decimal.Decimal
		amount   string
		from     CostFrom
	}{{cost.Of(d("4"), d("100"), d("30")), []*decimal.Decimal{&own}, "25", FromStock},
		{cost.Of(decimal.Zero, decimal.Zero, d("30")), []*decimal.Decimal{&own}, "30", FromPurchase},
		{cost.Pool{}, []*decimal.Decimal{&own, &product}, "9", FromExpected},
		{cost.Pool{}, []*decimal.Decimal{nil, &product}, "8", FromExpected}, {cost.Pool{}, nil, "0", NoCost}} {
		got := CostOf(c.pool, c.expected...)
		assert.Equal(t, c.amount+" "+string(c.from), got.Amount.String()+" "+string(got.From))
	}
	assert.Equal(t, "30", NextCost(d("30"), &own).String())
	assert.Equal(t, "9", NextCost(decimal.Zero, &own).String())
}

// TestWhatIsLeft holds prices against costs in shops with and without tax in their
// prices, and in yen and dinar.
func TestWhatIsLeft(t *testing.T) {
	d := decimal.RequireFromString
	for _, c := range []struct {
		basis                tax.Basis
		minor                money.Minor
		price, percent, cost string
		net, margin, markup  string
		under                bool
	}{{tax.With, money.Hundredth, "24.00", "20", "10", "20", "50.0 %", "100.0 %", false},
		{tax.Without, money.Hundredth, "24.00", "20", "10", "24", "58.3 %", "140.0 %", false},
		{tax.With, money.Hundredth, "24.00", "20", "24", "20", "−20.0 %", "−16.7 %", true},
		{tax.With, money.Hundredth, "24.00", "20", "20", "20", "0.0 %", "0.0 %", false},
		{tax.With, money.Hundredth, "24.00", "20", "0", "20", "", "", false},
		{tax.With, money.Hundredth, "0", "20", "5", "0", "", "−100.0 %", true},
		{tax.With, money.Whole, "1100", "10", "600", "1000", "40.0 %", "66.7 %", false},
		{tax.With, money.Thousandth, "1.050", "5", "0.5", "1", "50.0 %", "100.0 %", false}} {
		s := Book{Basis: c.basis, Minor: c.minor}.Stand(d(c.price), d(c.percent), Cost{d(c.cost), FromStock})
		assert.Equal(t, c.net, s.Net.String(), c)
		assert.Equal(t, c.margin+" | "+c.markup, s.MarginText()+" | "+s.MarkupText(), c)
		assert.Equal(t, c.under, s.Under, c)
	}
}
