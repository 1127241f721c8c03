// Package evidence keeps what the organisation's own records say of the money: call-outs, and for which times the log of them is complete.
// It learns nothing itself; it has its Learner take up what the log says.
package evidence

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
}

// Service is the use cases of the room.
type Service struct {
	*organisation.Base
	learner Learner
}

// New makes the service.
func New(b *organisation.Base, learner Learner) *Service { return &Service{Base: b, learner: learner} }
