// Package procedure picks the steps of a visit out of a class's template and says which gates are still shut.
package procedure

import (
	"fmt"
	"strings"
	"time"

	"nextround/core/invalid"
)

// Phase groups steps on the rail of a visit.
type Phase string

// The phases in the order of the work.
const (
	Arrive Phase = "arrive"
	Safe   Phase = "safe"
	Look   Phase = "look"
	Dry    Phase = "dry"
	Wet    Phase = "wet"
	Check  Phase = "check"
	Close  Phase = "close"
	Tell   Phase = "tell"
)

// Phases in order.
var Phases = []Phase{Arrive, Safe, Look, Dry, Wet, Check, Close, Tell}

// Step is one thing to do, with its reason.
type Step struct {
	Code     string   `json:"code"`
	Phase    Phase    `json:"phase"`
	Text     string   `json:"text"`
	Why      string   `json:"why"`
	Cautions []string `json:"cautions,omitempty"`
	// Gate steps cannot be passed in silence: skipping one needs a reason, which reaches the manager.
	Gate bool `json:"gate,omitempty"`
	// Photo says what to photograph, Note what to write down.
	Photo string `json:"photo,omitempty"`
	Note  string `json:"note,omitempty"`
	// Form is the part of the visit's record that belongs to the step.
	Form string `json:"form,omitempty"`
	// When lists tags that must all hold; one with ! must not.
	When []string `json:"when,omitempty"`
}

// Forms are the parts of the record a step may carry.
var Forms = []string{
	"access", "isolation", "first_look", "opened_up", "advice", "dwell", "rinse", "as_left", "readings_before", "readings_after",
	"count", "watch", "parts", "told",
}

// Tags are what a visit is like; When of a step is held against them.
var Tags = []string{
	"light", "deep", "wet", "indoors", "outdoors", "roof", "plug_in", "slabs", "corrosive", "aerosol", "flammable", "near_food",
	"occupied", "ladder", "two_people", "grease", "leaf", "biofilm", "watched", "pan", "cooled_goods", "base_trough", "wheel",
	"opens_electrics",
}

// SoilTags maps the code of a soil found to the tag it brings.
var SoilTags = map[string]string{"grease": "grease", "leaf_grass": "leaf", "seed_fluff": "leaf", "biofilm": "biofilm"}

// Pick gives the steps of a template that apply, in the order of the phases and, within them, of the template.
func Pick(template []Step, tags map[string]bool) []Step {
	out := []Step{}
	for _, phase := range Phases {
		for _, s := range template {
			if s.Phase == phase && s.applies(tags) {
				out = append(out, s)
			}
		}
	}
	return out
}

func (s Step) applies(tags map[string]bool) bool {
	for _, w := range s.When {
		if tag, not := strings.CutPrefix(w, "!"); not == tags[tag] {
			return false
		}
	}
	return true
}

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
// result's index.
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
			bad.Addf("steps", "%s: done, or why it was skipped", s.Text)
			continue
		}
		if !r.At.IsZero() && r.At.Before(last.At) && s.Phase == Safe {
			bad.Addf("steps", "%s was ticked before the gate in front of it", s.Text)
		}
		if !r.At.IsZero() && s.Phase == Safe {
			last = r
		}
	}
	return bad.Err()
}

// Needed are the steps no template may lack, whatever the class.
var Needed = []string{
	"identify", "reach", "tell_occupants", "isolate", "prove_dead", "open_up", "first_look", "opened_look", "loosen_dry", "rinse_end",
	"drain_pan", "count_back", "close_up", "dry_seen", "restore_power", "readings_after", "tell_site",
}

// CheckTemplate says what is wrong with a template: a needed step missing, a step without text or reason, two of one
// code, a word that is not a phase, form or tag, or no way through the wet or dry part.
func CheckTemplate(steps []Step) error {
	var bad invalid.Error
	have := map[string]bool{}
	for i, s := range steps {
		at := fmt.Sprintf("steps[%d]", i)
		if strings.TrimSpace(s.Code) == "" || have[s.Code] {
			bad.Addf(at+".code", "each step needs a code of its own")
		}
		have[s.Code] = true
		if strings.TrimSpace(s.Text) == "" {
			bad.Addf(at+".text", "is empty")
		}
		if strings.TrimSpace(s.Why) == "" {
			bad.Addf(at+".why", "%s has no reason", s.Code)
		}
		if !one(Phases, s.Phase) {
			bad.Addf(at+".phase", "%q is not a phase", s.Phase)
		}
		if s.Form != "" && !one(Forms, s.Form) {
			bad.Addf(at+".form", "%q is not a form", s.Form)
		}
		for _, w := range s.When {
			if !one(Tags, strings.TrimPrefix(w, "!")) {
				bad.Addf(at+".when", "%q is not a tag", w)
			}
		}
	}
	for _, code := range Needed {
		if !have[code] {
			bad.Addf("steps", "%s is missing", code)
		}
	}
	if !have["apply_cleaner"] && !have["why_dry"] {
		bad.Addf("steps", "wet work, or why not, is missing")
	}
	return bad.Err()
}

func one[T comparable](list []T, x T) bool {
	for _, y := range list {
		if x == y {
			return true
		}
	}
	return false
}
