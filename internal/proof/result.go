package proof

import (
	"context"
	"math"
	"sync"
)

// Result is one scenario under all ways.
type Result struct {
	Scenario Scenario `json:"scenario"`
	// Runs are the costs by way, one for each seed.
	Runs map[Way][]Costs `json:"runs"`
}

// Simulate lives a scenario under all ways with as many seeds as asked for, on as many processors.
func Simulate(ctx context.Context, s Scenario, seeds, workers int, tell func(done, of int)) (Result, error) {
	out := Result{Scenario: s, Runs: map[Way][]Costs{}}
	type job struct {
		way  Way
		seed int
	}
	var jobs []job
	for _, way := range Ways {
		out.Runs[way.Way] = make([]Costs, seeds)
		for n := range seeds {
			jobs = append(jobs, job{way.Way, n})
		}
	}
	queue := make(chan job)
	var wait sync.WaitGroup
	var lock sync.Mutex
	var failed error
	done := 0
	for range max(1, workers) {
		wait.Go(func() {
			for j := range queue {
				costs, err := draw(s, uint64(j.seed)+1).run(j.way) //nolint:gosec // a count
				lock.Lock()
				out.Runs[j.way][j.seed] = costs
				if err != nil && failed == nil {
					failed = err
				}
				done++
				if tell != nil {
					tell(done, len(jobs))
				}
				lock.Unlock()
			}
		})
	}
	for _, j := range jobs {
		if ctx.Err() != nil {
			break
		}
		queue <- j
	}
	close(queue)
	wait.Wait()
	if failed == nil {
		failed = ctx.Err()
	}
	return out, failed
}

// Mean costs of a way, and the standard deviation of their total over the seeds.
func (r Result) Mean(way Way) (mean Costs, spread float64) {
	runs := r.Runs[way]
	n := float64(len(runs))
	for _, c := range runs {
		mean = mean.plus(c)
	}
	mean = Costs{mean.Cleaning / n, mean.Soil / n, mean.Over / n, int(math.Round(float64(mean.Cleans) / n)), mean.OverDays / n}
	for _, c := range runs {
		spread += (c.Total() - mean.Total()) * (c.Total() - mean.Total())
	}
	if n > 1 {
		spread = math.Sqrt(spread / (n - 1))
	}
	return mean, spread
}

// Against is what a way costs more than another, as a share of the other.
func (r Result) Against(way, other Way) float64 {
	a, _ := r.Mean(way)
	b, _ := r.Mean(other)
	return a.Total()/b.Total() - 1
}

// Gained is the share of the gain of the known rates over the habit that a way brings.
func (r Result) Gained(way Way) float64 {
	habit, _ := r.Mean(Habit)
	mine, _ := r.Mean(way)
	best, _ := r.Mean(Known)
	return (habit.Total() - mine.Total()) / (habit.Total() - best.Total())
}

// Verdict holds the results against the goals.
type Verdict struct {
	// Gained is the share of the possible gain that the proposals bring, averaged over the scenarios.
	Gained float64 `json:"gained_share"`
	// AgainstCategory is what they cost more than way (b), averaged.
	AgainstCategory float64 `json:"against_category"`
	// Worst is the most that they cost more than the habit, and where.
	Worst   float64 `json:"worst_against_habit"`
	WorstIn string  `json:"worst_in"`
}

// The goals.
const (
	GoalGained = .75
	GoalWorst  = .02
)

// Judge averages over scenarios.
func Judge(all []Result) Verdict {
	v := Verdict{Worst: math.Inf(-1)}
	for _, r := range all {
		v.Gained += r.Gained(Proposals) / float64(len(all))
		v.AgainstCategory += r.Against(Proposals, Category) / float64(len(all))
		if w := r.Against(Proposals, Habit); w > v.Worst {
			v.Worst, v.WorstIn = w, r.Scenario.Name
		}
	}
	return v
}
