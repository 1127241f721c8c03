package demo_test

import (
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/round"
	"nextround/internal/contract"
)

// placed are the jobs of the plan with the round and stop they are on.
type placed struct {
	contract.Job
	round contract.PlannedRound
	stop  contract.Stop
}

func (s sample) placed(t *testing.T) (contract.Plan, []placed) {
	t.Helper()
	plan, err := s.svc.Planning.Plan(context.Background(), s.manager)
	require.NoError(t, err)
	var out []placed
	for _, r := range plan.Rounds {
		for _, stop := range r.Stops {
			for _, j := range stop.Jobs {
				out = append(out, placed{j, r, stop})
			}
		}
	}
	return plan, out
}

func (p placed) why() string {
	out := ""
	for _, r := range p.Reasons {
		out += r.Text + " "
	}
	return out
}

// The planning stories: each is solved, and says why.
func TestPlanningStoriesAreSolvedAndExplained(t *testing.T) {
	s := load(t)
	plan, jobs := s.placed(t)
	seen := map[string]bool{}
	for _, j := range jobs {
		clean := j.Kind == contract.JobKindLight || j.Kind == contract.JobKindDeep
		switch {
		case clean && strings.Contains(j.Placement, "gallery"):
			seen["gallery"] = true
			assert.True(t, *j.Ends <= "10:00" || *j.Starts >= "16:00", "%s at %s in quiet hours", j.Tag, *j.Starts)
			assert.Contains(t, j.why(), "at the latest")
		case j.stop.Site == "Ferry Terminal North" && j.Placement == "Waiting hall":
			seen["hall"] = true
			assert.True(t, *j.Starts >= "11:40" && *j.Ends <= "13:00", "%s %s to %s is between sailings", j.Tag, *j.Starts, *j.Ends)
		case j.Tag == "HO-PU-1":
			seen["tower"] = true
			assert.Equal(t, "Crew Tern", j.round.Crew, "two people, used to roof edges")
			assert.Equal(t, 2, j.People)
			if clean {
				assert.Contains(t, strings.Join(j.Needs, ", "), "water 20 L")
				assert.Contains(t, j.why(), "from a tank of 80 L")
			}
		case j.Kind == contract.JobKindGrille:
			seen["grille"] = true
			assert.Equal(t, "Crew Canteen", j.stop.Site)
			assert.Contains(t, j.why(), "they are away: Spring break")
			assert.True(t, j.Due.String() >= "2026-03-30" && j.Due.String() <= "2026-04-06", j.Due)
		}
		if strings.Contains(j.why(), "too cold") {
			seen["cold"] = true
		}
		if j.stop.Site == "Crew Canteen" {
			assert.True(t, *j.Ends <= "10:00" || *j.Starts >= "14:30", "%s %s to %s while the kitchen works", j.Tag, *j.Starts, *j.Ends)
		}
	}
	for _, story := range []string{"gallery", "hall", "tower", "grille"} {
		assert.True(t, seen[story], story)
	}
	for _, j := range plan.StaffJobs {
		if j.Site == "Crew Canteen" && j.Kind == contract.JobKindGrille {
			seen["staff"] = true
		}
	}
	assert.True(t, seen["staff"], "else the grilles are the staff's")
	assert.Greater(t, plan.Sums.SavingShare, .15, "cheaper than by due date")
	problem, err := s.svc.Planning.PlanProblem(context.Background(), s.manager)
	require.NoError(t, err)
	cold := 0
	for _, p := range problem.Places {
		cold += len(p.TooCold)
	}
	assert.Positive(t, cold, "it is early March")
	again, err := round.First(problem)
	require.NoError(t, err)
	assert.Empty(t, round.Verify(problem, again))
}

// What is left out says why, and what is due is somewhere.
func TestNothingDueIsForgotten(t *testing.T) {
	s := load(t)
	plan, jobs := s.placed(t)
	on := map[string]bool{}
	for _, j := range jobs {
		assert.False(t, on[j.Key], "%s twice", j.Key)
		on[j.Key] = true
	}
	for _, l := range plan.LeftOut {
		assert.NotEmpty(t, l.Text)
		on[l.Job.Key] = true
	}
	late := 0
	for _, u := range s.units {
		for _, c := range u.Coils {
			for _, task := range c.Tasks {
				if task.DaysLate <= 0 || task.Kind != contract.TaskKindDeep {
					continue
				}
				late++
				assert.True(t, on["task/"+task.TaskID.String()+"/0"], "%s %s is late and nowhere", u.Tag, task.Kind)
			}
		}
	}
	assert.Positive(t, late)
}
