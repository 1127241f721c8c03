package organisation

// Catcher recalculates what is derived of every unit, in the background.
type Catcher interface {
	CatchUp()
}

// Service is the use cases of the organisation.
type Service struct {
	*Base
	hash    HashCost
	catcher Catcher
}

// New makes the service; a zero cost of passwords is DefaultHashCost.
func New(b *Base, hash HashCost, catcher Catcher) *Service {
	if hash == (HashCost{}) {
		hash = DefaultHashCost
	}
	return &Service{Base: b, hash: hash, catcher: catcher}
}
