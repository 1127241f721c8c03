package service

import (
	"math"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/interval"
	"nextround/core/normal"
	"nextround/core/reason"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/store"
	"nextround/internal/wording"
)

// neighboursShown is how many coils of the same kind a unit's screen compares with.
const neighboursShown = 12

// looksLight reports whether the next visit should look with light: the core is likely soiled and was not seen at the last
// two looks.
func (side sideDossier) looksLight() bool {
	return side.Reachable && side.rate.Known && !coreSeenLately(side) && soil.GradeOf(soil.Share(side.rate.Core.P90)) >= soil.Film
}

// bench is what the core needs to work out another interval while it is dragged.
func (t taskDossier) bench(d dossier) *contract.IntervalBench {
	out := &contract.IntervalBench{Now: thinned(t.ahead.now), After: thinned(t.ahead.after), DueInDays: t.due.Day.Sub(d.today), MostDays: d.class.MaxDays}
	if t.last != nil {
		out.SinceDays = ptr(d.today.Sub(*t.last))
	}
	return out
}

// thinned rounds the numbers of an outlook to what can be seen, so that they travel light.
func thinned(o interval.Outlook) interval.Outlook {
	sides := make([]interval.Belief, len(o.Sides))
	for i, s := range o.Sides {
		sides[i] = s
		sides[i].Rates, sides[i].Starts = rounded(s.Rates), rounded(s.Starts)
	}
	o.Sides = sides
	return o
}

func rounded(v []float64) []float64 {
	out := make([]float64, len(v))
	for i, x := range v {
		if x > 0 {
			digits := math.Pow(10, 4-math.Ceil(math.Log10(x)))
			out[i] = math.Round(x*digits) / digits
		}
	}
	return out
}

// engineView adds to a coil's view what is worked out only when it is looked at: its ladder, what taking a cause away
// would bring, its neighbours, and what its cleans brought.
func (r *register) engineView(t store.Tenant, d dossier, c coilDossier, out *contract.Coil) error {
	out.Causes, out.Neighbours = []contract.CauseRemoved{}, []contract.NeighbourCoil{}
	var err error
	if out.Proofs, err = r.proofs(t, d, c.Coil); err != nil {
		return err
	}
	out.Money = words(append(r.energyReasons(d, c.Coil), c.deep.reasons()...))
	main := c.mainTask()
	if main != nil && main.ahead.known {
		if err := r.ladderView(d, c, out); err != nil {
			return err
		}
		if err := r.causesView(d, *main, out); err != nil {
			return err
		}
	}
	near, err := t.Neighbours(d.class.ID, c.Role, d.site.ID, c.ID, neighboursShown)
	for _, n := range near {
		line := contract.NeighbourCoil{
			UnitID: n.UnitID, Tag: n.Tag, Site: n.SiteName, SameSite: n.SameSite, RatePer30Days: n.Rate, Times: n.Rate / n.Assumed, Findings: n.Counted,
		}
		if n.EveryDays > 0 {
			line.EveryDays = &n.EveryDays
		}
		out.Neighbours = append(out.Neighbours, line)
	}
	return err
}

// mainTask is the deep clean, by which a coil's interval is known.
func (c coilDossier) mainTask() *taskDossier {
	for i := range c.tasks {
		if c.tasks[i].Kind == string(contract.TaskKindDeep) {
			return &c.tasks[i]
		}
	}
	return nil
}

// mostDeepTimes bounds the time between two deep cleans of a ladder, as a multiple of the class maximum.
const mostDeepTimes = 2

func (r *register) ladderView(d dossier, c coilDossier, out *contract.Coil) error {
	family := soil.Mixed
	if c.worst >= 0 {
		family = soil.Family(c.sides[c.worst].kind.Family)
	}
	deep, because := r.deeper(d, c.Coil, c.deep, family)
	q := interval.LadderQuestion{
		FanShare: 1, Economics: r.economics(d, c.Coil), Limit: r.limit, OverPrice: r.overPrice(d), MostDays: d.class.MaxDays,
		MostDeepDays: min(2*mostDays, mostDeepTimes*d.class.MaxDays),
		Light:        interval.Rung{Cost: c.light.cost, Removal: c.light.removal}, Deep: interval.Rung{Cost: deep.cost, Removal: deep.removal},
	}
	for _, side := range c.sides {
		if !side.Reachable || !side.rate.Known {
			continue
		}
		if fan := side.history.ConditionOn(d.today).FanShare; fan > 0 {
			q.FanShare = fan
		}
		spread := math.Hypot(side.rate.SDLog, interval.Scatter)
		q.Sides = append(q.Sides, interval.LadderSide{
			Name: side.Name, AreaShare: side.AreaShare, Rate: side.rate.Rate.P50, Penetration: side.rate.Penetration,
			LimitRate: math.Exp(side.rate.MeanLog + normal.Quantile(1-r.risk)*spread),
		})
	}
	l, err := interval.Climb(q)
	if err != nil {
		return err
	}
	view := contract.CoilLadder{
		Cheapest: l.Cheapest, DeepOnly: l.DeepOnly, WithinLimit: l.WithinLimit, SavedShare: l.Saved, LightHolds: l.LightHolds,
		Table: append([]interval.Ladder{}, l.Table...), LightMethod: c.light.method.Name, DeepMethod: deep.method.Name,
	}
	because = append(c.light.reasons(), because...)
	switch {
	case l.WithinLimit == nil:
		because = append(because, reason.Reason{Code: "no_ladder_holds", Evidence: reason.Assumption, Numbers: reason.Numbers{"limit": r.limit}})
	case !l.LightHolds:
		because = append(because, reason.Reason{
			Code: "light_alone_fails", Evidence: reason.Assumption, Numbers: reason.Numbers{"limit": r.limit}, Names: reason.Names{"method": c.light.method.Name},
		})
	}
	view.Reasons = words(because)
	out.Ladder = &view
	return nil
}

// causesView works out what taking away each site factor at work would bring.
func (r *register) causesView(d dossier, t taskDossier, out *contract.Coil) error {
	with, _ := d.factorOn(d.today)
	for i, f := range d.factors {
		if !f.Valid.Holds(d.today) || f.def.Multiplier <= 1 {
			continue
		}
		var rest []float64
		for k, other := range d.factors {
			if k != i && other.Valid.Holds(d.today) {
				rest = append(rest, other.def.Multiplier)
			}
		}
		o := t.ahead.after
		o.MostDays = d.class.MaxDays
		times := soil.CombineFactors(rest) / with
		removed, err := interval.WithoutCause(interval.CauseQuestion{Outlook: o, Times: times})
		if err != nil {
			return err
		}
		out.Causes = append(out.Causes, contract.CauseRemoved{
			FactorID: f.FactorID, Factor: f.def.Name, Multiplier: f.def.Multiplier, Times: times, WithDays: removed.With.Days,
			WithoutDays: removed.Without.Days, SavedYear: removed.SavedYear,
		})
	}
	return nil
}

// proofs hold the readings before each clean of a condenser against those after it.
func (r *register) proofs(t store.Tenant, d dossier, c store.Coil) ([]contract.Proof, error) {
	out := []contract.Proof{}
	if c.Role != string(heat.Condenser) {
		return out, nil
	}
	visits := r.visits[d.unit.ID]
	rows, err := store.Where[store.Reading](t, "visit_id", set(visits, func(v store.Visit) uuid.UUID { return v.ID }), "visit_id, id")
	read := store.By(rows, func(x store.Reading) uuid.UUID { return x.VisitID })
	for _, v := range visits {
		p := proof(read[v.ID])
		if p == nil {
			continue
		}
		line := contract.Proof{Day: v.Day.Day(), Judged: p.Judged, Text: wording.Proof(*p)}
		if p.Judged {
			line.FellK, line.EnergyShare = &p.FellK, &p.EnergyShare
		}
		out = append(out, line)
	}
	return out, err
}

func capViews(rows []store.TaskCap) []contract.Cap {
	out := []contract.Cap{}
	for _, c := range rows {
		out = append(out, contract.Cap{ID: c.ID, Kind: contract.CapKind(c.Kind), MostDays: c.MostDays, TimesAYear: c.TimesAYear, Note: c.Note})
	}
	return out
}

// nextDue is the day a task would fall due under another interval: its sides' last cleans moved along, today for a first
// look.
func (t taskDossier) nextDue(days int, today calendar.Day) calendar.Day {
	if t.due.FirstLook {
		return today
	}
	return t.due.Day.Add(days - t.EveryDays)
}
