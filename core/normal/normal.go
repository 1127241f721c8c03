// Package normal is the standard normal distribution, quick enough to be asked thousands of times for one coil.
package normal

import "math"

// Φ is tabulated: cubic between the points.
const (
	end  = 8
	step = 1. / 64
)

var table = func() (out [2*end/step + 1]struct{ value, slope float64 }) {
	for i := range out {
		z := -end + step*float64(i)
		out[i].value = .5 * math.Erfc(-z/math.Sqrt2)
		out[i].slope = step * math.Exp(-z*z/2) / math.Sqrt(2*math.Pi)
	}
	return out
}()

// CDF is Φ(z), good to 1e-9; NaN counts as −∞.
func CDF(z float64) float64 {
	at := (z + end) / step
	switch {
	case !(at > 0):
		return 0
	case at >= float64(len(table)-1):
		return 1
	}
	i := int(at)
	t := at - float64(i)
	a, b := &table[i], &table[i+1]
	rise := b.value - a.value
	return a.value + t*(a.slope+t*(3*rise-2*a.slope-b.slope+t*(a.slope+b.slope-2*rise)))
}

// Quantile is the inverse of Φ for p in (0, 1); −Inf and +Inf at the ends.
func Quantile(p float64) float64 { return math.Sqrt2 * math.Erfinv(2*p-1) }
