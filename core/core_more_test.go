package core_test

import (
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/paper"
	"itemrack/core/sale"
)

func TestPool(t *testing.T) {
	pool := cost.Pool{}
	assert.True(t, pool.Average().IsZero())
	pool = pool.Bought(d("10"), d("200")).Bought(d("5"), d("135"))
	assert.Equal(t, "22.333333", pool.Average().String())
	assert.Equal(t, "89.33", pool.Worth(d("4")).StringFixed(2))
	pool, err := pool.Out(d("4"), d("89.33"), 0)
	require.NoError(t, err)
	_, err = pool.Out(d("12"), d("1"), 0)
	assert.True(t, fault.Is(err, fault.Refused))
	assert.Equal(t, "245.67", pool.Worth(d("11")).StringFixed(2))
	pool, err = pool.Out(d("11"), d("245.67"), 0)
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
			pool, err = pool.Out(q, value, 0)
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
	_, err := pool.Out(d("1"), d("22.33"), 0)
	assert.ErrorContains(t, err, "20 by their layers", "the average is not what goes out")
	pool.Value = d("66")
	assert.ErrorContains(t, pool.Even(), "not the pool of 3 worth 66")
	_, err = cost.ParseMethod("last in, first out")
	assert.Equal(t, "costing", fault.Of(err).Field)
	m, err := cost.ParseMethod("")
	require.NoError(t, err)
	assert.Equal(t, cost.MovingAverage, m)
}

// wide measures each letter as half the size.
func wide(text string, _ paper.Face, size float64) float64 {
	return float64(len([]rune(text))) * size / 2
}

func TestPaperFitsCutsAndWraps(t *testing.T) {
	size, ok := paper.Fit(wide, "abcd", paper.Text, 3, 2, 5)
	assert.True(t, ok)
	assert.InDelta(t, 2.5, size, 0.01)
	_, ok = paper.Fit(wide, "abcdefgh", paper.Text, 3, 2, 5)
	assert.False(t, ok)
	assert.Equal(t, "abcd", paper.Cut(wide, "abcd", paper.Text, 2, 4))
	assert.Equal(t, "abc…", paper.Cut(wide, "abcdef", paper.Text, 2, 4))
	assert.Equal(t, []string{"one two", "three"}, paper.Wrap(wide, "one two three", paper.Text, 2, 8))
	assert.Equal(t, []string{"abcd", "efgh", "i"}, paper.Wrap(wide, "abcdefghi", paper.Text, 2, 4))
	assert.Equal(t, []string{""}, paper.Wrap(wide, "", paper.Text, 2, 4))
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`[a-z]{1,9}( [a-z]{1,30}){0,6}`).Draw(t, "text")
		lines := paper.Wrap(wide, text, paper.Text, 2, 12)
		for _, l := range lines {
			require.LessOrEqual(t, wide(l, paper.Text, 2), 12.0)
		}
		require.Equal(t, strings.ReplaceAll(text, " ", ""), strings.ReplaceAll(strings.Join(lines, ""), " ", ""),
			"nothing is lost")
	})
}

func TestSteps(t *testing.T) {
	began := time.Date(2026, 11, 1, 0, 0, 0, 0, time.UTC)
	mark := d("5")
	path, notch := paper.Steps([]paper.Point{{At: began, Level: d("0")}, {At: began.Add(time.Hour), Level: d("10")}},
		began.Add(2*time.Hour), &mark, 100, 56)
	assert.Equal(t, "M0.0 54.0H50.0V4.0H100.0", path)
	assert.InDelta(t, 29, notch, 0.01)
	path, notch = paper.Steps(nil, began, nil, 100, 56)
	assert.Empty(t, path)
	assert.Negative(t, notch)
	path, _ = paper.Steps([]paper.Point{{At: began, Level: d("1")}}, began, nil, 100, 56)
	assert.Equal(t, "M100.0 4.0H100.0", path, "nothing has passed yet")
}

func TestBarsAreRuns(t *testing.T) {
	bars := paper.Bars([]bool{true, true, false, true}, 10, 5, 0.5, 8)
	assert.Equal(t, []paper.Shape{{X: 10, Y: 5, W: 1, H: 8}, {X: 11.5, Y: 5, W: 0.5, H: 8}}, bars)
	moved := paper.Moved(bars, 1, 2)
	assert.Equal(t, 11.0, moved[0].X)
	assert.Equal(t, 10.0, bars[0].X, "the shapes themselves stay")
}

// TestReceiptHoldsEverythingInside draws a long receipt and holds every shape
// on the roll.
func TestReceiptHoldsEverythingInside(t *testing.T) {
	r := sale.Receipt{
		Shop:   "Saltmarsh Paddle & Swim",
		Branch: "Quay Shop",
		Title:  "Sale Q1-00318",
		Number: "Q1-00318",
		Under:  []string{"20 Nov 2026"},
		Foot:   "Keep this.",
	}
	for range 30 {
		r.Lines = append(r.Lines,
			sale.ReceiptLine{Name: strings.Repeat("Long name ", 6), Detail: "Coral · M", Amount: "1,234.95"})
	}
	r.Sums = []sale.ReceiptSum{{Label: "Total", Amount: "£37,048.50", Large: true},
		{Label: "Cash", Amount: "40,000.00"}}
	page := r.Page(wide)
	assert.Equal(t, 80.0, page.Width)
	amounts := 0
	for _, s := range page.Shapes {
		if s.Text == "1,234.95" {
			amounts++
		}
		assert.LessOrEqual(t, s.Y+s.H, page.Height)
		if s.Text == "" {
			assert.LessOrEqual(t, s.X+s.W, 80.0)
		}
	}
	assert.Equal(t, 30, amounts)
}

func TestFaults(t *testing.T) {
	err := fault.Field("price", "abc", "an amount", "%q is not an amount.", "abc")
	assert.EqualError(t, err, `"abc" is not an amount.`)
	assert.True(t, fault.Is(err, fault.Invalid))
	assert.Nil(t, fault.Of(nil))
	assert.False(t, fault.Is(assert.AnError, fault.Invalid))
	for kind, made := range map[fault.Kind]*fault.Error{fault.NotFound: fault.Missing("x", 1, "gone"), fault.Refused: fault.Refuse("x", 1, "y", "no"), fault.Conflict: fault.Clash("x", 1, "y", "taken")} {
		assert.Equal(t, kind, made.Kind)
		assert.Equal(t, "1", made.Value)
	}
}
