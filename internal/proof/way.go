package proof

import (
	"fmt"
	"math"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/core/learn"
	"nextround/core/soil"
)

// Way is a way of setting intervals.
type Way string

// The six ways.
const (
	Habit     Way = "a" // one habit interval for each class
	Category  Way = "b" // the same, divided by the factor entered for the site
	Staircase Way = "c" // steps by what was found
	Proposals Way = "d" // the proposals
	Ladder    Way = "e" // the proposals with light and deep cleans
	Known     Way = "f" // the best fixed interval, had the true rates been known
)

// Ways in order, with what each is.
var Ways = []struct {
	Way   Way
	About string
}{
	{Habit, "one habit interval per class"},
	{Category, "habit divided by the site's factor"},
	{Staircase, "staircase by what was found"},
	{Proposals, "the proposals"},
	{Ladder, "the proposals with light and deep cleans"},
	{Known, "best fixed interval, had the true rates been known"},
}

// records are what a portfolio knows of one coil.
type records struct {
	history soil.History
	runs    []interval.Run
	own     *learn.Normal // counted as a peer
	every   int
	rungs   int // cleans from one deep to the next
	rung    int // lights since the last deep
	last    calendar.Day
	light   bool // look with light next time
}

// run lives a world under a way.
func (w world) run(way Way) (Costs, error) {
	lives, known := make([]*life, len(w.units)), make([]*records, len(w.units))
	next := make([]calendar.Day, len(w.units))
	for i := range w.units {
		u := &w.units[i]
		lives[i] = w.live(u, living, uint64(i)) //nolint:gosec // an index
		r := &records{every: habitDays(u), rungs: 1, last: begun, light: true}
		if way != Habit {
			r.every = int(max(7, interval.HabitDays(habitDays(u), u.factor).Days))
		}
		if way == Known {
			r.every = w.bestFixed(u, uint64(i)) //nolint:gosec // an index
		}
		r.history = soil.History{
			Start:      soil.Start{Quality: soil.StartExact, Day: begun},
			Conditions: []soil.Condition{{From: begun, Rate: u.assumed, Penetration: u.soil.Penetration, Months: u.months, FanShare: 1}},
		}
		known[i], next[i] = r, lives[i].comes(r.every)
	}
	for {
		i := 0
		for k := range next {
			if next[k] < next[i] {
				i = k
			}
		}
		if next[i] >= lives[i].end() {
			break
		}
		l, r := lives[i], known[i]
		l.until(next[i])
		which := deep
		if r.rung < r.rungs-1 {
			which = light
			r.rung++
		} else {
			r.rung = 0
		}
		// A deep clean opens the coil up; a light one looks with light when it is asked for.
		byLight := which == deep || r.light
		v := l.clean(which, byLight)
		r.history.Visits = append(r.history.Visits, v)
		r.history.Until = l.day
		r.runs = append(r.runs, interval.Run{Days: l.day.Sub(r.last), Grade: v.Found.Grade, CoreSeen: byLight})
		r.last = l.day
		if err := w.reset(way, i, known, l); err != nil {
			return Costs{}, fmt.Errorf("%s, way %s, unit %d: %w", w.Name, way, i, err)
		}
		next[i] = l.comes(r.every)
	}
	var out Costs
	for _, l := range lives {
		l.until(l.end())
		out = out.plus(l.Costs)
	}
	return out, nil
}

func habitDays(u *unit) int { return u.class.DeepDays }

// reset sets the next interval of a coil after a visit.
func (w world) reset(way Way, i int, known []*records, l *life) error {
	r := known[i]
	task := interval.Task{
		ClassDays: habitDays(l.unit), ClassMaxDays: l.class.MaxDays, Factor: l.factor, InForceDays: r.every, Limit: w.Limit,
		Sides: []interval.Side{{Name: "side", Runs: r.runs}},
	}
	switch way {
	case Habit, Category, Known:
		return nil
	case Staircase:
		res, err := interval.Propose(task)
		r.every = res.Days
		return err
	}
	rate, err := learn.Learn(learn.Question{History: r.history, Prior: w.peers(i, known), FollowDrift: true})
	if err != nil {
		return err
	}
	r.own = nil
	if rate.Telling > 0 {
		r.own = rate.Own
	}
	belief := interval.Belief{Name: "side", Findings: rate.Counted}
	belief.Rates, belief.Starts = interval.Condense(rate.Cells, interval.Bins, func(c learn.Cell) float64 { return c.Face + c.Core })
	seen := rate.CoreSeen != nil
	task.CoreSeen = &seen
	task.Outlook = &interval.Outlook{
		Sides: []interval.Belief{belief}, From: &l.day, Months: l.months, FanShare: 1, Limit: w.Limit, Economics: l.kind.economics(),
		CleanCost: l.kind.Cost, OverPrice: &w.OverPrice,
	}
	res, err := interval.Propose(task)
	if err != nil {
		return err
	}
	r.every, r.rungs = res.Days, 1
	r.light = !seen
	if way == Ladder && rate.Counted >= 2 {
		return w.climb(r, l, rate, res)
	}
	return nil
}

// worthALadder is the share a ladder has to save before it is taken.
const worthALadder = .05

// climb takes a ladder where it saves enough.
func (w world) climb(r *records, l *life, rate learn.Rate, res interval.Result) error {
	spread := math.Sqrt(rate.SDLog*rate.SDLog + interval.Scatter*interval.Scatter)
	const oneInFive = .8416212
	q := interval.LadderQuestion{
		Sides:    []interval.LadderSide{{Rate: rate.Rate.P50, Penetration: rate.Penetration, LimitRate: math.Exp(rate.MeanLog + oneInFive*spread)}},
		FanShare: 1, Economics: l.kind.economics(), Limit: w.Limit, OverPrice: w.OverPrice,
		Light: interval.Rung{Cost: l.kind.LightCost, Removal: l.removal[light]}, Deep: interval.Rung{Cost: l.kind.Cost, Removal: l.removal[deep]},
		MostDays: l.class.MaxDays, MostDeepDays: 2 * l.class.MaxDays,
	}
	ladder, err := interval.Climb(q)
	if err != nil {
		return err
	}
	if best := ladder.Cheapest; best.Rungs > 1 && ladder.Saved > worthALadder && best.EveryDays <= res.Days {
		r.every, r.rungs = best.EveryDays, best.Rungs
		r.light = r.rung%2 == 1
	}
	return nil
}

// peers is the belief on a coil from the others of its class at its site, or of its class at all.
func (w world) peers(i int, known []*records) *learn.Normal {
	var here, all learn.Group
	for k, r := range known {
		if k == i || r.own == nil || w.units[k].class.Code != w.units[i].class.Code {
			continue
		}
		all = all.Add(*r.own)
		if w.units[k].site == w.units[i].site {
			here = here.Add(*r.own)
		}
	}
	prior := all.Prior()
	if here.Members > 0 {
		prior = here.Prior()
	}
	return &prior
}

// bestFixed is the interval that would have been cheapest, found in lives of their own with the true rate.
func (w *world) bestFixed(u *unit, of uint64) int {
	const rehearsals = 3
	best, least := 7, math.Inf(1)
	for every := 7; every <= u.class.MaxDays; every += 7 * max(1, every/70) {
		cost := 0.0
		for n := range uint64(rehearsals) {
			l := w.live(u, rehearsal+n, of)
			for day := l.comes(every); day < l.end(); day = l.comes(every) {
				l.until(day)
				l.clean(deep, true)
			}
			l.until(l.end())
			cost += l.Total()
		}
		if cost < least {
			best, least = every, cost
		}
	}
	return best
}
