package dossier

import (
	"math"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/core/learn"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// outlooks of a coil under a task: as it stands, and as the next clean leaves it.
type outlooks struct {
	Now, After interval.Outlook
	// standing is the coil today, its face as old as it is; in now the face is no older than a light clean lets it be,
	// where one goes on.
	standing interval.Outlook
	Known    bool
}

// ahead is what lies ahead of a coil under a task that is due on a day.
func (r *Facts) ahead(d Unit, coil Coil, t store.Task, due calendar.Day, covered map[string]bool) outlooks {
	var out outlooks
	base := interval.Outlook{Limit: r.Limit, Risk: r.Risk, Economics: r.Economics(d, coil.Coil), OverPrice: new(r.OverPrice(d)), Months: soil.Even, FanShare: 1, LoadMonths: d.LoadMonths()}
	usual := coil.Work(t.Kind)
	base.CleanCost = usual.Cost
	out.Now, out.After, out.standing = base, base, base
	out.Now.From, out.After.From = new(d.Today), new(max(d.Today, due))
	light := coil.lightEvery()
	for _, side := range coil.Sides {
		if !covered[side.ID.String()] || !side.Reachable || !side.Rate.Known {
			continue
		}
		condition := side.History.ConditionOn(d.Today)
		if condition.FanShare > 0 {
			out.Now.Months, out.Now.FanShare = condition.Months, condition.FanShare
			out.After.Months, out.After.FanShare = condition.Months, condition.FanShare
		}
		at := due
		if n := len(side.History.Visits); n > 0 {
			at = max(at, side.History.Visits[n-1].Day)
		}
		cells := learn.Grow(side.Rate.Cells, side.History, max(at, side.History.Start.Day))
		removal := r.RemovalFor(usual, side)
		// Where a light clean goes on in between, only the core grows from one deep clean to the next; the face is never
		// older than a light interval.
		between := t.Kind == string(contract.TaskKindDeep) && light > 0
		now := interval.Belief{Name: side.Name, AreaShare: side.AreaShare, Findings: side.Rate.Taught(), Peers: side.fromPeers}
		after := now
		standing := now
		standing.Rates, standing.Starts = interval.Condense(side.Rate.Cells, interval.Bins, func(c learn.Cell) float64 { return c.Face + c.Core })
		now.Rates, now.Starts = standing.Rates, standing.Starts
		cleaned := func(c learn.Cell) float64 { return soil.State{Face: c.Face, Core: c.Core}.Clean(removal).Total() }
		if between {
			ofCore := func(c learn.Cell) float64 { return c.Rate * c.Penetration }
			kept := func(c learn.Cell) float64 {
				return c.Rate * (1 - c.Penetration) * float64(light) * out.After.FanShare / 30
			}
			now.Rates, now.Starts = interval.CondenseBy(side.Rate.Cells, interval.Bins, ofCore, func(c learn.Cell) float64 {
				return c.Core + math.Max(c.Face, kept(c))
			})
			for i, c := range cells {
				cells[i].Face = math.Min(c.Face, kept(c))
			}
			after.Rates, after.Starts = interval.CondenseBy(cells, interval.Bins, ofCore, func(c learn.Cell) float64 {
				return cleaned(c) + kept(c)
			})
		} else {
			after.Rates, after.Starts = interval.Condense(cells, interval.Bins, cleaned)
		}
		out.Now.Sides, out.After.Sides = append(out.Now.Sides, now), append(out.After.Sides, after)
		out.standing.Sides = append(out.standing.Sides, standing)
	}
	out.Known = len(out.After.Sides) > 0
	return out
}

// RemovalFor is what the usual clean takes from a side's soil.
func (r *Facts) RemovalFor(w Work, side Side) soil.Removal {
	family := soil.Family(side.Soil.Family)
	if family == w.family || w.plan.Known() {
		return w.Removal
	}
	return r.removalOf(w, family)
}

// removalOf is what the passes of a clean take from soil of a family, as one; what was learned of them together comes first.
func (r *Facts) removalOf(w Work, family soil.Family) soil.Removal {
	out := soil.Removal{}
	for _, code := range w.Passes {
		for _, m := range r.Methods {
			if m.Code == code {
				out = out.Then(r.Removal[m.ID].Removal(family, w.direction))
			}
		}
	}
	if learned, ok := r.PlanRemoval(w.Passes, family); ok {
		out.Face, out.Core = learned.Face, learned.Core
	}
	return out
}

// Work of a kind as it is usually done at the coil.
func (c Coil) Work(kind string) Work {
	if kind == string(contract.TaskKindLight) {
		return c.Light
	}
	return c.Deep
}

// lightEvery is the interval of the coil's light clean in days, 0 where it has none.
func (c Coil) lightEvery() int {
	for _, t := range c.taskRows {
		if t.Kind == string(contract.TaskKindLight) && !t.Paused {
			return t.EveryDays
		}
	}
	return 0
}

// overNow is the probability that the worst side is over the limit today.
func (o outlooks) overNow() float64 {
	if !o.Known {
		return 0
	}
	now := o.standing
	now.MostDays = 1
	a, err := interval.Look(now)
	if err != nil {
		return 0
	}
	return a.Over(0)
}

// waitDays is the wait the portfolio prices.
const waitDays = 7

// waitWeek is the price of leaving the coil a week beyond the day it is due.
func (o outlooks) waitWeek(best *interval.Best, dueIn int) float64 {
	if !o.Known || best == nil {
		return 0
	}
	w, err := interval.PriceOfWaiting(interval.WaitQuestion{
		Now: o.Now, Average: best.TotalDay, DueIn: math.Min(float64(dueIn), MostDays-waitDays), Days: waitDays,
	})
	if err != nil {
		return 0
	}
	return w.Money
}

// leads is the organisation's rule on what leads the interval of a unit.
func (r *Facts) leads(d Unit) interval.Lead {
	return interval.Lead(r.Practice(d.Site.ID, d.Unit.ID)[organisation.IntervalQuestion])
}
