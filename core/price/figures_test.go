package price_test

import (
	"math/rand/v2"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/require"

	"itemrack/core/money"
	"itemrack/core/price"
)

// chance is the same for every run, so that what fails can be run again.
func chance(seed uint64) *rand.Rand { return rand.New(rand.NewPCG(seed, 26)) }

// pence is an amount below most, in pence.
func pence(r *rand.Rand, most int64) decimal.Decimal { return decimal.New(r.Int64N(most), -2) }

func TestAnEndingIsWhatItSays(t *testing.T) {
	r := chance(5)
	endings := []price.Ending{}
	for _, text := range []string{"1/0.95/nearest", "1/0.95/up", "1/0.95/down", "10/9/nearest", "10/9/up",
		"0.05/0/nearest", "5/4.99/down", "1/0/up"} {
		e, err := price.ParseEnding(text, money.Hundredth)
		require.NoError(t, err)
		endings = append(endings, e)
	}
	for range 4000 {
		amount, e := pence(r, 100_000).Add(d("0.01")), endings[r.IntN(len(endings))]
		got, _ := e.Apply(amount, money.Hundredth)
		require.True(t, got.IsPositive(), "%s with %s is %s", amount, e.Text(), got)
		require.True(t, got.Sub(e.End).Mod(e.Step).IsZero(), "%s with %s is %s", amount, e.Text(), got)
		switch {
		case e.Way == price.Up:
			require.True(t, got.GreaterThanOrEqual(amount) && got.Sub(amount).LessThan(e.Step), "%s with %s is %s",
				amount, e.Text(), got)
		case e.Way == price.Down && amount.GreaterThanOrEqual(e.End.Add(e.Step)):
			require.True(t, got.LessThanOrEqual(amount) && amount.Sub(got).LessThan(e.Step), "%s with %s is %s", amount,
				e.Text(), got)
		case e.Way == price.Nearest && amount.GreaterThanOrEqual(e.End.Add(e.Step)):
			require.True(t, got.Sub(amount).Abs().Mul(d("2")).LessThanOrEqual(e.Step), "%s with %s is %s", amount,
				e.Text(), got)
		}
		again, _ := e.Apply(got, money.Hundredth)
		require.True(t, again.Equal(got), "what ends so already stays")
	}
}

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }
