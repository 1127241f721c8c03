package service

import (
	"context"
	"errors"
	"fmt"
	"sort"
	"strconv"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/core/procedure"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// litres per unit of an amount. The US gallon is 231 cubic inches of 2.54 cm exactly, 128 fluid ounces (NIST
// Handbook 44, appendix C, from memory).
var litres = map[contract.AmountUnit]float64{"l": 1, "ml": 1e-3, "us_gal": 3.785411784, "us_fl_oz": 3.785411784 / 128}

var amountUnits = map[contract.AmountUnit]string{"l": "L", "ml": "mL", "us_gal": "US gal", "us_fl_oz": "US fl oz"}

// most of a cleaner one treatment can take, in litres; more is a slip of the decimal point.
const mostLitres = 200

// visitSheet is a visit on its way in, checked against the register.
type visitSheet struct {
	req  contract.NewVisit
	r    *register
	d    dossier
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
func (s *Service) SubmitVisit(ctx context.Context, a Actor, key uuid.UUID, req contract.NewVisit) (contract.VisitOutcome, error) {
	if err := a.only(contract.RoleManager, contract.RoleTechnician); err != nil {
		return contract.VisitOutcome{}, err
	}
	if req.Source != nil && *req.Source == contract.NewVisitSourceContractor {
		return contract.VisitOutcome{}, field("/source", "a contractor's visit comes in through the contractor's link")
	}
	return once(s, s.tenant(ctx, a), a, key, req, func(t store.Tenant) (contract.VisitOutcome, error) {
		if _, err := t.LockUnits([]uuid.UUID{req.UnitID}); err != nil {
			return contract.VisitOutcome{}, err
		}
		return s.storeVisit(t, a, key, req, nil)
	})
}

// storeVisit checks and stores a visit to a unit that is locked, in place of another where supersedes says so.
func (s *Service) storeVisit(t store.Tenant, a Actor, id uuid.UUID, req contract.NewVisit, supersedes *uuid.UUID) (contract.VisitOutcome, error) {
	out := contract.VisitOutcome{ID: id, Clocks: []contract.ClockReset{}}
	r, err := loadRegister(t, []uuid.UUID{req.UnitID})
	if err != nil {
		return out, err
	}
	if len(r.facts.Units) == 0 {
		return out, field("/unit_id", "there is no such unit")
	}
	d, err := s.dossier(r, r.facts.Units[0])
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
	if err := errors.Join(
		store.Insert(t, visit), sheet.rows.store(t), sheet.details.store(t, supersedes == nil), s.followVisit(t, sheet, visit),
		t.Record(s.stamp(), a.AccountID, "visit", visit.ID, "submitted", auditDetail{Note: visit.Outcome}),
		s.refresh(t, []uuid.UUID{req.UnitID}),
	); err != nil {
		return out, err
	}
	out.Clocks, err = s.clocksAfter(t, sheet)
	return out, err
}

func (s *Service) visitRow(t store.Tenant, a Actor, id uuid.UUID, req contract.NewVisit) store.Visit {
	choices := value(req.Choices)
	if choices == nil {
		choices = map[string]string{}
	}
	row := store.Visit{
		OrganisationID: t.Org, ID: id, UnitID: req.UnitID, Day: store.Date(req.Day), Outcome: string(req.Outcome),
		Status: "submitted", CautionsRead: req.CautionsRead, Note: strings.TrimSpace(value(req.Note)),
		AccountID: &a.AccountID, SubmittedAt: s.stamp(), Source: "desk", ArrivedAt: ptr(s.stamp()), ToldWhom: trim(req.ToldWhom),
		ProcedureVersion: req.ProcedureVersion, StartedAt: req.StartedAt, FinishedAt: req.FinishedAt,
		Choices: store.ToJSON(choices),
	}
	if req.Source != nil {
		row.Source = string(*req.Source)
	}
	return row
}

func worked(o contract.Outcome) bool { return o == contract.OutcomeDone || o == contract.OutcomePartly }

// check fills the rows and lists every field that is wrong.
func (v *visitSheet) check(visit store.Visit) error {
	if v.req.Day > v.d.today {
		v.bad.Addf("/day", "is in the future")
	}
	if v.d.unit.Commissioned != nil && v.req.Day < v.d.unit.Commissioned.Day() {
		v.bad.Addf("/day", "is before the unit was commissioned")
	}
	switch {
	case v.d.unit.Status == retired && (v.d.unit.Retired == nil || v.req.Day >= v.d.unit.Retired.Day()):
		v.bad.Addf("/unit_id", "%s is retired", v.d.unit.Tag)
	case v.d.unit.Status == "planned":
		v.bad.Addf("/unit_id", "%s is not in service yet", v.d.unit.Tag)
	}
	v.checkPeople(visit)
	if !worked(v.req.Outcome) {
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
		v.bad.Addf("/cautions_read", "confirm that the cautions were read and kept")
	}
	if len(v.req.Coils) == 0 {
		v.bad.Addf("/coils", "at least one coil is needed")
	}
	seen := map[uuid.UUID]bool{}
	missed := false
	for i, c := range v.req.Coils {
		at := fmt.Sprintf("/coils/%d", i)
		coil := v.coil(c.CoilID)
		switch {
		case coil == nil:
			v.bad.Addf(at+"/coil_id", "is not a coil of %s", v.d.unit.Tag)
			continue
		case seen[c.CoilID]:
			v.bad.Addf(at+"/coil_id", "stands twice")
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

func (v *visitSheet) coil(id uuid.UUID) *coilDossier {
	for i := range v.d.coils {
		if v.d.coils[i].ID == id {
			return &v.d.coils[i]
		}
	}
	return nil
}

func (v *visitSheet) checkPeople(visit store.Visit) {
	if worked(v.req.Outcome) && len(v.req.People) == 0 {
		v.bad.Addf("/people", "say who did the work")
	}
	known := store.Index(v.r.people, func(p store.Person) uuid.UUID { return p.ID })
	seen := map[uuid.UUID]bool{}
	for i, p := range v.req.People {
		at := fmt.Sprintf("/people/%d", i)
		if _, ok := known[p.PersonID]; !ok {
			v.bad.Addf(at+"/person_id", "is not a person of the organisation")
		}
		if seen[p.PersonID] {
			v.bad.Addf(at+"/person_id", "stands twice")
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
func (v *visitSheet) checkCoil(at string, visit store.Visit, coil *coilDossier, c contract.VisitCoil) (missed bool) {
	reached, given := map[uuid.UUID]bool{}, map[uuid.UUID]int{}
	for i, side := range c.Sides {
		if _, twice := given[side.SurfaceID]; twice {
			v.bad.Addf(fmt.Sprintf("%s/sides/%d/surface_id", at, i), "stands twice")
		}
		given[side.SurfaceID] = i
	}
	any := false
	for _, s := range coil.sides {
		i, ok := given[s.ID]
		if !ok {
			v.bad.Addf(at+"/sides", "%s: say whether it was reached", s.Name)
			continue
		}
		delete(given, s.ID)
		side := c.Sides[i]
		v.checkSide(fmt.Sprintf("%s/sides/%d", at, i), visit, side)
		reached[s.ID] = side.Reached
		any = any || side.Reached
		missed = missed || !side.Reached || v.partly[s.ID]
	}
	for _, i := range given {
		v.bad.Addf(fmt.Sprintf("%s/sides/%d/surface_id", at, i), "is not a side of this coil")
	}
	if !any {
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
		WhyNot: strings.TrimSpace(value(side.WhyNot)),
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
		v.finding(visit, side.SurfaceID, phaseFirstLook, *side.FirstLook, at+"/first_look")
	}
	found := v.finding(visit, side.SurfaceID, phaseOpenedUp, *side.Found, at+"/found")
	if side.Left != nil {
		v.finding(visit, side.SurfaceID, phaseAsLeft, *side.Left, at+"/left")
	}
	for i, id := range value(side.SoilIds) {
		if _, ok := v.r.soilByID[id]; !ok {
			v.bad.Addf(fmt.Sprintf("%s/soil_ids/%d", at, i), "is not a soil of the house")
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
	if missed && phase != phaseFirstLook {
		if v.partly == nil {
			v.partly = map[uuid.UUID]bool{}
		}
		v.partly[surface] = true
	}
	v.rows.findings = append(v.rows.findings, row)
	return row.ID
}

func (v *visitSheet) checkTreatment(at string, visit store.Visit, coil *coilDossier, seq int, t contract.VisitTreatment, reached, treated map[uuid.UUID]bool) {
	row := store.Treatment{
		OrganisationID: visit.OrganisationID, ID: store.NewID(), VisitID: visit.ID, CoilID: coil.ID, Seq: seq,
		Work: string(t.Work), MethodID: t.MethodID, Direction: string(t.Direction), CleanerID: t.CleanerID, WaterParts: t.WaterParts,
		EndPoints: store.Array[string]{},
	}
	method, ok := v.r.method[t.MethodID]
	if !ok {
		v.bad.Addf(at+"/method_id", "is not a method of the house")
	}
	v.checkCleaner(at, method, t, &row)
	v.checkDose(at, visit, t, &row)
	for _, e := range value(t.EndPoints) {
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
		cleaner, ok := v.r.cleaner[*t.CleanerID]
		if !ok {
			v.bad.Addf(at+"/cleaner_id", "is not a cleaner of the house")
		}
		form = cleaner.Form
		if ok && method.Code != "" && !method.Wet {
			v.bad.Addf(at+"/cleaner_id", "%s is dry work and takes no cleaner", strings.ToLower(method.Name))
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
		row.AmountTyped = strconv.FormatFloat(t.Amount.Value, 'f', -1, 64) + " " + amountUnits[t.Amount.Unit]
	}
}

// reset sets clocks of a side back: light work the light ones only, deep work both.
func (v *visitSheet) reset(visit store.Visit, coil *coilDossier, work contract.TaskKind, surface uuid.UUID) {
	for _, task := range coil.tasks {
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
	return errors.Join(
		store.Insert(t, r.people...), store.Insert(t, r.reached...), store.Insert(t, r.findings...),
		store.Insert(t, r.soils...), store.Insert(t, r.treatments...), store.Insert(t, r.sides...), store.Insert(t, r.resets...),
	)
}

// clocksAfter says, for every task of the coils visited, which sides went back and when it is next due.
func (s *Service) clocksAfter(t store.Tenant, sheet visitSheet) ([]contract.ClockReset, error) {
	r, err := loadRegister(t, []uuid.UUID{sheet.req.UnitID})
	if err != nil {
		return nil, err
	}
	d, err := s.dossier(r, r.facts.Units[0])
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
	for _, coil := range d.coils {
		if !visited[coil.ID] {
			continue
		}
		for _, task := range coil.tasks {
			line := contract.ClockReset{
				CoilRole: contract.CoilRole(coil.Role), Kind: contract.TaskKind(task.Kind), Sides: []string{}, Due: task.due.Day,
				EveryDays: &task.EveryDays,
			}
			still := []string{}
			for _, side := range coil.sides {
				if back[[2]uuid.UUID{task.ID, side.ID}] {
					line.Sides = append(line.Sides, side.Name)
				} else {
					still = append(still, side.Name)
				}
			}
			line.StillDue = &still
			if task.open != nil {
				line.ProposedDays = &task.open.Days
			}
			out = append(out, line)
		}
	}
	return out, nil
}

// newestVisits is how many visits the list shows.
const newestVisits = 100

// Visits lists the newest visits.
func (s *Service) Visits(ctx context.Context, a Actor) ([]contract.VisitSummary, error) {
	t := s.tenant(ctx, a)
	visits, err := t.NewestVisits(newestVisits)
	if err != nil {
		return nil, err
	}
	units := []uuid.UUID{}
	for _, v := range visits {
		units = append(units, v.UnitID)
	}
	r, err := loadRegister(t, units)
	if err != nil {
		return nil, err
	}
	unit := store.Index(r.facts.Units, func(u store.Unit) uuid.UUID { return u.ID })
	out := []contract.VisitSummary{}
	for _, v := range visits {
		d := dossier{unit: unit[v.UnitID]}
		d.site, _ = r.standing(v.UnitID, calendar.Day(v.Day))
		for _, c := range r.coils[v.UnitID] {
			coil := coilDossier{Coil: c}
			for _, x := range r.surfaces[c.ID] {
				coil.sides = append(coil.sides, sideDossier{Surface: x})
			}
			d.coils = append(d.coils, coil)
		}
		out = append(out, r.visitSummary(d, v))
	}
	return out, nil
}

func (r *register) visitSummary(d dossier, v store.Visit) contract.VisitSummary {
	out := contract.VisitSummary{
		ID: v.ID, UnitID: v.UnitID, Tag: d.unit.Tag, Site: d.site.Name, Day: v.Day.Day(), Outcome: contract.Outcome(v.Outcome), Note: v.Note,
		People: []string{}, Sides: []contract.SideLook{}, Treatments: []contract.TreatmentLine{},
	}
	person := store.Index(r.people, func(p store.Person) uuid.UUID { return p.ID })
	for _, p := range r.visitPeople[v.ID] {
		out.People = append(out.People, person[p.PersonID].Name)
		out.Minutes += p.Minutes
	}
	sort.Strings(out.People)
	for _, coil := range d.coils {
		for _, side := range coil.sides {
			key := [2]uuid.UUID{v.ID, side.ID}
			at, ok := r.reached[key]
			if !ok {
				continue
			}
			look := contract.SideLook{CoilRole: contract.CoilRole(coil.Role), Side: side.Name, Reached: at.Reached, WhyNot: at.WhyNot, Soils: []string{}}
			for _, f := range r.findings[key] {
				seen := contract.Look{Grade: f.Grade, Seen: contract.Seen(f.Seen)}
				seen.BlockedShare = f.BlockedShare
				switch f.Phase {
				case phaseFirstLook:
					look.FirstLook = &seen
				case phaseOpenedUp:
					look.Found = &seen
				case phaseAsLeft:
					look.Left = &seen
				}
				for _, fs := range r.findingSoils[f.ID] {
					look.Soils = append(look.Soils, r.soilByID[fs.SoilID].Name)
				}
			}
			out.Sides = append(out.Sides, look)
		}
		for _, t := range r.treatments[v.ID] {
			if t.CoilID == coil.ID {
				out.Treatments = append(out.Treatments, r.treatmentLine(coil, t))
			}
		}
	}
	return out
}

func (r *register) treatmentLine(coil coilDossier, t store.Treatment) contract.TreatmentLine {
	line := contract.TreatmentLine{
		CoilRole: contract.CoilRole(coil.Role), Work: contract.TaskKind(t.Work), Method: r.method[t.MethodID].Name,
		Direction: contract.Direction(t.Direction), WaterParts: t.WaterParts, Amount: t.AmountTyped, AmountL: t.AmountL,
		EndPoints: []contract.EndPoint{}, Sides: []string{},
	}
	if t.CleanerID != nil {
		line.Cleaner = r.cleaner[*t.CleanerID].Name
	}
	for _, e := range t.EndPoints {
		line.EndPoints = append(line.EndPoints, contract.EndPoint(e))
	}
	for _, side := range coil.sides {
		if r.treated[t.ID][side.ID] {
			line.Sides = append(line.Sides, side.Name)
		}
	}
	return line
}
