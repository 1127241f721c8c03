package method

import (
	"math"

	"nextround/core/soil"
)

// MixPerArea is litres of ready mix per m² of face and slab at a coat (assumption); the others are the face that goes with a kW of nominal
// capacity where no size is known (assumption).
const (
	MixPerArea      = 1.8
	areaPerKilowatt = .12
	usualArea       = .5
)

// byGrade is how the mix grows with the grade found, from bare to blocked (assumption).
var byGrade = [...]float64{.5, .7, 1, 1.3, 1.6, 2}

// Face is a coil's face area in m²: as entered, else from its capacity in kW, else half a square metre; assumed says
// that it was not entered.
func Face(areaM2, capacityKw float64) (m2 float64, assumed bool) {
	switch {
	case areaM2 > 0:
		return areaM2, false
	case capacityKw > 0:
		return areaPerKilowatt * capacityKw, true
	}
	return usualArea, true
}

// MixFor is the mix planned for a coil in litres: area × slabs × soil, times the unit's own factor.
func MixFor(faceM2 float64, slabs int, g soil.Grade, factor float64) float64 {
	if !g.Valid() {
		g = soil.Coat
	}
	if !(factor > 0) {
		factor = 1
	}
	return MixPerArea * faceM2 * float64(max(slabs, 1)) * byGrade[g] * factor
}

// priorDoses is the weight of a factor of 1 against a unit's own doses.
const priorDoses = 3

// DoseFactor is a unit's own ratio of used to planned, shrunk towards 1:
//
//	exp(Σ ln(used/planned) / (n + 3))
//
// Pairs without a plan or a use are left out; a single ratio counts at most tenfold either way.
func DoseFactor(used, planned []float64) (factor float64, n int) {
	sum := 0.0
	for i := range min(len(used), len(planned)) {
		if used[i] > 0 && planned[i] > 0 {
			sum += math.Max(-math.Ln10, math.Min(math.Ln10, math.Log(used[i]/planned[i])))
			n++
		}
	}
	return math.Exp(sum / float64(n+priorDoses)), n
}

// Dose is one use of a cleaner.
type Dose struct {
	Group    string
	PlannedL float64
	UsedL    float64
	// PriceL is money per litre, 0 when unknown.
	PriceL float64
}

// DoseVariance is how a group's use compares with its plan.
type DoseVariance struct {
	Group    string  `json:"group"`
	Times    int     `json:"times"`
	PlannedL float64 `json:"planned_l"`
	UsedL    float64 `json:"used_l"`
	// Ratio is used over planned.
	Ratio float64 `json:"ratio"`
	Money float64 `json:"money"`
}

// Variances sums doses by group, in the order the groups first appear. Money is what was used beyond the plan.
func Variances(doses []Dose) []DoseVariance {
	at := map[string]int{}
	out := []DoseVariance{}
	for _, d := range doses {
		i, ok := at[d.Group]
		if !ok {
			i = len(out)
			at[d.Group] = i
			out = append(out, DoseVariance{Group: d.Group})
		}
		v := &out[i]
		v.Times++
		v.PlannedL += d.PlannedL
		v.UsedL += d.UsedL
		v.Money += (d.UsedL - d.PlannedL) * d.PriceL
	}
	for i := range out {
		if out[i].PlannedL > 0 {
			out[i].Ratio = out[i].UsedL / out[i].PlannedL
		}
	}
	return out
}

// Used is what a visit took of a cleaner: loaded + topped up − returned, never below 0.
func Used(loaded, toppedUp, returned float64) float64 {
	return math.Max(0, loaded+toppedUp-returned)
}
