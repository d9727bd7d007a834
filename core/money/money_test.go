package money

import (
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/fault"
)

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

func list(texts ...string) []decimal.Decimal {
	out := make([]decimal.Decimal, len(texts))
	for i, s := range texts {
		out[i] = d(s)
	}
	return out
}

func texts(amounts []decimal.Decimal) []string {
	out := make([]string, len(amounts))
	for i, a := range amounts {
		out[i] = a.StringFixed(2)
	}
	return out
}

func TestSplit(t *testing.T) {
	for _, c := range []struct {
		name    string
		total   string
		weights []decimal.Decimal
		want    []string
	}{{"a basket discount by value", "10.00", list("30", "20", "17"), []string{"4.48", "2.98", "2.54"}},
		{"freight by value", "30.00", list("200", "200"), []string{"15.00", "15.00"}},
		{"freight by quantity", "30.00", list("10", "5"), []string{"20.00", "10.00"}},
		{"the earlier line wins a tie", "0.01", list("1", "1"), []string{"0.01", "0.00"}},
		{"below zero", "-10.00", list("1", "1", "1"), []string{"-3.34", "-3.33", "-3.33"}},
		{"no weights at all", "1.00", list("0", "0", "0"), []string{"0.34", "0.33", "0.33"}},
		{"a weight below zero counts as none", "1.00", list("-5", "1"), []string{"0.00", "1.00"}},
		{"nothing to share", "0", list("1", "2"), []string{"0.00", "0.00"}}} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, texts(Hundredth.Split(d(c.total), c.weights))) })
	}
	assert.Nil(t, Hundredth.Split(d("1"), nil))
}

func TestSplitAddsUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		total := decimal.New(rapid.Int64Range(-1e9, 1e9).Draw(t, "pence"), -2)
		raw := rapid.SliceOfN(rapid.Int64Range(0, 1e7), 1, 40).Draw(t, "weights")
		weights := make([]decimal.Decimal, len(raw))
		all := decimal.Zero
		for i, w := range raw {
			weights[i] = decimal.New(w, -2)
			all = all.Add(weights[i])
		}
		sum := decimal.Zero
		for i, share := range Hundredth.Split(total, weights) {
			require.True(t, share.Equal(share.Round(2)))
			if all.IsPositive() { // no share is a penny or more from its exact part
				exact := total.Mul(weights[i]).Div(all)
				require.True(t, share.Sub(exact).Abs().LessThan(d("0.0100001")), "%s is far from %s", share, exact)
			}
			sum = sum.Add(share)
		}
		require.True(t, sum.Equal(total), "%s of %s", sum, total)
	})
}

func TestPartsAddUp(t *testing.T) {
	// 3 × 7.99 less 4.00 = 19.97, taken back one by one
	paid, given := d("19.97"), decimal.Zero
	for i, want := range []string{"6.66", "6.65", "6.66"} {
		part := Hundredth.Part(paid, given, decimal.New(int64(i), 0), d("1"), d("3"))
		assert.Equal(t, want, part.StringFixed(2))
		given = given.Add(part)
	}
	assert.True(t, given.Equal(paid))
}

func TestRound(t *testing.T) {
	for in, want := range map[string]string{"0.005": "0.01", "-0.005": "-0.01", "2.345": "2.35", "2.3449": "2.34"} {
		assert.Equal(t, want, Hundredth.Round(d(in)).StringFixed(2), in)
	}
}

func TestParse(t *testing.T) {
	for in, want := range map[string]string{"34.95": "34.95", " £1,250.5 ": "1250.50", "0": "0.00"} {
		got, err := Hundredth.Parse("price", in)
		require.NoError(t, err, in)
		assert.Equal(t, want, got.StringFixed(2), in)
	}
	for _, in := range []string{"", "abc", "1e9", "-1", "1.005", "1000000000", "1.2.3", "NaN"} {
		_, err := Hundredth.Parse("price", in)
		require.Error(t, err, in)
		assert.Equal(t, "price", fault.Of(err).Field)
		assert.NotEmpty(t, fault.Of(err).Want)
	}
	_, err := ParseCost("cost", "1.234567")
	assert.NoError(t, err)
	_, err = ParseCost("cost", "1.2345678")
	assert.Error(t, err)
}

func TestFormat(t *testing.T) {
	assert.Equal(t, "£1,785.60", CurrencyByCode("GBP").Format(d("1785.6")))
	assert.Equal(t, "−£4.00", CurrencyByCode("GBP").Format(d("-4")))
	assert.Equal(t, "£0.05", CurrencyByCode("GBP").Format(d("0.05")))
	assert.Equal(t, "1,234,567", Group("1234567"))
	assert.Equal(t, "-123.00", Group("-123.00"))
}

func TestLess(t *testing.T) {
	for _, c := range []struct {
		minor           Minor
		amount, percent string
		want            string
	}{{0, "14.50", "20", "11.60"}, {0, "34.95", "12.5", "30.58"}, {0, "0.01", "50", "0.01"}, {0, "9.99", "100", "0.00"},
		{0, "9.99", "0", "9.99"}, {-2, "995", "33", "667"}, {1, "1.005", "10", "0.905"}} {
		got := c.minor.Less(decimal.RequireFromString(c.amount), decimal.RequireFromString(c.percent))
		assert.Equal(t, c.want, c.minor.Text(got), "%s less %s %%", c.amount, c.percent)
	}
}
