package organisation

import (
	"errors"

	"nextround/internal/store"
)

// Errors that callers tell apart. Field errors are invalid.Error, with JSON pointers as paths.
var (
	ErrForbidden   = errors.New("your role does not allow this")
	ErrNotFound    = store.ErrNotFound
	ErrSignIn      = errors.New("login or password is not right")
	ErrKeyReused   = errors.New("this key was already used for another request")
	ErrConcurrency = errors.New("somebody changed this at the same moment; reload and try again")
)

// Conflict says why something cannot be done as things stand.
type Conflict struct{ Reason string }

// Error is the reason.
func (c Conflict) Error() string { return c.Reason }

// Stale says that somebody else saved a record first, with what stands now.
type Stale struct{ Current any }

// Error says so.
func (Stale) Error() string {
	return "somebody else saved this meanwhile. Yours was not saved: compare, then save again"
}
