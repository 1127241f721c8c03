package demo

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"sort"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/service"
)

// seed of everything that is drawn.
const seed = 20260304

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
	{"manager", "Maintenance manager", contract.Manager},
	{"technician", "Technician, Crew Tern", contract.Technician},
	{"viewer", "Client viewer", contract.Viewer},
}

// Empty fills an empty database with an organisation that has people and a crew but no units: the ground for own
// data until there is a set-up of its own.
func Empty(ctx context.Context, svc *service.Service) error {
	_, _, err := start(ctx, svc, service.NewOrganisation{Name: "Own data", Zone: "UTC", Currency: "EUR", Units: "metric"})
	return err
}

// start makes an organisation with people who can sign in and one crew.
func start(ctx context.Context, svc *service.Service, in service.NewOrganisation) (service.Actor, []uuid.UUID, error) {
	var manager service.Actor
	people := []uuid.UUID{}
	org, err := svc.CreateOrganisation(ctx, in)
	if err != nil {
		return manager, nil, err
	}
	for _, in := range SignIns {
		a, err := svc.CreateMember(ctx, org, in.Person, in.Login, Password, in.Role)
		if err != nil {
			return manager, nil, err
		}
		switch in.Role {
		case contract.Manager:
			manager = a
		case contract.Technician:
			people = append(people, a.Person.ID)
		}
	}
	return manager, people, svc.AddCrew(ctx, manager, "Crew Tern", "07:30", 450, 1, 2, 3, 4, 5)
}

// Load fills an empty database with the demonstration.
func Load(ctx context.Context, svc *service.Service) error {
	manager, people, err := start(ctx, svc, Organisation)
	if err != nil {
		return err
	}
	for _, name := range []string{"Technician, Crew Eider", "Technician, Crew Gannet"} {
		id, err := svc.AddPerson(ctx, manager, name)
		if err != nil {
			return err
		}
		people = append(people, id)
	}
	report, err := svc.ImportRegister(ctx, manager, "hallvik-register.csv", []byte(Register), false)
	if err != nil {
		return err
	}
	if len(report.Problems) > 0 {
		return fmt.Errorf("the demonstration's register has problems: %+v", report.Problems)
	}
	for name, details := range sites {
		if err := svc.DescribeSite(ctx, manager, name, details); err != nil {
			return err
		}
	}
	g := generator{svc: svc, manager: manager, people: people, random: rand.New(rand.NewPCG(seed, 1))} //nolint:gosec // sample data
	return g.run(ctx)
}

// generator lives through the years before the clock.
type generator struct {
	svc     *service.Service
	manager service.Actor
	people  []uuid.UUID
	random  *rand.Rand

	portfolio contract.Portfolio
	cat       contract.Catalogue
	visits    []contract.NewVisit
}

func (g *generator) run(ctx context.Context) (err error) {
	if g.cat, err = g.svc.Catalogue(ctx, g.manager); err != nil {
		return err
	}
	if g.portfolio, err = g.svc.Portfolio(ctx, g.manager); err != nil {
		return err
	}
	if err := g.addFactors(ctx); err != nil {
		return err
	}
	for _, site := range g.portfolio.Sites {
		for _, line := range site.Units {
			if err := g.setInterval(ctx, line); err != nil {
				return err
			}
			unit, err := g.svc.Unit(ctx, g.manager, line.ID)
			if err != nil {
				return err
			}
			if !untouched[unit.Tag] {
				g.live(unit)
			}
		}
	}
	sort.SliceStable(g.visits, func(i, j int) bool { return g.visits[i].Day < g.visits[j].Day })
	return g.svc.LoadHistory(ctx, g.manager, g.visits)
}

func (g *generator) setInterval(ctx context.Context, line contract.UnitLine) error {
	own, ok := ownIntervals[line.Tag]
	if !ok {
		return nil
	}
	for _, task := range line.Coils[0].Tasks {
		if task.Kind == own.kind {
			if _, err := g.svc.SetInterval(ctx, g.manager, task.TaskID, contract.OwnInterval{Days: own.days, Reason: own.reason}); err != nil {
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
		for _, s := range g.portfolio.Sites {
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
		if _, err := g.svc.AddSiteFactor(ctx, g.manager, req); err != nil {
			return fmt.Errorf("%s at %s: %w", f.factor, f.site, err)
		}
	}
	return nil
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
func (g *generator) live(unit contract.Unit) {
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
		c := liveCoil{coil: coil, next: map[contract.TaskKind]calendar.Day{}, day: *coil.StartDay}
		for _, side := range coil.Sides {
			c.sides = append(c.sides, &trueSide{
				Side: side, rate: side.RatePer30Days * tilt * math.Exp(.1*g.random.NormFloat64()),
				penetration: math.Min(.9, kind.Penetration*(.8+.4*g.random.Float64())), why: unreached[unit.Tag][side.Name],
			})
		}
		for _, task := range coil.Tasks {
			c.next[task.Kind] = c.day.Add(g.jitter(task.EveryDays))
		}
		for {
			work, day := c.first()
			if day > today.Add(-3) {
				break
			}
			g.visit(unit, &c, habit, kind, work, day)
		}
	}
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
	work, day := contract.Deep, c.next[contract.Deep]
	// A deep clean that falls due soon after a light one is done in its place.
	if light, ok := c.next[contract.Light]; ok && light.Add(10) < day {
		work, day = contract.Light, light
	}
	return work, day
}

func (g *generator) visit(unit contract.Unit, c *liveCoil, habit habitOf, kind soil.Kind, work contract.TaskKind, day calendar.Day) {
	code, seen, minutes := habit.deep, habit.deepSeen, habit.deepMinutes
	if brushedOnly[unit.Tag] {
		code, seen = habit.light, string(contract.FaceLook)
	} else if work == contract.Light {
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
	treatment := contract.VisitTreatment{Work: work, MethodID: g.method(code), Direction: direction}
	if method.Wet && work == contract.Deep && habit.cleaner != "" {
		g.dose(&treatment, habit)
	}
	req := contract.VisitCoil{CoilID: c.coil.ID}
	missed := false
	for _, s := range c.sides {
		s.State = s.Deposit(s.rate, s.penetration, float64(day.Sub(c.day)))
		side := contract.VisitSide{SurfaceID: s.ID, Reached: s.why == ""}
		if s.why != "" {
			missed, side.WhyNot = true, &s.why
			req.Sides = append(req.Sides, side)
			continue
		}
		side.Found = g.look(s.State, seen)
		side.SoilIds = &[]uuid.UUID{g.soil(kind.Code)}
		s.State = s.Clean(method.Removal(kind.Family, soil.Direction(direction)))
		side.Left = g.look(s.State, seen)
		if side.Left.Grade > side.Found.Grade {
			side.Left.Grade = side.Found.Grade
		}
		req.Sides = append(req.Sides, side)
		treatment.SurfaceIds = append(treatment.SurfaceIds, s.ID)
	}
	req.Treatments = []contract.VisitTreatment{treatment}
	v := contract.NewVisit{
		UnitID: unit.ID, Day: day, Outcome: contract.OutcomeDone, CautionsRead: true, Coils: []contract.VisitCoil{req},
		People: []contract.VisitPerson{{
			PersonID: g.people[g.random.IntN(len(g.people))], Minutes: max(5, minutes+int(math.Round(6*g.random.NormFloat64()))),
		}},
	}
	if missed {
		v.Outcome = contract.OutcomePartly
	}
	g.visits = append(g.visits, v)
	c.day = day
	for _, task := range c.coil.Tasks {
		if task.Kind != contract.Light && work == contract.Light {
			continue
		}
		c.next[task.Kind] = day.Add(g.jitter(task.EveryDays))
	}
}

func (g *generator) dose(t *contract.VisitTreatment, habit habitOf) {
	for _, k := range g.cat.Cleaners {
		if k.Code != habit.cleaner {
			continue
		}
		t.CleanerID = &k.ID
		if habit.waterParts > 0 {
			parts := habit.waterParts
			t.WaterParts = &parts
		}
		t.Amount = &contract.Amount{Value: math.Round(100*habit.litres*(.8+.4*g.random.Float64())) / 100, Unit: contract.L}
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
