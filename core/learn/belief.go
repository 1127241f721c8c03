// Package learn finds how fast one coil side soils, from everything that was found at it and at its peers: the rate with
// its uncertainty, what is likely in the core that nobody saw, which findings the rate cannot explain, whether the rate
// has drifted, and what a method really takes away.
//
// Rates are learned as the logarithm x of a multiple of the rate assumed beforehand (soil.StartRate with the site
// factors of each day): x = ln(λ/λ0). A side with its own reference days and factors and its peers can so be compared.
package learn

import (
	"math"
	"sort"
)

// Normal is a normal belief on a logarithm: mean and variance.
type Normal struct {
	Mean     float64 `json:"mean"`
	Variance float64 `json:"variance"`
}

// SD is the standard deviation.
func (n Normal) SD() float64 { return math.Sqrt(n.Variance) }

// Variances of the belief on ln λ before anything was found: what sides of a group have in common and what is each
// side's own (assumption; together 0.6², a factor of 1.8 either way).
const (
	GroupVariance = .18
	UnitVariance  = .18
	TradeVariance = GroupVariance + UnitVariance
)

// Trade is the belief on x when nothing is known but class and site factors.
var Trade = Normal{0, TradeVariance}

// ProcessSigma is the scatter of a side's own soiling from one interval to the next, on ln load (assumption).
const ProcessSigma = .25

// Cell is one possible truth with its weight: the rate now in load per 30 exposure-days, the share that goes into the
// core, and the face and core load they lead to today.
type Cell struct {
	Weight      float64 `json:"weight"`
	LogMultiple float64 `json:"log_multiple"`
	Rate        float64 `json:"rate"`
	Penetration float64 `json:"penetration"`
	Face        float64 `json:"face_load"`
	Core        float64 `json:"core_load"`
}

// Range is the 10, 50 and 90 % points of something uncertain.
type Range struct {
	P10 float64 `json:"p10"`
	P50 float64 `json:"p50"`
	P90 float64 `json:"p90"`
}

// rangeOf is the 10, 50 and 90 % points of weighted values.
func rangeOf(cells []Cell, of func(Cell) float64) Range {
	type weighted struct{ value, weight float64 }
	all := make([]weighted, 0, len(cells))
	total := 0.0
	for _, c := range cells {
		if c.Weight > 0 {
			all = append(all, weighted{of(c), c.Weight})
			total += c.Weight
		}
	}
	sort.Slice(all, func(i, j int) bool { return all[i].value < all[j].value })
	at := func(p float64) float64 {
		below := 0.0
		for _, w := range all {
			if below += w.weight; below >= p*total {
				return w.value
			}
		}
		return 0
	}
	return Range{at(.1), at(.5), at(.9)}
}

// mean is the weighted mean of something over the cells.
func mean(cells []Cell, of func(Cell) float64) float64 {
	sum, total := 0.0, 0.0
	for _, c := range cells {
		sum += c.Weight * of(c)
		total += c.Weight
	}
	if total == 0 {
		return 0
	}
	return sum / total
}
