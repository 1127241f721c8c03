package planning

import (
	"context"
	"errors"
	"slices"
	"sort"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/reason"
	"nextround/core/round"
	"nextround/internal/contract"
	"nextround/internal/defaults"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// NextRound is the next round of the plan: the crew's of that day where they are named, else the first of the plan that has
// not gone out yet.
func (s *Service) NextRound(ctx context.Context, a organisation.Actor, crew *uuid.UUID, day *calendar.Day) (contract.NextRound, error) {
	t := s.Tenant(ctx, a)
	out := contract.NextRound{
		Today: s.Today(a.Org.Zone), Load: []contract.LoadLine{}, Waiting: []contract.WaitingDecision{}, Crews: []contract.PlanCrew{},
	}
	var err error
	if out.Waiting, err = s.waiting(t); err != nil {
		return out, err
	}
	p, err := s.currentPage(t, a)
	if p == nil || err != nil {
		return out, err
	}
	out.HasPlan, out.Version, out.Crews = true, p.row.Version, p.crewsSeen(t.Sites)
	if crew != nil && !slices.ContainsFunc(out.Crews, func(c contract.PlanCrew) bool { return c.ID == *crew }) {
		return out, organisation.ErrNotFound
	}
	stale, err := s.planStale(t, a, *p)
	if err != nil {
		return out, err
	}
	out.Stale = &stale
	for _, r := range p.result.Rounds {
		if (crew != nil && r.Crew != crew.String()) || (day != nil && r.Day != *day) || r.Day <= out.Today {
			continue
		}
		v := p.planned(r)
		if day == nil && v.Status == contract.PlannedRoundStatusPublished {
			continue
		}
		if t.Sites != nil {
			p.narrowRound(&v, t.Sites)
		}
		if len(v.Stops) == 0 {
			continue
		}
		out.Round = &v
		break
	}
	if out.Round == nil {
		return out, nil
	}
	coils := map[uuid.UUID]bool{}
	week, most := 0.0, 0.0
	for _, stop := range out.Round.Stops {
		here := 0.0
		for _, j := range stop.Jobs {
			if j.CoilID != nil {
				coils[*j.CoilID] = true
			}
			here += optional.Value(j.WeekCost)
		}
		if week += here; here > most {
			most, out.WeekCostMost = here, new(stop.Site)
		}
	}
	out.Coils, out.WeekCost = new(len(coils)), week
	if cold := p.coldUntil(out.Round.Day, t.Sites); cold != "" {
		out.Cold = &cold
	}
	out.Load, err = s.loadList(t, out.Round.Stops)
	return out, err
}

// coldUntil says which work outdoors waits for warmer days.
func (p *planPage) coldUntil(day calendar.Day, sites []uuid.UUID) string {
	tags := []string{}
	until := day
	for _, r := range p.result.Rounds {
		for _, stop := range r.Stops {
			if sites != nil && !slices.Contains(sites, uuid.MustParse(stop.Place)) {
				continue
			}
			for _, t := range stop.Jobs {
				for _, why := range t.Reasons {
					if why.Code == reason.PlanTooCold && r.Day > day && p.job[t.Job].Due <= day {
						tags = append(tags, p.job[t.Job].Tag)
						until = max(until, r.Day)
					}
				}
			}
		}
	}
	if len(tags) == 0 {
		return ""
	}
	sort.Strings(tags)
	tags = slices.Compact(tags)
	return contract.ReasonOf(reason.Reason{Code: reason.ColdBehind, Numbers: reason.Numbers{"jobs": float64(len(tags))}, Names: reason.Names{"tags": strings.Join(tags[:min(3, len(tags))], ", "), "until": until.String()}}).Text
}

// waiting lists the interval proposals nobody has answered, the largest shortening first.
func (s *Service) waiting(t store.Tenant) ([]contract.WaitingDecision, error) {
	out := []contract.WaitingDecision{}
	rows, err := t.OpenProposals(mostWaiting)
	if err != nil {
		return nil, err
	}
	for _, p := range rows {
		var why []reason.Reason
		text := ""
		if p.Reasons.Into(&why) == nil && len(why) > 0 {
			text = contract.ReasonOf(why[0]).Text
		}
		out = append(out, contract.WaitingDecision{
			UnitID: p.UnitID, Tag: p.Tag, Site: p.SiteName, CoilRole: contract.CoilRole(p.Role), Kind: contract.TaskKind(p.Kind), FromDays: p.FromDays,
			Days: p.Days, School: contract.School(p.School), Text: text,
		})
	}
	return out, nil
}

// mostWaiting is how many open proposals the page lists.
const mostWaiting = 40

// Round is a round with its sheets, as it went out.
func (s *Service) Round(ctx context.Context, a organisation.Actor, id uuid.UUID) (contract.Round, error) {
	return s.round(s.Tenant(ctx, a), id)
}

func (s *Service) round(t store.Tenant, id uuid.UUID) (contract.Round, error) {
	row, err := store.Get[store.Round](t, id)
	if err != nil {
		return contract.Round{}, err
	}
	out, err := s.sentRound(t, row)
	if err != nil {
		return out, err
	}
	if out.Progress, err = s.progress(t, row, out.Stops); err != nil {
		return out, err
	}
	out.Load, err = s.loadList(t, out.Stops)
	return out, err
}

// sentRound is a round as it went out, but for its load and what became of it.
func (s *Service) sentRound(t store.Tenant, row store.Round) (contract.Round, error) {
	crew, err := store.Get[store.Crew](t, row.CrewID)
	if err != nil {
		return contract.Round{}, err
	}
	stops, err := store.Where[store.Stop](t, "round_id", []uuid.UUID{row.ID}, "seq")
	if err != nil {
		return contract.Round{}, err
	}
	if stops = stopsSeen(t, stops); len(stops) == 0 {
		return contract.Round{}, organisation.ErrNotFound
	}
	jobs, err := store.Where[store.StopJob](t, "stop_id", store.Keys(stops, func(x store.Stop) uuid.UUID { return x.ID }), "seq")
	if err != nil {
		return contract.Round{}, err
	}
	names, err := s.Names(t)
	if err != nil {
		return contract.Round{}, err
	}
	sites, err := store.Where[store.Site](t, "id", store.Keys(stops, func(x store.Stop) uuid.UUID { return x.SiteID }), "id")
	if err != nil {
		return contract.Round{}, err
	}
	site := store.Index(sites, func(x store.Site) uuid.UUID { return x.ID })
	out := contract.Round{
		ID: row.ID, Crew: crew.Name, Day: row.Day.Day(), Status: contract.RoundStatus(row.Status), Sequence: row.Sequence,
		Minutes: row.Minutes, HoursMinutes: row.HoursMinutes, PublishedAt: row.PublishedAt, PublishedBy: names.Of(row.AccountID),
		Starts: row.Starts, Back: row.Back, DrivingMinutes: row.DrivingMinutes, Stops: []contract.Stop{}, Load: []contract.LoadLine{}, Progress: []contract.JobProgress{},
		Cautions: defaults.Cautions, Deferral: defaults.Deferral,
	}
	byStop := store.By(jobs, func(j store.StopJob) uuid.UUID { return j.StopID })
	for _, x := range stops {
		at := site[x.SiteID]
		stop := contract.Stop{
			SiteID: at.ID, Site: at.Name, Address: at.Address, Contact: at.Contact, AccessNote: at.AccessNote, Minutes: x.Minutes, Jobs: []contract.Job{},
			Phone: optional.Text(at.Phone), Keys: optional.Text(at.Keys), Lat: at.Lat, Lon: at.Lon,
			Windows: []contract.Window{}, Reasons: []contract.Reason{}, Arrive: x.Arrive, Leave: x.Leave, Latest: x.Latest, DriveMinutes: x.DriveMinutes,
		}
		if err := x.Windows.Into(&stop.Windows); err != nil {
			return contract.Round{}, err
		}
		for _, j := range byStop[x.ID] {
			job, err := s.sentJob(t, j)
			if err != nil {
				return contract.Round{}, err
			}
			job.VisitFor = new(visitFor(job))
			stop.Jobs = append(stop.Jobs, job)
		}
		out.Stops = append(out.Stops, stop)
	}
	return out, nil
}

// sentJob is a job as it went out. Rounds from before whole jobs were kept have their state and reasons only.
func (s *Service) sentJob(t store.Tenant, row store.StopJob) (contract.Job, error) {
	var job contract.Job
	if len(row.Job) > 0 {
		return job, row.Job.Into(&job)
	}
	task, err := store.Get[store.Task](t, optional.Value(row.TaskID))
	if err != nil {
		return job, err
	}
	unit, err := store.Get[store.Unit](t, task.UnitID)
	if err != nil {
		return job, err
	}
	job = contract.Job{
		Key: row.Key, TaskID: row.TaskID, UnitID: unit.ID, CoilID: task.CoilID, Tag: unit.Tag, Kind: contract.JobKind(task.Kind), Due: row.Due.Day(),
		Minutes: row.Minutes, People: 1, Sides: []string{}, Riders: []contract.Rider{}, Needs: []string{},
	}
	if err := row.State.Into(&job.State); err != nil {
		return job, err
	}
	return job, row.Reasons.Into(&job.Reasons)
}

// stopsSeen are the stops at sites that may be seen.
func stopsSeen(t store.Tenant, stops []store.Stop) []store.Stop {
	if t.Sites == nil {
		return stops
	}
	return slices.DeleteFunc(stops, func(x store.Stop) bool { return !slices.Contains(t.Sites, x.SiteID) })
}

// Rounds lists the rounds that went out, newest day first.
func (s *Service) Rounds(ctx context.Context, a organisation.Actor) ([]contract.RoundSummary, error) {
	t := s.Tenant(ctx, a)
	rows, err := store.All[store.Round](t, "day DESC, published_at DESC, sequence DESC")
	if err != nil {
		return nil, err
	}
	return s.roundSummaries(t, rows)
}

func (s *Service) roundSummaries(t store.Tenant, rows []store.Round) ([]contract.RoundSummary, error) {
	crews, err := store.All[store.Crew](t, "name")
	if err != nil {
		return nil, err
	}
	stops, err := store.Where[store.Stop](t, "round_id", store.Keys(rows, func(r store.Round) uuid.UUID { return r.ID }), "round_id, seq")
	if err != nil {
		return nil, err
	}
	stops = stopsSeen(t, stops)
	jobs, err := store.Where[store.StopJob](t, "stop_id", store.Keys(stops, func(x store.Stop) uuid.UUID { return x.ID }), "stop_id, seq")
	if err != nil {
		return nil, err
	}
	crew := store.Index(crews, func(c store.Crew) uuid.UUID { return c.ID })
	byRound := store.By(stops, func(x store.Stop) uuid.UUID { return x.RoundID })
	byStop := store.By(jobs, func(x store.StopJob) uuid.UUID { return x.StopID })
	out := []contract.RoundSummary{}
	for _, r := range rows {
		if len(byRound[r.ID]) == 0 {
			continue // none of its stops is where the actor may look
		}
		line := contract.RoundSummary{
			ID: r.ID, Crew: crew[r.CrewID].Name, Day: r.Day.Day(), Status: contract.RoundSummaryStatus(r.Status),
			Stops: len(byRound[r.ID]), Minutes: r.Minutes, HoursMinutes: r.HoursMinutes,
		}
		for _, stop := range byRound[r.ID] {
			line.Jobs += len(byStop[stop.ID])
		}
		out = append(out, line)
	}
	return out, nil
}

// WithdrawRound takes a published round back; its work is due again.
func (s *Service) WithdrawRound(ctx context.Context, a organisation.Actor, id uuid.UUID) (contract.Round, error) {
	if err := a.OnlyHouse(contract.RoleManager); err != nil {
		return contract.Round{}, err
	}
	var out contract.Round
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		// The plan first, as those who publish do: two that wait for one another would never end.
		if _, err := t.CurrentPlanForUpdate(); err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		row, err := store.GetForUpdate[store.Round](t, id)
		if err != nil {
			return err
		}
		if row.Status != "published" {
			return organisation.Conflict{Reason: "only a published round can be withdrawn; this one is " + strings.ToLower(row.Status)}
		}
		if err := s.withdraw(t, a, row); err != nil {
			return err
		}
		if err := s.unfix(t, a, row); err != nil {
			return err
		}
		out, err = s.round(t, id)
		return err
	})
	return out, err
}

// unfix lets the jobs of a round that is withdrawn go in the plan: moving them changes nothing that is out any more.
func (s *Service) unfix(t store.Tenant, a organisation.Actor, row store.Round) error {
	plan, err := t.CurrentPlanForUpdate()
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	p, err := openPlan(plan)
	if err != nil {
		return err
	}
	p.problem.Fixed = slices.DeleteFunc(p.problem.Fixed, func(f round.Fixed) bool {
		return !f.Locked && f.Crew == row.CrewID.String() && f.Day == row.Day.Day()
	})
	if p.result, err = repriced(p.problem, p.result.Sequences(), p.result); err != nil {
		return err
	}
	return s.keepPlan(t, a, &p, "round withdrawn")
}

func (s *Service) withdraw(t store.Tenant, a organisation.Actor, row store.Round) error {
	if err := t.SetRoundStatus(row.ID, "withdrawn", s.Stamp()); err != nil {
		return err
	}
	return t.Record(s.Stamp(), a.AccountID, "round", row.ID, "withdrawn", nil)
}
