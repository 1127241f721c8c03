// Package fieldwork is what happens at the unit: visits with their packs and amendments, guests, watch items, symptoms, stock
// and the report to the site.
// It never sets an interval or plans a round; it has its Learner take up what a visit found.
package fieldwork

import (
	"github.com/google/uuid"

	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/instrument"
	"nextround/internal/organisation"
	"nextround/internal/outbox"
	"nextround/internal/store"
	"nextround/internal/weather"
)

// Learner recalculates what is derived of units whose facts have changed.
type Learner interface {
	// Refresh brings proposals and portfolio lines of the units in line with what is known now.
	Refresh(t store.Tenant, units []uuid.UUID) error
	// RefreshTelling is Refresh that tells how many units are done.
	RefreshTelling(t store.Tenant, units []uuid.UUID, tell func(done int) error) error
}

// Pages makes the page of a unit, which a visit takes along.
type Pages interface {
	UnitPage(t store.Tenant, r *dossier.Facts, d dossier.Unit) (contract.Unit, error)
}

// Service is the use cases of the room.
type Service struct {
	*organisation.Base
	organisation *organisation.Service
	outbox       *outbox.Service
	learner      Learner
	pages        Pages
	gauges       instrument.GaugeSets
	forecasts    weather.Forecasts
}

// New makes the service.
func New(b *organisation.Base, organisation *organisation.Service, outbox *outbox.Service, learner Learner, pages Pages, gauges instrument.GaugeSets, forecasts weather.Forecasts) *Service {
	return &Service{Base: b, organisation: organisation, outbox: outbox, learner: learner, pages: pages, gauges: gauges, forecasts: forecasts}
}
