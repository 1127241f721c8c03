package round_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/core/reason"
	"nextround/core/round"
	"nextround/core/round/instance"
)

// because finds the reason with a code on a job.
func because(t require.TestingT, p round.Plan, job string, code reason.Code) (reason.Reason, bool) {
	for _, r := range p.Rounds {
		for _, stop := range r.Stops {
			for _, j := range stop.Jobs {
				if j.Job != job {
					continue
				}
				for _, why := range j.Reasons {
					if why.Code == code {
						return why, true
					}
				}
			}
		}
	}
	return reason.Reason{}, false
}

func TestEveryJobSaysWhyItIsWhereItIs(t *testing.T) {
	t.Parallel()
	p := instance.Portfolio(instance.Size{Jobs: 120, Crews: 3, Days: 42, Seed: 11})
	plan, err := round.First(p)
	require.NoError(t, err)
	jobs := map[string]round.Job{}
	for _, j := range p.Jobs {
		jobs[j.ID] = j
	}
	seen := map[reason.Code]int{}
	for _, r := range plan.Rounds {
		for _, stop := range r.Stops {
			for _, x := range stop.Jobs {
				require.NotEmpty(t, x.Reasons)
				j := jobs[x.Job]
				first := x.Reasons[0]
				seen[first.Code]++
				late := r.Day.Sub(j.Due)
				switch {
				case late > 0:
					assert.Equal(t, reason.PlanLate, first.Code)
					assert.Equal(t, float64(late), first.Numbers["days"])
				case late < 0:
					assert.Equal(t, reason.PlanEarly, first.Code)
					assert.Equal(t, float64(-late), first.Numbers["days"])
				default:
					assert.Equal(t, reason.PlanOnDay, first.Code)
				}
				assert.InDelta(t, j.Waiting.After(p.Start, j.Due, r.Day), x.Waiting, 1e-9)
				for _, why := range x.Reasons {
					seen[why.Code]++
					if why.Code == reason.PlanRides {
						assert.Equal(t, float64(len(stop.Jobs)-1), why.Numbers["others"])
						assert.NotEqual(t, x.Job, why.Names["with"])
					}
				}
			}
		}
	}
	for _, code := range []reason.Code{reason.PlanLate, reason.PlanRides, reason.PlanWindow} {
		assert.Positive(t, seen[code], code)
	}
}

func TestAWindowIsNamedOnlyWhereItBinds(t *testing.T) {
	t.Parallel()
	p := oneCrew(late("a", "museum", 40))
	p.Hours[0].Weekly = week(round.Span{From: 0, To: 1440})
	p.Jobs[0].Hours = "silent"
	_, named := because(t, planOf(t, p), "a", reason.PlanWindow)
	assert.False(t, named, "open all the time the crew works")
	p.Hours[0].Weekly = week(round.Span{From: 0, To: 700})
	why, named := because(t, planOf(t, p), "a", reason.PlanWindow)
	require.True(t, named)
	assert.Equal(t, 700.0-40-20, why.Numbers["latest"])
}

func TestPeopleAndWaterAreNamed(t *testing.T) {
	t.Parallel()
	j := late("a", "tower", 40)
	j.People, j.WaterL = 2, 15
	p := oneCrew(j)
	for d := range p.Crews[0].Weekly {
		if p.Crews[0].Weekly[d].Minutes > 0 {
			p.Crews[0].Weekly[d].People = 2
		}
	}
	plan := planOf(t, p)
	people, ok := because(t, plan, "a", reason.PlanPeople)
	require.True(t, ok)
	assert.Equal(t, 2.0, people.Numbers["people"])
	water, ok := because(t, plan, "a", reason.PlanWater)
	require.True(t, ok)
	assert.Equal(t, reason.Numbers{"litres": 15, "tank": 20}, water.Numbers)
}

func TestLockedAndPublishedSaySo(t *testing.T) {
	t.Parallel()
	a, b := late("a", "museum", 40), late("b", "tower", 40)
	p := oneCrew(a, b)
	p.MovePrice = 1000
	p.Fixed = []round.Fixed{{Job: "a", Crew: "tern", Day: monday.Add(2)}, {Job: "b", Crew: "tern", Day: monday.Add(3), Locked: true}}
	plan := planOf(t, p)
	_, ok := because(t, plan, "a", reason.PlanPublished)
	assert.True(t, ok)
	_, ok = because(t, plan, "b", reason.PlanLocked)
	assert.True(t, ok)
	require.Len(t, plan.Rounds, 2)
	assert.Equal(t, []calendar.Day{monday.Add(2), monday.Add(3)}, []calendar.Day{plan.Rounds[0].Day, plan.Rounds[1].Day})
}

func TestAJobBetweenTwoOthersOfItsClockHasNoRoom(t *testing.T) {
	t.Parallel()
	jobs := []round.Job{late("a", "museum", 40), late("b", "museum", 40), late("c", "museum", 40)}
	jobs[1].After, jobs[1].Gap = "a", 3
	jobs[2].After, jobs[2].Gap = "b", 3
	p := oneCrew(jobs...)
	p.Fixed = []round.Fixed{{Job: "a", Crew: "tern", Day: monday, Locked: true}, {Job: "c", Crew: "tern", Day: monday.Add(4), Locked: true}}
	plan := planOf(t, p)
	require.Len(t, plan.LeftOut, 1)
	assert.Equal(t, reason.GapBroken, plan.LeftOut[0].Reason.Code)
	refused, err := round.Move(round.MoveQuestion{Problem: p, Rounds: plan.Sequences(), Job: "b", Day: new(monday.Add(2))})
	require.NoError(t, err)
	assert.Equal(t, reason.GapBroken, refused.Reason.Code)
}

// The week's hours are those of its rounds, and no crew-day is longer than its shift and overtime.
func TestWeeksAddUp(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		p := drawn(t, 12)
		plan, err := round.First(p)
		require.NoError(t, err)
		planned, shift := 0.0, 0.0
		for _, w := range plan.Weeks {
			planned += w.Planned
			shift += w.Shift
		}
		want := 0.0
		for _, r := range plan.Rounds {
			want += r.Driving + r.Work + 20*float64(len(r.Stops))
			assert.LessOrEqual(t, r.Back-r.Leaves, r.Shift+r.Overtime+1e-6)
		}
		assert.InDelta(t, want, planned, 1e-6)
		capacity := 0.0
		for _, c := range p.Crews {
			for d := range p.Days {
				capacity += c.On(p.Start.Add(d)).Minutes
			}
		}
		assert.InDelta(t, capacity, shift, 1e-6)
	})
}

// What bounds a problem from below bounds one with less freedom too: longer overtime, no price of moving.
func TestTheBoundOfAFreerProblemBoundsThisOneToo(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		p := drawn(t, 8)
		plan, err := round.Make(p, round.Search{Seed: 1, Iterations: 150})
		require.NoError(t, err)
		freer := p
		freer.Crews = append([]round.Crew{}, p.Crews...)
		for i := range freer.Crews {
			freer.Crews[i].Overtime += 120
		}
		freer.MovePrice = 0
		other, err := round.Make(freer, round.Search{Seed: 1, Iterations: 150})
		require.NoError(t, err)
		assert.LessOrEqual(t, other.Bound, plan.Cost.Total+1e-6, "what bounds the freer problem bounds the other's plan too")
	})
}

// Latest times hold: a round that comes to every stop as late as that still keeps every window and ends in time.
func TestLatestTimesAreReallyTheLatest(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		p := drawn(t, 10)
		plan, err := round.First(p)
		require.NoError(t, err)
		for _, r := range plan.Rounds {
			for _, stop := range r.Stops {
				assert.GreaterOrEqual(t, stop.Latest, stop.Arrive-1e-6, "%s %s at %s", r.Crew, r.Day, stop.Place)
			}
		}
	})
}

func TestTheGreedyPlanTakesTheNearestDayAndSwapsNothing(t *testing.T) {
	t.Parallel()
	a, b := late("a", "museum", 40), late("b", "tower", 40)
	a.Due, b.Due = monday.Add(2), monday.Add(3)
	p := oneCrew(a, b)
	plan, err := round.Greedy(p)
	require.NoError(t, err)
	assert.Empty(t, round.Verify(p, plan))
	require.Len(t, plan.Rounds, 2, "each on its own day, whatever a second drive costs")
	assert.Equal(t, []calendar.Day{monday.Add(2), monday.Add(3)}, []calendar.Day{plan.Rounds[0].Day, plan.Rounds[1].Day})
	better := planOf(t, p)
	assert.Len(t, better.Rounds, 1, "the planner drives once")
	assert.Less(t, better.Cost.Total, plan.Cost.Total)
}

func TestContractorsCostTheirDayAndHours(t *testing.T) {
	t.Parallel()
	p := oneCrew(late("a", "museum", 60))
	p.Crews[0].DayFee, p.Crews[0].WorkHour = 50, 30
	plan := planOf(t, p)
	assert.Equal(t, 80.0, plan.Cost.Crews)
	assert.Equal(t, 20.0, plan.Cost.Driving)
	assert.Equal(t, 20.0, plan.Cost.Stops)
}

func TestOvertimeIsPaidAndBounded(t *testing.T) {
	t.Parallel()
	p := oneCrew(late("a", "museum", 460))
	p.Crews[0].Overtime, p.Crews[0].OvertimeHour = 30, 60
	plan := planOf(t, p)
	require.Len(t, plan.Rounds, 1)
	assert.Equal(t, 20.0, plan.Rounds[0].Overtime, "460 of work, 20 to sign in, 20 of driving, in 480")
	assert.Equal(t, 20.0, plan.Cost.Overtime)
	p.Crews[0].Overtime = 10
	assert.Len(t, planOf(t, p).LeftOut, 1)
}

func TestAHardCapIsPaidOnce(t *testing.T) {
	t.Parallel()
	j := late("a", "museum", 40)
	j.Due = monday.Add(2)
	j.Waiting = round.Waiting{CapDay: new(monday.Add(3)), CapPenalty: 300}
	p := oneCrew(j)
	p.Crews[0].Dated = []round.DayShift{{Day: monday}, {Day: monday.Add(1)}, {Day: monday.Add(2)}, {Day: monday.Add(3)}}
	plan := planOf(t, p)
	require.Len(t, plan.LeftOut, 1, "past the cap all days are alike, and going there is not free")
	p.Jobs[0].LeftOut = 400
	plan = planOf(t, p)
	require.Len(t, plan.Rounds, 1)
	assert.Equal(t, 300.0, plan.Cost.Waiting)
}

func TestWhatIsOnlyPlannedStaysForALittle(t *testing.T) {
	t.Parallel()
	a := late("a", "museum", 40)
	a.Due = monday.Add(2)
	p := oneCrew(a)
	planned := round.Fixed{Job: "a", Crew: "tern", Day: monday.Add(3), Draft: true, Price: ptr(15.0)}
	p.Fixed = []round.Fixed{planned}
	plan := planOf(t, p)
	assert.Equal(t, monday.Add(3), plan.Rounds[0].Day, "a day late costs ten, moving it fifteen")
	assert.Zero(t, plan.Cost.Moved)
	_, said := because(t, plan, "a", reason.PlanPublished)
	assert.False(t, said)
	p.Fixed[0].Price = ptr(5.0)
	plan = planOf(t, p)
	assert.Equal(t, monday.Add(2), plan.Rounds[0].Day)
	assert.Equal(t, 5.0, plan.Cost.Moved)
	p.Fixed[0].Price = ptr(-1.0)
	_, err := round.Make(p, round.Search{})
	assert.ErrorContains(t, err, "fixed[0].price")
}
