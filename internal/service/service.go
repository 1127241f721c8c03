// Package service holds the use cases: who may do what, in one transaction, from stored facts through the core
// to stored results, with an audit row for every change made by hand.
package service

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"sync"
	"time"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// ModelVersion names the arithmetic behind derived rows; it changes whenever results would.
const ModelVersion = "learn-1 schools-1"

// Errors that callers tell apart. Field errors are invalid.Error, with JSON pointers as paths.
var (
	ErrForbidden   = errors.New("your role does not allow this")
	ErrNotFound    = store.ErrNotFound
	ErrSignIn      = errors.New("login or password is not right")
	ErrKeyReused   = errors.New("this key was already used for another request")
	ErrConcurrency = errors.New("somebody changed this at the same moment; look again and repeat")
)

// Conflict says why something cannot be done as things stand.
type Conflict struct{ Reason string }

// Error is the reason.
func (c Conflict) Error() string { return c.Reason }

// Stale says that somebody else saved a record first, with what stands now.
type Stale struct{ Current any }

// Error says so.
func (Stale) Error() string {
	return "somebody else saved this meanwhile; nothing of yours was stored: compare, then save again"
}

// Service is the use cases over one database.
type Service struct {
	store *store.Store
	now   func() time.Time
	// realNow is the time that guards sign-ins and links: it runs on where the clock of the work stands still.
	realNow func() time.Time
	hash    HashCost
	// life ends with Close; work in the background is bound to it.
	life       context.Context
	die        context.CancelFunc
	background *sync.WaitGroup
	gauges     GaugeSets
	forecasts  Forecasts
	mailer     Mailer
	// ClockPinned is true when the clock stands still, in demonstrations.
	ClockPinned bool
}

// Options for New.
type Options struct {
	// Now gives the time; defaults to the system clock.
	Now func() time.Time
	// ClockPinned says that Now stands still.
	ClockPinned bool
	// Hash is the cost of passwords; defaults to DefaultHashCost.
	Hash HashCost
	// Gauges, Forecasts and Mailer are nil where none is connected.
	Gauges    GaugeSets
	Forecasts Forecasts
	Mailer    Mailer
}

// New makes a service.
func New(st *store.Store, o Options) *Service {
	s := &Service{store: st, now: o.Now, hash: o.Hash, ClockPinned: o.ClockPinned, background: &sync.WaitGroup{}, gauges: o.Gauges, forecasts: o.Forecasts, mailer: o.Mailer}
	s.life, s.die = context.WithCancel(context.Background())
	if s.now == nil {
		s.now = time.Now
	}
	s.realNow = s.stamp
	if o.ClockPinned {
		s.realNow = func() time.Time { return time.Now().UTC().Truncate(time.Microsecond) }
	}
	if s.hash == (HashCost{}) {
		s.hash = DefaultHashCost
	}
	return s
}

// Close ends work in the background and waits for it; what was not finished has stored nothing.
func (s *Service) Close() {
	s.die()
	s.background.Wait()
}

// Actor is who asks.
type Actor struct {
	AccountID uuid.UUID
	Org       store.Organisation
	Person    store.Person
	Login     string
	Role      contract.Role
	Units     string
	Theme     string
	// PasswordMark changes with the password, so that older sessions end.
	PasswordMark string
	// Sites that may be seen; nil means all.
	Sites []uuid.UUID
}

// onlyHouse is only, for what concerns the whole house: those who see some sites only are kept out.
func (a Actor) onlyHouse(roles ...contract.Role) error {
	if a.Sites != nil {
		return ErrForbidden
	}
	return a.only(roles...)
}

// only returns ErrForbidden unless the actor has one of the roles.
func (a Actor) only(roles ...contract.Role) error {
	for _, r := range roles {
		if a.Role == r {
			return nil
		}
	}
	return ErrForbidden
}

// stamp is the time to store.
func (s *Service) stamp() time.Time { return s.now().UTC().Truncate(time.Microsecond) }

// today is the local date in a zone.
func (s *Service) today(zone string) calendar.Day {
	loc, err := time.LoadLocation(zone)
	if err != nil {
		loc = time.UTC
	}
	return calendar.Of(s.now().In(loc))
}

func (s *Service) tenant(ctx context.Context, a Actor) store.Tenant {
	t := s.store.For(ctx, a.Org.ID)
	t.Sites = a.Sites
	return t
}

// once runs do in a transaction and keeps its answer under the key, so that the same request sent again gets
// the same answer and is done once.
func once[T any](s *Service, t store.Tenant, a Actor, key uuid.UUID, request any, do func(store.Tenant) (T, error)) (T, error) {
	var answer T
	err := t.InTransaction(func(t store.Tenant) error {
		row := store.Idempotency{
			OrganisationID: t.Org, AccountID: a.AccountID, Key: key, RequestHash: hashOf(request),
			Answer: store.JSON("{}"), CreatedAt: s.stamp(),
		}
		first, earlier, err := t.TakeKey(row)
		if err != nil {
			return fmt.Errorf("taking the request's key: %w", err)
		}
		if !first {
			if earlier.RequestHash != row.RequestHash {
				return ErrKeyReused
			}
			return earlier.Answer.Into(&answer)
		}
		if answer, err = do(t); err != nil {
			return err
		}
		return t.KeepAnswer(a.AccountID, key, answer)
	})
	return answer, err
}

func hashOf(v any) string {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // only plain data is ever given
	}
	sum := sha256.Sum256(b)
	return hex.EncodeToString(sum[:])
}

// field makes an error for one field.
func field(pointer, format string, args ...any) error {
	return invalid.Error{{Path: pointer, Reason: fmt.Sprintf(format, args...)}}
}

// under moves the fields of an error below a pointer.
func under(pointer string, err error) error {
	var bad invalid.Error
	if !errors.As(err, &bad) {
		return err
	}
	out := make(invalid.Error, len(bad))
	for i, f := range bad {
		out[i] = invalid.Field{Path: pointer + f.Path, Reason: f.Reason}
	}
	return out
}

func ptr[T any](v T) *T { return &v }

func value[T any](p *T) T {
	var zero T
	if p == nil {
		return zero
	}
	return *p
}
