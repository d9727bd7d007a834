// Package terms is what a shop is set to: when it opens and never again the currency, whether
// prices hold tax, the time zone, how stock is valued; at any time what its registers do. Its main rule: terms are
// read with what they are used on, and kept nowhere.
package terms

import (
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/shopspring/decimal"

	"itemrack/core/cost"
	"itemrack/core/fault"
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
	Till     Till
	// Tolerance is what the variances of a count may come to in value, taken row by row, before a manager
	// confirms it; zero for any.
	Tolerance decimal.Decimal
}

// Tolerated is the setting of the tolerance; UsualTolerance what it is unless the shop says otherwise.
const (
	Tolerated      = "count_tolerance"
	UsualTolerance = "100"
)

// ReadTolerance checks a tolerance as it is typed; empty for none.
func (t Terms) ReadTolerance(typed string) (string, error) {
	if strings.TrimSpace(typed) == "" {
		return "0", nil
	}
	amount, err := t.Minor().Parse(Tolerated, typed)
	if err != nil {
		return "", err
	}
	if amount.IsNegative() {
		return "", fault.Field(Tolerated, typed, "0 or more", "A tolerance can't be below nothing.")
	}
	return amount.String(), nil
}

// usualZone is that of a shop that said none.
const usualZone = "Europe/London"

// Till is what is agreed for the registers of the shop. CashStep is what cash is rounded to, zero
// for nothing; OffLimit the percent that everybody may give off; LockAfter the minutes after which
// a register waits for a PIN, zero for never.
type Till struct {
	CashStep       decimal.Decimal
	OffLimit       decimal.Decimal
	LockAfter      int
	AskBelowCost   bool // for every line that is sold below cost, not only for what was given off by hand
	NameOnReceipts bool
}

// The settings of the registers.
const (
	CashStep     = "cash_rounding"
	OffLimit     = "off_limit"
	LockAfter    = "lock_after"
	AskBelowCost = "ask_below_cost"
	NamedReceipt = "name_on_receipts"
)

// UsualOff is the percent that everybody may give off unless the shop says otherwise.
const UsualOff = "10"

// mostMinutes is the longest that a register stays open without anybody.
const mostMinutes = 24 * 60

// TillValues checks what is typed of the registers and writes it as settings.
func TillValues(off, lock string, below, named bool) (map[string]string, error) {
	limit, ok := number.Parse(strings.TrimSuffix(strings.TrimSpace(off), "%"))
	if !ok || limit.IsNegative() || limit.GreaterThan(decimal.New(100, 0)) || limit.Exponent() < -2 {
		return nil, fault.Field(OffLimit, off, "0 to 100", "%q is not a percentage.", off)
	}
	minutes := 0
	if lock = strings.TrimSpace(lock); lock != "" {
		n, err := strconv.Atoi(lock)
		if err != nil || n < 0 || n > mostMinutes {
			return nil, fault.Field(LockAfter, lock, "0 to 1440 minutes", "%q is not a number of minutes.", lock)
		}
		minutes = n
	}
	on := map[bool]string{true: "on", false: ""}
	return map[string]string{OffLimit: limit.String(), LockAfter: strconv.Itoa(minutes), AskBelowCost: on[below],
		NamedReceipt: on[named]}, nil
}

// readTill reads what is agreed for the registers. What is not set, or no number, is as usual.
func readTill(settings map[string]string) Till {
	t := Till{OffLimit: decimal.RequireFromString(UsualOff), AskBelowCost: settings[AskBelowCost] == "on",
		NameOnReceipts: settings[NamedReceipt] == "on"}
	if v, err := decimal.NewFromString(settings[CashStep]); err == nil {
		t.CashStep = v
	}
	if v, err := decimal.NewFromString(settings[OffLimit]); err == nil {
		t.OffLimit = v
	}
	if n, err := strconv.Atoi(settings[LockAfter]); err == nil {
		t.LockAfter = n
	}
	return t
}

// Read reads terms from settings by their names; what is not said is as usual. A zone
// or way of costing that does not exist is an error.
func Read(settings map[string]string) (Terms, error) {
	t := Terms{
		Currency: money.CurrencyByCode(settings["currency"]),
		Basis:    tax.Basis(settings["prices"] != tax.Without.String()),
		Till:     readTill(settings),
	}
	tolerance := settings[Tolerated]
	if tolerance == "" {
		tolerance = UsualTolerance
	}
	if v, err := decimal.NewFromString(tolerance); err == nil {
		t.Tolerance = v
	}
	zone := settings["zone"]
	if zone == "" {
		zone = usualZone
	}
	var err error
	if t.Zone, err = zoneOf(zone); err != nil {
		return t, err
	}
	t.Costing, err = cost.ParseMethod(settings["costing"])
	return t, err
}

// zones are the time zones that were read from their files.
var zones sync.Map

func zoneOf(name string) (*time.Location, error) {
	if known, ok := zones.Load(name); ok {
		return known.(*time.Location), nil
	}
	zone, err := time.LoadLocation(name)
	if err == nil {
		zones.Store(name, zone)
	}
	return zone, err
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
