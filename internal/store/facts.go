package store

import (
	"github.com/google/uuid"
	"gorm.io/gorm"

	"nextround/core/calendar"
)

// Facts is everything known of some units, read with a fixed number of statements however many there are.
type Facts struct {
	Units         []Unit
	Stays         []UnitStay
	Pauses        []UnitPause
	Access        []UnitAccess // in force on the latest day known
	Parts         []Part
	Coils         []Coil
	Surfaces      []Surface // of the coils
	UnitSurfaces  []Surface // of the units themselves
	Tasks         []Task
	Companions    []Task // tasks of no coil
	Ticks         []TaskTick
	TaskSurfaces  []TaskSurface
	Changes       []IntervalChange
	Proposals     []Proposal // open ones
	Visits        []Visit    // in force, oldest first
	People        []VisitPerson
	Reached       []VisitSurface
	Findings      []Finding
	FindingSoils  []FindingSoil
	Treatments    []Treatment
	TreatmentSide []TreatmentSurface
	Resets        []TaskReset
	PartLooks     []PartLook // at the units' own surfaces
	Caps          []TaskCap
	Estimates     []RateEstimate // of the sides, as they were last learned
	Pressures     []Reading      // pressures and currents, before and after the work
	CallOuts      []CallOut      // oldest first
	CallLogs      []CallLog      // of all sites, oldest first
	// Where the units stand or stood, what is at work there, and the peers of their classes; see LoadPlaces and RateGroups.
	Sites      []Site // by name
	Placements []Placement
	Factors    []SiteFactor
	Groups     []RateGroup
}

const factorOrder = "lower(valid) NULLS FIRST, id"

// LoadPlaces adds where the units stand or stood, and the factors at work there; or all places that may be seen.
func (t Tenant) LoadPlaces(f *Facts, all bool) (err error) {
	if all {
		if f.Sites, err = t.SitesSeen(); err != nil {
			return err
		}
		if f.Placements, err = t.PlacementsSeen(); err != nil {
			return err
		}
		return t.LoadFactors(f)
	}
	stood := Keys(f.Stays, func(x UnitStay) uuid.UUID { return x.PlacementID })
	if f.Placements, err = Where[Placement](t, "id", stood, "name"); err != nil {
		return err
	}
	at := Keys(f.Placements, func(x Placement) uuid.UUID { return x.SiteID })
	if f.Sites, err = Where[Site](t, "id", at, "lower(name)"); err != nil {
		return err
	}
	at = append(append(at, stood...), ids(f.Units, func(x Unit) uuid.UUID { return x.ID })...)
	f.Factors, err = t.FactorsAt(at)
	return err
}

// LoadFactors adds every factor at work anywhere.
func (t Tenant) LoadFactors(f *Facts) (err error) {
	f.Factors, err = All[SiteFactor](t, factorOrder)
	return err
}

// FactorsAt are the factors at work at sites, placements or units, the earliest first.
func (t Tenant) FactorsAt(places []uuid.UUID) ([]SiteFactor, error) {
	return Where[SiteFactor](t, "coalesce(site_id, placement_id, unit_id)", places, factorOrder)
}

// RoundDays maps each task on a published round from a day on to the round's day.
func (t Tenant) RoundDays(from calendar.Day) (map[uuid.UUID]calendar.Day, error) {
	rows, err := t.TasksOnRounds(from)
	if err != nil {
		return nil, err
	}
	out := map[uuid.UUID]calendar.Day{}
	for _, r := range rows {
		out[r.TaskID] = r.Day.Day()
	}
	return out, nil
}

// reader keeps the first error, so that the many reads of LoadFacts stay a list.
type reader struct {
	tenant Tenant
	all    bool
	err    error
}

// load reads the rows whose column is one of the keys, or all rows when everything is wanted.
func load[T any](r *reader, into *[]T, column string, keys []uuid.UUID, order string, also ...string) {
	if r.err != nil {
		return
	}
	t := r.tenant
	for _, condition := range also {
		t.db = t.db.Where(condition)
	}
	if r.all {
		*into, r.err = All[T](t, order)
		return
	}
	if len(keys) > 0 {
		t.db = t.db.Where(column+" = ANY (?)", IDs(keys))
		*into, r.err = All[T](t, order)
	}
}

// seen are the conditions that keep to the units that may be seen.
func (t Tenant) seen(db *gorm.DB) *gorm.DB {
	if t.Sites == nil {
		return db
	}
	return db.Where("placement_id IN (SELECT p.id FROM placement p WHERE p.organisation_id = ? AND p.site_id = ANY (?))", t.Org, IDs(t.Sites))
}

// LoadFacts reads the facts of the named units, or of all when units is nil, as far as they may be seen.
func (t Tenant) LoadFacts(units []uuid.UUID) (Facts, error) {
	var f Facts
	r := &reader{tenant: t, all: units == nil}
	visible := *r
	visible.tenant.db = t.seen(t.db)
	load(&visible, &f.Units, "id", units, "tag, id")
	if r.err = visible.err; t.Sites != nil {
		units, r.all = ids(f.Units, func(u Unit) uuid.UUID { return u.ID }), false
	}
	load(r, &f.Pauses, "unit_id", units, "lower(during)")
	load(r, &f.Access, "unit_id", units, "lower(valid)")
	load(r, &f.Parts, "unit_id", units, "kind, specification, id")
	load(r, &f.UnitSurfaces, "unit_id", units, "position, name", "coil_id IS NULL")
	load(r, &f.Companions, "unit_id", units, "kind", "coil_id IS NULL")
	load(r, &f.Ticks, "task_id", ids(f.Companions, func(x Task) uuid.UUID { return x.ID }), "day, id")
	load(r, &f.Stays, "unit_id", units, "lower(during)")
	load(r, &f.Coils, "unit_id", units, "role DESC")
	load(r, &f.Surfaces, "coil_id", ids(f.Coils, func(c Coil) uuid.UUID { return c.ID }), "position, name", "coil_id IS NOT NULL")
	load(r, &f.Tasks, "unit_id", units, "kind DESC", "coil_id IS NOT NULL")
	tasks := ids(f.Tasks, func(x Task) uuid.UUID { return x.ID })
	load(r, &f.TaskSurfaces, "task_id", tasks, "surface_id")
	load(r, &f.Changes, "task_id", tasks, "at DESC, id DESC")
	load(r, &f.Proposals, "task_id", tasks, "computed_at", "status = 'open'")
	load(r, &f.Visits, "unit_id", units, "day, submitted_at, id", "status = 'submitted'")
	visits := ids(f.Visits, func(v Visit) uuid.UUID { return v.ID })
	load(r, &f.People, "visit_id", visits, "visit_id")
	load(r, &f.Reached, "visit_id", visits, "visit_id")
	load(r, &f.Findings, "visit_id", visits, "visit_id")
	load(r, &f.FindingSoils, "finding_id", ids(f.Findings, func(x Finding) uuid.UUID { return x.ID }), "finding_id, soil_id")
	load(r, &f.Treatments, "visit_id", visits, "visit_id, seq")
	load(r, &f.TreatmentSide, "treatment_id", ids(f.Treatments, func(x Treatment) uuid.UUID { return x.ID }), "treatment_id")
	load(r, &f.Resets, "visit_id", visits, "visit_id")
	load(r, &f.PartLooks, "visit_id", visits, "visit_id, part")
	load(r, &f.Caps, "task_id", tasks, "kind, id")
	load(r, &f.Estimates, "unit_id", units, "surface_id")
	load(r, &f.Pressures, "visit_id", visits, "visit_id, id", "kind IN ('high_pressure_kpa', 'low_pressure_kpa', 'motor_a')")
	load(r, &f.CallOuts, "unit_id", units, "day, id")
	if r.err == nil {
		f.CallLogs, r.err = All[CallLog](t, "lower(during)")
	}
	return f, r.err
}

func ids[T any](rows []T, id func(T) uuid.UUID) []uuid.UUID {
	out := make([]uuid.UUID, len(rows))
	for i, r := range rows {
		out[i] = id(r)
	}
	return out
}

// By groups rows by a key, keeping their order.
func By[K comparable, T any](rows []T, key func(T) K) map[K][]T {
	m := map[K][]T{}
	for _, r := range rows {
		m[key(r)] = append(m[key(r)], r)
	}
	return m
}

// Index maps rows by their one key.
func Index[K comparable, T any](rows []T, key func(T) K) map[K]T {
	m := make(map[K]T, len(rows))
	for _, r := range rows {
		m[key(r)] = r
	}
	return m
}

// Keys lists the different keys of some rows, in the order of the rows.
func Keys[K comparable, T any](rows []T, key func(T) K) []K {
	seen := map[K]bool{}
	out := []K{}
	for _, r := range rows {
		if k := key(r); !seen[k] {
			seen[k] = true
			out = append(out, k)
		}
	}
	return out
}

// StockMoves are all movements of stock, the oldest first.
func (t Tenant) StockMoves() ([]StockMove, error) { return All[StockMove](t, "day, at, id") }
