package demo

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"math/rand/v2"
	"slices"
	"sort"
	"strings"
	"time"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/soil"
	"nextround/core/workplan"
	"nextround/internal/contract"
	"nextround/internal/importing"
	"nextround/internal/organisation"
	"nextround/internal/register"
	"nextround/internal/rooms"
	"nextround/internal/standin"
	"nextround/internal/store"
)

// seed of everything that is drawn.
const seed = 20260304

// planSteps are what the demonstration's plan is searched for.
const planSteps = 600

// todaySteps are what the round of the demonstration's day is searched for.
const todaySteps = 200

// How the invented truth lies about what class and factors suggest: half as fast in the middle, with the
// scatter of a grader's eye in log load and of a unit's rate in log rate.
const (
	graderScatter = .245
	rateMiddle    = .45
	rateScatter   = .45
)

// SignIn is an account of the demonstration.
type SignIn struct {
	Login, Person string
	Role          contract.Role
}

// SignIns are the accounts of the demonstration.
var SignIns = []SignIn{
	{"manager", "Maintenance manager", contract.RoleManager},
	{"technician", technicianTern, contract.RoleTechnician},
	{"eider", technicianEider, contract.RoleTechnician},
	{"gannet", technicianGannet, contract.RoleTechnician},
	{"viewer", "Client viewer", contract.RoleViewer},
}

// Load fills an empty database with the demonstration.
func Load(ctx context.Context, svc *rooms.Rooms) error {
	_, err := Live(ctx, svc)
	return err
}

// Live is Load, and gives what only the simulated gauge set is told: the soil that units truly carry at the clock.
func Live(ctx context.Context, svc *rooms.Rooms) ([]standin.Unit, error) {
	g := generator{svc: svc, people: map[string]uuid.UUID{}, random: rand.New(rand.NewPCG(seed, 1)), hidden: map[string]float64{}} //nolint:gosec // sample data
	if err := g.begin(ctx); err != nil {
		return nil, err
	}
	if err := g.run(ctx); err != nil {
		return nil, err
	}
	return g.gauged(ctx)
}

// begin makes the organisation, its people and crews, and takes its register in.
func (g *generator) begin(ctx context.Context) error {
	svc := g.svc
	org, err := svc.Organisation.CreateOrganisation(ctx, Organisation)
	if err != nil {
		return err
	}
	for _, in := range SignIns {
		a, err := svc.Organisation.CreateMember(ctx, org, in.Person, in.Login, Password, in.Role)
		if err != nil {
			return err
		}
		g.people[in.Person] = a.Person.ID
		if in.Role == contract.RoleManager {
			g.manager = a
		}
	}
	for _, c := range crews {
		kit := []string{"ladder", "brush and vacuum", "tank sprayer"}
		card := contract.CrewCard{
			Name: c.name, People: &c.people, TankL: &c.tankL, Skills: &c.skills, Kit: &kit, OvertimeMinutes: new(45),
			Members: &[]contract.CrewMember{{PersonID: g.people["Technician, "+c.name]}},
			Mail:    text(strings.ToLower(strings.ReplaceAll(c.name, " ", "-")) + "@hallvik.example"),
		}
		for _, day := range c.days {
			card.Hours = append(card.Hours, contract.CrewHours{Weekday: int(day), Starts: c.starts, Minutes: c.minutes})
		}
		if _, err := svc.Planning.SaveCrew(ctx, g.manager, nil, card); err != nil {
			return err
		}
	}
	run, err := svc.Importing.Import(ctx, g.manager, importing.Request{Kind: "register", FileName: "hallvik-register.csv", File: Register})
	if err != nil {
		return err
	}
	if run.Status != "stored" {
		return fmt.Errorf("the demonstration's register is %s: %+v", run.Status, run.Report.Problems)
	}
	return nil
}

// generator lives through the years before the clock.
type generator struct {
	svc     *rooms.Rooms
	manager organisation.Actor
	people  map[string]uuid.UUID
	random  *rand.Rand

	sites  []contract.SiteLine
	units  []contract.PortfolioRow // one for each unit
	cat    contract.Catalogue
	visits []contract.NewVisit
	// hidden is the share that a unit's worst coil truly is blocked at the clock.
	hidden map[string]float64
	wheel  int // grade of the fouling wheel
}

func (g *generator) run(ctx context.Context) (err error) {
	if g.cat, err = g.svc.Organisation.Catalogue(ctx, g.manager); err != nil {
		return err
	}
	if g.sites, err = g.svc.Register.Sites(ctx, g.manager); err != nil {
		return err
	}
	page, err := g.svc.Register.Portfolio(ctx, g.manager, register.PortfolioQuery{Limit: 500})
	if err != nil {
		return err
	}
	seen := map[uuid.UUID]bool{}
	for _, row := range page.Rows {
		if !seen[row.UnitID] {
			seen[row.UnitID] = true
			g.units = append(g.units, row)
		}
	}
	for _, step := range []func(context.Context) error{g.describeSites, g.stock, g.addFactors, g.describeUnits, g.liveAll, g.remark, g.tick, g.watch, g.complain, g.photograph, g.changeIntervals, g.baseCrews} {
		if err := step(ctx); err != nil {
			return err
		}
	}
	if err := g.sendOutToday(ctx); err != nil {
		return err
	}
	if err := g.logCallOuts(ctx); err != nil {
		return err
	}
	return g.plan(ctx)
}

// sendOutToday publishes the round that Crew Tern is on today: it works an extra day, planned yesterday.
func (g *generator) sendOutToday(ctx context.Context) error {
	now := g.svc.Now()
	yesterday := rooms.New(g.svc.Store, rooms.Options{Now: func() time.Time { return now.Add(-24 * time.Hour) }, ClockPinned: true, Forecasts: Weather})
	defer yesterday.Close()
	records, err := yesterday.Planning.Crews(ctx, g.manager)
	if err != nil {
		return err
	}
	tern := records[slices.IndexFunc(records, func(r contract.CrewRecord) bool { return r.Card.Name == crews[0].name })]
	usual := tern.Card.Hours
	extra := contract.CrewHours{Weekday: int(now.Weekday()), Starts: "07:30", Minutes: crews[0].minutes}
	tern.Card.Hours = append(slices.Clone(usual), extra)
	if tern, err = yesterday.Planning.SaveCrew(ctx, g.manager, &tern.ID, tern.Card); err != nil {
		return err
	}
	plan, err := yesterday.Planning.MakePlan(ctx, g.manager, contract.NewPlan{Iterations: new(todaySteps), Seed: new(7), Weeks: new(1)})
	if err != nil {
		return err
	}
	day := contract.CrewDay{CrewID: tern.ID, Day: calendar.Of(now)}
	if _, err := yesterday.Planning.PublishRounds(ctx, g.manager, store.NewID(), contract.Publication{Version: plan.Version, Rounds: []contract.CrewDay{day}}); err != nil {
		return err
	}
	tern.Card.Hours = usual
	_, err = yesterday.Planning.SaveCrew(ctx, g.manager, &tern.ID, tern.Card)
	return err
}

// plan plans the coming weeks: so many steps, not so long a time, so that the demonstration is the same everywhere.
func (g *generator) plan(ctx context.Context) error {
	_, err := g.svc.Planning.MakePlan(ctx, g.manager, contract.NewPlan{Iterations: new(planSteps), Seed: new(7)})
	return err
}

// baseCrews says where crews start from, which the register has to know first.
func (g *generator) baseCrews(ctx context.Context) error {
	site := map[string]uuid.UUID{}
	for _, x := range g.sites {
		site[x.Name] = x.ID
	}
	records, err := g.svc.Planning.Crews(ctx, g.manager)
	if err != nil {
		return err
	}
	for _, r := range records {
		for _, c := range crews {
			if c.name == r.Card.Name {
				r.Card.BaseSiteID = new(site[c.base])
			}
		}
		if _, err := g.svc.Planning.SaveCrew(ctx, g.manager, &r.ID, r.Card); err != nil {
			return err
		}
	}
	return nil
}

// describeSites fills in what the register file does not say of the sites.
func (g *generator) describeSites(ctx context.Context) error {
	for _, line := range g.sites {
		in, ok := sites[line.Name]
		if !ok {
			return fmt.Errorf("nothing is known of %s", line.Name)
		}
		record, err := g.svc.Register.Site(ctx, g.manager, line.ID)
		if err != nil {
			return err
		}
		card := record.Card
		card.Code, card.Address, card.Contact, card.Keys, card.WaterNote = &in.code, &in.address, &in.contact, &in.keys, &in.water
		card.Water = new(contract.YesNoYes)
		card.Mail = text(strings.ToLower(in.code) + "@hallvik.example")
		card.Power, card.AccessNote, card.Lat, card.Lon = &in.power, &in.access, &in.lat, &in.lon
		card.Climate = new(contract.CoolCoast)
		card.Windows, card.Holidays = &in.windows, &in.holidays
		for i, p := range *card.Placements {
			place := &(*card.Placements)[i]
			place.Water = new(contract.YesNoYes)
			place.NearFood, place.Occupied, place.WallBacked = nearFood[p.Name], peopled[p.Name], wallBacked[p.Name]
			if dry[p.Name] {
				place.Water = new(contract.YesNoNo)
			}
			if drain, ok := drains[[2]string{line.Name, p.Name}]; ok {
				place.Drain, place.DrainNote = &drain.there, &drain.note
			}
		}
		if _, err := g.svc.Register.SaveSite(ctx, g.manager, line.ID, contract.SiteChange{Version: record.Version, Card: card}); err != nil {
			return fmt.Errorf("%s: %w", line.Name, err)
		}
		for _, e := range events {
			if e.site != line.Name {
				continue
			}
			event := contract.NewFactorEvent{Kind: e.kind, Day: calendar.MustParse(e.day), Note: text(e.note)}
			if _, err := g.svc.Register.AddFactorEvent(ctx, g.manager, line.ID, event); err != nil {
				return err
			}
		}
	}
	return nil
}

// describeUnits fills in access, parts, sides and intervals of their own.
func (g *generator) describeUnits(ctx context.Context) error {
	for _, line := range g.units {
		access, hasAccess := accessOf[line.Tag]
		parts, hasParts := partsOf[line.Tag]
		if hasAccess || hasParts || renamed[line.Tag] != nil {
			record, err := g.svc.Register.UnitCard(ctx, g.manager, line.UnitID)
			if err != nil {
				return err
			}
			card := record.Card
			if hasAccess {
				card.Access = access
			}
			if hasParts {
				card.Parts = parts
			}
			for i := range card.Coils {
				for k := range card.Coils[i].Sides {
					side := &card.Coils[i].Sides[k]
					if name, ok := renamed[line.Tag][side.Name]; ok {
						side.Name = name
					}
					if why, ok := unreached[line.Tag][side.Name]; ok {
						side.Reachable, side.WhyNot = false, why
					}
				}
			}
			if _, err := g.svc.Register.SaveUnitCard(ctx, g.manager, line.UnitID, contract.UnitChange{Version: record.Version, Card: card}); err != nil {
				return fmt.Errorf("%s: %w", line.Tag, err)
			}
		}
		if err := g.setInterval(ctx, line); err != nil {
			return err
		}
	}
	return nil
}

func (g *generator) setInterval(ctx context.Context, line contract.PortfolioRow) error {
	own, ok := ownIntervals[line.Tag]
	if !ok {
		return nil
	}
	return g.setOn(ctx, own, line.Coil.Tasks)
}

// changeIntervals sets the intervals that change at the end of the years, on each coil of their units.
func (g *generator) changeIntervals(ctx context.Context) error {
	for _, line := range g.units {
		own, ok := newIntervals[line.Tag]
		if !ok {
			continue
		}
		unit, err := g.svc.Learning.Unit(ctx, g.manager, line.UnitID)
		if err != nil {
			return err
		}
		for _, coil := range unit.Coils {
			for _, task := range coil.Tasks {
				if task.Kind != own.kind {
					continue
				}
				if _, err := g.svc.Learning.SetInterval(ctx, g.manager, task.TaskID, contract.OwnInterval{Days: own.days, Reason: own.reason}); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

func (g *generator) setOn(ctx context.Context, own ownInterval, tasks []contract.TaskLine) error {
	for _, task := range tasks {
		if task.Kind == own.kind {
			if _, err := g.svc.Learning.SetInterval(ctx, g.manager, task.TaskID, contract.OwnInterval{Days: own.days, Reason: own.reason}); err != nil {
				return err
			}
		}
	}
	return nil
}

func (g *generator) addFactors(ctx context.Context) error {
	for _, f := range factors {
		req := contract.NewSiteFactor{Scope: contract.FactorScopeSite, From: calendar.MustParse(f.from), Note: &f.note}
		for _, d := range g.cat.Factors {
			if d.Code == f.factor {
				req.FactorID = d.ID
			}
		}
		for _, s := range g.sites {
			if s.Name != f.site {
				continue
			}
			req.ScopeID = s.ID
			for _, p := range s.Placements {
				if p.Name == f.placement {
					req.Scope, req.ScopeID = contract.FactorScopePlacement, p.ID
				}
			}
		}
		if f.to != "" {
			to := calendar.MustParse(f.to)
			req.To = &to
		}
		if _, err := g.svc.Register.AddSiteFactor(ctx, g.manager, req); err != nil {
			return fmt.Errorf("%s at %s: %w", f.factor, f.site, err)
		}
	}
	return nil
}

// liveAll lives through the years of all units and stores the visits.
func (g *generator) liveAll(ctx context.Context) error {
	for _, line := range g.units {
		unit, err := g.svc.Learning.Unit(ctx, g.manager, line.UnitID)
		if err != nil {
			return err
		}
		if !untouched[unit.Tag] {
			if err := g.live(ctx, unit); err != nil {
				return err
			}
		}
	}
	sort.SliceStable(g.visits, func(i, j int) bool { return g.visits[i].Day < g.visits[j].Day })
	return nil
}

// remark writes notes on the visits nearest before their days, and stores all visits.
func (g *generator) remark(ctx context.Context) error {
	tag := map[uuid.UUID]string{}
	for _, line := range g.units {
		tag[line.UnitID] = line.Tag
	}
	for _, r := range remarks {
		before := calendar.MustParse(r.before)
		for i := len(g.visits) - 1; i >= 0; i-- {
			if tag[g.visits[i].UnitID] == r.tag && g.visits[i].Day < before {
				g.visits[i].Note = text(r.note)
				break
			}
		}
	}
	return g.svc.Fieldwork.LoadHistory(ctx, g.manager, g.visits)
}

// tick has the canteen's staff wipe the grilles of the bar coolers each week, but in the holidays.
func (g *generator) tick(ctx context.Context) error {
	for _, line := range g.units {
		if line.Site != "Crew Canteen" {
			continue
		}
		unit, err := g.svc.Learning.Unit(ctx, g.manager, line.UnitID)
		if err != nil {
			return err
		}
		for _, c := range unit.Companions {
			if c.Kind != contract.CompanionKind("grille") {
				continue
			}
			for day := calendar.MustParse("2025-10-06"); day < calendar.Of(Clock); day = day.Add(7) {
				if day >= calendar.MustParse("2025-12-22") && day < calendar.MustParse("2026-01-05") {
					continue // winter break
				}
				if _, err := g.svc.Fieldwork.Tick(ctx, g.manager, c.ID, contract.NewTick{Day: day}); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// photograph keeps two drawn pictures of an end plate with the roof unit that is watched.
func (g *generator) photograph(ctx context.Context) error {
	for _, line := range g.units {
		if line.Tag != "FN-PU-2" {
			continue
		}
		for i, name := range []string{"end plate 2024", "end plate 2025"} {
			content, err := endPlate(40+6*i, rand.New(rand.NewPCG(seed, 7))) //nolint:gosec // sample data
			if err != nil {
				return err
			}
			_, err = g.svc.Organisation.AddAttachment(ctx, g.manager, organisation.NewAttachment{
				Entity: "unit", EntityID: line.UnitID, Kind: "photo", Name: name, Content: content,
			})
			if err != nil {
				return err
			}
		}
	}
	return nil
}

// endPlate draws a metal plate with greenish specks.
func endPlate(specks int, random *rand.Rand) ([]byte, error) {
	const w, h = 480, 320
	picture := image.NewRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			shade := uint8(176 + 20*math.Sin(float64(y)/9) + 6*random.Float64()) //nolint:gosec // within a byte
			if x%48 < 3 {
				shade -= 40
			}
			picture.Set(x, y, color.RGBA{shade, shade, shade - 6, 255})
		}
	}
	for range specks {
		x, y, r := random.IntN(w), random.IntN(h), 2+random.IntN(4)
		for dy := -r; dy <= r; dy++ {
			for dx := -r; dx <= r; dx++ {
				if dx*dx+dy*dy <= r*r {
					picture.Set(x+dx, y+dy, color.RGBA{96, 146, 112, 255})
				}
			}
		}
	}
	var out bytes.Buffer
	err := png.Encode(&out, picture)
	return out.Bytes(), err
}

// trueSide is the hidden state of one side.
type trueSide struct {
	contract.Side
	soil.State
	rate        float64
	penetration float64
	why         string // it is never reached
}

// liveCoil is a coil living through its visits.
type liveCoil struct {
	coil  contract.Coil
	sides []*trueSide
	next  map[contract.TaskKind]calendar.Day
	day   calendar.Day
}

// live sends the crews to a unit on its habits until the clock.
func (g *generator) live(ctx context.Context, unit contract.Unit) error {
	pack, err := g.svc.Fieldwork.VisitPack(ctx, g.manager, unit.ID)
	if err != nil {
		return err
	}
	facts := map[uuid.UUID]workplan.Input{}
	for _, c := range pack.Coils {
		facts[c.CoilID] = c.Advice
	}
	class := g.class(unit.Class)
	habit := habits[class.Code]
	kind, _ := soil.KindByCode(habit.soil)
	tilt, set := truth[unit.Tag]
	if !set {
		tilt = rateMiddle * math.Exp(rateScatter*g.random.NormFloat64())
	}
	today := calendar.Of(Clock)
	for _, coil := range unit.Coils {
		if coil.StartDay == nil {
			continue
		}
		habit, err := lawful(habit, facts[coil.ID])
		if err != nil {
			return err
		}
		c := liveCoil{coil: coil, next: map[contract.TaskKind]calendar.Day{}, day: *coil.StartDay}
		for _, side := range coil.Sides {
			c.sides = append(c.sides, &trueSide{
				Side: side, rate: side.RatePer30Days * tilt * math.Exp(.1*g.random.NormFloat64()),
				penetration: math.Min(.9, kind.Penetration*(.8+.4*g.random.Float64())), why: unreached[unit.Tag][side.Name],
			})
		}
		for _, task := range coil.Tasks {
			if task.Kind == contract.TaskKindDeep && lightOnly[unit.Tag] {
				continue
			}
			c.next[task.Kind] = c.day.Add(g.jitter(task.EveryDays))
		}
		for {
			work, day := c.first()
			if last, ok := lastVisit[unit.Tag]; day > today.Add(-3) || (ok && day > last.Add(-20)) {
				break
			}
			g.visit(unit, &c, habit, kind, work, day)
		}
		if day, ok := lastVisit[unit.Tag]; ok && day > c.day {
			g.visit(unit, &c, habit, kind, contract.TaskKindLight, day)
		}
		blocked := 0.0
		for _, side := range c.sides {
			blocked += side.AreaShare * g.grow(unit.Tag, side, c.day, today).Blocked()
		}
		g.hidden[unit.Tag] = math.Max(g.hidden[unit.Tag], blocked)
	}
	return nil
}

// otherWays are what crews do where the class's habit is not allowed, the likest first.
var otherWays = []habitOf{
	{deep: "foam_rinse", cleaner: "mild_detergent", waterParts: 30},
	{deep: "wall_washer", cleaner: "indoor_neutral"},
	{deep: "tank_sprayer", cleaner: "medium_universal", waterParts: 6},
	{deep: "tank_sprayer", cleaner: "indoor_neutral"},
	{deep: "tank_sprayer", cleaner: "mild_detergent", waterParts: 30},
	{deep: "out_and_washed", cleaner: "mild_detergent", waterParts: 30, out: true},
	{deep: "tank_sprayer", cleaner: "mild_detergent", waterParts: 30, out: true},
	{deep: "brush_vacuum"},
}

// lawful is a habit with its deep clean as the rules allow it at a coil.
func lawful(h habitOf, in workplan.Input) (habitOf, error) {
	in.Work = workplan.DeepWork
	for _, way := range append([]habitOf{h}, otherWays...) {
		use := workplan.Use{Method: way.deep, Cleaner: way.cleaner}
		if way.out {
			use.Where = workplan.TakenOut
		}
		ban, err := workplan.BanOn(in, use)
		if err != nil {
			return h, err
		}
		if ban == nil || !ban.Hard {
			h.dried = h.cleaner != "" && way.cleaner == ""
			h.deep, h.cleaner, h.waterParts, h.out = way.deep, way.cleaner, way.waterParts, way.out
			return h, nil
		}
	}
	return h, fmt.Errorf("nothing is allowed at a coil of %s", h.deep)
}

// grow is the state after the days between two visits; a rate that changed between them counts by its days.
func (g *generator) grow(tag string, s *trueSide, from, to calendar.Day) soil.State {
	change, ok := turned[tag]
	if !ok || change.day >= to {
		return s.Deposit(s.rate, s.penetration, float64(to.Sub(from)))
	}
	at := max(change.day, from)
	return s.Deposit(s.rate, s.penetration, float64(at.Sub(from))).Deposit(change.times*s.rate, s.penetration, float64(to.Sub(at)))
}

func (g *generator) class(name string) contract.ClassChoice {
	for _, c := range g.cat.Classes {
		if c.Name == name {
			return c
		}
	}
	return contract.ClassChoice{}
}

// jitter is how late or early a crew really comes.
func (g *generator) jitter(every int) int {
	return max(5, every+int(math.Round(float64(every)*(.12+.12*g.random.NormFloat64()))))
}

func (c *liveCoil) first() (contract.TaskKind, calendar.Day) {
	deep, ok := c.next[contract.TaskKindDeep]
	if !ok {
		return contract.TaskKindLight, c.next[contract.TaskKindLight]
	}
	work, day := contract.TaskKindDeep, deep
	// A deep clean that falls due soon after a light one is done in its place.
	if light, ok := c.next[contract.TaskKindLight]; ok && light.Add(10) < day {
		work, day = contract.TaskKindLight, light
	}
	return work, day
}

func (g *generator) visit(unit contract.Unit, c *liveCoil, habit habitOf, kind soil.Kind, work contract.TaskKind, day calendar.Day) {
	code, seen, minutes := habit.deep, habit.deepSeen, habit.deepMinutes
	if brushedOnly[unit.Tag] {
		code, seen = habit.light, string(contract.FaceLook)
	} else if work == contract.TaskKindLight {
		code, seen, minutes = habit.light, string(contract.FaceLook), habit.lightMinutes
	}
	method, _ := soil.MethodByCode(code)
	direction := contract.Direction(habit.direction)
	if code == "closed_hose_down" {
		direction = contract.DownwardClosed
	}
	if !method.Driven {
		direction = contract.AlongFins
	}
	crew := []string{technicianTern, technicianEider, technicianGannet}[g.random.IntN(3)]
	treatment := contract.VisitTreatment{Work: work, MethodID: g.method(code), Direction: direction}
	if method.Wet && work == contract.TaskKindDeep && habit.cleaner != "" {
		pours := habit.litres
		if crew == technicianGannet {
			pours *= gannetPours
		}
		g.dose(&treatment, habit, pours)
	}
	if habit.dried && work == contract.TaskKindDeep && !brushedOnly[unit.Tag] {
		g.random.Float64() // what would have been poured: the rest of the sample stays as it was
	}
	if habit.out && work == contract.TaskKindDeep {
		treatment.TakenOut = new(true)
	}
	req := contract.VisitCoil{CoilID: c.coil.ID}
	missed := false
	loosened := g.loosened(unit, method, kind, work)
	for _, s := range c.sides {
		s.State = g.grow(unit.Tag, s, c.day, day)
		side := contract.VisitSide{SurfaceID: s.ID, Reached: s.why == ""}
		if s.why != "" {
			missed, side.WhyNot = true, &s.why
			req.Sides = append(req.Sides, side)
			continue
		}
		side.Found = g.look(s.State, seen)
		side.SoilIds = &[]uuid.UUID{g.soil(kind.Code)}
		if loosened != nil {
			s.State = s.Clean(loosened.Removal(kind.Family, soil.AlongFins))
		}
		s.State = s.Clean(method.Removal(kind.Family, soil.Direction(direction)))
		side.Left = g.look(s.State, seen)
		if side.Left.Grade > side.Found.Grade {
			side.Left.Grade = side.Found.Grade
		}
		req.Sides = append(req.Sides, side)
		treatment.SurfaceIds = append(treatment.SurfaceIds, s.ID)
	}
	req.Treatments = []contract.VisitTreatment{treatment}
	if loosened != nil {
		dry := contract.VisitTreatment{Work: work, MethodID: g.method(loosened.Code), Direction: contract.AlongFins, SurfaceIds: treatment.SurfaceIds}
		req.Treatments = []contract.VisitTreatment{dry, treatment}
	}
	v := contract.NewVisit{
		UnitID: unit.ID, Day: day, Outcome: contract.OutcomeDone, CautionsRead: true, Coils: []contract.VisitCoil{req},
		People: []contract.VisitPerson{{
			PersonID: g.people[crew], Minutes: max(5, minutes+int(math.Round(6*g.random.NormFloat64()))),
		}},
	}
	if missed {
		v.Outcome = contract.OutcomePartly
	}
	if unit.Tag == foulingWheel && work == contract.TaskKindDeep {
		g.wheel = min(g.wheel+1, int(soil.Felt)) // looked at each time, and never washed
		v.Surfaces = &[]contract.PartLook{{Part: contract.UnitPartWheel, Grade: g.wheel}}
	}
	g.visits = append(g.visits, v)
	c.day = day
	for _, task := range c.coil.Tasks {
		if task.Kind != contract.TaskKindLight && (work == contract.TaskKindLight || lightOnly[unit.Tag]) {
			continue
		}
		c.next[task.Kind] = day.Add(g.jitter(task.EveryDays))
	}
}

// loosened is the dry pass before a wet deep clean under the sky: dust that gets wet first is mud. Grease is not brushed.
func (g *generator) loosened(unit contract.Unit, wet soil.Method, kind soil.Kind, work contract.TaskKind) *soil.Method {
	if !wet.Wet || work != contract.TaskKindDeep || kind.Family != soil.DustLike || !outdoorClasses[unit.Class] {
		return nil
	}
	m, _ := soil.MethodByCode("soft_brush")
	return &m
}

func (g *generator) dose(t *contract.VisitTreatment, habit habitOf, litres float64) {
	for _, k := range g.cat.Cleaners {
		if k.Code != habit.cleaner {
			continue
		}
		t.CleanerID = &k.ID
		if habit.waterParts > 0 {
			parts := habit.waterParts
			t.WaterParts = &parts
		}
		t.Amount = &contract.Amount{Value: math.Round(100*litres*(.8+.4*g.random.Float64())) / 100, Unit: contract.AmountUnitL}
		t.EndPoints = &[]contract.EndPoint{contract.ClearRunOff, contract.LightThroughAll}
	}
}

// look is what a grader sees of a state: its load with the scatter of an eye.
func (g *generator) look(s soil.State, seen string) *contract.Look {
	load := s.Face
	if seen == string(contract.LightThrough) {
		load = s.Total()
	}
	load *= math.Exp(graderScatter * g.random.NormFloat64())
	return &contract.Look{Grade: int(soil.GradeOf(soil.Share(load))), Seen: contract.Seen(seen)}
}

func (g *generator) method(code string) uuid.UUID {
	for _, m := range g.cat.Methods {
		if m.Code == code {
			return m.ID
		}
	}
	return uuid.Nil
}

func (g *generator) soil(code string) uuid.UUID {
	for _, k := range g.cat.Soils {
		if k.Code == code {
			return k.ID
		}
	}
	return uuid.Nil
}
