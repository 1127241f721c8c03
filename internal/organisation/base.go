// Package organisation is who uses the product and what they have agreed on: people and their sessions, house rules and
// catalogues, procedures, the audit trail, attachments, and what every room is built on (store, clock, requests done once).
// It never looks at a unit's soil, an interval or a plan; rooms above it do, and it imports none of them.
package organisation

import (
	"context"
	"fmt"
	"log/slog"
	"runtime/debug"
	"sync"
	"time"

	"nextround/core/calendar"
	"nextround/internal/store"
)

// ModelVersion names the arithmetic behind derived rows; it changes whenever results would.
const ModelVersion = "learn-1 schools-1"

// Base is what every room is built on.
type Base struct {
	Store *store.Store
	// Now is the time of the work; RealNow guards sign-ins and links: it runs on where the clock of the work stands still.
	Now, RealNow func() time.Time
	// ClockPinned says that Now stands still, in demonstrations.
	ClockPinned bool

	life       context.Context
	die        context.CancelFunc
	background sync.WaitGroup
}

// NewBase makes a base; without a clock it takes the system's.
func NewBase(st *store.Store, now func() time.Time, pinned bool) *Base {
	b := &Base{Store: st, Now: now, ClockPinned: pinned}
	b.life, b.die = context.WithCancel(context.Background())
	if b.Now == nil {
		b.Now = time.Now
	}
	b.RealNow = b.Stamp
	if pinned {
		b.RealNow = func() time.Time { return time.Now().UTC().Truncate(time.Microsecond) }
	}
	return b
}

// over is the base over a store within a transaction; it runs nothing in the background.
func (s *Base) over(st *store.Store) *Base {
	return &Base{Store: st, Now: s.Now, RealNow: s.RealNow, ClockPinned: s.ClockPinned}
}

// InBackground runs do beside the request that asks for it; its context ends with Close, which waits for it.
func (s *Base) InBackground(do func(ctx context.Context)) {
	s.background.Go(func() {
		err := Rescued(func() error {
			do(s.life)
			return nil
		})
		if err != nil {
			slog.Error("work in the background ended", "error", err)
		}
	})
}

// Every calls do again and again, a span of time apart, until the context ends.
func Every(ctx context.Context, span time.Duration, do func()) {
	tick := time.NewTicker(span)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			do()
		}
	}
}

// Rescued runs do and gives a panic back as an error, its place in the program in the log: one piece of data that nobody foresaw does not
// end the server for everybody.
func Rescued(do func() error) (err error) {
	defer func() {
		if p := recover(); p != nil {
			slog.Error("a fault of the program", "panic", p, "stack", string(debug.Stack()))
			err = fmt.Errorf("a fault of the program: %v", p)
		}
	}()
	return do()
}

// Close ends work in the background and waits for it; what was not finished has stored nothing.
func (s *Base) Close() {
	s.die()
	s.background.Wait()
}

// Stamp is the time to store.
func (s *Base) Stamp() time.Time { return s.Now().UTC().Truncate(time.Microsecond) }

// Today is the local date in a zone.
func (s *Base) Today(zone string) calendar.Day { return DayIn(s.Now(), zone) }

// DayIn is the local date in a zone at a moment.
func DayIn(now time.Time, zone string) calendar.Day {
	loc, err := time.LoadLocation(zone)
	if err != nil {
		loc = time.UTC
	}
	return calendar.Of(now.In(loc))
}

// Tenant is the database as the actor may see it.
func (s *Base) Tenant(ctx context.Context, a Actor) store.Tenant {
	t := s.Store.For(ctx, a.Org.ID)
	t.Sites = a.Sites
	return t
}
