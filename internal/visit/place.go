package visit

import (
	"strconv"
	"strings"

	"github.com/google/uuid"

	"nextround/core/heat"
	"nextround/core/procedure"
	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/wording"
)

// Refusal is one thing wrong with a visit, and the step of the work at which it is put right: empty where that is the end of
// the visit, with its people, its outcome and its note.
type Refusal struct {
	Field  string `json:"field"`
	Step   string `json:"step"`
	Reason string `json:"reason"`
}

// partSteps are the steps at which the unit's own surfaces are graded.
var partSteps = map[contract.UnitPart][]string{
	"wheel": {"wheel"}, "blades": {"fan_blades"}, "tray": {"drain_pan"}, "trough": {"trough"}, "base": {"base_debris"}, "filter": {"filters"}, "grille": {"grille_wash"},
}

// isolationSteps are the steps at which the record of the isolation is made, by its field; the first that the visit has.
var isolationSteps = map[string][]string{
	"point": {"isolate"}, "means": {"isolate"}, "secured": {"lock_tag", "isolate"}, "discharged": {"discharge"}, "": {"isolate", "prove_dead"},
	"l1_l2_v": {"prove_dead"}, "l1_ground_v": {"prove_dead"}, "l2_ground_v": {"prove_dead"}, "meter_tried": {"prove_dead", "isolate"},
}

// stepOf is the step at which a field of a visit is put right.
func stepOf(pointer string, req contract.NewVisit, steps []procedure.Step) string {
	p := strings.Split(strings.TrimPrefix(pointer, "/"), "/")
	part := func(i int) string {
		if i < len(p) {
			return p[i]
		}
		return ""
	}
	i, err := strconv.Atoi(part(1))
	if err != nil {
		i = -1
	}
	switch p[0] {
	case "steps":
		if results := optional.Value(req.Steps); i >= 0 && i < len(results) {
			return results[i].Step
		}
		return part(1)
	case "isolation":
		return firstOf(steps, isolationSteps[part(1)]...)
	case "surfaces":
		if parts := optional.Value(req.Surfaces); i >= 0 && i < len(parts) {
			return firstOf(steps, partSteps[parts[i].Part]...)
		}
	case "readings":
		if readings := optional.Value(req.Readings); i >= 0 && i < len(readings) {
			return formed(steps, "readings_"+string(readings[i].Phase))
		}
	case "counts":
		return firstOf(steps, "count_back", "count_out")
	case "coils":
		return coilStep(part, steps)
	}
	if form, ok := listForms[p[0]]; ok {
		return formed(steps, form)
	}
	return ""
}

// listForms are the forms on which the lists of a visit are filled in.
var listForms = map[string]string{
	"watched": "watch", "new_watch": "parts", "parts": "parts", "advised": "told", "symptoms": "told", "exceptions": "advice", "choices": "advice",
}

// coilStep is the step for a field of a coil: a look, the plan, the clock or the rinse.
func coilStep(part func(int) string, steps []procedure.Step) string {
	looks := []string{"opened_up", "first_look", "as_left"}
	switch part(2) {
	case "sides", "":
		switch part(4) {
		case "first_look":
			looks = []string{"first_look"}
		case "left":
			looks = []string{"as_left"}
		}
		return formed(steps, looks...)
	case "treatments":
		switch part(4) {
		case "dwell_s", "over_dwell":
			return formed(steps, "dwell", "advice")
		case "end_points":
			return formed(steps, "rinse")
		case "after":
			return formed(steps, "between", "advice")
		}
		return formed(steps, "advice")
	}
	return formed(steps, looks...)
}

// firstOf is the first of some steps that the visit has.
func firstOf(steps []procedure.Step, codes ...string) string {
	for _, code := range codes {
		for _, s := range steps {
			if s.Code == code {
				return code
			}
		}
	}
	return ""
}

// formed is the step that carries the first of some forms that the visit has.
func formed(steps []procedure.Step, forms ...string) string {
	for _, form := range forms {
		for _, s := range steps {
			if s.Form == form {
				return s.Code
			}
		}
	}
	return ""
}

// named names the side, the way of cleaning or the reading that a field belongs to, as a reason begins with it.
func (f *Facts) named(pointer string, req contract.NewVisit) string {
	p := strings.Split(strings.TrimPrefix(pointer, "/"), "/")
	at := func(i, most int) int {
		if i < len(p) {
			if n, err := strconv.Atoi(p[i]); err == nil && n < most {
				return n
			}
		}
		return -1
	}
	switch p[0] {
	case "readings":
		if i := at(1, len(optional.Value(req.Readings))); i >= 0 {
			facts, _ := heat.FactsOf(heat.Kind((*req.Readings)[i].Kind))
			return facts.Name + ": "
		}
	case "coils":
		i := at(1, len(req.Coils))
		if i < 0 || len(p) < 3 {
			return ""
		}
		if k := at(3, len(req.Coils[i].Treatments)); k >= 0 && p[2] == "treatments" {
			if m := f.Methods[req.Coils[i].Treatments[k].MethodID]; m.Name != "" {
				return m.Name + ": "
			}
		}
		if k := at(3, len(req.Coils[i].Sides)); k >= 0 && p[2] == "sides" {
			return f.sideName(req.Coils[i].CoilID, req.Coils[i].Sides[k].SurfaceID)
		}
	}
	return ""
}

func (f *Facts) sideName(coil, side uuid.UUID) string {
	if c := f.coil(coil); c != nil {
		for _, s := range c.Sides {
			if s.ID == side {
				return wording.UpperFirst(s.Name) + ": "
			}
		}
	}
	return ""
}
