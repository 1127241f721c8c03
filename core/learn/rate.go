package learn

import (
	"math"
	"strconv"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/core/reason"
	"nextround/core/soil"
)

// GraderSigma is the scatter of a look graded by somebody who is not known, on ln load (assumption).
const GraderSigma = .245

// ReadingSigma is the scatter of the soil that a reading speaks for, on ln load (assumption).
const ReadingSigma = .5

// Slip is the share of findings that no rate explains: events and slips of the pen (assumption).
const Slip = .02

// MostEvidence is how many of the newest findings teach the rate; earlier ones only move the state (assumption: a side
// visited that often is known by then, and what it was years ago is no longer what it is).
const MostEvidence = 60

// leastLoad keeps the logarithm of a predicted load finite.
const leastLoad = 1e-6

// The grid over x, and the multiples of the assumed penetration with their weights (assumption).
const (
	DefaultPoints = 101
	leastPoints   = 11
	mostPoints    = 2001
	priorWidth    = 4 // standard deviations either side
	farthest      = 8 // most the grid reaches, either side of λ0: e^8
	edgeWeight    = 2e-4
	fineWidth     = 6
	roughPoints   = 33
	farPoints     = 161
	MostCore      = .9
)

var (
	penetrationScales  = [3]float64{.5, 1, 1.5}
	penetrationWeights = [3]float64{.25, .5, .25}
)

// Question is the history of one side and what is believed beforehand.
type Question struct {
	// History with, in its conditions, the rate assumed for each time (soil.StartRate).
	History soil.History `json:"history"`
	// Prior on x; left out, Trade.
	Prior *Normal `json:"prior,omitempty"`
	// Points of the grid over x, 11 to 2001; 0 means DefaultPoints.
	Points int `json:"grid_points,omitempty"`
	// FollowDrift lets only the last three findings count when they say that the rate has changed.
	FollowDrift bool `json:"follow_drift,omitempty"`
	// CallLog is what is known of call-outs, where a log was declared complete.
	CallLog *CallLog `json:"call_log,omitempty"`
}

// Check lists every field that cannot be used.
func (q Question) Check() error {
	var bad invalid.Error
	if err := q.History.Check(); err != nil {
		for _, f := range err.(invalid.Error) { //nolint:errorlint // Check returns nothing else
			bad.Addf("history."+f.Path, "%s", f.Reason)
		}
	}
	if q.Prior != nil {
		if math.IsNaN(q.Prior.Mean) || math.Abs(q.Prior.Mean) > farthest {
			bad.Addf("prior.mean", "must be between -8 and 8")
		}
		if !(q.Prior.Variance > 0 && q.Prior.Variance <= 4) {
			bad.Addf("prior.variance", "must be above 0 and at most 4")
		}
	}
	if q.Points != 0 && (q.Points < leastPoints || q.Points > mostPoints) {
		bad.Addf("grid_points", "must be between %d and %d", leastPoints, mostPoints)
	}
	q.CallLog.check(&bad)
	for i, c := range q.History.Conditions {
		if c.Rate <= 0 {
			bad.Addf("history.conditions["+strconv.Itoa(i)+"].rate", "must be above 0: it is the rate assumed beforehand")
		}
	}
	return bad.Err()
}

// Evidence is one observation of the history and what became of it.
type Evidence struct {
	Day calendar.Day `json:"day"`
	// Grade found; nil for a reading.
	Grade *soil.Grade `json:"grade,omitempty"`
	Seen  soil.Seen   `json:"seen,omitempty"`
	// Expected is the load that was to be expected on what the look sees, before it.
	Expected float64 `json:"expected_load"`
	// Counted is false for a look that only sets the state: the first where nothing was known before, and those before the
	// newest MostEvidence.
	Counted bool `json:"counted"`
	// Event is the probability that the rate does not explain it; above one half it is flagged, not learned.
	Event float64 `json:"event_probability"`
}

// Flagged reports whether the finding counts as an event.
func (e Evidence) Flagged() bool { return e.Event > .5 }

// Rate is what is known of a side's rate and state.
type Rate struct {
	// Known is false until a start or a first finding gives a state; the rate then is the belief beforehand.
	Known bool `json:"known"`
	// MeanLog and SDLog are those of ln λ, the rate now.
	MeanLog float64 `json:"mean_log"`
	SDLog   float64 `json:"sd_log"`
	// Rate λ now, load per 30 exposure-days.
	Rate Range `json:"rate"`
	// Assumed is λ0 now.
	Assumed float64 `json:"assumed_rate"`
	// Penetration expected, and the weight of each of the three points.
	Penetration  float64    `json:"penetration"`
	Penetrations [3]float64 `json:"penetration_points"`
	Weights      [3]float64 `json:"penetration_weights"`
	// State expected today, and the range of the core.
	State soil.State `json:"state"`
	Core  Range      `json:"core_load"`
	Total Range      `json:"total_load"`
	// Own is what the side's findings alone say of x, the belief beforehand divided out; nil while they say nothing.
	Own *Normal `json:"own,omitempty"`
	// Telling counts the findings of grade 1 to 4 that were not flagged: a side with one is a peer to others.
	Telling  int             `json:"telling_findings"`
	Counted  int             `json:"counted_findings"`
	Evidence []Evidence      `json:"evidence"`
	Drift    *Drift          `json:"drift,omitempty"`
	CoreSeen *calendar.Day   `json:"core_seen,omitempty"`
	Calls    *Calls          `json:"calls,omitempty"`
	Cells    []Cell          `json:"-"` // for the schools; too many to print
	Prior    Normal          `json:"prior"`
	Reasons  []reason.Reason `json:"reasons"`
}

// Learn finds the rate of a side. For every pair of a multiple e^x of the assumed rate and a share p that goes into the
// core it replays the whole history and takes, for every opened-up finding of a grade with band (lo, hi) on the layer that
// the look sees, predicted load L:
//
//	P = 0.98 [Φ((ln hi − ln L)/σ) − Φ((ln lo − ln L)/σ)] + 0.02/6,  σ² = 0.25² + (grader's σ)²
//
// A reading takes the density of ln L in place of the band. A first interval that starts on a roughly known day of
// doubt d = 30 adds (d/days)² to σ². The state is then moved into the band found, cleaned, and moved into the band left.
// Time between two visits without a call-out, while the log of call-outs was complete, takes exp(−∫ m h) for what the cell's load was
// to bring: that nothing tripped speaks for less soil (heat.Economics.At says h, heat.CallFactor m).
//
// With a prior x ~ N(m, v) and three points ½p₀, p₀, 1.5p₀ (at most 0.9) of weight ¼, ½, ¼ that gives the weights of the
// cells. The 2 % is for events: a finding that the rate cannot explain is flagged and teaches nothing.
//
// A rough grid over 4 standard deviations of the prior either side is moved outwards where weight stands at its edge; 101
// points then cover 6 standard deviations of the answer either side (assumption for the variances; the arithmetic is Bayes's). The
// error is an invalid.Error naming the fields.
func Learn(q Question) (Rate, error) {
	if err := q.Check(); err != nil {
		return Rate{}, err
	}
	if q.Prior == nil {
		q.Prior = &Trade
	}
	if q.Points == 0 {
		q.Points = DefaultPoints
	}
	w := q.walk()
	sd := q.Prior.SD()
	r := w.around(q.Prior.Mean-priorWidth*sd, q.Prior.Mean+priorWidth*sd, roughPoints, q)
	if r.mostlyEvents() {
		// Where nearly every finding would be an event, the rate is rather far from what was assumed.
		if far := w.around(-farthest, farthest, farPoints, q); !far.mostlyEvents() {
			return far, nil
		}
	}
	return r, nil
}

// around looks for the rate from a range on with a rough grid, then works it out with a fine one.
func (w walk) around(lo, hi float64, rough int, q Question) Rate {
	for range 6 {
		g := w.over(lo, hi, rough, q, true)
		marginal := g.marginal(g.weights(nil))
		width := hi - lo
		m, s := moments(g.x, marginal)
		switch {
		case marginal[0] > edgeWeight && lo > -farthest:
			lo = math.Max(-farthest, lo-width/2)
		case marginal[rough-1] > edgeWeight && hi < farthest:
			hi = math.Min(farthest, hi+width/2)
		default:
			s = math.Max(s, width/float64(rough-1))
			g = w.over(math.Max(lo, m-fineWidth*s), math.Min(hi, m+fineWidth*s), q.Points, q, false)
			return g.rate(w, q)
		}
	}
	g := w.over(lo, hi, q.Points, q, false)
	return g.rate(w, q)
}

// Taught counts the findings that taught the rate: those counted but the flagged ones.
func (r Rate) Taught() int {
	n := r.Counted
	for _, e := range r.Evidence {
		if e.Counted && e.Flagged() {
			n--
		}
	}
	return max(0, n)
}

// mostlyEvents reports whether three findings or more, and more than half, would be events.
func (r Rate) mostlyEvents() bool {
	flagged := 0
	for _, e := range r.Evidence {
		if e.Counted && e.Flagged() {
			flagged++
		}
	}
	return flagged >= 3 && 2*flagged > r.Counted
}

// moments are mean and standard deviation of weighted points.
func moments(x, weight []float64) (m, s float64) {
	for i, w := range weight {
		m += w * x[i]
	}
	for i, w := range weight {
		s += w * (x[i] - m) * (x[i] - m)
	}
	return m, math.Sqrt(math.Max(0, s))
}
