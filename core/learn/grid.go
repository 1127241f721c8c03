package learn

import (
	"math"
	"slices"

	"nextround/core/calendar"
	"nextround/core/normal"
	"nextround/core/reason"
	"nextround/core/soil"
)

// step is a visit as the grid needs it: what grew since the one before at x = 0, and what was seen and done. Where the log of
// call-outs begins or ends to be complete between two visits there is a step without any.
type step struct {
	soil.Visit
	days int
	// logged are the days of the step with a complete log of call-outs, quiet those of them between two visits without any.
	logged, quiet int
	// face and core that grew, for each of the three penetrations.
	face, core [3]float64
	// penetration in force on the day, for each of the three.
	penetration [3]float64
}

// walk is a history laid out once for every cell of the grid.
type walk struct {
	start    soil.Start
	steps    []step
	tail     step // growth from the last visit until today
	coreSeen *calendar.Day
	rate     float64 // assumed, today
	calls    *callTable
}

func scaled(p float64) (out [3]float64) {
	for i, s := range penetrationScales {
		out[i] = math.Min(MostCore, s*p)
	}
	return out
}

// walk lays the history out.
func (q Question) walk() walk {
	h := q.History
	w := walk{start: h.Start, calls: q.CallLog.table()}
	known := h.Start.Quality != soil.StartUnknown
	day := h.Start.Day
	for _, v := range h.Visits {
		s := step{Visit: v}
		if known {
			since, quiet := day, q.CallLog.quiet(day, v.Day)
			for _, end := range q.CallLog.edges(day, v.Day) {
				w.steps = append(w.steps, q.stretch(step{Visit: soil.Visit{Day: end}}, day, quiet))
				day = end
			}
			s = q.stretch(s, day, quiet)
			s.days, day = v.Day.Sub(since), v.Day
		} else if v.Found != nil || v.Left != nil {
			known, day = true, v.Day
		}
		s.penetration = scaled(h.ConditionOn(v.Day).Penetration)
		for _, f := range []*soil.Finding{v.Found, v.Left} {
			if f != nil && f.Seen == soil.LightThrough {
				w.coreSeen = &s.Day
			}
		}
		w.steps = append(w.steps, s)
	}
	if known {
		quiet := q.CallLog.quiet(day, h.Until)
		for _, end := range q.CallLog.edges(day, h.Until) {
			w.steps = append(w.steps, q.stretch(step{Visit: soil.Visit{Day: end}}, day, quiet))
			day = end
		}
		w.tail = q.stretch(step{Visit: soil.Visit{Day: h.Until}}, day, quiet)
	}
	last := h.ConditionOn(h.Until)
	w.rate, w.tail.penetration = last.Rate, scaled(last.Penetration)
	return w
}

// stretch fills in what grows in a step from a day on, up to its own, between two visits without a call-out or with one.
func (q Question) stretch(s step, from calendar.Day, quiet bool) step {
	s.face, s.core = grown(q.History, from, s.Day)
	if s.Day > from && q.CallLog.completeOn(from) {
		s.logged = s.Day.Sub(from)
	}
	if quiet {
		s.quiet = s.logged
	}
	return s
}

// grown is what the assumed rates lay down between two days.
func grown(h soil.History, from, to calendar.Day) (face, core [3]float64) {
	for from < to {
		end := to
		for _, c := range h.Conditions {
			if c.From > from && c.From < end {
				end = c.From
			}
		}
		c := h.ConditionOn(from)
		load := c.Rate * soil.Exposure(from, end, c.Months, c.FanShare) / 30
		for i, p := range scaled(c.Penetration) {
			face[i] += load * (1 - p)
			core[i] += load * p
		}
		from = end
	}
	return face, core
}

// grid is the walk over all cells.
type grid struct {
	x          []float64
	prior      []float64   // weight of x and p, per cell
	face, core []float64   // today
	seen       []Evidence  // one per observation
	loads      [][]float64 // predicted on what the look sees, per observation and cell
	likely     [][]float64 // likelihood per observation and cell; nil where it only set the state
	slip       [][]float64 // probability of a slip given the cell
	rough      bool        // only the weights matter, gathered in prior
	spare      []float64
	known      bool
	// calls are the call-outs expected per cell while the log was complete, quiet those in its parts without any; nil without a log.
	calls, quiet []float64
	// loggedDays is how long the log was complete, quietDays how long of it was quiet.
	loggedDays, quietDays int
}

// over walks the history for every cell of a grid of n points; a rough one gathers weights only.
func (w walk) over(lo, hi float64, n int, q Question, rough bool) grid {
	g := grid{rough: rough, x: make([]float64, n), prior: make([]float64, 3*n), face: make([]float64, 3*n), core: make([]float64, 3*n)}
	multiple := make([]float64, n)
	for i := range g.x {
		g.x[i] = lo + (hi-lo)*float64(i)/float64(n-1)
		multiple[i] = math.Exp(g.x[i])
		z := (g.x[i] - q.Prior.Mean) / q.Prior.SD()
		for k, weight := range penetrationWeights {
			g.prior[k*n+i] = weight * math.Exp(-z*z/2)
		}
	}
	if w.calls != nil {
		g.calls, g.quiet = make([]float64, 3*n), make([]float64, 3*n)
	}
	g.known = w.start.Quality != soil.StartUnknown
	first := true
	old := -MostEvidence // looks that only move the state
	for _, s := range w.steps {
		if s.Found != nil {
			old++
		}
	}
	for _, s := range w.steps {
		g.grow(s, multiple, w.calls)
		wasKnown := g.known && old <= 0
		if wasKnown && s.ReadingShare != nil {
			g.reading(s)
		}
		if s.Found != nil {
			if wasKnown {
				extra := 0.0
				if first && w.start.Quality == soil.StartAbout {
					extra = math.Pow(soil.AboutDoubtDays/math.Max(float64(s.days), soil.AboutDoubtDays), 2)
				}
				g.finding(s, extra)
			} else {
				grade := s.Found.Grade
				g.note(Evidence{Day: s.Day, Grade: &grade, Seen: s.Found.Seen}, nil, nil, nil)
			}
			g.clamp(*s.Found, s)
			first = false
			old--
		}
		if len(s.Cleans) > 0 && g.known {
			first = false
			g.clean(s.Cleans)
		}
		if s.Left != nil {
			g.clamp(*s.Left, s)
		}
	}
	g.grow(w.tail, multiple, w.calls)
	if rough && g.quiet != nil {
		g.hear(g.prior)
		normalise(g.prior)
	}
	return g
}

// hear weighs the cells by how likely the quiet is that was logged, against the likeliest: many years of it would end below the smallest
// number in every cell.
func (g *grid) hear(weights []float64) {
	if len(g.quiet) == 0 {
		return
	}
	least := slices.Min(g.quiet)
	for c, e := range g.quiet {
		weights[c] *= math.Exp(least - e)
	}
}

func (g *grid) note(e Evidence, loads, likely, slip []float64) {
	if g.rough {
		for c, l := range likely {
			g.prior[c] *= l
		}
		normalise(g.prior)
		return
	}
	e.Counted = likely != nil
	g.seen, g.loads, g.likely, g.slip = append(g.seen, e), append(g.loads, loads), append(g.likely, likely), append(g.slip, slip)
}

func (g *grid) grow(s step, multiple []float64, calls *callTable) {
	n := len(g.x)
	if calls != nil && s.logged > 0 {
		g.loggedDays, g.quietDays = g.loggedDays+s.logged, g.quietDays+s.quiet
		for k := range penetrationScales {
			load := s.face[k] + s.core[k]
			for i, m := range multiple {
				c := k*n + i
				from := g.face[c] + g.core[c]
				mean := calls.mean(from, from+m*load)
				g.calls[c] += float64(s.logged) * mean
				g.quiet[c] += float64(s.quiet) * mean
			}
		}
	}
	for k := range penetrationScales {
		if s.face[k] == 0 && s.core[k] == 0 {
			continue
		}
		for i, m := range multiple {
			g.face[k*n+i] += m * s.face[k]
			g.core[k*n+i] += m * s.core[k]
		}
	}
}

func (g *grid) clean(cleans []soil.Removal) {
	for c := range g.face {
		s := soil.State{Face: g.face[c], Core: g.core[c]}
		for _, r := range cleans {
			s = s.Clean(r)
		}
		g.face[c], g.core[c] = s.Face, s.Core
	}
}

// clamp moves every cell into the band that was seen, or starts it there.
func (g *grid) clamp(f soil.Finding, s step) {
	n := len(g.x)
	for c := range g.face {
		var state soil.State
		if g.known {
			state = soil.State{Face: g.face[c], Core: g.core[c]}.ClampTo(f)
		} else {
			state = soil.FirstState(f, s.penetration[c/n])
		}
		g.face[c], g.core[c] = state.Face, state.Core
	}
	g.known = true
}

// band is the log bounds of what a look saw.
type band struct{ lo, hi float64 }

func bandOf(grade soil.Grade) band {
	lo, hi := grade.LoadBand()
	return band{math.Log(lo), math.Log(hi)} // −Inf and +Inf at the ends
}

// holds is the probability that a look at load L falls into the band.
func (b band) holds(logLoad, sigma float64) float64 {
	upper, lower := 1.0, 0.0
	if !math.IsInf(b.hi, 1) {
		upper = normal.CDF((b.hi - logLoad) / sigma)
	}
	if !math.IsInf(b.lo, -1) {
		lower = normal.CDF((b.lo - logLoad) / sigma)
	}
	return math.Max(0, upper-lower)
}

func (g *grid) finding(s step, extra float64) {
	grader := s.GraderSigma
	if grader == 0 {
		grader = GraderSigma
	}
	sigma := math.Sqrt(ProcessSigma*ProcessSigma + grader*grader + extra)
	grade := s.Found.Grade
	b := bandOf(grade)
	below := bandOf(soil.Film)
	below.hi = math.Inf(1)
	loads, likely, slip := g.room()
	for c := range likely {
		loads[c] = g.face[c]
		if s.Found.Seen == soil.LightThrough {
			loads[c] += g.core[c]
		}
		p := (1-Slip)*b.holds(math.Log(math.Max(loads[c], leastLoad)), sigma) + stray
		slip[c] = stray / p
		likely[c] = p
		if s.Found.Seen == soil.WipedMoreBelow {
			// Two answers are possible: more below, or not.
			likely[c] *= (1-Slip)*below.holds(math.Log(math.Max(g.core[c], leastLoad)), sigma) + Slip/2
		}
	}
	g.note(Evidence{Day: s.Day, Grade: &grade, Seen: s.Found.Seen}, loads, likely, slip)
}

// stray is the probability of any one grade by a slip.
const stray = Slip / 6

// room for one observation.
func (g *grid) room() (loads, likely, slip []float64) {
	n := len(g.face)
	if g.rough && g.spare == nil {
		g.spare = make([]float64, 3*n)
	}
	all := g.spare
	if all == nil {
		all = make([]float64, 3*n)
	}
	return all[:n:n], all[n : 2*n : 2*n], all[2*n:]
}

func (g *grid) reading(s step) {
	sigma := math.Sqrt(ProcessSigma*ProcessSigma + ReadingSigma*ReadingSigma)
	at := math.Log(math.Max(soil.Load(*s.ReadingShare), .005)) // less than half a per cent cannot be told from none
	loads, likely, slip := g.room()
	for c := range likely {
		loads[c] = g.face[c] + g.core[c]
		z := (at - math.Log(math.Max(loads[c], leastLoad))) / sigma
		p := (1-Slip)*math.Exp(-z*z/2)/(sigma*math.Sqrt(2*math.Pi)) + stray
		slip[c] = stray / p
		likely[c] = p
	}
	g.note(Evidence{Day: s.Day}, loads, likely, slip)
}

// expect fills in what each observation was expected to show, by those before it.
func (g *grid) expect() {
	sum := append([]float64{}, g.prior...)
	for o, loads := range g.loads {
		if loads == nil {
			continue
		}
		normalise(sum)
		for c, w := range sum {
			g.seen[o].Expected += w * loads[c]
			sum[c] *= g.likely[o][c]
		}
	}
}

// weights of the cells, given the observations that count (all when nil, and the quiet of the log with them); they sum to 1.
func (g *grid) weights(count func(observation int) bool) []float64 {
	w := append([]float64{}, g.prior...)
	for o, likely := range g.likely {
		if likely == nil || (count != nil && !count(o)) {
			continue
		}
		for c, l := range likely {
			w[c] *= l
		}
		if o%16 == 15 {
			normalise(w) // a hundred findings would end below the smallest number
		}
	}
	if count == nil {
		g.hear(w)
	}
	normalise(w)
	return w
}

// normalise makes weights sum to 1.
func normalise(w []float64) {
	sum := 0.0
	for _, v := range w {
		sum += v
	}
	for c := range w {
		w[c] /= sum
	}
}

// marginal over the penetrations.
func (g *grid) marginal(weights []float64) []float64 {
	n := len(g.x)
	out := make([]float64, n)
	for c, w := range weights {
		out[c%n] += w
	}
	return out
}

// quantile of x, linear between the middles of the points.
func (g *grid) quantile(marginal []float64, p float64) float64 {
	before := 0.0 // up to the middle of the point before
	for i, w := range marginal {
		upTo := before + w/2
		if i > 0 {
			upTo += marginal[i-1] / 2
		}
		if upTo >= p && i > 0 {
			return g.x[i-1] + (g.x[i]-g.x[i-1])*(p-before)/(upTo-before)
		} else if upTo >= p {
			return g.x[0]
		}
		before = upTo
	}
	return g.x[len(g.x)-1]
}

// rate sums the grid up.
func (g *grid) rate(w walk, q Question) Rate {
	g.expect()
	all := g.weights(nil)
	for o := range g.seen {
		if g.slip[o] == nil {
			continue
		}
		for c, p := range g.slip[o] {
			g.seen[o].Event += all[c] * p
		}
	}
	out := Rate{Known: g.known, Assumed: w.rate, Evidence: g.seen, CoreSeen: w.coreSeen, Prior: *q.Prior, Penetrations: w.tail.penetration}
	if out.Evidence == nil {
		out.Evidence = []Evidence{}
	}
	weights := all
	out.Drift = g.drift(*q.Prior)
	if q.FollowDrift && out.Drift != nil && out.Drift.Flagged {
		recent := out.Drift.since
		weights = g.weights(func(o int) bool { return o >= recent })
		g.hear(weights)
		normalise(weights)
	}
	if g.calls != nil {
		out.Calls = g.callsHeard(weights)
	}
	marginal := g.marginal(weights)
	m, s := moments(g.x, marginal)
	log := math.Log(w.rate)
	out.MeanLog, out.SDLog = m+log, s
	for p, into := range map[float64]*float64{.1: &out.Rate.P10, .5: &out.Rate.P50, .9: &out.Rate.P90} {
		*into = w.rate * math.Exp(g.quantile(marginal, p))
	}
	for _, e := range out.Evidence {
		if e.Counted {
			out.Counted++
			if e.Grade != nil && *e.Grade >= soil.Film && *e.Grade <= soil.Blanket && !e.Flagged() {
				out.Telling++
			}
		}
	}
	if out.Counted > 0 {
		out.Own = dividedOut(Normal{m, s * s}, *q.Prior)
	}
	n := len(g.x)
	const dust = 1e-9
	out.Cells = make([]Cell, 0, len(weights))
	for c, weight := range weights {
		k := c / n
		out.Weights[k] += weight
		if weight < dust {
			continue
		}
		out.Cells = append(out.Cells, Cell{
			Weight: weight, LogMultiple: g.x[c%n], Rate: w.rate * math.Exp(g.x[c%n]), Penetration: w.tail.penetration[k], Face: g.face[c], Core: g.core[c],
		})
	}
	out.Penetration = mean(out.Cells, func(c Cell) float64 { return c.Penetration })
	if g.known {
		out.State.Face = mean(out.Cells, func(c Cell) float64 { return c.Face })
		out.State.Core = mean(out.Cells, func(c Cell) float64 { return c.Core })
		out.Core = rangeOf(out.Cells, func(c Cell) float64 { return c.Core })
		out.Total = rangeOf(out.Cells, func(c Cell) float64 { return c.Face + c.Core })
	}
	out.Reasons = out.because()
	return out
}

// Expected is the mean of the rate, a little above its median.
func (r Rate) Expected() float64 { return mean(r.Cells, func(c Cell) float64 { return c.Rate }) }

// because says what made the rate.
func (r Rate) because() []reason.Reason {
	out := []reason.Reason{{
		Code: reason.Rate, Evidence: reason.Assumption,
		Numbers: reason.Numbers{"median": r.Rate.P50, "low": r.Rate.P10, "high": r.Rate.P90, "assumed": r.Assumed, "findings": float64(r.Counted)},
	}}
	if c := r.Calls; c != nil && c.Unheard > tellingCalls {
		out = append(out, reason.Reason{
			Code: reason.QuietLog, Evidence: reason.Assumption,
			Numbers: reason.Numbers{"days": float64(c.QuietDays), "expected": c.Unheard, "left": c.Quiet, "share_before": soil.Share(c.LoadUnheard), "share": soil.Share(r.State.Total())},
		})
	}
	for _, e := range r.Evidence {
		switch {
		case e.Grade == nil:
			continue
		case !e.Counted:
			out = append(out, reason.Reason{
				Code: reason.FirstFinding, Numbers: reason.Numbers{"grade": float64(*e.Grade)}, Names: reason.Names{"day": e.Day.String()},
			})
		case e.Flagged():
			out = append(out, reason.Reason{
				Code: reason.EventFinding, Evidence: reason.Assumption,
				Numbers: reason.Numbers{"grade": float64(*e.Grade), "expected_share": soil.Share(e.Expected), "probability": e.Event},
				Names:   reason.Names{"day": e.Day.String(), "found": e.Grade.String()},
			})
		}
	}
	if r.Drift != nil && r.Drift.Flagged {
		out = append(out, reason.Reason{
			Code: reason.Drift, Evidence: reason.Assumption,
			Numbers: reason.Numbers{"times": math.Exp(r.Drift.Delta), "since_findings": DriftFindings},
			Names:   reason.Names{"since": r.Drift.Since.String()},
		})
	}
	if r.Known && r.CoreSeen == nil {
		out = append(out, reason.Reason{
			Code: reason.CoreLikely, Evidence: reason.Assumption,
			Numbers: reason.Numbers{"core_share": soil.Share(r.State.Core), "low": soil.Share(r.Core.P10), "high": soil.Share(r.Core.P90)},
		})
	}
	return out
}

// Grow gives the cells as they are on another day than the history's end: soil laid down until then, or taken back to an
// earlier day at or after the last visit.
func Grow(cells []Cell, h soil.History, day calendar.Day) []Cell {
	sign, from, to := 1.0, h.Until, day
	if to < from {
		sign, from, to = -1, to, from
	}
	load := 0.0 // laid down at the assumed rate
	for at := from; at < to; {
		end := to
		for _, c := range h.Conditions {
			if c.From > at && c.From < end {
				end = c.From
			}
		}
		c := h.ConditionOn(at)
		load += c.Rate * soil.Exposure(at, end, c.Months, c.FanShare) / 30
		at = end
	}
	out := make([]Cell, len(cells))
	for i, c := range cells {
		times := sign * math.Exp(c.LogMultiple)
		c.Face = math.Max(0, c.Face+times*load*(1-c.Penetration))
		c.Core = math.Max(0, c.Core+times*load*c.Penetration)
		out[i] = c
	}
	return out
}
