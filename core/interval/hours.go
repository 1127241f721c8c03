package interval

import (
	"math"
	"strconv"

	"nextround/core/invalid"
	"nextround/core/root"
)

// CurvePoint is what an interval costs, in money a day, cleaning, soil and the price of days over the limit together.
type CurvePoint struct {
	Days    float64 `json:"days"`
	CostDay float64 `json:"cost_day"`
}

// HoursCoil is a coil that takes crew-hours: those of one clean, how often it is done, and what other intervals would cost.
type HoursCoil struct {
	Name       string       `json:"name"`
	CleanHours float64      `json:"clean_hours"`
	EveryDays  float64      `json:"every_days"`
	Curve      []CurvePoint `json:"curve"`
}

// HoursQuestion asks what an hour more would bring, at some hours a year; 0 are those that the intervals in force take.
type HoursQuestion struct {
	Coils     []HoursCoil `json:"coils"`
	HoursYear float64     `json:"hours_year,omitempty"`
}

// HoursAnswer is what crew-hours are worth.
type HoursAnswer struct {
	// InForceYear are the hours a year that the intervals in force take, BestYear those at which every interval costs least.
	InForceYear float64 `json:"in_force_year"`
	BestYear    float64 `json:"best_year"`
	// HoursYear is what was asked for, HourPrice what an hour more would bring then: 0 where there are enough.
	HoursYear float64 `json:"hours_year"`
	HourPrice float64 `json:"hour_price"`
	// SavesYear is how much less all coils together cost a year than at the intervals in force, at the best intervals for those hours.
	SavesYear float64 `json:"saves_year"`
	// Days are the intervals then, one to a coil.
	Days []float64 `json:"days"`
}

// mostHourPrice is the highest price of an hour that is looked for.
const mostHourPrice = 1e5

// Check lists every field that cannot be used.
func (q HoursQuestion) Check() error {
	var bad invalid.Error
	if len(q.Coils) == 0 {
		bad.Addf("coils", "at least one is needed")
	}
	for i, c := range q.Coils {
		at := "coils[" + strconv.Itoa(i) + "]."
		if !(c.CleanHours > 0) || math.IsInf(c.CleanHours, 1) {
			bad.Addf(at+"clean_hours", "must be above 0")
		}
		if !(c.EveryDays >= 1) || math.IsInf(c.EveryDays, 1) {
			bad.Addf(at+"every_days", "must be at least 1")
		}
		if len(c.Curve) == 0 {
			bad.Addf(at+"curve", "at least one interval is needed")
		}
		for k, p := range c.Curve {
			if !(p.Days >= 1) || math.IsNaN(p.CostDay) || math.IsInf(p.CostDay, 0) || (k > 0 && p.Days <= c.Curve[k-1].Days) {
				bad.Addf(at+"curve["+strconv.Itoa(k)+"]", "days must be at least 1 and rise, the cost a number")
			}
		}
	}
	if !(q.HoursYear >= 0) || math.IsInf(q.HoursYear, 1) {
		bad.Addf("hours_year", "must be 0 or more")
	}
	return bad.Err()
}

// at is what an interval costs, on the broken line of the curve, beyond its ends as at them.
func (c HoursCoil) at(days float64) float64 {
	for k, p := range c.Curve {
		if days > p.Days {
			continue
		}
		if k == 0 {
			break
		}
		before := c.Curve[k-1]
		return before.CostDay + (p.CostDay-before.CostDay)*(days-before.Days)/(p.Days-before.Days)
	}
	if days <= c.Curve[0].Days {
		return c.Curve[0].CostDay
	}
	return c.Curve[len(c.Curve)-1].CostDay
}

// best interval of the coil where an hour costs a price beside what the clean's own cost holds.
func (c HoursCoil) best(price float64) CurvePoint {
	best, least := c.Curve[0], math.Inf(1)
	for _, p := range c.Curve {
		if cost := p.CostDay + price*c.CleanHours/p.Days; cost < least {
			best, least = p, cost
		}
	}
	return best
}

// PriceOfHours is what an hour of a crew more in a year would bring, by the price μ that makes the best intervals take the hours there are:
//
//	min over all intervals of Σ Cᵢ(Tᵢ) + μ (Σ hᵢ/Tᵢ − H)
//
// found by halving, on the intervals of the curves. Money is a year's. The error is an invalid.Error naming the fields.
func PriceOfHours(q HoursQuestion) (HoursAnswer, error) {
	if err := q.Check(); err != nil {
		return HoursAnswer{}, err
	}
	taken := func(price float64) (hours float64) {
		for _, c := range q.Coils {
			hours += year * c.CleanHours / c.best(price).Days
		}
		return hours
	}
	out := HoursAnswer{BestYear: taken(0)}
	for _, c := range q.Coils {
		out.InForceYear += year * c.CleanHours / c.EveryDays
	}
	if out.HoursYear = q.HoursYear; out.HoursYear == 0 {
		out.HoursYear = out.InForceYear
	}
	if taken(0) > out.HoursYear {
		_, out.HourPrice = root.Halve(0, mostHourPrice, 60, func(price float64) bool { return taken(price) <= out.HoursYear })
	}
	for _, c := range q.Coils {
		best := c.best(out.HourPrice)
		out.SavesYear += year * (c.at(c.EveryDays) - best.CostDay)
		out.Days = append(out.Days, best.Days)
	}
	return out, nil
}

// curveSpacing is how much longer each interval of a curve is than the one before.
const curveSpacing = 1.25

// curve is what intervals cost, from a week on.
func (a *Ahead) curve() []CurvePoint {
	var out []CurvePoint
	for days := float64(min(Week, a.MostDays)); days <= float64(a.MostDays); days = math.Ceil(days * curveSpacing) {
		out = append(out, CurvePoint{days, a.Account(days).TotalDay})
	}
	return out
}
