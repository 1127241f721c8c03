package organisation

import "time"

// Catcher recalculates what is derived of every unit, in the background.
type Catcher interface {
	CatchUp()
}

// Access is how people get in.
type Access struct {
	// Hash is the cost of passwords; zero is DefaultHashCost.
	Hash HashCost
	// Idle is after how long without a request a session ends; zero is eight hours.
	Idle time.Duration
	// KnownPassword is refused; empty where none is.
	KnownPassword string
	// ReadOnly says that the database is only read here: that somebody was seen is not kept.
	ReadOnly bool
}

// Service is the use cases of the organisation.
type Service struct {
	*Base
	access  Access
	hashing chan struct{}
	catcher Catcher
}

// New makes the service.
func New(b *Base, access Access, catcher Catcher) *Service {
	if access.Hash == (HashCost{}) {
		access.Hash = DefaultHashCost
	}
	if access.Idle <= 0 {
		access.Idle = defaultSessionIdle
	}
	return &Service{Base: b, access: access, hashing: make(chan struct{}, hashingAtOnce), catcher: catcher}
}
