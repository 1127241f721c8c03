package interval

import "math"

// PreviewQuestion asks what an interval would look like from today on.
type PreviewQuestion struct {
	// Now is the coil as it stands, After as the next clean leaves it.
	Now   Outlook `json:"now"`
	After Outlook `json:"after"`
	// Days between two cleans; DueIn days until the next, 0 when it is late.
	Days  int `json:"days"`
	DueIn int `json:"due_in_days"`
	// Horizon is how many days ahead are drawn; 0 means a year.
	Horizon int `json:"horizon_days,omitempty"`
}

// Preview is an interval worked out from today on.
type Preview struct {
	Account
	// YearMoney is all of it in a year: cleaning, energy, call-outs and the price of days over the limit.
	YearMoney float64 `json:"year_money"`
	// OverAtDue is the probability of being over the limit on the day the next clean is due.
	OverAtDue float64 `json:"over_at_due"`
	// Fan are blocked shares from today on, in the order of time; a clean has two points on its day.
	Fan []ShareRange `json:"fan"`
	// Cleans are the days ahead on which it is cleaned.
	Cleans []int `json:"cleans"`
}

const (
	previewHorizon = year
	previewPoints  = 8 // to an interval
)

// Show works an interval out from today: the soil as a range, day by day, with the cleans ahead, and what a year of it
// costs. The error is an invalid.Error naming the fields.
func Show(q PreviewQuestion) (Preview, error) {
	bad := below("now.", q.Now.Check())
	bad = append(bad, below("after.", q.After.Check())...)
	if q.Days < 1 || q.Days > mostDays {
		bad.Addf("days", "must be between 1 and %d", mostDays)
	}
	if q.DueIn < 0 || q.DueIn > mostDays {
		bad.Addf("due_in_days", "must be between 0 and %d", mostDays)
	}
	if q.Horizon < 0 || q.Horizon > mostDays {
		bad.Addf("horizon_days", "must be between 1 and %d", mostDays)
	}
	if err := bad.Err(); err != nil {
		return Preview{}, err
	}
	horizon := q.Horizon
	if horizon == 0 {
		horizon = previewHorizon
	}
	reach := func(o Outlook, days int) *Ahead {
		o = o.withDefaults()
		o.MostDays = max(1, days)
		return look(o, o.Economics.Table())
	}
	now, after := reach(q.Now, min(q.DueIn, horizon)), reach(q.After, q.Days)
	out := Preview{Account: after.Account(float64(q.Days)), OverAtDue: now.Over(float64(q.DueIn)), Cleans: []int{}}
	out.YearMoney = year * out.TotalDay
	out.Fan = now.segment(0, min(q.DueIn, horizon))
	whole := after.segment(0, q.Days) // the same after every clean
	for day := q.DueIn; day < horizon; day += q.Days {
		out.Cleans = append(out.Cleans, day)
		for _, at := range whole {
			if at.Day += float64(day); at.Day <= float64(horizon) {
				out.Fan = append(out.Fan, at)
			}
		}
	}
	return out, nil
}

// segment is the fan of some days, moved to where they stand.
func (a *Ahead) segment(from, days int) []ShareRange {
	points := max(1, min(previewPoints, days))
	at := make([]float64, 0, points+1)
	for n := range points + 1 {
		at = append(at, math.Round(float64(days)*float64(n)/float64(points)))
	}
	fan := a.Fan(at)
	for i := range fan {
		fan[i].Day += float64(from)
	}
	return fan
}
