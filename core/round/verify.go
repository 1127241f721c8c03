package round

import (
	"fmt"
	"math"
	"slices"
)

// within is how far times may differ by rounding, in minutes.
const within = 1e-6

// Verify holds a plan against the problem from the outside, without what the search uses: every job once, every time,
// window, tank, skill, shift, gap and lock, and the sum of the cost. It lists what is broken; nothing means the plan holds.
func Verify(p Problem, plan Plan) []string {
	v := verifier{p: p, on: map[string]Round{}, jobs: map[string]Job{}, place: map[string]int{}, crews: map[string]Crew{}}
	for _, j := range p.Jobs {
		v.jobs[j.ID] = j
	}
	for i, x := range p.Places {
		v.place[x.ID] = i
	}
	for _, c := range p.Crews {
		v.crews[c.ID] = c
	}
	v.hours = p.Hours
	days := map[string]bool{}
	for _, r := range plan.Rounds {
		key := r.Crew + " " + r.Day.String()
		if days[key] {
			v.brokenf("%s has two rounds", key)
		}
		days[key] = true
		v.round(r)
	}
	left := 0.0
	for _, l := range plan.LeftOut {
		j, known := v.jobs[l.Job]
		if _, placed := v.on[l.Job]; placed || !known {
			v.brokenf("%s is left out and on a round, or unknown", l.Job)
		}
		v.on[l.Job] = Round{}
		left += j.leftOut(p.Start, p.Start.Add(p.Days-1))
		if at := slices.IndexFunc(p.Fixed, func(f Fixed) bool { return f.Job == l.Job }); at >= 0 {
			left += p.Fixed[at].price(p)
		}
	}
	for _, j := range p.Jobs {
		if _, ok := v.on[j.ID]; !ok {
			v.brokenf("%s is lost", j.ID)
		}
		if j.After == "" {
			continue
		}
		a, b := v.on[j.After], v.on[j.ID]
		if a.Crew != "" && b.Crew != "" && b.Day.Sub(a.Day) < j.Gap {
			v.brokenf("%s comes %d days after %s, not %d", j.ID, b.Day.Sub(a.Day), j.After, j.Gap)
		}
	}
	for _, f := range p.Fixed {
		if r := v.on[f.Job]; f.Locked && r.Crew != "" && (r.Crew != f.Crew || r.Day != f.Day) {
			v.brokenf("%s is locked elsewhere", f.Job)
		}
	}
	if total := v.money + left; math.Abs(total-plan.Cost.Total) > 1e-6*(1+total) {
		v.brokenf("the cost is %.4f, not %.4f", total, plan.Cost.Total)
	}
	if plan.Bound > plan.Cost.Total*(1+1e-9)+1e-9 {
		v.brokenf("the bound %.4f is above the cost %.4f", plan.Bound, plan.Cost.Total)
	}
	return v.broken
}

type verifier struct {
	p      Problem
	jobs   map[string]Job
	crews  map[string]Crew
	place  map[string]int
	hours  []Hours
	on     map[string]Round
	money  float64
	broken []string
}

func (v *verifier) brokenf(format string, args ...any) {
	v.broken = append(v.broken, fmt.Sprintf(format, args...))
}

func (v *verifier) round(r Round) {
	c, ok := v.crews[r.Crew]
	off := r.Day.Sub(v.p.Start)
	if !ok || off < 0 || off >= v.p.Days || len(r.Stops) == 0 {
		v.brokenf("%s on %s: no such crew, outside the horizon, or empty", r.Crew, r.Day)
		return
	}
	name := r.Crew + " on " + r.Day.String()
	shift := c.On(r.Day)
	if shift.Minutes <= 0 {
		v.brokenf("%s: does not work", name)
	}
	overhead := DefaultStopMinutes
	if v.p.StopMinutes != nil {
		overhead = *v.p.StopMinutes
	}
	now, at, tank := r.Leaves, v.place[c.Base], c.TankL
	if now < shift.Starts-within {
		v.brokenf("%s: leaves before its shift", name)
	}
	published := slices.ContainsFunc(v.p.Fixed, func(f Fixed) bool { return f.Crew == r.Crew && f.Day == r.Day && !f.Locked && !f.Draft })
	for _, stop := range r.Stops {
		p, ok := v.place[stop.Place]
		if !ok || len(stop.Jobs) == 0 {
			v.brokenf("%s: an unknown or empty stop", name)
			continue
		}
		drive := 0.0
		if p != at {
			drive = v.p.Travel.between(at, p, v.p.Places)
		}
		if stop.Arrive < now+drive-within {
			v.brokenf("%s: is at %s before it can be", name, stop.Place)
		}
		v.money += (drive + overhead) * c.Hour / 60
		now, at = stop.Arrive+overhead, p
		if v.p.Places[p].Water {
			tank = c.TankL
		}
		for _, t := range stop.Jobs {
			j, ok := v.jobs[t.Job]
			if _, twice := v.on[t.Job]; !ok || twice {
				v.brokenf("%s: %s is unknown or done twice", name, t.Job)
				continue
			}
			v.on[t.Job] = r
			if t.Starts < now-within || math.Abs(t.Ends-t.Starts-j.Minutes) > within {
				v.brokenf("%s: %s has wrong times", name, t.Job)
			}
			now = t.Ends
			tank -= j.WaterL
			v.job(name, c, shift, r, stop, t, j, tank)
			v.money += j.Waiting.After(v.p.Start, j.Due, r.Day) + c.WorkHour*j.Minutes/60
			at := slices.IndexFunc(v.p.Fixed, func(f Fixed) bool { return f.Job == t.Job })
			if at >= 0 && (v.p.Fixed[at].Crew != r.Crew || v.p.Fixed[at].Day != r.Day) {
				v.money += v.p.Fixed[at].price(v.p)
			}
			if published && (at < 0 || v.p.Fixed[at].Draft) {
				v.money += v.p.MovePrice
			}
		}
	}
	if base := v.place[c.Base]; base != at {
		back := v.p.Travel.between(at, base, v.p.Places)
		now += back
		v.money += back * c.Hour / 60
	}
	over := math.Max(0, now-shift.Starts-shift.Minutes)
	if over > c.Overtime+within || math.Abs(now-r.Back) > within {
		v.brokenf("%s: is back at %.1f, %.1f min beyond its shift", name, now, over)
	}
	v.money += over*c.OvertimeHour/60 + c.DayFee
}

func (v *verifier) job(name string, c Crew, shift Shift, r Round, stop Stop, t Timed, j Job, tank float64) {
	switch {
	case j.Place != stop.Place:
		v.brokenf("%s: %s is not at %s", name, j.ID, stop.Place)
	case j.From != nil && r.Day < *j.From:
		v.brokenf("%s: %s comes before its first day", name, j.ID)
	case shift.People < max(1, j.People):
		v.brokenf("%s: %s needs %d people", name, j.ID, j.People)
	case tank < -within:
		v.brokenf("%s: no water left for %s", name, j.ID)
	case j.OutdoorWet && slices.Contains(v.p.Places[v.place[stop.Place]].TooCold, r.Day):
		v.brokenf("%s: too cold for %s", name, j.ID)
	}
	if j.Contractor && !c.Contractor {
		v.brokenf("%s: %s is for contractors", name, j.ID)
	}
	for _, s := range j.Skills {
		if !slices.Contains(c.Skills, s) {
			v.brokenf("%s: %s needs %s", name, j.ID, s)
		}
	}
	for _, s := range j.Kit {
		if !slices.Contains(c.Kit, s) {
			v.brokenf("%s: %s needs %s", name, j.ID, s)
		}
	}
	for _, h := range v.hours {
		if h.ID == j.Hours && j.Hours != "" && !slices.ContainsFunc(h.On(r.Day), func(s Span) bool { return t.Starts >= s.From-within && t.Ends <= s.To+within }) {
			v.brokenf("%s: %s is outside its hours", name, j.ID)
		}
	}
}
