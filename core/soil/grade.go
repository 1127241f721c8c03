// Package soil is the soiling scale and the replay: how much of a coil side's free-flow area is closed, how
// soil builds up on its face and in its core, what a clean takes away, and what a look tells.
//
// Everything here is per coil side and has no clock: callers give every date.
package soil

import (
	"fmt"
	"math"
)

// Grade is a step of the soiling scale, 0 (Bare) to 5 (Blocked). Wording and band edges are our own
// (common practice, no source).
type Grade int

// The six grades.
const (
	Bare Grade = iota
	Film
	Coat
	Felt
	Blanket
	Blocked
)

// edges[g] is the blocked share at which grade g begins; the last entry closes the scale.
var edges = [...]float64{0, 0.05, 0.15, 0.30, 0.50, 0.75, 1}

var gradeNames = [...]string{"Bare", "Film", "Coat", "Felt", "Blanket", "Blocked"}

// Valid reports whether g is one of the six grades.
func (g Grade) Valid() bool { return g >= Bare && g <= Blocked }

// String returns the grade's name.
func (g Grade) String() string {
	if !g.Valid() {
		return fmt.Sprintf("grade %d", int(g))
	}
	return gradeNames[g]
}

// Band returns the blocked shares [lo, hi) that the grade stands for.
func (g Grade) Band() (lo, hi float64) { return edges[g], edges[g+1] }

// loadEdges are the edges in soil load, worked out once: they are asked for in every cell of every grid.
var loadEdges = func() (out [len(edges)]float64) {
	for i, b := range edges {
		out[i] = Load(b)
	}
	return out
}()

// LoadBand returns the band in soil load; hi is +Inf for Blocked.
func (g Grade) LoadBand() (lo, hi float64) { return loadEdges[g], loadEdges[g+1] }

// MiddleLoad is the load at the middle of the grade's band of blocked share.
func (g Grade) MiddleLoad() float64 {
	lo, hi := g.Band()
	return Load((lo + hi) / 2)
}

// GradeOf returns the grade whose band holds the blocked share b. Values outside [0, 1] are clamped.
func GradeOf(b float64) Grade {
	for g := Blocked; g > Bare; g-- {
		if b >= edges[g] {
			return g
		}
	}
	return Bare
}

// LimitGrade returns the grade whose band holds a limit, its upper edge counted: 0.30 is Coat, not Felt.
func LimitGrade(limit float64) Grade {
	for g := Bare; g < Blocked; g++ {
		if limit <= edges[g+1] {
			return g
		}
	}
	return Blocked
}

// Load turns a blocked share B into soil load:
//
//	L = −ln(1 − B)
//
// L is additive and close to linear in exposure. B is in [0, 1]; Load(1) is +Inf.
func Load(b float64) float64 {
	switch {
	case b <= 0:
		return 0
	case b >= 1:
		return math.Inf(1)
	}
	return -math.Log1p(-b)
}

// Share is the inverse of Load: B = 1 − e^(−L). Negative loads count as none.
func Share(load float64) float64 {
	if load <= 0 {
		return 0
	}
	return -math.Expm1(-load)
}
