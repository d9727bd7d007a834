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
