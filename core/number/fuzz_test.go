package number

import (
	"testing"
	"time"
)

func FuzzDay(f *testing.F) {
	for _, text := range []string{"2026-12-31", "31/12/2027", "24.12.2026", "1-2-2026", "29.2.2027", "", "2026-13-01",
		"１/１/2026"} {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) {
		day, err := Day("day", text)
		if err != nil {
			return
		}
		again, err := Day("day", day.Format(time.DateOnly))
		if err != nil || !again.Equal(day) || day.Year() < 1970 || day.Year() > 2199 || day.Hour() != 0 {
			t.Fatalf("%q is %v and %v (%v)", text, day, again, err)
		}
		Local(text)
	})
}
