// Package core_test holds the small rules against the figures that must come out.
package core_test

import (
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/buying"
	"itemrack/core/fault"
	"itemrack/core/ledger"
	"itemrack/core/money"
	"itemrack/core/sale"
	"itemrack/core/serial"
	"itemrack/core/tax"
	"itemrack/core/unit"
)

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

func TestTaxIncluded(t *testing.T) {
	// 3 × 9.49 with 20 % included: per line, not 3 × 1.58
	three := line("3", "9.49", "20")
	assert.Equal(t, "4.75", three.Tax().StringFixed(2))
	assert.Equal(t, "28.47", three.Total().StringFixed(2))
	assert.Equal(t, "5.83", tax.Included(d("34.95"), d("20"), money.Hundredth).StringFixed(2))
	assert.True(t, tax.Included(d("10"), d("0"), money.Hundredth).IsZero())
	assert.Equal(t, "50.40", tax.Included(d("302.40"), d("20"), money.Hundredth).StringFixed(2))
	assert.Equal(t, "50.40", tax.On(d("252.00"), d("20"), money.Hundredth).StringFixed(2))
}

func TestTaxRatesOverTime(t *testing.T) {
	day := func(n int) time.Time { return time.Date(2026, 1, n, 0, 0, 0, 0, time.UTC) }
	c := tax.Class{Rates: []tax.Rate{{From: day(5), Percent: d("17.5")}, {From: day(10), Percent: d("20")}}}
	assert.Equal(t, "0", c.At(day(4)).String())
	assert.Equal(t, "17.5", c.At(day(5)).String())
	assert.Equal(t, "17.5", c.At(day(9)).String())
	assert.Equal(t, "20", c.At(day(10)).String())
}

func TestLandedCost(t *testing.T) {
	one := func(bill buying.Bill, lines ...buying.Line) buying.Totals {
		totals, err := buying.Compute(bill, lines)
		require.NoError(t, err)
		sum := decimal.Zero
		for _, p := range totals.Postings().List() {
			sum = sum.Add(p.Amount)
		}
		assert.True(t, sum.IsZero())
		return totals
	}
	// 12 bought for 302.40 including 20 % tax → net 252.00 → 21.00 each
	tot := one(buying.Bill{CostsIncludeTax: true}, buying.Line{Quantity: d("12"), Cost: d("25.20"), Percent: d("20")})
	assert.Equal(t, "252.00", tot.Net.StringFixed(2))
	assert.Equal(t, "50.40", tot.Tax.StringFixed(2))
	assert.Equal(t, "21.00", tot.Lines[0].UnitCost.StringFixed(2))
	// freight 30.00 over 10 at 20.00 and 5 at 40.00
	lines := []buying.Line{{Quantity: d("10"), Cost: d("20")}, {Quantity: d("5"), Cost: d("40")}}
	tot = one(buying.Bill{Extra: d("30"), Spread: buying.ByValue}, lines...)
	assert.Equal(t, []string{"21.50", "43.00"},
		[]string{tot.Lines[0].UnitCost.StringFixed(2), tot.Lines[1].UnitCost.StringFixed(2)})
	tot = one(buying.Bill{Extra: d("30"), Spread: buying.ByQuantity}, lines...)
	assert.Equal(t, []string{"22.00", "42.00"},
		[]string{tot.Lines[0].UnitCost.StringFixed(2), tot.Lines[1].UnitCost.StringFixed(2)})
	assert.Equal(t, "430.00", tot.Net.StringFixed(2))
	_, err := buying.Compute(buying.Bill{Spread: "weight"}, lines)
	assert.Equal(t, "spread", fault.Of(err).Field)
}

func TestPay(t *testing.T) {
	paid, err := sale.Pay(d("617.55"), d("620"), decimal.Zero, money.Hundredth)
	require.NoError(t, err)
	assert.Equal(t, "2.45", paid.Change.StringFixed(2))
	assert.Equal(t, "617.55", paid.Cash().StringFixed(2))
	paid, err = sale.Pay(d("50"), d("20"), d("30"), money.Hundredth)
	require.NoError(t, err)
	assert.True(t, paid.Change.IsZero())
	for _, c := range [][2]string{{"49.99", "0"}, {"0", "50.01"}, {"-1", "51"}, {"10", "30"}, {"50.001", "0"}} {
		_, err := sale.Pay(d("50"), d(c[0]), d(c[1]), money.Hundredth)
		assert.Error(t, err, c)
		assert.NotEmpty(t, fault.Of(err).Field)
	}
}

func line(quantity, amount, percent string) sale.Line {
	return sale.Line{Quantity: d(quantity), Price: d(amount), Percent: d(percent)}
}

func TestTotalsByRate(t *testing.T) {
	tot := sale.Sum([]sale.Line{line("1", "12.00", "20"), line("2", "5.00", "0"), line("1", "6.00", "20")})
	assert.Equal(t, "28.00", tot.Gross.StringFixed(2))
	assert.Equal(t, "3.00", tot.Tax.StringFixed(2))
	assert.Equal(t, "4", tot.Units.String())
	require.Len(t, tot.Rates, 2)
	assert.Equal(t, "18.00", tot.Rates[0].Gross.StringFixed(2))
}

func TestTakeBack(t *testing.T) {
	sold := sale.Sold{Quantity: d("3"), Paid: d("19.97"), Tax: d("3.33"), Cost: d("10.00")}
	sum := decimal.Zero
	for i, want := range []string{"6.66", "6.65", "6.66"} {
		r, err := sold.TakeBack(d("1"))
		require.NoError(t, err)
		assert.Equal(t, want, r.Amount.StringFixed(2), i)
		sold.Back, sold.Refunded = sold.Back.Add(r.Quantity), sold.Refunded.Add(r.Amount)
		sold.TaxBack, sold.CostReturned = sold.TaxBack.Add(r.Tax), sold.CostReturned.Add(r.Cost)
		sum = sum.Add(r.Amount)
	}
	assert.Equal(t, "19.97", sum.StringFixed(2))
	assert.True(t, sold.TaxBack.Equal(sold.Tax) && sold.CostReturned.Equal(sold.Cost))
	_, err := sold.TakeBack(d("1"))
	assert.True(t, fault.Is(err, fault.Refused))
	_, err = sale.Sold{Quantity: d("3")}.TakeBack(d("4"))
	assert.Contains(t, err.Error(), "3 sold")
	_, err = sale.Sold{Quantity: d("3")}.TakeBack(d("0"))
	assert.Error(t, err)
	// 2 × 25.00 + 50.00 less 10.00: the first line was paid 45.00
	first := sale.Sold{Quantity: d("2"), Paid: d("45.00")}
	r, err := first.TakeBack(d("1"))
	require.NoError(t, err)
	assert.Equal(t, "22.50", r.Amount.StringFixed(2))
}

func TestDrawer(t *testing.T) {
	amount, err := sale.CountCash([]sale.Denomination{{Value: d("20"), Count: 5}, {Value: d("0.50"), Count: 3}},
		money.Currencies[0])
	require.NoError(t, err)
	assert.Equal(t, "101.50", amount.StringFixed(2))
	drawer := sale.Drawer{Float: d("100"), CashIn: d("34.95"), CashBack: d("10")}
	assert.Equal(t, "124.95", drawer.ShouldBe().StringFixed(2))
	assert.Equal(t, "-23.45", drawer.Difference(amount).StringFixed(2))
	for _, bad := range []sale.Denomination{{Value: d("3"), Count: 1}, {Value: d("5"), Count: -1}} {
		_, err := sale.CountCash([]sale.Denomination{bad}, money.Currencies[0])
		assert.Error(t, err)
	}
}

func TestUnits(t *testing.T) {
	_, err := unit.Piece.Parse("quantity", "1.5")
	assert.Equal(t, "a whole number", fault.Of(err).Want)
	q, err := unit.Metre.Parse("quantity", "4.50")
	require.NoError(t, err)
	assert.Equal(t, "4.50", unit.Metre.Format(q))
	assert.Equal(t, "−3", unit.Piece.Format(d("-3")))
	for _, bad := range []string{"", "x", "1e3", "-1", "4.505", "10000000", "2000000000015"} {
		_, err := unit.Metre.Parse("quantity", bad)
		assert.Error(t, err, bad)
	}
	u, err := unit.ByCode("Metre")
	require.NoError(t, err)
	assert.Equal(t, unit.Metre, u)
	_, err = unit.ByCode("yard")
	assert.Error(t, err)
}

func TestSerialNumbers(t *testing.T) {
	assert.Equal(t, "AB12", serial.Normal("ab 12"))
	list, err := serial.ReadList("ab 12, AB13;\nx-1\n")
	require.NoError(t, err)
	assert.Equal(t, []string{"AB12", "AB13", "X-1"}, list)
	_, err = serial.ReadList("ab 12, AB12")
	assert.Error(t, err)
	day := time.Date(2027, 4, 30, 0, 0, 0, 0, time.UTC)
	lot := serial.Lot{Expiry: day}
	assert.False(t, lot.Expired(day), "it sells on its expiry date")
	assert.True(t, lot.Expired(day.AddDate(0, 0, 1)), "not the day after")
	assert.False(t, serial.Lot{}.Expired(day))
}

func TestPostings(t *testing.T) {
	p := ledger.Postings{}
	p.Add(ledger.Cash, d("10"))
	p.Add(ledger.Income, d("-10"))
	p.Add(ledger.TaxOut, d("0"))
	assert.Len(t, p.List(), 2)
	assert.NoError(t, ledger.Balanced(p.List()))
	p.Add(ledger.Cash, d("0.01"))
	assert.Error(t, ledger.Balanced(p.List()))
}
