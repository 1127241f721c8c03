package round_test

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/round"
)

// everyOrder is the least cost of a crew doing a set of jobs on a day, by trying every order; +Inf where none works. It is
// written from the meaning of the fields, apart from the planner.
func everyOrder(p round.Problem, c round.Crew, off int, set []round.Job) float64 {
	day := p.Start.Add(off)
	shift := c.On(day)
	at := func(id string) int { return slices.IndexFunc(p.Places, func(x round.Place) bool { return x.ID == id }) }
	best := math.Inf(1)
	var go1 func(left []round.Job, now, tank, money float64, here int, signedIn bool)
	go1 = func(left []round.Job, now, tank, money float64, here int, signedIn bool) {
		if len(left) == 0 {
			back := p.Travel.Minutes[here][at(c.Base)]
			if here == at(c.Base) {
				back = 0
			}
			over := math.Max(0, now+back-shift.Starts-shift.Minutes)
			if over <= c.Overtime {
				best = math.Min(best, money+back*c.Hour/60+over*c.OvertimeHour/60)
			}
			return
		}
		for i, j := range left {
			t, water, paid, place := now, tank, money, at(j.Place)
			if !signedIn || place != here {
				drive := 0.0
				if place != here {
					drive = p.Travel.Minutes[here][place]
				}
				t += drive + 20
				paid += (drive + 20) * c.Hour / 60
				if p.Places[place].Water {
					water = c.TankL
				}
			}
			water -= j.WaterL
			if water < 0 || shift.People < j.People || (j.OutdoorWet && slices.Contains(p.Places[place].TooCold, day)) {
				continue
			}
			if j.Hours != "" {
				h := p.Hours[slices.IndexFunc(p.Hours, func(x round.Hours) bool { return x.ID == j.Hours })]
				fits := math.Inf(1)
				for _, s := range h.On(day) {
					if from := math.Max(t, s.From); from+j.Minutes <= s.To {
						fits = math.Min(fits, from)
					}
				}
				t = fits
			}
			if math.IsInf(t, 1) {
				continue
			}
			rest := slices.Delete(slices.Clone(left), i, i+1)
			go1(rest, t+j.Minutes, water, paid+j.Waiting.On(j.Due, day)-sunk(p, j)+c.WorkHour*j.Minutes/60, place, true)
		}
	}
	if shift.Minutes > 0 {
		go1(set, shift.Starts, c.TankL, c.DayFee, at(c.Base), false)
	}
	return best
}

// sunk is what waiting had cost before the plan begins.
func sunk(p round.Problem, j round.Job) float64 {
	if j.Due < p.Start {
		return j.Waiting.On(j.Due, p.Start)
	}
	return 0
}

// everyPlan is the least cost of all plans: each set of jobs on each crew-day in each order, and what is left out.
func everyPlan(p round.Problem) float64 {
	n := len(p.Jobs)
	whole := 1 << n
	// cost[set] of doing exactly that set with the crew-days looked at so far.
	cost := make([]float64, whole)
	for s := range cost {
		cost[s] = math.Inf(1)
	}
	cost[0] = 0
	for _, c := range p.Crews {
		for d := range p.Days {
			day := make([]float64, whole)
			for s := 1; s < whole; s++ {
				set := []round.Job{}
				for j := range n {
					if s&(1<<j) != 0 {
						set = append(set, p.Jobs[j])
					}
				}
				day[s] = everyOrder(p, c, d, set)
			}
			next := slices.Clone(cost)
			for s := 1; s < whole; s++ {
				for part := s; part > 0; part = (part - 1) & s {
					next[s] = math.Min(next[s], cost[s^part]+day[part])
				}
			}
			cost = next
		}
	}
	best := math.Inf(1)
	for s := range cost {
		left := 0.0
		for j := range n {
			if s&(1<<j) == 0 {
				job := p.Jobs[j]
				left += job.Waiting.On(job.Due, max(p.Start.Add(p.Days-1), job.Due).Add(28)) - sunk(p, job)
			}
		}
		best = math.Min(best, cost[s]+left)
	}
	return best
}

// The problems are drawn from fixed seeds. A search is no proof: of 1,200 drawn by chance one was .3 % above the best after
// as many steps.
func TestUpToEightJobsAndTwoCrewsEqualTryingEveryPlan(t *testing.T) {
	t.Parallel()
	problems := rapid.Custom(func(t *rapid.T) round.Problem {
		p := drawn(t, 8)
		p.Days, p.Fixed = min(p.Days, 2), nil
		for i := range p.Jobs {
			p.Jobs[i].After, p.Jobs[i].Gap = "", 0
		}
		return p
	})
	largest := 0
	for seed := range 60 {
		p := problems.Example(seed)
		largest = max(largest, len(p.Jobs))
		plan, err := round.Make(p, round.Search{Seed: 3, Iterations: 3000})
		require.NoError(t, err)
		best := everyPlan(p)
		assert.InDelta(t, best, plan.Cost.Total, 1e-6, "seed %d", seed)
		assert.LessOrEqual(t, plan.Bound, best+1e-6, "no bound above the best")
	}
	assert.Equal(t, 8, largest)
	// Two that need the whole search: one is found only by taking worse plans while it is hot, one only by beginning again.
	for seed, steps := range map[int]int{299: 3000, 328: 600} {
		p := problems.Example(seed)
		plan, err := round.Make(p, round.Search{Seed: 3, Iterations: steps})
		require.NoError(t, err)
		assert.InDelta(t, everyPlan(p), plan.Cost.Total, 1e-6, "seed %d", seed)
	}
}
