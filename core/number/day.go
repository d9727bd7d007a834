package number

import (
	"strings"
	"time"

	"itemrack/core/fault"
)

// Day reads a date as 2026-12-31, 31/12/2026 or 31.12.2026, at midnight UTC: the day goes
// before the month.
func Day(field, text string) (time.Time, error) {
	typed := strings.Join(strings.Fields(text), "")
	for _, layout := range []string{time.DateOnly, "2/1/2006", "2.1.2006", "2-1-2006"} {
		if day, err := time.Parse(layout, typed); err == nil && day.Year() >= 1970 && day.Year() < 2200 {
			return day, nil
		}
	}
	return time.Time{}, fault.Field(field, text, "a date such as 2026-12-31 or 31/12/2026", "%q is not a date.", text)
}

// DayToCome reads a date that is today or later.
func DayToCome(field, text string, today time.Time) (time.Time, error) {
	day, err := Day(field, text)
	if err == nil && day.Before(today) {
		err = fault.Field(field, text, "today or a later day", "%s is over.", day.Format("2 January 2006"))
	}
	return day, err
}
