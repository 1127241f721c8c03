package instrument

import "context"

// GaugeSets reads the gauge set that stands at a unit.
type GaugeSets interface {
	Read(ctx context.Context, tag, phase string) (Reading, error)
}
