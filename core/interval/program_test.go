package interval_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/interval"
	"nextround/core/soil"
)

func underCounter(rate, penetration float64, plans ...interval.Plan) interval.ProgramQuestion {
	return interval.ProgramQuestion{
		Sides: []interval.LadderSide{{Rate: rate, Penetration: penetration}}, FanShare: 1, Plans: plans,
		Economics: heat.Economics{Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: 12, EnergyDay: 1.2, CallsYear: new(.2), CallsSlope: .14, CallCost: 350},
	}
}

func plan(code string, cost, face, core float64) interval.Plan {
	return interval.Plan{Code: code, Cost: cost, Removal: soil.Removal{Face: face, Core: core}}
}

// The worked examples of plan and interval as one decision, pure money.
func TestPlanAndIntervalOfTheExamples(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		rate, penetration float64
		plans             []interval.Plan
		days              map[string]int
		cost              map[string]float64
		best              string
	}{
		{.15, .45, []interval.Plan{plan("long_brush", 24, .35, .05), plan("foam", 70, .94, .85)}, map[string]int{"long_brush": 20, "foam": 187}, map[string]float64{"long_brush": 1.673, "foam": .569}, "foam"},
		{.12, .3, []interval.Plan{plan("brush_vacuum", 20, .85, .05), plan("outdoors", 48, .97, .5)}, map[string]int{"brush_vacuum": 33, "outdoors": 167}, map[string]float64{"brush_vacuum": .922, "outdoors": .452}, "outdoors"},
	} {
		r, err := interval.BestProgram(underCounter(c.rate, c.penetration, c.plans...))
		require.NoError(t, err)
		assert.Equal(t, c.best, r.Best.Plan)
		for _, p := range r.Plans {
			assert.InDelta(t, c.days[p.Plan], p.EveryDays, 1, p.Plan)
			assert.InDelta(t, c.cost[p.Plan], p.CostDay, .001, p.Plan)
		}
	}
}

func cooling() interval.ProgramQuestion {
	return interval.ProgramQuestion{
		Sides: []interval.LadderSide{{Rate: .06, Penetration: .15}}, FanShare: 1, Plans: []interval.Plan{plan("foam", 160, .95, .80)},
		Economics:  heat.Economics{Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: 14, EnergyDay: 8, CallsYear: new(.15), CallsSlope: .14, CallCost: 450},
		LoadMonths: &soil.MonthWeights{.2, .2, .3, .5, 1.2, 2.0, 2.6, 2.4, 1.4, .6, .3, .3},
	}
}

// costOn is what a program costs a day on average once a coil has soiled and been cleaned for years, a tenth of a day at a time.
func costOn(q interval.ProgramQuestion, p interval.Plan, cleaned func(day int) bool, warm, days int) float64 {
	const parts = 10
	weights := func(m *soil.MonthWeights) []float64 {
		out, sum := []float64{}, 0.0
		for d := range 365 {
			w := 1.0
			if m != nil {
				w = m[calendar.MustParse("2026-01-01").Add(d).Month()-1]
			}
			out, sum = append(out, w), sum+w
		}
		for d := range out {
			out[d] *= 365 / sum
		}
		return out
	}
	load, come := weights(q.LoadMonths), weights(q.SoilMonths)
	energy, calls := q.Economics.Tables()
	var state soil.State
	total := 0.0
	for day := range warm + days {
		if cleaned(day) {
			state = state.Clean(p.Removal)
			if day >= warm {
				total += p.Cost
			}
		}
		for range parts {
			half := come[day%365] * q.FanShare / parts / 2
			state = state.Deposit(q.Sides[0].Rate, q.Sides[0].Penetration, half)
			if l := state.Total(); day >= warm {
				total += (load[day%365]*energy.Day(l) + calls.Day(l)) / parts
				if l > soil.Load(.3) {
					total += q.OverPrice / parts
				}
			}
			state = state.Deposit(q.Sides[0].Rate, q.Sides[0].Penetration, half)
		}
	}
	return total / float64(days)
}

// The settled cost is the geometric sum of what every clean leaves: the same as letting it soil and cleaning it for years.
func TestTheSettledStateIsThatOfYearsOfCleans(t *testing.T) {
	t.Parallel()
	packing := plan("packing", 30, .7, .4)
	packing.Packing = .3
	for _, p := range []interval.Plan{plan("brush", 24, .85, .05), plan("foam", 70, .94, .85), packing} {
		for _, seasonal := range []bool{false, true} {
			q := underCounter(.1, .3, p)
			q.OverPrice, q.FanShare = .5, .8
			if seasonal {
				q.LoadMonths, q.SoilMonths = cooling().LoadMonths, &soil.GrowingSeason
			}
			q.Plans[0].LeastDays, q.Plans[0].MostDays = 50, 50
			r, err := interval.BestProgram(q)
			require.NoError(t, err)
			want := costOn(q, p, func(day int) bool { return day%50 == 0 }, 365*50, 365*50)
			assert.InEpsilon(t, want, r.Best.CostDay, 2e-3, "%s, seasonal %v", p.Code, seasonal)
		}
	}
}

// No plan, no interval and no pair of days of the year is cheaper than the one chosen.
func TestNothingIsCheaperThanTheProgram(t *testing.T) {
	t.Parallel()
	q := cooling()
	q.SoilMonths, q.Sides[0].Rate, q.Plans[0].Cost = &soil.GrowingSeason, .2, 90
	r, err := interval.BestProgram(q)
	require.NoError(t, err)
	require.Len(t, r.Best.Days, 3)
	at := func(days ...int) float64 {
		return costOn(q, q.Plans[0], func(day int) bool { return slices.Contains(days, day%365) }, 365*3, 365)
	}
	assert.InEpsilon(t, at(r.Best.Days...), r.Best.CostDay, 2e-3)
	for a := 0; a < 365; a += 21 {
		for b := a; b < 365; b += 21 {
			for c := b; c < 365; c += 21 {
				assert.GreaterOrEqual(t, at(a, b, c), r.Best.CostDay*(1-2e-3), "days %d, %d and %d", a, b, c)
			}
		}
	}
	for days := 7; days < 120; days += 14 {
		assert.GreaterOrEqual(t, costOn(q, q.Plans[0], func(day int) bool { return day%days == 0 }, 365*3, 365*days), r.Best.CostDay, "every %d days", days)
	}
}

// The worked examples of the date as part of the decision, reckoned in weeks from 1 January: 30 April at .793 a day and, with soil of the
// growing season, 25 June at .880. By days the best is within a week of them and cheaper by less than half a per cent.
func TestTheDatesOfTheExamples(t *testing.T) {
	t.Parallel()
	q := cooling()
	for _, c := range []struct {
		soil *soil.MonthWeights
		day  int
		cost float64
	}{{nil, 119, .793}, {&soil.GrowingSeason, 175, .880}} {
		q.SoilMonths = c.soil
		r, err := interval.BestProgram(q)
		require.NoError(t, err)
		assert.Equal(t, 365, r.Best.EveryDays)
		require.Len(t, r.Best.Days, 1)
		assert.InDelta(t, c.day, r.Best.Days[0], 7)
		assert.LessOrEqual(t, r.Best.CostDay, c.cost+.0005)
		assert.InEpsilon(t, c.cost, r.Best.CostDay, .005)
	}
}

// Even months are no months, and nothing then is dated.
func TestEvenMonthsAreTheFirstEdition(t *testing.T) {
	t.Parallel()
	q := cooling()
	q.LoadMonths = nil
	plain, err := interval.BestProgram(q)
	require.NoError(t, err)
	even := soil.Even
	q.LoadMonths, q.SoilMonths = &even, &even
	same, err := interval.BestProgram(q)
	require.NoError(t, err)
	assert.Equal(t, plain, same)
	assert.Nil(t, same.Best.Days)
	// A plan that takes everything leaves a clean coil: the least cost of the first edition.
	q.Plans = []interval.Plan{plan("all", 180, 1, 1)}
	q.Sides[0].Rate = .06
	all, err := interval.BestProgram(q)
	require.NoError(t, err)
	o := example()
	o.Economics, o.CleanCost, o.Sides[0] = q.Economics, 180, interval.Belief{Rates: []float64{.06}}
	a, err := interval.Look(o)
	require.NoError(t, err)
	assert.InDelta(t, a.Cheapest().Days, all.Best.EveryDays, 3)
	assert.InEpsilon(t, a.Cheapest().TotalDay, all.Best.CostDay, 2e-3)
}

// Dearer energy, dearer call-outs and more soil never cost less, and dearer energy never waits longer; a dearer clean never comes sooner.
func TestProgramsKnowWhatIsDearer(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		q := underCounter(rapid.Float64Range(.01, .4).Draw(t, "rate"), rapid.Float64Range(.05, .6).Draw(t, "penetration"),
			plan("one", rapid.Float64Range(5, 300).Draw(t, "cost"), rapid.Float64Range(.2, 1).Draw(t, "face"), rapid.Float64Range(.1, 1).Draw(t, "core")))
		q.Economics.EnergyDay = rapid.Float64Range(.1, 30).Draw(t, "energy")
		before, err := interval.BestProgram(q)
		require.NoError(t, err)
		for name, change := range map[string]func(*interval.ProgramQuestion){
			"energy": func(q *interval.ProgramQuestion) { q.Economics.EnergyDay *= 1.3 },
			"calls":  func(q *interval.ProgramQuestion) { q.Economics.CallCost *= 1.3 },
			"soil": func(q *interval.ProgramQuestion) {
				q.Sides = []interval.LadderSide{{Rate: q.Sides[0].Rate * 1.3, Penetration: q.Sides[0].Penetration}}
			},
			"clean": func(q *interval.ProgramQuestion) {
				q.Plans = []interval.Plan{{Code: "one", Cost: q.Plans[0].Cost * 1.3, Removal: q.Plans[0].Removal}}
			},
		} {
			other := q
			change(&other)
			after, err := interval.BestProgram(other)
			require.NoError(t, err)
			assert.GreaterOrEqual(t, after.Best.CostDay, before.Best.CostDay-1e-9, name)
			switch name {
			case "energy", "calls":
				assert.LessOrEqual(t, after.Best.EveryDays, before.Best.EveryDays, name)
			case "clean":
				assert.GreaterOrEqual(t, after.Best.EveryDays, before.Best.EveryDays, name)
			}
		}
	})
}

func TestProgramsNameTheFieldsTheyCannotUse(t *testing.T) {
	t.Parallel()
	_, err := interval.BestProgram(interval.ProgramQuestion{
		Sides: []interval.LadderSide{{Rate: -1, Penetration: 2}}, Plans: []interval.Plan{{Removal: soil.Removal{Face: 2}, LeastDays: -1}},
		SoilMonths: &soil.MonthWeights{}, OverPrice: -1, Limit: 2, MostDays: -1,
	})
	for _, field := range []string{
		"sides[0].rate", "sides[0].penetration", "fan_share", "plans[0].code", "plans[0].cost", "plans[0].face_share", "plans[0].least_days",
		"soil_months", "price_day_over", "limit_share", "most_days", "economics.side",
	} {
		assert.ErrorContains(t, err, field+":")
	}
	q := underCounter(.1, .3, plan("never", 10, .9, .9))
	q.Plans[0].LeastDays, q.MostDays = 100, 50
	_, err = interval.BestProgram(q)
	assert.ErrorContains(t, err, "plans:")
}

func ExampleBestProgram() {
	r, _ := interval.BestProgram(underCounter(.15, .45, plan("long_brush", 24, .35, .05), plan("foam", 70, .94, .85)))
	for _, p := range r.Plans {
		fmt.Printf("%s every %d days: %.2f a day\n", p.Plan, p.EveryDays, p.CostDay)
	}
	// Output:
	// foam every 187 days: 0.57 a day
	// long_brush every 20 days: 1.67 a day
}

// A month that is asked for holds one of the cleans, costs no less than free dates, and no more than the best date within it.
func TestAnAnchoredProgramFallsIntoItsMonth(t *testing.T) {
	t.Parallel()
	for _, rate := range []float64{.06, .2} { // once a year, and three times
		for month := 1; month <= 12; month++ {
			q := cooling()
			q.SoilMonths, q.Sides[0].Rate, q.Plans[0].Cost = &soil.GrowingSeason, rate, 90
			free, err := interval.BestProgram(q)
			require.NoError(t, err)
			q.AnchorMonth = month
			r, err := interval.BestProgram(q)
			require.NoError(t, err)
			require.NotEmpty(t, r.Best.Days, "rate %v, month %d", rate, month)
			in := slices.ContainsFunc(r.Best.Days, func(d int) bool {
				return int(calendar.MustParse("2026-01-01").Add(d).Month()) == month
			})
			assert.True(t, in, "rate %v, month %d: %v", rate, month, r.Best.Days)
			assert.GreaterOrEqual(t, r.Best.CostDay, free.Best.CostDay-1e-9)
			if len(r.Best.Days) == 1 && r.Best.EveryDays == 365 {
				first := calendar.MustParse(fmt.Sprintf("2026-%02d-01", month)).Sub(calendar.MustParse("2026-01-01"))
				at := costOn(q, q.Plans[0], func(day int) bool { return day%365 == first }, 365*5, 365)
				assert.LessOrEqual(t, r.Best.CostDay, at*(1+2e-3), "no day of the month is better")
			}
		}
	}
	q := cooling()
	q.AnchorMonth = 13
	_, err := interval.BestProgram(q)
	assert.ErrorContains(t, err, "anchor_month")
}

// Without seasons the month alone decides: its middle, at the cost of any other day.
func TestAnAnchorWithoutSeasons(t *testing.T) {
	t.Parallel()
	q := cooling()
	q.LoadMonths = nil
	free, err := interval.BestProgram(q)
	require.NoError(t, err)
	q.AnchorMonth = 4
	r, err := interval.BestProgram(q)
	require.NoError(t, err)
	require.Len(t, r.Best.Days, 1)
	assert.InDelta(t, 105, r.Best.Days[0], 1, "16 April")
	assert.GreaterOrEqual(t, r.Best.CostDay, free.Best.CostDay, "a whole year is not the best interval")
	assert.InEpsilon(t, free.Best.CostDay, r.Best.CostDay, .1)
}
