package procedure_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/procedure"
)

// anyTemplate is a template of some steps with conditions of their own.
func anyTemplate(t *rapid.T) []procedure.Step {
	out := []procedure.Step{}
	for i := range rapid.IntRange(1, 25).Draw(t, "steps") {
		s := procedure.Step{
			Code: string(rune('a' + i)), Text: "do it", Why: "it helps", Gate: rapid.Bool().Draw(t, "gate"),
			Phase: rapid.SampledFrom(procedure.Phases).Draw(t, "phase"),
		}
		for range rapid.IntRange(0, 2).Draw(t, "conditions") {
			tag := rapid.SampledFrom(procedure.Tags).Draw(t, "tag")
			if rapid.Bool().Draw(t, "not") {
				tag = "!" + tag
			}
			s.When = append(s.When, tag)
		}
		out = append(out, s)
	}
	return out
}

func anyTags(t *rapid.T) map[string]bool {
	tags := map[string]bool{}
	for _, tag := range procedure.Tags {
		tags[tag] = rapid.Bool().Draw(t, tag)
	}
	return tags
}

// What applies is picked once, in the order of the phases, and nothing else is; picking again changes nothing.
func TestTheStepsAreAnOrderedPart(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		template, tags := anyTemplate(t), anyTags(t)
		steps := procedure.Compile(template, procedure.Visit{Tags: tags})
		place := map[procedure.Phase]int{}
		for i, p := range procedure.Phases {
			place[p] = i
		}
		seen, known := map[string]bool{}, map[string]bool{}
		for _, s := range template {
			known[s.Code] = true
		}
		for i, s := range steps {
			assert.False(t, seen[s.Code], "twice")
			seen[s.Code] = true
			assert.True(t, known[s.Code])
			assert.Empty(t, s.When, "what holds is not asked again")
			if i > 0 {
				assert.GreaterOrEqual(t, place[s.Phase], place[steps[i-1].Phase])
			}
		}
		for _, s := range template {
			assert.Equal(t, len(s.When) == 0 || seen[s.Code], seen[s.Code], "a step without condition always applies")
		}
		assert.Equal(t, steps, procedure.Compile(steps, procedure.Visit{Tags: tags}))
	})
}

// Every step done passes; without any one of its gates the visit does not.
func TestEachGateCounts(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		steps := procedure.Compile(anyTemplate(t), procedure.Visit{Tags: anyTags(t)})
		results := []procedure.Result{}
		for _, s := range steps {
			results = append(results, procedure.Result{Step: s.Code, State: procedure.Done})
		}
		require.NoError(t, procedure.CheckResults(steps, results))
		for i, s := range steps {
			short := append(append([]procedure.Result{}, results[:i]...), results[i+1:]...)
			err := procedure.CheckResults(steps, short)
			assert.Equal(t, s.Gate, err != nil, "%s: only gates have to be passed", s.Code)
			silent := append([]procedure.Result{}, results...)
			silent[i] = procedure.Result{Step: s.Code, State: procedure.Skipped}
			assert.Equal(t, s.Gate, procedure.CheckResults(steps, silent) != nil, "%s: only a gate's skipping asks why", s.Code)
			silent[i].Reason = "not here"
			assert.NoError(t, procedure.CheckResults(steps, silent))
		}
	})
}
