package planning

import (
	"context"
	"errors"
	"io"
	"math"
	"slices"
	"sort"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/reason"
	"nextround/core/round"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/exchange"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
	"nextround/internal/wording"
)

// planPage is a plan with what is needed to show it.
type planPage struct {
	readPlan
	zone    *time.Location
	crew    map[string]store.Crew
	place   map[string]uuid.UUID // of jobs
	sites   map[uuid.UUID]store.Site
	windows map[uuid.UUID][]store.SiteWindow
	// rooms are the names of placements, for windows that are for one only.
	rooms map[uuid.UUID]string
	out   []publishedRound
}

// publishedRound is a round that went out, with its jobs.
type publishedRound struct {
	store.Round
	keys []string
}

func (s *Service) planPage(t store.Tenant, a organisation.Actor, row store.Plan) (*planPage, error) {
	p := &planPage{}
	var err error
	if p.readPlan, err = openPlan(row); err != nil {
		return nil, err
	}
	if p.zone, err = time.LoadLocation(a.Org.Zone); err != nil {
		return nil, err
	}
	crews, err := store.All[store.Crew](t, "name")
	if err != nil {
		return nil, err
	}
	p.crew = store.Index(crews, func(c store.Crew) string { return c.ID.String() })
	p.place = map[string]uuid.UUID{}
	for _, j := range p.problem.Jobs {
		p.place[j.ID] = uuid.MustParse(j.Place)
	}
	sites, err := store.All[store.Site](t, "lower(name)")
	if err != nil {
		return nil, err
	}
	windows, err := store.All[store.SiteWindow](t, "starts, id")
	if err != nil {
		return nil, err
	}
	placements, err := store.All[store.Placement](t, "id")
	if err != nil {
		return nil, err
	}
	p.rooms = map[uuid.UUID]string{}
	for _, x := range placements {
		p.rooms[x.ID] = x.Name
	}
	p.sites = store.Index(sites, func(x store.Site) uuid.UUID { return x.ID })
	p.windows = store.By(windows, func(w store.SiteWindow) uuid.UUID { return w.SiteID })
	p.out, err = s.outRounds(t, p.problem.Start)
	return p, err
}

// outRounds are the rounds that are out from a day on.
func (s *Service) outRounds(t store.Tenant, from calendar.Day) ([]publishedRound, error) {
	rows, err := t.RoundsFrom(from, "published")
	if err != nil {
		return nil, err
	}
	stops, err := store.Where[store.Stop](t, "round_id", store.Keys(rows, func(r store.Round) uuid.UUID { return r.ID }), "round_id, seq")
	if err != nil {
		return nil, err
	}
	jobs, err := store.Where[store.StopJob](t, "stop_id", store.Keys(stops, func(x store.Stop) uuid.UUID { return x.ID }), "stop_id, seq")
	if err != nil {
		return nil, err
	}
	byRound := store.By(stops, func(x store.Stop) uuid.UUID { return x.RoundID })
	byStop := store.By(jobs, func(x store.StopJob) uuid.UUID { return x.StopID })
	out := []publishedRound{}
	for _, r := range rows {
		x := publishedRound{Round: r}
		for _, stop := range byRound[r.ID] {
			for _, j := range byStop[stop.ID] {
				x.keys = append(x.keys, j.Key)
			}
		}
		out = append(out, x)
	}
	return out, nil
}

// currentPage is the page of the current plan; nil where none was made.
func (s *Service) currentPage(t store.Tenant, a organisation.Actor) (*planPage, error) {
	row, err := t.CurrentPlan()
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil //nolint:nilnil // there is none
	}
	if err != nil {
		return nil, err
	}
	return s.planPage(t, a, row)
}

// Plan is the plan of the coming weeks; one without an id where none was made.
func (s *Service) Plan(ctx context.Context, a organisation.Actor) (contract.Plan, error) {
	t := s.Tenant(ctx, a)
	out := contract.Plan{
		Crews: []contract.PlanCrew{}, Places: []contract.PlanPlace{}, Rounds: []contract.PlannedRound{}, LeftOut: []contract.PlannedLeftOut{},
		Weeks: []round.WeekLoad{}, Months: []contract.MonthLoad{}, Changes: []contract.PlanChange{}, Notes: []string{}, StaffJobs: []contract.StaffJob{},
		Start: s.Today(a.Org.Zone).Add(1),
	}
	p, err := s.currentPage(t, a)
	if p == nil || err != nil {
		return out, err
	}
	row := p.row
	names, err := s.Names(t)
	if err != nil {
		return out, err
	}
	out.ID, out.Version, out.MadeAt, out.MadeBy = &row.ID, row.Version, &row.MadeAt, new(names.Of(row.AccountID))
	out.Start, out.Days, out.Iterations = p.problem.Start, p.problem.Days, row.Iterations
	out.StaffJobs, out.Changes = p.facts.Staff, p.changes.List
	if out.Stale, err = s.planStale(t, a, *p); err != nil {
		return out, err
	}
	out.Crews, out.Places = p.crewViews(), p.placeViews()
	for _, r := range p.result.Rounds {
		out.Rounds = append(out.Rounds, p.planned(r))
	}
	out.Rounds = append(out.Rounds, p.calledOff()...)
	sort.SliceStable(out.Rounds, func(i, k int) bool {
		return out.Rounds[i].Day < out.Rounds[k].Day || (out.Rounds[i].Day == out.Rounds[k].Day && out.Rounds[i].Crew < out.Rounds[k].Crew)
	})
	for _, l := range p.result.LeftOut {
		out.LeftOut = append(out.LeftOut, contract.PlannedLeftOut{Job: p.job[l.Job], Site: new(p.sites[p.place[l.Job]].Name), Cost: l.Cost, Text: p.word(l.Reason).Text})
	}
	if t.Sites != nil {
		p.narrow(&out, t.Sites)
		return out, nil
	}
	out.Sums = &contract.PlanSums{Cost: p.result.Cost, GreedyCost: p.greedy, Bound: p.result.Bound, GapShare: p.result.Gap, ChangesCost: p.changes.Cost}
	if p.greedy.Total > 0 {
		out.Sums.SavingShare = 1 - p.result.Cost.Total/p.greedy.Total
	}
	out.Notes, out.Weeks, out.Months = p.facts.Notes, p.result.Weeks, p.months()
	return out, nil
}

// planStale reports whether something the plan rests on has changed since.
func (s *Service) planStale(t store.Tenant, a organisation.Actor, p planPage) (bool, error) {
	newest, err := t.NewestAudit()
	return p.problem.Start <= s.Today(a.Org.Zone) || newest.String() > p.facts.AuditSeen.String(), err
}

func (p *planPage) crewViews() []contract.PlanCrew {
	out := []contract.PlanCrew{}
	for _, c := range p.problem.Crews {
		v := contract.PlanCrew{ID: uuid.MustParse(c.ID), Name: p.crew[c.ID].Name}
		if site, ok := p.sites[uuid.MustParse(c.Base)]; ok {
			v.Lat, v.Lon = site.Lat, site.Lon
		}
		out = append(out, v)
	}
	return out
}

func (p *planPage) placeViews() []contract.PlanPlace {
	out := []contract.PlanPlace{}
	for _, x := range p.problem.Places {
		site := p.sites[uuid.MustParse(x.ID)]
		out = append(out, contract.PlanPlace{SiteID: site.ID, Site: site.Name, Lat: site.Lat, Lon: site.Lon})
	}
	return out
}

// word turns a reason of the planner into words: jobs, crews and hours by their names.
func (p *planPage) word(r reason.Reason) contract.Reason {
	return contract.ReasonOf(p.named(r, p.problem.Start))
}

// named puts names in the place of keys, and clock times in that of minutes.
func (p *planPage) named(r reason.Reason, day calendar.Day) reason.Reason {
	names := reason.Names{}
	for k, v := range r.Names {
		names[k] = v
		switch k {
		case "crew":
			names[k] = p.crew[v].Name
		case "with":
			names[k] = p.job[v].Tag + ", " + wording.JobKindWords[string(p.job[v].Kind)]
		}
	}
	for _, k := range []string{"from", "to", "latest"} {
		if m, ok := r.Numbers[k]; ok && r.Code == reason.PlanWindow {
			names[k] = clockIn(p.zone, day, m)
		}
	}
	r.Names = names
	return r
}

// planned shows a round of the plan.
func (p *planPage) planned(r round.Round) contract.PlannedRound {
	at := func(minute float64) string { return clockIn(p.zone, r.Day, minute) }
	crew := uuid.MustParse(r.Crew)
	out := contract.PlannedRound{
		CrewID: crew, Crew: p.crew[r.Crew].Name, Day: r.Day, Status: contract.PlannedRoundStatusDraft, Leaves: at(r.Leaves), Back: at(r.Back),
		Minutes: r.Work + r.Driving + float64(len(r.Stops))*optional.Value(p.problem.StopMinutes), WorkMinutes: r.Work, DrivingMinutes: r.Driving, ShiftMinutes: r.Shift,
		OvertimeMinutes: r.Overtime, Cost: &r.Cost, Stops: []contract.Stop{},
		Locked: slices.ContainsFunc(p.facts.Locks, func(l contract.CrewDay) bool { return l.CrewID == crew && l.Day == r.Day }),
	}
	keys := []string{}
	for _, stop := range r.Stops {
		site := p.sites[uuid.MustParse(stop.Place)]
		v := contract.Stop{
			SiteID: site.ID, Site: site.Name, Address: site.Address, Contact: site.Contact, AccessNote: site.AccessNote, Jobs: []contract.Job{},
			Windows: dossier.WindowsOn(p.windows[site.ID], r.Day, p.rooms), Reasons: []contract.Reason{}, Arrive: at(stop.Arrive), Leave: at(stop.Leave), Latest: at(stop.Latest),
			DriveMinutes: stop.Drive, Minutes: stop.Leave - stop.Arrive,
		}
		for _, t := range stop.Jobs {
			j := p.job[t.Job]
			j.Starts, j.Ends, j.WaitingCost = new(at(t.Starts)), new(at(t.Ends)), new(t.Waiting)
			j.DaysLate = r.Day.Sub(j.Due)
			reasons := append([]contract.Reason{}, j.Reasons...)
			for _, why := range t.Reasons {
				if w, ok := why.Numbers["week"]; ok {
					j.WeekCost = new(w)
				}
				reasons = append(reasons, contract.ReasonOf(p.named(why, r.Day)))
			}
			j.Reasons = reasons
			v.Jobs = append(v.Jobs, j)
			keys = append(keys, t.Job)
		}
		out.Stops = append(out.Stops, v)
	}
	for _, x := range p.out {
		if x.CrewID == crew && x.Day.Day() == r.Day {
			out.RoundID, out.Status = &x.ID, contract.PlannedRoundStatusPublished
			if !sameJobs(x.keys, keys) {
				out.Status = contract.PlannedRoundStatusChanged
			}
		}
	}
	return out
}

func sameJobs(a, b []string) bool {
	a, b = slices.Clone(a), slices.Clone(b)
	slices.Sort(a)
	slices.Sort(b)
	return slices.Equal(a, b)
}

// calledOff are rounds that went out of which the plan keeps nothing.
func (p *planPage) calledOff() (out []contract.PlannedRound) {
	last := p.problem.Start.Add(p.problem.Days)
	for _, x := range p.out {
		kept := slices.ContainsFunc(p.result.Rounds, func(r round.Round) bool { return r.Crew == x.CrewID.String() && r.Day == x.Day.Day() })
		if !kept && x.Day.Day() < last {
			out = append(out, contract.PlannedRound{
				CrewID: x.CrewID, Crew: p.crew[x.CrewID.String()].Name, Day: x.Day.Day(), Status: contract.PlannedRoundStatusCalledOff, RoundID: new(x.ID), Stops: []contract.Stop{},
			})
		}
	}
	return out
}

// months tell the work planned in each month beside what falls due in it and what the crews can do.
func (p *planPage) months() []contract.MonthLoad {
	out := []contract.MonthLoad{}
	at := func(day calendar.Day) *contract.MonthLoad {
		first := monthStart(max(day, p.problem.Start), p.problem.Start)
		for i := range out {
			if out[i].Month == first {
				return &out[i]
			}
		}
		out = append(out, contract.MonthLoad{Month: first})
		return &out[len(out)-1]
	}
	for d := range p.problem.Days {
		day := p.problem.Start.Add(d)
		for _, c := range p.problem.Crews {
			at(day).ShiftMinutes += c.On(day).Minutes
		}
	}
	for _, j := range p.problem.Jobs {
		if j.Due < p.problem.Start.Add(p.problem.Days) {
			at(j.Due).DueMinutes += j.Minutes
		}
	}
	for _, r := range p.result.Rounds {
		at(r.Day).PlannedMinutes += r.Work
	}
	return out
}

// planColumns are those of the plan as a table.
var planColumns = columnsOf(
	"day", "crew", "leaves", "back", "stop", "site", "arrive", "at the latest", "unit", "job", "due", "days late", "starts", "ends", "minutes", "waiting cost",
	"rides along", "needs", "why",
)

func columnsOf(names ...string) (out []exchange.Column) {
	for _, n := range names {
		out = append(out, exchange.Column{Name: n})
	}
	return out
}

// ExportPlan writes the plan as CSV or XLSX, a row for each job.
func (s *Service) ExportPlan(ctx context.Context, a organisation.Actor, format string, w io.Writer) error {
	plan, err := s.Plan(ctx, a)
	if err != nil {
		return err
	}
	number := func(v float64) string { return strconv.FormatFloat(math.Round(v*100)/100, 'f', -1, 64) }
	rows := [][]string{}
	for _, r := range plan.Rounds {
		for i, stop := range r.Stops {
			for _, j := range stop.Jobs {
				rides, why := []string{}, []string{}
				for _, x := range j.Riders {
					rides = append(rides, wording.JobKindWords[string(x.Kind)])
				}
				for _, x := range j.Reasons {
					why = append(why, x.Text)
				}
				rows = append(rows, []string{
					r.Day.String(), r.Crew, r.Leaves, r.Back, strconv.Itoa(i + 1), stop.Site, stop.Arrive, stop.Latest, j.Tag, wording.JobKindWords[string(j.Kind)], j.Due.String(),
					strconv.Itoa(j.DaysLate), optional.Value(j.Starts), optional.Value(j.Ends), number(j.Minutes), number(optional.Value(j.WaitingCost)), strings.Join(rides, ", "),
					strings.Join(j.Needs, ", "), strings.Join(why, " "),
				})
			}
		}
	}
	return exchange.WriteTable(w, format, "Plan", planColumns, rows)
}
