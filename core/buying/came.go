package buying

import (
	"time"

	"itemrack/core/fault"
	"itemrack/core/terms"
)

// Came is when goods came in that came on a day in the shop's zone: now on the day itself,
// at its noon before. A day to come is refused.
func Came(on *time.Time, now time.Time, set terms.Terms) (time.Time, error) {
	today := set.Day(now)
	if on == nil || on.Equal(today) {
		return now, nil
	}
	if on.After(today) {
		return now, fault.Field("came_on", on.Format(time.DateOnly), "today or a day before",
			"Goods can't have come on %s: that day is still to come.", on.Format("2 Jan 2006"))
	}
	return time.Date(on.Year(), on.Month(), on.Day(), 12, 0, 0, 0, set.Zone).UTC(), nil
}
