package round_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/reason"
	"nextround/core/round"
)

// More work than hours, all of it at one place: what the hours of a day are worth, overtime among them, must be taken off the
// bound again, or it lies above what a plan costs.
func TestTheBoundCreditsHoursAndOvertime(t *testing.T) {
	t.Parallel()
	for _, x := range []struct {
		name              string
		overtime, atPrice float64
		jobs              int
	}{{"no overtime", 0, 0, 4}, {"cheap overtime", 240, .01, 4}, {"dear overtime", 240, 90, 5}} {
		var jobs []round.Job
		for i := range x.jobs {
			j := late(string(rune('a'+i)), "museum", 140)
			j.Waiting, j.LeftOut = round.Waiting{Weeks: []float64{7000}}, 50_000
			jobs = append(jobs, j)
		}
		p := oneCrew(jobs...)
		p.Days = 1
		p.Crews[0].Overtime, p.Crews[0].OvertimeHour, p.Crews[0].Hour = x.overtime, x.atPrice, 600
		plan := planOf(t, p)
		assert.Positive(t, plan.Bound, x.name)
		assert.LessOrEqual(t, plan.Bound, plan.Cost.Total*(1+1e-9), x.name)
	}
}

// What is for contractors only waits for one, and no plan gives it to a crew of one's own.
func TestContractorsWork(t *testing.T) {
	t.Parallel()
	j := late("a", "museum", 40)
	j.Contractor = true
	p := oneCrew(j)
	plan := planOf(t, p)
	require.Len(t, plan.LeftOut, 1)
	assert.Equal(t, reason.Unable, plan.LeftOut[0].Reason.Code)
	assert.Equal(t, "a contractor", plan.LeftOut[0].Reason.Names["needs"])
	p.Crews[0].Contractor = true
	plan = planOf(t, p)
	require.Len(t, plan.Rounds, 1)
	p.Crews[0].Contractor = false
	assert.Contains(t, strings.Join(round.Verify(p, plan), " "), "is for contractors")
}
