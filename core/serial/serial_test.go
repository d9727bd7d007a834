package serial_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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
