package service

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"sort"

	"github.com/google/uuid"

	"nextround/core/heat"
	"nextround/core/method"
	"nextround/core/procedure"
	"nextround/internal/contract"
	"nextround/internal/defaults"
	"nextround/internal/store"
)

// Face maps have this many rows and columns where the register says nothing (assumption).
const mapRows, mapColumns = 3, 4

// VisitPack is all that a visit needs, so that it can be carried out without network.
func (s *Service) VisitPack(ctx context.Context, a Actor, id uuid.UUID) (contract.VisitPack, error) {
	var out contract.VisitPack
	t := s.tenant(ctx, a)
	r, err := loadRegister(t, []uuid.UUID{id})
	if err != nil {
		return out, err
	}
	if len(r.facts.Units) == 0 {
		return out, ErrNotFound
	}
	d, err := s.dossier(r, r.facts.Units[0])
	if err != nil {
		return out, err
	}
	if out.Unit, err = s.unitView(t, r, d); err != nil {
		return out, err
	}
	out.Today, out.Catalogue = d.today, r.view()
	if out.Procedure, err = r.template(d.class); err != nil {
		return out, err
	}
	if err := s.packOpen(t, &out, id); err != nil {
		return out, err
	}
	out.Practice = r.practice(d.site.ID, id)
	out.Tags = []string{}
	tags := r.standingTags(d, len(out.Watch) > 0)
	for tag, on := range tags {
		if on {
			out.Tags = append(out.Tags, tag)
		}
	}
	sort.Strings(out.Tags)
	tags["deep"] = true
	out.Steps = procedure.Pick(out.Procedure.Steps, tags)
	r.packCoils(d, &out)
	out.Sprayers = r.sprayerChoices()
	out.ReadingKinds, out.Context, out.Volts, out.Amps = heat.Kinds, r.readingContext(d), d.unit.Volts, d.unit.Amps
	out.Questions, out.Bans, out.CooledGoods = method.Questions, method.Bans, cooledGoods[d.class.Code]
	out.Parts = []contract.PartCard{}
	for _, p := range r.facts.Parts {
		out.Parts = append(out.Parts, contract.PartCard{ID: ptr(p.ID), Kind: p.Kind, Specification: p.Specification, Quantity: p.Quantity, Note: p.Note})
	}
	out.Forecast = s.forecast(ctx, d.site)
	if err := s.packPlace(t, r, d, &out); err != nil {
		return out, err
	}
	if out.LastReadings, err = r.lastReadings(t, id); err != nil {
		return out, err
	}
	out.Neighbours, err = neighbours(t, d)
	return out, err
}

// packOpen is what waits for this visit: watch items and symptoms.
func (s *Service) packOpen(t store.Tenant, out *contract.VisitPack, id uuid.UUID) error {
	open, err := t.OpenWatch(id)
	if err != nil {
		return err
	}
	if out.Watch, err = s.watchViews(t, open); err != nil {
		return err
	}
	symptoms, err := t.OpenSymptoms(id)
	out.Symptoms = []contract.PackSymptom{}
	for _, x := range symptoms {
		out.Symptoms = append(out.Symptoms, contract.PackSymptom{ID: x.ID, Kind: x.Kind, Day: x.Day.Day(), Note: x.Note})
	}
	return err
}

func (r *register) packCoils(d dossier, out *contract.VisitPack) {
	out.Coils = []contract.PackCoil{}
	for _, c := range d.coils {
		coil := contract.PackCoil{CoilID: c.ID, Advice: r.adviceInput(d, c), Sides: []contract.SideFacts{}}
		for _, s := range c.sides {
			side := contract.SideFacts{SurfaceID: s.ID, Rows: mapRows, Columns: mapColumns, Reachable: s.Reachable, WhyNot: s.WhyNot}
			if s.MapRows != nil && s.MapColumns != nil {
				side.Rows, side.Columns = min(*s.MapRows, 12), min(*s.MapColumns, 12)
			}
			coil.Sides = append(coil.Sides, side)
		}
		out.Coils = append(out.Coils, coil)
	}
}

func (c catalogue) sprayerChoices() []contract.SprayerChoice {
	out := []contract.SprayerChoice{}
	for _, x := range c.sprayers {
		out = append(out, contract.SprayerChoice{ID: x.ID, Sprayer: x.Sprayer, Name: x.Name, WaterParts: x.WaterParts, TankL: x.TankL})
	}
	return out
}

func (s *Service) packPlace(t store.Tenant, r *register, d dossier, out *contract.VisitPack) error {
	access := r.access(d)
	out.Place = contract.PackPlace{
		Address: d.site.Address, Contact: d.site.Contact, Phone: d.site.Phone, Keys: d.site.Keys, Water: d.site.Water, Power: d.site.Power,
		AccessNote: d.site.AccessNote, Zone: d.site.Zone, IsolationPoint: access.IsolationPoint, IsolationKind: access.IsolationKind,
		Panels: access.Panels, Fixings: access.Fixings, People: access.People, Hazards: access.Hazards, Drain: d.placement.Drain, LadderM: access.LadderM,
	}
	windows, err := store.Where[store.SiteWindow](t, "site_id", []uuid.UUID{d.site.ID}, "starts, id")
	// The hours of other placements are not its own.
	windows = slices.DeleteFunc(windows, func(w store.SiteWindow) bool { return w.PlacementID != nil && *w.PlacementID != d.placement.ID })
	out.Place.Windows = windowsOn(windows, d.today, nil)
	return err
}

// lastReadings are those of the newest visit that has any.
func (r *register) lastReadings(t store.Tenant, unit uuid.UUID) ([]contract.ReadingLine, error) {
	out := []contract.ReadingLine{}
	visits := r.visits[unit]
	rows, err := store.Where[store.Reading](t, "visit_id", set(visits, func(v store.Visit) uuid.UUID { return v.ID }), "visit_id, phase, kind")
	if err != nil {
		return nil, err
	}
	of := store.By(rows, func(x store.Reading) uuid.UUID { return x.VisitID })
	for i := len(visits) - 1; i >= 0 && len(out) == 0; i-- {
		for _, x := range of[visits[i].ID] {
			line, err := readingLine(x)
			if err != nil {
				return nil, err
			}
			line.Day = ptr(visits[i].Day.Day())
			out = append(out, line)
		}
	}
	return out, nil
}

// mostNeighbours bounds what is compared.
const mostNeighbours = 60

// neighbours are units of the same class at the site, to be compared with.
func neighbours(t store.Tenant, d dossier) ([]contract.Neighbour, error) {
	out := []contract.Neighbour{}
	lines, err := t.CoilLines(store.CoilFilter{SiteID: &d.site.ID, ClassID: &d.class.ID, Today: d.today}, store.CoilPage{Sort: "tag", Limit: mostNeighbours})
	if err != nil {
		return nil, err
	}
	at := map[uuid.UUID]int{}
	for _, l := range lines {
		if l.UnitID == d.unit.ID || l.Status == retired {
			continue
		}
		var coil contract.CoilLine
		if err := l.Line.Into(&coil); err != nil {
			return nil, fmt.Errorf("the line of %s: %w", l.Tag, err)
		}
		i, ok := at[l.UnitID]
		if !ok {
			i = len(out)
			at[l.UnitID] = i
			out = append(out, contract.Neighbour{UnitID: l.UnitID, Tag: l.Tag})
		}
		out[i].BlockedShare = max(out[i].BlockedShare, l.Blocked)
		for _, task := range coil.Tasks {
			out[i].EveryDays = task.EveryDays
		}
	}
	found, err := t.LastFound(slices.Collect(maps.Keys(at)))
	for _, f := range found {
		n := &out[at[f.UnitID]]
		n.LastDay, n.LastFound = ptr(f.Day.Day()), ptr(f.Grade)
	}
	return out, err
}

// Bench is what the calculator outside any visit works with.
func (s *Service) Bench(ctx context.Context, a Actor) (contract.BenchPack, error) {
	r := register{}
	var err error
	if r.catalogue, err = loadCatalogue(s.tenant(ctx, a)); err != nil {
		return contract.BenchPack{}, err
	}
	in := r.adviceInput(dossier{}, coilDossier{worst: -1})
	out := contract.BenchPack{
		Cleaners: in.Cleaners, Methods: in.Methods, Kinds: in.Kinds, Prices: in.Prices, Practice: in.Rules, LimitShare: r.limit,
		Sprayers: r.sprayerChoices(), Questions: method.Questions, Bans: method.Bans, ReadingKinds: heat.Kinds, Deferral: defaults.Deferral,
		Refrigerants: []string{}, Tables: map[string][]contract.TablePoint{}, Classes: []contract.ClassDesign{},
	}
	for _, x := range heat.Refrigerants {
		out.Refrigerants = append(out.Refrigerants, x.Code)
	}
	for _, x := range r.tables {
		out.Tables[x.Code] = r.table(x.Code)
	}
	for _, k := range r.classes {
		design := defaults.Designs[k.Code]
		out.Classes = append(out.Classes, contract.ClassDesign{ClassID: k.ID, Name: k.Name, Coil: design.Coil, Access: design.Access, Notes: design.Notes})
	}
	return out, nil
}
