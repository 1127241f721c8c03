package service

import (
	"fmt"
	"sort"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/core/learn"
	"nextround/core/reason"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// register is the facts of some units together with the places they stand at, indexed for assembling dossiers.
type register struct {
	catalogue
	siteRows      []store.Site // by name
	placementRows []store.Placement

	sites      map[uuid.UUID]store.Site
	placements map[uuid.UUID]store.Placement
	factorsAt  map[uuid.UUID][]store.SiteFactor // by site, placement or unit

	facts        store.Facts
	stays        map[uuid.UUID][]store.UnitStay
	pauses       map[uuid.UUID][]store.UnitPause
	companions   map[uuid.UUID][]store.Task // by unit
	ticks        map[uuid.UUID][]store.TaskTick
	coils        map[uuid.UUID][]store.Coil
	surfaces     map[uuid.UUID][]store.Surface
	tasks        map[uuid.UUID][]store.Task // by coil
	taskSurfaces map[uuid.UUID][]store.TaskSurface
	changes      map[uuid.UUID][]store.IntervalChange
	open         map[uuid.UUID]store.Proposal
	visits       map[uuid.UUID][]store.Visit
	visitPeople  map[uuid.UUID][]store.VisitPerson
	reached      map[[2]uuid.UUID]store.VisitSurface
	findings     map[[2]uuid.UUID][]store.Finding // visit, surface
	findingSoils map[uuid.UUID][]store.FindingSoil
	treatments   map[uuid.UUID][]store.Treatment
	treated      map[uuid.UUID]map[uuid.UUID]bool // treatment → surface
	resets       map[[2]uuid.UUID][]store.TaskReset
	caps         map[uuid.UUID][]store.TaskCap // by task
	pressures    map[uuid.UUID][]store.Reading // by visit
	peers        peers
	// bulk leaves out what only one unit's screen shows.
	bulk bool
	// details of visits, where they were asked for.
	details map[uuid.UUID]store.VisitDetails
}

// loadRegister reads what is known of the named units, or of all when units is nil.
func loadRegister(t store.Tenant, units []uuid.UUID) (*register, error) {
	c, err := loadCatalogue(t)
	if err != nil {
		return nil, err
	}
	return loadRegisterWith(t, c, units)
}

// loadRegisterWith is loadRegister with catalogues read before.
func loadRegisterWith(t store.Tenant, c catalogue, units []uuid.UUID) (*register, error) {
	r := &register{catalogue: c}
	var err error
	if r.facts, err = t.LoadFacts(units); err != nil {
		return nil, err
	}
	if err := r.loadPlaces(t, units == nil); err != nil {
		return nil, err
	}
	r.index()
	return r, r.loadPeers(t)
}

// index sorts the facts by what they belong to.
func (r *register) index() {
	f := r.facts
	r.stays = store.By(f.Stays, func(x store.UnitStay) uuid.UUID { return x.UnitID })
	r.pauses = store.By(f.Pauses, func(x store.UnitPause) uuid.UUID { return x.UnitID })
	r.companions = store.By(f.Companions, func(x store.Task) uuid.UUID { return x.UnitID })
	r.ticks = store.By(f.Ticks, func(x store.TaskTick) uuid.UUID { return x.TaskID })
	r.coils = store.By(f.Coils, func(x store.Coil) uuid.UUID { return x.UnitID })
	r.surfaces = store.By(f.Surfaces, func(x store.Surface) uuid.UUID { return value(x.CoilID) })
	r.tasks = store.By(f.Tasks, func(x store.Task) uuid.UUID { return value(x.CoilID) })
	r.taskSurfaces = store.By(f.TaskSurfaces, func(x store.TaskSurface) uuid.UUID { return x.TaskID })
	r.changes = store.By(f.Changes, func(x store.IntervalChange) uuid.UUID { return x.TaskID })
	r.open = store.Index(f.Proposals, func(x store.Proposal) uuid.UUID { return x.TaskID })
	r.visits = store.By(f.Visits, func(x store.Visit) uuid.UUID { return x.UnitID })
	r.visitPeople = store.By(f.People, func(x store.VisitPerson) uuid.UUID { return x.VisitID })
	r.reached = store.Index(f.Reached, func(x store.VisitSurface) [2]uuid.UUID { return [2]uuid.UUID{x.VisitID, x.SurfaceID} })
	r.findings = store.By(f.Findings, func(x store.Finding) [2]uuid.UUID { return [2]uuid.UUID{x.VisitID, x.SurfaceID} })
	r.findingSoils = store.By(f.FindingSoils, func(x store.FindingSoil) uuid.UUID { return x.FindingID })
	r.treatments = store.By(f.Treatments, func(x store.Treatment) uuid.UUID { return x.VisitID })
	r.resets = store.By(f.Resets, func(x store.TaskReset) [2]uuid.UUID { return [2]uuid.UUID{x.TaskID, x.SurfaceID} })
	r.caps = store.By(f.Caps, func(x store.TaskCap) uuid.UUID { return x.TaskID })
	r.pressures = store.By(f.Pressures, func(x store.Reading) uuid.UUID { return x.VisitID })
	r.treated = map[uuid.UUID]map[uuid.UUID]bool{}
	for _, x := range f.TreatmentSide {
		if r.treated[x.TreatmentID] == nil {
			r.treated[x.TreatmentID] = map[uuid.UUID]bool{}
		}
		r.treated[x.TreatmentID][x.SurfaceID] = true
	}
}

// loadPlaces reads where the units stand or stood, and the factors at work there; or all places.
func (r *register) loadPlaces(t store.Tenant, all bool) (err error) {
	var factors []store.SiteFactor
	if all {
		if r.siteRows, err = t.SitesSeen(); err != nil {
			return err
		}
		if r.placementRows, err = t.PlacementsSeen(); err != nil {
			return err
		}
		if err := into(&factors, t, factorOrder); err != nil {
			return err
		}
	} else {
		stood := set(r.facts.Stays, func(x store.UnitStay) uuid.UUID { return x.PlacementID })
		if r.placementRows, err = store.Where[store.Placement](t, "id", stood, "name"); err != nil {
			return err
		}
		at := set(r.placementRows, func(x store.Placement) uuid.UUID { return x.SiteID })
		if r.siteRows, err = store.Where[store.Site](t, "id", at, "lower(name)"); err != nil {
			return err
		}
		at = append(append(at, stood...), set(r.facts.Units, func(x store.Unit) uuid.UUID { return x.ID })...)
		if factors, err = store.Where[store.SiteFactor](t, "coalesce(site_id, placement_id, unit_id)", at, factorOrder); err != nil {
			return err
		}
	}
	r.sites = store.Index(r.siteRows, func(x store.Site) uuid.UUID { return x.ID })
	r.placements = store.Index(r.placementRows, func(x store.Placement) uuid.UUID { return x.ID })
	r.placeFactors(factors)
	return nil
}

// placeFactors sorts factors by where they are at work.
func (r *register) placeFactors(factors []store.SiteFactor) {
	r.factorsAt = map[uuid.UUID][]store.SiteFactor{}
	for _, f := range factors {
		for _, at := range []*uuid.UUID{f.SiteID, f.PlacementID, f.UnitID} {
			if at != nil {
				r.factorsAt[*at] = append(r.factorsAt[*at], f)
			}
		}
	}
}

const factorOrder = "lower(valid) NULLS FIRST, id"

// set lists the different keys of some rows.
func set[T any](rows []T, key func(T) uuid.UUID) []uuid.UUID {
	seen := map[uuid.UUID]bool{}
	out := []uuid.UUID{}
	for _, r := range rows {
		if k := key(r); !seen[k] {
			seen[k] = true
			out = append(out, k)
		}
	}
	return out
}

// dossier is one unit with what the core makes of it.
type dossier struct {
	unit      store.Unit
	class     store.EquipmentClass
	site      store.Site
	placement store.Placement
	factors   []factorAtWork
	pauses    []store.UnitPause
	today     calendar.Day
	coils     []coilDossier
}

type factorAtWork struct {
	store.SiteFactor
	def   store.FactorDef
	scope contract.FactorScope
}

type coilDossier struct {
	store.Coil
	sides []sideDossier
	tasks []taskDossier
	// worst is the side with the most soil expected today; -1 when none is known.
	worst int
	// blocked is all sides together by face area; sides are parallel paths.
	blocked float64
	// method of the newest treatment.
	method string
	// light and deep are how the coil is usually cleaned; taskRows its clocks.
	light, deep work
	taskRows    []store.Task
}

type sideDossier struct {
	store.Surface
	kind    store.SoilKind
	history soil.History
	trace   soil.Trace
	looks   []sideLook
	k       float64
	leading *store.FactorDef
	// rate learned, and where it comes from.
	rate       learn.Rate
	from       string
	fromPeers  bool
	peerReason reason.Reason
}

// sideLook is an observation with its date.
type sideLook struct {
	day   calendar.Day
	phase string
	soil.Finding
}

type taskDossier struct {
	store.Task
	due      interval.Due
	last     *calendar.Day
	quality  interval.LastClean
	result   interval.Result
	evidence string // hash of what the result rests on, without the interval in force
	open     *store.Proposal
	ahead    outlooks
	wait     float64 // price of a week beyond the due day
	setBy    string  // the school that set the interval in force
	coreSeen bool    // somebody looked through the core lately
}

// site and placement where the unit stands on a day; the last stay when none covers it.
func (r *register) standing(unit uuid.UUID, today calendar.Day) (store.Site, store.Placement) {
	var at store.UnitStay
	for _, s := range r.stays[unit] {
		at = s
		if s.During.Holds(today) {
			break
		}
	}
	p := r.placements[at.PlacementID]
	return r.sites[p.SiteID], p
}

// dossier assembles a unit and has the core work on it.
func (s *Service) dossier(r *register, u store.Unit) (dossier, error) {
	d := s.placed(r, u)
	for _, c := range r.coils[u.ID] {
		coil, err := s.coilDossier(r, d, c)
		if err != nil {
			return d, fmt.Errorf("%s, %s: %w", u.Tag, c.Role, err)
		}
		d.coils = append(d.coils, coil)
	}
	return d, nil
}

// placed is a unit with where it stands and what is at work there, its coils not yet looked at.
func (s *Service) placed(r *register, u store.Unit) dossier {
	d := dossier{unit: u, class: r.classByID[u.ClassID]}
	d.site, d.placement = r.standing(u.ID, s.today("UTC"))
	d.today = s.today(d.site.Zone)
	d.pauses = r.pauses[u.ID]
	// What is at work at a place bears on the unit while it stands there.
	for _, stay := range r.stays[u.ID] {
		place := r.placements[stay.PlacementID]
		d.addFactors(r, place.SiteID, contract.FactorScopeSite, stay.During)
		d.addFactors(r, place.ID, contract.FactorScopePlacement, stay.During)
	}
	d.addFactors(r, u.ID, contract.FactorScopeUnit, store.DateRange{})
	return d
}

func (d *dossier) addFactors(r *register, at uuid.UUID, scope contract.FactorScope, during store.DateRange) {
	for _, f := range r.factorsAt[at] {
		both, ok := f.Valid.Overlap(during)
		if !ok {
			continue
		}
		f.Valid = both
		d.factors = append(d.factors, factorAtWork{SiteFactor: f, def: r.factor[f.FactorID], scope: scope})
	}
}

// pausedOn reports whether the unit is out of service on a day.
func (d dossier) pausedOn(day calendar.Day) bool {
	for _, p := range d.pauses {
		if p.During.Holds(day) {
			return true
		}
	}
	return false
}

// pausedDays counts the days out of service in [from, to).
func (d dossier) pausedDays(from, to calendar.Day) int {
	n := 0
	for _, p := range d.pauses {
		if both, ok := p.During.Overlap(store.DateRange{From: &from, To: &to}); ok {
			n += both.To.Sub(*both.From)
		}
	}
	return n
}

func (s *Service) coilDossier(r *register, d dossier, c store.Coil) (coilDossier, error) {
	coil := coilDossier{Coil: c, worst: -1}
	for _, surface := range r.surfaces[c.ID] {
		side, err := r.sideDossier(d, c, surface)
		if err != nil {
			return coil, fmt.Errorf("%s: %w", surface.Name, err)
		}
		coil.sides = append(coil.sides, side)
		if side.trace.Known {
			coil.blocked += surface.AreaShare * side.trace.Now.Blocked()
			if coil.worst < 0 || side.trace.Now.Total() > coil.sides[coil.worst].trace.Now.Total() {
				coil.worst = len(coil.sides) - 1
			}
		}
	}
	for _, v := range r.visits[d.unit.ID] {
		for _, t := range r.treatments[v.ID] {
			if t.CoilID == c.ID {
				coil.method = r.method[t.MethodID].Name
			}
		}
	}
	family := soil.Mixed
	if len(coil.sides) > 0 {
		family = soil.Family(coil.sides[max(coil.worst, 0)].kind.Family)
	}
	coil.taskRows = r.tasks[c.ID]
	coil.light, coil.deep = r.usualWork(d, c, string(contract.TaskKindLight), family), r.usualWork(d, c, string(contract.TaskKindDeep), family)
	for _, t := range r.tasks[c.ID] {
		task, err := r.taskDossier(d, coil, t)
		if err != nil {
			return coil, fmt.Errorf("%s clean: %w", t.Kind, err)
		}
		coil.tasks = append(coil.tasks, task)
	}
	return coil, nil
}

// factorOn combines the factors in force on a day and names the largest.
func (d dossier) factorOn(day calendar.Day) (float64, *store.FactorDef) {
	var all []float64
	var leading *store.FactorDef
	for i, f := range d.factors {
		if !f.Valid.Holds(day) {
			continue
		}
		all = append(all, f.def.Multiplier)
		if leading == nil || f.def.Multiplier > leading.Multiplier {
			leading = &d.factors[i].def
		}
	}
	return soil.CombineFactors(all), leading
}

// changeDays lists the days on which a factor or a pause begins or ends, from a day on, that day first.
func (d dossier) changeDays(from calendar.Day) []calendar.Day {
	days := []calendar.Day{from}
	add := func(r store.DateRange) {
		for _, at := range []*calendar.Day{r.From, r.To} {
			if at != nil && *at > from {
				days = append(days, *at)
			}
		}
	}
	for _, f := range d.factors {
		add(f.Valid)
	}
	for _, p := range d.pauses {
		add(p.During)
	}
	sort.Slice(days, func(i, j int) bool { return days[i] < days[j] })
	unique := days[:1]
	for _, day := range days[1:] {
		if day != unique[len(unique)-1] {
			unique = append(unique, day)
		}
	}
	return unique
}

// start is where the histories of a coil's sides begin.
func (d dossier) start(c store.Coil) soil.Start {
	day := store.DayOf(c.StartDay)
	switch {
	case c.StartQuality == string(interval.Exact) && day != nil:
		return soil.Start{Quality: soil.StartExact, Day: *day}
	case c.StartQuality == string(interval.About) && day != nil:
		return soil.Start{Quality: soil.StartAbout, Day: *day}
	case c.StartQuality == string(interval.Never) && d.unit.Commissioned != nil:
		return soil.Start{Quality: soil.StartExact, Day: d.unit.Commissioned.Day()}
	}
	return soil.Start{Quality: soil.StartUnknown}
}

func (r *register) sideDossier(d dossier, c store.Coil, surface store.Surface) (sideDossier, error) {
	side := sideDossier{Surface: surface}
	start := d.start(c)
	side.kind = r.mainSoil(d, surface.ID)
	from := d.today
	if start.Quality != soil.StartUnknown {
		from = start.Day
	}
	var visits []soil.Visit
	for _, v := range r.visits[d.unit.ID] {
		day := v.Day.Day()
		if !r.reached[[2]uuid.UUID{v.ID, surface.ID}].Reached || (start.Quality != soil.StartUnknown && day < start.Day) || day > d.today {
			continue
		}
		from = min(from, day)
		visit := soil.Visit{Day: day, GraderSigma: r.graderOf(v.ID), ReadingShare: r.readingShare(d, c, v.ID)}
		for _, f := range r.findings[[2]uuid.UUID{v.ID, surface.ID}] {
			look := soil.Finding{Grade: soil.Grade(f.Grade), Seen: soil.Seen(f.Seen)}
			switch f.Phase {
			case phaseOpenedUp:
				visit.Found = &look
			case phaseAsLeft:
				visit.Left = &look
			default:
				continue
			}
			side.looks = append(side.looks, sideLook{day: day, phase: f.Phase, Finding: look})
		}
		family := r.familyFound(v.ID, surface.ID, side.kind)
		for _, t := range r.treatments[v.ID] {
			if r.treated[t.ID][surface.ID] {
				visit.Cleans = append(visit.Cleans, r.removal[t.MethodID].Removal(family, soil.Direction(t.Direction)))
			}
		}
		visits = append(visits, visit)
	}
	sort.SliceStable(side.looks, func(i, j int) bool {
		a, b := side.looks[i], side.looks[j]
		return a.day < b.day || (a.day == b.day && a.phase == phaseOpenedUp && b.phase == phaseAsLeft)
	})
	side.history = soil.History{Start: start, Conditions: r.conditions(d, from, side.kind), Visits: visits, Until: max(d.today, from)}
	side.k, side.leading = d.factorOn(d.today)
	return side, r.learnSide(d, c, &side)
}

const (
	phaseFirstLook = "first_look"
	phaseOpenedUp  = "opened_up"
	phaseAsLeft    = "as_left"
)

// conditions are the rates and months in force since a day, changing as dated factors begin and end.
func (r *register) conditions(d dossier, from calendar.Day, kind store.SoilKind) []soil.Condition {
	var out []soil.Condition
	for _, day := range d.changeDays(from) {
		k, leading := d.factorOn(day)
		months := kind.MonthWeights
		if leading != nil && leading.MonthWeights != nil {
			months = leading.MonthWeights
		}
		c := soil.Condition{
			From: day, Penetration: kind.Penetration, FanShare: d.class.ReferenceFanShare,
			Rate: soil.StartRate(d.class.ReferenceDays, d.class.ReferenceFanShare, k),
		}
		if d.pausedOn(day) {
			c.FanShare = 0 // out of service: exposure stands still
		}
		copy(c.Months[:], months)
		if d.site.Lat != nil && *d.site.Lat < 0 {
			c.Months = c.Months.Mirrored()
		}
		out = append(out, c)
	}
	return out
}

// mainSoil is the soil most often found on a side, the newest of equals; else that of the leading factor; else
// the class's usual one.
func (r *register) mainSoil(d dossier, surface uuid.UUID) store.SoilKind {
	count := map[uuid.UUID]int{}
	var best uuid.UUID
	for _, v := range r.visits[d.unit.ID] {
		for _, f := range r.findings[[2]uuid.UUID{v.ID, surface}] {
			for _, fs := range r.findingSoils[f.ID] {
				count[fs.SoilID]++
				if count[fs.SoilID] >= count[best] {
					best = fs.SoilID
				}
			}
		}
	}
	if kind, ok := r.soilByID[best]; ok {
		return kind
	}
	if _, leading := d.factorOn(d.today); leading != nil && leading.SoilCode != nil {
		if kind, ok := r.soilCode[*leading.SoilCode]; ok {
			return kind
		}
	}
	if kind, ok := r.soilCode[d.class.UsualSoil]; ok {
		return kind
	}
	return r.soilCode["mixed"]
}

// familyFound is the family of the soils a visit found on a side; Mixed where they differ.
func (r *register) familyFound(visit, surface uuid.UUID, main store.SoilKind) soil.Family {
	family := soil.Family("")
	for _, f := range r.findings[[2]uuid.UUID{visit, surface}] {
		for _, fs := range r.findingSoils[f.ID] {
			k := soil.Family(r.soilByID[fs.SoilID].Family)
			if family != "" && family != k {
				return soil.Mixed
			}
			family = k
		}
	}
	if family == "" {
		return soil.Family(main.Family)
	}
	return family
}

func (r *register) taskDossier(d dossier, coil coilDossier, t store.Task) (taskDossier, error) {
	task := taskDossier{Task: t}
	k, _ := d.factorOn(d.today)
	in := interval.Task{
		ClassDays: classDays(d.class, t.Kind), ClassMaxDays: d.class.MaxDays, Factor: k,
		InForceDays: t.EveryDays, Limit: r.limit,
	}
	var clocks []interval.Clock
	covered, seen := map[string]bool{}, true
	baseline := store.Index(r.taskSurfaces[t.ID], func(x store.TaskSurface) uuid.UUID { return x.SurfaceID })
	for _, side := range coil.sides {
		base, ok := baseline[side.ID]
		if !ok {
			continue
		}
		covered[side.ID.String()] = true
		if side.Reachable && side.rate.Known {
			seen = seen && coreSeenLately(side)
		}
		clock := interval.Clock{Side: side.Name, Last: store.DayOf(base.LastDay), Quality: interval.LastClean(base.LastQuality)}
		in.Sides = append(in.Sides, interval.Side{Name: side.Name, Runs: r.runs(d, coil, t, side, clock)})
		if last := r.lastReset(d, t.ID, side.ID); last != nil && (clock.Last == nil || *last >= *clock.Last) {
			clock.Last, clock.Quality = last, interval.Exact
		}
		clocks = append(clocks, clock)
		if task.quality == "" || clock.Last == nil || (task.last != nil && *clock.Last < *task.last) {
			task.last, task.quality = clock.Last, clock.Quality
		}
	}
	due, ok := interval.NextDue(clocks, t.EveryDays, d.today)
	if !ok {
		return task, fmt.Errorf("the task covers no side")
	}
	if !due.FirstLook {
		// Days out of service do not count.
		due.Day = due.Day.Add(d.pausedDays(due.Day.Add(-t.EveryDays), d.today))
	}
	if forward := store.DayOf(t.ForwardTo); forward != nil && *forward < due.Day {
		due.Day = *forward // brought forward by hand
	}
	task.due = due
	in.Leads, in.Light, in.CoreSeen, in.Last = r.leads(d), t.Kind == string(contract.TaskKindLight), &seen, task.last
	if t.AnchorMonth != nil {
		in.AnchorMonth = *t.AnchorMonth
	}
	for _, c := range r.caps[t.ID] {
		in.Caps = append(in.Caps, interval.Cap{Kind: interval.CapKind(c.Kind), MostDays: value(c.MostDays), TimesAYear: value(c.TimesAYear), Note: c.Note})
	}
	task.ahead, task.coreSeen = r.ahead(d, coil, t, due.Day, covered), seen
	if task.ahead.known {
		in.Outlook, in.OverNow = &task.ahead.after, task.ahead.overNow()
	}
	var err error
	if task.result, err = interval.Propose(in); err != nil {
		return task, err
	}
	task.wait = task.ahead.waitWeek(task.result.Best, due.Day.Sub(d.today))
	task.evidence = evidenceOf(in, coil)
	task.setBy = string(contract.SchoolHabit)
	if changes := r.changes[t.ID]; len(changes) > 0 {
		task.setBy = changes[0].School
	}
	if p, ok := r.open[t.ID]; ok {
		task.open = &p
	}
	return task, nil
}

// coreSeenLately reports whether one of the last two opened-up looks told something of the core.
func coreSeenLately(side sideDossier) bool {
	n := 0
	for i := len(side.history.Visits) - 1; i >= 0 && n < 2; i-- {
		if f := side.history.Visits[i].Found; f != nil {
			if f.Seen.ShowsCore() {
				return true
			}
			n++
		}
	}
	return false
}

// evidenceOf is the hash of what a proposal rests on: what was found, and what the house wants. The interval in force, the
// day, and what peers say are left out, so that a proposal is not made anew because time goes by.
func evidenceOf(in interval.Task, coil coilDossier) string {
	rests := struct {
		Task   interval.Task
		Visits [][]soil.Visit
		Wanted any
	}{Task: in}
	if in.Outlook != nil {
		rests.Wanted = []any{in.Outlook.Economics, in.Outlook.CleanCost, in.Outlook.OverPrice, in.Outlook.Risk}
	}
	rests.Task.InForceDays, rests.Task.Outlook, rests.Task.OverNow, rests.Task.Last = 0, nil, 0, nil
	for _, s := range coil.sides {
		rests.Visits = append(rests.Visits, s.history.Visits)
	}
	return hashOf(rests)
}

func classDays(c store.EquipmentClass, kind string) int {
	if kind == string(contract.TaskKindLight) && c.LightDays != nil {
		return *c.LightDays
	}
	return c.DeepDays
}

// lastReset is the newest visit that set the clock of a side back.
func (r *register) lastReset(d dossier, task, surface uuid.UUID) *calendar.Day {
	var last *calendar.Day
	set := r.resetVisits(task, surface)
	for _, v := range r.visits[d.unit.ID] {
		if day := v.Day.Day(); set[v.ID] && (last == nil || day >= *last) {
			last = &day
		}
	}
	return last
}

func (r *register) resetVisits(task, surface uuid.UUID) map[uuid.UUID]bool {
	set := map[uuid.UUID]bool{}
	for _, x := range r.resets[[2]uuid.UUID{task, surface}] {
		set[x.VisitID] = true
	}
	return set
}

// runs are the intervals really run on a side under a task. A finding ends a run when its visit set the clock
// back; a look without any work on the side counts for the coil's most frequent task. A last clean known only
// roughly is no dated clean.
func (r *register) runs(d dossier, coil coilDossier, t store.Task, side sideDossier, base interval.Clock) []interval.Run {
	var last *calendar.Day
	if base.Last != nil && (base.Quality == interval.Exact || base.Quality == interval.Never) {
		last = base.Last
	}
	set := r.resetVisits(t.ID, side.ID)
	frequent := r.tasks[coil.ID][0].ID == t.ID // light comes first
	runs := []interval.Run{}
	for _, v := range r.visits[d.unit.ID] {
		day := v.Day.Day()
		if last != nil && day < *last {
			continue
		}
		worked := false
		for _, x := range r.treatments[v.ID] {
			worked = worked || r.treated[x.ID][side.ID]
		}
		for _, f := range r.findings[[2]uuid.UUID{v.ID, side.ID}] {
			if f.Phase == phaseOpenedUp && (set[v.ID] || (!worked && frequent)) {
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

// rateReasons say what made the rate and the state.
func (side sideDossier) rateReasons(class store.EquipmentClass) []reason.Reason {
	out := []reason.Reason{}
	if side.from == rateOwn {
		out = append(out, reason.Reason{
			Code: "rate_own", Evidence: reason.Assumption,
			Numbers: reason.Numbers{
				"rate": side.rate.Rate.P50, "low": side.rate.Rate.P10, "high": side.rate.Rate.P90, "findings": float64(side.rate.Counted),
				"times": side.rate.Rate.P50 / side.rate.Assumed,
			},
		})
	}
	if side.fromPeers {
		r := side.peerReason
		if side.from == ratePeers {
			r.Code = "peers_only"
		}
		out = append(out, r)
	}
	out = append(out, reason.Reason{
		Code: "start_rate", Evidence: reason.Assumption,
		Numbers: reason.Numbers{"rate": side.rate.Assumed, "reference_days": class.ReferenceDays, "factor": side.k},
		Names:   reason.Names{"class": class.Name},
	})
	if side.leading != nil {
		out = append(out, reason.Reason{
			Code: "leading_factor", Evidence: reason.CommonPractice,
			Numbers: reason.Numbers{"multiplier": side.leading.Multiplier}, Names: reason.Names{"factor": side.leading.Name},
		})
	}
	out = append(out, reason.Reason{
		Code: "penetration", Evidence: reason.Assumption,
		Numbers: reason.Numbers{"penetration": side.kind.Penetration, "learned": side.rate.Penetration}, Names: reason.Names{"soil": side.kind.Name},
	})
	for _, r := range side.rate.Reasons {
		switch r.Code {
		case "rate", "first_finding", "core_likely":
		default:
			out = append(out, r)
		}
	}
	if r, ok := levelsOff(side.history.Visits); ok {
		out = append(out, r)
	}
	for _, r := range side.trace.Reasons {
		if r.Code != "core_unseen" {
			out = append(out, r)
		}
	}
	if side.rate.Known && side.rate.CoreSeen == nil {
		out = append(out, reason.Reason{
			Code: "core_unseen", Evidence: reason.Assumption,
			Numbers: reason.Numbers{
				"core_blocked_share": soil.Share(side.rate.State.Core), "low": soil.Share(side.rate.Core.P10), "high": soil.Share(side.rate.Core.P90),
			},
		})
	}
	return out
}
