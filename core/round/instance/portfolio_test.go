package instance_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/round"
	"nextround/core/round/instance"
)

func TestPortfoliosAreTheSameEachTimeAndOfTheirSize(t *testing.T) {
	for _, s := range []instance.Size{instance.Small, instance.Town, {Jobs: 1, Crews: 1, Days: 7}} {
		p := instance.Portfolio(s)
		require.NoError(t, p.Check())
		assert.Len(t, p.Jobs, s.Jobs)
		assert.Len(t, p.Crews, s.Crews)
		assert.Equal(t, p, instance.Portfolio(s))
		other := s
		other.Seed++
		assert.NotEqual(t, p, instance.Portfolio(other))
	}
}

// What makes planning hard is in them: hours, work for two, cold days, clocks that come round, a contractor.
func TestPortfoliosHaveWhatMakesPlanningHard(t *testing.T) {
	p := instance.Portfolio(instance.Town)
	seen := map[string]int{}
	for _, j := range p.Jobs {
		seen["hours "+j.Hours]++
		if j.People > 1 {
			seen["two"]++
		}
		if j.OutdoorWet {
			seen["wet"]++
		}
		if j.WaterL > 0 {
			seen["water"]++
		}
		if j.After != "" {
			seen["again"]++
			assert.Positive(t, j.Gap)
		}
	}
	for _, what := range []string{"hours by day", "hours before opening", "hours at noon", "hours not in the middle", "hours ", "two", "wet", "water", "again"} {
		assert.Greater(t, seen[what], 20, what)
	}
	cold := 0
	for _, x := range p.Places {
		cold += len(x.TooCold)
	}
	assert.Positive(t, cold)
	assert.Positive(t, p.Crews[len(p.Crews)-1].DayFee)
	plan, err := round.Greedy(p)
	require.NoError(t, err)
	assert.Empty(t, round.Verify(p, plan))
	assert.Less(t, len(plan.LeftOut), 20, "nearly all of it can be done, also by hand")
}

// The planted plan is what it is said to be: each crew out and back along its line on each day.
func TestThePlantedCostIsThatOfItsRoutes(t *testing.T) {
	for _, size := range [][3]int{{1, 1, 1}, {2, 2, 3}, {3, 4, 5}} {
		p, best := instance.Planted(size[0], size[1], size[2])
		require.NoError(t, p.Check())
		assert.Len(t, p.Jobs, size[0]*size[1]*size[2])
		plan, err := round.Make(p, round.Search{Seed: 1, Iterations: 500})
		require.NoError(t, err)
		assert.InDelta(t, best, plan.Cost.Total, 1e-6)
		assert.Len(t, plan.Rounds, size[0]*size[1])
		for _, r := range plan.Rounds {
			assert.Len(t, r.Stops, size[2])
			assert.Zero(t, r.Overtime)
		}
	}
}
