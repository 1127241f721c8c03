// Package round plans which crew does which jobs on which day, and in what order: waiting, driving, stops, overtime and
// crews are weighed in money. Construction by regret insertion, improvement by adaptive large neighbourhood search
// (Ropke and Pisinger, Transportation Science 40, 2006), with a lower bound beside it.
package round

import (
	"fmt"
	"math"
	"sort"

	"nextround/core/calendar"
	"nextround/core/invalid"
)

// Bounds of a problem.
const (
	MostDays  = 182
	mostCrews = 64
	twoDays   = 2880.0
)

// DefaultStopMinutes are lost at every stop: parking, keys, signing in (assumption).
const DefaultStopMinutes = 20.0

// Problem is all that a plan is made from.
type Problem struct {
	Start  calendar.Day `json:"start"`
	Days   int          `json:"days"` // 1 to 182
	Places []Place      `json:"places"`
	Hours  []Hours      `json:"hours,omitempty"`
	Travel Travel       `json:"travel"`
	Crews  []Crew       `json:"crews"`
	Jobs   []Job        `json:"jobs"`
	// StopMinutes are lost at every stop; left out: 20.
	StopMinutes *float64 `json:"stop_minutes,omitempty"`
	// Fixed are jobs on published rounds; MovePrice is what moving one of them must gain. Locked ones do not move at all.
	Fixed     []Fixed `json:"fixed,omitempty"`
	MovePrice float64 `json:"move_price,omitempty"`
}

// Fixed says where a job is to stay.
type Fixed struct {
	Job    string       `json:"job"`
	Crew   string       `json:"crew"`
	Day    calendar.Day `json:"day"`
	Locked bool         `json:"locked,omitempty"`
	// Draft is true where the job is only planned there, not published; Price is what moving it must gain, left out
	// MovePrice.
	Draft bool     `json:"draft,omitempty"`
	Price *float64 `json:"price,omitempty"`
}

// price is what moving the job must gain.
func (f Fixed) price(p Problem) float64 {
	if f.Price != nil {
		return *f.Price
	}
	return p.MovePrice
}

// Check lists every field that cannot be used.
func (p Problem) Check() error {
	var bad invalid.Error
	if p.Days < 1 || p.Days > MostDays {
		bad.Addf("days", "must be between 1 and %d", MostDays)
	}
	if p.StopMinutes != nil && !good(*p.StopMinutes) {
		bad.Addf("stop_minutes", "must be 0 or more")
	}
	if !good(p.MovePrice) {
		bad.Addf("move_price", "must be 0 or more")
	}
	places := checkPlaces(&bad, p)
	hours := checkHours(&bad, p.Hours)
	crews := checkCrews(&bad, p.Crews, places)
	jobs := checkJobs(&bad, p.Jobs, places, hours)
	fixed := map[string]bool{}
	for i, f := range p.Fixed {
		at := fmt.Sprintf("fixed[%d].", i)
		if !jobs[f.Job] || fixed[f.Job] {
			bad.Addf(at+"job", "must be one of the jobs, and fixed only once")
		}
		if !crews[f.Crew] {
			bad.Addf(at+"crew", "is not one of the crews")
		}
		if off := f.Day.Sub(p.Start); off < 0 || off >= p.Days {
			bad.Addf(at+"day", "is outside the horizon")
		}
		if !good(f.price(p)) {
			bad.Addf(at+"price", "must be 0 or more")
		}
		fixed[f.Job] = true
	}
	return bad.Err()
}

func good(v float64) bool { return v >= 0 && v <= mostLost }

// checkPlaces gives the places known by their id.
func checkPlaces(bad *invalid.Error, p Problem) map[string]bool {
	places := map[string]bool{}
	for i, x := range p.Places {
		at := fmt.Sprintf("places[%d].", i)
		if x.ID == "" || places[x.ID] {
			bad.Addf(at+"id", "must be given, and only once")
		}
		places[x.ID] = true
		if !(math.Abs(x.Lat) <= 90) || !(math.Abs(x.Lon) <= 180) {
			bad.Addf(at+"lat", "must be degrees: 90 at most north or south, 180 east or west")
		}
	}
	if n := len(p.Travel.Minutes); n > 0 && n != len(p.Places) {
		bad.Addf("travel.minutes", "must have a row for each place, %d, not %d", len(p.Places), n)
	}
	for i, row := range p.Travel.Minutes {
		if len(row) != len(p.Places) {
			bad.Addf(fmt.Sprintf("travel.minutes[%d]", i), "must have a figure for each place")
		}
		for k, v := range row {
			if !good(v) {
				bad.Addf(fmt.Sprintf("travel.minutes[%d][%d]", i, k), "must be 0 or more")
			}
		}
	}
	if !good(p.Travel.SpeedKMH) {
		bad.Addf("travel.speed_kmh", "must be above 0")
	}
	if p.Travel.RoadFactor != 0 && !(p.Travel.RoadFactor >= 1 && good(p.Travel.RoadFactor)) {
		bad.Addf("travel.road_factor", "must be 1 or more: no road is shorter than the straight line")
	}
	return places
}

func checkHours(bad *invalid.Error, hours []Hours) map[string]bool {
	known := map[string]bool{"": true}
	spans := func(at string, list []Span) {
		for k, s := range list {
			if !good(s.From) || !(s.To > s.From) || s.To > twoDays || (k > 0 && s.From < list[k-1].To) {
				bad.Addf(fmt.Sprintf("%s[%d]", at, k), "must run forward in minutes of the day, after the one before it")
			}
		}
	}
	for i, h := range hours {
		at := fmt.Sprintf("hours[%d].", i)
		if known[h.ID] {
			bad.Addf(at+"id", "must be given, and only once")
		}
		known[h.ID] = true
		for d, list := range h.Weekly {
			spans(fmt.Sprintf("%sweekly[%d]", at, d), list)
		}
		for d, x := range h.Dated {
			spans(fmt.Sprintf("%sdated[%d].spans", at, d), x.Spans)
		}
	}
	return known
}

func checkCrews(bad *invalid.Error, crews []Crew, places map[string]bool) map[string]bool {
	known := map[string]bool{}
	if len(crews) > mostCrews {
		bad.Addf("crews", "must be %d at most", mostCrews)
	}
	for i, c := range crews {
		at := fmt.Sprintf("crews[%d].", i)
		if c.ID == "" || known[c.ID] {
			bad.Addf(at+"id", "must be given, and only once")
		}
		known[c.ID] = true
		if !places[c.Base] {
			bad.Addf(at+"base", "is not one of the places")
		}
		for _, m := range []struct {
			name  string
			value float64
		}{
			{"hour_cost", c.Hour},
			{"overtime_hour_cost", c.OvertimeHour},
			{"day_fee", c.DayFee},
			{"work_hour_cost", c.WorkHour},
			{"tank_l", c.TankL},
			{"overtime_minutes", c.Overtime},
		} {
			if !good(m.value) {
				bad.Addf(at+m.name, "must be 0 or more")
			}
		}
		shift := func(at string, s Shift) {
			if !good(s.Starts) || !good(s.Minutes) || s.Starts+s.Minutes > twoDays || s.People < 0 || (s.Minutes > 0 && s.People < 1) {
				bad.Addf(at, "must start at 0 or later, last 0 minutes or more, and have somebody who works")
			}
		}
		for d, s := range c.Weekly {
			shift(fmt.Sprintf("%sweekly[%d]", at, d), s)
		}
		for d, s := range c.Dated {
			shift(fmt.Sprintf("%sdated[%d]", at, d), s.Shift)
		}
	}
	return known
}

func checkJobs(bad *invalid.Error, jobs []Job, places, hours map[string]bool) map[string]bool {
	seen := map[string]bool{}
	for i, j := range jobs {
		at := fmt.Sprintf("jobs[%d].", i)
		if j.ID == "" || seen[j.ID] {
			bad.Addf(at+"id", "must be given, and only once")
		}
		if !places[j.Place] {
			bad.Addf(at+"place", "is not one of the places")
		}
		if !hours[j.Hours] {
			bad.Addf(at+"hours", "are not among the hours")
		}
		if !(j.Minutes > 0) || j.Minutes > twoDays {
			bad.Addf(at+"minutes", "must be above 0, two days at most")
		}
		if j.People < 0 || !good(j.WaterL) || !good(j.LeftOut) || j.Gap < 0 {
			bad.Addf(at+"people", "people, water_l, left_out_cost and gap_days must be 0 or more")
		}
		if j.After != "" && !seen[j.After] {
			bad.Addf(at+"after", "must be a job that stands before this one in the list")
		}
		before := 0.0
		for k, v := range j.Waiting.Weeks {
			if !good(v) || v < before {
				bad.Addf(fmt.Sprintf("%swaiting.late_weeks[%d]", at, k), "must be 0 or more and never fall")
			}
			before = v
		}
		if !good(j.Waiting.EarlyDay) || !good(j.Waiting.CapPenalty) {
			bad.Addf(at+"waiting", "prices must be 0 or more")
		}
		seen[j.ID] = true
	}
	sort.SliceStable(*bad, func(i, k int) bool { return (*bad)[i].Path < (*bad)[k].Path })
	return seen
}
