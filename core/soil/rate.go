package soil

import (
	"math"
	"sort"
)

// MaxFactor is the most that site factors together may multiply a class rate (assumption).
const MaxFactor = 8

// CombineFactors joins the multipliers of the site factors in force:
//
//	K = largest × √(product of the rest), at most 8
//
// No factor gives 1. Multipliers at or below 0 are ignored (common practice for the single values,
// assumption for the way they combine).
func CombineFactors(multipliers []float64) float64 {
	m := make([]float64, 0, len(multipliers))
	for _, v := range multipliers {
		if v > 0 {
			m = append(m, v)
		}
	}
	if len(m) == 0 {
		return 1
	}
	sort.Float64s(m)
	rest := 1.0
	for _, v := range m[:len(m)-1] {
		rest *= v
	}
	return math.Min(MaxFactor, m[len(m)-1]*math.Sqrt(rest))
}

// StartRate is the assumed rate of a side before anything was found, in load per 30 exposure-days:
//
//	λ0 = −ln(1 − 0.30) · 30 / (T30 · fan share) × K
//
// referenceDays T30 is the days in which a coil of the class reaches the 30 % cut if it is never cleaned
// (assumption, from the habits of the trade); fanShare is the class's reference share of the day the fan
// runs, in (0, 1]; k is from CombineFactors. Returns 0 when an argument is not positive.
func StartRate(referenceDays, fanShare, k float64) float64 {
	if referenceDays <= 0 || fanShare <= 0 || k <= 0 {
		return 0
	}
	return Load(0.30) * 30 / (referenceDays * fanShare) * k
}

// Deposit adds soil for an exposure τ (see Exposure) at rate λ (load per 30 exposure-days):
//
//	F += λ(1−p)τ/30,  C += λpτ/30
//
// penetration p is the share that goes into the core, in [0, 1].
func (s State) Deposit(rate, penetration, exposure float64) State {
	grown := rate * exposure / 30
	s.Face += grown * (1 - penetration)
	s.Core += grown * penetration
	return s
}

// Passing is the share of what the air carries that reaches a coil behind a filter: what goes past it, b, and of the rest what the filter
// does not hold back, 1 − η, each in [0, 1]:
//
//	(1−b)(1−η) + b
//
// The rate behind a filter is that share of the rate of a bare coil. Shares outside are cut to [0, 1].
func Passing(bypass, held float64) float64 {
	b, h := math.Max(0, math.Min(1, bypass)), math.Max(0, math.Min(1, held))
	return (1-b)*(1-h) + b
}
