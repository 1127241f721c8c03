package planning

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"
	"time"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/core/reason"
	"nextround/core/round"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/optional"
	"nextround/internal/store"
	"nextround/internal/wording"
)

// The two cleans of a coil, as the contract names them.
const (
	lightClean = string(contract.TaskKindLight)
	deepClean  = string(contract.TaskKindDeep)
)

// What makes a clean longer (assumption), and when things ride along or are due by themselves.
const (
	slabMinutes   = 15.0 // for each slab beyond the first, at a deep clean
	ladderMinutes = 10.0 // to set it and foot it
	guardMinutes  = 10.0 // where guards or many fixings are in the way, at a deep clean
	manyFixings   = 8
	// priorVisits is the weight of the class's minutes against what visits took.
	priorVisits = 3.0
	// wetLitres is what a wet clean carries where there is no tap.
	wetLitres = 20.0
	// A companion rides along when it is due within a quarter of its interval, but at least a fortnight, of the work.
	rideShare, rideLeast = .25, 14
	// A light clean is covered by a deep one that comes within half its interval, three weeks at most.
	coverShare, coverMost = .5, 21
	// lookWithin and watchEvery are when a look with light, and a look at what is watched, are due by themselves.
	lookWithin, watchEvery = 60, 91
	waitWeeks              = 12
	// staffShown is how many times ahead of each of the staff's clocks are listed.
	staffShown = 3
)

// clockJob is a job in the making: what the screens show of it and what the planner weighs.
type clockJob struct {
	view  contract.Job
	d     dossier.Unit
	coil  *dossier.Coil
	work  dossier.Work
	every int
	// on is the day it is thought to be done: its due day, today where it is late, or the day of its round.
	on      calendar.Day
	waiting round.Waiting
	after   string
	gap     int
	tasks   []uuid.UUID
	noisy   bool
	wet     bool
	// contracted work is for contractors only.
	contracted bool
}

// jobBook makes jobs out of every clock.
type jobBook struct {
	*dossier.Facts
	today, last calendar.Day
	minutes     map[string]float64 // learned, by class and kind
	visitsSeen  map[string]int
	watch       map[uuid.UUID][]store.WatchItem
	watchLast   map[uuid.UUID]calendar.Day
	symptoms    map[uuid.UUID][]store.SymptomReport
	holidays    map[uuid.UUID][]store.Holiday
	windows     map[uuid.UUID][]store.SiteWindow
	onRound     map[string]publishedAt
	jobs        []*clockJob
	staff       []contract.StaffJob
	courses     []coilCourse
}

// publishedAt is where a job is on a published round.
type publishedAt struct {
	crew uuid.UUID
	day  calendar.Day
}

// newJobBook reads all units with what else makes work.
func (s *Service) newJobBook(t store.Tenant, today calendar.Day, days int) (*jobBook, error) {
	r, err := load.Units(t, nil)
	if err != nil {
		return nil, err
	}
	b := &jobBook{Facts: r, today: today, last: today.Add(days), watchLast: map[uuid.UUID]calendar.Day{}}
	watch, err := store.All[store.WatchItem](t, "opened, id")
	if err != nil {
		return nil, err
	}
	watch = slices.DeleteFunc(watch, func(w store.WatchItem) bool { return w.Closed != nil })
	looks, err := store.Where[store.WatchLook](t, "watch_item_id", store.Keys(watch, func(w store.WatchItem) uuid.UUID { return w.ID }), "visit_id")
	if err != nil {
		return nil, err
	}
	day := map[uuid.UUID]calendar.Day{}
	for _, v := range r.Rows.Visits {
		day[v.ID] = v.Day.Day()
	}
	for _, l := range looks {
		b.watchLast[l.WatchItemID] = max(b.watchLast[l.WatchItemID], day[l.VisitID])
	}
	b.watch = store.By(watch, func(w store.WatchItem) uuid.UUID { return w.UnitID })
	symptoms, err := store.All[store.SymptomReport](t, "at, id")
	if err != nil {
		return nil, err
	}
	symptoms = slices.DeleteFunc(symptoms, func(x store.SymptomReport) bool { return x.Status != "open" || x.UnitID == nil })
	b.symptoms = store.By(symptoms, func(x store.SymptomReport) uuid.UUID { return *x.UnitID })
	holidays, err := store.All[store.Holiday](t, "day")
	if err != nil {
		return nil, err
	}
	b.holidays = store.By(holidays, func(h store.Holiday) uuid.UUID { return h.SiteID })
	windows, err := store.All[store.SiteWindow](t, "starts, id")
	if err != nil {
		return nil, err
	}
	b.windows = store.By(windows, func(w store.SiteWindow) uuid.UUID { return w.SiteID })
	if b.onRound, err = s.published(t, today); err != nil {
		return nil, err
	}
	b.learnMinutes()
	idle := func(u store.Unit) bool { return u.Status != dossier.InService }
	err = r.InTurn(slices.DeleteFunc(slices.Clone(r.Rows.Units), idle), s.Now(), func(d dossier.Unit) error {
		b.unit(d)
		return nil
	})
	return b, err
}

// published says which jobs are on rounds that went out for today or later.
func (s *Service) published(t store.Tenant, today calendar.Day) (map[string]publishedAt, error) {
	rounds, err := t.RoundsFrom(today, "published")
	if err != nil {
		return nil, err
	}
	at := store.Index(rounds, func(r store.Round) uuid.UUID { return r.ID })
	stops, err := store.Where[store.Stop](t, "round_id", store.Keys(rounds, func(r store.Round) uuid.UUID { return r.ID }), "round_id, seq")
	if err != nil {
		return nil, err
	}
	of := store.Index(stops, func(x store.Stop) uuid.UUID { return x.ID })
	jobs, err := store.Where[store.StopJob](t, "stop_id", store.Keys(stops, func(x store.Stop) uuid.UUID { return x.ID }), "stop_id, seq")
	out := map[string]publishedAt{}
	if err != nil {
		return nil, err
	}
	returned, err := store.Where[store.JobReturn](t, "stop_id", store.Keys(stops, func(x store.Stop) uuid.UUID { return x.ID }), "at")
	if err != nil {
		return nil, err
	}
	back := map[[2]string]bool{}
	for _, x := range returned {
		back[[2]string{x.StopID.String(), x.Key}] = true
	}
	for _, j := range jobs {
		if back[[2]string{j.StopID.String(), j.Key}] {
			continue // given back by its crew: it is planned again
		}
		r := at[of[j.StopID].RoundID]
		out[j.Key] = publishedAt{r.CrewID, r.Day.Day()}
	}
	return out, nil
}

// learnMinutes takes from the visits what a clean of a class takes, shrunk to the class's figure:
//
//	(3 · class + Σ visits) / (3 + n)
func (b *jobBook) learnMinutes() {
	b.minutes, b.visitsSeen = map[string]float64{}, map[string]int{}
	class := map[uuid.UUID]uuid.UUID{}
	for _, u := range b.Rows.Units {
		class[u.ID] = u.ClassID
	}
	sums := map[string]float64{}
	for _, v := range b.Rows.Visits {
		kinds := map[string]bool{}
		for _, x := range b.Treatments[v.ID] {
			kinds[x.Work] = true
		}
		longest := 0
		for _, p := range b.VisitPeople[v.ID] {
			longest = max(longest, p.Minutes)
		}
		if len(kinds) != 1 || longest == 0 {
			continue
		}
		for k := range kinds {
			key := class[v.UnitID].String() + k
			sums[key] += float64(longest)
			b.visitsSeen[key]++
		}
	}
	for _, c := range b.ClassByID {
		for kind, base := range map[string]int{lightClean: c.LightMinutes, deepClean: c.DeepMinutes} {
			key := c.ID.String() + kind
			b.minutes[key] = (priorVisits*float64(base) + sums[key]) / (priorVisits + float64(b.visitsSeen[key]))
		}
	}
}

// duration of a clean, with the reason.
func (b *jobBook) duration(d dossier.Unit, coil dossier.Coil, kind string) (float64, reason.Reason) {
	key := d.Class.ID.String() + kind
	access := b.Access(d)
	base := math.Round(b.minutes[key])
	extra := 0.0
	if kind == deepClean {
		extra += slabMinutes * float64(max(0, coil.Slabs-1))
		if access.Guards > 0 || access.Fixings >= manyFixings {
			extra += guardMinutes
		}
	}
	if optional.Value(access.LadderM) > 0 {
		extra += ladderMinutes
	}
	return base + extra, reason.Reason{Code: reason.JobMinutes, Evidence: reason.Assumption, Numbers: reason.Numbers{
		"minutes": base + extra, "base": base, "visits": float64(b.visitsSeen[key]), "extra": extra,
	}}
}

// unit makes the jobs of a unit: the cleans of its coils as they come round, with what rides along, then what is left over.
func (b *jobBook) unit(d dossier.Unit) {
	var own []*clockJob
	for i := range d.Coils {
		own = append(own, b.cleans(d, &d.Coils[i])...)
		b.courses = append(b.courses, b.courseOf(d, &d.Coils[i], b.today, b.last.Sub(b.today)+1))
	}
	for i := range d.Coils {
		own = append(own, b.look(d, &d.Coils[i], own)...)
	}
	for _, c := range b.Companions[d.Unit.ID] {
		own = append(own, b.companionJobs(d, c, own)...)
	}
	for _, w := range b.watch[d.Unit.ID] {
		own = append(own, b.recheck(d, w, own)...)
	}
	for _, p := range d.Parts {
		own = append(own, b.washPart(d, p, own)...)
	}
	for _, x := range b.symptoms[d.Unit.ID] {
		j := b.other(d, contract.JobKindSymptom, "symptom/"+x.ID.String(), b.today)
		j.view.Reasons = append(j.view.Reasons, contract.ReasonOf(reason.Reason{Code: reason.JobSymptom, Names: reason.Names{"day": x.Day.Day().String(), "what": strings.ReplaceAll(x.Kind, "_", " ")}}))
		worst := -1
		for i, c := range d.Coils {
			if c.Worst >= 0 && (worst < 0 || c.Blocked > d.Coils[worst].Blocked) {
				worst = i
			}
		}
		if worst >= 0 {
			j.view.State = d.Coils[worst].State() // its soil is the first thing to ask
		}
		week := b.Price("call_out") + optional.Value(d.Unit.ConsequenceCost)
		j.waiting = lateWeeks(func(w int) float64 { return week * float64(w) })
		own = append(own, j)
	}
	// By day; but a job never stands before the one it follows, which a round that is out may have put on a later day.
	day := map[string]calendar.Day{}
	for _, j := range own {
		day[j.view.Key] = max(j.on, day[j.after])
	}
	sort.SliceStable(own, func(i, k int) bool { return day[own[i].view.Key] < day[own[k].view.Key] })
	b.jobs = append(b.jobs, own...)
}

func lateWeeks(price func(week int) float64) round.Waiting {
	w := round.Waiting{}
	for n := 1; n <= waitWeeks; n++ {
		w.Weeks = append(w.Weeks, price(n))
	}
	return w
}

// cleans are a coil's light and deep cleans until the end of the horizon. A deep clean covers the light one that would come
// shortly before it, and both clocks begin again.
func (b *jobBook) cleans(d dossier.Unit, coil *dossier.Coil) (out []*clockJob) {
	var light, deep *dossier.Task
	for i := range coil.Tasks {
		switch t := &coil.Tasks[i]; {
		case t.Paused:
		case t.Doer == string(contract.DoerSiteStaff):
			b.byStaff(d, contract.JobKind(t.Kind), t.Task, t.Due.Day)
		case t.Kind == lightClean:
			light = t
		case t.Kind == deepClean:
			deep = t
		}
	}
	far := b.last.Add(1)
	dueOf := func(t *dossier.Task) calendar.Day {
		if t == nil {
			return far
		}
		return t.Due.Day
	}
	dues, times := map[string]calendar.Day{lightClean: dueOf(light), deepClean: dueOf(deep)}, map[string]int{}
	task := map[string]*dossier.Task{lightClean: light, deepClean: deep}
	before := ""
	for range 400 {
		kind := deepClean
		if light != nil && dues[lightClean] < max(dues[deepClean], b.today) && b.doneOn(light, times[lightClean], dues[lightClean]) < b.doneOn(deep, times[deepClean], dues[deepClean]) {
			kind = lightClean
		}
		t := task[kind]
		if t == nil || dues[kind] > b.last {
			break
		}
		due := dues[kind]
		on := b.doneOn(t, times[kind], due)
		if kind == lightClean && deep != nil {
			deepOn := b.doneOn(deep, times[deepClean], dues[deepClean])
			if deepOn.Sub(on) <= min(coverMost, int(coverShare*float64(light.EveryDays))) && deepOn <= b.last {
				dues[lightClean] = deepOn.Add(light.EveryDays)
				continue
			}
		}
		j := b.clean(d, coil, t, times[kind], due, on)
		j.after = before
		if before != "" {
			j.gap = max(1, min(t.EveryDays, orEvery(light, t.EveryDays))/2)
		}
		before = j.view.Key
		out = append(out, j)
		times[kind]++
		dues[kind] = on.Add(t.EveryDays)
		if kind == deepClean && light != nil {
			dues[lightClean] = on.Add(light.EveryDays)
		}
	}
	return out
}

func orEvery(t *dossier.Task, other int) int {
	if t == nil {
		return other
	}
	return t.EveryDays
}

// doneOn is the day a clean is thought to be done: that of its round, else its due day, today where it is late.
func (b *jobBook) doneOn(t *dossier.Task, n int, due calendar.Day) calendar.Day {
	if t == nil {
		return b.last.Add(1)
	}
	if at, ok := b.onRound[taskKey(t.ID, n)]; ok {
		return at.day
	}
	return max(due, b.today)
}

func taskKey(id uuid.UUID, n int) string { return fmt.Sprintf("task/%s/%d", id, n) }

// clean is the n-th time a coil's clean comes round from now on.
func (b *jobBook) clean(d dossier.Unit, coil *dossier.Coil, t *dossier.Task, n int, due, on calendar.Day) *clockJob {
	j := b.other(d, contract.JobKind(t.Kind), taskKey(t.ID, n), due)
	minutes, took := b.duration(d, *coil, t.Kind)
	j.coil, j.work, j.every, j.on, j.noisy = coil, coil.Work(t.Kind), t.EveryDays, on, true
	j.wet, j.contracted = j.work.Wet(), t.Doer == string(contract.DoerContractor)
	j.tasks = []uuid.UUID{t.ID}
	if j.work.Method.Code == "closed_hose_down" {
		j.view.ClosedHose = new(true)
	}
	v := &j.view
	v.TaskID, v.CoilID, v.CoilRole, v.Minutes, v.State = &t.ID, &coil.ID, new(contract.CoilRole(coil.Role)), minutes, coil.State()
	v.FirstLook, v.About = t.Due.FirstLook && n == 0, t.Due.About && n == 0
	for _, s := range coil.Sides {
		v.Sides = append(v.Sides, s.Name)
	}
	if n == 0 {
		v.Reasons = contract.Reasons(b.cleanReasons(d, *coil, *t))
	} else {
		v.Reasons = contract.Reasons([]reason.Reason{{Code: reason.JobAgain, Numbers: reason.Numbers{"every_days": float64(t.EveryDays)}}})
	}
	v.Reasons = append(v.Reasons, contract.ReasonOf(took))
	if plan := j.work.Accepted(); len(plan) > 0 {
		v.Reasons = append(v.Reasons, contract.ReasonOf(reason.Reason{Code: reason.JobPlan, Names: reason.Names{"plan": strings.Join(plan, ", then ")}}))
	}
	if t.Kind == deepClean && len(coil.Tasks) > 1 {
		v.Reasons = append(v.Reasons, contract.ReasonOf(reason.Reason{Code: reason.CoversLight}))
	}
	b.priceClean(j, t, n, due)
	return j
}

// priceClean fills in what waiting and coming early cost.
func (b *jobBook) priceClean(j *clockJob, t *dossier.Task, n int, due calendar.Day) {
	now, dueIn := t.Ahead.Now, due.Sub(b.today)
	if n > 0 {
		now, dueIn = t.Ahead.After, t.EveryDays
	}
	var weeks []float64
	if t.Ahead.Known && t.Result.Best != nil && dueIn < dossier.MostDays-7*waitWeeks {
		weeks, _ = interval.WaitingWeeks(interval.WaitQuestion{Now: now, Average: t.Result.Best.TotalDay, DueIn: float64(max(dueIn, 0))}, waitWeeks)
	}
	j.waiting = lateWeeks(func(w int) float64 {
		money := 7 * float64(w) * b.Price("late_day")
		if len(weeks) > 0 {
			money += math.Min(weeks[w-1], 1e6)
		}
		return money
	})
	j.waiting.EarlyDay = interval.PriceOfEarly(j.work.Cost, 1, t.EveryDays)
	if n == 0 && t.Last != nil {
		for _, c := range b.Caps[t.ID] {
			if c.MostDays != nil {
				day := t.Last.Add(*c.MostDays)
				if j.waiting.CapDay == nil || day < *j.waiting.CapDay {
					j.waiting.CapDay, j.waiting.CapPenalty = &day, b.Price("cap_missed")
				}
			}
		}
	}
}

// cleanReasons say why a clean is due.
func (b *jobBook) cleanReasons(d dossier.Unit, coil dossier.Coil, t dossier.Task) []reason.Reason {
	var why []reason.Reason
	switch {
	case t.ForwardTo != nil && t.ForwardTo.Day() == t.Due.Day:
		why = append(why, reason.Reason{Code: reason.JobForward, Names: reason.Names{"day": t.Due.Day.String()}})
	case t.Due.FirstLook:
		why = append(why, reason.Reason{Code: reason.FirstLook})
	case t.Due.About:
		why = append(why, reason.Reason{Code: reason.DueAbout, Numbers: reason.Numbers{"every_days": float64(t.EveryDays)}, Names: reason.Names{"last": t.Last.String()}})
	default:
		why = append(why, reason.Reason{
			Code: reason.Due, Numbers: reason.Numbers{"days_late": float64(b.today.Sub(t.Due.Day)), "every_days": float64(t.EveryDays)},
			Names: reason.Names{"last": t.Due.Day.Add(-t.EveryDays).String()},
		})
	}
	if missed := missed(b.Facts, d, coil, t); missed != "" {
		why = append(why, reason.Reason{Code: reason.SideDue, Names: reason.Names{"side": wording.UpperFirst(missed)}})
	}
	if coil.Worst >= 0 {
		if share := coil.Sides[coil.Worst].Trace.Now.Blocked(); share > b.Limit {
			why = append(why, reason.Reason{
				Code: reason.OverLimit, Numbers: reason.Numbers{"blocked_share": share, "limit_share": b.Limit}, Evidence: reason.Assumption,
			})
		}
	}
	return why
}

// missed names the side that makes the task due because the newest visit did not reach it.
func missed(r *dossier.Facts, d dossier.Unit, coil dossier.Coil, t dossier.Task) string {
	visits := r.Visits[d.Unit.ID]
	for i := len(visits) - 1; i >= 0; i-- {
		if !contract.Outcome(visits[i].Outcome).Worked() {
			continue
		}
		for _, s := range coil.Sides {
			if at, ok := r.Reached[[2]uuid.UUID{visits[i].ID, s.ID}]; ok && !at.Reached && s.Name == t.Due.Side {
				return s.Name
			}
		}
		return ""
	}
	return ""
}

// minutesOf is how long what is no clean takes at the unit.
func (b *jobBook) minutesOf(d dossier.Unit, kind contract.JobKind) float64 {
	return float64(b.MinutesOf(d.Class.ID, string(kind)))
}

// other is a job that is no clean.
func (b *jobBook) other(d dossier.Unit, kind contract.JobKind, key string, due calendar.Day) *clockJob {
	j := &clockJob{d: d, on: max(due, b.today), view: contract.Job{
		Key: key, UnitID: d.Unit.ID, Tag: d.Unit.Tag, Class: d.Class.Name, Placement: d.Placement.Name, Kind: kind, Due: due,
		DaysLate: b.today.Sub(due), Minutes: b.minutesOf(d, kind), People: b.PeopleFor(d, string(kind)), Reasons: []contract.Reason{}, Sides: []string{},
		Riders: []contract.Rider{}, Needs: []string{},
	}}
	if at, ok := b.onRound[key]; ok {
		j.on = at.day
	}
	return j
}

// ride puts something on the job of the unit it is due nearest to, if that is near enough.
func (b *jobBook) ride(jobs []*clockJob, due calendar.Day, every int, r contract.Rider) *clockJob {
	within := max(rideLeast, int(rideShare*float64(every)))
	var best *clockJob
	apart := func(j *clockJob) int { return max(j.on.Sub(max(due, b.today)), max(due, b.today).Sub(j.on)) }
	for _, j := range jobs {
		if !j.contracted && apart(j) <= within && j.view.Kind != contract.JobKindSymptom && j.view.Minutes+r.Minutes <= b.longest(j.d) &&
			(best == nil || (j.noisy && !best.noisy) || (j.noisy == best.noisy && apart(j) < apart(best))) {
			best = j
		}
	}
	if best == nil {
		return nil
	}
	r.Text = contract.ReasonOf(reason.Reason{Code: reason.JobRides, Numbers: reason.Numbers{"within": float64(within)}, Names: reason.Names{"due": due.String(), "what": string(r.Kind)}}).Text
	best.view.Riders = append(best.view.Riders, r)
	best.view.Minutes += r.Minutes
	if r.TaskID != nil {
		best.tasks = append(best.tasks, *r.TaskID)
	}
	return best
}

// rideOwn is ride for a companion that the organisation's own people do; a contractor's rides with nobody.
func (b *jobBook) rideOwn(t store.Task, jobs []*clockJob, due calendar.Day, every int, r contract.Rider) *clockJob {
	if t.Doer == string(contract.DoerContractor) {
		return nil
	}
	return b.ride(jobs, due, every, r)
}

// longest is the longest stretch in which a place may be worked in: what rides along must not make a job too long for it.
func (b *jobBook) longest(d dossier.Unit) float64 {
	most, bound := 0.0, false
	for _, w := range b.windows[d.Site.ID] {
		if w.Kind != "allowed" || (w.PlacementID != nil && *w.PlacementID != d.Placement.ID) {
			continue
		}
		from, err := time.Parse("15:04", dossier.Clock(w.Starts))
		to, err2 := time.Parse("15:04", dossier.Clock(w.Ends))
		if err == nil && err2 == nil {
			bound, most = true, math.Max(most, to.Sub(from).Minutes()-b.Price("hand_back"))
		}
	}
	if !bound {
		return dayMinutes
	}
	return most
}

// look is a look through the core with light, where nobody has had one lately and a clean would not bring it soon.
func (b *jobBook) look(d dossier.Unit, coil *dossier.Coil, own []*clockJob) []*clockJob {
	for _, t := range coil.Tasks {
		if t.Kind != deepClean || t.CoreSeen || t.Paused || len(b.Visits[d.Unit.ID]) == 0 {
			continue
		}
		var mine []*clockJob
		for _, j := range own {
			if j.coil != nil && j.coil.ID == coil.ID {
				mine = append(mine, j)
			}
		}
		due := b.today.Add(lookWithin / 2)
		if b.ride(mine, due, 4*lookWithin/2, contract.Rider{Kind: contract.JobKindLook, Minutes: b.minutesOf(d, contract.JobKindLook)}) != nil {
			return nil
		}
		j := b.other(d, contract.JobKindLook, "look/"+coil.ID.String(), b.today.Add(lookWithin))
		j.coil = coil
		j.view.CoilID, j.view.CoilRole, j.view.State = &coil.ID, new(contract.CoilRole(coil.Role)), coil.State()
		j.view.Reasons = append(j.view.Reasons, contract.ReasonOf(reason.Reason{Code: reason.JobLook}))
		j.waiting = b.companionWaiting(j, lookWithin)
		return []*clockJob{j}
	}
	return nil
}

// companionWaiting prices what has no soil: being late by its whole interval costs as much as doing it twice (assumption).
func (b *jobBook) companionWaiting(j *clockJob, every int) round.Waiting {
	cost := j.view.Minutes / 60 * b.Price("labour")
	w := lateWeeks(func(n int) float64 { return 7*float64(n)*b.Price("late_day") + 2*cost*7*float64(n)/float64(every) })
	w.EarlyDay = interval.PriceOfEarly(cost, 1, every)
	return w
}

// companionJobs are a companion task's times: riding along where the unit is worked on anyway, else by themselves. What the
// site's staff do is theirs, but for the days they are away.
func (b *jobBook) companionJobs(d dossier.Unit, t store.Task, own []*clockJob) (out []*clockJob) {
	if t.Paused {
		return nil
	}
	c := b.Companion(d, t)
	due, before := c.Due, ""
	kind := contract.JobKind(t.Kind)
	for n := 0; due <= b.last; n++ {
		on := max(due, b.today)
		if t.Doer == string(contract.DoerSiteStaff) {
			name, away := b.staffAway(d.Site.ID, on)
			if !away {
				if n < staffShown {
					b.byStaff(d, kind, t, due)
				}
				due = on.Add(t.EveryDays)
				continue
			}
			j := b.other(d, kind, taskKey(t.ID, n), due)
			j.every, j.tasks = t.EveryDays, []uuid.UUID{t.ID}
			j.view.TaskID = &t.ID
			j.view.Reasons = append(j.view.Reasons, contract.ReasonOf(reason.Reason{Code: reason.JobStaffAway, Names: reason.Names{"holiday": name}}))
			j.waiting = b.companionWaiting(j, t.EveryDays)
			out = append(out, j)
			due = on.Add(t.EveryDays)
			continue
		}
		if at, ok := b.onRound[taskKey(t.ID, n)]; ok {
			on = at.day
		} else if with := b.rideOwn(t, append(slices.Clone(own), out...), due, t.EveryDays, contract.Rider{Kind: kind, Minutes: b.minutesOf(d, kind), TaskID: &t.ID}); with != nil {
			due = max(with.on, due).Add(t.EveryDays)
			continue
		}
		j := b.other(d, kind, taskKey(t.ID, n), due)
		j.every, j.on, j.tasks, j.contracted = t.EveryDays, on, []uuid.UUID{t.ID}, t.Doer == string(contract.DoerContractor)
		j.view.TaskID = &t.ID
		j.view.FirstLook = c.FirstLook && n == 0
		code := reason.JobCompanion
		if c.FirstLook && n == 0 {
			code = reason.JobCompanionUnknown
		}
		j.view.Reasons = append(j.view.Reasons, contract.ReasonOf(reason.Reason{Code: code, Numbers: reason.Numbers{"every_days": float64(t.EveryDays), "within": float64(max(rideLeast, int(rideShare*float64(t.EveryDays))))}}))
		j.waiting = b.companionWaiting(j, t.EveryDays)
		if before != "" {
			j.after, j.gap = before, max(1, t.EveryDays/2)
		}
		before = j.view.Key
		out = append(out, j)
		due = on.Add(t.EveryDays)
	}
	return out
}

// byStaff notes what the staff of a site do themselves.
func (b *jobBook) byStaff(d dossier.Unit, kind contract.JobKind, t store.Task, due calendar.Day) {
	b.staff = append(b.staff, contract.StaffJob{
		Site: d.Site.Name, Tag: d.Unit.Tag, Kind: kind, Due: due,
		Text: contract.ReasonOf(reason.Reason{Code: reason.JobStaff, Numbers: reason.Numbers{"every_days": float64(t.EveryDays)}}).Text,
	})
}

// staffAway tells the holiday on which a site's staff are away.
func (b *jobBook) staffAway(site uuid.UUID, day calendar.Day) (string, bool) {
	for _, h := range b.holidays[site] {
		if h.Day.Day() == day {
			return h.Name, true
		}
	}
	return "", false
}

// recheck looks again at what is watched, with the next work on the unit where that is soon enough.
func (b *jobBook) recheck(d dossier.Unit, w store.WatchItem, own []*clockJob) []*clockJob {
	last := max(w.Opened.Day(), b.watchLast[w.ID])
	due := last.Add(watchEvery)
	if b.ride(own, max(due, b.today), watchEvery, contract.Rider{Kind: contract.JobKindRecheck, Minutes: b.minutesOf(d, contract.JobKindRecheck)}) != nil || due > b.last {
		return nil
	}
	j := b.other(d, contract.JobKindRecheck, "watch/"+w.ID.String(), due)
	j.view.Reasons = append(j.view.Reasons, contract.ReasonOf(reason.Reason{Code: reason.JobWatch, Names: reason.Names{"what": w.What, "last": last.String()}}))
	j.waiting = b.companionWaiting(j, watchEvery)
	return []*clockJob{j}
}

// washPart washes a wheel, blades, pan, base or trough that reaches the limit, with other work on the unit where that is soon enough; what has
// a companion clock follows that.
func (b *jobBook) washPart(d dossier.Unit, p dossier.Part, own []*clockJob) []*clockJob {
	for _, t := range b.Companions[d.Unit.ID] {
		if t.Kind == p.Name || (p.Name == "tray" && t.Kind == "drain") {
			return nil
		}
	}
	due := max(p.Due, b.today)
	if due > b.last || b.ride(own, due, watchEvery, contract.Rider{Kind: contract.JobKindRecheck, Minutes: b.minutesOf(d, contract.JobKindRecheck)}) != nil {
		return nil
	}
	j := b.other(d, contract.JobKindRecheck, "part/"+d.Unit.ID.String()+"/"+p.Name, due)
	j.view.Reasons = append(j.view.Reasons, contract.ReasonOf(reason.Reason{
		Code: reason.JobPart, Evidence: reason.Assumption, Numbers: reason.Numbers{"blocked": max(p.Blocked, b.Limit)},
		Names: reason.Names{"part": p.Name, "last": p.Day.String(), "due": due.String()},
	}))
	j.waiting = b.companionWaiting(j, watchEvery)
	return []*clockJob{j}
}

// ladderWords name a ladder by its length.
func ladderWords(m float64) string { return fmt.Sprintf("ladder %.1f m", m) }

// needs fills in what a job takes along, in words and for the planner.
func (b *jobBook) needs(j *clockJob) (skills, kit []string, litres float64, outdoorWet bool) {
	access := b.Access(j.d)
	if access.Skill != "" {
		skills = []string{strings.ToLower(access.Skill)}
		j.view.Needs = append(j.view.Needs, access.Skill)
	}
	if j.contracted {
		j.view.Needs = append(j.view.Needs, "a contractor")
	}
	if optional.Value(access.LadderM) > 0 {
		kit = append(kit, "ladder")
		j.view.LadderM = access.LadderM
		j.view.Needs = append(j.view.Needs, ladderWords(*access.LadderM))
	}
	if j.view.People > 1 {
		j.view.Needs = append(j.view.Needs, fmt.Sprintf("%d people", j.view.People))
	}
	switch water := j.d.Water(); {
	case j.wet && water == contract.YesNoNo:
		litres = wetLitres
		j.view.WaterL = &litres
		j.view.Needs = append(j.view.Needs, fmt.Sprintf("water %.0f L: none there", litres))
	case j.wet && water == contract.YesNoUnknown:
		j.view.Needs = append(j.view.Needs, "ask the site whether there is running water")
	}
	outdoorWet = j.wet && j.d.Outdoors()
	if outdoorWet {
		j.view.Needs = append(j.view.Needs, "above 4 °C")
	}
	return skills, kit, litres, outdoorWet
}
