package serial

import (
	"time"

	"itemrack/core/fault"
	"itemrack/core/text"
)

// LotNumber reads the number of a lot as it is typed. One that is too long to keep is
// refused.
func LotNumber(typed string) (string, error) {
	number := Normal(typed)
	if text.Len(number) > Longest {
		return "", fault.Field("lot", typed, "40 characters or fewer", "The lot number %s is too long.", typed)
	}
	return number, nil
}

// Lot is a batch: its number and the day up to which it may be sold. The same
// number with another expiry is another lot. A zero Expiry never expires.
type Lot struct {
	ID     uint64    `json:"id"`
	Number string    `json:"number"`
	Expiry time.Time `json:"expiry"`
}

// Expired reports whether the lot may no longer be sold on a day: it may on its
// expiry date, not the day after. Both are dates at midnight UTC.
func (l Lot) Expired(day time.Time) bool { return !l.Expiry.IsZero() && l.Expiry.Before(day) }
