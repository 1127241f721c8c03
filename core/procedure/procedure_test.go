package procedure_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/method"
	"nextround/core/procedure"
)

func few() []procedure.Step {
	return []procedure.Step{
		{Code: "rinse", Phase: procedure.Wet, Text: "Rinse", Why: "soap corrodes", When: []string{"wet", "!indoors"}},
		{Code: "tell", Phase: procedure.Safe, Text: "Tell people", Why: "nobody is surprised", Gate: true},
		{Code: "prove", Phase: procedure.Safe, Text: "Prove it dead", Why: "it kills", Gate: true},
		{Code: "look", Phase: procedure.Look, Text: "Look", Why: "to know"},
	}
}

func codes(steps []procedure.Step) []string {
	out := []string{}
	for _, s := range steps {
		out = append(out, s.Code)
	}
	return out
}

func TestStepsFollowPhasesAndTags(t *testing.T) {
	t.Parallel()
	assert.Equal(t, []string{"tell", "prove", "look"}, codes(procedure.Compile(few(), procedure.Visit{})))
	assert.Equal(t, []string{"tell", "prove", "look", "rinse"}, codes(procedure.Compile(few(), procedure.Visit{Tags: map[string]bool{"wet": true}})))
	assert.NotContains(t, codes(procedure.Compile(few(), procedure.Visit{Tags: map[string]bool{"wet": true, "indoors": true}})), "rinse")
}

func TestGatesDoNotOpenInSilence(t *testing.T) {
	t.Parallel()
	at := time.Date(2026, 3, 4, 9, 0, 0, 0, time.UTC)
	ok := []procedure.Result{{"tell", procedure.Done, "", at}, {"prove", procedure.Done, "", at.Add(time.Minute)}}
	require.NoError(t, procedure.CheckResults(few(), ok))
	for why, change := range map[string]func(r []procedure.Result) []procedure.Result{
		"Prove it dead: done, or why": func(r []procedure.Result) []procedure.Result { return r[:1] },
		"say why it was skipped":      func(r []procedure.Result) []procedure.Result { r[1].State = procedure.Skipped; return r },
		"before the gate in front":    func(r []procedure.Result) []procedure.Result { r[1].At = at.Add(-time.Minute); return r },
		"is given twice":              func(r []procedure.Result) []procedure.Result { return append(r, r[0]) },
		"done or skipped":             func(r []procedure.Result) []procedure.Result { r[0].State = "perhaps"; return r },
	} {
		assert.ErrorContains(t, procedure.CheckResults(few(), change(append([]procedure.Result{}, ok...))), why)
	}
	ok[1] = procedure.Result{Step: "prove", State: procedure.Skipped, Reason: "unplugged, plug in the hand", At: at}
	assert.NoError(t, procedure.CheckResults(few(), ok))
}

func TestTemplatesAreChecked(t *testing.T) {
	t.Parallel()
	err := procedure.CheckTemplate([]procedure.Step{{Code: "x", Phase: "later", Form: "poem", When: []string{"rain", "pan=gold"}, Jobs: []procedure.Job{"feast"}, Ways: []procedure.Way{{When: []string{"snow"}, Phase: "never"}}}, {Code: "x", Text: "x", Why: "x", Phase: procedure.Look}})
	for _, why := range []string{"code of its own", "is empty", "has no reason", "not a phase", "not a form", "\"rain\" is not a tag", "\"pan=gold\" is not an answer", "\"feast\" is not a kind of job", "\"snow\" is not a tag", "\"never\" is not a phase", "prove_dead is missing", "wet work, or why not"} {
		assert.ErrorContains(t, err, why)
	}
}

// A step belongs to the jobs its template names, else to those usual for its code; one of an organisation's own to every clean.
func TestStepsBelongToJobs(t *testing.T) {
	t.Parallel()
	template := append(few(), procedure.Step{Code: "identify", Phase: procedure.Arrive, Text: "x", Why: "x"}, procedure.Step{Code: "sweep", Phase: procedure.Close, Text: "x", Why: "x", Jobs: []procedure.Job{procedure.Companion}})
	for job, want := range map[procedure.Job][]string{
		procedure.Companion: {"identify", "sweep"}, procedure.Inspect: {"identify"}, procedure.Light: {"identify", "tell", "prove", "look"},
	} {
		assert.Equal(t, want, codes(procedure.Compile(template, procedure.Visit{Jobs: []procedure.Job{job}})), job)
	}
	assert.Equal(t, []string{"identify", "tell", "prove", "look", "sweep"}, codes(procedure.Compile(template, procedure.Visit{Jobs: []procedure.Job{procedure.Companion, procedure.Light}})))
}

// Ways change a step one after the other; cautions add up.
func TestWays(t *testing.T) {
	t.Parallel()
	step := procedure.Step{Code: "x", Phase: procedure.Dry, Text: "a", Why: "a", Cautions: []string{"1"}, Ways: []procedure.Way{
		{When: []string{"wet"}, Text: "b", Cautions: []string{"2"}}, {When: []string{"pan=both|outdoors"}, Phase: procedure.Check, Cautions: []string{"3"}},
	}}
	got := procedure.Compile([]procedure.Step{step}, procedure.Visit{Tags: map[string]bool{"wet": true}, Rules: method.Rules{"pan": "both"}})
	assert.Equal(t, []procedure.Step{{Code: "x", Phase: procedure.Check, Text: "b", Why: "a", Cautions: []string{"1", "2", "3"}}}, got)
	assert.Equal(t, "a", procedure.Compile([]procedure.Step{step}, procedure.Visit{})[0].Text)
}

// The plug proves plug-in units; the meter what is opened; hearing it stop only where the rule says so and nothing electrical is opened.
func TestProofOf(t *testing.T) {
	t.Parallel()
	plug, opens := map[string]bool{"plug_in": true}, map[string]bool{"opens_electrics": true}
	both := map[string]bool{"plug_in": true, "opens_electrics": true}
	light, deep := []procedure.Job{procedure.Light}, []procedure.Job{procedure.Deep}
	for _, x := range []struct {
		want, rule string
		jobs       []procedure.Job
		tags       map[string]bool
	}{
		{"plug", "meter", deep, plug},
		{"meter", "meter", deep, both},
		{"plug", "unplugged", deep, both},
		{"meter", "hear", deep, opens},
		{"heard", "hear", light, opens},
		{"meter", "meter", light, opens},
		{"meter", "unplugged", light, opens},
		{"plug", "hear", light, plug},
		{"meter", "hear", nil, opens},
	} {
		assert.Equal(t, x.want, procedure.ProofOf(x.jobs, x.tags, method.Rules{"proof_of_dead": x.rule}), "%+v", x)
	}
}

func TestPlanTags(t *testing.T) {
	t.Parallel()
	assert.Empty(t, procedure.PlanTags(nil))
	alkaline := method.Cleaner{Form: method.Concentrate, PH: 13, Rinse: true}
	got := procedure.PlanTags([]procedure.Pass{{Method: "debris"}, {Method: "soft_brush"}, {Method: "leaf_blower"}, {Method: "pre_rinse"}, {Method: "foam_rinse", Cleaner: &alkaline}})
	assert.Equal(t, map[string]bool{"planned": true, "dry": true, "air": true, "pre_rinse": true, "wet": true, "cleaner": true, "corrosive": true}, got)
	got = procedure.PlanTags([]procedure.Pass{{Method: "hose_rinse", Cleaner: &method.Cleaner{Form: method.Plain}}, {Method: "aerosol_rinse", Where: "taken_out", Cleaner: &method.Cleaner{Form: method.Aerosol, PH: 7}}})
	assert.Equal(t, map[string]bool{"planned": true, "wet": true, "cleaner": true, "aerosol": true, "no_rinse_cleaner": true, "taken_out": true}, got)
}

func ExampleCompile() {
	for _, s := range procedure.Compile(few(), procedure.Visit{Tags: map[string]bool{"wet": true}}) {
		fmt.Println(s.Text, "-", s.Why)
	}
	// Output:
	// Tell people - nobody is surprised
	// Prove it dead - it kills
	// Look - to know
	// Rinse - soap corrodes
}

// A rinse ends by the rule; closed work cannot show light, and what is wiped has no run-off.
func TestRinseTicks(t *testing.T) {
	t.Parallel()
	deep := []procedure.Job{procedure.Deep}
	rule := func(answer string) method.Rules { return method.Rules{"rinse_end": answer} }
	assert.Equal(t, []string{"clear_run_off", "light_through_all"}, procedure.RinseTicks(deep, nil, nil))
	assert.Equal(t, []string{"clear_run_off"}, procedure.RinseTicks(deep, nil, rule("clear")))
	assert.Equal(t, []string{"light_through_all"}, procedure.RinseTicks(deep, nil, rule("light")))
	assert.Empty(t, procedure.RinseTicks(deep, nil, rule("ten_minutes")))
	assert.Equal(t, []string{"clear_run_off"}, procedure.RinseTicks([]procedure.Job{procedure.HoseDown}, nil, nil))
	assert.Empty(t, procedure.RinseTicks(deep, map[string]bool{"plug_in": true}, nil))
}
