package round

import (
	"math"

	"nextround/core/calendar"
)

// Waiting is the price of doing a job on another day than its due day.
type Waiting struct {
	// EarlyDay is lost for each day it comes early: the share of the interval not used up (interval.PriceOfEarly).
	EarlyDay float64 `json:"early_day,omitempty"`
	// Weeks are the money lost when it is 1, 2, … weeks late (interval.PriceOfWaiting); in between it is linear, beyond the
	// last it goes on as in the last week. Rising; empty: waiting costs nothing.
	Weeks []float64 `json:"late_weeks,omitempty"`
	// CapDay is a hard cap's last day, CapPenalty what passing it costs once.
	CapDay     *calendar.Day `json:"cap_day,omitempty"`
	CapPenalty float64       `json:"cap_penalty,omitempty"`
}

// On is the price of a day.
func (w Waiting) On(due, day calendar.Day) float64 {
	late := day.Sub(due)
	money := 0.0
	switch n := len(w.Weeks); {
	case late <= 0:
		money = -float64(late) * w.EarlyDay
	case n > 0:
		week, share := min(late/7, n-1), float64(late)/7
		before := 0.0
		if week > 0 {
			before = w.Weeks[week-1]
		}
		money = before + (w.Weeks[week]-before)*(share-float64(week))
	}
	if w.CapDay != nil && day > *w.CapDay {
		money += w.CapPenalty
	}
	return money
}

// After is the price of a day counted from a day on: what was lost before cannot be saved any more.
func (w Waiting) After(start, due, day calendar.Day) float64 {
	if due >= start {
		return w.On(due, day)
	}
	return w.On(due, day) - w.On(due, start)
}

// Job is the work of one visit to a unit: a clean with whatever rides along.
type Job struct {
	ID    string `json:"id"`
	Place string `json:"place"`
	// Hours it may be worked in, by their id; empty: always.
	Hours string `json:"hours,omitempty"`
	// Due is the day its clock runs out, From the first day it may be done; left out: the first of the horizon.
	Due  calendar.Day  `json:"due"`
	From *calendar.Day `json:"from,omitempty"`
	// Minutes on site, of People together.
	Minutes float64  `json:"minutes"`
	People  int      `json:"people,omitempty"`
	Skills  []string `json:"skills,omitempty"`
	// Contractor is work that only a contractor does.
	Contractor bool     `json:"contractor,omitempty"`
	Kit        []string `json:"kit,omitempty"`
	// WaterL is what it takes out of the vehicle's tank: where it is done there is no tap.
	WaterL float64 `json:"water_l,omitempty"`
	// OutdoorWet work needs a day above 4 °C.
	OutdoorWet bool    `json:"outdoor_wet,omitempty"`
	Waiting    Waiting `json:"waiting"`
	// LeftOut is the price of not doing it within the horizon; 0: what waiting until four weeks after it costs.
	LeftOut float64 `json:"left_out_cost,omitempty"`
	// After is the job that comes before it on the same clock, Gap the least days between the two.
	After string `json:"after,omitempty"`
	Gap   int    `json:"gap_days,omitempty"`
}

// beyond is how many days after the horizon a job that is left out is thought to be done (assumption).
const beyond = 28

func (j Job) leftOut(start, last calendar.Day) float64 {
	if j.LeftOut > 0 {
		return j.LeftOut
	}
	return j.Waiting.After(start, j.Due, max(last, j.Due).Add(beyond))
}

// mostLost bounds a price, so that sums stay finite.
const mostLost = math.MaxFloat32
