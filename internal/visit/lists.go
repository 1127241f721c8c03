package visit

import (
	"fmt"
	"strings"

	"github.com/google/uuid"

	"nextround/core/heat"
	"nextround/internal/contract"
	"nextround/internal/optional"
)

// Ambients are the outdoor temperatures of a visit, by phase.
func Ambients(readings []contract.NewReading) map[contract.NewReadingPhase]*float64 {
	out := map[contract.NewReadingPhase]*float64{}
	for i, in := range readings {
		if heat.Kind(in.Kind) == heat.Ambient {
			out[in.Phase] = &readings[i].Value
		}
	}
	return out
}

// checkReadings judges each reading with what the register knows of the unit.
func (v *sheet) checkReadings() {
	readings := optional.Value(v.req.Readings)
	ambient := Ambients(readings)
	for i, in := range readings {
		at := fmt.Sprintf("/readings/%d", i)
		j, err := heat.Judge(heat.Reading{Kind: heat.Kind(in.Kind), Value: in.Value, Context: v.Context(in, ambient[in.Phase])})
		if err != nil {
			v.adopt(at, err)
			continue
		}
		if j.CauseNeeded && optional.Trim(in.Cause) == "" {
			v.Bad.Addf(at+"/cause", "out of limits: say what the cause is")
		}
		if in.CoilID != nil && v.coil(*in.CoilID) == nil {
			v.Bad.Addf(at+"/coil_id", "is not a coil of %s", v.Tag)
		}
	}
}

// checkLists checks what was watched, asked, advised, counted and noted.
func (v *sheet) checkLists() {
	seen := map[uuid.UUID]bool{}
	for i, w := range optional.Value(v.req.Watched) {
		at := fmt.Sprintf("/watched/%d", i)
		if !v.Watched[w.WatchID] {
			v.Bad.Addf(at+"/watch_id", "is not watched on %s", v.Tag)
		}
		if seen[w.WatchID] {
			v.Bad.Addf(at+"/watch_id", "is given twice")
		}
		seen[w.WatchID] = true
	}
	for i, w := range optional.Value(v.req.NewWatch) {
		at := fmt.Sprintf("/new_watch/%d", i)
		if strings.TrimSpace(w.What) == "" {
			v.Bad.Addf(at+"/what", "say what is to be watched")
		}
		if w.SurfaceID != nil && !v.isSide(*w.SurfaceID) {
			v.Bad.Addf(at+"/surface_id", "is not a side of %s", v.Tag)
		}
	}
	for i, x := range optional.Value(v.req.Symptoms) {
		if !v.Symptoms[x.SymptomID] {
			v.Bad.Addf(fmt.Sprintf("/symptoms/%d/symptom_id", i), "is not a symptom reported of %s", v.Tag)
		}
	}
	for i, x := range optional.Value(v.req.Advised) {
		if strings.TrimSpace(x.Text) == "" {
			v.Bad.Addf(fmt.Sprintf("/advised/%d/text", i), "is empty")
		}
	}
	counted := map[contract.CountBackWhat]bool{}
	for i, c := range optional.Value(v.req.Counts) {
		at := fmt.Sprintf("/counts/%d", i)
		if counted[c.What] {
			v.Bad.Addf(at+"/what", "is given twice")
		}
		counted[c.What] = true
		if c.Taken != c.Back && optional.Trim(c.Why) == "" {
			v.Bad.Addf(at+"/why", "%d of %d %s came back: say where the missing ones are", c.Back, c.Taken, c.What)
		}
	}
	for i, p := range optional.Value(v.req.Parts) {
		if strings.TrimSpace(p.Kind) == "" || strings.TrimSpace(p.Specification) == "" {
			v.Bad.Addf(fmt.Sprintf("/parts/%d/kind", i), "say what part it is, and its size or rating")
		}
	}
}
