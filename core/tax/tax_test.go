package tax_test

import (
	"math/rand/v2"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/money"
	"itemrack/core/sale"
	"itemrack/core/tax"
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

func line(quantity, amount, percent string) sale.Line {
	return sale.Line{Quantity: d(quantity), Price: d(amount), Percent: d(percent)}
}

// chance is the same for every run, so that what fails can be run again.
func chance(seed uint64) *rand.Rand { return rand.New(rand.NewPCG(seed, 26)) }

// pence is an amount below most, in pence.
func pence(r *rand.Rand, most int64) decimal.Decimal { return decimal.New(r.Int64N(most), -2) }

func TestTaxGoesThereAndBack(t *testing.T) {
	r := chance(4)
	for range 3000 {
		amount, percent := pence(r, 500_000), decimal.New(r.Int64N(300), -1)
		net := tax.With.Net(amount, percent, money.Hundredth)
		require.True(t, tax.With.Price(net, percent).Sub(amount).Abs().LessThanOrEqual(d("0.0065")),
			"%s with %s %% in it: half a penny of net at most", amount, percent)
		require.True(t, tax.Without.Net(amount, percent, money.Hundredth).Equal(amount))
		for _, basis := range []tax.Basis{tax.With, tax.Without} {
			gross, included := basis.Gross(amount, percent, money.Hundredth), basis.Tax(amount, percent,
				money.Hundredth)
			require.True(t, included.Equal(money.Hundredth.Round(included)))
			require.True(t, gross.GreaterThanOrEqual(included))
		}
		require.True(
			t,
			tax.Without.Gross(amount, percent, money.Hundredth).
				Equal(amount.Add(tax.On(amount, percent, money.Hundredth))),
		)
		require.True(t, tax.With.Gross(amount, percent, money.Hundredth).Equal(amount))
	}
	assert.NotEqual(t, tax.With.String(), tax.Without.String())
}
