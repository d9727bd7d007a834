package count

import (
	"time"

	"itemrack/core/fault"
)

// MostAgo is how long ago what comes late may have happened.
const MostAgo = 7 * 24 * time.Hour

// lateFrom is from when on what was counted is told to have come late.
const lateFrom = time.Second

// Ago is how many milliseconds ago something was done at a moment of a device's own clock, whatever that is set to:
// clock is what it shows now. Both are milliseconds since 1970 UTC.
func Ago(done, clock int64) (int64, error) {
	if clock < done {
		return 0, fault.Field("done_ms", done, "a moment before that of the header Device-Clock",
			"It can't have been counted then.")
	}
	return clock - done, nil
}

// Moment is when something was counted that comes so many milliseconds late, but not before the count was begun; late
// says that it is worth telling.
func Moment(now, begun time.Time, agoMS int64) (at time.Time, late bool, err error) {
	if agoMS < 0 || agoMS > MostAgo.Milliseconds() {
		return time.Time{}, false, fault.Field("ago_ms", agoMS, "0 to 604,800,000", "It can't have been counted then.")
	}
	ago := time.Duration(agoMS) * time.Millisecond
	if at = now.Add(-ago); at.Before(begun) {
		at = begun
	}
	return at, ago > lateFrom, nil
}
