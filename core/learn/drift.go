package learn

import (
	"math"

	"nextround/core/calendar"
)

// DriftFindings is how many of the newest findings are held against the earlier ones; at least as many earlier ones are
// needed (assumption).
const DriftFindings = 3

// Drift is the newest findings held against the earlier ones.
type Drift struct {
	Since calendar.Day `json:"since"`
	// Earlier and Recent are what each part says of x by itself.
	Earlier Normal `json:"earlier"`
	Recent  Normal `json:"recent"`
	// Delta is recent less earlier, on ln λ; Threshold what it has to pass.
	Delta     float64 `json:"delta"`
	Threshold float64 `json:"threshold"`
	Flagged   bool    `json:"flagged"`
	since     int
}

// drift compares the last three findings with the earlier ones:
//
//	flagged when |Δ| > 2 √(v₁ + v₂)
//
// Events count on neither side. It is nil with fewer than three findings on a side, or when one side says nothing.
func (g *grid) drift(prior Normal) *Drift {
	var counted []int
	for o, e := range g.seen {
		if e.Counted && !e.Flagged() {
			counted = append(counted, o)
		}
	}
	if len(counted) < 2*DriftFindings {
		return nil
	}
	since := counted[len(counted)-DriftFindings]
	is := map[int]bool{}
	for _, o := range counted {
		is[o] = true
	}
	part := func(count func(int) bool) *Normal {
		m, s := moments(g.x, g.marginal(g.weights(func(o int) bool { return is[o] && count(o) })))
		return dividedOut(Normal{m, s * s}, prior)
	}
	earlier, recent := part(func(o int) bool { return o < since }), part(func(o int) bool { return o >= since })
	if earlier == nil || recent == nil {
		return nil
	}
	d := Drift{Since: g.seen[since].Day, Earlier: *earlier, Recent: *recent, since: since}
	d.Delta = recent.Mean - earlier.Mean
	d.Threshold = 2 * math.Sqrt(earlier.Variance+recent.Variance)
	d.Flagged = math.Abs(d.Delta) > d.Threshold
	return &d
}
