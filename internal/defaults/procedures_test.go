package defaults_test

import (
	"maps"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/method"
	"nextround/core/procedure"
	"nextround/internal/defaults"
)

// steps of a class for a job, in the place it usually stands, with more tags.
func steps(class string, job procedure.Job, rules method.Rules, more ...string) []procedure.Step {
	tags := defaults.ClassTags(class)
	for _, m := range more {
		tags[m] = true
	}
	return procedure.Compile(defaults.Procedure(class), procedure.Visit{Jobs: []procedure.Job{job}, Tags: tags, Rules: rules})
}

func codesOf(steps []procedure.Step) []string {
	out := []string{}
	for _, s := range steps {
		out = append(out, s.Code)
	}
	return out
}

// hose plan, foam plan and dry plan as tags.
var (
	foamed = []string{"planned", "dry", "wet", "cleaner", "pre_rinse"}
	outOf  = []string{"planned", "dry", "air", "taken_out"}
)

// Every class goes through the whole order of the work, each step with its reason.
func TestEveryClassHasItsProcedure(t *testing.T) {
	t.Parallel()
	plain := len(defaults.Procedure("something of the organisation's own"))
	for _, c := range defaults.Classes {
		template := defaults.Procedure(c.Code)
		require.NoError(t, procedure.CheckTemplate(template), c.Code)
		if c.Code != "display_cooler" {
			assert.Greater(t, len(template), plain, "%s has steps of its own", c.Code)
		}
		for _, plan := range [][]string{foamed, {"planned", "dry"}, nil} {
			picked := codesOf(steps(c.Code, procedure.Deep, nil, plan...))
			at := func(code string) int { return slices.Index(picked, code) }
			for _, code := range []string{"identify", "reach", "readings_before", "tell_occupants", "isolate", "prove_dead", "first_look", "open_up", "opened_look", "advice", "loosen_dry", "as_left", "count_back", "close_up", "restore_power", "readings_after", "tell_site"} {
				assert.GreaterOrEqual(t, at(code), 0, "%s: %s", c.Code, code)
			}
			// The order of the work: each that is there stands before the next.
			last := -1
			for _, code := range []string{
				"running_look", "readings_before", "goods_out", "tell_occupants", "ppe_open", "nests", "isolate", "lock_tag", "open_electrics", "discharge", "prove_dead",
				"photo_wiring", "first_look", "pan_plug", "bag_up", "open_up", "opened_look", "advice", "base_debris", "loosen_dry", "ppe_cleaner", "pre_rinse", "apply_cleaner", "rinse_end",
				"wheel", "drain_pan", "flush_sprayer", "as_left", "count_back", "close_up", "dry_seen", "restore_power", "readings_after", "tell_site",
			} {
				if i := at(code); i >= 0 {
					assert.Greater(t, i, last, "%s: %s stands in its place", c.Code, code)
					last = i
				}
			}
			assert.Equal(t, slices.Contains(plan, "wet"), at("dry_seen") >= 0, "%s: dryness is seen where there was water", c.Code)
			assert.Equal(t, slices.Contains(plan, "cleaner"), at("ppe_cleaner") >= 0 && at("apply_cleaner") >= 0, c.Code)
		}
	}
}

// A visit is as long as its job (common practice, no source).
func TestStepsAndGatesByJob(t *testing.T) {
	t.Parallel()
	most := map[procedure.Job][2]int{procedure.Companion: {6, 1}, procedure.Inspect: {10, 3}, procedure.HoseDown: {12, 4}, procedure.Light: {15, 5}}
	for _, c := range defaults.Classes {
		for job, bound := range most {
			for _, place := range [][]string{nil, {"watched"}, {"flammable"}, {"ladder"}} {
				got := steps(c.Code, job, nil, place...)
				gates := 0
				for _, s := range got {
					if s.Gate {
						gates++
					}
				}
				assert.LessOrEqual(t, len(got), bound[0], "%s, %s, %v: %v", c.Code, job, place, codesOf(got))
				assert.LessOrEqual(t, gates, bound[1], "%s, %s, %v: %v", c.Code, job, place, codesOf(got))
				assert.Equal(t, "identify", got[0].Code)
			}
		}
		deep := len(steps(c.Code, procedure.Deep, nil, foamed...))
		assert.Greater(t, deep, len(steps(c.Code, procedure.Light, nil)), c.Code)
		assert.LessOrEqual(t, deep, 50, c.Code)
	}
}

// A unit is asked for nothing it lacks, and a plan for nothing it does not use.
func TestNoStepWithoutAUse(t *testing.T) {
	t.Parallel()
	for _, x := range []struct {
		class string
		job   procedure.Job
		plan  []string
		not   []string
		has   []string
	}{
		{"cassette", procedure.Deep, foamed, []string{"base_debris", "nests", "goods_out"}, []string{"pan_plug", "bag_up", "wheel", "pump_test", "filters", "tablets"}},
		{"undercounter_cooler", procedure.Deep, outOf, []string{"nests", "lock_tag", "discharge", "open_electrics", "photo_wiring", "ppe_cleaner", "apply_cleaner", "rinse_end", "contain", "flush_sprayer", "dry_seen", "wheel", "filters", "drain_pan"}, []string{"carry_out", "air_through", "goods_out", "grille_wash"}},
		{"display_cooler", procedure.Light, nil, []string{"open_up", "goods_out", "readings_before", "count_back", "discharge", "pre_rinse"}, []string{"loosen_dry", "grille_wash", "advice", "as_left"}},
		{"outdoor_condensing", procedure.HoseDown, nil, []string{"open_up", "ppe_cleaner", "apply_cleaner", "flush_sprayer", "base_debris", "discharge", "nests"}, []string{"rinse_end", "dry_seen", "opened_look", "as_left"}},
		{"outdoor_condensing", procedure.Deep, []string{"planned", "wet"}, []string{"ppe_cleaner", "corrosive", "apply_cleaner", "flush_sprayer", "pre_rinse"}, []string{"rinse_end", "nests", "trough", "discharge"}},
		{"wall_unit", procedure.Companion, nil, []string{"isolate", "wheel", "tell_site"}, []string{"filters", "drain_flush"}},
		{"ceiling_room_cooler", procedure.Companion, nil, []string{"isolate"}, []string{"filters", "tablets", "drain_flush", "pump_test"}},
		{"through_wall", procedure.Companion, nil, nil, []string{"filters", "tablets"}},
		{"cassette", procedure.Inspect, nil, []string{"bag_up", "readings_before", "wheel"}, []string{"isolate", "opened_look"}},
		{"cassette", procedure.Inspect, []string{"symptom"}, nil, []string{"readings_before"}},
	} {
		got := codesOf(steps(x.class, x.job, nil, x.plan...))
		for _, code := range x.not {
			assert.NotContains(t, got, code, "%s, %s", x.class, x.job)
		}
		for _, code := range x.has {
			assert.Contains(t, got, code, "%s, %s", x.class, x.job)
		}
	}
}

// inSteps are the questions that change the steps; the others act in plans, or in clocks and proposals.
var inSteps = []string{
	"who", "proof_of_dead", "gloves", "panels", "base_debris", "dry_first", "brush_order", "air", "direction", "pressure", "plug_in_chemistry", "strength",
	"chemistry_side", "no_rinse", "dwell", "rinse_end", "slabs", "coating_indoors", "wheel", "standing_water", "pan", "how_clean", "capacitor", "readings", "running_look", "tipping",
	"fan", "debris", "stroke", "rinse_water", "leftovers", "drain_by",
}

// Each answer to a question differs from each other answer to it, in the steps of some visit.
func TestEveryAnswerChangesAStep(t *testing.T) {
	t.Parallel()
	plans := [][]string{nil, {"wet", "cleaner", "no_rinse_cleaner", "heavy_soil"}, {"wet", "cleaner", "no_rinse_cleaner"}, {"opens_electrics"}, {"wet", "cleaner"}, foamed, {"slabs", "wet", "cleaner", "core_packed"}, {"slabs", "wet", "cleaner"}, {"air", "planned"}}
	for _, code := range inSteps {
		q, ok := method.QuestionByCode(code)
		require.True(t, ok, code)
		for i, a := range q.Choices {
			for _, b := range q.Choices[i+1:] {
				differ := false
				for _, c := range defaults.Classes {
					for _, job := range procedure.Jobs {
						for _, plan := range plans {
							differ = differ || !assert.ObjectsAreEqual(steps(c.Code, job, method.Rules{code: a.Code}, plan...), steps(c.Code, job, method.Rules{code: b.Code}, plan...))
						}
					}
				}
				assert.True(t, differ, "%s: %s and %s come to the same steps everywhere", code, a.Code, b.Code)
			}
		}
	}
}

// Every question acts somewhere: in steps, in plans, or in what is listed here with what tests it.
func TestEveryQuestionActs(t *testing.T) {
	t.Parallel()
	elsewhere := map[string]string{
		"in_place": "plans: core/workplan, TestEveryAnswerChangesAPlan",
		"season":   "the month of outdoor deep cleans: internal/dossier, TestTheSeasonOfOutdoorDeepCleans",
		"interval": "what leads the proposal: core/interval, TestWhatLeads",
	}
	for _, q := range method.Questions {
		assert.True(t, slices.Contains(inSteps, q.Code) != (elsewhere[q.Code] != ""), q.Code)
	}
	assert.Len(t, method.Questions, len(inSteps)+len(slices.Collect(maps.Keys(elsewhere))))
}

// Where plug-in refrigeration is never wetted, no step of a visit to it is wet, whatever else was said.
func TestNeverWetMeansNever(t *testing.T) {
	t.Parallel()
	for _, c := range defaults.Classes {
		if !c.Traits.PlugIn {
			continue
		}
		got := codesOf(steps(c.Code, procedure.Deep, method.Rules{"plug_in_chemistry": "never"}, "wet", "cleaner", "corrosive", "pre_rinse"))
		for _, code := range []string{"contain", "ppe_cleaner", "corrosive", "pre_rinse", "apply_cleaner", "rinse_end", "flush_sprayer", "dry_seen"} {
			assert.NotContains(t, got, code, c.Code)
		}
	}
}

// What is proved by the plug says so; what is opened is proved by the meter.
func TestTheProofFitsTheUnit(t *testing.T) {
	t.Parallel()
	text := func(class string, job procedure.Job, code string, rules method.Rules) string {
		for _, s := range steps(class, job, rules) {
			if s.Code == code {
				return s.Text
			}
		}
		return ""
	}
	assert.Contains(t, text("display_cooler", procedure.Deep, "prove_dead", nil), "plug in the hand")
	assert.Contains(t, text("display_cooler", procedure.Inspect, "isolate", nil), "Pull the plug")
	assert.Contains(t, text("outdoor_condensing", procedure.Deep, "prove_dead", method.Rules{"proof_of_dead": "hear"}), "L1–L2")
	assert.Contains(t, text("outdoor_condensing", procedure.Light, "prove_dead", method.Rules{"proof_of_dead": "hear"}), "heard to stop")
	assert.Contains(t, text("outdoor_condensing", procedure.Light, "prove_dead", nil), "L1–L2")
}
