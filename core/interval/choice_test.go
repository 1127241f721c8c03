package interval_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/heat"
	"nextround/core/interval"
	"nextround/core/learn"
	"nextround/core/soil"
)

// A cooler brushed every sixty days, found coated each time, and felted whenever somebody looked through.
func brushedForYears() soil.History {
	var visits []soil.Visit
	for i := 1; i <= 20; i++ {
		found := &soil.Finding{Grade: soil.Coat, Seen: soil.FaceLook}
		if i%4 == 0 {
			found = &soil.Finding{Grade: soil.Felt, Seen: soil.LightThrough}
		}
		visits = append(visits, soil.Visit{
			Day: began.Add(60 * i), Found: found, Cleans: []soil.Removal{{Face: .85, Core: .05}}, Left: &soil.Finding{Grade: soil.Bare, Seen: soil.FaceLook},
		})
	}
	return history(.12, .3, 1230, visits...)
}

var ways = []interval.Plan{
	plan("brush", 20, .85, .05), plan("air", 40, .70, .50), plan("aerosol", 55, .85, .50), plan("tank", 65, .90, .65), plan("foam", 90, .95, .80), plan("out", 120, .97, .90),
}

func brushed(t testing.TB) interval.ChoiceQuestion {
	r, err := learn.Learn(learn.Question{History: brushedForYears()})
	require.NoError(t, err)
	return interval.ChoiceQuestion{
		Truths: interval.Truths([][]learn.Cell{r.Cells}), FanShare: 1, Plans: ways, LightPlans: ways[:1], OverPrice: .5,
		Economics: heat.Economics{Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: 12, EnergyDay: 4, CallCost: 350},
		InForce:   &interval.Cycle{Plan: "brush", EveryDays: 60},
	}
}

func TestABrushThatLeavesTheCoreIsReplaced(t *testing.T) {
	t.Parallel()
	r, err := interval.Choose(brushed(t))
	require.NoError(t, err)
	assert.True(t, r.Change)
	assert.NotEqual(t, "brush", r.Best.Plan, "a brush leaves the core, however often")
	assert.Zero(t, r.First.InDays, "the core is full now")
	assert.True(t, r.First.BringsDown, "a deeper clean first")
	assert.Greater(t, r.BetterShare, .99)
	assert.InDelta(t, r.InForce.CostDay-r.Best.CostDay, r.SavesDay, 1e-9)
	assert.Less(t, r.Best.HalfShare, .2)
	for _, k := range append(r.Table, *r.InForce) {
		assert.InDelta(t, k.CostDay, k.CleanDay+k.EnergyDay+k.CallsDay+k.OverDay, 1e-9)
		assert.InDelta(t, k.OverDay, .5*k.OverShare, 1e-9)
	}
}

// What is best already is kept, and said to be.
func TestNothingBeatsWhatIsBest(t *testing.T) {
	t.Parallel()
	q := brushed(t)
	r, err := interval.Choose(q)
	require.NoError(t, err)
	q.InForce = &interval.Cycle{Plan: r.Best.Plan, EveryDays: r.Best.EveryDays, Light: r.Best.Light, LightEvery: r.Best.LightEvery}
	r, err = interval.Choose(q)
	require.NoError(t, err)
	assert.False(t, r.Change)
	assert.InDelta(t, 0, r.SavesDay, 1e-9)
	// Cheaper on average, but not surely: what is in force is best for one of two truths.
	slow := interval.Truth{Weight: .5, Sides: []interval.TruthSide{{Rate: .02, Penetration: .1}}}
	fast := interval.Truth{Weight: .5, Sides: []interval.TruthSide{{Rate: .03, Penetration: .2}}}
	q.Truths, q.LightPlans, q.InForce = []interval.Truth{slow}, nil, nil
	r, err = interval.Choose(q)
	require.NoError(t, err)
	q.Truths, q.InForce = []interval.Truth{slow, fast}, &interval.Cycle{Plan: r.Best.Plan, EveryDays: r.Best.EveryDays}
	r, err = interval.Choose(q)
	require.NoError(t, err)
	assert.Positive(t, r.SavesDay)
	assert.False(t, r.Change)
	assert.InDelta(t, .5, r.BetterShare, 1e-9)
	// What half-blocks the coil is not kept, however little is sure.
	q.Truths[1].Sides = []interval.TruthSide{{Rate: .12, Penetration: .6}}
	r, err = interval.Choose(q)
	require.NoError(t, err)
	require.Greater(t, r.InForce.HalfShare, .2)
	assert.True(t, r.Change)
}

// One truth, one plan, nothing in between: the choice is the program at known rates, in whole weeks.
func TestAChoiceAtKnownRatesIsTheProgram(t *testing.T) {
	t.Parallel()
	q := brushed(t)
	q.Truths = []interval.Truth{{Weight: 1, Sides: []interval.TruthSide{{Rate: .08, Penetration: .3}}}}
	q.LightPlans, q.InForce = nil, nil
	r, err := interval.Choose(q)
	require.NoError(t, err)
	p, err := interval.BestProgram(interval.ProgramQuestion{
		Sides: []interval.LadderSide{{Rate: .08, Penetration: .3}}, FanShare: 1, Economics: q.Economics, Plans: q.Plans, OverPrice: q.OverPrice,
	})
	require.NoError(t, err)
	assert.Equal(t, p.Best.Plan, r.Best.Plan)
	assert.InEpsilon(t, p.Best.CostDay, r.Best.CostDay, .01)
	assert.GreaterOrEqual(t, r.Best.CostDay, p.Best.CostDay-1e-12)
	// The ladder of a light clean and a deep one is the one of Climb.
	l, err := interval.Climb(ladderExample())
	require.NoError(t, err)
	e := ladderExample()
	k, err := interval.Choose(interval.ChoiceQuestion{
		Truths: []interval.Truth{{Weight: 1, Sides: []interval.TruthSide{{Rate: e.Sides[0].Rate, Penetration: e.Sides[0].Penetration}}}}, FanShare: 1, Economics: e.Economics,
		Plans: []interval.Plan{{Code: "deep", Cost: e.Deep.Cost, Removal: e.Deep.Removal}}, LightPlans: []interval.Plan{{Code: "light", Cost: e.Light.Cost, Removal: e.Light.Removal}},
		InForce: &interval.Cycle{Plan: "deep", EveryDays: 280, Light: "light", LightEvery: 56},
	})
	require.NoError(t, err)
	require.Equal(t, 5*56, l.Cheapest.EveryDays*l.Cheapest.Rungs)
	assert.InEpsilon(t, l.Cheapest.TotalDay, k.InForce.CostDay, 1e-3, "the same cycle costs the same")
	assert.Greater(t, k.InForce.HalfShare, .2)
	assert.LessOrEqual(t, k.Best.HalfShare, .2, "one that half-blocks the coil is not chosen where another need not")
}

// A share that goes into the core may be ruled out altogether, or be held to the bound of another.
func TestTruthsOfABeliefAtItsEdge(t *testing.T) {
	t.Parallel()
	cells := []learn.Cell{{Weight: 0, Rate: .1, Penetration: .1}, {Weight: 1, Rate: .2, Penetration: .2, Core: .3}, {Weight: 1, Rate: .3, Penetration: .2, Core: .5}}
	truths := interval.Truths([][]learn.Cell{cells})
	total, core := 0.0, 0.0
	for _, x := range truths {
		total += x.Weight
		core += x.Weight * x.Sides[0].Core
	}
	assert.InDelta(t, 2, total, 1e-9, "as weighty as the cells")
	assert.InDelta(t, .8, core, 1e-9)
	assert.Empty(t, interval.Truths(nil))
}

func TestSidesAndSeasonsAreCarried(t *testing.T) {
	t.Parallel()
	q := brushed(t)
	one, err := interval.Choose(q)
	require.NoError(t, err)
	for i := range q.Truths {
		q.Truths[i].Sides = append(q.Truths[i].Sides, q.Truths[i].Sides[0])
	}
	two, err := interval.Choose(q)
	require.NoError(t, err)
	assert.InEpsilon(t, one.Best.CostDay, two.Best.CostDay, 5e-3, "two sides alike are one")
	slow := cooling()
	s := interval.ChoiceQuestion{
		Truths: []interval.Truth{{Weight: 1, Sides: []interval.TruthSide{{Rate: .06, Penetration: .15}}}}, FanShare: 1, Economics: slow.Economics, Plans: slow.Plans, LoadMonths: slow.LoadMonths,
	}
	dated, err := interval.Choose(s)
	require.NoError(t, err)
	require.Len(t, dated.Best.Days, 1)
	assert.InDelta(t, 120, dated.Best.Days[0], 7, "before the load, not after it")
}

func TestChoicesNameTheFieldsTheyCannotUse(t *testing.T) {
	t.Parallel()
	q := brushed(t)
	q.Truths[0].Weight, q.Areas, q.InForce, q.MostNow, q.DayOfYear = -1, []float64{1, 2}, &interval.Cycle{Plan: "steam", Light: "rag"}, -1, 400
	_, err := interval.Choose(q)
	for _, field := range []string{"truths[0].weight", "areas", "in_force.plan", "in_force.light", "in_force.every_days", "most_now_days", "day_of_year"} {
		assert.ErrorContains(t, err, field+":")
	}
	_, err = interval.ValueOfLooking(interval.LookQuestion{ChoiceQuestion: q, Ways: []interval.LookWay{{Kind: "smell", CostRiding: -1, CostAlone: -1}}})
	for _, field := range []string{"ways[0].kind", "ways[0].cost_riding", "ways[0].cost_alone", "areas"} {
		assert.ErrorContains(t, err, field+":")
	}
}

// A core that may be packed is worth looking at; one that is known is not.
func TestLookingIsWorthWhatItCouldChange(t *testing.T) {
	t.Parallel()
	q := brushed(t)
	side := func(core float64) []interval.TruthSide {
		return []interval.TruthSide{{Rate: .05, Penetration: .3, State: soil.State{Face: .05, Core: core}}}
	}
	q.Truths = []interval.Truth{{Weight: .5, Sides: side(.02)}, {Weight: .5, Sides: side(1.5)}}
	unknown, err := interval.ValueOfLooking(interval.LookQuestion{ChoiceQuestion: q, Ways: []interval.LookWay{
		{Kind: interval.LookLight, CostRiding: 5, CostAlone: 60}, {Kind: interval.LookFinding}, {Kind: interval.LookReadings, CostRiding: 5},
	}})
	require.NoError(t, err)
	light := unknown.Looks[0]
	assert.Equal(t, interval.LookLight, light.Kind, "nothing tells more")
	assert.Greater(t, light.Saves, 5.0)
	assert.InDelta(t, light.Saves-5, light.NetRiding, 1e-9)
	assert.InDelta(t, light.Saves-60, light.NetAlone, 1e-9)
	total := 0.0
	for _, a := range light.Answers {
		total += a.Probability
	}
	assert.InDelta(t, 1, total, 1e-3)
	for _, l := range unknown.Looks {
		if l.Kind == interval.LookFinding {
			assert.Zero(t, l.Saves, "the face is known, and says nothing of the core")
		}
	}
	q.Truths = []interval.Truth{{Weight: 1, Sides: side(.6)}}
	known, err := interval.ValueOfLooking(interval.LookQuestion{ChoiceQuestion: q})
	require.NoError(t, err)
	for _, l := range known.Looks {
		assert.Zero(t, l.Saves, "%s: no answer would change anything", l.Kind)
	}
}

func TestLookingNeverCostsBeforeItIsPaidFor(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		q := interval.ChoiceQuestion{
			FanShare: 1, Plans: ways, OverPrice: rapid.Float64Range(0, 2).Draw(t, "over"),
			Economics: heat.Economics{Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: 12, EnergyDay: rapid.Float64Range(.2, 10).Draw(t, "energy"), CallCost: 300},
		}
		for range rapid.IntRange(1, 6).Draw(t, "truths") {
			q.Truths = append(q.Truths, interval.Truth{Weight: rapid.Float64Range(.01, 1).Draw(t, "weight"), Sides: []interval.TruthSide{{
				Rate: rapid.Float64Range(.005, .4).Draw(t, "rate"), Penetration: rapid.Float64Range(.05, .8).Draw(t, "penetration"),
				State: soil.State{Face: rapid.Float64Range(0, 1).Draw(t, "face"), Core: rapid.Float64Range(0, 2).Draw(t, "core")},
			}}})
		}
		r, err := interval.ValueOfLooking(interval.LookQuestion{ChoiceQuestion: q})
		require.NoError(t, err)
		for _, l := range r.Looks {
			assert.GreaterOrEqual(t, l.Saves, 0.0)
			assert.LessOrEqual(t, l.After, l.Now)
		}
	})
}

func ExampleChoose() {
	r, _ := interval.Choose(interval.ChoiceQuestion{
		Truths: []interval.Truth{{Weight: 1, Sides: []interval.TruthSide{{Rate: .12, Penetration: .3, State: soil.State{Face: .05, Core: .9}}}}}, FanShare: 1, Plans: ways,
		Economics: heat.Economics{Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: 12, EnergyDay: 4, CallCost: 350},
		InForce:   &interval.Cycle{Plan: "brush", EveryDays: 60},
	})
	fmt.Printf("%s every %d days, first %s in %d days\n", r.Best.Plan, r.Best.EveryDays, r.First.Plan, r.First.InDays)
	// Output: air every 105 days, first air in 0 days
}

func BenchmarkChoose(b *testing.B) {
	q := brushed(b)
	for b.Loop() {
		if _, err := interval.Choose(q); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkChooseInSeason(b *testing.B) {
	q := brushed(b)
	q.LoadMonths, q.SoilMonths = cooling().LoadMonths, &soil.GrowingSeason
	for b.Loop() {
		if _, err := interval.Choose(q); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkChooseInSeasonWithFourSides(b *testing.B) {
	q := brushed(b)
	q.LoadMonths, q.SoilMonths, q.HorizonDays = cooling().LoadMonths, &soil.GrowingSeason, 1095
	for i := range q.Truths {
		s := q.Truths[i].Sides[0]
		q.Truths[i].Sides = append(q.Truths[i].Sides, s, s, s)
	}
	for b.Loop() {
		if _, err := interval.Choose(q); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkValueOfLooking(b *testing.B) {
	q := brushed(b)
	for b.Loop() {
		if _, err := interval.ValueOfLooking(interval.LookQuestion{ChoiceQuestion: q}); err != nil {
			b.Fatal(err)
		}
	}
}

// The fewer days over the limit are allowed, the dearer such a day, and the price that is found is the lowest that holds them.
func TestAShareOfDaysHasItsPrice(t *testing.T) {
	t.Parallel()
	q := brushed(t)
	free, err := interval.Choose(q)
	require.NoError(t, err)
	same, price, held, err := interval.ChooseWithin(q, 1)
	require.NoError(t, err)
	assert.True(t, held)
	assert.InDelta(t, q.OverPrice, price, 0, "any share is held at the house's own price")
	assert.Equal(t, free.Best, same.Best)
	last := q.OverPrice
	for _, share := range []float64{.9 * free.Best.OverShare, .5 * free.Best.OverShare} {
		c, price, held, err := interval.ChooseWithin(q, share)
		require.NoError(t, err)
		require.True(t, held, "share %v", share)
		assert.LessOrEqual(t, c.Best.OverShare, share)
		assert.GreaterOrEqual(t, price, last)
		last = price
		cheaper := q
		cheaper.OverPrice = price * .9
		less, err := interval.Choose(cheaper)
		require.NoError(t, err)
		assert.Greater(t, less.Best.OverShare, share, "a tenth less does not hold it")
	}
	hopeless := q
	hopeless.Plans, hopeless.InForce, hopeless.LightPlans = ways[:1], nil, nil
	_, _, held, err = interval.ChooseWithin(hopeless, .001)
	require.NoError(t, err)
	assert.False(t, held, "a brush never gets there")
	_, _, _, err = interval.ChooseWithin(q, 0)
	assert.ErrorContains(t, err, "most_over_share")
}

// A month that is asked for holds for light cleans in between and for the first clean, too.
func TestAnAnchorHoldsForLaddersAndTheFirstClean(t *testing.T) {
	t.Parallel()
	q := interval.ChoiceQuestion{
		Truths:   []interval.Truth{{Weight: 1, Sides: []interval.TruthSide{{Rate: .05, Penetration: .15, State: soil.State{Face: .05, Core: .03}}}}},
		FanShare: 1, Plans: []interval.Plan{plan("foam", 120, .95, .80)}, LightPlans: []interval.Plan{plan("hose", 12, .6, .1)}, OverPrice: .5,
		Economics: heat.Economics{Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: 14, EnergyDay: 6, CallCost: 450},
		DayOfYear: 62, MostDays: 730, AnchorMonth: 4, HorizonDays: 1095,
	}
	r, err := interval.Choose(q)
	require.NoError(t, err)
	for _, k := range r.Table {
		if k.Light != "" && k.EveryDays >= 120 {
			assert.InDelta(t, 0, (k.EveryDays+30)%365-30, 30, "%d d come round in the same month", k.EveryDays)
		}
	}
	in := (q.DayOfYear + r.First.InDays) % 365
	assert.True(t, r.First.InDays == 0 || (in >= 90 && in < 120), "the first clean falls on day %d of the year", in)
	q.MostNow = 20
	soon, err := interval.Choose(q)
	require.NoError(t, err)
	assert.LessOrEqual(t, soon.First.InDays, 20, "a bound comes first")
}

// What a choice tells of looks is what ValueOfLooking tells.
func TestAChoiceTellsWhatALookIsWorth(t *testing.T) {
	t.Parallel()
	q := brushed(t)
	alone, err := interval.ValueOfLooking(interval.LookQuestion{ChoiceQuestion: q})
	require.NoError(t, err)
	q.Looks = []interval.LookWay{{Kind: interval.LookLight}, {Kind: interval.LookFinding}, {Kind: interval.LookReadings}}
	r, err := interval.Choose(q)
	require.NoError(t, err)
	assert.Equal(t, alone.Looks, r.Looks)
	q.Looks[1].Kind = "x"
	_, err = interval.Choose(q)
	assert.ErrorContains(t, err, "looks[1].kind")
}

// A cause taken away never makes keeping the coil dearer, and a factor of 1 changes nothing.
func TestWithoutACause(t *testing.T) {
	t.Parallel()
	q := brushed(t)
	now, err := interval.Choose(q)
	require.NoError(t, err)
	same, err := interval.ChooseWithoutCause(q, 1)
	require.NoError(t, err)
	assert.Equal(t, now.Best, same.Best)
	last := now.Best.CostDay
	for _, times := range []float64{.8, .5, .25} {
		less, err := interval.ChooseWithoutCause(q, times)
		require.NoError(t, err)
		assert.Less(t, less.Best.CostDay, last)
		last = less.Best.CostDay
	}
	again, err := interval.Choose(q)
	require.NoError(t, err)
	assert.Equal(t, now.Best, again.Best, "the question is left as it was")
	_, err = interval.ChooseWithoutCause(q, 0)
	assert.ErrorContains(t, err, "times")
}
