package paper_test

import (
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"itemrack/core/paper"
)

func d(s string) decimal.Decimal { return decimal.RequireFromString(s) }

// wide measures each letter as half the size.
func wide(text string, _ paper.Face, size float64) float64 {
	return float64(len([]rune(text))) * size / 2
}

func TestPaperFitsCutsAndWraps(t *testing.T) {
	size, ok := paper.Fit(wide, "abcd", paper.Text, 3, 2, 5)
	assert.True(t, ok)
	assert.InDelta(t, 2.5, size, 0.01)
	_, ok = paper.Fit(wide, "abcdefgh", paper.Text, 3, 2, 5)
	assert.False(t, ok)
	assert.Equal(t, "abcd", paper.Cut(wide, "abcd", paper.Text, 2, 4))
	assert.Equal(t, "abc…", paper.Cut(wide, "abcdef", paper.Text, 2, 4))
	assert.Equal(t, []string{"one two", "three"}, paper.Wrap(wide, "one two three", paper.Text, 2, 8))
	assert.Equal(t, []string{"abcd", "efgh", "i"}, paper.Wrap(wide, "abcdefghi", paper.Text, 2, 4))
	assert.Equal(t, []string{""}, paper.Wrap(wide, "", paper.Text, 2, 4))
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`[a-z]{1,9}( [a-z]{1,30}){0,6}`).Draw(t, "text")
		lines := paper.Wrap(wide, text, paper.Text, 2, 12)
		for _, l := range lines {
			require.LessOrEqual(t, wide(l, paper.Text, 2), 12.0)
		}
		require.Equal(t, strings.ReplaceAll(text, " ", ""), strings.ReplaceAll(strings.Join(lines, ""), " ", ""),
			"nothing is lost")
	})
}

func TestSteps(t *testing.T) {
	began := time.Date(2026, 11, 1, 0, 0, 0, 0, time.UTC)
	mark := d("5")
	path, notch := paper.Steps([]paper.Point{{At: began, Level: d("0")}, {At: began.Add(time.Hour), Level: d("10")}},
		began.Add(2*time.Hour), &mark, 100, 56)
	assert.Equal(t, "M0.0 54.0H50.0V4.0H100.0", path)
	assert.InDelta(t, 29, notch, 0.01)
	path, notch = paper.Steps(nil, began, nil, 100, 56)
	assert.Empty(t, path)
	assert.Negative(t, notch)
	path, _ = paper.Steps([]paper.Point{{At: began, Level: d("1")}}, began, nil, 100, 56)
	assert.Equal(t, "M100.0 4.0H100.0", path, "nothing has passed yet")
}

func TestBarsAreRuns(t *testing.T) {
	bars := paper.Bars([]bool{true, true, false, true}, 10, 5, 0.5, 8)
	assert.Equal(t, []paper.Shape{{X: 10, Y: 5, W: 1, H: 8}, {X: 11.5, Y: 5, W: 0.5, H: 8}}, bars)
	moved := paper.Moved(bars, 1, 2)
	assert.Equal(t, 11.0, moved[0].X)
	assert.Equal(t, 10.0, bars[0].X, "the shapes themselves stay")
}

// chance is the same for every run, so that what fails can be run again.
func chance(seed uint64) *rand.Rand { return rand.New(rand.NewPCG(seed, 26)) }

// even is a measure of a font whose letters are all alike.
func even(text string, _ paper.Face, size float64) float64 {
	return float64(len([]rune(text))) * size / 2
}

func TestWordsOnPaper(t *testing.T) {
	size, fits := paper.Fit(even, "ten little", paper.Face(""), 4, 2, 15)
	assert.True(t, fits)
	assert.InDelta(t, 3.0, size, 0.01)
	_, fits = paper.Fit(even, "far too long for it", paper.Face(""), 4, 2, 10)
	assert.False(t, fits)
	assert.Equal(t, "short", paper.Cut(even, "short", paper.Face(""), 2, 10))
	assert.Equal(t, "a name…", paper.Cut(even, "a name of some length", paper.Face(""), 2, 8))
	assert.Equal(t, "…", paper.Cut(even, "wide", paper.Face(""), 9, 1))
	r := chance(9)
	for range 500 {
		words := make([]string, 1+r.IntN(9))
		for i := range words {
			words[i] = strings.Repeat("m", 1+r.IntN(14))
		}
		text := strings.Join(words, " ")
		lines := paper.Wrap(even, text, paper.Face(""), 2, 8)
		for _, line := range lines {
			require.LessOrEqual(t, even(line, paper.Face(""), 2), 8.0, text)
		}
		require.Equal(t, strings.ReplaceAll(text, " ", ""), strings.ReplaceAll(strings.Join(lines, ""), " ", ""),
			"no letter is lost")
	}
}
