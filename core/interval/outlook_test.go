package interval_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/interval"
	"nextround/core/soil"
)

func known(v float64) *float64 { return &v }

// The worked example: rate known, no price on days over the limit.
func example() interval.Outlook {
	return interval.Outlook{
		Sides:    []interval.Belief{{Rates: []float64{.06}, Starts: []float64{.02}, Findings: 8}},
		FanShare: 1, Scatter: known(0), OverPrice: known(0), CleanCost: 180,
		Economics: heat.Economics{
			Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: heat.CleanCondenser, EnergyDay: 3000. / 365, CallsYear: new(.15), CallsSlope: .14, CallCost: 450,
		},
	}
}

func TestLeastCostOfTheExample(t *testing.T) {
	t.Parallel()
	a, err := interval.Look(example())
	require.NoError(t, err)
	best := a.Cheapest()
	assert.InDelta(t, 318, best.Days, 1)
	assert.InDelta(t, 284, best.From, 1)
	assert.InDelta(t, 355, best.To, 1)
	assert.InDelta(t, .975, best.TotalDay, 5e-4)
}

func ladderExample() interval.LadderQuestion {
	return interval.LadderQuestion{
		Sides: []interval.LadderSide{{Rate: .24, Penetration: .3}}, FanShare: 1,
		Light:     interval.Rung{Cost: 12, Removal: soil.Removal{Face: .85, Core: .05}},
		Deep:      interval.Rung{Cost: 90, Removal: soil.Removal{Face: .95, Core: .80}},
		Economics: heat.Economics{Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: heat.CleanPlugIn, EnergyDay: 1.6, CallsYear: new(.2), CallsSlope: .14, CallCost: 400},
	}
}

func TestTheLadderOfTheExample(t *testing.T) {
	t.Parallel()
	r, err := interval.Climb(ladderExample())
	require.NoError(t, err)
	assert.Equal(t, []int{56, 5}, []int{r.Cheapest.EveryDays, r.Cheapest.Rungs})
	assert.InDelta(t, .765, r.Cheapest.TotalDay, 5e-4)
	assert.Equal(t, 133, r.DeepOnly.EveryDays)
	assert.InDelta(t, .987, r.DeepOnly.TotalDay, 5e-4)
	assert.InDelta(t, .225, r.Saved, 5e-4)
	require.NotNil(t, r.WithinLimit)
	assert.Equal(t, []int{14, 8}, []int{r.WithinLimit.EveryDays, r.WithinLimit.Rungs})
	assert.InDelta(t, 1.606, r.WithinLimit.TotalDay, 5e-4)
}

// Thirty days past the optimum: about 2.28 in energy and calls. Counted from day 318 it is 2.25, from the exact optimum
// at 318.37 days 2.30.
func TestWaitingOfTheExample(t *testing.T) {
	t.Parallel()
	o := example()
	a, _ := interval.Look(o)
	best := a.Cheapest()
	for from, want := range map[float64]float64{318: 2.2465, 318.37: 2.3032} {
		w, err := interval.PriceOfWaiting(interval.WaitQuestion{Now: o, Average: best.TotalDay, DueIn: from, Days: 30})
		require.NoError(t, err)
		assert.InDelta(t, want, w.Money, 5e-3)
	}
}

// The weeks worked out together are the same as each by itself, and never fall.
func TestWaitingWeeksAreTheWaitsOfEachWeek(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		q := interval.WaitQuestion{Now: example(), Average: rapid.Float64Range(0, 2).Draw(t, "average"), DueIn: float64(rapid.IntRange(-30, 200).Draw(t, "due"))}
		weeks, err := interval.WaitingWeeks(q, 6)
		require.NoError(t, err)
		require.Len(t, weeks, 6)
		before := 0.0
		for n, money := range weeks {
			one := q
			one.Days = float64(7 * (n + 1))
			alone, err := interval.PriceOfWaiting(one)
			require.NoError(t, err)
			assert.InDelta(t, alone.Money, money, 1e-4+.01*alone.Money, "week %d", n+1)
			assert.GreaterOrEqual(t, money, before-1e-9)
			before = money
		}
	})
	_, err := interval.WaitingWeeks(interval.WaitQuestion{Now: example(), Average: -1}, 3)
	assert.ErrorContains(t, err, "average_day")
}

// Energy counts as much as the unit works: the same soil costs more in the months of load, and over the year as much as with even months.
func TestEnergyCountsByTheMonthsOfLoad(t *testing.T) {
	t.Parallel()
	o := example()
	o.Economics.CallCost = 0
	o.Sides[0].Rates, o.Sides[0].Starts = []float64{1e-9}, []float64{.3}
	day := func(months *soil.MonthWeights, on string) float64 {
		o.LoadMonths, o.From = months, new(calendar.MustParse(on))
		a, err := interval.Look(o)
		require.NoError(t, err)
		return a.Money(10)
	}
	w := &soil.MonthWeights{.2, .2, .3, .5, 1.2, 2.0, 2.6, 2.4, 1.4, .6, .3, .3}
	plain := day(nil, "2026-07-01")
	assert.InEpsilon(t, plain, day(nil, "2026-01-01"), 1e-9)
	assert.InEpsilon(t, 2.6*plain, day(w, "2026-07-01"), .02)
	assert.InEpsilon(t, .2*plain, day(w, "2026-01-01"), .02)
	o.LoadMonths, o.From = w, new(calendar.MustParse("2026-01-01"))
	a, err := interval.Look(o)
	require.NoError(t, err)
	assert.InEpsilon(t, plain, a.Account(365).SoilDay, .03, "mean 1 over the year")
	o.LoadMonths = &soil.MonthWeights{}
	_, err = interval.Look(o)
	assert.ErrorContains(t, err, "load_months:")
}
