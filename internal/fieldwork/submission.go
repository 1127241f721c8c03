package fieldwork

import (
	"context"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/core/method"
	"nextround/core/procedure"
	"nextround/core/workplan"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
	"nextround/internal/visit"
)

// visitSheet is a visit on its way in, checked against the register and turned into rows.
type visitSheet struct {
	req  contract.NewVisit
	r    *dossier.Facts
	d    dossier.Unit
	rows visitRows
	// details are what a visit holds beside its findings and treatments; template, watch and symptoms what they are held against.
	details  detailRows
	template []procedure.Step
	watch    []store.WatchItem
	symptoms []store.SymptomReport
	known    *visit.Facts
	checked  visit.Checked
	// past is true for visits taken in from elsewhere: whether cautions were read then is not known.
	past bool
}

type visitRows struct {
	people     []store.VisitPerson
	reached    []store.VisitSurface
	findings   []store.Finding
	soils      []store.FindingSoil
	treatments []store.Treatment
	sides      []store.TreatmentSurface
	resets     []store.TaskReset
}

// SubmitVisit stores a visit once, sets back the clocks of what was done and says what follows.
func (s *Service) SubmitVisit(ctx context.Context, a organisation.Actor, key uuid.UUID, req contract.NewVisit) (contract.VisitOutcome, error) {
	if err := a.Only(contract.RoleManager, contract.RoleTechnician); err != nil {
		return contract.VisitOutcome{}, err
	}
	if req.Source != nil && *req.Source == contract.NewVisitSourceContractor {
		return contract.VisitOutcome{}, invalid.At("/source", "a contractor's visit comes in through the contractor's link")
	}
	return organisation.Once(s.Base, s.Tenant(ctx, a), a, key, req, func(t store.Tenant) (contract.VisitOutcome, error) {
		if _, err := t.LockUnits([]uuid.UUID{req.UnitID}); err != nil {
			return contract.VisitOutcome{}, err
		}
		return s.storeVisit(t, a, key, req, nil)
	})
}

// storeVisit checks and stores a visit to a unit that is locked, in place of another where supersedes says so.
func (s *Service) storeVisit(t store.Tenant, a organisation.Actor, id uuid.UUID, req contract.NewVisit, supersedes *uuid.UUID) (contract.VisitOutcome, error) {
	out := contract.VisitOutcome{ID: id, Clocks: []contract.ClockReset{}}
	r, err := load.Units(t, []uuid.UUID{req.UnitID})
	if err != nil {
		return out, err
	}
	if len(r.Rows.Units) == 0 {
		return out, invalid.At("/unit_id", "there is no such unit")
	}
	d, err := r.Unit(r.Rows.Units[0], s.Now())
	if err != nil {
		return out, err
	}
	sheet := visitSheet{req: req, r: r, d: d, past: supersedes != nil}
	if err := s.loadSheet(t, &sheet, supersedes); err != nil {
		return out, err
	}
	row := s.visitRow(t, a, id, req)
	row.Supersedes = supersedes
	if err := sheet.check(row); err != nil {
		return out, err
	}
	if err := store.Insert(t, row); err != nil {
		return out, err
	}
	if err := sheet.rows.store(t); err != nil {
		return out, err
	}
	if err := sheet.details.store(t, supersedes == nil); err != nil {
		return out, err
	}
	if err := s.followVisit(t, sheet, row); err != nil {
		return out, err
	}
	if err := t.Record(s.Stamp(), a.AccountID, "visit", row.ID, "submitted", organisation.AuditDetail{Note: row.Outcome}); err != nil {
		return out, err
	}
	if err := s.learner.Refresh(t, []uuid.UUID{req.UnitID}); err != nil {
		return out, err
	}
	if out.Clocks, err = s.clocksAfter(t, sheet); err != nil {
		return out, err
	}
	out.Also, err = s.alsoThatDay(t, row)
	return out, err
}

// alsoThatDay are other visits to the unit on the day of one; nil where there are none.
func (s *Service) alsoThatDay(t store.Tenant, row store.Visit) (*[]contract.OtherVisit, error) {
	visits, err := t.VisitsOn([]uuid.UUID{row.UnitID}, row.Day)
	if err != nil {
		return nil, err
	}
	names, err := s.Names(t)
	if err != nil {
		return nil, err
	}
	var out []contract.OtherVisit
	for _, v := range visits {
		if v.ID != row.ID && (row.Supersedes == nil || v.ID != *row.Supersedes) {
			out = append(out, contract.OtherVisit{ID: v.ID, By: names.Of(v.AccountID), Outcome: contract.Outcome(v.Outcome)})
		}
	}
	if out == nil {
		return nil, nil //nolint:nilnil // it is the only one
	}
	return &out, nil
}

func (s *Service) visitRow(t store.Tenant, a organisation.Actor, id uuid.UUID, req contract.NewVisit) store.Visit {
	choices := optional.Value(req.Choices)
	if choices == nil {
		choices = map[string]string{}
	}
	row := store.Visit{
		OrganisationID: t.Org, ID: id, UnitID: req.UnitID, Day: store.Date(req.Day), Outcome: string(req.Outcome),
		Status: "submitted", CautionsRead: req.CautionsRead, Note: strings.TrimSpace(optional.Value(req.Note)),
		AccountID: &a.AccountID, SubmittedAt: s.Stamp(), Source: "desk", ArrivedAt: new(s.Stamp()), ToldWhom: optional.Trim(req.ToldWhom),
		ProcedureVersion: req.ProcedureVersion, StartedAt: req.StartedAt, FinishedAt: req.FinishedAt,
		Choices: store.ToJSON(choices), Jobs: store.Array[string]{}, PartsNoted: store.ToJSON(partsNoted(req)),
	}
	for _, j := range optional.Value(req.Jobs) {
		row.Jobs = append(row.Jobs, string(j))
	}
	if req.Source != nil {
		row.Source = string(*req.Source)
	}
	return row
}

func partsNoted(req contract.NewVisit) []contract.PartCard {
	if parts := optional.Value(req.Parts); parts != nil {
		return parts
	}
	return []contract.PartCard{}
}

// check holds the visit against the rules and, where it keeps them, fills the rows.
func (v *visitSheet) check(row store.Visit) error {
	v.known = v.facts()
	v.checked = visit.Check(v.known, v.req)
	if err := v.checked.Bad.Err(); err != nil {
		return err
	}
	for _, p := range v.req.People {
		v.rows.people = append(v.rows.people, store.VisitPerson{
			OrganisationID: row.OrganisationID, VisitID: row.ID, PersonID: p.PersonID, Minutes: p.Minutes,
		})
	}
	for _, c := range v.req.Coils {
		for _, side := range c.Sides {
			v.fillSide(row, side)
		}
		for i, t := range c.Treatments {
			v.fillTreatment(row, v.coil(c.CoilID), i, t)
		}
	}
	v.fillDetails(row)
	return nil
}

// facts are what the visit is held against.
func (v *visitSheet) facts() *visit.Facts {
	f := &visit.Facts{
		Tag: v.d.Unit.Tag, Status: v.d.Unit.Status, Today: v.d.Today, People: map[uuid.UUID]bool{}, Methods: map[uuid.UUID]visit.Method{},
		Cleaners: map[uuid.UUID]method.Cleaner{}, Soils: map[uuid.UUID]string{}, Sprayers: sprayerChoices(v.r.Catalogue),
		Watched: map[uuid.UUID]bool{}, Symptoms: map[uuid.UUID]bool{}, Template: v.template, Standing: v.r.StandingTags(v.d, len(v.watch) > 0),
		Rules: v.r.Practice(v.d.Site.ID, v.d.Unit.ID), Reading: v.r.ReadingContext(v.d), Volts: v.d.Unit.Volts, Amps: v.d.Unit.Amps, Past: v.past,
	}
	if v.d.Unit.Commissioned != nil {
		f.Commissioned = new(v.d.Unit.Commissioned.Day())
	}
	if v.d.Unit.Retired != nil {
		f.Retired = new(v.d.Unit.Retired.Day())
	}
	for _, p := range v.r.People {
		f.People[p.ID] = true
	}
	for id, m := range v.r.Method {
		f.Methods[id] = visit.Method{Code: m.Code, Name: m.Name, Wet: m.Wet}
	}
	for id, k := range v.r.Cleaner {
		f.Cleaners[id] = dossier.CleanerFacts(k)
	}
	for id, k := range v.r.SoilByID {
		f.Soils[id] = k.Code
	}
	for _, w := range v.watch {
		f.Watched[w.ID] = true
	}
	for _, x := range v.symptoms {
		f.Symptoms[x.ID] = true
	}
	for _, c := range v.d.Coils {
		coil := visit.Coil{ID: c.ID, Advice: func() workplan.Input { return v.r.AdviceInput(v.d, c) }}
		for _, s := range c.Sides {
			coil.Sides = append(coil.Sides, visit.Side{ID: s.ID, Name: s.Name})
		}
		f.Coils = append(f.Coils, coil)
	}
	return f
}

func (v *visitSheet) coil(id uuid.UUID) *dossier.Coil {
	for i := range v.d.Coils {
		if v.d.Coils[i].ID == id {
			return &v.d.Coils[i]
		}
	}
	return nil
}

func (v *visitSheet) fillSide(row store.Visit, side contract.VisitSide) {
	v.rows.reached = append(v.rows.reached, store.VisitSurface{
		OrganisationID: row.OrganisationID, VisitID: row.ID, SurfaceID: side.SurfaceID, Reached: side.Reached, WhyNot: optional.Trim(side.WhyNot),
	})
	if !side.Reached {
		return
	}
	if side.FirstLook != nil {
		v.finding(row, side.SurfaceID, dossier.PhaseFirstLook, *side.FirstLook)
	}
	found := v.finding(row, side.SurfaceID, dossier.PhaseOpenedUp, *side.Found)
	if side.Left != nil {
		v.finding(row, side.SurfaceID, dossier.PhaseAsLeft, *side.Left)
	}
	for _, id := range optional.Value(side.SoilIds) {
		v.rows.soils = append(v.rows.soils, store.FindingSoil{OrganisationID: row.OrganisationID, FindingID: found, SoilID: id})
	}
}

func (v *visitSheet) finding(row store.Visit, surface uuid.UUID, phase string, l contract.Look) uuid.UUID {
	f := store.Finding{
		OrganisationID: row.OrganisationID, ID: store.NewID(), VisitID: row.ID, SurfaceID: surface, Phase: phase,
		Seen: string(l.Seen), Grade: l.Grade,
	}
	f.BlockedShare = v.mapCells(f.ID, row.OrganisationID, l)
	v.rows.findings = append(v.rows.findings, f)
	return f.ID
}

func (v *visitSheet) fillTreatment(visit store.Visit, coil *dossier.Coil, seq int, t contract.VisitTreatment) {
	row := store.Treatment{
		OrganisationID: visit.OrganisationID, ID: store.NewID(), VisitID: visit.ID, CoilID: coil.ID, Seq: seq,
		Work: string(t.Work), MethodID: t.MethodID, Direction: string(t.Direction), CleanerID: t.CleanerID, WaterParts: t.WaterParts,
		EndPoints: store.Array[string]{},
	}
	v.fillDose(visit, t, &row)
	for _, e := range optional.Value(t.EndPoints) {
		row.EndPoints = append(row.EndPoints, string(e))
	}
	v.rows.treatments = append(v.rows.treatments, row)
	for _, id := range t.SurfaceIds {
		v.rows.sides = append(v.rows.sides, store.TreatmentSurface{OrganisationID: visit.OrganisationID, TreatmentID: row.ID, SurfaceID: id})
		if !v.checked.Partly[id] { // what was not reached stays due
			v.reset(visit, coil, t.Work, id)
		}
	}
}

// reset sets clocks of a side back: light work the light ones only, deep work both.
func (v *visitSheet) reset(visit store.Visit, coil *dossier.Coil, work contract.TaskKind, surface uuid.UUID) {
	for _, task := range coil.Tasks {
		if work == contract.TaskKindLight && task.Kind != string(contract.TaskKindLight) {
			continue
		}
		row := store.TaskReset{OrganisationID: visit.OrganisationID, TaskID: task.ID, SurfaceID: surface, VisitID: visit.ID}
		for _, there := range v.rows.resets {
			if there == row {
				row.TaskID = uuid.Nil
			}
		}
		if row.TaskID != uuid.Nil {
			v.rows.resets = append(v.rows.resets, row)
		}
	}
}

func (r *visitRows) append(more visitRows) {
	r.people = append(r.people, more.people...)
	r.reached = append(r.reached, more.reached...)
	r.findings = append(r.findings, more.findings...)
	r.soils = append(r.soils, more.soils...)
	r.treatments = append(r.treatments, more.treatments...)
	r.sides = append(r.sides, more.sides...)
	r.resets = append(r.resets, more.resets...)
}

func (r *visitRows) store(t store.Tenant) error {
	if err := store.Insert(t, r.people...); err != nil {
		return err
	}
	if err := store.Insert(t, r.reached...); err != nil {
		return err
	}
	if err := store.Insert(t, r.findings...); err != nil {
		return err
	}
	if err := store.Insert(t, r.soils...); err != nil {
		return err
	}
	if err := store.Insert(t, r.treatments...); err != nil {
		return err
	}
	if err := store.Insert(t, r.sides...); err != nil {
		return err
	}
	return store.Insert(t, r.resets...)
}

// clocksAfter says, for every task of the coils visited, which sides went back and when it is next due.
func (s *Service) clocksAfter(t store.Tenant, sheet visitSheet) ([]contract.ClockReset, error) {
	r, err := load.Units(t, []uuid.UUID{sheet.req.UnitID})
	if err != nil {
		return nil, err
	}
	d, err := r.Unit(r.Rows.Units[0], s.Now())
	if err != nil {
		return nil, err
	}
	visited, back := map[uuid.UUID]bool{}, map[[2]uuid.UUID]bool{}
	for _, c := range sheet.req.Coils {
		visited[c.CoilID] = true
	}
	for _, x := range sheet.rows.resets {
		back[[2]uuid.UUID{x.TaskID, x.SurfaceID}] = true
	}
	out := []contract.ClockReset{}
	for _, coil := range d.Coils {
		if !visited[coil.ID] {
			continue
		}
		for _, task := range coil.Tasks {
			line := contract.ClockReset{
				CoilRole: contract.CoilRole(coil.Role), Kind: contract.TaskKind(task.Kind), Sides: []string{}, Due: task.Due.Day,
				EveryDays: &task.EveryDays,
			}
			still := []string{}
			for _, side := range coil.Sides {
				if back[[2]uuid.UUID{task.ID, side.ID}] {
					line.Sides = append(line.Sides, side.Name)
				} else {
					still = append(still, side.Name)
				}
			}
			line.StillDue = &still
			if task.Open != nil {
				line.ProposedDays = &task.Open.Days
			}
			out = append(out, line)
		}
	}
	return out, nil
}

// newestVisits is how many visits the list shows.
const newestVisits = 100

// Visits lists the newest visits.
func (s *Service) Visits(ctx context.Context, a organisation.Actor) ([]contract.VisitSummary, error) {
	t := s.Tenant(ctx, a)
	visits, err := t.NewestVisits(newestVisits)
	if err != nil {
		return nil, err
	}
	units := []uuid.UUID{}
	for _, v := range visits {
		units = append(units, v.UnitID)
	}
	r, err := load.Units(t, units)
	if err != nil {
		return nil, err
	}
	unit := store.Index(r.Rows.Units, func(u store.Unit) uuid.UUID { return u.ID })
	out := []contract.VisitSummary{}
	for _, v := range visits {
		d := dossier.Unit{Unit: unit[v.UnitID]}
		d.Site, _ = r.Standing(v.UnitID, calendar.Day(v.Day))
		for _, c := range r.Coils[v.UnitID] {
			coil := dossier.Coil{Coil: c}
			for _, x := range r.Surfaces[c.ID] {
				coil.Sides = append(coil.Sides, dossier.Side{Surface: x})
			}
			d.Coils = append(d.Coils, coil)
		}
		out = append(out, r.VisitSummary(d, v))
	}
	return out, nil
}
