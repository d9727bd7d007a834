package catalog

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/stock"
	"itemrack/core/unit"
)

func TestARestockLevelIsAQuantityOrAShare(t *testing.T) {
	for typed, want := range map[string]string{"12": "12", "20 %": "20 %", " 20%": "20 %", "12,5 %": "12.5 %", "": "",
		"0 %": "0 %"} {
		level, percent, err := ParseRestock(typed, unit.Piece)
		require.NoError(t, err, typed)
		assert.Equal(t, want, SaidRestock(level, percent), typed)
	}
	for _, typed := range []string{"-1", "1.5", "101 %", "-1 %", "%", "many", "20 % %"} {
		_, _, err := ParseRestock(typed, unit.Piece)
		require.NotNil(t, fault.Of(err), typed)
		assert.Equal(t, "restock_level", fault.Of(err).Field)
	}
	// 60 after the last delivery, 20 %: at 12 no, at 11 yes
	level := RestockAt(d("20"), d("60"), unit.Piece)
	assert.Equal(t, "12", level.String())
	item := stock.Item{Restock: &level}
	assert.False(t, item.Low(d("12")))
	assert.True(t, item.Low(d("11")))
	assert.Equal(t, "2", RestockAt(d("20"), d("7"), unit.Piece).String(), "rounded up")
	assert.Equal(t, "1.5", RestockAt(d("20"), d("7.5"), unit.Metre).String())
}

func TestExpiryIsToldDaysBefore(t *testing.T) {
	days, err := ParseExpiryDays("45", stock.ByLot)
	require.NoError(t, err)
	assert.Equal(t, 45, *days)
	none, err := ParseExpiryDays(" ", stock.Counted)
	require.NoError(t, err)
	assert.Nil(t, none)
	for _, typed := range []string{"-1", "1.5", "4000", "soon"} {
		_, err := ParseExpiryDays(typed, stock.ByLot)
		assert.Equal(t, "expiry_days", fault.Of(err).Field, typed)
	}
	_, err = ParseExpiryDays("45", stock.Counted)
	assert.ErrorContains(t, err, "kept by lot")
}
