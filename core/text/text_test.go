package text

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestTextsAreCountedInCharacters(t *testing.T) {
	assert.Equal(t, 3, Len("é漢🛶"))
	assert.Equal(t, "é漢🛶", Cut("é漢🛶", 3))
	assert.Equal(t, "é漢…", Cut("é漢🛶x", 3))
	assert.Equal(t, "usual", Or(" \t", "usual"))
	assert.Equal(t, "said", Or(" said ", "usual"))
	assert.Equal(t, "a · c", Joined("a", "", "c"))
	assert.Empty(t, Joined("", ""))
}
