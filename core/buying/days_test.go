package buying

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"itemrack/core/fault"
)

func TestDaysOfBillsAndPayments(t *testing.T) {
	day := func(n int) time.Time { return time.Date(2026, 12, n, 0, 0, 0, 0, time.UTC) }
	for _, c := range []struct {
		billed, due int
		field       string
	}{{1, 1, ""}, {1, 31, ""}, {1, 0, "due_on"}} {
		err := CheckBillDays(day(c.billed), day(c.due))
		field := ""
		if err != nil {
			field = fault.Of(err).Field
		}
		assert.Equal(t, c.field, field, "of the %d., due on the %d.", c.billed, c.due)
	}
	assert.NoError(t, CheckPaidOn(day(1), day(1)))
	assert.NoError(t, CheckPaidOn(day(0), day(1)))
	assert.Equal(t, "paid_on", fault.Of(CheckPaidOn(day(2), day(1))).Field)
}
