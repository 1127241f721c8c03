// Package importing runs a file's import: in the background, with its progress told, to be cancelled, all or nothing.
// What a kind of file means is its Taker's, which the rooms bring.
// It never knows a column or a unit.
package importing

import (
	"nextround/internal/organisation"
)

// Service is the use cases of the room.
type Service struct {
	*organisation.Base
	people *organisation.Service
	takers map[string]Taker
	// reading lets one file be read at a time.
	reading chan struct{}
}

// New makes the service.
func New(b *organisation.Base, people *organisation.Service, takers map[string]Taker) *Service {
	return &Service{Base: b, people: people, takers: takers, reading: make(chan struct{}, 1)}
}
