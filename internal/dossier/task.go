package dossier

import (
	"fmt"
	"math"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// Task is one of a coil's two cleans: when it is due, what is proposed and what lies ahead.
type Task struct {
	store.Task
	Due      interval.Due
	Last     *calendar.Day
	quality  interval.LastClean
	Result   interval.Result
	Evidence string // hash of what the result rests on, without the interval in force
	Open     *store.Proposal
	Ahead    outlooks
	Wait     float64 // price of a week beyond the due day
	setBy    string  // the school that set the interval in force
	// Anchor is the month it should fall into, 0 for none.
	Anchor   int
	CoreSeen bool // somebody looked through the core lately
	// Program is the choice of plan and interval, for a deep clean.
	Program Program
	// Rests is what is proposed rests on; assumed how much of its money does on start values.
	Rests   Rests
	assumed Assumed
}

func (r *Facts) task(d Unit, coil Coil, t store.Task) (Task, error) {
	task := Task{Task: t}
	k, _ := d.FactorOn(d.Today)
	in := interval.Task{
		ClassDays: classDays(d.Class, t.Kind), ClassMaxDays: d.Class.MaxDays, Factor: k,
		InForceDays: t.EveryDays, Limit: r.Limit,
	}
	var clocks []interval.Clock
	covered, seen := map[string]bool{}, true
	baseline := store.Index(r.taskSurfaces[t.ID], func(x store.TaskSurface) uuid.UUID { return x.SurfaceID })
	for _, side := range coil.Sides {
		base, ok := baseline[side.ID]
		if !ok {
			continue
		}
		covered[side.ID.String()] = true
		if side.Reachable && side.Rate.Known {
			seen = seen && CoreSeenLately(side)
		}
		clock := interval.Clock{Side: side.Name, Last: store.DayOf(base.LastDay), Quality: interval.LastClean(base.LastQuality)}
		in.Sides = append(in.Sides, interval.Side{Name: side.Name, Runs: r.runs(d, coil, t, side, clock)})
		if last := r.lastReset(d, t.ID, side.ID); last != nil && (clock.Last == nil || *last >= *clock.Last) {
			clock.Last, clock.Quality = last, interval.Exact
		}
		clocks = append(clocks, clock)
		if task.quality == "" || clock.Last == nil || (task.Last != nil && *clock.Last < *task.Last) {
			task.Last, task.quality = clock.Last, clock.Quality
		}
	}
	due, ok := interval.NextDue(clocks, t.EveryDays, d.Today)
	if !ok {
		return task, fmt.Errorf("the task covers no side")
	}
	if !due.FirstLook {
		// Days out of service do not count.
		due.Day = due.Day.Add(d.pausedDays(due.Day.Add(-t.EveryDays), d.Today))
	}
	if len(t.YearDays) > 0 && !due.FirstLook {
		due.Day = onYearDays(due.Day, t.YearDays)
	}
	if forward := store.DayOf(t.ForwardTo); forward != nil && (*forward < due.Day || r.promised(d, t)) {
		due.Day, due.FirstLook = *forward, false // brought forward by hand, or the day of a first clean that was accepted
	}
	task.Due = due
	in.Leads, in.Light, in.CoreSeen, in.Last = r.leads(d), t.Kind == string(contract.TaskKindLight), &seen, task.Last
	task.Anchor = r.anchorMonth(d, coil, t)
	in.AnchorMonth = task.Anchor
	for _, c := range r.Caps[t.ID] {
		in.Caps = append(in.Caps, interval.Cap{Kind: interval.CapKind(c.Kind), MostDays: optional.Value(c.MostDays), TimesAYear: optional.Value(c.TimesAYear), Note: c.Note})
	}
	task.Ahead, task.CoreSeen = r.ahead(d, coil, t, due.Day, covered), seen
	if task.Ahead.Known {
		in.Outlook, in.OverNow = &task.Ahead.After, task.Ahead.overNow()
	}
	var err error
	if task.Result, err = interval.Propose(in); err != nil {
		return task, err
	}
	task.Evidence = r.evidenceOf(in, coil)
	if t.Kind == string(contract.TaskKindDeep) {
		if task.Program, err = r.program(d, coil, task, in); err != nil {
			return task, err
		}
		if v := task.Program.OverPrice; v != nil {
			task.Ahead.Now.OverPrice, task.Ahead.After.OverPrice = v, v
		}
		switch p := task.Program; {
		case p.Leads:
			task.follow(in)
		case p.Known && task.Result.School == interval.Cost && p.InForce != nil:
			// The same way of cleaning: its interval is the program's, held by the rails.
			if in.Chosen = t.EveryDays; p.Change {
				in.Chosen = p.Best.EveryDays
			}
			if task.Result, err = interval.Propose(in); err != nil {
				return task, err
			}
			task.Result.InForce = account(*p.InForce)
			task.Result.Proposed = task.Result.InForce
			if task.Result.Days == p.Best.EveryDays {
				task.Result.Proposed = account(p.Best)
			} else if task.Result.Change {
				task.Result.Proposed = account(p.At(task.Result.Days))
			}
		}
	}
	task.Wait = task.Ahead.waitWeek(task.Result.Best, due.Day.Sub(d.Today))
	task.setBy = string(contract.SchoolHabit)
	if changes := r.Changes[t.ID]; len(changes) > 0 {
		task.setBy = changes[0].School
	}
	if p, ok := r.open[t.ID]; ok {
		task.Open = &p
	}
	return task, nil
}

// follow makes what is proposed that of the program: another plan, or another light clean in between.
func (t *Task) follow(in interval.Task) {
	p := t.Program
	t.Result.School, t.Result.Days, t.Result.Change, t.Result.Binding = interval.Cost, p.Best.EveryDays, true, ""
	t.Result.Proposed, t.Result.InForce = account(p.Best), account(*p.InForce)
	for _, c := range in.Caps {
		if c.Kind != interval.Chemistry && p.Best.EveryDays+interval.Week > c.MostDays {
			t.Result.Binding = "cap"
		}
	}
}

// account is what a way of keeping a coil comes to, as that of an interval.
func account(k interval.Kept) *interval.Account {
	return &interval.Account{
		Days: float64(k.EveryDays), CleanDay: k.CleanDay, SoilDay: k.EnergyDay + k.CallsDay, OverDay: k.OverDay, TotalDay: k.CostDay,
		OverDaysYear: 365 * k.OverShare,
	}
}

// The month before the cooling season, north and south of the equator (common practice, no source: spring, before the load).
const springNorth, springSouth = 4, 10

// anchorMonth is the month a task should fall into: the one set by hand at the task, else the deep clean's one of the site or the class, else
// spring for a coil under the sky that works with the season, where the rule of the organisation asks for it. 0 is none.
func (r *Facts) anchorMonth(d Unit, c Coil, t store.Task) int {
	heat := c.Role == string(contract.CoilRoleCondenser) || c.Role == string(contract.CoilRoleOutdoor)
	switch {
	case t.AnchorMonth != nil:
		return *t.AnchorMonth
	case t.Kind != string(contract.TaskKindDeep):
		return 0
	case d.Site.AnchorMonth != nil:
		return *d.Site.AnchorMonth
	case d.Class.AnchorMonth != nil:
		return *d.Class.AnchorMonth
	case !heat || !d.Outdoors() || d.Class.HoldsGoods || r.Practice(d.Site.ID, d.Unit.ID)[organisation.SeasonQuestion] != "before_load":
		return 0
	case d.Site.Lat != nil && *d.Site.Lat < 0:
		return springSouth
	}
	return springNorth
}

// CoreSeenLately reports whether one of the last two opened-up looks told something of the core.
func CoreSeenLately(side Side) bool {
	n := 0
	for i := len(side.History.Visits) - 1; i >= 0 && n < 2; i-- {
		if f := side.History.Visits[i].Found; f != nil {
			if f.Seen.ShowsCore() {
				return true
			}
			n++
		}
	}
	return false
}

// evidenceOf is the hash of what a proposal rests on: what was found, and what the house rules want. The interval in force, the
// day, and what peers say are left out, so that a proposal is not made again because time goes by.
func (r *Facts) evidenceOf(in interval.Task, coil Coil) string {
	rests := struct {
		Task   interval.Task
		Visits [][]soil.Visit
		Wanted any
	}{Task: in}
	if in.Outlook != nil {
		// What the house's records teach of a class's money is left out, too: it moves a little every night.
		money := in.Outlook.Economics
		money.CallsFactor, money.RiseFactor = 0, 0
		rests.Wanted = []any{money, in.Outlook.CleanCost, in.Outlook.OverPrice, in.Outlook.Risk, r.OverShare}
	}
	rests.Task.InForceDays, rests.Task.Outlook, rests.Task.OverNow, rests.Task.Last = 0, nil, 0, nil
	for _, s := range coil.Sides {
		rests.Visits = append(rests.Visits, s.History.Visits)
	}
	return organisation.HashOf(rests)
}

func classDays(c store.EquipmentClass, kind string) int {
	if kind == string(contract.TaskKindLight) && c.LightDays != nil {
		return *c.LightDays
	}
	return c.DeepDays
}

// lastReset is the newest visit that set the clock of a side back.
func (r *Facts) lastReset(d Unit, task, surface uuid.UUID) *calendar.Day {
	var last *calendar.Day
	set := r.resetVisits(task, surface)
	for _, v := range r.Visits[d.Unit.ID] {
		if day := v.Day.Day(); set[v.ID] && (last == nil || day >= *last) {
			last = &day
		}
	}
	return last
}

// onYearDays is the day nearest to one that falls on one of some days of the year.
func onYearDays(day calendar.Day, days []int) calendar.Day {
	best := day.Nearest(days[0])
	for _, n := range days[1:] {
		if at := day.Nearest(n); math.Abs(float64(at.Sub(day))) < math.Abs(float64(best.Sub(day))) {
			best = at
		}
	}
	return best
}

// promised reports whether a plan was accepted whose first clean is still to come.
func (r *Facts) promised(d Unit, t store.Task) bool {
	var plan TaskPlan
	if t.Plan.Into(&plan) != nil || !plan.Known() {
		return false
	}
	last := r.lastDone(d, t.ID)
	return last == nil || *last < plan.Since
}

// lastDone is the newest visit that did a task, on any side.
func (r *Facts) lastDone(d Unit, task uuid.UUID) *calendar.Day {
	var last *calendar.Day
	for _, s := range r.taskSurfaces[task] {
		if day := r.lastReset(d, task, s.SurfaceID); day != nil && (last == nil || *day > *last) {
			last = day
		}
	}
	return last
}

func (r *Facts) resetVisits(task, surface uuid.UUID) map[uuid.UUID]bool {
	set := map[uuid.UUID]bool{}
	for _, x := range r.resets[[2]uuid.UUID{task, surface}] {
		set[x.VisitID] = true
	}
	return set
}

// runs are the intervals really run on a side under a task. A finding ends a run when its visit set the clock
// back; a look without any work on the side counts for the coil's most frequent task. A last clean known only
// roughly is no dated clean.
func (r *Facts) runs(d Unit, coil Coil, t store.Task, side Side, base interval.Clock) []interval.Run {
	var last *calendar.Day
	if base.Last != nil && (base.Quality == interval.Exact || base.Quality == interval.Never) {
		last = base.Last
	}
	set := r.resetVisits(t.ID, side.ID)
	frequent := r.tasks[coil.ID][0].ID == t.ID // light comes first
	runs := []interval.Run{}
	for _, v := range r.Visits[d.Unit.ID] {
		day := v.Day.Day()
		if last != nil && day < *last {
			continue
		}
		worked := false
		for _, x := range r.Treatments[v.ID] {
			worked = worked || r.Treated[x.ID][side.ID]
		}
		for _, f := range r.Findings[[2]uuid.UUID{v.ID, side.ID}] {
			if f.Phase == PhaseOpenedUp && (set[v.ID] || (!worked && frequent)) {
				run := interval.Run{Grade: soil.Grade(f.Grade), CoreSeen: soil.Seen(f.Seen).ShowsCore()}
				if last != nil {
					run.Days = day.Sub(*last) - d.pausedDays(*last, day)
				}
				runs = append(runs, run)
			}
		}
		if set[v.ID] {
			last = &day
		}
	}
	return runs
}

// MostDays bounds an interval of the manager's own; ten years is a slip.
const MostDays = 3650

// Line is what lists show of a task.
func (t Task) Line(today calendar.Day, rounds map[uuid.UUID]calendar.Day) contract.TaskLine {
	line := contract.TaskLine{
		TaskID: t.ID, Kind: contract.TaskKind(t.Kind), EveryDays: t.EveryDays, Due: t.Due.Day,
		DaysLate: today.Sub(t.Due.Day), FirstLook: t.Due.FirstLook, About: t.Due.About, DueSide: t.Due.Side,
		LastDay: t.Last, LastQuality: new(contract.LastCleanQuality(t.quality)),
	}
	if t.Open != nil {
		line.ProposedDays, line.ProposalID, line.SavesYear = &t.Open.Days, &t.Open.ID, t.Open.SavesYear
	}
	if t.Ahead.Known {
		line.WaitWeek, line.AssumedShare = &t.Wait, t.AssumedShare()
	}
	line.School = new(contract.School(t.setBy))
	if day, ok := rounds[t.ID]; ok {
		line.OnRound = &day
	}
	return line
}
