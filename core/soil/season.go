package soil

import "nextround/core/calendar"

// MonthWeights is how strongly soil arrives in each month, January first, with mean 1.
type MonthWeights [12]float64

// The start weights (assumption; northern).
var (
	Even          = MonthWeights{1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1}
	GrowingSeason = MonthWeights{.2, .2, .6, 1.2, 2.2, 2.2, 1.5, 1.2, 1.0, .9, .5, .3}.Normalised()
	LeafFall      = MonthWeights{.3, .3, .4, .4, .5, .5, .6, .8, 1.6, 2.8, 2.4, 1.4}.Normalised()
)

// Normalised scales the weights to mean 1. All-zero weights count as even.
func (w MonthWeights) Normalised() MonthWeights {
	sum := 0.0
	for _, v := range w {
		sum += v
	}
	if sum <= 0 {
		return Even
	}
	for i := range w {
		w[i] *= 12 / sum
	}
	return w
}

// Mirrored shifts the weights by half a year, for sites south of the equator.
func (w MonthWeights) Mirrored() MonthWeights {
	var m MonthWeights
	for i := range w {
		m[i] = w[(i+6)%12]
	}
	return m
}

// Exposure is the weighted days from (counted) to (not counted) on which air moved:
//
//	τ = Σ over days of s(month) × fan share
//
// fanShare is the share of the day the fan moves air, in [0, 1]. A span that runs backwards is 0.
func Exposure(from, to calendar.Day, w MonthWeights, fanShare float64) float64 {
	tau := 0.0
	for d := from; d < to; {
		month, end := d.MonthEnd()
		next := min(end, to)
		tau += w[month-1] * float64(next-d)
		d = next
	}
	return tau * fanShare
}
