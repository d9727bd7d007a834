package unit_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/unit"
)

func TestPacksAndLooseUnits(t *testing.T) {
	for text, want := range map[string]string{"40": "40", "3 x 12 + 4": "40", "3×12+4": "40", "3*12": "36",
		"2X10+3x5+1": "36", "0x12+4": "4", " 1,250 ": "1250", "2 x 3 x 4": "24"} {
		q, err := unit.Piece.Parse("quantity", text)
		require.NoError(t, err, text)
		assert.Equal(t, want, q.String(), text)
	}
	q, err := unit.Metre.Parse("quantity", "2 x 12.5 + 0.75")
	require.NoError(t, err)
	assert.Equal(t, "25.75", q.String())
	for _, text := range []string{"", "+", "3x", "x12", "3x12+", "3x-12", "3 12", "12 boxes", "1e9", "3++4",
		strings.Repeat("9x", 30) + "9", "9999999x9999999"} {
		_, err := unit.Piece.Parse("quantity", text)
		require.Error(t, err, text)
		assert.Equal(t, "quantity", fault.Of(err).Field, text)
	}
	_, err = unit.Piece.Parse("quantity", "3 x 1.5")
	assert.ErrorContains(t, err, "whole numbers")
}

func FuzzQuantity(f *testing.F) {
	for _, seed := range []string{"3 x 12 + 4", "1,5", "−2", "×", "0.0001", "9x9x9x9x9x9x9"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		q, err := unit.Kilogram.Parse("quantity", text)
		if err != nil {
			require.NotNil(t, fault.Of(err))
			return
		}
		require.NoError(t, unit.Kilogram.Check("quantity", q), "what is read is a quantity")
	})
}
