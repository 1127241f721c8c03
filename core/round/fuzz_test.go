package round_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/round"
)

// FuzzPlan has the checker look at plans of whatever problems the fuzzer comes upon: by hand, searched, and with a job moved.
func FuzzPlan(f *testing.F) {
	f.Fuzz(rapid.MakeFuzz(func(t *rapid.T) {
		p := drawn(t, 16)
		for _, make := range []func() (round.Plan, error){
			func() (round.Plan, error) { return round.Greedy(p) },
			func() (round.Plan, error) { return round.Make(p, round.Search{Seed: 1, Iterations: 30}) },
		} {
			plan, err := make()
			require.NoError(t, err)
			assert.Empty(t, round.Verify(p, plan))
			day := p.Start.Add(rapid.IntRange(0, p.Days-1).Draw(t, "to"))
			moved, err := round.Move(round.MoveQuestion{Problem: p, Rounds: plan.Sequences(), Job: rapid.SampledFrom(p.Jobs).Draw(t, "moved").ID, Day: &day})
			require.NoError(t, err)
			assert.NotNil(t, moved.Rounds)
		}
	}))
}
