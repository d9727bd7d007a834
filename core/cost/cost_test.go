package cost_test

import (
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/cost"
	"itemrack/core/fault"
)

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

func TestPool(t *testing.T) {
	pool := cost.Pool{}
	assert.True(t, pool.Average().IsZero())
	pool = pool.Bought(d("10"), d("200")).Bought(d("5"), d("135"))
	assert.Equal(t, "22.333333", pool.Average().String())
	assert.Equal(t, "89.33", pool.Worth(d("4")).StringFixed(2))
	pool, err := pool.Out(d("4"), d("89.33"), cost.Source{})
	require.NoError(t, err)
	_, err = pool.Out(d("12"), d("1"), cost.Source{})
	assert.True(t, fault.Is(err, fault.Refused))
	assert.Equal(t, "245.67", pool.Worth(d("11")).StringFixed(2))
	pool, err = pool.Out(d("11"), d("245.67"), cost.Source{})
	require.NoError(t, err)
	assert.Equal(t, "0.00", pool.Value.StringFixed(2))
	assert.Equal(t, "27", pool.Average().String(), "with none left, the last cost")
	assert.True(t, cost.Pool{}.Worth(d("3")).IsZero())
	assert.Equal(t, "81.00", pool.Worth(d("3")).StringFixed(2), "found with none in stock: at the last cost")
	assert.Equal(t, "3333.33", cost.Pool{Quantity: d("3"), Value: d("1.00")}.Worth(d("10000")).StringFixed(2),
		"not 10000 × 0.333333")
}

// TestPoolNeverLosesAPenny sells a pool out in any steps, by either method.
func TestPoolNeverLosesAPenny(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		pool := cost.Pool{
			Method: rapid.SampledFrom(cost.Methods).Draw(t, "method"),
		}.Bought(d("60"), d("20.02")).
			Bought(d("37"), d("11.11"))
		sum := d("0")
		for pool.Quantity.IsPositive() {
			q := decimal.Min(pool.Quantity, decimal.New(rapid.Int64Range(1, 20).Draw(t, "q"), 0))
			value := pool.Worth(q)
			var err error
			pool, err = pool.Out(q, value, cost.Source{})
			require.NoError(t, err)
			require.NoError(t, pool.Even())
			require.False(t, value.IsNegative())
			sum = sum.Add(value)
		}
		require.Equal(t, "31.13", sum.StringFixed(2))
		require.True(t, pool.Value.IsZero())
	})
}

// TestFirstInFirstOutAlone has what a pool does that no document shows.
func TestFirstInFirstOutAlone(t *testing.T) {
	pool := cost.Pool{Method: cost.FIFO}.Bought(d("2"), d("40")).Bought(d("1"), d("27"))
	assert.Equal(t, "121.00", pool.Worth(d("5")).StringFixed(2),
		"two more turn up than there are: they are worth the last cost")
	_, err := pool.Out(d("1"), d("22.33"), cost.Source{})
	assert.ErrorContains(t, err, "20 by their layers", "the average is not what goes out")
	pool.Value = d("66")
	assert.ErrorContains(t, pool.Even(), "not the pool of 3 worth 66")
	_, err = cost.ParseMethod("last in, first out")
	assert.Equal(t, "costing", fault.Of(err).Field)
	m, err := cost.ParseMethod("")
	require.NoError(t, err)
	assert.Equal(t, cost.MovingAverage, m)
}
