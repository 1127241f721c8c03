package visit

import (
	"fmt"
	"maps"

	"nextround/core/procedure"
	"nextround/core/soil"
	"nextround/core/workplan"
	"nextround/internal/contract"
	"nextround/internal/optional"
)

// tags are what this visit was like, from the unit and from what was found and done.
func (v *sheet) tags() map[string]bool {
	tags := maps.Clone(v.Standing)
	if tags == nil {
		tags = map[string]bool{}
	}
	tags["symptom"] = len(v.Symptoms) > 0
	passes := []procedure.Pass{}
	for _, c := range v.req.Coils {
		for _, side := range c.Sides {
			for _, id := range optional.Value(side.SoilIds) {
				if tag, ok := procedure.SoilTags[v.Soils[id]]; ok {
					tags[tag] = true
				}
			}
			if f := side.Found; f != nil {
				tags["heavy_soil"] = tags["heavy_soil"] || soil.Grade(f.Grade) >= soil.Felt
				tags["core_packed"] = tags["core_packed"] || (f.Seen.Valid() && f.Seen != contract.FaceLook && soil.Grade(f.Grade) >= soil.Blanket)
			}
		}
		for _, t := range c.Treatments {
			passes = append(passes, v.pass(t))
		}
	}
	maps.Copy(tags, procedure.PlanTags(passes))
	return tags
}

func (v *sheet) pass(t contract.VisitTreatment) procedure.Pass {
	out := procedure.Pass{Method: v.Methods[t.MethodID].Code}
	if optional.Value(t.TakenOut) {
		out.Where = workplan.TakenOut
	}
	if t.CleanerID != nil {
		out.Cleaner = new(v.Cleaners[*t.CleanerID])
	}
	return out
}

// checkSteps holds the steps against the template they were of: gates are not passed in silence.
func (v *sheet) checkSteps() {
	if v.req.Steps == nil {
		return
	}
	results := Results(v.req)
	if v.req.Outcome.Worked() && !v.Past { // gates are held against the visit when it first comes in
		v.adopt("", procedure.CheckResults(v.Steps, results))
	}
	for _, s := range v.Steps {
		if s.Form == "rinse" && v.done(s.Code) && !v.Past {
			v.checkRinse(s.Ticks)
		}
	}
	named := map[string]bool{}
	for _, list := range [][]procedure.Step{v.Template, v.Steps} {
		for _, s := range list {
			named[s.Code] = true
		}
	}
	for i, r := range results {
		if !named[r.Step] {
			v.Bad.Addf(fmt.Sprintf("/steps/%d/step", i), "is not a step of this procedure")
		}
	}
}

// Results are what became of the steps, as the core has it.
func Results(req contract.NewVisit) []procedure.Result {
	out := []procedure.Result{}
	for _, r := range optional.Value(req.Steps) {
		out = append(out, procedure.Result{Step: r.Step, State: procedure.State(r.State), Reason: optional.Trim(r.Reason), At: optional.Value(r.At)})
	}
	return out
}

// checkRinse holds the end-points of what was washed against those a rinse has to reach.
func (v *sheet) checkRinse(ticks []string) {
	for i, c := range v.req.Coils {
		reached, last := map[string]bool{}, -1
		for k, t := range c.Treatments {
			for _, e := range optional.Value(t.EndPoints) {
				reached[string(e)] = true
			}
			if v.Methods[t.MethodID].Wet {
				last = k
			}
		}
		for _, tick := range ticks {
			if last >= 0 && !reached[tick] {
				v.Bad.Addf(fmt.Sprintf("/coils/%d/treatments/%d/end_points", i, last), "the rinse is done, by the rule of the organisation, when: %s", endPointWords[tick])
			}
		}
	}
}

// endPointWords name where a rinse ends.
var endPointWords = map[string]string{"clear_run_off": "the run-off is clear", "light_through_all": "light comes through all that was reached"}

// done says whether a step was ticked as done.
func (v *sheet) done(step string) bool {
	for _, r := range optional.Value(v.req.Steps) {
		if r.Step == step && string(r.State) == string(procedure.Done) {
			return true
		}
	}
	return false
}
