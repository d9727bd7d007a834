package web

import (
	"fmt"
	"net/http"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"itemrack/shop/counts"
	"itemrack/shop/testkit"
)

// TestWhatADeviceSendsAgainCountsOnce: the same body under the same key, however much later by the device's clock; and
// only for the person who is signed in.
func TestWhatADeviceSendsAgainCountsOnce(t *testing.T) {
	s := testkit.New(t)
	c := newClient(t, s)
	m := s.Vest(t).Variants[1]
	s.Stock(t, m.ID, "10", "13.95")
	plan, err := counts.PlanCount(s.By(s.Callum), counts.CountPlan{Branch: 1, Whole: true})
	require.NoError(t, err)
	c.signIn("callum")
	send := func(key, quantity, clock, person string) (int, string) {
		return c.json("POST", fmt.Sprintf("/api/v1/counts/%d/events", plan.ID),
			fmt.Sprintf(`{"variant_id":%d,"quantity":%q,"done_ms":1000000}`, m.ID, quantity),
			"Idempotency-Key", key, "Device-Clock", clock, "Person", person)
	}
	callum := strconv.FormatUint(s.Callum.ID, 10)
	for _, clock := range []string{"1000400", "1090000", "999"} { // the answer to the first was lost
		status, said := send("step-1", "3", clock, callum)
		if clock == "999" {
			assert.NotEqual(t, http.StatusOK, status, "its clock was set back meanwhile: it says so")
			continue
		}
		require.Equal(t, http.StatusOK, status, said)
	}
	for _, person := range []string{strconv.FormatUint(s.Maren.ID, 10), "x"} {
		status, said := send("step-2", "4", "1000400", person)
		assert.Equal(t, http.StatusConflict, status)
		assert.Contains(t, said, `"field":"person"`)
	}
	for _, clock := range []string{"", "soon", "999999"} {
		status, said := send("step-3", "4", clock, "")
		assert.NotEqual(t, http.StatusOK, status, said)
	}
	stands, err := counts.CountStands(s.By(s.Callum), plan.ID)
	require.NoError(t, err)
	assert.Equal(t, "3", stands.Rows[0].Quantity.String())
}
