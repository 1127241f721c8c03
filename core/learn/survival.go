package learn

import (
	"math"
	"sort"
	"strconv"

	"nextround/core/invalid"
)

// Wait is the time from a clean to the first heavy finding, or to the last visit without one. It is known only at
// visits, so that "found by" is what the curve tells.
type Wait struct {
	Days float64 `json:"days"`
	// Found is false when nothing heavy had been found by then.
	Found bool `json:"found"`
}

// SurvivalStep is the curve from a day on.
type SurvivalStep struct {
	Days    float64 `json:"days"`
	AtRisk  int     `json:"at_risk"`
	Found   int     `json:"found"`
	Share   float64 `json:"share"` // still without a heavy finding
	ShareSE float64 `json:"share_se"`
}

// KaplanMeier is the share that goes on without a heavy finding:
//
//	S(t) = Π (1 − dᵢ/nᵢ),  se = S √Σ dᵢ/(nᵢ(nᵢ−dᵢ))
//
// Sources: Kaplan and Meier, J. Am. Stat. Assoc. 53 (1958) 457–481; Greenwood 1926 for the error (both from memory). A
// wait that ends on the day of a finding still counts as at risk. The error is an invalid.Error.
func KaplanMeier(waits []Wait) ([]SurvivalStep, error) {
	var bad invalid.Error
	for i, w := range waits {
		if !(w.Days >= 0) || math.IsInf(w.Days, 1) {
			bad.Addf("waits["+strconv.Itoa(i)+"].days", "must be 0 or more")
		}
	}
	if err := bad.Err(); err != nil {
		return nil, err
	}
	sorted := append([]Wait{}, waits...)
	sort.Slice(sorted, func(i, j int) bool { return sorted[i].Days < sorted[j].Days })
	out := []SurvivalStep{}
	share, sum := 1.0, 0.0
	for i := 0; i < len(sorted); {
		atRisk, found, j := len(sorted)-i, 0, i
		for ; j < len(sorted) && sorted[j].Days == sorted[i].Days; j++ {
			if sorted[j].Found {
				found++
			}
		}
		if found > 0 {
			share *= 1 - float64(found)/float64(atRisk)
			step := SurvivalStep{Days: sorted[i].Days, AtRisk: atRisk, Found: found, Share: share}
			if atRisk > found {
				sum += float64(found) / float64(atRisk) / float64(atRisk-found)
				step.ShareSE = share * math.Sqrt(sum)
			}
			out = append(out, step)
		}
		i = j
	}
	return out, nil
}
