package revision_test

import (
	"testing"

	"github.com/shopspring/decimal"
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

// TestOfTellsStatesApart: the same state is the same revision, any other another.
func TestOfTellsStatesApart(t *testing.T) {
	type list struct {
		Name    string
		Percent decimal.Decimal
	}
	shown := list{"Club", decimal.New(-10, 0)}
	assert.NoError(t, revision.CheckOf("Club", revision.Of(shown), shown))
	assert.NoError(t, revision.CheckOf("Club", "", list{}), "a program that says none")
	for _, other := range []list{{"Club ", shown.Percent}, {"Club", decimal.New(-11, 0)}, {}} {
		err := revision.CheckOf("Club", revision.Of(shown), other)
		require.NotNil(t, fault.Of(err))
		assert.Equal(t, "revision", fault.Of(err).Field)
		assert.Contains(t, err.Error(), "Club was changed meanwhile")
	}
}
