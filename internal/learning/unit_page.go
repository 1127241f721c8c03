package learning

import (
	"context"
	"math"
	"sort"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// forecastDays is how far ahead the day of the limit is looked for.
const forecastDays = 1095

// supersededDays is how long a proposal that was answered or superseded is still told of.
const supersededDays = 180

// Unit is one unit with all that is known of it.
func (s *Service) Unit(ctx context.Context, a organisation.Actor, id uuid.UUID) (contract.Unit, error) {
	t := s.Tenant(ctx, a)
	r, err := load.Units(t, []uuid.UUID{id})
	if err != nil {
		return contract.Unit{}, err
	}
	if len(r.Rows.Units) == 0 {
		return contract.Unit{}, organisation.ErrNotFound
	}
	d, err := r.Unit(r.Rows.Units[0], s.Now())
	if err != nil {
		return contract.Unit{}, err
	}
	return s.UnitPage(t, r, d)
}

// UnitPage is the page of a unit whose dossier is at hand.
func (s *Service) UnitPage(t store.Tenant, r *dossier.Facts, d dossier.Unit) (contract.Unit, error) {
	id := d.Unit.ID
	rounds, err := t.RoundDays(d.Today)
	if err != nil {
		return contract.Unit{}, err
	}
	names, err := s.Names(t)
	if err != nil {
		return contract.Unit{}, err
	}
	var tasks []uuid.UUID
	for _, c := range d.Coils {
		for _, x := range c.Tasks {
			tasks = append(tasks, x.ID)
		}
	}
	gone, err := t.ClosedProposals(tasks, s.Stamp().AddDate(0, 0, -supersededDays))
	if err != nil {
		return contract.Unit{}, err
	}
	closed := store.By(gone, func(p store.Proposal) uuid.UUID { return p.TaskID })
	k, leading := d.FactorOn(d.Today)
	u := contract.Unit{
		ID: d.Unit.ID, Tag: d.Unit.Tag, Class: d.Class.Name, SiteID: d.Site.ID, Site: d.Site.Name,
		PlacementID: d.Placement.ID, Placement: d.Placement.Name, Status: d.Unit.Status, Make: d.Unit.Make,
		Model: d.Unit.Model, Note: d.Unit.Note, Commissioned: store.DayOf(d.Unit.Commissioned), LimitShare: r.Limit,
		Factor: k, Factors: []contract.FactorLine{}, Companions: []contract.Companion{}, Surfaces: d.PartStates(), Coils: []contract.Coil{}, Visits: []contract.VisitSummary{},
	}
	if months := d.LoadMonths(); months != nil {
		u.LoadMonths = new(months[:])
	}
	for _, f := range d.Factors {
		u.Factors = append(u.Factors, contract.FactorLine{
			ID: f.ID, Name: f.Def.Name, Multiplier: f.Def.Multiplier, Scope: f.Scope, From: f.Valid.From, To: f.Valid.To,
			Note: new(f.Note), InForce: new(f.Valid.Holds(d.Today)), Leads: leading != nil && leading.ID == f.FactorID && f.Valid.Holds(d.Today),
		})
	}
	for _, t := range r.Companions[id] {
		u.Companions = append(u.Companions, r.Companion(d, t))
	}
	for _, c := range d.Coils {
		coil := contract.Coil{
			ID: c.ID, Role: contract.CoilRole(c.Role), StartQuality: contract.LastCleanQuality(c.StartQuality),
			StartDay: store.DayOf(c.StartDay), BlockedShare: c.Blocked, Sides: []contract.Side{}, Tasks: []contract.Task{},
		}
		for _, side := range c.Sides {
			coil.Sides = append(coil.Sides, sideView(side, d, r.Limit))
		}
		for _, task := range c.Tasks {
			coil.Tasks = append(coil.Tasks, taskView(task, r, d, names, rounds, closed[task.ID]))
		}
		if err := engineView(r, t, d, c, &coil); err != nil {
			return u, err
		}
		u.Coils = append(u.Coils, coil)
	}
	visits := append([]store.Visit{}, r.Visits[id]...)
	sort.SliceStable(visits, func(i, j int) bool { return visits[i].Day > visits[j].Day })
	for _, v := range visits {
		u.Visits = append(u.Visits, r.VisitSummary(d, v))
	}
	return u, nil
}

func sideView(side dossier.Side, d dossier.Unit, limit float64) contract.Side {
	v := contract.Side{
		ID: side.ID, Name: side.Name, AreaShare: side.AreaShare, AccessNote: side.AccessNote, Reachable: side.Reachable, State: side.State(),
		RatePer30Days: side.Rate.Rate.P50, RateLow: side.Rate.Rate.P10, RateHigh: side.Rate.Rate.P90, AssumedRate: side.Rate.Assumed,
		RateFrom: contract.RateFrom(side.From), Findings: side.Rate.Counted, LookWithLight: looksLight(side),
		WhyNot:      &side.WhyNot,
		Penetration: side.Rate.Penetration, Soil: side.Soil.Name,
		Curve: []contract.CurvePoint{}, Observations: []contract.Observation{}, Reasons: contract.Reasons(side.RateReasons(d.Class)),
	}
	if drift := side.Rate.Drift; drift != nil && drift.Flagged {
		v.Drifted, v.DriftTimes, v.DriftSince = true, new(math.Exp(drift.Delta)), &drift.Since
	}
	for _, p := range side.Trace.Points {
		v.Curve = append(v.Curve, contract.CurvePoint{
			Day: p.Day, Stage: contract.CurvePointStage(p.Stage), FaceShare: soil.Share(p.Face),
			CoreShare: new(soil.Share(p.Core)), BlockedShare: p.Blocked,
		})
	}
	for _, l := range side.Looks {
		lo, hi := l.Grade.Band()
		v.Observations = append(v.Observations, contract.Observation{
			Day: l.Day, Phase: contract.ObservationPhase(l.Phase), Seen: contract.Seen(l.Seen), Grade: int(l.Grade), FromShare: lo, ToShare: hi,
		})
	}
	if side.Trace.Known {
		if day, ok := side.LearnedHistory().ReachedOn(side.Trace.Now, d.Today, limit, forecastDays); ok {
			v.LimitOn = &day
		}
	}
	return v
}

func taskView(t dossier.Task, r *dossier.Facts, d dossier.Unit, names organisation.Names, rounds map[uuid.UUID]calendar.Day, closed []store.Proposal) contract.Task {
	line := t.Line(d.Today, rounds)
	task := contract.Task{
		TaskID: line.TaskID, Kind: line.Kind, EveryDays: line.EveryDays, Due: line.Due, DaysLate: line.DaysLate,
		FirstLook: line.FirstLook, About: line.About, DueSide: line.DueSide, LastDay: line.LastDay,
		LastQuality: line.LastQuality, ProposedDays: line.ProposedDays, OnRound: line.OnRound,
		Proposal: contract.Proposal{
			Habit: opinion(t.Result.Habit), Staircase: opinion(t.Result.Staircase), School: contract.School(t.Result.School),
			Days: t.Result.Days, Change: t.Result.Change, Binding: t.Result.Binding, Reasons: contract.Reasons(t.Result.Reasons),
			Limit: opinion(t.Result.Limit), Cost: opinion(t.Result.Cost), InForce: t.Result.InForce, Proposed: t.Result.Proposed,
			Advice: contract.Reasons(t.Result.Advice), SavesYear: savesYear(t.Result),
		},
		Changes: []contract.IntervalChange{}, Caps: new(capViews(r.Caps[t.ID])),
		School: line.School, SavesYear: line.SavesYear, WaitWeek: line.WaitWeek, AssumedShare: line.AssumedShare,
	}
	task.Proposal.Program = programView(t, d)
	if t.Kind == string(contract.TaskKindDeep) {
		task.AnchorMonth, task.AnchorFrom = &t.Anchor, new(contract.TaskAnchorFromOther)
		if t.AnchorMonth != nil {
			*task.AnchorFrom = contract.TaskAnchorFromTask
		}
	}
	if t.Paused {
		task.Ended = new(true)
	}
	if best := t.Result.Best; best != nil {
		task.Proposal.BestFromDays, task.Proposal.BestToDays = &best.From, &best.To
	}
	if t.Ahead.Known {
		task.Bench = benchView(t, d)
	}
	task.Proposal.Since = sinceView(t, closed)
	// What was proposed stands until it is answered or newer evidence takes its place; what peers said since may be worth a
	// week, not another proposal.
	if t.Open != nil && t.Open.InputsHash == t.Evidence {
		p := &task.Proposal
		p.ID, p.School, p.Change = &t.Open.ID, contract.School(t.Open.School), true
		if p.Days != t.Open.Days || !proposes(*t.Open, t) {
			// As it was proposed, with what it came to then.
			var was interval.Result
			if t.Open.Result.Into(&was) == nil {
				p.InForce, p.Proposed = was.InForce, was.Proposed
			}
			p.Days, p.SavesYear = t.Open.Days, t.Open.SavesYear
		}
	}
	for _, c := range r.Changes[t.ID] {
		task.Changes = append(task.Changes, names.Change(c))
	}
	return task
}

// sinceView tells what changed since the proposal before: the newest one that somebody can have seen and that is not the one that stands.
func sinceView(t dossier.Task, closed []store.Proposal) *contract.ProposalSince {
	for _, p := range closed {
		then, kept := dossier.RestsOf(p)
		if !kept || !optional.Value(p.ClosedAt).After(p.ComputedAt) {
			continue
		}
		return &contract.ProposalSince{
			At: p.ComputedAt, Days: p.Days, Answer: contract.ProposalSinceAnswer(p.Status), Changes: contract.Reasons(t.Rests.Since(then)),
		}
	}
	return nil
}

func opinion(o interval.Opinion) contract.Opinion {
	return contract.Opinion{School: contract.School(o.School), Days: o.Days, Reasons: contract.Reasons(o.Reasons)}
}
