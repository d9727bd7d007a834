// Package terms is what a shop is set to when it opens and never again: the currency,
// whether prices hold tax, the time zone, how stock is valued. Its main rule: terms are
// read with what they are used on, and kept nowhere.
package terms

import (
	"strings"
	"time"

	"itemrack/core/cost"
	"itemrack/core/money"
	"itemrack/core/number"
	"itemrack/core/tax"
)

// Terms are what a shop is set to.
type Terms struct {
	Currency money.Currency
	Basis    tax.Basis
	Zone     *time.Location
	Costing  cost.Method
}

// usualZone is that of a shop that said none.
const usualZone = "Europe/London"

// Read reads terms from settings by their names; what is not said is as usual. A zone
// or way of costing that does not exist is an error.
func Read(settings map[string]string) (Terms, error) {
	t := Terms{
		Currency: money.CurrencyByCode(settings["currency"]),
		Basis:    tax.Basis(settings["prices"] != tax.Without.String()),
	}
	zone := settings["zone"]
	if zone == "" {
		zone = usualZone
	}
	var err error
	if t.Zone, err = time.LoadLocation(zone); err != nil {
		return t, err
	}
	t.Costing, err = cost.ParseMethod(settings["costing"])
	return t, err
}

// Minor is the minor unit of the shop's currency.
func (t Terms) Minor() money.Minor { return t.Currency.Minor }

// Day is the date of a moment in the shop's zone, at midnight UTC.
func (t Terms) Day(moment time.Time) time.Time {
	local := moment.In(t.Zone)
	return time.Date(local.Year(), local.Month(), local.Day(), 0, 0, 0, 0, time.UTC)
}

// DayBegan is the moment at which the day of a moment began in the shop's zone.
func (t Terms) DayBegan(moment time.Time) time.Time {
	local := moment.In(t.Zone)
	return time.Date(local.Year(), local.Month(), local.Day(), 0, 0, 0, 0, t.Zone).UTC()
}

// Moment reads a date, as number.Day does, or a date and time, in the shop's zone.
func (t Terms) Moment(text string) (time.Time, bool) {
	day, clock, _ := strings.Cut(strings.Replace(strings.TrimSpace(text), "T", " ", 1), " ")
	date, err := number.Day("", day)
	if err != nil {
		return time.Time{}, false
	}
	for _, layout := range []string{"", "15:04", time.TimeOnly} {
		if at, err := time.Parse(layout, strings.TrimSpace(clock)); err == nil {
			return time.Date(date.Year(), date.Month(), date.Day(), at.Hour(), at.Minute(), at.Second(), 0,
				t.Zone).UTC(), true
		}
	}
	return time.Time{}, false
}
