package organisation

import (
	"github.com/google/uuid"

	"nextround/internal/contract"
	"nextround/internal/store"
)

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
	// Session is the one asked in; FactorFirst says that a second factor must be set up before anything else.
	Session               uuid.UUID
	FactorOn, FactorFirst bool
	// Sites that may be seen; nil means all.
	Sites []uuid.UUID
}

// US reports whether figures are in US units.
func (a Actor) US() bool { return a.Units == "us" }

// OnlyHouse is only, for what concerns the whole organisation: those who see some sites only are kept out.
func (a Actor) OnlyHouse(roles ...contract.Role) error {
	if a.Sites != nil {
		return ErrForbidden
	}
	return a.Only(roles...)
}

// Only returns ErrForbidden unless the actor has one of the roles.
func (a Actor) Only(roles ...contract.Role) error {
	for _, r := range roles {
		if a.Role == r {
			return nil
		}
	}
	return ErrForbidden
}
