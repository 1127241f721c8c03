package register

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/core/invalid"
	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// unitRows are the rows a unit's card is made of.
type unitRows struct {
	unit       store.Unit
	access     *store.UnitAccess // in force
	coils      []store.Coil
	sides      []store.Surface // of all coils
	surfaces   []store.Surface // of the unit itself
	parts      []store.Part
	companions []store.Task
}

func loadUnit(t store.Tenant, id uuid.UUID, today calendar.Day) (unitRows, error) {
	var r unitRows
	var err error
	if r.unit, err = t.UnitSeenForUpdate(id); err != nil {
		return r, err
	}
	facts, err := t.LoadCard(id)
	if err != nil {
		return r, err
	}
	r.coils, r.sides, r.surfaces, r.parts, r.companions = facts.Coils, facts.Surfaces, facts.UnitSurfaces, facts.Parts, facts.Companions
	for i, x := range facts.Access {
		if x.Valid.Holds(today) {
			r.access = &facts.Access[i]
		}
	}
	return r, nil
}

func (r unitRows) card() contract.UnitCard {
	u := r.unit
	c := contract.UnitCard{
		Tag: u.Tag, Make: u.Make, Model: u.Model, Serial: u.Serial, Refrigerant: u.Refrigerant, Flammable: new(contract.YesNo(u.Flammable)), Note: u.Note, Year: u.Year,
		ChargeKg: u.ChargeKg, CapacityKw: u.CapacityKw, Volts: u.Volts, Amps: u.Amps, EnergyKwhDay: u.EnergyKwhDay,
		ConsequenceCost: u.ConsequenceCost, ReplaceCost: u.ReplaceCost, HoursShare: u.HoursShare, RunningShare: u.RunningShare,
		Compressor: new(contract.UnitCompressor(u.Compressor)), FullLoadShare: u.FullLoadShare, FanDrive: new(contract.FanDrive(u.FanDrive)),
		FanKwhDay: u.FanKwhDay, Load: (*contract.UnitLoad)(u.Load), Medium: new(contract.UnitMedium(u.Medium)), FilterShare: u.FilterShare, BypassShare: u.BypassShare, Commissioned: store.DayOf(u.Commissioned),
		Access: contract.AccessCard{IsolationKind: contract.AccessCardIsolationKindUnstated, People: 1, Fixings: new(0), Guards: new(0)},
		Coils:  []contract.CoilCard{}, Surfaces: []contract.SurfaceCard{}, Parts: []contract.PartCard{}, Companions: []contract.CompanionCard{},
	}
	if a := r.access; a != nil {
		c.Access = contract.AccessCard{
			IsolationPoint: a.IsolationPoint, IsolationKind: contract.AccessCardIsolationKind(a.IsolationKind), Panels: a.Panels,
			Fixings: &a.Fixings, FixingsNote: &a.FixingsNote, Guards: &a.Guards, People: a.People, LadderM: a.LadderM, Hazards: a.Hazards, Skill: &a.Skill,
		}
	}
	for _, x := range r.coils {
		coil := contract.CoilCard{
			ID: x.ID, Role: contract.CoilRole(x.Role), Construction: contract.CoilCardConstruction(x.Construction), Slabs: x.Slabs,
			TubeRows: x.TubeRows, FaceWidthM: x.FaceWidthM, FaceHeightM: x.FaceHeightM, FinMetal: contract.CoilCardFinMetal(x.FinMetal),
			TubeMetal: contract.CoilCardTubeMetal(x.TubeMetal), Coating: x.Coating, Installed: store.DayOf(x.Installed), Sides: []contract.SideCard{},
		}
		for _, s := range r.sides {
			if optional.Value(s.CoilID) == x.ID {
				coil.Sides = append(coil.Sides, contract.SideCard{
					ID: new(s.ID), Name: s.Name, Kind: contract.SideCardKind(s.Kind), AreaShare: s.AreaShare, MapRows: s.MapRows,
					MapColumns: s.MapColumns, Reachable: s.Reachable, WhyNot: s.WhyNot, AccessNote: s.AccessNote,
				})
			}
		}
		c.Coils = append(c.Coils, coil)
	}
	for _, s := range r.surfaces {
		c.Surfaces = append(c.Surfaces, contract.SurfaceCard{ID: new(s.ID), Kind: contract.SurfaceCardKind(s.Kind), Name: s.Name, Note: s.AccessNote})
	}
	for _, p := range r.parts {
		c.Parts = append(c.Parts, contract.PartCard{ID: new(p.ID), Kind: p.Kind, Specification: p.Specification, Quantity: p.Quantity, Note: p.Note})
	}
	for _, x := range r.companions {
		c.Companions = append(c.Companions, contract.CompanionCard{
			ID: new(x.ID), Kind: contract.CompanionKind(x.Kind), EveryDays: x.EveryDays, Doer: contract.Doer(x.Doer), Paused: x.Paused,
			LastQuality: contract.LastCleanQuality(x.LastQuality), LastDay: store.DayOf(x.LastDay),
		})
	}
	return c
}

// earliestYear is the oldest equipment that can still be about.
const earliestYear = 1950

// checkUnit turns a card into rows and lists what is wrong with it. What a card cannot change is taken from before.
func checkUnit(in contract.UnitCard, before unitRows, today calendar.Day, bad *invalid.Error) unitRows {
	r := unitRows{unit: before.unit}
	u := &r.unit
	u.Tag, u.Make, u.Model, u.Serial = strings.TrimSpace(in.Tag), strings.TrimSpace(in.Make), strings.TrimSpace(in.Model), strings.TrimSpace(in.Serial)
	u.Refrigerant, u.Note, u.Year = strings.TrimSpace(in.Refrigerant), strings.TrimSpace(in.Note), in.Year
	u.ChargeKg, u.CapacityKw, u.Volts, u.Amps = in.ChargeKg, in.CapacityKw, in.Volts, in.Amps
	u.EnergyKwhDay, u.ConsequenceCost, u.Commissioned = in.EnergyKwhDay, in.ConsequenceCost, store.DateOf(in.Commissioned)
	u.ReplaceCost, u.HoursShare, u.RunningShare, u.FullLoadShare = in.ReplaceCost, in.HoursShare, in.RunningShare, in.FullLoadShare
	u.Load = (*string)(in.Load)
	u.FanKwhDay, u.FilterShare, u.BypassShare = in.FanKwhDay, in.FilterShare, in.BypassShare
	u.Compressor, u.FanDrive, u.Medium = optional.Or(in.Compressor, u.Compressor), optional.Or(in.FanDrive, u.FanDrive), optional.Or(in.Medium, u.Medium)
	if u.Tag == "" {
		bad.Addf("/card/tag", "is empty")
	}
	said := optional.Or(in.Flammable, unknown)
	if in.Flammable == nil && u.Refrigerant == before.unit.Refrigerant {
		said = before.unit.Flammable
	}
	if burns, err := flammable("/card/flammable", u.Refrigerant, said); err == nil {
		u.Flammable = burns
	} else {
		bad.Take(err)
	}
	if in.Year != nil && (*in.Year < earliestYear || *in.Year > today.Time().Year()) {
		bad.Addf("/card/year", "must be between %d and this year", earliestYear)
	}
	if in.Commissioned != nil && *in.Commissioned > today {
		bad.Addf("/card/commissioned", "is in the future")
	}
	organisation.Within(bad, "/card/charge_kg", in.ChargeKg, .001, 5000, "kg")
	organisation.Within(bad, "/card/capacity_kw", in.CapacityKw, .01, 20000, "kW")
	organisation.Within(bad, "/card/volts", in.Volts, 5, 1000, "V")
	organisation.Within(bad, "/card/amps", in.Amps, .01, 3000, "A")
	organisation.Within(bad, "/card/energy_kwh_day", in.EnergyKwhDay, 0, 100000, "kWh a day")
	organisation.Within(bad, "/card/consequence_cost", in.ConsequenceCost, 0, 1e8, "")
	organisation.Within(bad, "/card/replace_cost", in.ReplaceCost, 1, 1e8, "")
	organisation.Within(bad, "/card/fan_kwh_day", in.FanKwhDay, 0, 100000, "kWh a day")
	for field, share := range map[string]*float64{"hours_share": in.HoursShare, "running_share": in.RunningShare, "full_load_share": in.FullLoadShare} {
		organisation.Within(bad, "/card/"+field, share, .01, 1, "")
	}
	organisation.Within(bad, "/card/filter_share", in.FilterShare, 0, 1, "")
	organisation.Within(bad, "/card/bypass_share", in.BypassShare, 0, 1, "")
	if in.FullLoadShare != nil && u.Compressor != string(contract.UnitCompressorVariable) {
		bad.Addf("/card/full_load_share", "is for a compressor of variable speed")
	}
	organisation.Within(bad, "/card/access/ladder_m", in.Access.LadderM, .1, 60, "m")
	a := in.Access
	r.access = &store.UnitAccess{
		OrganisationID: u.OrganisationID, ID: store.NewID(), UnitID: u.ID, IsolationPoint: strings.TrimSpace(a.IsolationPoint),
		IsolationKind: string(a.IsolationKind), Panels: strings.TrimSpace(a.Panels), Fixings: optional.Value(a.Fixings), FixingsNote: optional.Trim(a.FixingsNote),
		Guards: optional.Value(a.Guards), People: a.People,
		LadderM: a.LadderM, Hazards: strings.TrimSpace(a.Hazards), Skill: optional.Trim(a.Skill), Valid: store.DateRange{From: &today},
	}
	r.checkCoils(in, before, bad)
	for i, s := range in.Surfaces {
		r.surfaces = append(r.surfaces, store.Surface{
			OrganisationID: u.OrganisationID, ID: optional.Value(s.ID), UnitID: new(u.ID), Kind: string(s.Kind), Name: strings.TrimSpace(s.Name),
			Position: i, AreaShare: 1, Reachable: true, AccessNote: strings.TrimSpace(s.Note),
		})
	}
	for _, p := range in.Parts {
		r.parts = append(r.parts, store.Part{
			OrganisationID: u.OrganisationID, ID: optional.Value(p.ID), UnitID: u.ID, Kind: strings.TrimSpace(p.Kind),
			Specification: strings.TrimSpace(p.Specification), Quantity: p.Quantity, Note: strings.TrimSpace(p.Note),
		})
	}
	r.checkCompanions(in, today, bad)
	return r
}

func (r *unitRows) checkCoils(in contract.UnitCard, before unitRows, bad *invalid.Error) {
	there := store.Index(before.coils, func(c store.Coil) uuid.UUID { return c.ID })
	for i, c := range in.Coils {
		at := fmt.Sprintf("/card/coils/%d", i)
		row, ok := there[c.ID]
		if !ok {
			bad.Addf(at+"/id", "is not a coil of this unit")
			continue
		}
		delete(there, c.ID)
		organisation.Within(bad, at+"/face_width_m", c.FaceWidthM, .01, 30, "m")
		organisation.Within(bad, at+"/face_height_m", c.FaceHeightM, .01, 30, "m")
		row.Construction, row.Slabs, row.TubeRows, row.FaceWidthM, row.FaceHeightM = string(c.Construction), c.Slabs, c.TubeRows, c.FaceWidthM, c.FaceHeightM
		row.FinMetal, row.TubeMetal, row.Coating, row.Installed = string(c.FinMetal), string(c.TubeMetal), strings.TrimSpace(c.Coating), store.DateOf(c.Installed)
		r.coils = append(r.coils, row)
		area := 0.0
		for k, s := range c.Sides {
			sideAt := fmt.Sprintf("%s/sides/%d", at, k)
			if s.Kind == contract.SideCardKindSlabGap && c.Slabs < 2 {
				bad.Addf(sideAt+"/kind", "a gap between slabs needs two slabs or more")
			}
			if !s.Reachable && strings.TrimSpace(s.WhyNot) == "" {
				bad.Addf(sideAt+"/why_not", "say why it cannot be reached")
			}
			if (s.MapRows == nil) != (s.MapColumns == nil) {
				bad.Addf(sideAt+"/map_rows", "rows and columns of the face map belong together")
			}
			if !(s.AreaShare > 0 && s.AreaShare <= 1) {
				bad.Addf(sideAt+"/area_share", "must be above 0 and at most 1")
			}
			area += s.AreaShare
			surface := store.Surface{
				OrganisationID: row.OrganisationID, ID: optional.Value(s.ID), CoilID: new(c.ID), Kind: string(s.Kind), Name: strings.TrimSpace(s.Name),
				Position: k, AreaShare: s.AreaShare, MapRows: s.MapRows, MapColumns: s.MapColumns, Reachable: s.Reachable,
				AccessNote: strings.TrimSpace(s.AccessNote),
			}
			if !s.Reachable {
				surface.WhyNot = strings.TrimSpace(s.WhyNot)
			}
			if row.FaceWidthM != nil && row.FaceHeightM != nil {
				surface.AreaM2 = new(*row.FaceWidthM * *row.FaceHeightM * s.AreaShare)
			}
			r.sides = append(r.sides, surface)
		}
		if math.Abs(area-1) > .005 {
			bad.Addf(at+"/sides", "their shares of the face area add up to %.2f; they must add up to 1", area)
		}
	}
	if len(there) > 0 {
		bad.Addf("/card/coils", "a coil cannot be left out; coils belong to the unit")
	}
}

func (r *unitRows) checkCompanions(in contract.UnitCard, today calendar.Day, bad *invalid.Error) {
	seen := map[contract.CompanionKind]bool{}
	for i, x := range in.Companions {
		at := fmt.Sprintf("/card/companions/%d", i)
		if seen[x.Kind] {
			bad.Addf(at+"/kind", "is given twice")
		}
		seen[x.Kind] = true
		dated := x.LastQuality == contract.LastCleanQuality(interval.Exact) || x.LastQuality == contract.LastCleanQuality(interval.About)
		if dated && x.LastDay == nil {
			bad.Addf(at+"/last_day", "is needed when the last time is known")
		}
		if x.LastDay != nil && *x.LastDay > today {
			bad.Addf(at+"/last_day", "is in the future")
		}
		row := store.Task{
			OrganisationID: r.unit.OrganisationID, ID: optional.Value(x.ID), UnitID: r.unit.ID, Kind: string(x.Kind), EveryDays: x.EveryDays,
			Doer: string(x.Doer), Paused: x.Paused, LastQuality: string(x.LastQuality), Version: 1,
		}
		if dated {
			row.LastDay = store.DateOf(x.LastDay)
		}
		r.companions = append(r.companions, row)
	}
}

// UnitCard is a unit with everything the register holds of it.
func (s *Service) UnitCard(ctx context.Context, a organisation.Actor, id uuid.UUID) (contract.UnitRecord, error) {
	return s.unitRecord(s.Tenant(ctx, a), id)
}

func (s *Service) unitRecord(t store.Tenant, id uuid.UUID) (contract.UnitRecord, error) {
	out := contract.UnitRecord{ID: id, Stays: []contract.StayLine{}, Pauses: []contract.PauseLine{}}
	row, err := t.UnitSeen(id)
	if err != nil {
		return out, err
	}
	today, err := s.SiteToday(t, row.PlacementID)
	if err != nil {
		return out, err
	}
	r, err := loadUnit(t, id, today)
	if err != nil {
		return out, err
	}
	facts, err := t.LoadStays(id)
	if err != nil {
		return out, err
	}
	class, err := store.Get[store.EquipmentClass](t, r.unit.ClassID)
	if err != nil {
		return out, err
	}
	at := store.Keys(facts.Stays, func(x store.UnitStay) uuid.UUID { return x.PlacementID })
	places, err := store.Where[store.Placement](t, "id", at, "id")
	if err != nil {
		return out, err
	}
	sites, err := store.Where[store.Site](t, "id", store.Keys(places, func(p store.Placement) uuid.UUID { return p.SiteID }), "id")
	if err != nil {
		return out, err
	}
	place := store.Index(places, func(p store.Placement) uuid.UUID { return p.ID })
	site := store.Index(sites, func(x store.Site) uuid.UUID { return x.ID })
	for _, x := range facts.Stays {
		p := place[x.PlacementID]
		out.Stays = append(out.Stays, contract.StayLine{Site: site[p.SiteID].Name, Placement: p.Name, From: x.During.From, To: x.During.To})
	}
	for _, x := range facts.Pauses {
		out.Pauses = append(out.Pauses, contract.PauseLine{Reason: x.Reason, From: x.During.From, To: x.During.To})
	}
	u := r.unit
	p := place[u.PlacementID]
	out.Version, out.Card, out.Class, out.Status, out.LabelCode = u.Version, r.card(), class.Name, contract.UnitStatus(u.Status), u.LabelCode
	out.PlacementID, out.Placement, out.SiteID, out.Site = p.ID, p.Name, p.SiteID, site[p.SiteID].Name
	out.Retired, out.ReplacedBy = store.DayOf(u.Retired), u.ReplacedBy
	return out, nil
}

// SaveUnitCard writes a unit's card; Stale when somebody else saved the unit since it was read.
func (s *Service) SaveUnitCard(ctx context.Context, a organisation.Actor, id uuid.UUID, in contract.UnitChange) (contract.UnitRecord, error) {
	var out contract.UnitRecord
	if err := a.Only(contract.RoleManager); err != nil {
		return out, err
	}
	err := s.Tenant(ctx, a).InTransaction(func(t store.Tenant) error {
		row, err := t.UnitSeen(id)
		if err != nil {
			return err
		}
		today, err := s.SiteToday(t, row.PlacementID)
		if err != nil {
			return err
		}
		before, err := loadUnit(t, id, today)
		if err != nil {
			return err
		}
		if before.unit.Version != in.Version {
			current, err := s.unitRecord(t, id)
			return errors.Join(err, organisation.Stale{Current: current})
		}
		if err := s.storeUnit(t, a, before, in.Card, today); err != nil {
			return err
		}
		out, err = s.unitRecord(t, id)
		return err
	})
	return out, err
}

func (s *Service) storeUnit(t store.Tenant, a organisation.Actor, before unitRows, in contract.UnitCard, today calendar.Day) error {
	var bad invalid.Error
	r := checkUnit(in, before, today, &bad)
	sides := organisation.Compare(&bad, "/card/coils/sides", before.sides, r.sides, func(x *store.Surface) *uuid.UUID { return &x.ID })
	surfaces := organisation.Compare(&bad, "/card/surfaces", before.surfaces, r.surfaces, func(x *store.Surface) *uuid.UUID { return &x.ID })
	parts := organisation.Compare(&bad, "/card/parts", before.parts, r.parts, func(x *store.Part) *uuid.UUID { return &x.ID })
	companions := organisation.Compare(&bad, "/card/companions", before.companions, r.companions, func(x *store.Task) *uuid.UUID { return &x.ID })
	if err := bad.Err(); err != nil {
		return err
	}
	r.unit.Version++
	err := store.SaveVersion(t, r.unit.ID, before.unit.Version, &r.unit)
	if errors.Is(err, store.ErrDuplicate) {
		return invalid.At("/card/tag", "%s is in the register already", r.unit.Tag)
	}
	if err != nil {
		return err
	}
	for i := range r.coils {
		if err := store.Save(t, r.coils[i].ID, &r.coils[i]); err != nil {
			return err
		}
	}
	for _, err := range []error{
		sideGone(t.UncoverSides(sides.Remove)), sides.Store(t, "/card/coils", sideStays),
		surfaces.Store(t, "/card/surfaces", "one that was taken out is in use"), parts.Store(t, "/card/parts", "is in use"),
		companions.Store(t, "/card/companions", "a companion task with ticks stays; pause it instead"),
		s.coverSides(t, sides.Add), s.storeAccess(t, before.access, r.access, today),
	} {
		if err != nil {
			return err
		}
	}
	after, err := loadUnit(t, r.unit.ID, today)
	if err != nil {
		return err
	}
	if err := organisation.RecordChange(t, s.Stamp(), a, "unit", r.unit.ID, "changed", before.card(), after.card()); err != nil {
		return err
	}
	return s.learner.Refresh(t, []uuid.UUID{r.unit.ID})
}

const sideStays = "a side that was taken out was visited or treated; it stays"

func sideGone(err error) error {
	if errors.Is(err, store.ErrInUse) {
		return invalid.At("/card/coils", sideStays)
	}
	return err
}

// coverSides puts new sides under the clocks of their coil; nothing is known of them yet.
func (s *Service) coverSides(t store.Tenant, sides []store.Surface) error {
	coils := store.Keys(sides, func(x store.Surface) uuid.UUID { return *x.CoilID })
	tasks, err := store.Where[store.Task](t, "coil_id", coils, "coil_id, kind DESC")
	if err != nil {
		return err
	}
	of := store.By(tasks, func(x store.Task) uuid.UUID { return *x.CoilID })
	var rows []store.TaskSurface
	for _, side := range sides {
		for _, task := range of[*side.CoilID] {
			rows = append(rows, store.TaskSurface{
				OrganisationID: t.Org, TaskID: task.ID, SurfaceID: side.ID, LastQuality: string(interval.Unknown),
			})
		}
	}
	return store.Insert(t, rows...)
}

// storeAccess ends the access in force and begins the new one, unless nothing differs.
func (s *Service) storeAccess(t store.Tenant, before, after *store.UnitAccess, today calendar.Day) error {
	if before == nil {
		return store.Insert(t, *after)
	}
	same := *after
	same.ID, same.Valid = before.ID, before.Valid
	if len(organisation.Differences(*before, same)) == 0 {
		return nil
	}
	if before.Valid.From != nil && *before.Valid.From == today {
		return store.Save(t, before.ID, &same)
	}
	ended := *before
	ended.Valid.To = &today
	if err := store.Save(t, ended.ID, &ended); err != nil {
		return err
	}
	return store.Insert(t, *after)
}
