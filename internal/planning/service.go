// Package planning turns clocks into jobs, jobs into the planner's problem, and its answer into published rounds, load lists,
// calendars and the week's mails.
// It never changes an interval and never records a visit.
package planning

import (
	"nextround/internal/organisation"
	"nextround/internal/outbox"
	"nextround/internal/weather"
)

// Service is the use cases of the room.
type Service struct {
	*organisation.Base
	organisation *organisation.Service
	outbox       *outbox.Service
	forecasts    weather.Forecasts
}

// New makes the service.
func New(b *organisation.Base, organisation *organisation.Service, outbox *outbox.Service, forecasts weather.Forecasts) *Service {
	return &Service{Base: b, organisation: organisation, outbox: outbox, forecasts: forecasts}
}
