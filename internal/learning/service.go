// Package learning turns what visits found into rates, lines of the portfolio and proposals, shows a unit with what was
// learned of it, and takes the manager's answers.
// It never writes a fact: findings come from fieldwork, units from the register.
package learning

import (
	"nextround/internal/organisation"
)

// Service is the use cases of the room.
type Service struct {
	*organisation.Base
}

// New makes the service.
func New(b *organisation.Base) *Service {
	return &Service{Base: b}
}
