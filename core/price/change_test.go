package price

import (
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/fault"
	"itemrack/core/money"
)

func TestPercentagesAsTheyAreTyped(t *testing.T) {
	for text, want := range map[string]string{"110": "110", " 52.5 % ": "52.5", "0": "0", "12,5": "12.5"} {
		got, err := ParsePercent("markup", text)
		require.NoError(t, err, text)
		assert.Equal(t, want, got.String(), text)
	}
	for _, bad := range []string{"", "lots", "-5", "100000", "1.00001", "5 % off", "1e2"} {
		_, err := ParsePercent("markup", bad)
		require.Error(t, err, bad)
		assert.Equal(t, "markup", fault.Of(err).Field)
		assert.Contains(t, err.Error(), "no percentage", bad)
	}
}

func TestChanges(t *testing.T) {
	for _, c := range []struct {
		kind           ChangeKind
		text, was, is_ string
		marked         bool
	}{{ByPercent, "10", "34.95", "38.45", false}, {ByPercent, "+10 %", "34.95", "38.45", false},
		{ByPercent, "−10", "34.95", "31.46", false}, {ByPercent, "- 10", "34.95", "31.46", false},
		{ByPercent, "0", "34.95", "34.95", false}, {ByAmount, "-2.50", "34.95", "32.45", false},
		{ByAmount, "0,05", "34.95", "35.00", false}, {ToEnding, "1/0.95/nearest", "41.37", "40.95", false},
		{ToEnding, "1/0.95", "0.40", "0.95", true}} {
		change, err := ParseChange(c.kind, c.text, money.Hundredth)
		require.NoError(t, err, c.text)
		is, marked := change.Apply(d(c.was))
		assert.Equal(t, c.is_, is.StringFixed(2), "%+v", c)
		assert.Equal(t, c.marked, marked, "%+v", c)
	}
	for text, kind := range map[string]ChangeKind{"": ByPercent, "--5": ByPercent, "5.005": ByAmount, "x": ByAmount,
		"none": ToEnding, " ": ToEnding} {
		_, err := ParseChange(kind, text, money.Hundredth)
		require.Error(t, err, text)
		assert.Equal(t, "to", fault.Of(err).Field, text)
	}
	_, err := ParseChange("price_magic", "1", money.Hundredth)
	assert.Equal(t, "what", fault.Of(err).Field)
}

func TestAChangeAndItsOppositeAreNeverFarApart(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		was := decimal.New(rapid.Int64Range(1, 1_000_000).Draw(t, "was"), -2)
		by := decimal.New(rapid.Int64Range(1, 50_000).Draw(t, "by"), -2).String()
		up, err := ParseChange(ByAmount, by, money.Hundredth)
		require.NoError(t, err)
		down, err := ParseChange(ByAmount, "-"+by, money.Hundredth)
		require.NoError(t, err)
		more, _ := up.Apply(was)
		back, _ := down.Apply(more)
		require.True(t, back.Equal(was), "an amount up and down is nothing")
		percent, err := ParseChange(ByPercent, by, money.Hundredth)
		require.NoError(t, err)
		dearer, _ := percent.Apply(was)
		require.True(t, dearer.GreaterThanOrEqual(was) && dearer.Equal(dearer.Round(2)))
	})
}
