package register

import (
	"errors"
	"fmt"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/interval"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// companionRows are the companion tasks a new unit of a class gets. What is known of the coils' last clean says
// nothing of them.
func companionRows(c organisation.Catalogue, org, unit uuid.UUID, class uuid.UUID, commissioned *calendar.Day) []store.Task {
	var rows []store.Task
	for _, x := range c.ClassTasks[class] {
		row := store.Task{
			OrganisationID: org, ID: store.NewID(), UnitID: unit, Kind: x.Kind, EveryDays: x.EveryDays, Doer: x.Doer, Version: 1,
			LastQuality: string(interval.Unknown),
		}
		if commissioned != nil {
			row.LastDay, row.LastQuality = store.DateOf(commissioned), string(interval.About)
		}
		rows = append(rows, row)
	}
	return rows
}

// newUnit is a unit on its way into the register.
type newUnit struct {
	site, placement, setting        string
	tag, make, model, serial, note  string
	refrigerant, flammable          string
	year                            *int
	chargeKg, capacityKw, energyKwh *float64
	consequence                     *float64
	class                           store.EquipmentClass
	commissioned                    *calendar.Day
	coils                           []newCoil
}

// newCoil is a coil on its way in: what is known of it as its row will say it, and its clocks where they are not the class's.
type newCoil struct {
	store.Coil
	lightDays, deepDays *int
}

// plainCoil is a coil of which nothing is known but when it was last clean.
func plainCoil(role string, quality interval.LastClean, day *calendar.Day) newCoil {
	c := newCoil{Coil: store.UnstatedCoil()}
	c.Role, c.StartQuality, c.StartDay = role, string(quality), store.DateOf(day)
	return c
}

// intake adds units with their places; it remembers the sites and placements it has made.
type intake struct {
	store.Tenant
	organisation.Catalogue
	zone       string
	today      calendar.Day
	sites      map[string]store.Site // by lower-case name
	placements map[placeKey]store.Placement
	newSites   []string
	newPlaces  int
	rows       intakeRows
}

type placeKey struct {
	site uuid.UUID
	name string // in lower case
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

func (s *Service) newIntake(t store.Tenant, a organisation.Actor) (*intake, error) {
	c, err := organisation.LoadCatalogue(t)
	if err != nil {
		return nil, err
	}
	in := &intake{
		Tenant: t, Catalogue: c, zone: a.Org.Zone, today: s.Today(a.Org.Zone), sites: map[string]store.Site{},
		placements: map[placeKey]store.Placement{},
	}
	sites, err := t.SitesSeen()
	if err != nil {
		return nil, err
	}
	for _, s := range sites {
		in.sites[strings.ToLower(s.Name)] = s
	}
	placements, err := t.PlacementsSeen()
	if err != nil {
		return nil, err
	}
	for _, p := range placements {
		in.placements[placeKey{p.SiteID, strings.ToLower(p.Name)}] = p
	}
	return in, nil
}

// place finds the placement or makes it, and the site with it. Those who see some sites only cannot make one.
func (in *intake) place(u newUnit) (store.Placement, error) {
	site, ok := in.sites[strings.ToLower(u.site)]
	if !ok {
		if in.Sites != nil {
			return store.Placement{}, invalid.At("/site", "is not one of your sites")
		}
		site = store.Site{OrganisationID: in.Org, ID: store.NewID(), Name: u.site, Status: "open", Zone: in.zone, Water: unknown, Version: 1}
		in.sites[strings.ToLower(u.site)] = site
		in.newSites = append(in.newSites, u.site)
		in.rows.sites = append(in.rows.sites, site)
	}
	key := placeKey{site.ID, strings.ToLower(u.placement)}
	p, ok := in.placements[key]
	if !ok {
		p = store.Placement{OrganisationID: in.Org, ID: store.NewID(), SiteID: site.ID, Name: u.placement, Setting: u.setting, Water: unknown, Drain: unknown}
		if p.Setting == "" {
			p.Setting = string(contract.SettingUnstated)
		}
		in.placements[key] = p
		in.newPlaces++
		in.rows.placements = append(in.rows.placements, p)
	}
	return p, nil
}

// add prepares a unit with its coils, sides and clocks from the class's defaults.
func (in *intake) add(u newUnit) (uuid.UUID, error) {
	place, err := in.place(u)
	if err != nil {
		return uuid.Nil, err
	}
	id := store.NewID()
	row := store.Unit{
		OrganisationID: in.Org, ID: id, Tag: u.tag, ClassID: u.class.ID, PlacementID: place.ID, Make: u.make, Model: u.model,
		Serial: u.serial, Year: u.year, Refrigerant: u.refrigerant, Flammable: u.flammable, ChargeKg: u.chargeKg, CapacityKw: u.capacityKw, EnergyKwhDay: u.energyKwh,
		ConsequenceCost: u.consequence, FanDrive: string(heat.FixedSpeed), Compressor: string(contract.UnitCompressorFixed),
		Medium: string(contract.UnitMediumRefrigerant), Status: dossier.InService, Commissioned: store.DateOf(u.commissioned), Note: u.note, Version: 1,
		LabelCode: strings.ReplaceAll(uuid.NewString(), "-", ""),
	}
	in.rows.units = append(in.rows.units, row)
	in.rows.stays = append(in.rows.stays, store.UnitStay{
		OrganisationID: in.Org, ID: store.NewID(), UnitID: id, PlacementID: place.ID, During: store.DateRange{From: u.commissioned},
	})
	for _, c := range u.coils {
		in.addCoil(u, row, c)
	}
	in.rows.tasks = append(in.rows.tasks, companionRows(in.Catalogue, in.Org, id, u.class.ID, u.commissioned)...)
	return id, nil
}

func (in *intake) addCoil(u newUnit, row store.Unit, c newCoil) {
	coil := c.Coil
	coil.OrganisationID, coil.ID, coil.UnitID = in.Org, store.NewID(), row.ID
	last := coil.StartDay
	if coil.StartQuality == string(interval.Never) {
		last = store.DateOf(u.commissioned)
	}
	in.rows.coils = append(in.rows.coils, coil)
	var tasks []store.Task
	clock := func(kind contract.TaskKind, class int, own *int) {
		if own != nil {
			class = *own
		}
		tasks = append(tasks, store.Task{
			OrganisationID: in.Org, ID: store.NewID(), UnitID: row.ID, CoilID: &coil.ID, Kind: string(kind), EveryDays: class,
			Doer: "technician", LastQuality: string(interval.Unknown), Version: 1,
		})
	}
	if u.class.LightDays != nil {
		clock(contract.TaskKindLight, *u.class.LightDays, c.lightDays)
	}
	clock(contract.TaskKindDeep, u.class.DeepDays, c.deepDays)
	in.rows.tasks = append(in.rows.tasks, tasks...)
	for _, side := range in.Sides[u.class.ID] {
		if side.CoilRole != c.Role {
			continue
		}
		surface := store.Surface{
			OrganisationID: in.Org, ID: store.NewID(), CoilID: &coil.ID, Kind: "side", Name: side.Name, Position: side.Position,
			AreaShare: side.AreaShare, Reachable: true,
		}
		in.rows.surfaces = append(in.rows.surfaces, surface)
		for _, task := range tasks {
			in.rows.taskSurfaces = append(in.rows.taskSurfaces, store.TaskSurface{
				OrganisationID: in.Org, TaskID: task.ID, SurfaceID: surface.ID, LastDay: last, LastQuality: c.StartQuality,
			})
		}
	}
}

// facts are the rows at hand as facts of the new units, with every place there is.
func (in *intake) facts() store.Facts {
	f := store.Facts{
		Units: in.rows.units, Stays: in.rows.stays, Coils: in.rows.coils, Surfaces: in.rows.surfaces, TaskSurfaces: in.rows.taskSurfaces,
	}
	for _, t := range in.rows.tasks {
		if t.CoilID != nil {
			f.Tasks = append(f.Tasks, t)
		}
	}
	for _, site := range in.sites {
		f.Sites = append(f.Sites, site)
	}
	for _, p := range in.placements {
		f.Placements = append(f.Placements, p)
	}
	return f
}

// store writes what was prepared.
func (in *intake) store() error {
	r := in.rows
	for _, write := range []func() error{
		func() error { return store.Insert(in.Tenant, r.sites...) }, func() error { return store.Insert(in.Tenant, r.placements...) },
		func() error { return store.Insert(in.Tenant, r.units...) }, func() error { return store.Insert(in.Tenant, r.stays...) },
		func() error { return store.Insert(in.Tenant, r.coils...) }, func() error { return store.Insert(in.Tenant, r.surfaces...) },
		func() error { return store.Insert(in.Tenant, r.tasks...) }, func() error { return store.Insert(in.Tenant, r.taskSurfaces...) },
	} {
		if err := write(); err != nil {
			return err
		}
	}
	return nil
}

// checkCoil reports what is wrong with a coil of a class; empty when nothing is.
func (in *intake) checkCoil(class store.EquipmentClass, c newCoil) (column, why string) {
	roles := in.Roles(class.ID)
	names := make([]string, len(roles))
	ok := false
	for i, r := range roles {
		names[i] = string(r)
		ok = ok || names[i] == c.Role
	}
	if !ok {
		return "coil role", fmt.Sprintf("%s has no coil %q; it has %s", class.Name, c.Role, strings.Join(names, ", "))
	}
	if day := store.DayOf(c.StartDay); day != nil && *day > in.today {
		return "last clean", fmt.Sprintf("%s is in the future", day)
	}
	return "", ""
}

var errNoClass = errors.New("is not a class of your organisation")
