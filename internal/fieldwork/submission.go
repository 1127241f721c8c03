package fieldwork

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/core/procedure"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// litres per unit of an amount. The US gallon is 231 cubic inches of 2.54 cm exactly, 128 fluid ounces (NIST
// Handbook 44, appendix C, from memory).
var litres = map[contract.AmountUnit]float64{"l": 1, "ml": 1e-3, "us_gal": 3.785411784, "us_fl_oz": 3.785411784 / 128}

// most of a cleaner one treatment can take, in litres; more is a slip of the decimal point.
const mostLitres = 200

// visitSheet is a visit on its way in, checked against the register.
type visitSheet struct {
	req  contract.NewVisit
	r    *dossier.Facts
	d    dossier.Unit
	bad  invalid.Error
	rows visitRows
	// details are what a visit holds beside its findings and treatments, held against the template its steps were of,
	// the open watch items and the open symptoms of the unit.
	details  detailRows
	template []procedure.Step
	watch    []store.WatchItem
	symptoms []store.SymptomReport
	// partly are sides of which some of the face was not reached: they stay due.
	partly map[uuid.UUID]bool
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
	visit := s.visitRow(t, a, id, req)
	visit.Supersedes = supersedes
	if err := sheet.check(visit); err != nil {
		return out, err
	}
	if err := store.Insert(t, visit); err != nil {
		return out, err
	}
	if err := sheet.rows.store(t); err != nil {
		return out, err
	}
	if err := sheet.details.store(t, supersedes == nil); err != nil {
		return out, err
	}
	if err := s.followVisit(t, sheet, visit); err != nil {
		return out, err
	}
	if err := t.Record(s.Stamp(), a.AccountID, "visit", visit.ID, "submitted", organisation.AuditDetail{Note: visit.Outcome}); err != nil {
		return out, err
	}
	if err := s.learner.Refresh(t, []uuid.UUID{req.UnitID}); err != nil {
		return out, err
	}
	out.Clocks, err = s.clocksAfter(t, sheet)
	return out, err
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
		Choices: store.ToJSON(choices), Jobs: store.Array[string]{},
	}
	for _, j := range optional.Value(req.Jobs) {
		row.Jobs = append(row.Jobs, string(j))
	}
	if req.Source != nil {
		row.Source = string(*req.Source)
	}
	return row
}

// check fills the rows and lists every field that is wrong.
func (v *visitSheet) check(visit store.Visit) error {
	if v.req.Day > v.d.Today {
		v.bad.Addf("/day", "is in the future")
	}
	if v.d.Unit.Commissioned != nil && v.req.Day < v.d.Unit.Commissioned.Day() {
		v.bad.Addf("/day", "is before the unit was commissioned")
	}
	switch {
	case v.d.Unit.Status == dossier.Retired && (v.d.Unit.Retired == nil || v.req.Day >= v.d.Unit.Retired.Day()):
		v.bad.Addf("/unit_id", "%s is retired", v.d.Unit.Tag)
	case v.d.Unit.Status == "planned":
		v.bad.Addf("/unit_id", "%s is not in service yet", v.d.Unit.Tag)
	}
	v.checkPeople(visit)
	if !dossier.Worked(v.req.Outcome) {
		if len(v.req.Coils) > 0 {
			v.bad.Addf("/coils", "must be empty when nothing was done")
		}
		if visit.Note == "" {
			v.bad.Addf("/note", "say what stood in the way")
		}
		v.checkDetails(visit)
		return v.bad.Err()
	}
	if !v.req.CautionsRead && !v.past {
		v.bad.Addf("/cautions_read", "confirm that the cautions were read and followed")
	}
	if len(v.req.Coils) == 0 && !v.companionOnly() {
		v.bad.Addf("/coils", "at least one coil is needed")
	}
	seen := map[uuid.UUID]bool{}
	missed := false
	for i, c := range v.req.Coils {
		at := fmt.Sprintf("/coils/%d", i)
		coil := v.coil(c.CoilID)
		switch {
		case coil == nil:
			v.bad.Addf(at+"/coil_id", "is not a coil of %s", v.d.Unit.Tag)
			continue
		case seen[c.CoilID]:
			v.bad.Addf(at+"/coil_id", "is given twice")
			continue
		}
		seen[c.CoilID] = true
		missed = v.checkCoil(at, visit, coil, c) || missed
	}
	if missed && v.req.Outcome == contract.OutcomeDone {
		v.bad.Addf("/outcome", "a side, or part of one, was not reached: the outcome is partly done")
	}
	v.checkDetails(visit)
	return v.bad.Err()
}

// companionOnly reports whether the visit was for filters, grilles, tablets, drain or pump alone: no coil was touched.
func (v *visitSheet) companionOnly() bool {
	jobs := v.jobs()
	return len(jobs) == 1 && jobs[0] == procedure.Companion && len(optional.Value(v.req.Steps)) > 0
}

func (v *visitSheet) coil(id uuid.UUID) *dossier.Coil {
	for i := range v.d.Coils {
		if v.d.Coils[i].ID == id {
			return &v.d.Coils[i]
		}
	}
	return nil
}

func (v *visitSheet) checkPeople(visit store.Visit) {
	if dossier.Worked(v.req.Outcome) && len(v.req.People) == 0 {
		v.bad.Addf("/people", "say who did the work")
	}
	known := store.Index(v.r.People, func(p store.Person) uuid.UUID { return p.ID })
	seen := map[uuid.UUID]bool{}
	for i, p := range v.req.People {
		at := fmt.Sprintf("/people/%d", i)
		if _, ok := known[p.PersonID]; !ok {
			v.bad.Addf(at+"/person_id", "is not a person of the organisation")
		}
		if seen[p.PersonID] {
			v.bad.Addf(at+"/person_id", "is given twice")
		}
		if p.Minutes < 1 || p.Minutes > 1440 {
			v.bad.Addf(at+"/minutes", "must be between 1 and 1440 min")
		}
		seen[p.PersonID] = true
		v.rows.people = append(v.rows.people, store.VisitPerson{
			OrganisationID: visit.OrganisationID, VisitID: visit.ID, PersonID: p.PersonID, Minutes: p.Minutes,
		})
	}
}

// checkCoil checks one coil of the visit and reports whether a side was missed.
func (v *visitSheet) checkCoil(at string, visit store.Visit, coil *dossier.Coil, c contract.VisitCoil) (missed bool) {
	reached, given := map[uuid.UUID]bool{}, map[uuid.UUID]int{}
	for i, side := range c.Sides {
		if _, twice := given[side.SurfaceID]; twice {
			v.bad.Addf(fmt.Sprintf("%s/sides/%d/surface_id", at, i), "is given twice")
		}
		given[side.SurfaceID] = i
	}
	some := false
	for _, s := range coil.Sides {
		i, ok := given[s.ID]
		if !ok {
			v.bad.Addf(at+"/sides", "%s: say whether it was reached", s.Name)
			continue
		}
		delete(given, s.ID)
		side := c.Sides[i]
		v.checkSide(fmt.Sprintf("%s/sides/%d", at, i), visit, side)
		reached[s.ID] = side.Reached
		some = some || side.Reached
		missed = missed || !side.Reached || v.partly[s.ID]
	}
	for _, i := range given {
		v.bad.Addf(fmt.Sprintf("%s/sides/%d/surface_id", at, i), "is not a side of this coil")
	}
	if !some {
		v.bad.Addf(at+"/sides", "no side was reached: leave the coil out or choose another outcome")
	}
	treated := map[uuid.UUID]bool{}
	for i, t := range c.Treatments {
		v.checkTreatment(fmt.Sprintf("%s/treatments/%d", at, i), visit, coil, i, t, reached, treated)
	}
	for i, side := range c.Sides {
		if treated[side.SurfaceID] && side.Left == nil {
			v.bad.Addf(fmt.Sprintf("%s/sides/%d/left", at, i), "say how it was left")
		}
		if !treated[side.SurfaceID] && side.Left != nil {
			v.bad.Addf(fmt.Sprintf("%s/sides/%d/left", at, i), "no treatment names this side")
		}
	}
	return missed
}

func (v *visitSheet) checkSide(at string, visit store.Visit, side contract.VisitSide) {
	row := store.VisitSurface{
		OrganisationID: visit.OrganisationID, VisitID: visit.ID, SurfaceID: side.SurfaceID, Reached: side.Reached,
		WhyNot: strings.TrimSpace(optional.Value(side.WhyNot)),
	}
	v.rows.reached = append(v.rows.reached, row)
	if !side.Reached {
		if row.WhyNot == "" {
			v.bad.Addf(at+"/why_not", "say why it was not reached")
		}
		if side.FirstLook != nil || side.Found != nil || side.Left != nil {
			v.bad.Addf(at+"/reached", "a side that was not reached has no grades")
		}
		return
	}
	if side.Found == nil {
		v.bad.Addf(at+"/found", "say what was found once opened up")
		return
	}
	if side.FirstLook != nil {
		v.finding(visit, side.SurfaceID, dossier.PhaseFirstLook, *side.FirstLook, at+"/first_look")
	}
	found := v.finding(visit, side.SurfaceID, dossier.PhaseOpenedUp, *side.Found, at+"/found")
	if side.Left != nil {
		v.finding(visit, side.SurfaceID, dossier.PhaseAsLeft, *side.Left, at+"/left")
	}
	for i, id := range optional.Value(side.SoilIds) {
		if _, ok := v.r.SoilByID[id]; !ok {
			v.bad.Addf(fmt.Sprintf("%s/soil_ids/%d", at, i), "is not a soil of the organisation")
			continue
		}
		v.rows.soils = append(v.rows.soils, store.FindingSoil{OrganisationID: visit.OrganisationID, FindingID: found, SoilID: id})
	}
}

func (v *visitSheet) finding(visit store.Visit, surface uuid.UUID, phase string, l contract.Look, at string) uuid.UUID {
	row := store.Finding{
		OrganisationID: visit.OrganisationID, ID: store.NewID(), VisitID: visit.ID, SurfaceID: surface, Phase: phase,
		Seen: string(l.Seen), Grade: l.Grade,
	}
	if !soil.Grade(l.Grade).Valid() {
		v.bad.Addf(at+"/grade", "must be a grade from 0 to 5")
	}
	share, missed := v.mapCells(at, row.ID, visit.OrganisationID, l)
	row.BlockedShare = share
	if missed && phase != dossier.PhaseFirstLook {
		if v.partly == nil {
			v.partly = map[uuid.UUID]bool{}
		}
		v.partly[surface] = true
	}
	v.rows.findings = append(v.rows.findings, row)
	return row.ID
}

func (v *visitSheet) checkTreatment(at string, visit store.Visit, coil *dossier.Coil, seq int, t contract.VisitTreatment, reached, treated map[uuid.UUID]bool) {
	row := store.Treatment{
		OrganisationID: visit.OrganisationID, ID: store.NewID(), VisitID: visit.ID, CoilID: coil.ID, Seq: seq,
		Work: string(t.Work), MethodID: t.MethodID, Direction: string(t.Direction), CleanerID: t.CleanerID, WaterParts: t.WaterParts,
		EndPoints: store.Array[string]{},
	}
	method, ok := v.r.Method[t.MethodID]
	if !ok {
		v.bad.Addf(at+"/method_id", "is not one of your methods")
	}
	v.checkCleaner(at, method, t, &row)
	v.checkDose(at, visit, t, &row)
	for _, e := range optional.Value(t.EndPoints) {
		row.EndPoints = append(row.EndPoints, string(e))
	}
	if len(t.SurfaceIds) == 0 {
		v.bad.Addf(at+"/surface_ids", "name the sides it was done to")
	}
	v.rows.treatments = append(v.rows.treatments, row)
	for i, id := range t.SurfaceIds {
		if !reached[id] {
			v.bad.Addf(fmt.Sprintf("%s/surface_ids/%d", at, i), "is not a side that was reached")
			continue
		}
		treated[id] = true
		if v.partly[id] {
			v.rows.sides = append(v.rows.sides, store.TreatmentSurface{OrganisationID: visit.OrganisationID, TreatmentID: row.ID, SurfaceID: id})
			continue // what was not reached stays due
		}
		v.rows.sides = append(v.rows.sides, store.TreatmentSurface{OrganisationID: visit.OrganisationID, TreatmentID: row.ID, SurfaceID: id})
		v.reset(visit, coil, t.Work, id)
	}
}

func (v *visitSheet) checkCleaner(at string, method store.Method, t contract.VisitTreatment, row *store.Treatment) {
	var form string
	if t.CleanerID != nil {
		cleaner, ok := v.r.Cleaner[*t.CleanerID]
		if !ok {
			v.bad.Addf(at+"/cleaner_id", "is not one of your cleaners")
		}
		form = cleaner.Form
		if ok && method.Code != "" && !method.Wet {
			v.bad.Addf(at+"/cleaner_id", "%s is dry work and takes no cleaner", strings.ToLower(method.Name))
		}
	}
	if v.req.Steps != nil && !v.past && t.CleanerID != nil && form == "concentrate" {
		k := dossier.CleanerFacts(v.r.Cleaner[*t.CleanerID])
		switch {
		case t.WaterParts == nil && t.SettingID == nil && k.PartsFrom > 0:
			v.bad.Addf(at+"/water_parts", "%s has to be diluted: %g:1 to %g:1", k.Name, k.PartsFrom, k.PartsTo)
		case t.WaterParts != nil && k.PartsTo > 0 && (*t.WaterParts < k.PartsFrom || *t.WaterParts > k.PartsTo):
			v.bad.Addf(at+"/water_parts", "%s is used at %g:1 to %g:1; %g:1 is outside of that", k.Name, k.PartsFrom, k.PartsTo, *t.WaterParts)
		}
	}
	if t.WaterParts != nil {
		switch {
		case t.CleanerID == nil:
			v.bad.Addf(at+"/water_parts", "there is no cleaner to mix")
		case form != "concentrate":
			v.bad.Addf(at+"/water_parts", "this cleaner is not mixed")
		case *t.WaterParts < 0 || *t.WaterParts > 1000:
			v.bad.Addf(at+"/water_parts", "must be between 0 and 1000 parts of water to one of cleaner")
		}
	}
	if t.Amount == nil {
		return
	}
	l := t.Amount.Value * litres[t.Amount.Unit]
	switch {
	case t.CleanerID == nil:
		v.bad.Addf(at+"/amount", "name the cleaner")
	case !(l > 0) || l > mostLitres:
		v.bad.Addf(at+"/amount/value", "must be above 0 and at most %d L", mostLitres)
	default:
		row.AmountL = &l
		row.AmountTyped = strconv.FormatFloat(t.Amount.Value, 'f', -1, 64) + " " + dossier.AmountUnits[t.Amount.Unit]
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
