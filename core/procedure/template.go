package procedure

import (
	"fmt"
	"strings"

	"nextround/core/invalid"
	"nextround/core/method"
)

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
		checkConditions(&bad, at+".when", s.When)
		for j, job := range s.Jobs {
			if !one(Jobs, job) {
				bad.Addf(fmt.Sprintf("%s.jobs[%d]", at, j), "%q is not a kind of job", job)
			}
		}
		for j, w := range s.Ways {
			checkConditions(&bad, fmt.Sprintf("%s.ways[%d].when", at, j), w.When)
			if w.Phase != "" && !one(Phases, w.Phase) {
				bad.Addf(fmt.Sprintf("%s.ways[%d].phase", at, j), "%q is not a phase", w.Phase)
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

func checkConditions(bad *invalid.Error, at string, conditions []string) {
	for _, condition := range conditions {
		for _, c := range strings.Split(condition, "|") {
			c = strings.TrimPrefix(c, "!")
			if question, answer, is := strings.Cut(c, "="); is {
				if q, ok := method.QuestionByCode(question); !ok || !q.Has(answer) {
					bad.Addf(at, "%q is not an answer to a question of practice", c)
				}
			} else if !one(Tags, c) && !one(Jobs, Job(c)) {
				bad.Addf(at, "%q is not a tag", c)
			}
		}
	}
}

func one[T comparable](list []T, x T) bool {
	for _, y := range list {
		if x == y {
			return true
		}
	}
	return false
}
