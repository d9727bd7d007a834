package search

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestWords(t *testing.T) {
	assert.Equal(t, []string{"tidewater", "rash", "vest", "m"}, Words("Tidewater rash-vest, M (rash)"))
	assert.Equal(t, []string{"ecume", "strasse", "10", "6", "brackwaters"}, Words("Écume Straße 10/6 Brackwater’s"))
	assert.Empty(t, Words(" · – "))
	assert.Equal(t, "qztwv qzcor qzm", Index("TWV-COR-M", "m"))
	assert.Equal(t, "+qztide* +qzm*", Query("tide M"))
	assert.Empty(t, Query(`"+*`))
	assert.Equal(t, []string{"06f22", "05b57", "42"}, Words("漢字42"))
	assert.Equal(t, []string{"006330062a", "x"}, Words("ست x"))
	assert.Equal(t, []string{"doska"}, Words("Доска"), "what can be written with these letters is")
	assert.Equal(t, Words("ﾛｰﾌﾟ rope"), Words("ﾛｰﾌﾟrope"))
	assert.Empty(t, Near("06f22", []string{"06f23"}, 1), "numbers are not guessed at")
}

func TestTypingErrorsAreForgiven(t *testing.T) {
	known := []string{"tidewater", "coral", "vest", "wetsuit", "sun", "sung", "board"}
	for typed, want := range map[string][]string{"tidewatre": {"tidewater"}, "tidwater": {"tidewater"},
		"tyydewater": {"tidewater"}, "corral": {"coral"}, "vets": {"vest"}, "boad": {"board"}} {
		assert.Equal(t, want, Near(typed, known, 3), typed)
	}
	for _, typed := range []string{"tide", "sum", "xyzzy", "co4al", "wet"} {
		assert.Empty(t, Near(typed, known, 3), typed)
	}
	assert.Equal(t, []string{"aaaab", "aaaac"}, Near("aaaad", []string{"aaaac", "aaaab", "aaaae"}, 2))
}

func TestDistance(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := rapid.StringMatching(`[abc]{0,8}`).Draw(t, "a"), rapid.StringMatching(`[abc]{0,8}`).Draw(t, "b")
		require.Equal(t, distance(a, b, 9), distance(b, a, 9))
		require.Equal(t, a == b, distance(a, b, 9) == 0)
		require.LessOrEqual(t, distance(a, b, 9), max(len(a), len(b)))
	})
}
