package stock

import "time"

// NotBefore is when a deed happens that follows from what happened at some moments: now,
// or at the last of them where the machine's clock was set back.
func NotBefore(now time.Time, moments ...time.Time) time.Time {
	for _, m := range moments {
		if m.After(now) {
			now = m
		}
	}
	return now
}
