package interval_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/interval"
	"nextround/core/learn"
	"nextround/core/reason"
	"nextround/core/soil"
)

var began = calendar.MustParse("2023-01-01")

func history(rate, penetration float64, until int, visits ...soil.Visit) soil.History {
	return soil.History{
		Start:      soil.Start{Quality: soil.StartExact, Day: began},
		Conditions: []soil.Condition{{From: began, Rate: rate, Penetration: penetration, FanShare: 1}},
		Visits:     visits, Until: began.Add(until),
	}
}

func clean(learn.Cell) float64        { return 0 }
func asItStands(c learn.Cell) float64 { return c.Face + c.Core }

// outlookOf makes an outlook of a learned history, with the sample's money.
func outlookOf(t testing.TB, h soil.History, bins int, start func(learn.Cell) float64) interval.Outlook {
	r, err := learn.Learn(learn.Question{History: h})
	require.NoError(t, err)
	o := example()
	o.Scatter, o.OverPrice = nil, nil
	o.Sides[0].Rates, o.Sides[0].Starts = interval.Condense(r.Cells, bins, start)
	o.Sides[0].Findings = r.Counted
	return o
}

func afterAYear() soil.History {
	return history(soil.StartRate(365, 1, 1), .3, 365, soil.Visit{Day: began.Add(365), Found: &soil.Finding{Grade: soil.Felt, Seen: soil.LightThrough}})
}

func eightFaceLooks() soil.History {
	var visits []soil.Visit
	for i := 1; i <= 8; i++ {
		visits = append(visits, soil.Visit{
			Day: began.Add(90 * i), Found: &soil.Finding{Grade: soil.Coat, Seen: soil.FaceLook},
			Cleans: []soil.Removal{{Face: .85, Core: .05}}, Left: &soil.Finding{Grade: soil.Bare, Seen: soil.FaceLook},
		})
	}
	return history(.12, .3, 720, visits...)
}

func limitDays(t testing.TB, o interval.Outlook) interval.Opinion {
	r, err := interval.Propose(interval.Task{ClassDays: 365, ClassMaxDays: 730, Factor: 1, InForceDays: 182, Outlook: &o})
	require.NoError(t, err)
	return r.Limit
}

// The worked examples of the limit at 30 % and a risk of 20 %.
func TestTheLimitOfTheExamples(t *testing.T) {
	t.Parallel()
	assert.InDelta(t, 204, limitDays(t, outlookOf(t, afterAYear(), interval.Bins, clean)).Days, 1)
	assert.InDelta(t, 79, limitDays(t, outlookOf(t, eightFaceLooks(), interval.Bins, clean)).Days, .5, "from a deep clean")
	now := limitDays(t, outlookOf(t, eightFaceLooks(), interval.Bins, asItStands))
	assert.Zero(t, now.Days, "from its own state it is likely past the limit already")
	assert.Equal(t, reason.LimitPast, now.Reasons[0].Code)
}

// Forty equally likely rates do for the thousands of cells of a grid.
func TestBinsAreFineEnough(t *testing.T) {
	t.Parallel()
	for _, h := range []soil.History{afterAYear(), eightFaceLooks()} {
		few, err := interval.Look(outlookOf(t, h, interval.Bins, clean))
		require.NoError(t, err)
		many, err := interval.Look(outlookOf(t, h, 1000, clean))
		require.NoError(t, err)
		assert.InEpsilon(t, many.Cheapest().TotalDay, few.Cheapest().TotalDay, 5e-3)
		for _, d := range []float64{30, 90, 200} {
			assert.InDelta(t, many.Over(d), few.Over(d), 5e-3)
			assert.InEpsilon(t, many.Money(d), few.Money(d), 2e-2)
		}
	}
}

// Linear running cost: T* = √(2·clean/slope), and the average there is √(2·clean·slope).
func TestSquareRootRule(t *testing.T) {
	t.Parallel()
	// Between two points of the cost table the cost is linear in the load, so a rate that stays there is a linear case.
	o := example()
	o.CleanCost = .1
	o.Sides[0] = interval.Belief{Rates: []float64{.003}, Starts: []float64{0}}
	a, err := interval.Look(o)
	require.NoError(t, err)
	slope := (o.Economics.At(.01).Day() - o.Economics.At(0).Day()) / .01 * .003 / 30
	best := a.Cheapest()
	want := math.Sqrt(2 * o.CleanCost / slope)
	require.Greater(t, want, 10.0)
	require.Less(t, want, 100.0, "within the first part of the table")
	assert.InDelta(t, want, best.Days, 1)
	assert.InEpsilon(t, math.Sqrt(2*o.CleanCost*slope), best.TotalDay, 1e-3)
}

// Renewal identity: at the optimum the cost of the day is the average.
func TestAtTheOptimumTheDayCostsTheAverage(t *testing.T) {
	t.Parallel()
	for _, o := range []interval.Outlook{example(), outlookOf(t, afterAYear(), interval.Bins, clean)} {
		a, err := interval.Look(o)
		require.NoError(t, err)
		best := a.Cheapest()
		over := 0.0
		if o.OverPrice == nil {
			over = heat.DefaultOverPrice * a.Over(best.Days)
		}
		require.False(t, best.Worst || best.Unbounded)
		assert.InEpsilon(t, best.TotalDay, a.Money(best.Days)+over, .01)
	}
}
