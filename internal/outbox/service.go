// Package outbox keeps mails until they are delivered and says what became of each.
// It takes finished letters: what one says is decided by the rooms above.
// It never reads units, visits or plans.
package outbox

import (
	"nextround/internal/organisation"
	"nextround/internal/post"
)

// Service is the use cases of the room.
type Service struct {
	*organisation.Base
	mailer post.Mailer
}

// New makes the service.
func New(b *organisation.Base, mailer post.Mailer) *Service {
	return &Service{Base: b, mailer: mailer}
}
