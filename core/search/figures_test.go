package search_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/search"
)

// chance is the same for every run, so that what fails can be run again.
func chance(seed uint64) *rand.Rand { return rand.New(rand.NewPCG(seed, 26)) }

func TestASlipOfTheFingersIsFound(t *testing.T) {
	known := []string{"tidewater", "shoreline", "wetsuit", "paddle", "northfold", "neoprene", "rash", "vest"}
	r := chance(8)
	for range 800 {
		word := known[r.IntN(6)]
		at := 1 + r.IntN(len(word)-2)
		slip := map[int]string{0: word[:at] + word[at+1:], 1: word[:at] + "q" + word[at:], 2: word[:at] + "q" +
			word[at+1:], 3: word[:at-1] + word[at:at+1] + word[at-1:at] + word[at+1:]}[r.IntN(4)]
		if slip != word {
			require.Contains(t, search.Near(slip, known, 3), word, slip)
		}
	}
	assert.Empty(t, search.Near("zzzzzzzz", known, 3))
	assert.Empty(t, search.Query("  ,; "), "no words, no question")
}
