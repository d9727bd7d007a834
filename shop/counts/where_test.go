package counts_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/core/fault"
	"itemrack/core/staff"
	"itemrack/shop/counts"
	"itemrack/shop/office"
	"itemrack/shop/testkit"
)

// TestWhoCountsWorksThere: a schedule of another branch is not taken over by naming one's own, and nobody is put down
// to count where they do not work.
func TestWhoCountsWorksThere(t *testing.T) {
	s := testkit.New(t)
	v := s.Simple(t, "Whistle", "counted", "40.00")
	s.Stock(t, v, "5", "2")
	callum := s.Callum
	callum.Branches = nil
	in := counts.ScheduleInput{Name: "Boathouse", Branch: 2, Every: "days", N: 7, Person: s.Maren.ID, NextOn: "2026-11-20"}
	theirs, err := counts.SaveSchedule(s.By(s.Maren), 0, in)
	require.NoError(t, err)
	in.Branch, in.Person, in.Revision = 1, s.Callum.ID, theirs.Revision
	_, err = counts.SaveSchedule(s.By(callum), theirs.ID, in)
	require.True(t, fault.Is(err, fault.Forbidden), "the schedule is the Boathouse's: %v", err)
	in.Branch = 2
	_, err = counts.SaveSchedule(s.By(callum), 0, in)
	require.Error(t, err, "nor is one made there")
	pia, err := office.AddPerson(s.By(s.Maren), office.NewPerson{Login: "pia", Name: "Pia", Role: staff.Stock, Branch: 1,
		Password: "four words by the sea"})
	require.NoError(t, err)
	_, err = counts.PlanCount(s.By(s.Maren), counts.CountPlan{Branch: 2, Whole: true, Counters: []uint64{pia.ID}})
	require.Error(t, err)
	assert.Equal(t, "counter_ids", fault.Of(err).Field, err)
	_, err = counts.PlanCount(s.By(s.Maren), counts.CountPlan{Branch: 1, Whole: true, Counters: []uint64{pia.ID}})
	require.NoError(t, err)
}
