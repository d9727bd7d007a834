// Package shop holds the deeds of the shop, one file each. A deed opens a
// transaction, loads what the rule needs, lets core compute, posts through the
// one door and commits. Its main rule: a deed happens once or not at all,
// however often it is asked for.
package shop

import (
	"context"
	"encoding/json"
	"fmt"
	"sync"
	"time"

	"itemrack/core/cost"
	"itemrack/core/fault"
	"itemrack/core/money"
	"itemrack/core/tax"
	"itemrack/store"
)

// Shop does the deeds on a store.
type Shop struct {
	Store      *store.Store
	Currency   money.Currency
	Zone       *time.Location
	clock      func() time.Time
	background context.Context // of work that goes on when its request has ended
	stop       context.CancelFunc
	running    *sync.WaitGroup
}

// New makes a shop on a store; its zone, currency and basis are read from the
// settings.
func New(ctx context.Context, s *store.Store) (*Shop, error) {
	shop := &Shop{Store: s, clock: time.Now, running: new(sync.WaitGroup)}
	shop.background, shop.stop = context.WithCancel(context.WithoutCancel(ctx))
	return shop, shop.learn(ctx)
}

// learn reads what never changes once the shop is set up.
func (s *Shop) learn(ctx context.Context) error {
	settings, err := s.Store.Read(ctx).Settings()
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
	s.running.Wait()
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

// maxKey is the longest request key.
const maxKey = 100

// once does a deed for a person under a request key. When the key was used
// before for this deed by this person, the first result comes back and nothing
// is done. Without a key the deed is done each time it is asked for.
func once[T any](ctx context.Context, s *Shop, who Actor, deed Deed, key string, work func(tx store.Tx) (T, error)) (T, error) {
	var out T
	if err := who.May(deed); err != nil {
		return out, err
	}
	if len(key) > maxKey {
		return out, fault.Field("Idempotency-Key", key, "100 characters or fewer", "The request key is too long.")
	}
	err := s.Store.Do(ctx, func(tx store.Tx) error {
		var zero T
		out = zero
		name := fmt.Sprintf("%s/%d/%s", deed, who.ID, key)
		if key != "" {
			result, first, err := tx.Begin(name, s.Now())
			if err != nil {
				return err
			}
			if !first {
				return json.Unmarshal([]byte(result), &out)
			}
		}
		var err error
		if out, err = work(tx); err != nil || key == "" {
			return err
		}
		result, err := json.Marshal(out)
		if err != nil {
			return err
		}
		return tx.Finish(name, string(result))
	})
	return out, err
}

// nextNumber takes the next document number with a prefix: "D-0207".
func nextNumber(tx store.Tx, prefix string) (string, error) {
	n, err := tx.NextNumber("document "+prefix, 1)
	return fmt.Sprintf("%s-%04d", prefix, n), err
}

// Posted says which document a deed posted.
type Posted struct {
	Document uint64    `json:"document_id"`
	Number   string    `json:"number"`
	At       time.Time `json:"at"`
}
