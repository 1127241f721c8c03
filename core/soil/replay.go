package soil

import (
	"fmt"
	"math"
	"sort"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/core/reason"
)

// StartQuality is how well the start of a history is known.
type StartQuality string

// The qualities of a start. Exact and About begin at zero soil; Unknown waits for a first look.
const (
	StartExact   StartQuality = "exact"
	StartAbout   StartQuality = "about"
	StartUnknown StartQuality = "unknown"
)

// AboutDoubtDays is the doubt carried by a start known only roughly (assumption).
const AboutDoubtDays = 30

// DefaultSampleDays is the spacing of curve points between visits when History.SampleDays is 0.
const DefaultSampleDays = 7

// Start is where a history begins: commissioning or a documented deep clean.
type Start struct {
	Quality StartQuality `json:"quality"`
	// Day is ignored when the quality is unknown.
	Day calendar.Day `json:"day,omitempty"`
}

// Condition is what governs the growth of soil from a day on, until the next condition.
type Condition struct {
	From calendar.Day `json:"from"`
	// Rate λ is the load per 30 exposure-days, at least 0.
	Rate float64 `json:"rate"`
	// Penetration p is the share that goes into the core, in [0, 1].
	Penetration float64 `json:"penetration"`
	// Months defaults to even weights when all are zero.
	Months MonthWeights `json:"month_weights"`
	// FanShare is the share of the day air moves, in [0, 1].
	FanShare float64 `json:"fan_share"`
}

// Visit is what one visit found, did and left at one side. A side that was not reached has none of the three.
type Visit struct {
	Day    calendar.Day `json:"day"`
	Found  *Finding     `json:"found,omitempty"`
	Cleans []Removal    `json:"cleans,omitempty"`
	Left   *Finding     `json:"left,omitempty"`
	// ReadingShare is the blocked share that a reading before the clean speaks for, in [0, 1): evidence on the rate, too
	// wide to move the state.
	ReadingShare *float64 `json:"reading_share,omitempty"`
	// GraderSigma is the scatter of whoever graded, on ln load; 0 where it is not known.
	GraderSigma float64 `json:"grader_sigma,omitempty"`
}

// History is everything that is known of one coil side.
type History struct {
	Start      Start       `json:"start"`
	Conditions []Condition `json:"conditions"`
	Visits     []Visit     `json:"visits"`
	// Until is the day for which the state is wanted; at or after the start and the last visit.
	Until calendar.Day `json:"until"`
	// SampleDays is the spacing of points between visits; 0 means DefaultSampleDays.
	SampleDays int `json:"sample_days,omitempty"`
}

// Stage names the moment a point of the curve stands for.
type Stage string

// The stages in the order in which they follow one another within a day.
const (
	StageStart   Stage = "start"
	StageGrown   Stage = "grown"
	StageFound   Stage = "found"
	StageCleaned Stage = "cleaned"
	StageLeft    Stage = "left"
	StageNow     Stage = "now"
)

// Point is the expected state at one moment.
type Point struct {
	Day   calendar.Day `json:"day"`
	Stage Stage        `json:"stage"`
	State
	Blocked float64 `json:"blocked_share"`
}

// Trace is the result of a replay.
type Trace struct {
	// Known is false until a start or a first finding gives a state; then Now means nothing.
	Known  bool    `json:"known"`
	Now    State   `json:"now"`
	Points []Point `json:"points"`
	// CoreSeen is the last day the core was seen by light; nil when it never was.
	CoreSeen *calendar.Day   `json:"core_seen,omitempty"`
	Reasons  []reason.Reason `json:"reasons"`
}

// Check lists every field of the history that cannot be used.
func (h History) Check() error {
	var bad invalid.Error
	switch h.Start.Quality {
	case StartExact, StartAbout, StartUnknown:
	default:
		bad.Addf("start.quality", "must be exact, about or unknown, not %q", h.Start.Quality)
	}
	if len(h.Conditions) == 0 {
		bad.Addf("conditions", "at least one is needed")
	}
	for i, c := range h.Conditions {
		at := fmt.Sprintf("conditions[%d].", i)
		if !(c.Rate >= 0) || math.IsInf(c.Rate, 1) {
			bad.Addf(at+"rate", "must be a load per 30 days of 0 or more")
		}
		if !(c.Penetration >= 0 && c.Penetration <= 1) {
			bad.Addf(at+"penetration", "must be between 0 and 1")
		}
		if !(c.FanShare >= 0 && c.FanShare <= 1) {
			bad.Addf(at+"fan_share", "must be between 0 and 1")
		}
		for m, w := range c.Months {
			if !(w >= 0) || math.IsInf(w, 1) {
				bad.Addf(fmt.Sprintf("%smonth_weights[%d]", at, m), "must be 0 or more")
			}
		}
		if i > 0 && c.From <= h.Conditions[i-1].From {
			bad.Addf(at+"from", "must be later than the condition before it")
		}
	}
	for i, v := range h.Visits {
		at := fmt.Sprintf("visits[%d].", i)
		if i > 0 && v.Day < h.Visits[i-1].Day {
			bad.Addf(at+"day", "must not be earlier than the visit before it")
		}
		if h.Start.Quality != StartUnknown && v.Day < h.Start.Day {
			bad.Addf(at+"day", "is earlier than the start of the history")
		}
		if v.Day > h.Until {
			bad.Addf(at+"day", "is later than until")
		}
		checkFinding(&bad, at+"found", v.Found)
		checkFinding(&bad, at+"left", v.Left)
		if v.ReadingShare != nil && !(*v.ReadingShare >= 0 && *v.ReadingShare < 1) {
			bad.Addf(at+"reading_share", "must be from 0 to below 1")
		}
		if !(v.GraderSigma >= 0 && v.GraderSigma <= 3) {
			bad.Addf(at+"grader_sigma", "must be between 0 and 3")
		}
		for j, r := range v.Cleans {
			for name, share := range map[string]float64{"face_share": r.Face, "core_share": r.Core, "packing": r.Packing} {
				if !(share >= 0 && share <= 1) {
					bad.Addf(fmt.Sprintf("%scleans[%d].%s", at, j, name), "must be between 0 and 1")
				}
			}
		}
	}
	if h.Start.Quality != StartUnknown && h.Until < h.Start.Day {
		bad.Addf("until", "is earlier than the start of the history")
	}
	if h.SampleDays < 0 {
		bad.Addf("sample_days", "must be 0 or more")
	}
	sort.Slice(bad, func(i, j int) bool { return bad[i].Path < bad[j].Path })
	return bad.Err()
}

func checkFinding(bad *invalid.Error, at string, f *Finding) {
	if f == nil {
		return
	}
	if !f.Grade.Valid() {
		bad.Addf(at+".grade", "must be a grade from 0 to 5, not %d", int(f.Grade))
	}
	if !f.Seen.Valid() {
		bad.Addf(at+".seen", "must be face_look, light_through or wiped_more_below, not %q", f.Seen)
	}
}

// Replay walks a side's history from its start and returns the expected face and core load day by day.
//
// Between visits soil is laid down (State.Deposit) at the condition in force on each day; within a visit the
// order is found (the state is moved into the band found), clean, as left (moved again). An unknown start
// waits for the first finding (FirstState). The error is an invalid.Error naming the fields.
func Replay(h History) (Trace, error) {
	if err := h.Check(); err != nil {
		return Trace{}, err
	}
	r := replay{History: h, Trace: Trace{Points: []Point{}, Reasons: []reason.Reason{}}, step: h.SampleDays}
	if r.step == 0 {
		r.step = DefaultSampleDays
	}
	switch h.Start.Quality {
	case StartUnknown:
		r.because(reason.StartUnknown, nil)
	case StartAbout:
		r.begin(h.Start.Day)
		r.because(reason.StartAbout, reason.Numbers{"doubt_days": AboutDoubtDays})
	default:
		r.begin(h.Start.Day)
		r.because(reason.StartExact, nil)
	}
	for _, v := range h.Visits {
		r.visit(v)
	}
	if r.Known {
		r.growTo(h.Until)
		r.mark(h.Until, StageNow)
	}
	if r.CoreSeen == nil {
		r.because(reason.CoreUnseen, reason.Numbers{"core_blocked_share": Share(r.Now.Core)})
	}
	return r.Trace, nil
}

// replay is the walk in progress.
type replay struct {
	History
	Trace
	day  calendar.Day
	step int
}

func (r *replay) because(code reason.Code, n reason.Numbers) {
	r.Reasons = append(r.Reasons, reason.Reason{Code: code, Numbers: n})
}

func (r *replay) begin(day calendar.Day) {
	r.Known, r.day = true, day
	r.mark(day, StageStart)
}

func (r *replay) mark(day calendar.Day, stage Stage) {
	r.Points = append(r.Points, Point{Day: day, Stage: stage, State: r.Now, Blocked: r.Now.Blocked()})
}

// ConditionOn is the condition in force on a day, its months normalised; before the first, the first. The
// history must have at least one.
func (h History) ConditionOn(day calendar.Day) Condition {
	i := sort.Search(len(h.Conditions), func(i int) bool { return h.Conditions[i].From > day })
	c := h.Conditions[max(0, i-1)]
	c.Months = c.Months.Normalised()
	return c
}

// nextChange is the first day after day on which another condition begins, or limit.
func (r *replay) nextChange(day, limit calendar.Day) calendar.Day {
	for _, c := range r.Conditions {
		if c.From > day {
			return min(c.From, limit)
		}
	}
	return limit
}

func (r *replay) growTo(day calendar.Day) {
	for r.day < day {
		to := min(r.day.Add(r.step), day)
		for r.day < to {
			end := r.nextChange(r.day, to)
			c := r.ConditionOn(r.day)
			r.Now = r.Now.Deposit(c.Rate, c.Penetration, Exposure(r.day, end, c.Months, c.FanShare))
			r.day = end
		}
		if r.day < day {
			r.mark(r.day, StageGrown)
		}
	}
}

func (r *replay) visit(v Visit) {
	if r.Known {
		r.growTo(v.Day)
		r.mark(v.Day, StageGrown)
	}
	r.observe(v.Day, v.Found, StageFound)
	if r.Known && len(v.Cleans) > 0 {
		for _, c := range v.Cleans {
			r.Now = r.Now.Clean(c)
		}
		r.mark(v.Day, StageCleaned)
	}
	r.observe(v.Day, v.Left, StageLeft)
}

func (r *replay) observe(day calendar.Day, f *Finding, stage Stage) {
	if f == nil {
		return
	}
	if r.Known {
		r.Now = r.Now.ClampTo(*f)
	} else {
		r.Known, r.day = true, day
		r.Now = FirstState(*f, r.ConditionOn(day).Penetration)
		r.because(reason.FirstFinding, reason.Numbers{"grade": float64(f.Grade)})
	}
	if f.Seen == LightThrough {
		r.CoreSeen = &day
	}
	r.mark(day, stage)
}

// ReachedOn returns the first day after the given one on which the state, left to itself, would pass the
// blocked share limit, and false when it does not within the horizon.
func (h History) ReachedOn(now State, from calendar.Day, limit float64, horizon int) (calendar.Day, bool) {
	r := replay{History: h, Trace: Trace{Now: now}, day: from, step: 1}
	for end := from.Add(horizon); r.day < end; {
		r.growTo(r.day + 1)
		if r.Now.Blocked() > limit {
			return r.day, true
		}
	}
	return 0, false
}
