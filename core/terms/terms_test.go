package terms

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/cost"
	"itemrack/core/tax"
)

func TestTermsAreReadFromSettings(t *testing.T) {
	usual, err := Read(nil)
	require.NoError(t, err)
	assert.Equal(t, "GBP", usual.Currency.Code)
	assert.Equal(t, tax.With, usual.Basis)
	assert.Equal(t, cost.MovingAverage, usual.Costing)

	yen, err := Read(
		map[string]string{
			"currency": "JPY",
			"prices":   "without tax",
			"zone":     "Asia/Tokyo",
			"costing":  "first in, first out",
		},
	)
	require.NoError(t, err)
	assert.EqualValues(t, 0, yen.Minor().Places())
	assert.Equal(t, tax.Without, yen.Basis)
	assert.Equal(t, cost.FIFO, yen.Costing)

	_, err = Read(map[string]string{"zone": "Sea/Nowhere"})
	require.Error(t, err)
	_, err = Read(map[string]string{"costing": "by feel"})
	require.Error(t, err)
}

func TestADayIsTheShops(t *testing.T) {
	tokyo, err := Read(map[string]string{"zone": "Asia/Tokyo"})
	require.NoError(t, err)
	late := time.Date(2026, 11, 26, 20, 0, 0, 0, time.UTC) // five in the morning there
	assert.Equal(t, "2026-11-27", tokyo.Day(late).Format(time.DateOnly))
	assert.Equal(t, time.Date(2026, 11, 26, 15, 0, 0, 0, time.UTC), tokyo.DayBegan(late))
	at, ok := tokyo.Moment("2026-11-27 05:00")
	assert.True(t, ok)
	assert.Equal(t, late, at)
	_, ok = tokyo.Moment("27 November")
	assert.False(t, ok)
}
