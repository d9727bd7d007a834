package unit_test

import (
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/unit"
)

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

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

func TestUnitsTakeWhatTheyCanHold(t *testing.T) {
	for _, u := range unit.All {
		again, err := unit.ByCode(u.Code)
		require.NoError(t, err)
		assert.Equal(t, u, again)
		finest := decimal.New(1, -u.Decimals)
		assert.NoError(t, u.Check("quantity", finest))
		assert.Error(t, u.Check("quantity", finest.Div(d("10"))),
			"a quantity finer than its unit is an error, not a rounding")
		q, err := u.Parse("quantity", u.Format(finest))
		require.NoError(t, err)
		assert.True(t, q.Equal(finest))
	}
	_, err := unit.ByCode("furlong")
	assert.Equal(t, "unit", fault.Of(err).Field)
	assert.Equal(t, "−3", unit.Piece.Format(d("-3")), "a true minus sign")
}
