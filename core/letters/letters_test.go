package letters_test

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/letters"
)

// chance is the same for every run, so that what fails can be run again.
func chance(seed uint64) *rand.Rand { return rand.New(rand.NewPCG(seed, 26)) }

func TestLettersOfAnyLanguage(t *testing.T) {
	for text, want := range map[string]string{"Größe": "groesse", "Ærø": "aero", "Żółć": "zolc", "L’Été": "lete",
		"9'6": "96", "Ｘ": "", "a-b c": "abc", "": ""} {
		assert.Equal(t, want, letters.Only(text), text)
	}
	assert.Equal(t, "l ete", letters.Plain("L Été"))
	r := chance(7)
	for range 500 {
		text := make([]rune, r.IntN(20))
		for i := range text {
			text[i] = rune(32 + r.IntN(600))
		}
		once := letters.Only(string(text))
		require.Equal(t, once, letters.Only(once), "what is plain stays")
		require.Equal(t, -1, strings.IndexFunc(once, func(r rune) bool { return !letters.Code(r) }))
	}
}
