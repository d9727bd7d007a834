package staff

import (
	"strings"
	"time"
	"unicode/utf8"

	"itemrack/core/fault"
	"itemrack/core/text"
)

// ShortestPassword is how many characters a password has at least.
const ShortestPassword = 12

// CheckPassword refuses a password that is easy to guess: a short one, one that repeats a
// few signs, or one around the login.
func CheckPassword(login, password string) error {
	signs := map[rune]bool{}
	for _, r := range password {
		signs[r] = true
	}
	field := func(says string) error {
		return fault.Field("password", "", "12 characters or more, such as four words", "%s", says)
	}
	switch {
	case text.Len(password) < ShortestPassword:
		return field("The password has fewer than 12 characters.")
	case text.Len(password) > 200:
		return fault.Field("password", "", "200 characters or fewer", "The password is too long.")
	case !utf8.ValidString(password):
		return field("The password holds bytes that are no text.")
	case len(signs) < 5:
		return field("The password repeats the same few signs.")
	case text.Len(login) > 2 && text.Len(password)-text.Len(login) < ShortestPassword-4 &&
		strings.Contains(text.Key(password), text.Key(login)):
		return field("The password is little more than the login.")
	}
	return nil
}

// Limit is how often something may be tried in a time.
type Limit struct {
	In   time.Duration
	Most int
}

// How often signing in may fail: with one login, and from one address, where a whole shop
// may sit.
var (
	ByLogin   = []Limit{{time.Minute, 8}, {time.Hour, 40}}
	ByAddress = []Limit{{time.Minute, 30}, {time.Hour, 200}}
)

// Slot is the stretch of time that a moment falls into.
func (l Limit) Slot(now time.Time) int64 {
	return now.Unix() / int64(l.In.Seconds()) * int64(l.In.Seconds())
}

// Check refuses what was tried so often, the try that is made being counted.
func (l Limit) Check(tries int) error {
	if tries <= l.Most {
		return nil
	}
	wait := "a minute"
	if l.In >= time.Hour {
		wait = "an hour"
	}
	return &fault.Error{Kind: fault.Forbidden, Field: "login", Want: "to wait " + wait,
		Detail: "Too many tries. Wait " + wait + "."}
}
