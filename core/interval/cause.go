package interval

import (
	"math"
	"slices"

	"nextround/core/invalid"
)

// CauseQuestion asks what it would bring to take one site factor away.
type CauseQuestion struct {
	Outlook Outlook `json:"outlook"`
	// Times is what the rate falls to, as a share: the combined factor without the cause over that with it.
	Times float64 `json:"times"`
	// Once is what taking it away costs; 0 where it is not known.
	Once float64 `json:"once,omitempty"`
}

// CauseResult is a coil with and without the cause.
type CauseResult struct {
	With    Best `json:"with"`
	Without Best `json:"without"`
	// SavedYear is the money a year that is saved; PaybackYears how long until Once has come back, nil where it is not
	// known or never.
	SavedYear    float64  `json:"saved_year"`
	PaybackYears *float64 `json:"payback_years,omitempty"`
}

// WithoutCause works a coil out with one site factor taken away, both at the interval that is then cheapest. The error is
// an invalid.Error naming the fields.
func WithoutCause(q CauseQuestion) (CauseResult, error) {
	bad := below("outlook.", q.Outlook.Check())
	if !(q.Times > 0 && q.Times <= 100) {
		bad.Addf("times", "must be above 0 and at most 100")
	}
	if !(q.Once >= 0) || math.IsInf(q.Once, 1) {
		bad.Addf("once", "must be 0 or more")
	}
	if err := bad.Err(); err != nil {
		return CauseResult{}, err
	}
	o := q.Outlook.withDefaults()
	table := o.Economics.Table()
	out := CauseResult{With: look(o, table).Cheapest()}
	sides := append([]Belief{}, o.Sides...)
	for i, s := range sides {
		sides[i].Rates = make([]float64, len(s.Rates))
		for k, r := range s.Rates {
			sides[i].Rates[k] = r * q.Times
		}
	}
	o.Sides = sides
	out.Without = look(o, table).Cheapest()
	out.SavedYear = year * (out.With.TotalDay - out.Without.TotalDay)
	if q.Once > 0 && out.SavedYear > 0 {
		out.PaybackYears = ptr(q.Once / out.SavedYear)
	}
	return out, nil
}

// ChooseWithoutCause is Choose with one site factor taken away: every rate falls, or rises, to a multiple of what it is, above 0 and at most
// 100; the soil on the coil today stays. The error is an invalid.Error naming the fields.
func ChooseWithoutCause(q ChoiceQuestion, times float64) (Choice, error) {
	if !(times > 0 && times <= 100) {
		return Choice{}, invalid.At("times", "must be above 0 and at most 100")
	}
	q.Truths, q.Looks = slices.Clone(q.Truths), nil
	for i, t := range q.Truths {
		t.Sides = slices.Clone(t.Sides)
		for k := range t.Sides {
			t.Sides[k].Rate *= times
		}
		q.Truths[i] = t
	}
	return Choose(q)
}
