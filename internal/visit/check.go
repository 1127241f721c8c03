package visit

import (
	"errors"
	"fmt"
	"slices"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/core/procedure"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/optional"
)

// Checked is what a visit comes to. Bad lists every field that is wrong, as JSON pointers.
type Checked struct {
	Bad invalid.Error
	// Jobs are the kinds of job the visit was for, Steps the steps that follow from them.
	Jobs  []procedure.Job
	Steps []procedure.Step
	// Partly are sides of which some of the face was not reached: they stay due.
	Partly map[uuid.UUID]bool
}

// sheet is a visit while it is checked.
type sheet struct {
	*Facts
	Checked
	req contract.NewVisit
	// like is what the visit was like: its tags.
	like map[string]bool
}

// Check holds a visit against the rules.
func Check(f *Facts, req contract.NewVisit) Checked {
	v := sheet{Facts: f, req: req, Checked: Checked{Partly: map[uuid.UUID]bool{}}}
	v.Jobs, v.like = v.jobs(), v.tags()
	if req.Steps != nil {
		v.Steps = procedure.Compile(f.Template, procedure.Visit{Jobs: v.Jobs, Tags: v.like, Rules: f.Rules})
	}
	v.checkDay()
	v.checkPeople()
	if req.Outcome.Worked() {
		v.checkWork()
	} else {
		if len(req.Coils) > 0 {
			v.Bad.Addf("/coils", "must be empty when nothing was done")
		}
		if optional.Trim(req.Note) == "" {
			v.Bad.Addf("/note", "say what stood in the way")
		}
	}
	v.checkSteps()
	v.checkSurfaces()
	v.checkIsolation()
	v.checkReadings()
	v.checkLists()
	v.checkChoices()
	return v.Checked
}

func (v *sheet) checkDay() {
	if v.req.Day > v.Today {
		v.Bad.Addf("/day", "is in the future")
	}
	if v.Commissioned != nil && v.req.Day < *v.Commissioned {
		v.Bad.Addf("/day", "is before the unit was commissioned")
	}
	switch {
	case v.Status == "retired" && (v.Retired == nil || v.req.Day >= *v.Retired):
		v.Bad.Addf("/unit_id", "%s is retired", v.Tag)
	case v.Status == "planned":
		v.Bad.Addf("/unit_id", "%s is not in service yet", v.Tag)
	}
	if v.req.StartedAt != nil && v.req.FinishedAt != nil && v.req.FinishedAt.Before(*v.req.StartedAt) {
		v.Bad.Addf("/finished_at", "is before the start")
	}
}

func (v *sheet) checkPeople() {
	if v.req.Outcome.Worked() && len(v.req.People) == 0 {
		v.Bad.Addf("/people", "say who did the work")
	}
	seen := map[uuid.UUID]bool{}
	for i, p := range v.req.People {
		at := fmt.Sprintf("/people/%d", i)
		if !v.People[p.PersonID] {
			v.Bad.Addf(at+"/person_id", "is not a person of the organisation")
		}
		if seen[p.PersonID] {
			v.Bad.Addf(at+"/person_id", "is given twice")
		}
		if p.Minutes < 1 || p.Minutes > 1440 {
			v.Bad.Addf(at+"/minutes", "must be between 1 and 1440 min")
		}
		seen[p.PersonID] = true
	}
}

// checkWork checks the coils: their sides, what was found and done.
func (v *sheet) checkWork() {
	if !v.req.CautionsRead && !v.Past {
		v.Bad.Addf("/cautions_read", "confirm that the cautions were read and followed")
	}
	if len(v.req.Coils) == 0 && !v.companionOnly() {
		v.Bad.Addf("/coils", "at least one coil is needed, with a side that was reached")
	}
	seen := map[uuid.UUID]bool{}
	missed := false
	for i, c := range v.req.Coils {
		at := fmt.Sprintf("/coils/%d", i)
		coil := v.coil(c.CoilID)
		switch {
		case coil == nil:
			v.Bad.Addf(at+"/coil_id", "is not a coil of %s", v.Tag)
			continue
		case seen[c.CoilID]:
			v.Bad.Addf(at+"/coil_id", "is given twice")
			continue
		}
		seen[c.CoilID] = true
		missed = v.checkCoil(at, coil, c) || missed
	}
	if missed && v.req.Outcome == contract.OutcomeDone {
		v.Bad.Addf("/outcome", "a side, or part of one, was not reached: the outcome is partly done")
	}
}

// companionOnly reports whether the visit was for filters, grilles, tablets, drain or pump alone: no coil was touched.
func (v *sheet) companionOnly() bool {
	return len(v.Jobs) == 1 && v.Jobs[0] == procedure.Companion && len(optional.Value(v.req.Steps)) > 0
}

// checkCoil checks one coil of the visit and reports whether a side was missed.
func (v *sheet) checkCoil(at string, coil *Coil, c contract.VisitCoil) (missed bool) {
	reached, given := map[uuid.UUID]bool{}, map[uuid.UUID]int{}
	for i, side := range c.Sides {
		if _, twice := given[side.SurfaceID]; twice {
			v.Bad.Addf(fmt.Sprintf("%s/sides/%d/surface_id", at, i), "is given twice")
		}
		given[side.SurfaceID] = i
	}
	some := false
	for _, s := range coil.Sides {
		i, ok := given[s.ID]
		if !ok {
			v.Bad.Addf(at+"/sides", "%s: say whether it was reached", s.Name)
			continue
		}
		delete(given, s.ID)
		side := c.Sides[i]
		v.checkSide(fmt.Sprintf("%s/sides/%d", at, i), side)
		reached[s.ID] = side.Reached
		some = some || side.Reached
		missed = missed || !side.Reached || v.Partly[s.ID]
	}
	for _, i := range given {
		v.Bad.Addf(fmt.Sprintf("%s/sides/%d/surface_id", at, i), "is not a side of this coil")
	}
	if !some {
		v.Bad.Addf(at+"/sides", "no side was reached: leave the coil out or choose another outcome")
	}
	treated := map[uuid.UUID]bool{}
	for i, t := range c.Treatments {
		v.checkTreatment(fmt.Sprintf("%s/treatments/%d", at, i), t, reached, treated)
	}
	for i, side := range c.Sides {
		if treated[side.SurfaceID] && side.Left == nil {
			v.Bad.Addf(fmt.Sprintf("%s/sides/%d/left", at, i), "say how it was left")
		}
		if !treated[side.SurfaceID] && side.Left != nil {
			v.Bad.Addf(fmt.Sprintf("%s/sides/%d/left", at, i), "no treatment names this side")
		}
	}
	return missed
}

func (v *sheet) checkSide(at string, side contract.VisitSide) {
	if !side.Reached {
		if optional.Trim(side.WhyNot) == "" {
			v.Bad.Addf(at+"/why_not", "say why it was not reached")
		}
		if side.FirstLook != nil || side.Found != nil || side.Left != nil {
			v.Bad.Addf(at+"/reached", "a side that was not reached has no grades")
		}
		return
	}
	if side.Found == nil {
		v.Bad.Addf(at+"/found", "say what was found once opened up")
		return
	}
	for _, l := range []struct {
		name string
		look *contract.Look
	}{{"first_look", side.FirstLook}, {"found", side.Found}, {"left", side.Left}} {
		if l.look != nil && v.checkLook(at+"/"+l.name, *l.look) && l.name != "first_look" {
			v.Partly[side.SurfaceID] = true
		}
	}
	for i, id := range optional.Value(side.SoilIds) {
		if _, ok := v.Soils[id]; !ok {
			v.Bad.Addf(fmt.Sprintf("%s/soil_ids/%d", at, i), "is not a soil of the organisation")
		}
	}
}

// checkLook checks a grade and its face map, and reports whether a cell was missed.
func (v *sheet) checkLook(at string, l contract.Look) (missed bool) {
	v.grade(at+"/grade", l.Grade)
	if !l.Seen.Valid() {
		v.Bad.Addf(at+"/seen", "say how you saw it")
	}
	seen := map[[2]int]bool{}
	for i, c := range optional.Value(l.Cells) {
		cell, why := fmt.Sprintf("%s/cells/%d", at, i), optional.Trim(c.WhyNot)
		switch {
		case seen[[2]int{c.Row, c.Column}]:
			v.Bad.Addf(cell, "is given twice")
		case c.Grade == nil && why == "":
			v.Bad.Addf(cell+"/why_not", "say why it was not reached, or give a grade")
		case c.Grade != nil && why != "":
			v.Bad.Addf(cell+"/why_not", "a cell that was reached has no reason against it")
		case c.Grade == nil:
			missed = true
		}
		seen[[2]int{c.Row, c.Column}] = true
	}
	return missed
}

func (v *sheet) grade(at string, g int) {
	if !soil.Grade(g).Valid() {
		v.Bad.Addf(at, "must be a grade from 0 to 5")
	}
}

// checkSurfaces checks wheel, blades, tray, base, trough, filter and grille.
func (v *sheet) checkSurfaces() {
	seen := map[contract.UnitPart]bool{}
	for i, p := range optional.Value(v.req.Surfaces) {
		at := fmt.Sprintf("/surfaces/%d", i)
		if seen[p.Part] {
			v.Bad.Addf(at+"/part", "is given twice")
		}
		seen[p.Part] = true
		v.grade(at+"/grade", p.Grade)
		switch {
		case p.Left == nil:
		case !soil.Grade(*p.Left).Valid():
			v.grade(at+"/left", *p.Left)
		case *p.Left > p.Grade:
			v.Bad.Addf(at+"/left", "is worse than it was found")
		}
	}
	if len(seen) > 0 && !v.req.Outcome.Worked() {
		v.Bad.Addf("/surfaces", "must be empty when nothing was done")
	}
}

// adopt takes over the fields of an error of the core, whose paths become pointers below a field.
func (v *sheet) adopt(at string, err error) {
	var bad invalid.Error
	if errors.As(err, &bad) {
		for _, f := range bad {
			v.Bad = append(v.Bad, invalid.Field{Path: at + invalid.Pointer(f.Path), Reason: f.Reason})
		}
	}
}

// jobs are what the visit was for: as it says, else as its treatments say, else a deep clean.
func (v *sheet) jobs() []procedure.Job {
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
