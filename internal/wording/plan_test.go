package wording_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/procedure"
	"nextround/core/workplan"
	"nextround/internal/wording"
)

// Whatever code a plan carries, there are words for it.
func TestEveryCodeOfAPlanHasWords(t *testing.T) {
	t.Parallel()
	err := workplan.EachCase(func(c workplan.Case) {
		for _, x := range c.Advice.Then {
			assert.NotEmpty(t, wording.PlanThen[x], x)
		}
		for _, p := range c.Advice.Plans {
			assert.NotEmpty(t, wording.PlanContain[p.Contain], p.Contain)
			assert.NotEmpty(t, wording.PlanDispose[p.Dispose], p.Dispose)
			for _, n := range p.Notes {
				assert.NotEmpty(t, wording.PlanNotes[n], n)
			}
			for _, x := range p.Passes {
				assert.NotEmpty(t, wording.PassStops[x.StopWhen], x.StopWhen)
				assert.True(t, x.Tip == "" || wording.PassTips[x.Tip] != "", x.Tip)
				assert.True(t, x.Side == "" || wording.PassSides[x.Side] != "", x.Side)
			}
		}
	})
	require.NoError(t, err)
}

// Whatever a step turns on, there are words for it.
func TestEveryConditionHasWords(t *testing.T) {
	t.Parallel()
	for _, tag := range procedure.Tags {
		assert.NotEmpty(t, wording.TagWords[tag], tag)
	}
	for _, j := range procedure.Jobs {
		assert.NotEmpty(t, wording.TagWords[string(j)], j)
		assert.NotEmpty(t, wording.VisitJobWords[j], j)
	}
	rules := wording.RuleWords()
	assert.Equal(t, "house rule “Pan treatment: Both”", rules["pan=both"])
}
