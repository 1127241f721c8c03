package learning

import (
	"math"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/interval"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/store"
	"nextround/internal/wording"
)

// neighboursShown is how many coils of the same kind a unit's screen compares with.
const neighboursShown = 12

// looksLight reports whether the next visit should look with light: the core is likely soiled and was not seen at the last
// two looks.
func looksLight(side dossier.Side) bool {
	return side.Reachable && side.Rate.Known && !dossier.CoreSeenLately(side) && soil.GradeOf(soil.Share(side.Rate.Core.P90)) >= soil.Film
}

// benchView is what the core needs to work out another interval while it is dragged.
func benchView(t dossier.Task, d dossier.Unit) *contract.IntervalBench {
	out := &contract.IntervalBench{Now: thinned(t.Ahead.Now), After: thinned(t.Ahead.After), DueInDays: t.Due.Day.Sub(d.Today), MostDays: d.Class.MaxDays}
	if t.Last != nil {
		out.SinceDays = new(d.Today.Sub(*t.Last))
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

// engineView adds to a coil's view what is worked out only when it is looked at: what taking a cause away
// would bring, its neighbours, and what its cleans brought.
func engineView(r *dossier.Facts, t store.Tenant, d dossier.Unit, c dossier.Coil, out *contract.Coil) error {
	out.Causes, out.Neighbours = []contract.CauseRemoved{}, []contract.NeighbourCoil{}
	var err error
	if out.Proofs, err = proofs(r, t, d, c.Coil); err != nil {
		return err
	}
	out.Money = contract.Reasons(append(r.EnergyReasons(d, c), c.Deep.Reasons()...))
	main := mainTask(c)
	if main != nil && main.Ahead.Known {
		if err := causesView(d, *main, out); err != nil {
			return err
		}
	}
	near, err := t.Neighbours(d.Class.ID, c.Role, d.Site.ID, c.ID, neighboursShown)
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
func mainTask(c dossier.Coil) *dossier.Task {
	for i := range c.Tasks {
		if c.Tasks[i].Kind == string(contract.TaskKindDeep) {
			return &c.Tasks[i]
		}
	}
	return nil
}

// causesView works out what taking away each site factor at work would bring.
func causesView(d dossier.Unit, t dossier.Task, out *contract.Coil) error {
	with, _ := d.FactorOn(d.Today)
	for i, f := range d.Factors {
		if !f.Valid.Holds(d.Today) || f.Def.Multiplier <= 1 {
			continue
		}
		var rest []float64
		for k, other := range d.Factors {
			if k != i && other.Valid.Holds(d.Today) {
				rest = append(rest, other.Def.Multiplier)
			}
		}
		times := soil.CombineFactors(rest) / with
		line := contract.CauseRemoved{FactorID: f.FactorID, Factor: f.Def.Name, Multiplier: f.Def.Multiplier, Times: times}
		if t.Program.Known {
			without, err := t.Program.Without(times)
			if err != nil {
				return err
			}
			// The price of days over the limit is no money that is spent.
			spent := func(k interval.Kept) float64 { return yearDays * (k.CostDay - k.OverDay) }
			line.WithDays, line.WithoutDays = float64(t.Program.Best.EveryDays), float64(without.Best.EveryDays)
			line.WithPlan, line.WithoutPlan = new(planView(t.Program.Plan)), new(planView(t.Program.Plans[without.Best.Plan]))
			line.SavedYear = spent(t.Program.Best) - spent(without.Best)
			out.Causes = append(out.Causes, line)
			continue
		}
		o := t.Ahead.After
		o.MostDays = d.Class.MaxDays
		removed, err := interval.WithoutCause(interval.CauseQuestion{Outlook: o, Times: times})
		if err != nil {
			return err
		}
		line.WithDays, line.WithoutDays, line.SavedYear = removed.With.Days, removed.Without.Days, removed.SavedYear
		out.Causes = append(out.Causes, line)
	}
	return nil
}

// proofs hold the readings before each clean of a condenser against those after it.
func proofs(r *dossier.Facts, t store.Tenant, d dossier.Unit, c store.Coil) ([]contract.Proof, error) {
	out := []contract.Proof{}
	if c.Role != string(heat.Condenser) {
		return out, nil
	}
	visits := r.Visits[d.Unit.ID]
	rows, err := store.Where[store.Reading](t, "visit_id", store.Keys(visits, func(v store.Visit) uuid.UUID { return v.ID }), "visit_id, id")
	read := store.By(rows, func(x store.Reading) uuid.UUID { return x.VisitID })
	for _, v := range visits {
		p := dossier.Proof(read[v.ID])
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
func nextDue(t dossier.Task, days int, today calendar.Day) calendar.Day {
	if t.Due.FirstLook {
		return today
	}
	return t.Due.Day.Add(days - t.EveryDays)
}
