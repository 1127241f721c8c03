package dossier

import (
	"fmt"
	"sort"
	"time"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// Unit is one unit with what the core makes of it.
type Unit struct {
	Unit      store.Unit
	Class     store.EquipmentClass
	Site      store.Site
	Placement store.Placement
	Factors   []Factor
	Pauses    []store.UnitPause
	Today     calendar.Day
	Coils     []Coil
	// coilsHeld is how many coils it has.
	coilsHeld int
	// Parts are the unit's own surfaces that were ever graded.
	Parts []Part
}

// Factor is a factor in force at a unit on some days.
type Factor struct {
	store.SiteFactor
	Def   store.FactorDef
	Scope contract.FactorScope
}

// Standing is the site and placement where the unit stands on a day; the last stay when none covers it.
func (r *Facts) Standing(unit uuid.UUID, today calendar.Day) (store.Site, store.Placement) {
	var at store.UnitStay
	for _, s := range r.stays[unit] {
		at = s
		if s.During.Holds(today) {
			break
		}
	}
	p := r.Placements[at.PlacementID]
	return r.Sites[p.SiteID], p
}

// Unit assembles a unit and has the core work on it.
func (r *Facts) Unit(u store.Unit, now time.Time) (Unit, error) {
	d := r.Placed(u, now)
	var err error
	if d.Parts, err = r.parts(d); err != nil {
		return d, fmt.Errorf("%s: %w", u.Tag, err)
	}
	for _, c := range r.Coils[u.ID] {
		coil, err := r.coil(d, c)
		if err != nil {
			return d, fmt.Errorf("%s, %s: %w", u.Tag, c.Role, err)
		}
		d.Coils = append(d.Coils, coil)
	}
	return d, nil
}

// Placed is a unit with where it stands and what is at work there, its coils not yet looked at.
func (r *Facts) Placed(u store.Unit, now time.Time) Unit {
	d := Unit{Unit: u, Class: r.ClassByID[u.ClassID]}
	d.Site, d.Placement = r.Standing(u.ID, organisation.DayIn(now, "UTC"))
	d.Today = organisation.DayIn(now, d.Site.Zone)
	d.Pauses, d.coilsHeld = r.Pauses[u.ID], len(r.Coils[u.ID])
	// What is at work at a place bears on the unit while it stands there.
	for _, stay := range r.stays[u.ID] {
		place := r.Placements[stay.PlacementID]
		d.addFactors(r, place.SiteID, contract.FactorScopeSite, stay.During)
		d.addFactors(r, place.ID, contract.FactorScopePlacement, stay.During)
	}
	d.addFactors(r, u.ID, contract.FactorScopeUnit, store.DateRange{})
	return d
}

func (d *Unit) addFactors(r *Facts, at uuid.UUID, scope contract.FactorScope, during store.DateRange) {
	for _, f := range r.factorsAt[at] {
		both, ok := f.Valid.Overlap(during)
		if !ok {
			continue
		}
		f.Valid = both
		d.Factors = append(d.Factors, Factor{SiteFactor: f, Def: r.Factor[f.FactorID], Scope: scope})
	}
}

// pausedOn reports whether the unit is out of service on a day.
func (d Unit) pausedOn(day calendar.Day) bool {
	for _, p := range d.Pauses {
		if p.During.Holds(day) {
			return true
		}
	}
	return false
}

// pausedDays counts the days out of service in [from, to).
func (d Unit) pausedDays(from, to calendar.Day) int {
	n := 0
	for _, p := range d.Pauses {
		if both, ok := p.During.Overlap(store.DateRange{From: &from, To: &to}); ok {
			n += both.To.Sub(*both.From)
		}
	}
	return n
}

// FactorOn combines the factors in force on a day and names the largest.
func (d Unit) FactorOn(day calendar.Day) (float64, *store.FactorDef) {
	var all []float64
	var leading *store.FactorDef
	for i, f := range d.Factors {
		if !f.Valid.Holds(day) {
			continue
		}
		all = append(all, f.Def.Multiplier)
		if leading == nil || f.Def.Multiplier > leading.Multiplier {
			leading = &d.Factors[i].Def
		}
	}
	return soil.CombineFactors(all), leading
}

// changeDays lists the days on which a factor or a pause begins or ends, from a day on, that day first.
func (d Unit) changeDays(from calendar.Day) []calendar.Day {
	days := []calendar.Day{from}
	add := func(r store.DateRange) {
		for _, at := range []*calendar.Day{r.From, r.To} {
			if at != nil && *at > from {
				days = append(days, *at)
			}
		}
	}
	for _, f := range d.Factors {
		add(f.Valid)
	}
	for _, p := range d.Pauses {
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
