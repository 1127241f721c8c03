package service

import (
	"math"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/core/learn"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// outlooks of a coil under a task: as it stands, and as the next clean leaves it.
type outlooks struct {
	now, after interval.Outlook
	// standing is the coil today, its face as old as it is; in now the face is no older than a light clean lets it be,
	// where one goes on.
	standing interval.Outlook
	known    bool
}

// ahead is what lies ahead of a coil under a task that is due on a day.
func (r *register) ahead(d dossier, coil coilDossier, t store.Task, due calendar.Day, covered map[string]bool) outlooks {
	var out outlooks
	base := interval.Outlook{Limit: r.limit, Risk: r.risk, Economics: r.economics(d, coil.Coil), OverPrice: ptr(r.overPrice(d)), Months: soil.Even, FanShare: 1}
	usual := coil.work(t.Kind)
	base.CleanCost = usual.cost
	out.now, out.after, out.standing = base, base, base
	out.now.From, out.after.From = ptr(d.today), ptr(max(d.today, due))
	light := coil.lightEvery()
	for _, side := range coil.sides {
		if !covered[side.ID.String()] || !side.Reachable || !side.rate.Known {
			continue
		}
		condition := side.history.ConditionOn(d.today)
		if condition.FanShare > 0 {
			out.now.Months, out.now.FanShare = condition.Months, condition.FanShare
			out.after.Months, out.after.FanShare = condition.Months, condition.FanShare
		}
		at := due
		if n := len(side.history.Visits); n > 0 {
			at = max(at, side.history.Visits[n-1].Day)
		}
		cells := learn.Grow(side.rate.Cells, side.history, max(at, side.history.Start.Day))
		removal := r.removalFor(usual, side)
		// Where a light clean goes on in between, only the core grows from one deep clean to the next; the face is never
		// older than a light interval.
		between := t.Kind == string(contract.TaskKindDeep) && light > 0
		now := interval.Belief{Name: side.Name, AreaShare: side.AreaShare, Findings: side.rate.Counted, Peers: side.fromPeers}
		after := now
		standing := now
		standing.Rates, standing.Starts = interval.Condense(side.rate.Cells, interval.Bins, func(c learn.Cell) float64 { return c.Face + c.Core })
		now.Rates, now.Starts = standing.Rates, standing.Starts
		if between {
			now.Rates, now.Starts = interval.Condense(side.rate.Cells, interval.Bins, func(c learn.Cell) float64 {
				return c.Core + math.Max(c.Face, c.Rate*(1-c.Penetration)*float64(light)*out.after.FanShare/30)
			})
			for k := range now.Rates {
				now.Rates[k] *= side.rate.Penetration
			}
			for i, c := range cells {
				kept := c.Rate * (1 - c.Penetration) * float64(light) * out.after.FanShare / 30
				cells[i].Face = math.Min(c.Face, kept)
			}
		}
		after.Rates, after.Starts = interval.Condense(cells, interval.Bins, func(c learn.Cell) float64 {
			return soil.State{Face: c.Face, Core: c.Core}.Clean(removal).Total()
		})
		if between {
			p := side.rate.Penetration
			for k, rate := range after.Rates {
				after.Starts[k] += rate * (1 - p) * float64(light) * out.after.FanShare / 30
				after.Rates[k] = rate * p
			}
		}
		out.now.Sides, out.after.Sides = append(out.now.Sides, now), append(out.after.Sides, after)
		out.standing.Sides = append(out.standing.Sides, standing)
	}
	out.known = len(out.after.Sides) > 0
	return out
}

// removalFor is what the usual clean takes from a side's soil.
func (r *register) removalFor(w work, side sideDossier) soil.Removal {
	return r.removal[w.method.ID].Removal(soil.Family(side.kind.Family), w.direction)
}

// work of a kind as it is usually done at the coil.
func (c coilDossier) work(kind string) work {
	if kind == string(contract.TaskKindLight) {
		return c.light
	}
	return c.deep
}

// lightEvery is the interval of the coil's light clean in days, 0 where it has none.
func (c coilDossier) lightEvery() int {
	for _, t := range c.taskRows {
		if t.Kind == string(contract.TaskKindLight) && !t.Paused {
			return t.EveryDays
		}
	}
	return 0
}

// overNow is the probability that the worst side is over the limit today.
func (o outlooks) overNow() float64 {
	if !o.known {
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
	if !o.known || best == nil {
		return 0
	}
	w, err := interval.PriceOfWaiting(interval.WaitQuestion{
		Now: o.now, Average: best.TotalDay, DueIn: math.Min(float64(dueIn), mostDays-waitDays), Days: waitDays,
	})
	if err != nil {
		return 0
	}
	return w.Money
}

// leads is the house's rule on what leads the interval of a unit.
func (r *register) leads(d dossier) interval.Lead {
	return interval.Lead(r.practice(d.site.ID, d.unit.ID)[intervalQuestion])
}
