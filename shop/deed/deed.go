package deed

import (
	"context"
	"fmt"
	"strings"
	"sync"
	"time"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/tax"
	"itemrack/store"
	"itemrack/store/office"
)

// Moment reads a date, or date and time, in the shop's zone; an empty text is now.
func (s *Shop) Moment(field, text string) (time.Time, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return s.Now(), nil
	}
	for _, layout := range []string{"2006-01-02T15:04", "2006-01-02 15:04", time.DateOnly} {
		if t, err := time.ParseInLocation(layout, text, s.Zone); err == nil {
			return t.UTC(), nil
		}
	}
	return time.Time{}, fault.Field(field, text, "2026-12-01 or 2026-12-01 09:00", "%q is not a date.", text)
}

// Shop does the deeds on a store.
type Shop struct {
	Store      *store.Store
	Currency   money.Currency
	Zone       *time.Location
	clock      func() time.Time
	Background context.Context // of work that goes on when its request has ended
	stop       context.CancelFunc
	Running    *sync.WaitGroup
}

// New makes a shop on a store; its zone, currency and basis are read from the
// settings.
func New(ctx context.Context, s *store.Store) (*Shop, error) {
	shop := &Shop{Store: s, clock: time.Now, Running: new(sync.WaitGroup)}
	shop.Background, shop.stop = context.WithCancel(context.WithoutCancel(ctx))
	return shop, shop.Learn(ctx)
}

// Learn reads what never changes once the shop is set up.
func (s *Shop) Learn(ctx context.Context) error {
	settings, err := office.Settings(s.Store.Read(ctx))
	if err != nil {
		return err
	}
	name := settings["zone"]
	if name == "" {
		name = "Europe/London"
	}
	if s.Zone, err = time.LoadLocation(name); err != nil {
		return fmt.Errorf("the shop's time zone: %w", err)
	}
	s.Currency = money.CurrencyByCode(settings["currency"])
	s.Store.Zone, s.Store.Basis = s.Zone, tax.Basis(settings["prices"] != tax.Without.String())
	s.Store.Costing, err = cost.ParseMethod(settings["costing"])
	return err
}

// Close ends what goes on in the background; an import that is not done is
// rolled back.
func (s *Shop) Close() {
	s.stop()
	s.Running.Wait()
}

// At returns the shop with its clock stopped at a moment, to enter what
// happened then.
func (s *Shop) At(moment time.Time) *Shop {
	stopped := *s
	stopped.clock = func() time.Time { return moment }
	return &stopped
}

// Now is the present moment in UTC, to the microsecond as it is kept.
func (s *Shop) Now() time.Time { return s.clock().UTC().Truncate(time.Microsecond) }

// Today is the date in the shop's zone, at midnight UTC.
func (s *Shop) Today() time.Time { return date(s.Now().In(s.Zone)) }

// DayBegan is the moment at which today began in the shop's zone.
func (s *Shop) DayBegan() time.Time {
	local := s.Now().In(s.Zone)
	return time.Date(local.Year(), local.Month(), local.Day(), 0, 0, 0, 0, s.Zone).UTC()
}

func date(t time.Time) time.Time {
	return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC)
}
