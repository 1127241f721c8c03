package procedure_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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

func TestPickFollowsPhasesAndTags(t *testing.T) {
	t.Parallel()
	assert.Equal(t, []string{"tell", "prove", "look"}, codes(procedure.Pick(few(), nil)))
	assert.Equal(t, []string{"tell", "prove", "look", "rinse"}, codes(procedure.Pick(few(), map[string]bool{"wet": true})))
	assert.NotContains(t, codes(procedure.Pick(few(), map[string]bool{"wet": true, "indoors": true})), "rinse")
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
	err := procedure.CheckTemplate([]procedure.Step{{Code: "x", Phase: "later", Form: "poem", When: []string{"rain"}}, {Code: "x", Text: "x", Why: "x", Phase: procedure.Look}})
	for _, why := range []string{"code of its own", "is empty", "has no reason", "not a phase", "not a form", "not a tag", "prove_dead is missing", "wet work, or why not"} {
		assert.ErrorContains(t, err, why)
	}
}

func ExamplePick() {
	for _, s := range procedure.Pick(few(), map[string]bool{"wet": true}) {
		fmt.Println(s.Text, "-", s.Why)
	}
	// Output:
	// Tell people - nobody is surprised
	// Prove it dead - it kills
	// Look - to know
	// Rinse - soap corrodes
}
