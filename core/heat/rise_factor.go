package heat

import (
	"math"
	"strconv"

	"nextround/core/invalid"
	"nextround/core/normal"
)

// Spread of the factor on the rise before anything was read, on its logarithm, and the scatter of the fall that two readings give: a
// share of it, and so many kelvins (assumption).
const (
	RiseSpread     = .5
	riseScatter    = .25
	riseScatterK   = 1.0
	leastPredicted = .05
	leastFall      = .1
)

// RisePair is a clean with the high side read before and after: by how much condensing over ambient was to fall, from the soil
// found and left, and by how much it fell, K.
type RisePair struct {
	PredictedK float64 `json:"predicted_k"`
	FellK      float64 `json:"fell_k"`
}

// RiseFactor is the multiple γ of the rise that soil is taken to cause, learned from pairs. With ln γ ~ N(0, .5²) beforehand,
//
//	ln(fell/predicted) ~ N(ln γ, .25² + (1 K/predicted)²)
//
// so that a pair that was to fall by little says little. A fall of less than a tenth of what was predicted counts as a tenth. Mean is the
// median e^(mean of ln γ), and Assumed the share of the variance beforehand that is left. The error is an invalid.Error.
func RiseFactor(pairs []RisePair) (Factor, error) {
	var bad invalid.Error
	weight, sum := 1/(RiseSpread*RiseSpread), 0.0
	for i, p := range pairs {
		at := "pairs[" + strconv.Itoa(i) + "]."
		if !(p.PredictedK >= leastPredicted && p.PredictedK <= 100) {
			bad.Addf(at+"predicted_k", "must be between 0.05 and 100 K")
			continue
		}
		if !(math.Abs(p.FellK) <= 100) {
			bad.Addf(at+"fell_k", "must be between -100 and 100 K")
			continue
		}
		misread := riseScatterK / p.PredictedK
		own := 1 / (riseScatter*riseScatter + misread*misread)
		weight += own
		sum += own * math.Log(math.Max(leastFall, p.FellK/p.PredictedK))
	}
	if err := bad.Err(); err != nil {
		return Factor{}, err
	}
	mean, sd := sum/weight, math.Sqrt(1/weight)
	at := func(p float64) float64 { return math.Exp(mean + sd*normal.Quantile(p)) }
	return Factor{Mean: math.Exp(mean), P10: at(.1), P90: at(.9), Assumed: sd * sd / (RiseSpread * RiseSpread)}, nil
}
