package service

import (
	"context"
	"errors"
	"fmt"
	"sort"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/exchange"
	"nextround/internal/store"
)

// newUnit is a unit on its way into the register.
type newUnit struct {
	site, placement, setting string
	tag, make, model, note   string
	class                    store.EquipmentClass
	commissioned             *calendar.Day
	coils                    []newCoil
}

type newCoil struct {
	role    string
	quality interval.LastClean
	day     *calendar.Day
}

// intake adds units with their places; it remembers the sites and placements it has made.
type intake struct {
	store.Tenant
	catalogue
	zone       string
	today      calendar.Day
	sites      map[string]store.Site // by lower-case name
	placements map[string]store.Placement
	newSites   []string
	newPlaces  int
	rows       intakeRows
}

type intakeRows struct {
	sites        []store.Site
	placements   []store.Placement
	units        []store.Unit
	stays        []store.UnitStay
	coils        []store.Coil
	surfaces     []store.Surface
	tasks        []store.Task
	taskSurfaces []store.TaskSurface
}

func newIntake(t store.Tenant, zone string, today calendar.Day) (*intake, error) {
	c, err := loadCatalogue(t)
	if err != nil {
		return nil, err
	}
	in := &intake{Tenant: t, catalogue: c, zone: zone, today: today, sites: map[string]store.Site{}, placements: map[string]store.Placement{}}
	sites, err := store.All[store.Site](t, "name")
	if err != nil {
		return nil, err
	}
	for _, s := range sites {
		in.sites[strings.ToLower(s.Name)] = s
	}
	placements, err := store.All[store.Placement](t, "name")
	if err != nil {
		return nil, err
	}
	for _, p := range placements {
		in.placements[placeKey(p.SiteID, p.Name)] = p
	}
	return in, nil
}

func placeKey(site uuid.UUID, name string) string { return site.String() + "/" + strings.ToLower(name) }

func (in *intake) place(u newUnit) store.Placement {
	site, ok := in.sites[strings.ToLower(u.site)]
	if !ok {
		site = store.Site{OrganisationID: in.Org, ID: store.NewID(), Name: u.site, Zone: in.zone, Version: 1}
		in.sites[strings.ToLower(u.site)] = site
		in.newSites = append(in.newSites, u.site)
		in.rows.sites = append(in.rows.sites, site)
	}
	p, ok := in.placements[placeKey(site.ID, u.placement)]
	if !ok {
		p = store.Placement{OrganisationID: in.Org, ID: store.NewID(), SiteID: site.ID, Name: u.placement, Setting: u.setting}
		if p.Setting == "" {
			p.Setting = "unstated"
		}
		in.placements[placeKey(site.ID, u.placement)] = p
		in.newPlaces++
		in.rows.placements = append(in.rows.placements, p)
	}
	return p
}

// add prepares a unit with its coils, sides and clocks from the class's defaults.
func (in *intake) add(u newUnit) uuid.UUID {
	place := in.place(u)
	row := store.Unit{
		OrganisationID: in.Org, ID: store.NewID(), Tag: u.tag, ClassID: u.class.ID, Make: u.make, Model: u.model,
		Status: "in_service", Commissioned: store.DateOf(u.commissioned), Note: u.note, Version: 1,
	}
	in.rows.units = append(in.rows.units, row)
	in.rows.stays = append(in.rows.stays, store.UnitStay{
		OrganisationID: in.Org, ID: store.NewID(), UnitID: row.ID, PlacementID: place.ID, During: store.DateRange{From: u.commissioned},
	})
	for _, c := range u.coils {
		in.addCoil(u, row, c)
	}
	return row.ID
}

func (in *intake) addCoil(u newUnit, row store.Unit, c newCoil) {
	coil := store.Coil{
		OrganisationID: in.Org, ID: store.NewID(), UnitID: row.ID, Role: c.role,
		StartQuality: string(c.quality), StartDay: store.DateOf(c.day),
	}
	last := c.day
	if c.quality == interval.Never {
		last = u.commissioned
	}
	in.rows.coils = append(in.rows.coils, coil)
	var tasks []store.Task
	if u.class.LightDays != nil {
		tasks = append(tasks, store.Task{Kind: string(contract.Light), EveryDays: *u.class.LightDays})
	}
	tasks = append(tasks, store.Task{Kind: string(contract.Deep), EveryDays: u.class.DeepDays})
	for i := range tasks {
		tasks[i].OrganisationID, tasks[i].ID, tasks[i].UnitID, tasks[i].CoilID, tasks[i].Version = in.Org, store.NewID(), row.ID, coil.ID, 1
	}
	in.rows.tasks = append(in.rows.tasks, tasks...)
	for _, side := range in.sides[u.class.ID] {
		if side.CoilRole != c.role {
			continue
		}
		surface := store.Surface{
			OrganisationID: in.Org, ID: store.NewID(), CoilID: coil.ID, Name: side.Name, Position: side.Position, AreaShare: side.AreaShare,
		}
		in.rows.surfaces = append(in.rows.surfaces, surface)
		for _, task := range tasks {
			in.rows.taskSurfaces = append(in.rows.taskSurfaces, store.TaskSurface{
				OrganisationID: in.Org, TaskID: task.ID, SurfaceID: surface.ID, LastDay: store.DateOf(last), LastQuality: string(c.quality),
			})
		}
	}
}

// store writes what was prepared.
func (in *intake) store() error {
	r := in.rows
	return errors.Join(
		store.Insert(in.Tenant, r.sites...), store.Insert(in.Tenant, r.placements...), store.Insert(in.Tenant, r.units...),
		store.Insert(in.Tenant, r.stays...), store.Insert(in.Tenant, r.coils...), store.Insert(in.Tenant, r.surfaces...),
		store.Insert(in.Tenant, r.tasks...), store.Insert(in.Tenant, r.taskSurfaces...),
	)
}

// checkCoil reports what is wrong with a coil of a class; empty when nothing is.
func (in *intake) checkCoil(class store.EquipmentClass, c newCoil) (column, why string) {
	roles := in.roles(class.ID)
	names := make([]string, len(roles))
	ok := false
	for i, r := range roles {
		names[i] = string(r)
		ok = ok || names[i] == c.role
	}
	if !ok {
		return "coil role", fmt.Sprintf("%s has no coil %q; it has %s", class.Name, c.role, strings.Join(names, ", "))
	}
	if c.day != nil && *c.day > in.today {
		return "last clean", fmt.Sprintf("%s is in the future", c.day)
	}
	return "", ""
}

// ImportRegister takes in a register file: all rows, or none when any has a problem or dryRun is set.
func (s *Service) ImportRegister(ctx context.Context, a Actor, name string, file []byte, dryRun bool) (contract.ImportReport, error) {
	report := contract.ImportReport{NewSites: []string{}, Problems: []contract.FieldError{}}
	if err := a.only(contract.Manager); err != nil {
		return report, err
	}
	rows, problems := exchange.ReadRegister(file)
	report.Rows = len(rows)
	err := s.tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		in, err := newIntake(t, a.Org.Zone, s.today(a.Org.Zone))
		if err != nil {
			return err
		}
		existing, err := store.All[store.Unit](t, "tag")
		if err != nil {
			return err
		}
		units, more := in.gather(rows, existing)
		problems = append(problems, more...)
		sort.SliceStable(problems, func(i, j int) bool { return problems[i].Line < problems[j].Line })
		for _, p := range problems {
			report.Problems = append(report.Problems, contract.FieldError{
				Pointer: fmt.Sprintf("line %d, %s", p.Line, p.Column), Reason: p.Reason, Line: ptr(p.Line), Column: ptr(p.Column),
			})
		}
		if len(problems) > 0 {
			return nil
		}
		var added []uuid.UUID
		for _, u := range units {
			added = append(added, in.add(u))
		}
		report.NewUnits, report.NewCoils = len(in.rows.units), len(in.rows.coils)
		report.NewPlacements = in.newPlaces
		report.NewSites = append(report.NewSites, in.newSites...)
		if dryRun {
			return nil
		}
		if err := in.store(); err != nil {
			return err
		}
		run := store.ImportRun{
			OrganisationID: t.Org, ID: store.NewID(), At: s.stamp(), AccountID: a.AccountID, FileName: name,
			FileHash: hashOf(file), Rows: len(rows),
		}
		report.Stored = true
		return errors.Join(
			store.Insert(t, run),
			t.Record(s.stamp(), a.AccountID, "import_run", run.ID, "imported", map[string]any{"file": name, "rows": len(rows)}),
			s.refreshProposals(t, added),
		)
	})
	return report, err
}

// gather joins the rows of each tag into units and finds what is wrong with them.
func (in *intake) gather(rows []exchange.RegisterRow, existing []store.Unit) ([]newUnit, []exchange.Problem) {
	taken := map[string]bool{}
	for _, u := range existing {
		taken[strings.ToLower(u.Tag)] = true
	}
	var units []newUnit
	var problems []exchange.Problem
	at, firstLine := map[string]int{}, map[string]int{}
	for _, row := range rows {
		bad := func(column, format string, args ...any) {
			problems = append(problems, exchange.Problem{Line: row.Line, Column: column, Reason: fmt.Sprintf(format, args...)})
		}
		class, ok := in.class(row.Class)
		if !ok {
			if row.Class != "" {
				bad("class", "%q is not a class of the house", row.Class)
			}
			continue
		}
		coil := newCoil{role: row.CoilRole, quality: row.LastClean, day: row.LastDay}
		if column, why := in.checkCoil(class, coil); why != "" {
			bad(column, "%s", why)
		}
		tag := strings.ToLower(row.Tag)
		if taken[tag] {
			bad("tag", "%s is in the register already", row.Tag)
			continue
		}
		i, seen := at[tag]
		if !seen {
			at[tag], firstLine[tag] = len(units), row.Line
			units = append(units, newUnit{site: row.Site, placement: row.Placement, tag: row.Tag, class: class, coils: []newCoil{coil}})
			continue
		}
		u := &units[i]
		switch {
		case !strings.EqualFold(u.site, row.Site):
			bad("site", "%s stands at %s in line %d", row.Tag, u.site, firstLine[tag])
		case !strings.EqualFold(u.placement, row.Placement):
			bad("placement", "%s stands at %s in line %d", row.Tag, u.placement, firstLine[tag])
		case u.class.ID != class.ID:
			bad("class", "%s is a %s in line %d", row.Tag, u.class.Name, firstLine[tag])
		}
		for _, c := range u.coils {
			if c.role == coil.role {
				bad("coil role", "%s has its %s in line %d already", row.Tag, coil.role, firstLine[tag])
			}
		}
		u.coils = append(u.coils, coil)
	}
	return units, problems
}

// AddUnit adds one unit by hand.
func (s *Service) AddUnit(ctx context.Context, a Actor, req contract.NewUnit) (contract.Created, error) {
	var id uuid.UUID
	if err := a.only(contract.Manager); err != nil {
		return contract.Created{}, err
	}
	err := s.tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		in, err := newIntake(t, a.Org.Zone, s.today(a.Org.Zone))
		if err != nil {
			return err
		}
		u, err := in.check(req)
		if err != nil {
			return err
		}
		id = in.add(u)
		if err := in.store(); errors.Is(err, store.ErrDuplicate) {
			return field("/tag", "%s is in the register already", u.tag)
		} else if err != nil {
			return err
		}
		return errors.Join(
			t.Record(s.stamp(), a.AccountID, "unit", id, "added", map[string]any{"tag": u.tag}),
			s.refreshProposals(t, []uuid.UUID{id}),
		)
	})
	return contract.Created{ID: id}, err
}

func (in *intake) check(req contract.NewUnit) (newUnit, error) {
	var bad invalid.Error
	u := newUnit{
		site: strings.TrimSpace(req.Site), placement: strings.TrimSpace(req.Placement), setting: string(value(req.Setting)),
		tag: strings.TrimSpace(req.Tag), make: value(req.Make), model: value(req.Model), note: value(req.Note), commissioned: req.Commissioned,
	}
	for pointer, text := range map[string]string{"/site": u.site, "/placement": u.placement, "/tag": u.tag} {
		if text == "" {
			bad.Addf(pointer, "is empty")
		}
	}
	class, ok := in.class(req.Class)
	if !ok {
		bad.Addf("/class", "%q is not a class of the house", req.Class)
	}
	u.class = class
	clean := newCoil{quality: interval.LastClean(req.LastClean.Quality), day: req.LastClean.Day}
	dated := clean.quality == interval.Exact || clean.quality == interval.About
	switch {
	case dated && clean.day == nil:
		bad.Addf("/last_clean/day", "is needed when the last clean is known")
	case !dated && clean.day != nil:
		bad.Addf("/last_clean/day", "must be empty when the last clean is %s", clean.quality)
	case clean.day != nil && *clean.day > in.today:
		bad.Addf("/last_clean/day", "is in the future")
	case clean.day != nil && u.commissioned != nil && *clean.day < *u.commissioned:
		bad.Addf("/last_clean/day", "is before the unit was commissioned")
	}
	if u.commissioned != nil && *u.commissioned > in.today {
		bad.Addf("/commissioned", "is in the future")
	}
	seen := map[contract.CoilRole]bool{}
	for i, role := range req.CoilRoles {
		clean.role = string(role)
		if column, why := in.checkCoil(class, clean); ok && column == "coil role" {
			bad.Addf(fmt.Sprintf("/coil_roles/%d", i), "%s", why)
		}
		if seen[role] {
			bad.Addf(fmt.Sprintf("/coil_roles/%d", i), "stands twice")
		}
		seen[role] = true
		u.coils = append(u.coils, clean)
	}
	return u, bad.Err()
}

// AddSiteFactor puts a factor to work at a site, placement or unit.
func (s *Service) AddSiteFactor(ctx context.Context, a Actor, req contract.NewSiteFactor) (contract.Created, error) {
	if err := a.only(contract.Manager); err != nil {
		return contract.Created{}, err
	}
	row := store.SiteFactor{
		OrganisationID: a.Org.ID, ID: store.NewID(), FactorID: req.FactorID, Note: strings.TrimSpace(value(req.Note)),
		Valid: store.DateRange{From: &req.From, To: req.To},
	}
	var bad invalid.Error
	if req.To != nil && *req.To <= req.From {
		bad.Addf("/to", "must be later than the first day")
	}
	if far := s.today(a.Org.Zone).Add(366); req.From > far {
		bad.Addf("/from", "lies more than a year ahead")
	}
	if err := bad.Err(); err != nil {
		return contract.Created{}, err
	}
	err := s.tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		if _, err := store.Get[store.FactorDef](t, req.FactorID); err != nil {
			return orField(err, "/factor_id", "is not a factor of the house")
		}
		units, err := s.aim(t, req, &row)
		if err != nil {
			return err
		}
		if err := insertFactor(t, row); err != nil {
			return err
		}
		return errors.Join(
			t.Record(s.stamp(), a.AccountID, "site_factor", row.ID, "added", map[string]any{"from": req.From, "to": req.To}),
			s.refreshProposals(t, units),
		)
	})
	return contract.Created{ID: row.ID}, err
}

func insertFactor(t store.Tenant, row store.SiteFactor) error {
	err := store.Insert(t, row)
	if err != nil && strings.Contains(err.Error(), "exclusion constraint") {
		return field("/from", "this factor is at work here already on some of these days")
	}
	return err
}

// aim points the factor at its place and lists the units it bears on.
func (s *Service) aim(t store.Tenant, req contract.NewSiteFactor, row *store.SiteFactor) ([]uuid.UUID, error) {
	r, err := loadRegister(t, nil)
	if err != nil {
		return nil, err
	}
	known := false
	switch req.Scope {
	case contract.FactorScopeSite:
		_, known = r.sites[req.ScopeID]
		row.SiteID = &req.ScopeID
	case contract.FactorScopePlacement:
		_, known = r.placements[req.ScopeID]
		row.PlacementID = &req.ScopeID
	case contract.FactorScopeUnit:
		row.UnitID = &req.ScopeID
		for _, u := range r.facts.Units {
			known = known || u.ID == req.ScopeID
		}
	}
	if !known {
		return nil, field("/scope_id", "there is no such %s", req.Scope)
	}
	units := []uuid.UUID{}
	for _, u := range r.facts.Units {
		site, place := r.standing(u.ID, s.today("UTC"))
		if req.ScopeID == site.ID || req.ScopeID == place.ID || req.ScopeID == u.ID {
			units = append(units, u.ID)
		}
	}
	return units, nil
}

func orField(err error, pointer, why string) error {
	if errors.Is(err, store.ErrNotFound) {
		return field(pointer, "%s", why)
	}
	return err
}
