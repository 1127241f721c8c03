package fieldwork

import (
	"fmt"
	"maps"
	"strconv"
	"strings"

	"github.com/google/uuid"

	"nextround/core/heat"
	"nextround/core/invalid"
	"nextround/core/method"
	"nextround/core/procedure"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/defaults"
	"nextround/internal/dossier"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
	"nextround/internal/visit"
	"nextround/internal/wording"
)

// detailRows are what a visit holds beside what was found and done.
type detailRows struct {
	steps      []store.StepResult
	isolation  []store.IsolationProof
	readings   []store.Reading
	cells      []store.FindingCell
	exceptions []store.RuleException
	looks      []store.WatchLook
	opened     []store.WatchItem
	advice     []store.AdviceGiven
	counts     []store.CountBack
	parts      []store.Part
	moves      []store.StockMove
	surfaces   []store.PartLook
	ticks      []store.TaskTick
}

// store writes the details. Parts, watch items and stock belong to the unit and the organisation; an amended visit takes over
// what its older version opened instead of opening it again.
func (r *detailRows) store(t store.Tenant, first bool) error {
	if err := store.Insert(t, r.steps...); err != nil {
		return err
	}
	if err := store.Insert(t, r.isolation...); err != nil {
		return err
	}
	if err := store.Insert(t, r.readings...); err != nil {
		return err
	}
	if err := store.Insert(t, r.cells...); err != nil {
		return err
	}
	if err := store.Insert(t, r.exceptions...); err != nil {
		return err
	}
	if err := store.Insert(t, r.looks...); err != nil {
		return err
	}
	if err := store.Insert(t, r.advice...); err != nil {
		return err
	}
	if err := store.Insert(t, r.counts...); err != nil {
		return err
	}
	if err := store.Insert(t, r.moves...); err != nil {
		return err
	}
	if err := store.Insert(t, r.surfaces...); err != nil {
		return err
	}
	if err := store.Insert(t, r.ticks...); err != nil {
		return err
	}
	if !first {
		return nil
	}
	if err := store.Insert(t, r.opened...); err != nil {
		return err
	}
	return store.Insert(t, r.parts...)
}

// fillDetails fills the rows of everything of a visit beside findings and treatments.
func (v *visitSheet) fillDetails(visit store.Visit) {
	v.fillSteps(visit)
	v.fillSurfaces(visit)
	v.tickCompanions(visit)
	v.fillIsolation(visit)
	v.fillReadings(visit)
	v.fillWatched(visit)
	for _, x := range optional.Value(v.req.Exceptions) {
		ban, _ := method.BanByCode(x.Ban)
		v.details.exceptions = append(v.details.exceptions, store.RuleException{
			OrganisationID: visit.OrganisationID, ID: store.NewID(), VisitID: visit.ID, Ban: x.Ban, Question: ban.Question, Reason: strings.TrimSpace(x.Reason),
		})
	}
	for _, x := range optional.Value(v.req.Advised) {
		v.details.advice = append(v.details.advice, store.AdviceGiven{
			OrganisationID: visit.OrganisationID, ID: store.NewID(), VisitID: visit.ID, Text: strings.TrimSpace(x.Text), Answer: string(x.Answer),
		})
	}
	for _, c := range optional.Value(v.req.Counts) {
		v.details.counts = append(v.details.counts, store.CountBack{
			OrganisationID: visit.OrganisationID, VisitID: visit.ID, What: string(c.What), Taken: c.Taken, Back: c.Back, Why: optional.Trim(c.Why),
		})
	}
	for _, p := range optional.Value(v.req.Parts) {
		v.details.parts = append(v.details.parts, store.Part{
			OrganisationID: visit.OrganisationID, ID: store.NewID(), UnitID: visit.UnitID, Kind: strings.TrimSpace(p.Kind),
			Specification: strings.TrimSpace(p.Specification), Quantity: p.Quantity, Note: strings.TrimSpace(p.Note),
		})
	}
}

// fillSteps keeps what became of each step, in the words it had here.
func (v *visitSheet) fillSteps(row store.Visit) {
	named := store.Index(v.template, func(s procedure.Step) string { return s.Code })
	maps.Copy(named, store.Index(v.checked.Steps, func(s procedure.Step) string { return s.Code })) // in the way it was done here
	for i, r := range visit.Results(v.req) {
		step := named[r.Step]
		result := store.StepResult{
			OrganisationID: row.OrganisationID, VisitID: row.ID, Step: r.Step, Position: i, Phase: string(step.Phase), Text: step.Text,
			Gate: step.Gate, State: string(r.State), Reason: r.Reason,
		}
		if !r.At.IsZero() {
			result.At = new(r.At.UTC())
		}
		v.details.steps = append(v.details.steps, result)
	}
}

// fillSurfaces keeps wheel, blades, tray, base, trough, filter and grille.
func (v *visitSheet) fillSurfaces(visit store.Visit) {
	for _, p := range optional.Value(v.req.Surfaces) {
		v.details.surfaces = append(v.details.surfaces, store.PartLook{
			OrganisationID: visit.OrganisationID, VisitID: visit.ID, Part: string(p.Part), Seen: optional.Or(p.Seen, string(contract.FaceLook)),
			Grade: p.Grade, LeftGrade: p.Left,
		})
	}
}

// tickedBy is the companion clock that a step done ticks.
var tickedBy = map[string]string{
	"filters": "filter", "filter_in": "filter", "grille_wash": "grille", "tablets": "tablet", "drain_flush": "drain", "drain_pan": "drain", "pump_test": "pump",
	"foam_pan": "pump", "drain_test": "pump",
}

// tickCompanions ticks the companion clocks of the steps that were done.
func (v *visitSheet) tickCompanions(visit store.Visit) {
	ticked := map[string]bool{}
	for _, r := range optional.Value(v.req.Steps) {
		if kind := tickedBy[r.Step]; kind != "" && r.State == contract.StepResultStateDone {
			ticked[kind] = true
		}
	}
	for _, task := range v.r.Companions[v.d.Unit.ID] {
		if ticked[task.Kind] {
			v.details.ticks = append(v.details.ticks, store.TaskTick{
				OrganisationID: visit.OrganisationID, ID: store.NewID(), TaskID: task.ID, Day: visit.Day, Note: "at a visit", AccountID: visit.AccountID,
				VisitID: &visit.ID, At: visit.SubmittedAt,
			})
		}
	}
}

func (v *visitSheet) fillIsolation(visit store.Visit) {
	in := v.req.Isolation
	if in == nil {
		return
	}
	row := store.IsolationProof{
		OrganisationID: visit.OrganisationID, VisitID: visit.ID, Point: strings.TrimSpace(in.Point), Means: string(in.Means),
		Secured: string(in.Secured), Discharged: in.Discharged, MeterTried: in.MeterTried, L1L2V: in.L1L2V, L1GroundV: in.L1GroundV,
		L2GroundV: in.L2GroundV, PersonID: in.PersonID,
	}
	if in.At != nil {
		row.At = new(in.At.UTC())
	}
	v.details.isolation = append(v.details.isolation, row)
}

// fillReadings keeps each reading with its judgement.
func (v *visitSheet) fillReadings(row store.Visit) {
	readings, facts := optional.Value(v.req.Readings), v.known
	ambient := visit.Ambients(readings)
	for _, in := range readings {
		context := facts.Context(in, ambient[in.Phase])
		j, err := heat.Judge(heat.Reading{Kind: heat.Kind(in.Kind), Value: in.Value, Context: context})
		if err != nil {
			continue // it was checked before
		}
		v.details.readings = append(v.details.readings, store.Reading{
			OrganisationID: row.OrganisationID, ID: store.NewID(), VisitID: row.ID, CoilID: in.CoilID, Phase: string(in.Phase), Kind: in.Kind,
			Value: in.Value, Typed: optional.Trim(in.Typed), Source: string(in.Source), Context: store.ToJSON(context), Verdict: string(j.Verdict),
			Judgement: store.ToJSON(j), Cause: optional.Trim(in.Cause),
		})
	}
}

func (v *visitSheet) fillWatched(visit store.Visit) {
	for _, w := range optional.Value(v.req.Watched) {
		v.details.looks = append(v.details.looks, store.WatchLook{
			OrganisationID: visit.OrganisationID, WatchItemID: w.WatchID, VisitID: visit.ID, State: string(w.State), Note: optional.Trim(w.Note),
		})
	}
	for _, w := range optional.Value(v.req.NewWatch) {
		v.details.opened = append(v.details.opened, store.WatchItem{
			OrganisationID: visit.OrganisationID, ID: store.NewID(), UnitID: visit.UnitID, SurfaceID: w.SurfaceID, VisitID: &visit.ID,
			What: strings.TrimSpace(w.What), Opened: visit.Day, AccountID: visit.AccountID,
		})
	}
}

// mapCells keeps the face map of a look and gives the blocked share it comes to.
func (v *visitSheet) mapCells(finding uuid.UUID, org uuid.UUID, l contract.Look) (share *float64) {
	grades := []soil.Grade{}
	for _, c := range optional.Value(l.Cells) {
		if c.Grade != nil {
			grades = append(grades, soil.Grade(*c.Grade))
		}
		v.details.cells = append(v.details.cells, store.FindingCell{
			OrganisationID: org, FindingID: finding, RowNo: c.Row, ColumnNo: c.Column, Grade: c.Grade, WhyNot: optional.Trim(c.WhyNot),
		})
	}
	if b, _, ok := soil.MapShare(grades); ok {
		share = &b
	}
	return share
}

// fillDose keeps what was loaded, used and returned, and how long it stood, and draws it from stock.
func (v *visitSheet) fillDose(of store.Visit, t contract.VisitTreatment, row *store.Treatment) {
	row.SettingID, row.PlannedL, row.LoadedL, row.ToppedUpL, row.ReturnedL = t.SettingID, t.PlannedL, t.LoadedL, t.ToppedUpL, t.ReturnedL
	row.MixL, row.RinseL, row.DwellS, row.OverDwell, row.Tip = t.MixL, t.RinseL, t.DwellS, optional.Trim(t.OverDwell), optional.Trim(t.Tip)
	row.TakenOut = optional.Value(t.TakenOut)
	if t.After != nil {
		row.AfterGrade, row.AfterSeen = &t.After.Grade, new(string(t.After.Seen))
	}
	if t.Amount != nil {
		l := visit.Litres(*t.Amount)
		row.AmountL = &l
		row.AmountTyped = strconv.FormatFloat(t.Amount.Value, 'f', -1, 64) + " " + dossier.AmountUnits[t.Amount.Unit]
	}
	for _, s := range v.r.Sprayers {
		if t.SettingID != nil && s.ID == *t.SettingID && t.WaterParts == nil {
			row.WaterParts = new(s.WaterParts)
		}
	}
	if t.CleanerID == nil {
		return
	}
	draw := func(kind string, litres float64) {
		if litres > 0 {
			v.details.moves = append(v.details.moves, store.StockMove{
				OrganisationID: of.OrganisationID, ID: store.NewID(), CleanerID: *t.CleanerID, Kind: kind, Litres: litres, Day: of.Day,
				VisitID: &of.ID, AccountID: of.AccountID, At: of.SubmittedAt,
			})
		}
	}
	if t.LoadedL == nil { // what was used is all that is known
		draw("drawn", optional.Value(row.AmountL))
		return
	}
	if used := method.Used(*t.LoadedL, optional.Value(t.ToppedUpL), optional.Value(t.ReturnedL)); row.AmountL == nil && used > 0 {
		row.AmountL, row.AmountTyped = &used, fmt.Sprintf("%.4g L", used)
	}
	draw("drawn", *t.LoadedL+optional.Value(t.ToppedUpL))
	draw("returned", optional.Value(t.ReturnedL))
}

// readingLine is a stored reading with its sentence.
func readingLine(r store.Reading, us bool) (contract.ReadingLine, error) {
	facts, _ := heat.FactsOf(heat.Kind(r.Kind))
	out := contract.ReadingLine{
		Phase: r.Phase, Kind: r.Kind, Name: facts.Name, Unit: facts.Unit, Value: r.Value, Source: r.Source,
		Verdict: contract.ReadingLineVerdict(r.Verdict), Cause: r.Cause,
	}
	if r.Typed != "" {
		out.Typed = &r.Typed
	}
	err := r.Judgement.Into(&out.Judgement)
	out.Text = wording.ReadingIn(out.Judgement, us)
	return out, err
}

// loadSheet reads what the details of a visit are held against.
func (s *Service) loadSheet(t store.Tenant, v *visitSheet, supersedes *uuid.UUID) (err error) {
	if v.template, err = s.templateOf(t, v.r.Catalogue, v.d.Class, v.req.ProcedureVersion); err != nil {
		return err
	}
	if v.watch, err = t.OpenWatch(v.d.Unit.ID); err != nil {
		return err
	}
	if v.symptoms, err = t.OpenSymptoms(v.d.Unit.ID); err != nil || supersedes == nil {
		return err
	}
	// A version in place of another may say again what that one said of items since closed.
	old, err := t.LoadVisitDetails([]uuid.UUID{*supersedes})
	if err != nil {
		return err
	}
	v.symptoms = append(v.symptoms, old.Symptoms...)
	looked, err := store.Where[store.WatchItem](t, "id", store.Keys(old.Looks, func(x store.WatchLook) uuid.UUID { return x.WatchItemID }), "id")
	v.watch = append(v.watch, looked...)
	return err
}

// templateOf is a class's template in the version a visit was led by; the one in force when none is named.
func (s *Service) templateOf(t store.Tenant, c organisation.Catalogue, class store.EquipmentClass, version *int) ([]procedure.Step, error) {
	inForce, err := c.Template(class)
	if err != nil || version == nil || *version == inForce.Version {
		return inForce.Steps, err
	}
	if *version == 0 {
		return defaults.Procedure(class.Code), nil
	}
	versions, err := store.Where[store.ProcedureVersion](t, "class_id", []uuid.UUID{class.ID}, "version")
	if err != nil {
		return nil, err
	}
	for _, v := range versions {
		if v.Version == *version {
			var steps []procedure.Step
			return steps, v.Steps.Into(&steps)
		}
	}
	return nil, invalid.At("/procedure_version", "there is no version %d of this procedure", *version)
}

// followVisit carries what a visit says to where it belongs: symptoms answered, dates brought forward that are done.
func (s *Service) followVisit(t store.Tenant, v visitSheet, visit store.Visit) error {
	if visit.Supersedes != nil {
		if err := t.MoveOpened(*visit.Supersedes, visit.ID); err != nil {
			return err
		}
	}
	for _, x := range optional.Value(v.req.Symptoms) {
		if err := t.AnswerSymptom(x.SymptomID, visit.ID, x.CoilWasCause); err != nil {
			return err
		}
	}
	return t.BackToClock(store.Keys(v.rows.resets, func(x store.TaskReset) uuid.UUID { return x.TaskID }))
}
