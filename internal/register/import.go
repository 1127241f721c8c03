package register

import (
	"context"
	"strings"

	"github.com/google/uuid"

	"nextround/internal/dossier"
	"nextround/internal/exchange"
	"nextround/internal/importing"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// registerFile takes in register files.
type registerFile struct{ *Service }

// RegisterFiles takes in register files.
func (s *Service) RegisterFiles() importing.Taker { return registerFile{s} }

// Columns are those of the register.
func (registerFile) Columns() []exchange.Column { return exchange.RegisterColumns }

// Take takes in a register file.
func (s registerFile) Take(ctx context.Context, t store.Tenant, j *importing.Job) (bool, error) {
	table, ok, err := j.Table(ctx)
	if !ok {
		return false, err
	}
	file := exchange.ReadRegister(table, j.Told)
	j.Report.Rows = len(file.Rows)
	j.Columns(file.Columns, file.Missing)
	in, err := s.newIntake(t, j.A)
	if err != nil {
		return false, err
	}
	known, err := knownUnits(t)
	if err != nil {
		return false, err
	}
	g := gathering{intake: in, known: known, problems: &file.Problems, at: map[string]int{}, first: map[string]int{}}
	for i, row := range file.Rows {
		if i%500 == 0 {
			if err := j.Tell(ctx, "checking", i, len(file.Rows)); err != nil {
				return false, err
			}
		}
		g.row(row)
	}
	table.Rows, file.Rows = nil, nil // what was read is in g now
	for _, u := range g.units {
		j.Report.NewCoils += len(u.coils)
		if _, err := in.place(u); err != nil {
			return false, err
		}
	}
	j.Problems(file.Problems)
	j.Report.NewUnits, j.Report.NewPlacements = len(g.units), in.newPlaces
	j.Report.NewSites = append(j.Report.NewSites, in.newSites...)
	j.Report.ChangedUnits = len(g.changed)
	if j.Trial() {
		return false, nil
	}
	return len(g.units)+len(g.changed) > 0, s.storeRegister(ctx, t, j, in, g)
}

// chunk is how many new units are stored at once: enough for COPY to pay, few enough for little memory.
const chunk = 2000

func (s registerFile) storeRegister(ctx context.Context, t store.Tenant, j *importing.Job, in *intake, g gathering) error {
	for from := 0; from < len(g.units); from += chunk {
		if err := j.Tell(ctx, "storing", from, len(g.units)); err != nil {
			return err
		}
		for _, u := range g.units[from:min(from+chunk, len(g.units))] {
			if _, err := in.add(u); err != nil {
				return err
			}
		}
		if err := in.store(); err != nil {
			return err
		}
		if err := s.learner.DeriveNew(t, in.Catalogue, in.facts()); err != nil {
			return err
		}
		in.rows = intakeRows{}
	}
	touched := make([]uuid.UUID, 0, len(g.changed))
	for _, c := range g.changed {
		c.after.Version++
		if err := store.SaveVersion(t, c.after.ID, c.before.Version, &c.after); err != nil {
			return err
		}
		if err := organisation.RecordChange(t, s.Stamp(), j.A, "unit", c.after.ID, "changed by import", unitFields(c.before), unitFields(c.after)); err != nil {
			return err
		}
		touched = append(touched, c.after.ID)
	}
	return s.learner.RefreshTelling(t, touched, j.Telling(ctx, len(touched)))
}

// knownUnit is a unit of the register as a file would have it.
type knownUnit struct {
	unit store.Unit
	rows map[string]exchange.RegisterRow // by coil role
}

func knownUnits(t store.Tenant) (map[string]knownUnit, error) {
	out := map[string]knownUnit{}
	err := eachRegisterRow(t, func(u store.Unit, row exchange.RegisterRow) error {
		key := strings.ToLower(u.Tag)
		k, ok := out[key]
		if !ok {
			k = knownUnit{unit: u, rows: map[string]exchange.RegisterRow{}}
			out[key] = k
		}
		k.rows[row.CoilRole] = row
		return nil
	})
	return out, err
}

// gathering joins the rows of each tag into units and finds what is wrong with them.
type gathering struct {
	*intake
	known    map[string]knownUnit
	problems *exchange.Problems
	units    []newUnit
	changed  []changedUnit
	at       map[string]int // by tag, in units
	first    map[string]int // line of a tag's first row
}

type changedUnit struct{ before, after store.Unit }

func (g *gathering) row(row exchange.RegisterRow) {
	bad := func(column, format string, args ...any) { g.problems.Addf(row.Line, column, format, args...) }
	class, ok := g.Class(row.Class)
	if !ok {
		if row.Class != "" {
			bad("class", "%q %v", row.Class, errNoClass)
		}
		return
	}
	coil := plainCoil(row.CoilRole, row.LastClean, row.LastDay)
	coil.Construction, coil.Slabs, coil.lightDays, coil.deepDays = row.Construction, row.Slabs, row.LightDays, row.DeepDays
	if column, why := g.checkCoil(class, coil); why != "" && row.CoilRole != "" {
		bad(column, "%s", why)
		return
	}
	switch {
	case row.LightDays != nil && class.LightDays == nil:
		bad("light days", "%s has no light clean", class.Name)
	case row.Commissioned != nil && *row.Commissioned > g.today:
		bad("commissioned", "%s is in the future", row.Commissioned)
	case row.Commissioned != nil && row.LastDay != nil && *row.LastDay < *row.Commissioned:
		bad("last clean", "%s is before the unit was commissioned", row.LastDay)
	}
	burns, err := flammable("flammable", row.Refrigerant, row.Flammable)
	if err != nil {
		bad("flammable", "%s burns", row.Refrigerant)
		return
	}
	if row.Bad {
		return
	}
	tag := strings.ToLower(row.Tag)
	if k, ok := g.known[tag]; ok {
		g.compare(row, class, k, bad)
		return
	}
	i, seen := g.at[tag]
	if !seen {
		g.at[tag], g.first[tag] = len(g.units), row.Line
		g.units = append(g.units, newUnit{
			site: row.Site, placement: row.Placement, setting: row.Setting, tag: row.Tag, class: class, make: row.Make, model: row.Model,
			serial: row.Serial, note: row.Note, refrigerant: row.Refrigerant, flammable: burns, year: row.Year, chargeKg: row.ChargeKg, capacityKw: row.CapacityKw,
			energyKwh: row.EnergyKwhDay, consequence: row.ConsequenceCost, commissioned: row.Commissioned, coils: []newCoil{coil},
		})
		return
	}
	u := &g.units[i]
	switch {
	case !strings.EqualFold(u.site, row.Site):
		bad("site", "%s stands at %s in line %d", row.Tag, u.site, g.first[tag])
	case !strings.EqualFold(u.placement, row.Placement):
		bad("placement", "%s stands at %s in line %d", row.Tag, u.placement, g.first[tag])
	case u.class.ID != class.ID:
		bad("class", "%s is a %s in line %d", row.Tag, u.class.Name, g.first[tag])
	}
	for _, c := range u.coils {
		if c.Role == coil.Role {
			bad("coil role", "%s has its %s in line %d already", row.Tag, coil.Role, g.first[tag])
		}
	}
	u.coils = append(u.coils, coil)
}

// compare holds a row against the unit that is there: what a file may change is changed, the rest must agree. An
// empty cell says nothing.
func (g *gathering) compare(row exchange.RegisterRow, class store.EquipmentClass, k knownUnit, bad func(string, string, ...any)) {
	there, ok := k.rows[row.CoilRole]
	if !ok {
		bad("coil role", "%s is in the register without a %s; take the unit out of the file or the coil", row.Tag, row.CoilRole)
		return
	}
	if line, twice := g.first["coil/"+strings.ToLower(row.Tag)+"/"+row.CoilRole]; twice {
		bad("tag", "%s has its %s in line %d already", row.Tag, row.CoilRole, line)
		return
	}
	g.first["coil/"+strings.ToLower(row.Tag)+"/"+row.CoilRole] = row.Line
	const move = "%s is in the register at %s; move it there on its page"
	switch {
	case k.unit.Status == dossier.Retired:
		bad("tag", "%s is in the register, retired", row.Tag)
	case !strings.EqualFold(there.Site, row.Site):
		bad("site", move, row.Tag, there.Site)
	case !strings.EqualFold(there.Placement, row.Placement):
		bad("placement", move, row.Tag, there.Placement)
	case k.unit.ClassID != class.ID:
		bad("class", "%s is in the register as a %s", row.Tag, there.Class)
	case row.LastDay != nil && (there.LastDay == nil || *there.LastDay != *row.LastDay || there.LastClean != row.LastClean):
		bad("last clean", "%s is already in the register with another last clean; record a visit instead", row.Tag)
	case differs(row.LightDays, there.LightDays) || differs(row.DeepDays, there.DeepDays):
		bad("deep days", "%s is in the register with other intervals; change them on its page or in bulk", row.Tag)
	default:
		before := k.unit
		after := before
		if i, seen := g.at["known/"+strings.ToLower(row.Tag)]; seen {
			after = g.changed[i].after
		}
		text := func(into *string, from string) {
			if from != "" {
				*into = from
			}
		}
		text(&after.Make, row.Make)
		text(&after.Model, row.Model)
		text(&after.Serial, row.Serial)
		text(&after.Refrigerant, row.Refrigerant)
		if row.Refrigerant != "" || row.Flammable != unknown {
			after.Flammable, _ = flammable("", after.Refrigerant, row.Flammable)
		}
		text(&after.Note, row.Note)
		take(&after.Year, row.Year)
		take(&after.ChargeKg, row.ChargeKg)
		take(&after.CapacityKw, row.CapacityKw)
		take(&after.EnergyKwhDay, row.EnergyKwhDay)
		take(&after.ConsequenceCost, row.ConsequenceCost)
		if row.Commissioned != nil {
			after.Commissioned = store.DateOf(row.Commissioned)
		}
		if len(organisation.Differences(unitFields(before), unitFields(after))) == 0 {
			return
		}
		if i, seen := g.at["known/"+strings.ToLower(row.Tag)]; seen {
			g.changed[i].after = after
			return
		}
		g.at["known/"+strings.ToLower(row.Tag)] = len(g.changed)
		g.changed = append(g.changed, changedUnit{before: before, after: after})
	}
}

func differs(file, there *int) bool { return file != nil && (there == nil || *file != *there) }

func take[T any](into **T, from *T) {
	if from != nil {
		*into = from
	}
}

// unitFields are the fields of a unit that a file may change, under the names the audit trail shows.
func unitFields(u store.Unit) map[string]any {
	return map[string]any{
		"make": u.Make, "model": u.Model, "serial": u.Serial, "refrigerant": u.Refrigerant, "flammable": u.Flammable, "note": u.Note, "year": u.Year,
		"charge_kg": u.ChargeKg, "capacity_kw": u.CapacityKw, "energy_kwh_day": u.EnergyKwhDay, "consequence_cost": u.ConsequenceCost,
		"commissioned": store.DayOf(u.Commissioned),
	}
}
