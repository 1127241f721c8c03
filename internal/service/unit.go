package service

import (
	"context"
	"math"
	"sort"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// forecastDays is how far ahead the day of the limit is looked for.
const forecastDays = 1095

// supersededDays is how long a proposal that was superseded is still shown.
const supersededDays = 180

// Unit is one unit with all that is known of it.
func (s *Service) Unit(ctx context.Context, a Actor, id uuid.UUID) (contract.Unit, error) {
	t := s.tenant(ctx, a)
	r, err := loadRegister(t, []uuid.UUID{id})
	if err != nil {
		return contract.Unit{}, err
	}
	if len(r.facts.Units) == 0 {
		return contract.Unit{}, ErrNotFound
	}
	d, err := s.dossier(r, r.facts.Units[0])
	if err != nil {
		return contract.Unit{}, err
	}
	return s.unitView(t, r, d)
}

func (s *Service) unitView(t store.Tenant, r *register, d dossier) (contract.Unit, error) {
	id := d.unit.ID
	rounds, err := s.roundsByTask(t, d.today)
	if err != nil {
		return contract.Unit{}, err
	}
	names, err := s.accountNames(t)
	if err != nil {
		return contract.Unit{}, err
	}
	var tasks []uuid.UUID
	for _, c := range d.coils {
		for _, x := range c.tasks {
			tasks = append(tasks, x.ID)
		}
	}
	gone, err := t.Superseded(tasks, s.stamp().AddDate(0, 0, -supersededDays))
	if err != nil {
		return contract.Unit{}, err
	}
	superseded := store.By(gone, func(p store.Proposal) uuid.UUID { return p.TaskID })
	k, leading := d.factorOn(d.today)
	u := contract.Unit{
		ID: d.unit.ID, Tag: d.unit.Tag, Class: d.class.Name, SiteID: d.site.ID, Site: d.site.Name,
		PlacementID: d.placement.ID, Placement: d.placement.Name, Status: d.unit.Status, Make: d.unit.Make,
		Model: d.unit.Model, Note: d.unit.Note, Commissioned: store.DayOf(d.unit.Commissioned), LimitShare: r.limit,
		Factor: k, Factors: []contract.FactorLine{}, Companions: []contract.Companion{}, Coils: []contract.Coil{}, Visits: []contract.VisitSummary{},
	}
	for _, f := range d.factors {
		u.Factors = append(u.Factors, contract.FactorLine{
			ID: f.ID, Name: f.def.Name, Multiplier: f.def.Multiplier, Scope: f.scope, From: f.Valid.From, To: f.Valid.To,
			Note: ptr(f.Note), InForce: ptr(f.Valid.Holds(d.today)), Leads: leading != nil && leading.ID == f.FactorID && f.Valid.Holds(d.today),
		})
	}
	for _, t := range r.companions[id] {
		u.Companions = append(u.Companions, r.companion(d, t))
	}
	for _, c := range d.coils {
		coil := contract.Coil{
			ID: c.ID, Role: contract.CoilRole(c.Role), StartQuality: contract.LastCleanQuality(c.StartQuality),
			StartDay: store.DayOf(c.StartDay), BlockedShare: c.blocked, Sides: []contract.Side{}, Tasks: []contract.Task{},
		}
		for _, side := range c.sides {
			coil.Sides = append(coil.Sides, side.view(d, r.limit))
		}
		for _, task := range c.tasks {
			coil.Tasks = append(coil.Tasks, task.view(r, d, names, rounds, superseded[task.ID]))
		}
		if err := r.engineView(t, d, c, &coil); err != nil {
			return u, err
		}
		u.Coils = append(u.Coils, coil)
	}
	visits := append([]store.Visit{}, r.visits[id]...)
	sort.SliceStable(visits, func(i, j int) bool { return visits[i].Day > visits[j].Day })
	for _, v := range visits {
		u.Visits = append(u.Visits, r.visitSummary(d, v))
	}
	return u, nil
}

func (side sideDossier) view(d dossier, limit float64) contract.Side {
	v := contract.Side{
		ID: side.ID, Name: side.Name, AreaShare: side.AreaShare, AccessNote: side.AccessNote, Reachable: side.Reachable, State: side.state(),
		RatePer30Days: side.rate.Rate.P50, RateLow: side.rate.Rate.P10, RateHigh: side.rate.Rate.P90, AssumedRate: side.rate.Assumed,
		RateFrom: contract.RateFrom(side.from), Findings: side.rate.Counted, LookWithLight: side.looksLight(),
		WhyNot:      &side.WhyNot,
		Penetration: side.rate.Penetration, Soil: side.kind.Name,
		Curve: []contract.CurvePoint{}, Observations: []contract.Observation{}, Reasons: words(side.rateReasons(d.class)),
	}
	if drift := side.rate.Drift; drift != nil && drift.Flagged {
		v.Drifted, v.DriftTimes, v.DriftSince = true, ptr(math.Exp(drift.Delta)), &drift.Since
	}
	for _, p := range side.trace.Points {
		v.Curve = append(v.Curve, contract.CurvePoint{
			Day: p.Day, Stage: contract.CurvePointStage(p.Stage), FaceShare: soil.Share(p.Face),
			CoreShare: ptr(soil.Share(p.Core)), BlockedShare: p.Blocked,
		})
	}
	for _, l := range side.looks {
		lo, hi := l.Grade.Band()
		v.Observations = append(v.Observations, contract.Observation{
			Day: l.day, Phase: contract.ObservationPhase(l.phase), Seen: contract.Seen(l.Seen), Grade: int(l.Grade), FromShare: lo, ToShare: hi,
		})
	}
	if side.trace.Known {
		if day, ok := side.learnedHistory().ReachedOn(side.trace.Now, d.today, limit, forecastDays); ok {
			v.LimitOn = &day
		}
	}
	return v
}

func (t taskDossier) view(r *register, d dossier, names accountNames, rounds map[uuid.UUID]calendar.Day, superseded []store.Proposal) contract.Task {
	line := t.line(d.today, rounds)
	task := contract.Task{
		TaskID: line.TaskID, Kind: line.Kind, EveryDays: line.EveryDays, Due: line.Due, DaysLate: line.DaysLate,
		FirstLook: line.FirstLook, About: line.About, DueSide: line.DueSide, LastDay: line.LastDay,
		LastQuality: line.LastQuality, ProposedDays: line.ProposedDays, OnRound: line.OnRound,
		Proposal: contract.Proposal{
			Habit: opinion(t.result.Habit), Staircase: opinion(t.result.Staircase), School: contract.School(t.result.School),
			Days: t.result.Days, Change: t.result.Change, Binding: t.result.Binding, Reasons: words(t.result.Reasons),
			Limit: opinion(t.result.Limit), Cost: opinion(t.result.Cost), InForce: t.result.InForce, Proposed: t.result.Proposed,
			Advice: words(t.result.Advice), SavesYear: savesYear(t.result),
		},
		Changes: []contract.IntervalChange{}, Caps: ptr(capViews(r.caps[t.ID])), Superseded: ptr([]contract.SupersededProposal{}),
		School: line.School, SavesYear: line.SavesYear, WaitWeek: line.WaitWeek,
	}
	if best := t.result.Best; best != nil {
		task.Proposal.BestFromDays, task.Proposal.BestToDays = &best.From, &best.To
	}
	if t.ahead.known {
		task.Bench = t.bench(d)
	}
	for _, p := range superseded {
		if !value(p.ClosedAt).After(p.ComputedAt) {
			continue // nobody can have seen it
		}
		*task.Superseded = append(*task.Superseded, contract.SupersededProposal{
			Days: p.Days, FromDays: p.FromDays, School: contract.School(p.School), At: p.ComputedAt, ClosedAt: value(p.ClosedAt),
		})
	}
	// What was proposed stands until it is answered or newer evidence takes its place; what peers said since may be worth a
	// week, not another proposal.
	if t.open != nil && t.open.InputsHash == t.evidence {
		task.Proposal.ID, task.Proposal.Days, task.Proposal.School = &t.open.ID, t.open.Days, contract.School(t.open.School)
		task.Proposal.Change, task.Proposal.SavesYear = true, t.open.SavesYear
	}
	for _, c := range r.changes[t.ID] {
		task.Changes = append(task.Changes, names.change(c))
	}
	return task
}

func opinion(o interval.Opinion) contract.Opinion {
	return contract.Opinion{School: contract.School(o.School), Days: o.Days, Reasons: words(o.Reasons)}
}

// accountNames maps accounts to the names of their people.
type accountNames map[uuid.UUID]string

func (s *Service) accountNames(t store.Tenant) (accountNames, error) {
	members, err := store.All[store.Membership](t, "id")
	if err != nil {
		return nil, err
	}
	people, err := store.All[store.Person](t, "id")
	if err != nil {
		return nil, err
	}
	person := store.Index(people, func(p store.Person) uuid.UUID { return p.ID })
	names := accountNames{}
	for _, m := range members {
		names[m.AccountID] = person[m.PersonID].Name
	}
	return names, nil
}

func (n accountNames) of(id *uuid.UUID) string {
	if id == nil {
		return ""
	}
	return n[*id]
}

func (n accountNames) change(c store.IntervalChange) contract.IntervalChange {
	return contract.IntervalChange{
		ID: c.ID, At: c.At, FromDays: c.FromDays, ToDays: c.ToDays, School: contract.School(c.School), Reason: c.Reason, By: n.of(c.AccountID),
	}
}
