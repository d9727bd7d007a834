package count_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/count"
	"itemrack/core/fault"
)

// TestWhatComesLate: by how much says the device's own clock, which may be set to anything.
func TestWhatComesLate(t *testing.T) {
	begun := time.Date(2026, 11, 20, 9, 0, 0, 0, time.UTC)
	now := begun.Add(time.Hour)
	week := int64(7 * 24 * 3600 * 1000)
	for _, c := range []struct {
		ago  int64
		want time.Time
		late bool
	}{
		{0, now, false},
		{1000, now.Add(-time.Second), false},
		{1001, now.Add(-1001 * time.Millisecond), true},
		{3600_000, begun, true},
		{3600_001, begun, true},
		{week, begun, true},
	} {
		at, late, err := count.Moment(now, begun, c.ago)
		require.NoError(t, err, c.ago)
		assert.Equal(t, c.want, at, c.ago)
		assert.Equal(t, c.late, late, c.ago)
	}
	for _, ago := range []int64{-1, week + 1} {
		_, _, err := count.Moment(now, begun, ago)
		assert.Equal(t, "ago_ms", fault.Of(err).Field, ago)
	}
	for _, clock := range []int64{500, 1_800_000_000_000} {
		ago, err := count.Ago(clock-400, clock)
		require.NoError(t, err)
		assert.EqualValues(t, 400, ago)
		ago, err = count.Ago(clock, clock)
		require.NoError(t, err)
		assert.Zero(t, ago)
		_, err = count.Ago(clock+1, clock)
		assert.Equal(t, "done_ms", fault.Of(err).Field)
	}
}
