package procedure

import (
	"fmt"
	"strings"
	"time"

	"nextround/core/invalid"
)

// State is what became of a step.
type State string

// The states.
const (
	Done    State = "done"
	Skipped State = "skipped"
)

// Result is what became of one step.
type Result struct {
	Step   string    `json:"step"`
	State  State     `json:"state"`
	Reason string    `json:"reason,omitempty"`
	At     time.Time `json:"at,omitzero"`
}

// CheckResults says which gates are shut, which results do not belong, and which gates were passed out of order, at the
// result's index, or under the code of a gate that is not among them.
func CheckResults(steps []Step, results []Result) error {
	var bad invalid.Error
	known := map[string]Step{}
	for _, s := range steps {
		known[s.Code] = s
	}
	given := map[string]Result{}
	for i, r := range results {
		at := fmt.Sprintf("steps[%d]", i)
		switch _, twice := given[r.Step]; {
		case twice:
			bad.Addf(at+".step", "is given twice")
		case r.State != Done && r.State != Skipped:
			bad.Addf(at+".state", "must be done or skipped")
		case r.State == Skipped && strings.TrimSpace(r.Reason) == "" && known[r.Step].Gate:
			bad.Addf(at+".reason", "%s: say why it was skipped; the manager will see it", known[r.Step].Text)
		}
		given[r.Step] = r
	}
	var last Result
	for _, s := range steps {
		if !s.Gate {
			continue
		}
		r, ok := given[s.Code]
		if !ok {
			bad.Addf("steps."+s.Code, "%s: done, or why it was skipped", s.Text)
			continue
		}
		if !r.At.IsZero() && r.At.Before(last.At) && s.Phase == Safe {
			bad.Addf("steps."+s.Code, "%s was ticked before the gate in front of it", s.Text)
		}
		if !r.At.IsZero() && s.Phase == Safe {
			last = r
		}
	}
	return bad.Err()
}
