package sale_test

import (
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/sale"
	"itemrack/core/unit"
)

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

func TestLabelledComesToItsLabel(t *testing.T) {
	for _, c := range []struct {
		amount, price string
		unit          unit.Unit
		want          string
	}{
		{"10.00", "8.00", unit.Kilogram, "1.25 × 8"},
		{"4.37", "12.50", unit.Kilogram, "0.35 × 12.49"}, // 0.350 kg at 12.50 would be 4.38
		{"0.01", "8.00", unit.Kilogram, "0.001 × 8"},
		{"3.20", "0.64", unit.Metre, "5 × 0.64"},
		{"4.37", "12.50", unit.Piece, "1 × 4.37"},
		{"4.37", "0", unit.Piece, "1 × 4.37"},
	} {
		q, each, err := sale.Labelled(d(c.amount), d(c.price), c.unit, money.Hundredth)
		require.NoError(t, err)
		assert.Equal(t, c.want, q.String()+" × "+each.String())
	}
	for _, c := range [][2]string{{"0", "8.00"}, {"4.00", "0"}} {
		_, _, err := sale.Labelled(d(c[0]), d(c[1]), unit.Kilogram, money.Hundredth)
		require.Error(t, err)
		assert.Equal(t, "code", fault.Of(err).Field)
	}
}

// TestEveryLabelCanBeSold: whatever a scale prints, the line comes to it to the
// penny, and the quantity is one that the unit allows.
func TestEveryLabelCanBeSold(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		amount := decimal.New(rapid.Int64Range(1, 99_999).Draw(t, "amount"), -2)
		price := decimal.New(rapid.Int64Range(1, 50_000).Draw(t, "price"), -2)
		u := rapid.SampledFrom(unit.All).Draw(t, "unit")
		q, each, err := sale.Labelled(amount, price, u, money.Hundredth)
		require.NoError(t, err)
		require.NoError(t, u.Check("quantity", q))
		line := sale.Line{Quantity: q, Price: each, Percent: d("20")}
		require.Equal(t, amount.String(), line.Total().String())
		require.True(t, each.Equal(each.Round(2)))
	})
}
