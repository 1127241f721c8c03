package service

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"sort"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/reason"
	"nextround/core/round"
	"nextround/internal/contract"
	"nextround/internal/defaults"
	"nextround/internal/store"
)

// daySearch is how far ahead the next free day of a crew is looked for.
const daySearch = 60

// book is what rounds are made from: the register, its dossiers, the crews and what is out already.
type book struct {
	*register
	today   calendar.Day
	byTask  map[uuid.UUID]jobFacts
	order   []uuid.UUID
	onRound map[uuid.UUID]calendar.Day
	windows map[uuid.UUID][]store.SiteWindow
	hours   map[uuid.UUID][]store.CrewHours
}

// jobFacts is a task as a job.
type jobFacts struct {
	d    dossier
	coil coilDossier
	task taskDossier
}

// openBook reads crews, windows and what is out; the units are read by load.
func (s *Service) openBook(t store.Tenant, a Actor) (*book, error) {
	c, err := loadCatalogue(t)
	if err != nil {
		return nil, err
	}
	b := &book{register: &register{catalogue: c}, today: s.today(a.Org.Zone), byTask: map[uuid.UUID]jobFacts{}}
	if b.onRound, err = s.roundsByTask(t, b.today); err != nil {
		return nil, err
	}
	windows, err := store.All[store.SiteWindow](t, "starts, id")
	if err != nil {
		return nil, err
	}
	hours, err := store.All[store.CrewHours](t, "crew_id, weekday")
	if err != nil {
		return nil, err
	}
	b.windows = store.By(windows, func(w store.SiteWindow) uuid.UUID { return w.SiteID })
	b.hours = store.By(hours, func(h store.CrewHours) uuid.UUID { return h.CrewID })
	return b, nil
}

// load reads the units that jobs are made from.
func (b *book) load(s *Service, t store.Tenant, units []uuid.UUID) (err error) {
	if b.register, err = loadRegisterWith(t, b.catalogue, units); err != nil {
		return err
	}
	for _, u := range b.facts.Units {
		if u.Status != inService {
			continue
		}
		d, err := s.dossier(b.register, u)
		if err != nil {
			return err
		}
		for _, coil := range d.coils {
			for _, task := range coil.tasks {
				b.byTask[task.ID] = jobFacts{d: d, coil: coil, task: task}
				b.order = append(b.order, task.ID)
			}
		}
	}
	return nil
}

func (b *book) minutes(j jobFacts) float64 {
	if j.task.Kind == string(contract.TaskKindLight) {
		return float64(j.d.class.LightMinutes)
	}
	return float64(j.d.class.DeepMinutes)
}

// due lists the jobs due through a day that no round carries. A deep clean covers the light one of its coil.
func (b *book) due(through calendar.Day) (jobs []round.Job) {
	deep := map[uuid.UUID]bool{}
	for _, id := range b.order {
		j := b.byTask[id]
		if _, out := b.onRound[id]; !out && j.task.due.Day <= through && j.task.Kind == string(contract.TaskKindDeep) {
			deep[j.coil.ID] = true
		}
	}
	for _, id := range b.order {
		j := b.byTask[id]
		if _, out := b.onRound[id]; out || j.task.due.Day > through {
			continue
		}
		if j.task.Kind == string(contract.TaskKindLight) && (deep[j.coil.ID] || b.deepOut(j.coil)) {
			continue
		}
		jobs = append(jobs, round.Job{ID: id.String(), Site: j.d.site.ID.String(), Due: j.task.due.Day, Minutes: b.minutes(j)})
	}
	return jobs
}

// deepOut reports whether a round carries the deep clean of a coil.
func (b *book) deepOut(c coilDossier) bool {
	for _, t := range c.tasks {
		if _, out := b.onRound[t.ID]; out && t.Kind == string(contract.TaskKindDeep) {
			return true
		}
	}
	return false
}

func (b *book) hoursOn(crew uuid.UUID, day calendar.Day) (store.CrewHours, bool) {
	for _, h := range b.hours[crew] {
		if h.Weekday == int(day.Weekday()) {
			return h, true
		}
	}
	return store.CrewHours{}, false
}

// job describes a task as a job on a day.
func (b *book) job(id uuid.UUID, day calendar.Day) contract.Job {
	j := b.byTask[id]
	t := j.task
	out := contract.Job{
		TaskID: id, UnitID: j.d.unit.ID, CoilID: j.coil.ID, Tag: j.d.unit.Tag, Class: j.d.class.Name, Placement: j.d.placement.Name,
		CoilRole: contract.CoilRole(j.coil.Role), Kind: contract.TaskKind(t.Kind), Due: t.due.Day, DaysLate: day.Sub(t.due.Day),
		Minutes: b.minutes(j), FirstLook: t.due.FirstLook, About: t.due.About, State: j.coil.state(), Sides: []string{},
	}
	for _, s := range j.coil.sides {
		out.Sides = append(out.Sides, s.Name)
	}
	out.Reasons = words(b.jobReasons(j, day))
	return out
}

func (b *book) jobReasons(j jobFacts, day calendar.Day) []reason.Reason {
	t := j.task
	var why []reason.Reason
	switch {
	case t.due.FirstLook:
		why = append(why, reason.Reason{Code: "first_look"})
	case t.due.About:
		why = append(why, reason.Reason{Code: "due_about", Numbers: reason.Numbers{"every_days": float64(t.EveryDays)}, Names: reason.Names{"last": t.last.String()}})
	default:
		why = append(why, reason.Reason{
			Code:    "due",
			Numbers: reason.Numbers{"days_late": float64(day.Sub(t.due.Day)), "every_days": float64(t.EveryDays)},
			Names:   reason.Names{"last": t.due.Day.Add(-t.EveryDays).String()},
		})
	}
	if missed := b.missed(j); missed != "" {
		why = append(why, reason.Reason{Code: "side_due", Names: reason.Names{"side": upperFirst(missed)}})
	}
	if j.coil.worst >= 0 {
		if share := j.coil.sides[j.coil.worst].trace.Now.Blocked(); share > b.limit {
			why = append(why, reason.Reason{
				Code: "over_limit", Numbers: reason.Numbers{"blocked_share": share, "limit_share": b.limit}, Evidence: reason.Assumption,
			})
		}
	}
	if t.Kind == string(contract.TaskKindDeep) && len(j.coil.tasks) > 1 {
		why = append(why, reason.Reason{Code: "covers_light"})
	}
	return why
}

// missed names the side that makes the task due because the newest visit did not reach it.
func (b *book) missed(j jobFacts) string {
	visits := b.visits[j.d.unit.ID]
	for i := len(visits) - 1; i >= 0; i-- {
		if !worked(contract.Outcome(visits[i].Outcome)) {
			continue
		}
		for _, s := range j.coil.sides {
			if at, ok := b.reached[[2]uuid.UUID{visits[i].ID, s.ID}]; ok && !at.Reached && s.Name == j.task.due.Side {
				return s.Name
			}
		}
		return ""
	}
	return ""
}

func (b *book) stop(site uuid.UUID, tasks []uuid.UUID, minutes float64, why []reason.Reason, day calendar.Day) contract.Stop {
	place := b.sites[site]
	out := contract.Stop{
		SiteID: site, Site: place.Name, Address: place.Address, Contact: place.Contact, AccessNote: place.AccessNote,
		Minutes: minutes, Jobs: []contract.Job{}, Windows: windowsOn(b.windows[site], day), Reasons: words(why),
	}
	for _, id := range tasks {
		out.Jobs = append(out.Jobs, b.job(id, day))
	}
	return out
}

// windowsOn are the windows of a site that bear on a day.
func windowsOn(windows []store.SiteWindow, day calendar.Day) []contract.Window {
	out := []contract.Window{}
	for _, w := range windows {
		for _, weekday := range w.Weekdays {
			if weekday == int(day.Weekday()) && w.Valid.Holds(day) {
				out = append(out, contract.Window{
					Kind: contract.WindowKind(w.Kind), Weekdays: w.Weekdays, Starts: clock(w.Starts), Ends: clock(w.Ends), Note: w.Note,
				})
			}
		}
	}
	return out
}

// clock drops the seconds of a time of day.
func clock(t string) string { return t[:min(len(t), 5)] }

func parseIDs(in []string) []uuid.UUID {
	out := make([]uuid.UUID, len(in))
	for i, s := range in {
		out[i] = uuid.MustParse(s)
	}
	return out
}

// NextRound says what is due, by site, and proposes a crew-day from it. Without a crew or day it takes the first
// crew and its next working day without a round.
func (s *Service) NextRound(ctx context.Context, a Actor, crew *uuid.UUID, day *calendar.Day) (contract.NextRound, error) {
	t := s.tenant(ctx, a)
	out := contract.NextRound{
		StopMinutes: defaults.StopMinutes, Stops: []contract.Stop{}, LeftOut: []contract.LeftOut{}, Waiting: []contract.WaitingDecision{},
	}
	b, err := s.openBook(t, a)
	if err != nil {
		return out, err
	}
	out.Today, out.Day = b.today, b.today.Add(1)
	if err := b.chooseCrew(t, &out, crew, day); err != nil {
		return out, err
	}
	out.DueThrough = out.Day.Add(defaults.LookAheadDays)
	units, err := t.UnitsDue(out.DueThrough)
	if err != nil {
		return out, err
	}
	if err := b.load(s, t, units); err != nil {
		return out, err
	}
	out.Waiting = b.waiting()
	plan, err := round.Propose(b.due(out.DueThrough), round.Day{Date: out.Day, Minutes: out.HoursMinutes, StopMinutes: defaults.StopMinutes})
	if err != nil {
		return out, fmt.Errorf("proposing a round: %w", err)
	}
	out.Minutes = plan.Minutes
	for _, stop := range plan.Stops {
		out.Stops = append(out.Stops, b.stop(uuid.MustParse(stop.Site), parseIDs(stop.Jobs), stop.Minutes, stop.Reasons, out.Day))
	}
	for _, l := range plan.LeftOut {
		left := contract.LeftOut{Site: b.sites[uuid.MustParse(l.Site)].Name, Minutes: l.Minutes, Reason: word(l.Reason), Jobs: []contract.Job{}}
		for _, id := range parseIDs(l.Jobs) {
			left.Jobs = append(left.Jobs, b.job(id, out.Day))
		}
		out.LeftOut = append(out.LeftOut, left)
	}
	return out, nil
}

func (b *book) chooseCrew(t store.Tenant, out *contract.NextRound, crew *uuid.UUID, day *calendar.Day) error {
	if len(b.crews) == 0 {
		return nil
	}
	chosen := b.crews[0]
	for _, c := range b.crews {
		if crew != nil && c.ID == *crew {
			chosen = c
		}
	}
	if crew != nil && chosen.ID != *crew {
		return ErrNotFound
	}
	out.CrewID, out.Crew = &chosen.ID, &chosen.Name
	from, span := b.today.Add(1), daySearch
	if day != nil {
		from, span = *day, 1
	}
	for i := range span {
		on := from.Add(i)
		out.Day = on
		h, works := b.hoursOn(chosen.ID, on)
		if works {
			out.Starts, out.HoursMinutes = clock(h.Starts), float64(h.Minutes)
		}
		there, err := t.PublishedRound(chosen.ID, on)
		switch {
		case err == nil:
			out.PublishedRoundID = &there.ID
			out.HoursMinutes = 0
			continue
		case !errors.Is(err, store.ErrNotFound):
			return err
		}
		if works {
			out.PublishedRoundID = nil
			return nil
		}
	}
	return nil
}

// waiting lists the interval proposals nobody has answered, the largest shortening first.
func (b *book) waiting() []contract.WaitingDecision {
	out := []contract.WaitingDecision{}
	for _, id := range b.order {
		j := b.byTask[id]
		p := j.task.open
		if p == nil {
			continue
		}
		var why []reason.Reason
		text := ""
		if p.Reasons.Into(&why) == nil && len(why) > 0 {
			text = word(why[0]).Text
		}
		out = append(out, contract.WaitingDecision{
			UnitID: j.d.unit.ID, Tag: j.d.unit.Tag, Site: j.d.site.Name, CoilRole: contract.CoilRole(j.coil.Role),
			Kind: contract.TaskKind(j.task.Kind), FromDays: p.FromDays, Days: p.Days, School: contract.School(p.School), Text: text,
		})
	}
	sort.SliceStable(out, func(i, j int) bool {
		return float64(out[i].Days)/float64(out[i].FromDays) < float64(out[j].Days)/float64(out[j].FromDays)
	})
	return out
}

// PublishRound freezes a crew-day and sends it out.
func (s *Service) PublishRound(ctx context.Context, a Actor, key uuid.UUID, req contract.NewRound) (contract.Round, error) {
	if err := a.only(contract.RoleManager); err != nil {
		return contract.Round{}, err
	}
	return once(s, s.tenant(ctx, a), a, key, req, func(t store.Tenant) (contract.Round, error) {
		// Publishers wait for one another, so that no two rounds carry the same work.
		crews, err := store.AllForUpdate[store.Crew](t, "id")
		if err != nil {
			return contract.Round{}, err
		}
		if !slices.ContainsFunc(crews, func(c store.Crew) bool { return c.ID == req.CrewID }) {
			return contract.Round{}, field("/crew_id", "there is no such crew")
		}
		b, err := s.openBook(t, a)
		if err != nil {
			return contract.Round{}, err
		}
		tasks, err := store.Where[store.Task](t, "id", req.TaskIds, "id")
		if err != nil {
			return contract.Round{}, err
		}
		if err := b.load(s, t, set(tasks, func(x store.Task) uuid.UUID { return x.UnitID })); err != nil {
			return contract.Round{}, err
		}
		hours, err := b.checkRound(t, req)
		if err != nil {
			return contract.Round{}, err
		}
		row, err := s.storeRound(t, a, b, req, hours)
		if err != nil {
			return contract.Round{}, err
		}
		return s.round(t, row.ID)
	})
}

func (b *book) checkRound(t store.Tenant, req contract.NewRound) (store.CrewHours, error) {
	hours, works := b.hoursOn(req.CrewID, req.Day)
	switch {
	case req.Day < b.today:
		return hours, field("/day", "has passed")
	case !works:
		return hours, field("/day", "the crew does not work on a %s", req.Day.Weekday())
	}
	if _, err := t.PublishedRound(req.CrewID, req.Day); err == nil {
		return hours, Conflict{"the crew already has a round that day; withdraw it first"}
	} else if !errors.Is(err, store.ErrNotFound) {
		return hours, err
	}
	seen := map[uuid.UUID]bool{}
	for i, id := range req.TaskIds {
		at := fmt.Sprintf("/task_ids/%d", i)
		j, ok := b.byTask[id]
		switch day, out := b.onRound[id]; {
		case !ok:
			return hours, field(at, "is not a task of a unit in service")
		case seen[id]:
			return hours, field(at, "%s stands twice", j.d.unit.Tag)
		case out:
			return hours, Conflict{fmt.Sprintf("%s is already on the round of %s", j.d.unit.Tag, day)}
		}
		seen[id] = true
	}
	return hours, nil
}

func (s *Service) storeRound(t store.Tenant, a Actor, b *book, req contract.NewRound, hours store.CrewHours) (store.Round, error) {
	plan := store.Plan{OrganisationID: t.Org, ID: store.NewID(), MadeBy: "earliest due, whole sites", MadeAt: s.stamp()}
	row := store.Round{
		OrganisationID: t.Org, ID: store.NewID(), PlanID: plan.ID, CrewID: req.CrewID, Day: store.Date(req.Day), Status: "published",
		Sequence: 1, HoursMinutes: float64(hours.Minutes), PublishedAt: s.stamp(), AccountID: &a.AccountID, Version: 1,
	}
	var order []uuid.UUID
	bySite := map[uuid.UUID][]uuid.UUID{}
	for _, id := range req.TaskIds {
		site := b.byTask[id].d.site.ID
		if bySite[site] == nil {
			order = append(order, site)
		}
		bySite[site] = append(bySite[site], id)
	}
	var stops []store.Stop
	var jobs []store.StopJob
	for i, site := range order {
		stop := store.Stop{
			OrganisationID: t.Org, ID: store.NewID(), RoundID: row.ID, SiteID: site, Seq: i + 1, Minutes: defaults.StopMinutes,
			Windows: store.ToJSON(windowsOn(b.windows[site], req.Day)),
		}
		for k, id := range bySite[site] {
			job := b.job(id, req.Day)
			stop.Minutes += job.Minutes
			jobs = append(jobs, store.StopJob{
				OrganisationID: t.Org, StopID: stop.ID, Seq: k + 1, TaskID: id, Due: store.Date(job.Due), Minutes: job.Minutes,
				State: store.ToJSON(job.State), Reasons: store.ToJSON(job.Reasons),
			})
		}
		row.Minutes += stop.Minutes
		stops = append(stops, stop)
	}
	return row, errors.Join(
		store.Insert(t, plan), store.Insert(t, row), store.Insert(t, stops...), store.Insert(t, jobs...),
		t.Record(s.stamp(), a.AccountID, "round", row.ID, "published", map[string]any{"day": req.Day, "jobs": len(jobs)}),
	)
}

// Round is a round with its sheets.
func (s *Service) Round(ctx context.Context, a Actor, id uuid.UUID) (contract.Round, error) {
	return s.round(s.tenant(ctx, a), id)
}

func (s *Service) round(t store.Tenant, id uuid.UUID) (contract.Round, error) {
	row, err := store.Get[store.Round](t, id)
	if err != nil {
		return contract.Round{}, err
	}
	crew, err := store.Get[store.Crew](t, row.CrewID)
	if err != nil {
		return contract.Round{}, err
	}
	stops, err := store.Where[store.Stop](t, "round_id", []uuid.UUID{id}, "seq")
	if err != nil {
		return contract.Round{}, err
	}
	if stops = stopsSeen(t, stops); len(stops) == 0 {
		return contract.Round{}, ErrNotFound
	}
	ids := make([]uuid.UUID, len(stops))
	for i, x := range stops {
		ids[i] = x.ID
	}
	jobs, err := store.Where[store.StopJob](t, "stop_id", ids, "seq")
	if err != nil {
		return contract.Round{}, err
	}
	hours, err := store.Where[store.CrewHours](t, "crew_id", []uuid.UUID{crew.ID}, "weekday")
	if err != nil {
		return contract.Round{}, err
	}
	names, err := s.accountNames(t)
	if err != nil {
		return contract.Round{}, err
	}
	out := contract.Round{
		ID: row.ID, Crew: crew.Name, Day: row.Day.Day(), Status: contract.RoundStatus(row.Status), Sequence: row.Sequence,
		Minutes: row.Minutes, HoursMinutes: row.HoursMinutes, PublishedAt: row.PublishedAt, PublishedBy: names.of(row.AccountID),
		Stops: []contract.Stop{}, Cautions: defaults.Cautions, Deferral: defaults.Deferral,
	}
	for _, h := range hours {
		if h.Weekday == int(row.Day.Day().Weekday()) {
			out.Starts = clock(h.Starts)
		}
	}
	return out, s.sheets(t, &out, stops, jobs)
}

// stopsSeen are the stops at sites that may be seen.
func stopsSeen(t store.Tenant, stops []store.Stop) []store.Stop {
	if t.Sites == nil {
		return stops
	}
	return slices.DeleteFunc(stops, func(x store.Stop) bool { return !slices.Contains(t.Sites, x.SiteID) })
}

// sheets fills in the stops of a round: what was frozen when it went out, and the units as they are named now.
func (s *Service) sheets(t store.Tenant, out *contract.Round, stops []store.Stop, jobs []store.StopJob) error {
	b := &book{byTask: map[uuid.UUID]jobFacts{}}
	tasks, err := store.Where[store.Task](t, "id", idsOf(jobs), "id")
	if err != nil {
		return err
	}
	units := []uuid.UUID{}
	for _, x := range tasks {
		units = append(units, x.UnitID)
	}
	if b.register, err = loadRegister(t, units); err != nil {
		return err
	}
	for _, u := range b.facts.Units {
		d, err := s.dossier(b.register, u)
		if err != nil {
			return err
		}
		for _, coil := range d.coils {
			for _, task := range coil.tasks {
				b.byTask[task.ID] = jobFacts{d: d, coil: coil, task: task}
			}
		}
	}
	byStop := store.By(jobs, func(j store.StopJob) uuid.UUID { return j.StopID })
	for _, row := range stops {
		stop := b.stop(row.SiteID, nil, row.Minutes, nil, out.Day)
		if err := row.Windows.Into(&stop.Windows); err != nil {
			return err
		}
		for _, j := range byStop[row.ID] {
			job := b.job(j.TaskID, out.Day)
			job.Due, job.Minutes, job.DaysLate = j.Due.Day(), j.Minutes, out.Day.Sub(j.Due.Day())
			job.State = contract.SoilState{}
			if err := errors.Join(j.State.Into(&job.State), j.Reasons.Into(&job.Reasons)); err != nil {
				return err
			}
			stop.Jobs = append(stop.Jobs, job)
		}
		out.Stops = append(out.Stops, stop)
	}
	return nil
}

func idsOf(jobs []store.StopJob) []uuid.UUID {
	out := make([]uuid.UUID, len(jobs))
	for i, j := range jobs {
		out[i] = j.TaskID
	}
	return out
}

// Rounds lists the rounds that went out, newest day first.
func (s *Service) Rounds(ctx context.Context, a Actor) ([]contract.RoundSummary, error) {
	t := s.tenant(ctx, a)
	rows, err := store.All[store.Round](t, "day DESC, published_at DESC")
	if err != nil {
		return nil, err
	}
	crews, err := store.All[store.Crew](t, "name")
	if err != nil {
		return nil, err
	}
	stops, err := store.All[store.Stop](t, "round_id, seq")
	if err != nil {
		return nil, err
	}
	jobs, err := store.All[store.StopJob](t, "stop_id, seq")
	if err != nil {
		return nil, err
	}
	stops = stopsSeen(t, stops)
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
func (s *Service) WithdrawRound(ctx context.Context, a Actor, id uuid.UUID) (contract.Round, error) {
	if err := a.onlyHouse(contract.RoleManager); err != nil {
		return contract.Round{}, err
	}
	var out contract.Round
	err := s.tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := store.GetForUpdate[store.Round](t, id)
		if err != nil {
			return err
		}
		if row.Status != "published" {
			return Conflict{"only a published round can be withdrawn; this one is " + strings.ToLower(row.Status)}
		}
		if err := errors.Join(
			t.SetRoundStatus(id, "withdrawn"),
			t.Record(s.stamp(), a.AccountID, "round", id, "withdrawn", nil),
		); err != nil {
			return err
		}
		out, err = s.round(t, id)
		return err
	})
	return out, err
}
