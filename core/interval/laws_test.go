package interval_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/interval"
	"nextround/core/reason"
	"nextround/core/soil"
)

func drawOutlook(t *rapid.T) interval.Outlook {
	o := interval.Outlook{
		FanShare: rapid.Float64Range(.05, 1).Draw(t, "fan"), CleanCost: rapid.Float64Range(1, 2000).Draw(t, "clean"),
		OverPrice: known(rapid.Float64Range(0, 20).Draw(t, "over price")), MostDays: rapid.IntRange(30, 1500).Draw(t, "most days"),
		Scatter: known(rapid.SampledFrom([]float64{0, .25, .6}).Draw(t, "scatter")),
		Economics: heat.Economics{
			Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: rapid.Float64Range(6, 20).Draw(t, "clean k"),
			EnergyDay: rapid.SampledFrom([]float64{0, 1e-6, 1, 50}).Draw(t, "energy"), CallCost: rapid.Float64Range(0, 900).Draw(t, "call"),
		},
	}
	if rapid.Bool().Draw(t, "dated") {
		day := calendar.MustParse("2026-03-04")
		o.From, o.Months = &day, soil.GrowingSeason
	}
	for i := range rapid.IntRange(1, 3).Draw(t, "sides") {
		b := interval.Belief{Name: fmt.Sprint(i), Findings: rapid.IntRange(0, 4).Draw(t, "findings")}
		rate := rapid.Float64Range(.001, 1).Draw(t, "rate")
		for range rapid.IntRange(1, 6).Draw(t, "rates") {
			b.Rates = append(b.Rates, rate)
			b.Starts = append(b.Starts, rapid.Float64Range(0, .5).Draw(t, "start"))
			rate *= rapid.Float64Range(1, 2).Draw(t, "times")
		}
		o.Sides = append(o.Sides, b)
	}
	return o
}

// A longer wait never shows less soil nor less risk, and never costs less a day.
func TestOutlookLaws(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		o := drawOutlook(t)
		a, err := interval.Look(o)
		require.NoError(t, err)
		soon := rapid.Float64Range(0, float64(o.MostDays)).Draw(t, "soon")
		later := rapid.Float64Range(soon, float64(o.MostDays)).Draw(t, "later")
		assert.LessOrEqual(t, a.Over(soon), a.Over(later)+1e-9)
		assert.LessOrEqual(t, a.Money(soon), a.Money(later)+1e-9)
		fan := a.Fan([]float64{soon, later})
		assert.LessOrEqual(t, fan[0].P50, fan[1].P50+1e-12)
		assert.LessOrEqual(t, fan[0].P10, fan[0].P50)
		assert.LessOrEqual(t, fan[0].P50, fan[0].P90)
		best := a.Cheapest()
		assert.GreaterOrEqual(t, best.Days, 1.0)
		assert.LessOrEqual(t, best.From, best.Days)
		assert.GreaterOrEqual(t, best.To, best.Days)
		if !best.Worst {
			other := a.Account(math.Max(1, math.Floor(later)))
			assert.LessOrEqual(t, best.TotalDay, other.TotalDay+1e-9, "nothing is cheaper than the cheapest")
		}
	})
}

// The price of waiting never falls with the wait; a cap adds its penalty once.
func TestWaitingLaws(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		o := drawOutlook(t)
		q := interval.WaitQuestion{
			Now: o, Average: rapid.Float64Range(0, 5).Draw(t, "average"), DueIn: rapid.Float64Range(-200, 200).Draw(t, "due in"),
			Days: rapid.Float64Range(0, 100).Draw(t, "days"),
		}
		short, err := interval.PriceOfWaiting(q)
		require.NoError(t, err)
		q.Days *= 2
		long, err := interval.PriceOfWaiting(q)
		require.NoError(t, err)
		assert.GreaterOrEqual(t, long.Money, .98*short.Money-1e-9)
		q.CapIn, q.CapPenalty = known(q.DueIn-1), 70
		capped, err := interval.PriceOfWaiting(q)
		require.NoError(t, err)
		assert.Equal(t, 70.0, capped.ByCap)
		assert.InDelta(t, long.Money+70, capped.Money, 1e-9)
	})
	assert.Equal(t, 25.0, interval.PriceOfEarly(100, 10, 40))
	assert.Zero(t, interval.PriceOfEarly(100, -3, 40))
	assert.Equal(t, 100.0, interval.PriceOfEarly(100, 90, 40))
	_, err := interval.PriceOfWaiting(interval.WaitQuestion{Days: -1, Average: math.Inf(1), DueIn: 1e9, CapPenalty: -1})
	for _, field := range []string{"days", "average_day", "due_in_days", "cap_penalty", "now.sides", "now.clean_cost", "now.economics.side"} {
		assert.ErrorContains(t, err, field+":")
	}
}

// Whatever the coil: a proposal is a number of days from a week on within the class maximum, never "never clean".
func TestEveryProposalIsAnInterval(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		o := drawOutlook(t)
		in := task(rapid.SampledFrom([]int{0, 7, 91, 400}).Draw(t, "in force"), run(rapid.IntRange(0, 500).Draw(t, "run"), soil.Grade(rapid.IntRange(0, 5).Draw(t, "grade"))))
		in.Outlook = &o
		in.Leads = rapid.SampledFrom([]interval.Lead{"", interval.LeadCost, interval.LeadLimit}).Draw(t, "leads")
		in.OverNow = rapid.Float64Range(0, 1).Draw(t, "over now")
		r, err := interval.Propose(in)
		require.NoError(t, err)
		assert.GreaterOrEqual(t, r.Days, 7)
		if r.Change {
			assert.LessOrEqual(t, r.Days, in.ClassMaxDays)
		}
		for _, v := range []float64{r.Limit.Days, r.Cost.Days, r.Proposed.TotalDay, r.Proposed.OverDaysYear, r.Best.TotalDay} {
			assert.False(t, math.IsNaN(v) || math.IsInf(v, 0))
		}
		if in.Leads == interval.LeadLimit && r.School == interval.Cost {
			assert.True(t, r.Limit.Days == 0 || r.Cost.Days <= r.Limit.Days)
		}
	})
}

func TestWhatLeads(t *testing.T) {
	t.Parallel()
	o := outlookOf(t, eightFaceLooks(), interval.Bins, clean)
	in := task(91, run(91, soil.Coat), run(91, soil.Coat))
	in.Outlook = &o
	lead := func(leads interval.Lead, findings int) interval.School {
		in.Leads, o.Sides[0].Findings = leads, findings
		r, err := interval.Propose(in)
		require.NoError(t, err)
		return r.School
	}
	assert.Equal(t, interval.Cost, lead(interval.LeadCost, 8))
	assert.Equal(t, interval.Limit, lead(interval.LeadLimit, 8))
	assert.Equal(t, interval.Staircase, lead(interval.LeadCost, 1), "one finding")
	assert.Equal(t, interval.Staircase, lead(interval.LeadFound, 8))
	assert.Equal(t, interval.Habit, lead(interval.LeadHabit, 8))
	in.Sides[0].Runs = nil
	assert.Equal(t, interval.Habit, lead(interval.LeadCost, 0), "none")
	r, err := interval.Propose(in)
	require.NoError(t, err)
	assert.Equal(t, reason.LimitNoEvidence, r.Limit.Reasons[0].Code)
	assert.Equal(t, r.Habit.Days, r.Limit.Days)
	o.Sides[0].Peers = true
	r, _ = interval.Propose(in)
	assert.Equal(t, reason.Limit, r.Limit.Reasons[0].Code, "peers are evidence for the limit")
}

func TestHardCapsBindAll(t *testing.T) {
	t.Parallel()
	in := task(300, run(300, soil.Bare), run(300, soil.Bare))
	in.Caps = []interval.Cap{{Kind: interval.Hygiene, MostDays: 60, Note: "tasting room"}}
	r, err := interval.Propose(in)
	require.NoError(t, err)
	assert.Equal(t, 56, r.Days)
	assert.Equal(t, "cap", r.Binding)
	assert.Equal(t, "tasting room", r.Reasons[len(r.Reasons)-1].Names["note"])

	in = task(91, run(91, soil.Blocked))
	in.Caps = []interval.Cap{{Kind: interval.Chemistry, TimesAYear: 4}}
	r, err = interval.Propose(in)
	require.NoError(t, err)
	assert.Equal(t, 98, r.Days, "at most four strong cleans a year: 91.25 days, in whole weeks upwards")

	_, err = interval.Propose(interval.Task{ClassDays: 1, ClassMaxDays: 1, Factor: 1, Leads: "luck", AnchorMonth: 13, OverNow: 2, Caps: []interval.Cap{
		{Kind: interval.Maker}, {Kind: interval.Chemistry}, {Kind: "whim"},
	}, Outlook: &interval.Outlook{}})
	for _, field := range []string{"leads", "anchor_month", "over_now", "caps[0].most_days", "caps[1].times_a_year", "caps[2].kind", "outlook.sides"} {
		assert.ErrorContains(t, err, field+":")
	}
}

func TestSeasonAnchor(t *testing.T) {
	t.Parallel()
	last := calendar.MustParse("2025-06-10")
	in := task(365, run(350, soil.Film), run(340, soil.Film))
	in.ClassDays, in.ClassMaxDays, in.AnchorMonth, in.Last = 365, 730, 4, &last
	r, err := interval.Propose(in)
	require.NoError(t, err)
	assert.Equal(t, "season_anchor", r.Binding)
	due := last.Add(r.Days)
	assert.Equal(t, "2026-04", due.String()[:7], "due in April, before the season")
	in.AnchorMonth = 12
	r, err = interval.Propose(in)
	require.NoError(t, err)
	assert.NotEqual(t, "season_anchor", r.Binding, "too far to move")
	// A quarter of the interval is as far as it moves; an interval under half a year is not anchored.
	in.AnchorMonth = 2
	r, err = interval.Propose(in)
	require.NoError(t, err)
	assert.NotEqual(t, "season_anchor", r.Binding, "February is more than a quarter of it away")
	short := task(182, run(168, soil.Coat), run(168, soil.Coat))
	begun := calendar.MustParse("2026-01-10")
	short.ClassDays, short.ClassMaxDays, short.AnchorMonth, short.Last, short.InForceDays = 175, 364, 6, &begun, 175
	r, err = interval.Propose(short)
	require.NoError(t, err)
	assert.NotEqual(t, "season_anchor", r.Binding, "due in July, under half a year: June is not its anchor")
}

func TestAdvice(t *testing.T) {
	t.Parallel()
	o := outlookOf(t, eightFaceLooks(), interval.Bins, asItStands)
	in := task(91, run(91, soil.Coat), run(91, soil.Coat))
	in.Outlook, in.OverNow, in.Light = &o, .7, true
	r, err := interval.Propose(in)
	require.NoError(t, err)
	require.Len(t, r.Advice, 2)
	assert.Equal(t, reason.DeepCleanNow, r.Advice[0].Code)
	assert.Equal(t, reason.ChangeMethod, r.Advice[1].Code, "a brush leaves it over the limit")
	unseen := false
	in.InForceDays, in.CoreSeen = 28, &unseen
	r, err = interval.Propose(in)
	require.NoError(t, err)
	assert.LessOrEqual(t, r.Days, 28, "no lengthening while the core is unseen")
}

func TestCauseRemoval(t *testing.T) {
	t.Parallel()
	o := outlookOf(t, eightFaceLooks(), interval.Bins, clean)
	r, err := interval.WithoutCause(interval.CauseQuestion{Outlook: o, Times: .5, Once: 300})
	require.NoError(t, err)
	assert.Greater(t, r.Without.Days, 1.3*r.With.Days)
	assert.Positive(t, r.SavedYear)
	assert.InDelta(t, 365*(r.With.TotalDay-r.Without.TotalDay), r.SavedYear, 1e-9)
	assert.InDelta(t, 300/r.SavedYear, *r.PaybackYears, 1e-12)
	same, err := interval.WithoutCause(interval.CauseQuestion{Outlook: o, Times: 1})
	require.NoError(t, err)
	assert.Zero(t, same.SavedYear)
	assert.Nil(t, same.PaybackYears)
	_, err = interval.WithoutCause(interval.CauseQuestion{Outlook: o, Times: -1, Once: -1})
	assert.ErrorContains(t, err, "times:")
	assert.ErrorContains(t, err, "once:")
}

// The steady state of a ladder is the one that a long run of cycles settles into.
func TestLaddersSettle(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		q := ladderExample()
		q.Sides[0].Rate = rapid.Float64Range(.01, 2).Draw(t, "rate")
		q.Sides[0].Penetration = rapid.Float64Range(.05, .9).Draw(t, "penetration")
		q.MostDays = 140
		r, err := interval.Climb(q)
		require.NoError(t, err)
		for _, l := range r.Table {
			var s soil.State
			most := 0.0
			for range 400 {
				most = 0
				for k := 1; k <= l.Rungs; k++ {
					s = s.Deposit(q.Sides[0].Rate, q.Sides[0].Penetration, float64(l.EveryDays))
					most = math.Max(most, s.Total())
					if k == l.Rungs {
						s = s.Clean(q.Deep.Removal)
					} else {
						s = s.Clean(q.Light.Removal)
					}
				}
			}
			assert.InDelta(t, soil.Share(most), l.MostBlocked, 1e-6)
			assert.GreaterOrEqual(t, l.TotalDay, r.Cheapest.TotalDay)
		}
		if r.WithinLimit == nil {
			assert.False(t, r.LightHolds)
		}
	})
}

func TestAMethodThatNeverReachesTheCoreIsToBeChanged(t *testing.T) {
	t.Parallel()
	q := ladderExample()
	q.Light.Core, q.Deep.Core = 0, 0
	r, err := interval.Climb(q)
	require.NoError(t, err)
	assert.Nil(t, r.WithinLimit)
	assert.False(t, r.LightHolds)
	assert.False(t, math.IsNaN(r.Cheapest.TotalDay) || math.IsInf(r.Cheapest.TotalDay, 0))
	q.Light.Cost, q.Deep.Face, q.FanShare, q.Limit, q.MostDays, q.MostDeepDays = 0, 2, 0, 3, -1, -1
	q.Sides[0] = interval.LadderSide{Rate: -1, Penetration: 2, AreaShare: 2, LimitRate: -1}
	_, err = interval.Climb(q)
	for _, field := range []string{
		"light.cost", "deep.face_share", "fan_share", "limit_share", "most_days", "most_deep_days", "sides[0].rate", "sides[0].penetration", "sides[0].area_share", "sides[0].limit_rate",
	} {
		assert.ErrorContains(t, err, field+":")
	}
}

func ExampleClimb() {
	r, _ := interval.Climb(ladderExample())
	fmt.Printf("every %d days, each %dth deep: %.3f a day\n", r.Cheapest.EveryDays, r.Cheapest.Rungs, r.Cheapest.TotalDay)
	// Output: every 56 days, each 5th deep: 0.765 a day
}

func ExampleLook() {
	a, _ := interval.Look(example())
	best := a.Cheapest()
	fmt.Printf("%.0f days, %.0f to %.0f within 1 %%\n", best.Days, best.From, best.To)
	// Output: 318 days, 285 to 354 within 1 %
}

// Where the usual clean leaves it over the limit, no longer interval of it is proposed, and the advice is another plan.
func TestNoIntervalMendsTheWrongMethod(t *testing.T) {
	t.Parallel()
	o := outlookOf(t, eightFaceLooks(), interval.Bins, asItStands)
	in := task(91, run(91, soil.Coat), run(91, soil.Coat))
	in.Outlook = &o
	for _, leads := range []interval.Lead{interval.LeadCost, interval.LeadLimit} {
		in.Leads = leads
		r, err := interval.Propose(in)
		require.NoError(t, err)
		assert.LessOrEqual(t, r.Days, 91)
		var said []reason.Code
		for _, x := range append(r.Reasons, r.Advice...) {
			said = append(said, x.Code)
		}
		assert.Contains(t, said, reason.StartPastLimit)
		assert.Contains(t, said, reason.ChangeMethod)
	}
}
