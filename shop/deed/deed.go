// Package deed is the hall of the deeds: who does one, under which request key, when,
// and how its document is posted. A deed opens a transaction, loads what the rule
// needs, lets core compute, posts through the one door and commits. Its main rule: a
// deed happens once or not at all, however often it is asked for.
package deed

import (
	"context"
	"strings"
	"sync"
	"time"

	"itemrack/core/fault"
	"itemrack/core/terms"
	"itemrack/store"
)

// GarbagePercent is by how much the program lets its memory grow before it collects what is not used any more. Half as
// much again as is in use costs a sale nothing that can be measured, and keeps a shop of 100 000 variants under 160 MB.
const GarbagePercent = 50

// Shop is what deeds are done on: a store, a clock, and work in the background. It
// knows nothing of the shop that the database does not say.
type Shop struct {
	Store      *store.Store
	clock      func() time.Time
	background context.Context // of work that goes on when its request has ended
	stop       context.CancelFunc
	running    *sync.WaitGroup
}

// New makes a shop on a store.
func New(ctx context.Context, s *store.Store) *Shop {
	shop := &Shop{Store: s, clock: time.Now, running: new(sync.WaitGroup)}
	shop.background, shop.stop = context.WithCancel(context.WithoutCancel(ctx))
	return shop
}

// Behind does work that goes on when its request has ended. Its context ends when the
// shop is closed.
func (s *Shop) Behind(work func(ctx context.Context)) {
	s.running.Add(1)
	go func() {
		defer s.running.Done()
		work(s.background)
	}()
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

// Moment reads a date, or date and time, in the shop's zone; an empty text is now.
func (s *Shop) Moment(set terms.Terms, field, text string) (time.Time, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return s.Now(), nil
	}
	moment, ok := set.Moment(text)
	if !ok {
		return moment, fault.Field(field, text, "2026-12-01 or 2026-12-01 09:00", "%q is not a date.", text)
	}
	return moment, nil
}
