package fieldwork

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"nextround/core/heat"
	"nextround/core/invalid"
	"nextround/core/method"
	"nextround/core/procedure"
	"nextround/core/soil"
	"nextround/core/workplan"
	"nextround/internal/contract"
	"nextround/internal/defaults"
	"nextround/internal/dossier"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
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

// checkDetails checks everything of a visit beside findings and treatments.
func (v *visitSheet) checkDetails(visit store.Visit) {
	v.checkSteps(visit)
	v.checkSurfaces(visit)
	v.tickCompanions(visit)
	v.checkIsolation(visit)
	v.checkReadings(visit)
	v.checkWatched(visit)
	v.checkSymptoms()
	v.checkChoices(visit)
	for i, x := range optional.Value(v.req.Advised) {
		text := strings.TrimSpace(x.Text)
		if text == "" {
			v.bad.Addf(fmt.Sprintf("/advised/%d/text", i), "is empty")
		}
		v.details.advice = append(v.details.advice, store.AdviceGiven{
			OrganisationID: visit.OrganisationID, ID: store.NewID(), VisitID: visit.ID, Text: text, Answer: string(x.Answer),
		})
	}
	v.checkCounts(visit)
	for i, p := range optional.Value(v.req.Parts) {
		row := store.Part{
			OrganisationID: visit.OrganisationID, ID: store.NewID(), UnitID: visit.UnitID, Kind: strings.TrimSpace(p.Kind),
			Specification: strings.TrimSpace(p.Specification), Quantity: p.Quantity, Note: strings.TrimSpace(p.Note),
		}
		if row.Kind == "" || row.Specification == "" {
			v.bad.Addf(fmt.Sprintf("/parts/%d/kind", i), "say what part it is, and its size or rating")
		}
		v.details.parts = append(v.details.parts, row)
	}
	if v.req.StartedAt != nil && v.req.FinishedAt != nil && v.req.FinishedAt.Before(*v.req.StartedAt) {
		v.bad.Addf("/finished_at", "is before the start")
	}
}

func (v *visitSheet) checkCounts(visit store.Visit) {
	seen := map[contract.CountBackWhat]bool{}
	for i, c := range optional.Value(v.req.Counts) {
		at := fmt.Sprintf("/counts/%d", i)
		if seen[c.What] {
			v.bad.Addf(at+"/what", "is given twice")
		}
		seen[c.What] = true
		if c.Taken != c.Back && optional.Trim(c.Why) == "" {
			v.bad.Addf(at+"/why", "%d of %d %s came back: say where the missing ones are", c.Back, c.Taken, c.What)
		}
		v.details.counts = append(v.details.counts, store.CountBack{
			OrganisationID: visit.OrganisationID, VisitID: visit.ID, What: string(c.What), Taken: c.Taken, Back: c.Back, Why: optional.Trim(c.Why),
		})
	}
}

// tags are what this visit was like, from the unit and from what was found and done.
func (v *visitSheet) tags() map[string]bool {
	tags := v.r.StandingTags(v.d, len(v.watch) > 0)
	tags["symptom"] = len(v.symptoms) > 0
	passes := []procedure.Pass{}
	for _, c := range v.req.Coils {
		for _, side := range c.Sides {
			for _, id := range optional.Value(side.SoilIds) {
				if tag, ok := procedure.SoilTags[v.r.SoilByID[id].Code]; ok {
					tags[tag] = true
				}
			}
			if f := side.Found; f != nil {
				tags["heavy_soil"] = tags["heavy_soil"] || soil.Grade(f.Grade) >= soil.Felt
				tags["core_packed"] = tags["core_packed"] || (f.Seen != contract.FaceLook && soil.Grade(f.Grade) >= soil.Blanket)
			}
		}
		for _, t := range c.Treatments {
			passes = append(passes, v.pass(t))
		}
	}
	maps.Copy(tags, procedure.PlanTags(passes))
	return tags
}

func (v *visitSheet) pass(t contract.VisitTreatment) procedure.Pass {
	out := procedure.Pass{Method: v.r.Method[t.MethodID].Code}
	if optional.Value(t.TakenOut) {
		out.Where = workplan.TakenOut
	}
	if t.CleanerID != nil {
		out.Cleaner = new(dossier.CleanerFacts(v.r.Cleaner[*t.CleanerID]))
	}
	return out
}

// jobs are what the visit was for: as it says, else as its treatments say, else a deep clean.
func (v *visitSheet) jobs() []procedure.Job {
	out := []procedure.Job{}
	for _, j := range optional.Value(v.req.Jobs) {
		out = append(out, procedure.Job(j))
	}
	if len(out) > 0 {
		return out
	}
	for _, c := range v.req.Coils {
		for _, t := range c.Treatments {
			if j := procedure.Job(t.Work); !slices.Contains(out, j) {
				out = append(out, j)
			}
		}
	}
	if len(out) == 0 {
		out = append(out, procedure.Deep)
	}
	return out
}

// checkSteps holds the steps against the template they were of: gates are not passed in silence.
func (v *visitSheet) checkSteps(visit store.Visit) {
	if v.req.Steps == nil {
		return
	}
	template := v.template
	steps := procedure.Compile(template, procedure.Visit{Jobs: v.jobs(), Tags: v.tags(), Rules: v.rules()})
	results := []procedure.Result{}
	for _, r := range *v.req.Steps {
		results = append(results, procedure.Result{Step: r.Step, State: procedure.State(r.State), Reason: optional.Trim(r.Reason), At: optional.Value(r.At)})
	}
	if dossier.Worked(v.req.Outcome) && !v.past { // gates are held against the visit when it first comes in
		v.adopt(organisation.Pointers(procedure.CheckResults(steps, results)))
	}
	for _, s := range steps {
		if s.Form == "rinse" && v.done(s.Code) && !v.past {
			v.checkRinse(s.Ticks)
		}
	}
	named := store.Index(template, func(s procedure.Step) string { return s.Code })
	maps.Copy(named, store.Index(steps, func(s procedure.Step) string { return s.Code })) // in the way it was done here
	seen := map[string]bool{}
	for i, r := range results {
		step, ok := named[r.Step]
		if !ok {
			v.bad.Addf(fmt.Sprintf("/steps/%d/step", i), "is not a step of this procedure")
			continue
		}
		if seen[r.Step] {
			continue // reported by the core
		}
		seen[r.Step] = true
		row := store.StepResult{
			OrganisationID: visit.OrganisationID, VisitID: visit.ID, Step: r.Step, Position: i, Phase: string(step.Phase), Text: step.Text,
			Gate: step.Gate, State: string(r.State), Reason: r.Reason,
		}
		if !r.At.IsZero() {
			row.At = new(r.At.UTC())
		}
		v.details.steps = append(v.details.steps, row)
	}
}

// checkRinse holds the end-points of what was washed against those a rinse has to reach.
func (v *visitSheet) checkRinse(ticks []string) {
	for i, c := range v.req.Coils {
		reached, last := map[string]bool{}, -1
		for k, t := range c.Treatments {
			for _, e := range optional.Value(t.EndPoints) {
				reached[string(e)] = true
			}
			if v.r.Method[t.MethodID].Wet {
				last = k
			}
		}
		for _, tick := range ticks {
			if last >= 0 && !reached[tick] {
				v.bad.Addf(fmt.Sprintf("/coils/%d/treatments/%d/end_points", i, last), "the rinse is done, by the rule of the organisation, when: %s", endPointWords[tick])
			}
		}
	}
}

// endPointWords name where a rinse ends.
var endPointWords = map[string]string{"clear_run_off": "the run-off is clear", "light_through_all": "light comes through all that was reached"}

// checkSurfaces checks wheel, blades, tray, base, trough, filter and grille.
func (v *visitSheet) checkSurfaces(visit store.Visit) {
	seen := map[contract.UnitPart]bool{}
	for i, p := range optional.Value(v.req.Surfaces) {
		at := fmt.Sprintf("/surfaces/%d", i)
		row := store.PartLook{OrganisationID: visit.OrganisationID, VisitID: visit.ID, Part: string(p.Part), Seen: string(contract.FaceLook), Grade: p.Grade, LeftGrade: p.Left}
		if p.Seen != nil {
			row.Seen = string(*p.Seen)
		}
		if seen[p.Part] {
			v.bad.Addf(at+"/part", "is given twice")
		}
		seen[p.Part] = true
		if !soil.Grade(p.Grade).Valid() {
			v.bad.Addf(at+"/grade", "must be a grade from 0 to 5")
		}
		switch {
		case p.Left == nil:
		case !soil.Grade(*p.Left).Valid():
			v.bad.Addf(at+"/left", "must be a grade from 0 to 5")
		case *p.Left > p.Grade:
			v.bad.Addf(at+"/left", "is worse than it was found")
		}
		v.details.surfaces = append(v.details.surfaces, row)
	}
	if len(seen) > 0 && !dossier.Worked(v.req.Outcome) {
		v.bad.Addf("/surfaces", "must be empty when nothing was done")
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

// adopt takes over the fields of an error.
func (v *visitSheet) adopt(err error) {
	var bad invalid.Error
	if errors.As(err, &bad) {
		v.bad = append(v.bad, bad...)
	}
}

// done says whether a step was ticked as done.
func (v *visitSheet) done(step string) bool {
	for _, r := range optional.Value(v.req.Steps) {
		if r.Step == step && string(r.State) == string(procedure.Done) {
			return true
		}
	}
	return false
}

// deadVolts is what a meter may show of nothing, in V; it matches the core's judgement of an isolation.
const deadVolts = .5

func (v *visitSheet) checkIsolation(visit store.Visit) {
	in := v.req.Isolation
	if in == nil {
		if v.done("isolate") || v.done("prove_dead") {
			v.bad.Addf("/isolation", "say where it was isolated, by what means, and what the meter showed")
		}
		return
	}
	row := store.IsolationProof{
		OrganisationID: visit.OrganisationID, VisitID: visit.ID, Point: strings.TrimSpace(in.Point), Means: string(in.Means),
		Secured: string(in.Secured), Discharged: in.Discharged, MeterTried: in.MeterTried, L1L2V: in.L1L2V, L1GroundV: in.L1GroundV,
		L2GroundV: in.L2GroundV, PersonID: in.PersonID,
	}
	if row.Point == "" {
		v.bad.Addf("/isolation/point", "say which breaker, disconnect or plug")
	}
	if in.PersonID != nil && !v.isPerson(*in.PersonID) {
		v.bad.Addf("/isolation/person_id", "is not a person of the organisation")
	}
	if in.At != nil {
		row.At = new(in.At.UTC())
	}
	proof := procedure.ProofOf(v.jobs(), v.tags(), v.rules())
	unmetered := proof == "heard" || (in.Means == contract.IsolationMeansPlug && in.Secured == contract.PlugInHand &&
		(proof == "plug" || v.rules().Answer("proof_of_dead") == "unplugged"))
	for _, p := range []struct {
		at, pair string
		volts    *float64
	}{{"l1_l2_v", "L1–L2", in.L1L2V}, {"l1_ground_v", "L1–ground", in.L1GroundV}, {"l2_ground_v", "L2–ground", in.L2GroundV}} {
		switch {
		case p.volts != nil && *p.volts > deadVolts:
			v.bad.Addf("/isolation/"+p.at, "%s still shows %g V: it is live, and must not be opened", p.pair, *p.volts)
		case p.volts == nil && v.done("prove_dead") && !unmetered:
			v.bad.Addf("/isolation/"+p.at, "say what the meter showed on %s", p.pair)
		}
	}
	if v.done("discharge") && !in.Discharged {
		v.bad.Addf("/isolation/discharged", "the step says done; confirm that the capacitors were discharged")
	}
	if v.done("prove_dead") && !unmetered && !in.MeterTried {
		v.bad.Addf("/isolation/meter_tried", "confirm that the meter was tried on a live source before and after")
	}
	if v.done("lock_tag") && in.Secured == contract.Not {
		v.bad.Addf("/isolation/secured", "the step says done; say whether it was locked, tagged or kept in the hand")
	}
	v.details.isolation = append(v.details.isolation, row)
}

func (v *visitSheet) isPerson(id uuid.UUID) bool {
	for _, p := range v.r.People {
		if p.ID == id {
			return true
		}
	}
	return false
}

func (v *visitSheet) rules() method.Rules { return v.r.Practice(v.d.Site.ID, v.d.Unit.ID) }

// checkReadings judges each reading with what the register knows of the unit.
func (v *visitSheet) checkReadings(visit store.Visit) {
	readings := optional.Value(v.req.Readings)
	ambient := map[contract.NewReadingPhase]*float64{}
	for i, in := range readings {
		if heat.Kind(in.Kind) == heat.Ambient {
			ambient[in.Phase] = &readings[i].Value
		}
	}
	for i, in := range readings {
		at := fmt.Sprintf("/readings/%d", i)
		facts := v.context(in, ambient[in.Phase])
		j, err := heat.Judge(heat.Reading{Kind: heat.Kind(in.Kind), Value: in.Value, Context: facts})
		if err != nil {
			v.adopt(invalid.Under(at, organisation.Pointers(err)))
			continue
		}
		cause := optional.Trim(in.Cause)
		if j.CauseNeeded && cause == "" {
			v.bad.Addf(at+"/cause", "out of limits: say what the cause is")
		}
		if in.CoilID != nil && v.coil(*in.CoilID) == nil {
			v.bad.Addf(at+"/coil_id", "is not a coil of %s", v.d.Unit.Tag)
		}
		v.details.readings = append(v.details.readings, store.Reading{
			OrganisationID: visit.OrganisationID, ID: store.NewID(), VisitID: visit.ID, CoilID: in.CoilID, Phase: string(in.Phase), Kind: in.Kind,
			Value: in.Value, Typed: optional.Trim(in.Typed), Source: string(in.Source), Context: store.ToJSON(facts), Verdict: string(j.Verdict),
			Judgement: store.ToJSON(j), Cause: cause,
		})
	}
}

// context is what a reading was taken with: what the phone says of the day, what the register says of the unit.
func (v *visitSheet) context(in contract.NewReading, ambient *float64) heat.Context {
	said, facts := optional.Value(in.Context), v.r.ReadingContext(v.d)
	facts.AmbientC, facts.AirOnC, facts.HeadControl, facts.WaterCooled, facts.Nameplate = said.AmbientC, said.AirOnC, said.HeadControl, said.WaterCooled, said.Nameplate
	if facts.AmbientC == nil {
		facts.AmbientC = ambient
	}
	if facts.Nameplate == nil {
		facts.Nameplate = nameplate(v.d.Unit, heat.Kind(in.Kind))
	}
	if facts.Refrigerant == "" {
		facts.Refrigerant = said.Refrigerant
	}
	return facts
}

// nameplate is what the register knows of the rated value of a kind of reading.
func nameplate(u store.Unit, kind heat.Kind) *float64 {
	switch kind {
	case heat.SupplyVolt:
		return u.Volts
	case heat.MotorAmps:
		return u.Amps
	}
	return nil
}

func (v *visitSheet) checkWatched(visit store.Visit) {
	open := store.Index(v.watch, func(w store.WatchItem) uuid.UUID { return w.ID })
	seen := map[uuid.UUID]bool{}
	for i, w := range optional.Value(v.req.Watched) {
		at := fmt.Sprintf("/watched/%d", i)
		if _, ok := open[w.WatchID]; !ok {
			v.bad.Addf(at+"/watch_id", "is not watched on %s", v.d.Unit.Tag)
		}
		if seen[w.WatchID] {
			v.bad.Addf(at+"/watch_id", "is given twice")
		}
		seen[w.WatchID] = true
		v.details.looks = append(v.details.looks, store.WatchLook{
			OrganisationID: visit.OrganisationID, WatchItemID: w.WatchID, VisitID: visit.ID, State: string(w.State), Note: optional.Trim(w.Note),
		})
	}
	for i, w := range optional.Value(v.req.NewWatch) {
		at := fmt.Sprintf("/new_watch/%d", i)
		what := strings.TrimSpace(w.What)
		if what == "" {
			v.bad.Addf(at+"/what", "say what is to be watched")
		}
		if w.SurfaceID != nil && !v.isSide(*w.SurfaceID) {
			v.bad.Addf(at+"/surface_id", "is not a side of %s", v.d.Unit.Tag)
		}
		v.details.opened = append(v.details.opened, store.WatchItem{
			OrganisationID: visit.OrganisationID, ID: store.NewID(), UnitID: visit.UnitID, SurfaceID: w.SurfaceID, VisitID: &visit.ID,
			What: what, Opened: visit.Day, AccountID: visit.AccountID,
		})
	}
}

func (v *visitSheet) isSide(id uuid.UUID) bool {
	for _, c := range v.d.Coils {
		for _, s := range c.Sides {
			if s.ID == id {
				return true
			}
		}
	}
	return false
}

func (v *visitSheet) checkSymptoms() {
	for i, x := range optional.Value(v.req.Symptoms) {
		ok := false
		for _, s := range v.symptoms {
			ok = ok || s.ID == x.SymptomID
		}
		if !ok {
			v.bad.Addf(fmt.Sprintf("/symptoms/%d/symptom_id", i), "is not a symptom reported of %s", v.d.Unit.Tag)
		}
	}
}

// checkChoices keeps the exceptions and, where the work was led step by step, holds what was used against the rules: a
// hard ban cannot be overridden, a soft one asks why.
func (v *visitSheet) checkChoices(visit store.Visit) {
	for q, c := range optional.Value(v.req.Choices) {
		if known, ok := method.QuestionByCode(q); !ok || !known.Recorded || !known.Has(c) {
			v.bad.Addf("/choices/"+q, "%q is not a choice that is recorded", c)
		}
	}
	aside := []string{}
	for i, x := range optional.Value(v.req.Exceptions) {
		at := fmt.Sprintf("/exceptions/%d", i)
		ban, ok := method.BanByCode(x.Ban)
		switch {
		case !ok:
			v.bad.Addf(at+"/ban", "is not a rule")
			continue
		case ban.Hard:
			v.bad.Addf(at+"/ban", "cannot be overridden: %s", ban.Text)
			continue
		case strings.TrimSpace(x.Reason) == "":
			v.bad.Addf(at+"/reason", "say why the rule was overridden")
		}
		aside = append(aside, x.Ban)
		v.details.exceptions = append(v.details.exceptions, store.RuleException{
			OrganisationID: visit.OrganisationID, ID: store.NewID(), VisitID: visit.ID, Ban: x.Ban, Question: ban.Question, Reason: strings.TrimSpace(x.Reason),
		})
	}
	if v.req.Steps == nil || v.past {
		return
	}
	for i, c := range v.req.Coils {
		coil := v.coil(c.CoilID)
		if coil == nil {
			continue
		}
		for k, t := range c.Treatments {
			if ban := v.banOn(*coil, c, t, aside); ban != nil {
				at := fmt.Sprintf("/coils/%d/treatments/%d", i, k)
				if ban.Hard {
					v.bad.Addf(at+"/method_id", "ruled out: %s", ban.Text)
				} else {
					v.bad.Addf("/exceptions", "%s Say why it was overridden (%s).", ban.Text, ban.Code)
				}
			}
		}
	}
}

// banOn is the rule that speaks against a treatment; nil when it is among the advice, or is of the organisation's own making.
func (v *visitSheet) banOn(coil dossier.Coil, c contract.VisitCoil, t contract.VisitTreatment, aside []string) *method.Ban {
	in := v.r.AdviceInput(v.d, coil)
	in.Work, in.Overrides = string(t.Work), aside
	in.Place.Water, in.Place.LowC = true, nil // what the tap and the weather were is the technician's word
	for _, side := range c.Sides {
		if side.Found != nil && soil.Grade(side.Found.Grade) >= in.Found.Grade {
			in.Found.Grade, in.Found.Through = soil.Grade(side.Found.Grade), side.Found.Seen != contract.FaceLook
			for _, id := range optional.Value(side.SoilIds) {
				in.Found.Kind = v.r.SoilByID[id].Code
			}
		}
	}
	use := workplan.Use{Method: v.r.Method[t.MethodID].Code}
	if optional.Value(t.TakenOut) {
		use.Where = workplan.TakenOut
	}
	if t.CleanerID != nil {
		use.Cleaner = v.r.Cleaner[*t.CleanerID].Code
	}
	ban, err := workplan.BanOn(in, use)
	if err != nil {
		return nil // a soil or grade that is wrong is reported at its own field
	}
	return ban
}

// mapCells keeps the face map of a look and gives the blocked share it comes to.
func (v *visitSheet) mapCells(at string, finding uuid.UUID, org uuid.UUID, l contract.Look) (share *float64, missed bool) {
	grades, seen := []soil.Grade{}, map[[2]int]bool{}
	for i, c := range optional.Value(l.Cells) {
		cell := fmt.Sprintf("%s/cells/%d", at, i)
		row := store.FindingCell{OrganisationID: org, FindingID: finding, RowNo: c.Row, ColumnNo: c.Column, Grade: c.Grade, WhyNot: optional.Trim(c.WhyNot)}
		if seen[[2]int{c.Row, c.Column}] {
			v.bad.Addf(cell, "is given twice")
			continue
		}
		seen[[2]int{c.Row, c.Column}] = true
		switch {
		case c.Grade == nil && row.WhyNot == "":
			v.bad.Addf(cell+"/why_not", "say why it was not reached, or give a grade")
			continue
		case c.Grade != nil && row.WhyNot != "":
			v.bad.Addf(cell+"/why_not", "a cell that was reached has no reason against it")
			continue
		case c.Grade != nil:
			grades = append(grades, soil.Grade(*c.Grade))
		default:
			missed = true
		}
		v.details.cells = append(v.details.cells, row)
	}
	if b, _, ok := soil.MapShare(grades); ok {
		share = &b
	}
	return share, missed
}

// checkDose checks what was loaded, used and returned, and how long it stood.
func (v *visitSheet) checkDose(at string, visit store.Visit, t contract.VisitTreatment, row *store.Treatment) {
	row.SettingID, row.PlannedL, row.LoadedL, row.ToppedUpL, row.ReturnedL = t.SettingID, t.PlannedL, t.LoadedL, t.ToppedUpL, t.ReturnedL
	row.MixL, row.RinseL, row.DwellS, row.OverDwell, row.Tip = t.MixL, t.RinseL, t.DwellS, optional.Trim(t.OverDwell), optional.Trim(t.Tip)
	row.TakenOut = optional.Value(t.TakenOut)
	if t.After != nil {
		row.AfterGrade, row.AfterSeen = &t.After.Grade, new(string(t.After.Seen))
		if !soil.Grade(t.After.Grade).Valid() {
			v.bad.Addf(at+"/after/grade", "must be a grade from 0 to 5")
		}
	}
	var cleaner store.Cleaner
	if t.CleanerID != nil {
		cleaner = v.r.Cleaner[*t.CleanerID]
	}
	if t.SettingID != nil {
		v.checkSetting(at, t, cleaner, row)
	}
	if t.DwellS != nil && !v.past && cleaner.DwellMinS != nil && *t.DwellS < *cleaner.DwellMinS && row.OverDwell == "" {
		v.bad.Addf(at+"/over_dwell", "it stood %s, less than its minimum of %d min: say why", time.Duration(*t.DwellS)*time.Second, *cleaner.DwellMinS/60)
	}
	if t.DwellS != nil && cleaner.DwellMaxS != nil && *t.DwellS > *cleaner.DwellMaxS && row.OverDwell == "" {
		over := time.Duration(*t.DwellS-*cleaner.DwellMaxS) * time.Second
		v.bad.Addf(at+"/over_dwell", "it stood %s past its maximum of %d min: say what was done about it", over, *cleaner.DwellMaxS/60)
	}
	loaded := optional.Value(t.LoadedL) + optional.Value(t.ToppedUpL)
	if optional.Value(t.ReturnedL) > loaded {
		v.bad.Addf(at+"/returned_l", "more came back than was loaded and topped up")
	}
	if t.CleanerID == nil {
		return
	}
	draw := func(kind string, litres float64) {
		if litres > 0 {
			v.details.moves = append(v.details.moves, store.StockMove{
				OrganisationID: visit.OrganisationID, ID: store.NewID(), CleanerID: *t.CleanerID, Kind: kind, Litres: litres, Day: visit.Day,
				VisitID: &visit.ID, AccountID: visit.AccountID, At: visit.SubmittedAt,
			})
		}
	}
	if t.LoadedL == nil { // what was used is all that is known
		draw("drawn", optional.Value(row.AmountL))
		return
	}
	used := method.Used(optional.Value(t.LoadedL), optional.Value(t.ToppedUpL), optional.Value(t.ReturnedL))
	switch {
	case row.AmountL == nil && used > 0:
		row.AmountL, row.AmountTyped = &used, fmt.Sprintf("%.4g L", used)
	case row.AmountL != nil && math.Abs(*row.AmountL-used) > .02*math.Max(used, .05):
		v.bad.Addf(at+"/amount/value", "loaded, topped up and returned come to %.3g L used", used)
	}
	draw("drawn", loaded)
	draw("returned", optional.Value(t.ReturnedL))
}

// checkSetting holds a sprayer's setting against the ratio and the cleaner.
func (v *visitSheet) checkSetting(at string, t contract.VisitTreatment, cleaner store.Cleaner, row *store.Treatment) {
	for _, s := range v.r.Sprayers {
		if s.ID != *t.SettingID {
			continue
		}
		switch {
		case cleaner.Form != string(method.Concentrate):
			ban, _ := method.BanByCode("mixing_head")
			v.bad.Addf(at+"/setting_id", "%s", ban.Text)
		case t.WaterParts == nil:
			row.WaterParts = new(s.WaterParts)
		case math.Abs(*t.WaterParts-s.WaterParts) > .01*math.Max(1, s.WaterParts):
			v.bad.Addf(at+"/water_parts", "%s, %s mixes %g to 1; it cannot make %g to 1", s.Sprayer, s.Name, s.WaterParts, *t.WaterParts)
		}
		return
	}
	v.bad.Addf(at+"/setting_id", "is not one of your sprayers' settings")
}

// readingLine is a stored reading with its sentence.
func readingLine(r store.Reading) (contract.ReadingLine, error) {
	facts, _ := heat.FactsOf(heat.Kind(r.Kind))
	out := contract.ReadingLine{
		Phase: r.Phase, Kind: r.Kind, Name: facts.Name, Unit: facts.Unit, Value: r.Value, Source: r.Source,
		Verdict: contract.ReadingLineVerdict(r.Verdict), Cause: r.Cause,
	}
	if r.Typed != "" {
		out.Typed = &r.Typed
	}
	err := r.Judgement.Into(&out.Judgement)
	out.Text = wording.Reading(out.Judgement)
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
