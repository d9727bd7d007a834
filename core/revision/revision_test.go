package revision_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/revision"
)

func TestCheck(t *testing.T) {
	require.NoError(t, revision.Check("This delivery", 3, 3))
	require.NoError(t, revision.Check("This delivery", 0, 3), "a program that says none")
	for _, shown := range []uint64{1, 2, 4} {
		err := revision.Check("This delivery", shown, 3)
		require.True(t, fault.Is(err, fault.Conflict))
		assert.Equal(t, "revision", fault.Of(err).Field)
		assert.Equal(t, "revision 3", fault.Of(err).Want)
	}
}
