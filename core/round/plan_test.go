package round_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/core/reason"
	"nextround/core/round"
	"nextround/core/round/instance"
)

var monday = calendar.MustParse("2026-03-02")

// drawn is a small problem with everything in it.
func drawn(t *rapid.T, mostJobs int) round.Problem {
	sites := []string{"hall", "museum", "tower"}
	p := round.Problem{
		Start: monday, Days: rapid.IntRange(2, 6).Draw(t, "days"), MovePrice: 15,
		Places: []round.Place{{ID: "base", Water: true}, {ID: "hall", Water: true}, {ID: "museum"}, {ID: "tower", TooCold: []calendar.Day{monday, monday.Add(2)}}},
		Hours: []round.Hours{
			{ID: "noon", Weekly: week(round.Span{From: 700, To: 790})},
			{ID: "not at noon", Weekly: week(round.Span{From: 400, To: 600}, round.Span{From: 960, To: 1100}), Dated: []round.DaySpans{{Day: monday.Add(1)}}},
		},
	}
	for range p.Places {
		row := []float64{}
		for range p.Places {
			row = append(row, float64(rapid.IntRange(5, 40).Draw(t, "minutes")))
		}
		p.Travel.Minutes = append(p.Travel.Minutes, row)
	}
	for c := range rapid.IntRange(1, 2).Draw(t, "crews") {
		crew := round.Crew{
			ID: fmt.Sprint("crew", c), Base: "base", Hour: 60, TankL: 30, Overtime: float64(20 * c), OvertimeHour: 40, DayFee: float64(10 * c), WorkHour: float64(5 * c),
		}
		for d := 1; d <= 5; d++ {
			crew.Weekly[d] = round.Shift{Starts: 420, Minutes: float64(rapid.IntRange(200, 480).Draw(t, "shift")), People: 2 - c}
		}
		crew.Dated = []round.DayShift{{Day: monday.Add(3)}}
		p.Crews = append(p.Crews, crew)
	}
	for n := range rapid.IntRange(1, mostJobs).Draw(t, "jobs") {
		j := round.Job{
			ID: fmt.Sprint("job", n), Place: rapid.SampledFrom(sites).Draw(t, "place"), Due: monday.Add(rapid.IntRange(-10, 8).Draw(t, "due")),
			Hours:   rapid.SampledFrom([]string{"", "", "noon", "not at noon"}).Draw(t, "hours"),
			Minutes: float64(rapid.IntRange(10, 90).Draw(t, "work")), People: rapid.IntRange(1, 2).Draw(t, "people"),
			WaterL: float64(10 * rapid.IntRange(0, 2).Draw(t, "water")), OutdoorWet: rapid.Bool().Draw(t, "wet"),
			Waiting: round.Waiting{EarlyDay: float64(rapid.IntRange(0, 5).Draw(t, "early")), Weeks: []float64{float64(rapid.IntRange(0, 60).Draw(t, "late")), 90}},
		}
		if n > 0 && rapid.IntRange(0, 4).Draw(t, "chained") == 0 {
			j.After, j.Gap = fmt.Sprint("job", n-1), 2
		}
		if rapid.IntRange(0, 5).Draw(t, "fixed") == 0 {
			f := round.Fixed{Job: j.ID, Crew: "crew0", Day: monday.Add(rapid.IntRange(0, p.Days-1).Draw(t, "on")), Locked: rapid.Bool().Draw(t, "locked")}
			if !f.Locked && rapid.Bool().Draw(t, "draft") {
				f.Draft, f.Price = true, ptr(4.0)
			}
			p.Fixed = append(p.Fixed, f)
		}
		p.Jobs = append(p.Jobs, j)
	}
	return p
}

func week(spans ...round.Span) (out [7][]round.Span) {
	for d := 1; d <= 5; d++ {
		out[d] = spans
	}
	return out
}

func TestEveryPlanHoldsWhatTheCheckerDemands(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		p := drawn(t, 14)
		greedy, err := round.Greedy(p)
		require.NoError(t, err)
		assert.Empty(t, round.Verify(p, greedy), "by hand")
		first, err := round.First(p)
		require.NoError(t, err)
		assert.Empty(t, round.Verify(p, first), "first")
		plan, err := round.Make(p, round.Search{Seed: 7, Iterations: 60})
		require.NoError(t, err)
		assert.Empty(t, round.Verify(p, plan), "searched")
		assert.LessOrEqual(t, plan.Cost.Total, first.Cost.Total+1e-9, "searching never makes it worse")
		again, err := round.Price(p, plan.Sequences())
		require.NoError(t, err)
		assert.InDelta(t, plan.Cost.Total, again.Cost.Total, 1e-6, "a plan read back costs the same")
	})
}

// cheapest tries everything: each job on each crew-day or left out, in every order.
func cheapest(t require.TestingT, p round.Problem) float64 {
	best := math.Inf(1)
	seqs := map[[2]int][]string{}
	var assign func(n int)
	assign = func(n int) {
		if n == len(p.Jobs) {
			list := []round.Sequence{}
			for at, jobs := range seqs {
				if len(jobs) > 0 {
					list = append(list, round.Sequence{Crew: p.Crews[at[0]].ID, Day: p.Start.Add(at[1]), Jobs: jobs})
				}
			}
			priced, err := round.Price(p, list)
			require.NoError(t, err)
			if len(round.Verify(p, priced)) == 0 {
				best = math.Min(best, priced.Cost.Total)
			}
			return
		}
		id := p.Jobs[n].ID
		assign(n + 1)
		for c := range p.Crews {
			for d := range p.Days {
				at := [2]int{c, d}
				was := seqs[at]
				for pos := range len(was) + 1 {
					with := append(append(append([]string{}, was[:pos]...), id), was[pos:]...)
					seqs[at] = with
					assign(n + 1)
				}
				seqs[at] = was
			}
		}
	}
	assign(0)
	return best
}

func TestSmallPlansWithChainsEqualTryingEverything(t *testing.T) {
	t.Parallel()
	problems := rapid.Custom(func(t *rapid.T) round.Problem {
		p := drawn(t, 3)
		p.Days, p.Fixed = min(p.Days, 3), nil
		return p
	})
	for seed := range 60 {
		p := problems.Example(seed)
		plan, err := round.Make(p, round.Search{Seed: 3, Iterations: 2000})
		require.NoError(t, err)
		best := cheapest(t, p)
		assert.InDelta(t, best, plan.Cost.Total, 1e-6, "seed %d", seed)
		assert.LessOrEqual(t, plan.Bound, best+1e-6, "no bound above the best")
	}
}

func TestThePlantedPlanIsFound(t *testing.T) {
	t.Parallel()
	p, best := instance.Planted(2, 3, 4)
	plan, err := round.Make(p, round.Search{Seed: 1, Iterations: 600})
	require.NoError(t, err)
	assert.InDelta(t, best, plan.Cost.Total, 1e-6)
	assert.Empty(t, round.Verify(p, plan))
}

func TestTheSameSeedGivesTheSamePlan(t *testing.T) {
	t.Parallel()
	p := instance.Portfolio(instance.Size{Jobs: 60, Crews: 2, Days: 28, Seed: 9})
	s := round.Search{Seed: 5, Iterations: 100, Workers: 2}
	a, err := round.Make(p, s)
	require.NoError(t, err)
	b, err := round.Make(p, s)
	require.NoError(t, err)
	assert.Equal(t, a, b)
	greedy, err := round.Greedy(p)
	require.NoError(t, err)
	assert.Less(t, a.Cost.Total, greedy.Cost.Total)
	assert.Empty(t, round.Verify(p, a))
	assert.Positive(t, a.Bound)
}

func TestASearchCanBeCalledOff(t *testing.T) {
	t.Parallel()
	p := instance.Portfolio(instance.Size{Jobs: 80, Crews: 2, Days: 28, Seed: 4})
	asked, reported := 0, []round.Progress{}
	plan, err := round.Make(p, round.Search{
		Spent: func() float64 { asked++; return float64(asked) / 200 }, Report: func(x round.Progress) { reported = append(reported, x) },
	})
	require.NoError(t, err)
	assert.Empty(t, round.Verify(p, plan), "what is there when it is withdrawn is a plan")
	require.NotEmpty(t, reported)
	assert.Equal(t, reported[len(reported)-1].Iterations, plan.Iterations)
}

func TestTheCheckerFindsWhatIsBroken(t *testing.T) {
	t.Parallel()
	p := instance.Portfolio(instance.Size{Jobs: 40, Crews: 2, Days: 28, Seed: 4})
	make := func() round.Plan {
		plan, err := round.First(p)
		require.NoError(t, err)
		require.NotEmpty(t, plan.Rounds)
		return plan
	}
	for name, spoil := range map[string]func(*round.Plan){
		"a job lost": func(x *round.Plan) { x.Rounds[0].Stops[0].Jobs = x.Rounds[0].Stops[0].Jobs[1:] },
		"a job twice": func(x *round.Plan) {
			x.Rounds[1].Stops[0].Jobs = append(x.Rounds[1].Stops[0].Jobs, x.Rounds[0].Stops[0].Jobs...)
		},
		"driving forgotten":    func(x *round.Plan) { x.Rounds[0].Stops[0].Arrive = x.Rounds[0].Leaves - 1 },
		"a job too short":      func(x *round.Plan) { x.Rounds[0].Stops[0].Jobs[0].Ends -= 3 },
		"on a Sunday":          func(x *round.Plan) { x.Rounds[0].Day = monday.Add(6) },
		"no such crew":         func(x *round.Plan) { x.Rounds[0].Crew = "nobody" },
		"cheaper than it is":   func(x *round.Plan) { x.Cost.Total -= 1 },
		"bound above the cost": func(x *round.Plan) { x.Bound = x.Cost.Total + 1 },
		"back too early":       func(x *round.Plan) { x.Rounds[0].Back -= 5 },
		"the wrong site":       func(x *round.Plan) { x.Rounds[0].Stops[0].Place = "depot" },
		"left out and on it": func(x *round.Plan) {
			x.LeftOut = append(x.LeftOut, round.LeftOut{Job: x.Rounds[0].Stops[0].Jobs[0].Job})
		},
		"two rounds of one day": func(x *round.Plan) { x.Rounds = append(x.Rounds, x.Rounds[0]) },
	} {
		t.Run(name, func(t *testing.T) {
			plan := make()
			require.Empty(t, round.Verify(p, plan))
			spoil(&plan)
			assert.NotEmpty(t, round.Verify(p, plan))
		})
	}
}

// oneCrew works from eight to four, with a museum that is silent at noon and a tower for two.
func oneCrew(jobs ...round.Job) round.Problem {
	c := round.Crew{ID: "tern", Base: "base", Hour: 60, TankL: 20}
	for d := 1; d <= 5; d++ {
		c.Weekly[d] = round.Shift{Starts: 480, Minutes: 480, People: 1}
	}
	return round.Problem{
		Start: monday, Days: 5, Crews: []round.Crew{c}, Jobs: jobs, MovePrice: 25,
		Places: []round.Place{{ID: "base", Water: true}, {ID: "museum", TooCold: []calendar.Day{monday}}, {ID: "tower"}},
		Travel: round.Travel{Minutes: [][]float64{{0, 10, 30}, {10, 0, 25}, {30, 25, 0}}},
		Hours:  []round.Hours{{ID: "silent", Weekly: week(round.Span{From: 360, To: 600}, round.Span{From: 960, To: 1080})}},
	}
}

func late(id, place string, minutes float64) round.Job {
	return round.Job{ID: id, Place: place, Due: monday, Minutes: minutes, Waiting: round.Waiting{EarlyDay: 1, Weeks: []float64{70}}}
}

func planOf(t *testing.T, p round.Problem) round.Plan {
	t.Helper()
	plan, err := round.Make(p, round.Search{Iterations: 100})
	require.NoError(t, err)
	require.Empty(t, round.Verify(p, plan))
	return plan
}

func TestWorkIsPlannedBackwardsFromTheHourAPlaceOpens(t *testing.T) {
	t.Parallel()
	a, b := late("a", "museum", 40), late("b", "museum", 30)
	a.Hours, b.Hours = "silent", "silent"
	stop := planOf(t, oneCrew(a, b)).Rounds[0].Stops[0]
	assert.Equal(t, 490.0, stop.Arrive)
	assert.Equal(t, 600.0-70-20, stop.Latest, "70 minutes of work and 20 to sign in before ten o'clock")
	codes := []reason.Code{}
	for _, r := range stop.Jobs[0].Reasons {
		codes = append(codes, r.Code)
	}
	assert.Contains(t, codes, reason.PlanWindow)
	assert.Contains(t, codes, reason.PlanRides)
}

func TestLeavesTheBaseNoEarlierThanItMust(t *testing.T) {
	t.Parallel()
	p := oneCrew(late("a", "museum", 40))
	p.Hours[0].Weekly = week(round.Span{From: 700, To: 790})
	p.Jobs[0].Hours = "silent"
	r := planOf(t, p).Rounds[0]
	assert.Equal(t, 670.0, r.Leaves)
	assert.Equal(t, 680.0, r.Stops[0].Arrive)
	assert.Equal(t, 700.0, r.Stops[0].Jobs[0].Starts)
}

func TestWhatCannotBePlacedSaysWhy(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		change func(*round.Problem)
		code   reason.Code
	}{
		"nobody has the skill":    {func(p *round.Problem) { p.Jobs[0].Skills = []string{"rope"} }, "unable"},
		"no tank is large enough": {func(p *round.Problem) { p.Jobs[0].WaterL = 50 }, "unable"},
		"two people":              {func(p *round.Problem) { p.Jobs[0].People = 2 }, "too_few_people"},
		"never open so long":      {func(p *round.Problem) { p.Jobs[0].Hours, p.Jobs[0].Minutes = "silent", 300 }, "no_day_closed"},
		"too cold throughout": {func(p *round.Problem) {
			p.Jobs[0].OutdoorWet, p.Days = true, 1
		}, "no_day_too_cold"},
		"the next time comes too soon": {func(p *round.Problem) { p.Jobs[0].From = ptr(monday.Add(9)) }, "no_day_not_before"},
		"longer than a day":            {func(p *round.Problem) { p.Jobs[0].Minutes = 470 }, "no_room"},
		"not worth the drive":          {func(p *round.Problem) { p.Jobs[0].LeftOut = 3 }, "cheaper_left"},
		"its crew is ill": {func(p *round.Problem) {
			p.Crews[0].Dated = []round.DayShift{{Day: monday}}
			p.Fixed = []round.Fixed{{Job: "a", Crew: "tern", Day: monday, Locked: true}}
		}, "lock_broken"},
	} {
		t.Run(name, func(t *testing.T) {
			p := oneCrew(late("a", "museum", 40))
			c.change(&p)
			plan := planOf(t, p)
			require.Len(t, plan.LeftOut, 1)
			assert.Equal(t, c.code, plan.LeftOut[0].Reason.Code)
		})
	}
}

func ptr[T any](v T) *T { return &v }

func TestColdDaysArePassedOver(t *testing.T) {
	t.Parallel()
	j := late("a", "museum", 40)
	j.OutdoorWet = true
	plan := planOf(t, oneCrew(j))
	assert.Equal(t, monday.Add(1), plan.Rounds[0].Day)
	why := plan.Rounds[0].Stops[0].Jobs[0].Reasons
	assert.Equal(t, reason.PlanLate, why[0].Code)
	assert.InDelta(t, 10, why[0].Numbers["cost"], 1e-9)
	assert.InDelta(t, 70, why[0].Numbers["week"], 1e-9)
	found := false
	for _, r := range why {
		found = found || (r.Code == reason.PlanTooCold && r.Numbers["days"] == 1)
	}
	assert.True(t, found)
}

func TestPublishedRoundsStayUnlessMovingGainsMore(t *testing.T) {
	t.Parallel()
	a, b := late("a", "tower", 40), late("b", "tower", 40)
	a.Due, b.Due = monday.Add(2), monday.Add(2)
	p := oneCrew(a, b)
	p.Fixed = []round.Fixed{{Job: "a", Crew: "tern", Day: monday.Add(2)}}
	// b riding along would save a drive and a stop, 80, more than the 25 of changing what was sent.
	plan := planOf(t, p)
	require.Len(t, plan.Rounds, 1)
	assert.Equal(t, 25.0, plan.Cost.Moved)
	p.MovePrice = 200
	plan = planOf(t, p)
	require.Len(t, plan.Rounds, 2, "b goes on a day of its own")
	assert.Zero(t, plan.Cost.Moved)
	// The crew falls ill that day: what was published moves, at its price.
	p.Crews[0].Dated = []round.DayShift{{Day: monday.Add(2)}}
	plan = planOf(t, p)
	assert.Empty(t, plan.LeftOut)
	assert.Equal(t, 200.0, plan.Cost.Moved)
	moved := ""
	for _, r := range plan.Rounds {
		for _, j := range r.Stops[0].Jobs {
			if j.Reasons[0].Code == reason.PlanMoved {
				moved += j.Job
			}
		}
	}
	assert.Equal(t, "a", moved, "and says where it was")
}

func TestTheTankIsFilledWhereThereIsWater(t *testing.T) {
	t.Parallel()
	a, b := late("a", "museum", 40), late("b", "tower", 40)
	a.WaterL, b.WaterL = 15, 15
	p := oneCrew(a, b)
	assert.Len(t, planOf(t, p).Rounds, 2, "20 litres do not carry 30")
	p.Places[1].Water = true
	assert.Len(t, planOf(t, p).Rounds, 1)
}

func TestMovingANotch(t *testing.T) {
	t.Parallel()
	a, b := late("a", "museum", 40), late("b", "museum", 30)
	p := oneCrew(a, b)
	plan := planOf(t, p)
	require.Len(t, plan.Rounds, 1)
	to := monday.Add(3)
	moved, err := round.Move(round.MoveQuestion{Problem: p, Rounds: plan.Sequences(), Job: "b", Day: &to})
	require.NoError(t, err)
	require.True(t, moved.Possible)
	assert.InDelta(t, 30, moved.Waiting, 1e-9, "three days of 10")
	assert.InDelta(t, 30+40, moved.Adds, 1e-9, "and a drive and a stop of its own")
	assert.Equal(t, []round.Sequence{{Crew: "tern", Day: monday, Jobs: []string{"a"}}, {Crew: "tern", Day: to, Jobs: []string{"b"}}}, moved.Rounds)
	assert.Equal(t, []round.LoadChange{{Crew: "tern", From: monday, Minutes: -30}, {Crew: "tern", From: monday, Minutes: 30 + 20 + 20}}, moved.Load)

	whole, err := round.Price(p, moved.Rounds)
	require.NoError(t, err)
	assert.InDelta(t, whole.Cost.Total, plan.Cost.Total+moved.Adds, 1e-9, "the change is the difference of the two plans")

	sunday := monday.Add(-1)
	_, err = round.Move(round.MoveQuestion{Problem: p, Rounds: plan.Sequences(), Job: "z", Day: &sunday, Crew: "nobody"})
	for _, f := range []string{"job", "day", "crew"} {
		assert.ErrorContains(t, err, f)
	}
	p.Jobs[1].OutdoorWet, p.Places[1].TooCold = true, []calendar.Day{to}
	refused, err := round.Move(round.MoveQuestion{Problem: p, Rounds: plan.Sequences(), Job: "b", Day: &to})
	require.NoError(t, err)
	assert.False(t, refused.Possible)
	assert.Equal(t, reason.NoDayTooCold, refused.Reason.Code)
	off, err := round.Move(round.MoveQuestion{Problem: p, Rounds: plan.Sequences(), Job: "b"})
	require.NoError(t, err)
	assert.True(t, off.Possible)
	assert.Positive(t, off.Adds)
}

func TestMovesEqualTheDifferenceOfPlans(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		p := drawn(t, 10)
		plan, err := round.First(p)
		require.NoError(t, err)
		day := monday.Add(rapid.IntRange(0, p.Days-1).Draw(t, "to"))
		moved, err := round.Move(round.MoveQuestion{Problem: p, Rounds: plan.Sequences(), Job: rapid.SampledFrom(p.Jobs).Draw(t, "job").ID, Day: &day})
		require.NoError(t, err)
		if !moved.Possible {
			assert.NotEmpty(t, moved.Reason.Code)
			return
		}
		changed := map[string]bool{}
		after := []round.Sequence{}
		for _, s := range moved.Rounds {
			changed[s.Crew+s.Day.String()] = true
			after = append(after, s)
		}
		for _, s := range plan.Sequences() {
			if !changed[s.Crew+s.Day.String()] {
				after = append(after, s)
			}
		}
		priced, err := round.Price(p, after)
		require.NoError(t, err)
		assert.Empty(t, round.Verify(p, priced))
		assert.InDelta(t, plan.Cost.Total+moved.Adds, priced.Cost.Total, 1e-6)
	})
}

func TestWaitingIsLinearBetweenWeeks(t *testing.T) {
	t.Parallel()
	cap := monday.Add(20)
	w := round.Waiting{EarlyDay: 2, Weeks: []float64{7, 21}, CapDay: &cap, CapPenalty: 100}
	for days, money := range map[int]float64{-3: 6, 0: 0, 7: 7, 10: 13, 14: 21, 20: 33, 21: 135} {
		assert.InDelta(t, money, w.On(monday, monday.Add(days)), 1e-9, "%d days late", days)
	}
}

func TestCheckNamesTheField(t *testing.T) {
	t.Parallel()
	p := oneCrew(late("a", "museum", 40))
	for field, spoil := range map[string]func(*round.Problem){
		"days":                  func(p *round.Problem) { p.Days = 183 },
		"stop_minutes":          func(p *round.Problem) { p.StopMinutes = ptr(-1.0) },
		"move_price":            func(p *round.Problem) { p.MovePrice = math.NaN() },
		"places[1].id":          func(p *round.Problem) { p.Places[1].ID = "base" },
		"places[0].lat":         func(p *round.Problem) { p.Places[0].Lat = 91 },
		"travel.minutes":        func(p *round.Problem) { p.Travel.Minutes = p.Travel.Minutes[:2] },
		"travel.minutes[0]":     func(p *round.Problem) { p.Travel.Minutes[0] = []float64{0} },
		"travel.minutes[1][0]":  func(p *round.Problem) { p.Travel.Minutes[1][0] = -1 },
		"travel.speed_kmh":      func(p *round.Problem) { p.Travel.SpeedKMH = -1 },
		"travel.road_factor":    func(p *round.Problem) { p.Travel.RoadFactor = .5 },
		"hours[0].weekly[1][1]": func(p *round.Problem) { p.Hours[0].Weekly[1][1].From = 500 },
		"hours[0].dated[0].spans[0]": func(p *round.Problem) {
			p.Hours[0].Dated = []round.DaySpans{{Day: monday, Spans: []round.Span{{From: 5, To: 5}}}}
		},
		"crews[0].base":                 func(p *round.Problem) { p.Crews[0].Base = "moon" },
		"crews[0].hour_cost":            func(p *round.Problem) { p.Crews[0].Hour = -1 },
		"crews[0].weekly[2]":            func(p *round.Problem) { p.Crews[0].Weekly[2].People = 0 },
		"crews[0].dated[0]":             func(p *round.Problem) { p.Crews[0].Dated = []round.DayShift{{Shift: round.Shift{Minutes: 9}}} },
		"jobs[0].place":                 func(p *round.Problem) { p.Jobs[0].Place = "moon" },
		"jobs[0].hours":                 func(p *round.Problem) { p.Jobs[0].Hours = "never" },
		"jobs[0].minutes":               func(p *round.Problem) { p.Jobs[0].Minutes = 0 },
		"jobs[0].people":                func(p *round.Problem) { p.Jobs[0].Gap = -1 },
		"jobs[0].after":                 func(p *round.Problem) { p.Jobs[0].After = "z" },
		"jobs[0].waiting":               func(p *round.Problem) { p.Jobs[0].Waiting.EarlyDay = -1 },
		"jobs[0].waiting.late_weeks[1]": func(p *round.Problem) { p.Jobs[0].Waiting.Weeks = []float64{5, 4} },
		"fixed[0].job":                  func(p *round.Problem) { p.Fixed = []round.Fixed{{Job: "z", Crew: "tern", Day: monday}} },
		"fixed[0].crew":                 func(p *round.Problem) { p.Fixed = []round.Fixed{{Job: "a", Crew: "z", Day: monday}} },
		"fixed[0].day":                  func(p *round.Problem) { p.Fixed = []round.Fixed{{Job: "a", Crew: "tern", Day: monday.Add(5)}} },
	} {
		t.Run(field, func(t *testing.T) {
			p = oneCrew(late("a", "museum", 40))
			spoil(&p)
			_, err := round.Make(p, round.Search{})
			var bad invalid.Error
			require.ErrorAs(t, err, &bad)
			paths := []string{}
			for _, f := range bad {
				paths = append(paths, f.Path)
			}
			assert.Contains(t, paths, field)
		})
	}
}

func TestTheOrderOfTheCitiesDoesNotMatterToTheGreatCircle(t *testing.T) {
	t.Parallel()
	// Half the circumference of the mean sphere between the poles; 90° along the equator is half of that.
	assert.InDelta(t, math.Pi*6371.0088, round.GreatCircle(90, 0, -90, 50), 1e-6)
	assert.InDelta(t, math.Pi*6371.0088/2, round.GreatCircle(0, 10, 0, 100), 1e-6)
	r := rand.New(rand.NewPCG(1, 2))
	for range 50 {
		a, b, c, d := 180*r.Float64()-90, 360*r.Float64()-180, 180*r.Float64()-90, 360*r.Float64()-180
		assert.InDelta(t, round.GreatCircle(a, b, c, d), round.GreatCircle(c, d, a, b), 1e-6)
	}
}

func ExampleMake() {
	plan, _ := round.Make(round.Problem{
		Start: monday, Days: 5,
		Places: []round.Place{{ID: "yard"}, {ID: "hall"}},
		Travel: round.Travel{Minutes: [][]float64{{0, 15}, {15, 0}}},
		Crews:  []round.Crew{{ID: "Crew A", Base: "yard", Hour: 60, Weekly: [7]round.Shift{1: {Starts: 480, Minutes: 300, People: 1}}}},
		Jobs: []round.Job{
			{ID: "condenser", Place: "hall", Due: monday.Add(-3), Minutes: 50, Waiting: round.Waiting{Weeks: []float64{14}}},
			{ID: "filters", Place: "hall", Due: monday.Add(2), Minutes: 10, Waiting: round.Waiting{EarlyDay: 1, Weeks: []float64{70}}},
		},
	}, round.Search{Iterations: 50})
	r := plan.Rounds[0]
	fmt.Println(r.Crew, r.Day, len(r.Stops), "stop, back at", r.Back, "for", plan.Cost.Total)
	// Output: Crew A 2026-03-02 1 stop, back at 590 for 52
}

// A search by steps ends when told, with what it has found by then.
func TestASearchBySteppingStopsWhenTold(t *testing.T) {
	t.Parallel()
	p := oneCrew(late("a", "museum", 40), late("b", "museum", 30))
	asked := 0
	plan, err := round.Make(p, round.Search{Iterations: 1_000_000, Stop: func() bool { asked++; return asked > 300 }})
	require.NoError(t, err)
	assert.Less(t, plan.Iterations, 1000)
	assert.Len(t, plan.Rounds, 1)
}
