package stock

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestEveryKindOfPaper has a name and a prefix of its own, and can be reversed or says by what it is mended.
func TestEveryKindOfPaper(t *testing.T) {
	names, prefixes := map[Kind]bool{}, map[string]bool{}
	for _, k := range Kinds() {
		assert.False(t, names[k], k)
		names[k] = true
		if prefix := k.Prefix(); prefix != "" {
			assert.False(t, prefixes[prefix], prefix)
			prefixes[prefix] = true
		} else {
			assert.Contains(t, []Kind{Sale, Return}, k, "a register gives its numbers")
		}
		assert.NotEqual(t, k.Reversible(), k.MendedBy() != "", "%s: one or the other", k)
		err := k.CheckReversal("X-1", "")
		if k.Reversible() {
			assert.NoError(t, err)
		} else {
			assert.ErrorContains(t, err, k.MendedBy())
		}
		assert.ErrorContains(t, k.CheckReversal("X-1", "RV-2"), "RV-2", "once")
		if k.Brings() || k.Moves() {
			assert.Contains(t, Movements(), k)
		}
	}
	assert.Len(t, names, 22)
	unknown := Kind("Nothing")
	assert.False(t, unknown.Reversible() || unknown.Brings() || unknown.Moves())
	assert.Empty(t, unknown.Prefix())
}
