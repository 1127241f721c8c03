package fieldwork

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
	"nextround/core/workplan"
	"nextround/internal/contract"
	"nextround/internal/defaults"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// Face maps have this many rows and columns where the register says nothing (assumption).
const mapRows, mapColumns = 3, 4

// VisitPack is all that a visit needs, so that it can be carried out without network.
func (s *Service) VisitPack(ctx context.Context, a organisation.Actor, id uuid.UUID) (contract.VisitPack, error) {
	var out contract.VisitPack
	t := s.Tenant(ctx, a)
	r, err := load.Units(t, []uuid.UUID{id})
	if err != nil {
		return out, err
	}
	if len(r.Rows.Units) == 0 {
		return out, organisation.ErrNotFound
	}
	d, err := r.Unit(r.Rows.Units[0], s.Now())
	if err != nil {
		return out, err
	}
	if out.Unit, err = s.pages.UnitPage(t, r, d); err != nil {
		return out, err
	}
	if t.Sites != nil { // all of them are read already
		if r.People, err = t.PeopleSeen(); err != nil {
			return out, err
		}
	}
	out.Today, out.Catalogue = d.Today, r.View()
	if out.Procedure, err = r.Template(d.Class); err != nil {
		return out, err
	}
	if err := s.packOpen(t, &out, id); err != nil {
		return out, err
	}
	out.Practice = r.Practice(d.Site.ID, id)
	out.Tags = []string{}
	tags := r.StandingTags(d, len(out.Watch) > 0)
	for tag, on := range tags {
		if on {
			out.Tags = append(out.Tags, tag)
		}
	}
	sort.Strings(out.Tags)
	tags["symptom"] = len(out.Symptoms) > 0
	out.Steps = procedure.Compile(out.Procedure.Steps, procedure.Visit{Jobs: []procedure.Job{procedure.Deep}, Tags: tags, Rules: out.Practice})
	packCoils(r, d, &out)
	out.Sprayers, out.Kits = sprayerChoices(r.Catalogue), crewKits(r.Catalogue)
	out.ReadingKinds, out.Context, out.Volts, out.Amps = heat.Kinds, r.ReadingContext(d), d.Unit.Volts, d.Unit.Amps
	out.Questions, out.Bans, out.CooledGoods = method.Questions, method.Bans, d.Class.HoldsGoods
	out.LabelCode = optional.Text(d.Unit.LabelCode)
	out.Parts = []contract.PartCard{}
	for _, p := range r.Rows.Parts {
		out.Parts = append(out.Parts, contract.PartCard{ID: new(p.ID), Kind: p.Kind, Specification: p.Specification, Quantity: p.Quantity, Note: p.Note})
	}
	if out.Advised, err = earlierAdvice(t, r, id); err != nil {
		return out, err
	}
	out.Forecast = s.forecast(ctx, d.Site)
	if err := s.packPlace(t, r, d, &out); err != nil {
		return out, err
	}
	if out.LastReadings, err = lastReadings(r, t, id, a.US()); err != nil {
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

func packCoils(r *dossier.Facts, d dossier.Unit, out *contract.VisitPack) {
	out.Coils = []contract.PackCoil{}
	for _, c := range d.Coils {
		coil := contract.PackCoil{CoilID: c.ID, Advice: r.AdviceInput(d, c), Sides: []contract.SideFacts{}}
		for _, s := range c.Sides {
			side := contract.SideFacts{SurfaceID: s.ID, Rows: mapRows, Columns: mapColumns, Reachable: s.Reachable, WhyNot: s.WhyNot}
			if s.MapRows != nil && s.MapColumns != nil {
				side.Rows, side.Columns = min(*s.MapRows, 12), min(*s.MapColumns, 12)
			}
			coil.Sides = append(coil.Sides, side)
		}
		out.Coils = append(out.Coils, coil)
	}
}

func sprayerChoices(c organisation.Catalogue) []contract.SprayerChoice {
	out := []contract.SprayerChoice{}
	for _, x := range c.Sprayers {
		out = append(out, contract.SprayerChoice{ID: x.ID, Sprayer: x.Sprayer, Name: x.Name, WaterParts: x.WaterParts, TankL: x.TankL})
	}
	return out
}

// crewKits are what crews carry, of those that say what they clean with.
func crewKits(c organisation.Catalogue) []contract.CrewKit {
	out := []contract.CrewKit{}
	for _, x := range c.Crews() {
		if workplan.KnowsKit(x.Kit) {
			out = append(out, contract.CrewKit{Crew: x.Name, Kit: x.Kit})
		}
	}
	return out
}

func (s *Service) packPlace(t store.Tenant, r *dossier.Facts, d dossier.Unit, out *contract.VisitPack) error {
	access := r.Access(d)
	out.Place = contract.PackPlace{
		Address: d.Site.Address, Contact: d.Site.Contact, Phone: d.Site.Phone, Keys: d.Site.Keys, Water: d.Water(), WaterNote: d.Site.WaterNote, Power: d.Site.Power,
		Flammable:  contract.YesNo(d.Unit.Flammable),
		AccessNote: d.Site.AccessNote, Zone: d.Site.Zone, IsolationPoint: access.IsolationPoint, IsolationKind: access.IsolationKind,
		Panels: access.Panels, Fixings: access.Fixings, FixingsNote: access.FixingsNote, Guards: access.Guards, People: access.People, Hazards: access.Hazards,
		Drain: contract.YesNo(d.Placement.Drain), DrainNote: d.Placement.DrainNote, LadderM: access.LadderM,
	}
	windows, err := store.Where[store.SiteWindow](t, "site_id", []uuid.UUID{d.Site.ID}, "starts, id")
	// The hours of other placements are not its own.
	windows = slices.DeleteFunc(windows, func(w store.SiteWindow) bool { return w.PlacementID != nil && *w.PlacementID != d.Placement.ID })
	out.Place.Windows = dossier.WindowsOn(windows, d.Today, nil)
	return err
}

// lastReadings are those of the newest visit that has any.
func lastReadings(r *dossier.Facts, t store.Tenant, unit uuid.UUID, us bool) ([]contract.ReadingLine, error) {
	out := []contract.ReadingLine{}
	visits := r.Visits[unit]
	rows, err := store.Where[store.Reading](t, "visit_id", store.Keys(visits, func(v store.Visit) uuid.UUID { return v.ID }), "visit_id, phase, kind")
	if err != nil {
		return nil, err
	}
	of := store.By(rows, func(x store.Reading) uuid.UUID { return x.VisitID })
	for i := len(visits) - 1; i >= 0 && len(out) == 0; i-- {
		for _, x := range of[visits[i].ID] {
			line, err := readingLine(x, us)
			if err != nil {
				return nil, err
			}
			line.Day = new(visits[i].Day.Day())
			out = append(out, line)
		}
	}
	return out, nil
}

// mostAdvice is how much of what was advised earlier is shown.
const mostAdvice = 8

// earlierAdvice is what was advised at earlier visits, the newest first.
func earlierAdvice(t store.Tenant, r *dossier.Facts, unit uuid.UUID) ([]contract.EarlierAdvice, error) {
	out := []contract.EarlierAdvice{}
	visits := r.Visits[unit]
	rows, err := store.Where[store.AdviceGiven](t, "visit_id", store.Keys(visits, func(v store.Visit) uuid.UUID { return v.ID }), "id")
	if err != nil {
		return nil, err
	}
	of := store.By(rows, func(x store.AdviceGiven) uuid.UUID { return x.VisitID })
	for i := len(visits) - 1; i >= 0; i-- {
		for _, x := range of[visits[i].ID] {
			if len(out) < mostAdvice {
				out = append(out, contract.EarlierAdvice{Day: visits[i].Day.Day(), Text: x.Text, Answer: contract.EarlierAdviceAnswer(x.Answer)})
			}
		}
	}
	return out, nil
}

// mostPeers bounds what is compared.
const mostPeers = 60

// neighbours are units of the same class at the site, to be compared with.
func neighbours(t store.Tenant, d dossier.Unit) ([]contract.Neighbour, error) {
	out := []contract.Neighbour{}
	lines, err := t.CoilLines(store.CoilFilter{SiteID: &d.Site.ID, ClassID: &d.Class.ID, Today: d.Today}, store.CoilPage{Sort: "tag", Limit: mostPeers})
	if err != nil {
		return nil, err
	}
	at := map[uuid.UUID]int{}
	for _, l := range lines {
		if l.UnitID == d.Unit.ID || l.Status == dossier.Retired {
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
		n.LastDay, n.LastFound = new(f.Day.Day()), new(f.Grade)
	}
	return out, err
}

// Bench is what the calculator outside any visit works with.
func (s *Service) Bench(ctx context.Context, a organisation.Actor) (contract.BenchPack, error) {
	c, err := organisation.LoadCatalogue(s.Tenant(ctx, a))
	if err != nil {
		return contract.BenchPack{}, err
	}
	r := dossier.New(c, store.Facts{}, false)
	in := r.AdviceInput(dossier.Unit{}, dossier.Coil{Worst: -1})
	if a.Role == contract.RoleViewer { // prices are for those who work with them
		in.Prices = method.Prices{}
		for i := range in.Cleaners {
			in.Cleaners[i].PackPrice = 0
		}
	}
	out := contract.BenchPack{
		Cleaners: in.Cleaners, Methods: in.Methods, Kinds: in.Kinds, Prices: in.Prices, Practice: in.Rules, LimitShare: r.Limit,
		Sprayers: sprayerChoices(r.Catalogue), Kits: crewKits(r.Catalogue), Questions: method.Questions, Bans: method.Bans, ReadingKinds: heat.Kinds, Deferral: defaults.Deferral,
		Refrigerants: []string{}, Tables: map[string][]contract.TablePoint{}, Classes: []contract.ClassDesign{},
	}
	for _, x := range heat.Refrigerants {
		out.Refrigerants = append(out.Refrigerants, x.Code)
	}
	for _, x := range r.Tables {
		out.Tables[x.Code] = r.Table(x.Code)
	}
	for _, k := range r.Classes {
		design := defaults.Designs[k.Code]
		out.Classes = append(out.Classes, contract.ClassDesign{ClassID: k.ID, Name: k.Name, Coil: design.Coil, Access: design.Access, Notes: design.Notes})
	}
	return out, nil
}
