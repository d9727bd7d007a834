package fault_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"itemrack/core/fault"
)

func TestFaults(t *testing.T) {
	err := fault.Field("price", "abc", "an amount", "%q is not an amount.", "abc")
	assert.EqualError(t, err, `"abc" is not an amount.`)
	assert.True(t, fault.Is(err, fault.Invalid))
	assert.Nil(t, fault.Of(nil))
	assert.False(t, fault.Is(assert.AnError, fault.Invalid))
	for kind, made := range map[fault.Kind]*fault.Error{fault.NotFound: fault.Missing("x", 1, "gone"),
		fault.Refused: fault.Refuse("x", 1, "y", "no"), fault.Conflict: fault.Clash("x", 1, "y", "taken")} {
		assert.Equal(t, kind, made.Kind)
		assert.Equal(t, "1", made.Value)
	}
}

func TestAdviceSaysNothingTwice(t *testing.T) {
	assert.Equal(t, "Right would be: 1 to 60 characters.",
		fault.Field("name", "", "1 to 60 characters", "A shelf needs a name.").Advice())
	assert.Empty(t, fault.Field("name", "", "1 to 60 characters", "A shelf needs a name of 1 to 60 characters.").Advice())
	assert.Equal(t, "Right would be: 1.", fault.Field("quantity", "1.5", "1", "1.5 of a board is not possible.").Advice())
	assert.Equal(t, "What helps is an empty shelf.",
		fault.Refuse("closed", true, "an empty shelf", "4 lie there.").Advice())
	assert.Equal(t, "4 lie there. What helps is an empty shelf.",
		fault.Refuse("closed", true, "an empty shelf", "4 lie there.").Whole())
	for _, quiet := range []*fault.Error{fault.Clash("name", "A", "another name", "It is there."),
		fault.Missing("id", 4, "Gone.")} {
		assert.Empty(t, quiet.Advice())
	}
}
