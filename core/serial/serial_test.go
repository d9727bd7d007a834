package serial_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/serial"
)

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

func TestSerialNumbersAsTheyAreTyped(t *testing.T) {
	list, err := serial.ReadList(" ab 12;CD34,\n\r ef\t56 ,, ")
	require.NoError(t, err)
	assert.Equal(t, []string{"AB12", "CD34", "EF56"}, list)
	_, err = serial.ReadList("ab12, AB 12")
	assert.ErrorContains(t, err, "twice")
	_, err = serial.ReadList(strings.Repeat("9", 41))
	assert.ErrorContains(t, err, "too long")
	day := time.Date(2027, 6, 30, 0, 0, 0, 0, time.UTC)
	lot := serial.Lot{Number: "K614", Expiry: day}
	assert.False(t, lot.Expired(day), "it sells on its expiry date")
	assert.True(t, lot.Expired(day.AddDate(0, 0, 1)), "not the day after")
	assert.False(t, serial.Lot{}.Expired(day), "without an expiry it keeps")
}

// TestARangeOfNumbers: BW26-0100..0120 are 21 numbers, each with its zeros.
func TestARangeOfNumbers(t *testing.T) {
	for typed, want := range map[string]string{"bw26-0100..0103": "BW26-0100 BW26-0101 BW26-0102 BW26-0103",
		"7..9, A1": "7 8 9 A1", "A..B": "A..B", "X9..9": "X9",
		"T-98..101": "T-98 T-99 T-100 T-101"} {
		list, err := serial.ReadList(typed)
		require.NoError(t, err, typed)
		assert.Equal(t, want, strings.Join(list, " "))
	}
	list, err := serial.ReadList("BW26-0100..0120")
	require.NoError(t, err)
	assert.Len(t, list, 21)
	for _, bad := range []string{"A9..3", "A1..2000", "A1..3, A2"} {
		_, err := serial.ReadList(bad)
		require.Error(t, err, bad)
		assert.Equal(t, "serials", fault.Of(err).Field)
	}
}
