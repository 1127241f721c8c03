package planning

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"runtime"
	"slices"
	"sort"
	"sync"
	"time"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/core/reason"
	"nextround/core/round"
	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/queue"
	"nextround/internal/store"
)

// Defaults of a run, and how long a run may be silent before its server counts as gone.
const (
	planWeeks   = 13
	planSeconds = 5.0
	planSilent  = 30 * time.Second
	tellPlan    = 300 * time.Millisecond
	// soon is how many days ahead a new job is told first.
	soon = 14
)

// planFacts are what a plan's page shows beside the problem and its result.
type planFacts struct {
	Jobs      []contract.Job      `json:"jobs"`
	Staff     []contract.StaffJob `json:"staff"`
	Notes     []string            `json:"notes"`
	Locks     []contract.CrewDay  `json:"locks"`
	Courses   []coilCourse        `json:"courses"`
	AuditSeen uuid.UUID           `json:"audit_seen"`
}

// planChanges are what moved against the plan before.
type planChanges struct {
	List []contract.PlanChange `json:"list"`
	Cost float64               `json:"cost"`
}

// readPlan is a stored plan, read.
type readPlan struct {
	row     store.Plan
	problem round.Problem
	facts   planFacts
	result  round.Plan
	greedy  round.Cost
	changes planChanges
	job     map[string]contract.Job
}

func openPlan(row store.Plan) (readPlan, error) {
	p := readPlan{row: row}
	err := errors.Join(row.Problem.Into(&p.problem), row.Jobs.Into(&p.facts), row.Result.Into(&p.result), row.Greedy.Into(&p.greedy), row.Changes.Into(&p.changes))
	p.job = store.Index(p.facts.Jobs, func(j contract.Job) string { return j.Key })
	return p, err
}

var errPlanEnded = errors.New("this run was taken for dead and ended")

// planRun is a run of the planner.
type planRun struct {
	s   *Service
	a   organisation.Actor
	t   store.Tenant
	row store.Plan
	in  contract.NewPlan
}

// StartPlan puts a plan of the coming weeks down to be made and answers at once. A server takes it up from the queue, and another
// where that one stops or dies.
func (s *Service) StartPlan(ctx context.Context, a organisation.Actor, in contract.NewPlan) (contract.PlanRun, error) {
	r, err := s.newPlanRun(ctx, a, in)
	if err != nil {
		return contract.PlanRun{}, err
	}
	r.row.Step, r.row.Asked = store.StepWaiting, store.ToJSON(in)
	err = s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		if err := insertRun(t, r.row); err != nil {
			return err
		}
		return queue.Put(ctx, t, Making{a.Org.ID, r.row.ID, r.row.Attempt}, nil)
	})
	return runView(r.row), err
}

// MakePlan plans the coming weeks and waits until that is done.
func (s *Service) MakePlan(ctx context.Context, a organisation.Actor, in contract.NewPlan) (contract.Plan, error) {
	r, err := s.newPlanRun(ctx, a, in)
	if err != nil {
		return contract.Plan{}, err
	}
	if err := insertRun(r.t, r.row); err != nil {
		return contract.Plan{}, err
	}
	r.work(ctx)
	if r.row.Status == "failed" {
		return contract.Plan{}, errors.New(r.row.Note)
	}
	return s.Plan(ctx, a)
}

func (s *Service) newPlanRun(ctx context.Context, a organisation.Actor, in contract.NewPlan) (*planRun, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return nil, err
	}
	r := &planRun{s: s, a: a, in: in, t: s.Tenant(context.WithoutCancel(ctx), a)}
	days := 7 * planWeeks
	if in.Weeks != nil {
		days = 7 * *in.Weeks
	}
	start := store.Date(s.Today(a.Org.Zone).Add(1))
	r.row = store.Plan{
		OrganisationID: a.Org.ID, ID: store.NewID(), MadeBy: "planner", MadeAt: s.Stamp(), Status: "running", Version: 1, AccountID: &a.AccountID, Start: &start,
		Days: days, Seed: int64(optional.Value(in.Seed)), AliveAt: time.Now(), Attempt: 1,
	}
	return r, nil
}

func insertRun(t store.Tenant, row store.Plan) error {
	err := store.Insert(t, row)
	if errors.Is(err, store.ErrDuplicate) {
		return organisation.Conflict{Reason: "somebody is planning already; wait for it, or stop it"}
	}
	return err
}

// work plans, and keeps the result or why there is none.
func (r *planRun) work(ctx context.Context) {
	r.t = r.s.Store.For(context.WithoutCancel(ctx), r.a.Org.ID)
	err := organisation.Rescued(func() error { return r.plan(ctx) })
	switch {
	case err == nil:
		return
	case errors.Is(err, errPlanEnded):
		slog.WarnContext(ctx, "a plan that was told as ended is not kept", "plan", r.row.ID)
		r.row.Status, r.row.Note = "failed", err.Error()
		return
	case ctx.Err() != nil:
		r.row.Status, r.row.Note = "failed", "its server stopped"
		if err := r.s.giveBack(context.WithoutCancel(ctx), store.Lost{OrganisationID: r.row.OrganisationID, ID: r.row.ID, Attempt: r.row.Attempt}); err != nil {
			slog.ErrorContext(ctx, "a plan that this server could not end could not be given back", "plan", r.row.ID, "error", err)
		}
		return
	}
	r.row.Status, r.row.Note = "failed", err.Error()
	r.row.Problem, r.row.Jobs, r.row.Result, r.row.Greedy, r.row.Changes = nil, nil, nil, nil, nil
	err = r.t.InTransaction(func(t store.Tenant) error {
		if running, err := t.HoldPlan(r.row.ID, r.row.Attempt); err != nil || !running {
			return err
		}
		return store.Save(t, r.row.ID, &r.row)
	})
	if err != nil {
		slog.ErrorContext(ctx, "why planning failed could not be kept", "error", err)
	}
}

func (r *planRun) plan(ctx context.Context) error {
	s := r.s
	seen, err := r.t.NewestAudit()
	if err != nil {
		return err
	}
	// Reading a large portfolio takes longer than a run may be silent.
	quiet := r.heartbeat(ctx)
	defer quiet()
	b, err := s.newPlanBook(ctx, r.t, r.a, r.row.Start.Day(), r.row.Days)
	if err != nil {
		return err
	}
	before, err := r.before(b)
	if err != nil {
		return err
	}
	greedy, err := round.Greedy(b.problem)
	if err != nil {
		return fmt.Errorf("planning by due date: %w", err)
	}
	quiet() // the search tells of itself
	stopped := false
	began, told := time.Now(), time.Time{}
	search := round.Search{Seed: uint64(r.row.Seed), Workers: min(2, runtime.NumCPU())} //nolint:gosec // a seed
	search.Report = func(p round.Progress) {
		if time.Since(told) > tellPlan {
			told = time.Now()
			if stop, err := r.t.TellPlan(r.row.ID, r.row.Attempt, p.Share, p.Cost, p.Placed, p.Iterations); stop || err != nil {
				stopped = true
			}
		}
	}
	if r.in.Iterations != nil {
		search.Iterations = *r.in.Iterations
		search.Stop = func() bool { return stopped || ctx.Err() != nil }
	} else {
		seconds := planSeconds
		if r.in.Seconds != nil {
			seconds = *r.in.Seconds
		}
		search.Spent = func() float64 {
			if stopped || ctx.Err() != nil {
				return 1
			}
			return time.Since(began).Seconds() / max(seconds, 1e-3)
		}
	}
	result, err := b.search(before, optional.Value(r.in.FromScratch), search)
	if err != nil {
		return fmt.Errorf("planning: %w", err)
	}
	if ctx.Err() != nil { // the server stops: another begins again
		return ctx.Err()
	}
	r.row.Status, r.row.Share, r.row.Cost, r.row.Iterations = "done", 1, result.Cost.Total, result.Iterations
	if stopped {
		r.row.Note = "stopped; what was found by then is kept"
	}
	facts := b.factsOf(seen)
	if before != nil {
		facts.Locks = before.facts.Locks
	}
	r.row.Placed = len(b.problem.Jobs) - len(result.LeftOut)
	r.row.Problem, r.row.Jobs, r.row.Result, r.row.Greedy = store.ToJSON(b.problem), store.ToJSON(facts), store.ToJSON(result), store.ToJSON(greedy.Cost)
	r.row.Changes = store.ToJSON(b.changes(before, result))
	r.row.IsCurrent = true
	return r.t.InTransaction(func(t store.Tenant) error {
		// A run that was told as ended meanwhile does not become the plan.
		if running, err := t.HoldPlan(r.row.ID, r.row.Attempt); err != nil || !running {
			return errors.Join(err, errPlanEnded)
		}
		if err := t.RetirePlans(); err != nil {
			return err
		}
		if err := store.Save(t, r.row.ID, &r.row); err != nil {
			return err
		}
		return t.Record(s.Stamp(), r.a.AccountID, "plan", r.row.ID, "made", map[string]any{"jobs": len(b.problem.Jobs), "cost": result.Cost.Total})
	})
}

// heartbeat says now and then that the run lives, until the function it returns is called.
func (r *planRun) heartbeat(ctx context.Context) (stop func()) {
	ctx, cancel := context.WithCancel(ctx)
	var beating sync.WaitGroup
	beating.Go(func() {
		organisation.Every(ctx, planSilent/6, func() {
			if _, err := r.t.TellPlan(r.row.ID, r.row.Attempt, 0, 0, 0, 0); err != nil {
				slog.WarnContext(ctx, "a plan's progress could not be kept", "error", err)
			}
		})
	})
	return func() {
		cancel()
		beating.Wait()
	}
}

// search plans from scratch, or goes on from the plan there is: then a planned job moves only where that gains more than
// the price of moving it, so that a sick day or a complaint disturbs as little as need be. That price is no cost of the
// plan, and is not in what comes out.
func (b *planBook) search(before *readPlan, fromScratch bool, s round.Search) (round.Plan, error) {
	if before == nil || fromScratch {
		return round.Make(b.problem, s)
	}
	known, fixed := map[string]bool{}, map[string]bool{}
	for _, j := range b.problem.Jobs {
		known[j.ID] = true
	}
	for _, f := range b.problem.Fixed {
		fixed[f.Job] = true
	}
	crews := map[string]bool{}
	for _, c := range b.problem.Crews {
		crews[c.ID] = true
	}
	staying := b.problem
	staying.Fixed = slices.Clone(b.problem.Fixed)
	price := b.Price("move_planned")
	list := before.result.Sequences()
	for _, seq := range list {
		if off := seq.Day.Sub(b.start); off < 0 || off >= b.days || !crews[seq.Crew] {
			continue
		}
		for _, id := range seq.Jobs {
			if known[id] && !fixed[id] {
				staying.Fixed = append(staying.Fixed, round.Fixed{Job: id, Crew: seq.Crew, Day: seq.Day, Draft: true, Price: &price})
			}
		}
	}
	found, err := round.Improve(staying, list, s)
	if err != nil {
		return found, err
	}
	return repriced(b.problem, found.Sequences(), found)
}

// before is the plan that was current, its locks carried over to this one.
func (r *planRun) before(b *planBook) (*readPlan, error) {
	row, err := r.t.CurrentPlan()
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil //nolint:nilnil // there is none
	}
	if err != nil {
		return nil, err
	}
	p, err := openPlan(row)
	if err != nil {
		return nil, err
	}
	b.carryLocks(p)
	return &p, nil
}

// carryLocks ties down the jobs of locked crew-days.
func (b *planBook) carryLocks(before readPlan) {
	for _, seq := range before.result.Sequences() {
		locked := slices.ContainsFunc(before.facts.Locks, func(l contract.CrewDay) bool { return l.CrewID.String() == seq.Crew && l.Day == seq.Day })
		if off := seq.Day.Sub(b.start); !locked || off < 0 || off >= b.days || !slices.ContainsFunc(b.problem.Crews, func(c round.Crew) bool { return c.ID == seq.Crew }) {
			continue
		}
		for _, id := range seq.Jobs {
			if !slices.ContainsFunc(b.problem.Jobs, func(j round.Job) bool { return j.ID == id }) {
				continue
			}
			if at := slices.IndexFunc(b.problem.Fixed, func(f round.Fixed) bool { return f.Job == id }); at >= 0 {
				continue // published: its price keeps it
			}
			b.problem.Fixed = append(b.problem.Fixed, round.Fixed{Job: id, Crew: seq.Crew, Day: seq.Day, Locked: true})
		}
	}
}

func (b *planBook) factsOf(seen uuid.UUID) planFacts {
	f := planFacts{Jobs: []contract.Job{}, Staff: b.staff, Notes: b.notes, Locks: []contract.CrewDay{}, AuditSeen: seen, Courses: b.courses}
	for _, j := range b.jobs {
		f.Jobs = append(f.Jobs, j.view)
	}
	if f.Staff == nil {
		f.Staff = []contract.StaffJob{}
	}
	sort.SliceStable(f.Staff, func(i, k int) bool { return f.Staff[i].Due < f.Staff[k].Due })
	return f
}

// changes tell what moved against the plan before, as far as both know a job, and what it costs: this plan against the one
// before under today's problem without what happened since.
func (b *planBook) changes(before *readPlan, now round.Plan) planChanges {
	out := planChanges{List: []contract.PlanChange{}}
	if before == nil {
		return out
	}
	crew := map[string]string{}
	for _, c := range b.crews {
		crew[c.ID.String()] = c.Name
	}
	view := map[string]contract.Job{}
	for _, j := range b.jobs {
		view[j.view.Key] = j.view
	}
	place := func(p round.Plan) map[string]round.Sequence {
		at := map[string]round.Sequence{}
		for _, s := range p.Sequences() {
			for _, id := range s.Jobs {
				at[id] = s
			}
		}
		return at
	}
	was, is := place(before.result), place(now)
	fresh := map[string]bool{}
	for _, j := range b.problem.Jobs {
		from, had := was[j.ID]
		to, has := is[j.ID]
		v := view[j.ID]
		_, known := before.job[j.ID]
		c := contract.PlanChange{Tag: v.Tag, Kind: v.Kind}
		names := reason.Names{"from": from.Day.String(), "to": to.Day.String(), "was": crew[from.Crew], "is": crew[to.Crew]}
		switch {
		case had && from.Day < b.start:
			continue
		case !known && has:
			c.Text = contract.ReasonOf(reason.Reason{Code: reason.ChangeNew, Names: names}).Text
			fresh[c.Text] = v.Due.Sub(b.start) <= soon
		case had && !has:
			c.Text = contract.ReasonOf(reason.Reason{Code: reason.ChangeOut, Names: names}).Text
		case !had && has && known:
			c.Text = contract.ReasonOf(reason.Reason{Code: reason.ChangeIn, Names: names}).Text
		case had && has && from.Day != to.Day:
			c.Text = contract.ReasonOf(reason.Reason{Code: reason.ChangeDay, Names: names}).Text
		case had && has && from.Crew != to.Crew:
			c.Text = contract.ReasonOf(reason.Reason{Code: reason.ChangeCrew, Names: names}).Text
		default:
			continue
		}
		out.List = append(out.List, c)
	}
	// What is new and due soon comes first: it is why the rest moved.
	sort.SliceStable(out.List, func(i, k int) bool { return fresh[out.List[i].Text] && !fresh[out.List[k].Text] })
	out.Cost = now.Cost.Total - before.result.Cost.Total
	return out
}

// PlanRun tells of the newest run.
func (s *Service) PlanRun(ctx context.Context, a organisation.Actor) (contract.PlanRun, error) {
	row, err := s.Tenant(ctx, a).NewestPlan()
	if errors.Is(err, store.ErrNotFound) {
		return contract.PlanRun{Status: contract.PlanRunStatusNone}, nil
	}
	view := runView(row)
	if a.Sites != nil {
		view.Cost, view.Placed, view.Note = nil, nil, ""
	}
	return view, err
}

func runView(row store.Plan) contract.PlanRun {
	return contract.PlanRun{
		ID: &row.ID, Status: contract.PlanRunStatus(row.Status), Share: row.Share, Cost: &row.Cost, Placed: &row.Placed, Note: row.Note,
	}
}

// StopPlan tells the run at work to stop; what it has found is kept.
func (s *Service) StopPlan(ctx context.Context, a organisation.Actor) (contract.PlanRun, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return contract.PlanRun{}, err
	}
	if err := s.Tenant(ctx, a).StopPlan(); err != nil {
		return contract.PlanRun{}, err
	}
	return s.PlanRun(ctx, a)
}

// PlanProblem is what the plan was made from, fixed as it is published now.
func (s *Service) PlanProblem(ctx context.Context, a organisation.Actor) (round.Problem, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return round.Problem{}, err
	}
	row, err := s.Tenant(ctx, a).CurrentPlan()
	if err != nil {
		return round.Problem{}, err
	}
	p, err := openPlan(row)
	return p.problem, err
}

// changePlan has something done to the current plan under its version; Conflict where somebody else changed it meanwhile.
func (s *Service) changePlan(ctx context.Context, a organisation.Actor, version int, action string, do func(store.Tenant, *readPlan) error) (contract.Plan, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return contract.Plan{}, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		p, err := s.planAt(t, version)
		if err != nil {
			return err
		}
		if err := do(t, &p); err != nil {
			return err
		}
		return s.keepPlan(t, a, &p, action)
	})
	if err != nil {
		return contract.Plan{}, err
	}
	return s.Plan(ctx, a)
}

// planAt is the current plan, locked, where it still is at a version.
func (s *Service) planAt(t store.Tenant, version int) (readPlan, error) {
	row, err := t.CurrentPlanForUpdate()
	if errors.Is(err, store.ErrNotFound) {
		return readPlan{}, invalid.At("/version", "there is no plan; plan the weeks first")
	}
	if err != nil {
		return readPlan{}, err
	}
	if row.Version != version {
		return readPlan{}, organisation.Conflict{Reason: "somebody else changed the plan meanwhile. Your change was not saved: reload and try again"}
	}
	return openPlan(row)
}

// keepPlan writes a changed plan back under the next version.
func (s *Service) keepPlan(t store.Tenant, a organisation.Actor, p *readPlan, action string) error {
	read := p.row.Version
	p.row.Version++
	p.row.Cost = p.result.Cost.Total
	p.row.Problem, p.row.Jobs, p.row.Result, p.row.Changes = store.ToJSON(p.problem), store.ToJSON(p.facts), store.ToJSON(p.result), store.ToJSON(p.changes)
	if err := store.SaveVersion(t, p.row.ID, read, &p.row); err != nil {
		return err
	}
	return t.Record(s.Stamp(), a.AccountID, "plan", p.row.ID, action, nil)
}

// MovePlan moves jobs to other days or crews, as a manager drags notches; all of them or none.
func (s *Service) MovePlan(ctx context.Context, a organisation.Actor, in contract.PlanMoves) (contract.Plan, error) {
	return s.changePlan(ctx, a, in.Version, "moved", func(t store.Tenant, p *readPlan) error {
		list := p.result.Sequences()
		before := daysOf(list)
		for i, m := range in.Moves {
			q := round.MoveQuestion{Problem: p.problem, Rounds: list, Job: m.Key, Day: m.Day}
			if m.CrewID != nil {
				q.Crew = m.CrewID.String()
			}
			at := fmt.Sprintf("/moves/%d", i)
			if _, ok := p.job[m.Key]; !ok {
				return invalid.At(at+"/key", "is not a job of the plan")
			}
			moved, err := round.Move(q)
			if err != nil {
				return invalid.At(at+"/day", "%s", err.Error())
			}
			if !moved.Possible {
				return invalid.At(at+"/day", "%s: %s", p.job[m.Key].Tag, contract.ReasonOf(*moved.Reason).Text)
			}
			list = applyMove(list, moved)
		}
		after := daysOf(list)
		for _, m := range in.Moves {
			j := p.job[m.Key]
			change := contract.AuditChange{Path: string(j.Kind), Before: before[m.Key], After: after[m.Key]}
			if err := t.Record(s.Stamp(), a.AccountID, "unit", j.UnitID, store.MovedByHand, organisation.AuditDetail{Changes: []contract.AuditChange{change}}); err != nil {
				return err
			}
		}
		var err error
		p.result, err = repriced(p.problem, list, p.result)
		return err
	})
}

// applyMove puts the rounds that changed in place of what they were.
func applyMove(list []round.Sequence, m round.Moved) []round.Sequence {
	for _, s := range m.Rounds {
		list = slices.DeleteFunc(list, func(x round.Sequence) bool { return x.Crew == s.Crew && x.Day == s.Day })
		if len(s.Jobs) > 0 {
			list = append(list, s)
		}
	}
	sort.SliceStable(list, func(i, k int) bool {
		return list[i].Day < list[k].Day || (list[i].Day == list[k].Day && list[i].Crew < list[k].Crew)
	})
	return list
}

// repriced works out what rounds cost as they stand, and keeps how far the search had gone.
func repriced(p round.Problem, list []round.Sequence, before round.Plan) (round.Plan, error) {
	now, err := round.Price(p, list)
	now.Iterations = before.Iterations
	return now, err
}

// daysOf are the days and crews of jobs, by their keys; a job on no round has none.
func daysOf(list []round.Sequence) map[string]string {
	out := map[string]string{}
	for _, s := range list {
		for _, j := range s.Jobs {
			out[j] = s.Day.String() + ", crew " + s.Crew
		}
	}
	return out
}

// LockPlan ties the jobs of a crew-day down for the next time the weeks are planned, or lets them go.
func (s *Service) LockPlan(ctx context.Context, a organisation.Actor, in contract.PlanLock) (contract.Plan, error) {
	return s.changePlan(ctx, a, in.Version, "locked", func(t store.Tenant, p *readPlan) error {
		at := slices.IndexFunc(p.result.Rounds, func(r round.Round) bool { return r.Crew == in.CrewID.String() && r.Day == in.Day })
		if at < 0 {
			return invalid.At("/day", "has no round of that crew")
		}
		p.facts.Locks = slices.DeleteFunc(p.facts.Locks, func(l contract.CrewDay) bool { return l.CrewID == in.CrewID && l.Day == in.Day })
		if in.Locked {
			p.facts.Locks = append(p.facts.Locks, contract.CrewDay{CrewID: in.CrewID, Day: in.Day})
		}
		was, is := fmt.Sprint(!in.Locked), fmt.Sprint(in.Locked)
		return t.Record(s.Stamp(), a.AccountID, "crew", in.CrewID, store.RoundLocked, organisation.AuditDetail{
			Changes: []contract.AuditChange{{Path: "locked on " + in.Day.String(), Before: was, After: is}},
		})
	})
}

// monthStart is the first day of a day's month, not before the plan's start.
func monthStart(day, start calendar.Day) calendar.Day {
	y, m, _ := day.Time().Date()
	return max(calendar.Date(y, m, 1), start)
}
