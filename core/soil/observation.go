package soil

import "math"

// Seen is how a finding was made, which decides what it can tell.
type Seen string

// The ways of looking.
const (
	// FaceLook tells the face only; it never touches the core.
	FaceLook Seen = "face_look"
	// LightThrough tells face and core together.
	LightThrough Seen = "light_through"
	// WipedMoreBelow is a face look after which wiping showed more below: the core is at least Film.
	WipedMoreBelow Seen = "wiped_more_below"
)

// Valid reports whether s is a known way of looking.
func (s Seen) Valid() bool { return s == FaceLook || s == LightThrough || s == WipedMoreBelow }

// ShowsCore reports whether the look tells anything of the core.
func (s Seen) ShowsCore() bool { return s == LightThrough || s == WipedMoreBelow }

// Finding is a grade and how it was seen.
type Finding struct {
	Grade Grade `json:"grade"`
	Seen  Seen  `json:"seen"`
}

// inside keeps a clamped load within its half-open band, so that its grade is the one found.
const inside = 1e-9

// ClampTo moves the state into the band that was found, no further than needed:
// by light through, the total is scaled down or the shortfall put into the core; by a face look the face
// alone moves; wiped with more below also lifts the core to at least Film.
func (s State) ClampTo(f Finding) State {
	lo, hi := f.Grade.LoadBand()
	if f.Seen == LightThrough {
		total := s.Total()
		switch {
		case total >= hi:
			scale := (hi - inside) / total
			s.Face *= scale
			s.Core *= scale
		case total < lo:
			s.Core += lo - total + inside
		}
		return s
	}
	switch {
	case s.Face >= hi:
		s.Face = hi - inside
	case s.Face < lo:
		s.Face = lo + inside
	}
	if f.Seen == WipedMoreBelow {
		s.Core = math.Max(s.Core, loadEdges[Film]+inside)
	}
	return s
}

// FirstState is the state taken from a first finding when nothing is known of the time before: the middle
// of the band. By light through it is parted by the penetration p; by a face look the face takes the middle
// and the core is put in the same proportion, p/(1−p), unseen (assumption). It carries no evidence on the
// rate.
func FirstState(f Finding, penetration float64) State {
	mid := f.Grade.MiddleLoad()
	if f.Seen == LightThrough {
		return State{Face: mid * (1 - penetration), Core: mid * penetration}
	}
	s := State{Face: mid}
	if penetration < 1 {
		s.Core = mid * penetration / (1 - penetration)
	}
	return s.ClampTo(f)
}
