// Package register is what there is: sites, placements, units with their cards and lives, the portfolio, changes in bulk, and
// the register as a file.
// It never works out what soil or an interval comes to; it has its Learner do that after a change.
package register

import (
	"github.com/google/uuid"

	"nextround/internal/organisation"
	"nextround/internal/store"
)

// Learner recalculates what is derived of units whose facts have changed.
type Learner interface {
	// Refresh brings proposals and portfolio lines of the units in line with what is known now.
	Refresh(t store.Tenant, units []uuid.UUID) error
	// RefreshTelling is Refresh that tells how many units are done.
	RefreshTelling(t store.Tenant, units []uuid.UUID, tell func(done int) error) error
	// DeriveNew does it for units that were stored just before, from their rows.
	DeriveNew(t store.Tenant, c organisation.Catalogue, f store.Facts) error
}

// Service is the use cases of the room.
type Service struct {
	*organisation.Base
	learner Learner
}

// New makes the service.
func New(b *organisation.Base, learner Learner) *Service {
	return &Service{Base: b, learner: learner}
}
