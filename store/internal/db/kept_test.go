package db

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestAShelfIsBoundedInBytes however large its copies are, and keeps those that were asked for last.
func TestAShelfIsBoundedInBytes(t *testing.T) {
	q := Q{copies: newCopies(), steady: true}
	size := func(one []byte) int { return len(one) }
	s := ShelfOf(q, "things", size)
	assert.Same(t, s, ShelfOf(q, "things", size), "there is one of a name")
	large := make([]byte, shelfBytes/4)
	for id := range uint64(4) {
		s.Add(id, large)
	}
	_, there := s.Get(0)
	assert.True(t, there)
	s.Add(4, large)
	assert.Equal(t, shelfBytes, s.Bytes())
	_, there = s.Get(1)
	assert.False(t, there, "it was not asked for the longest")
	_, there = s.Get(0)
	assert.True(t, there)
	s.Add(0, large[:10])
	assert.Equal(t, 3*(shelfBytes/4)+10, s.Bytes(), "one in place of another")
	s.Add(9, make([]byte, shelfBytes+1))
	assert.LessOrEqual(t, s.Bytes(), shelfBytes)
	q.steady = false
	assert.Nil(t, ShelfOf(q, "things", size), "who may change what they are of does without")
}
