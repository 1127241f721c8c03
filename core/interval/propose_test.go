package interval_test

import (
	"fmt"
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

func task(inForce int, runs ...interval.Run) interval.Task {
	return interval.Task{
		ClassDays: 182, ClassMaxDays: 364, Factor: 1, InForceDays: inForce, Limit: .30,
		Sides: []interval.Side{{Name: "front", Runs: runs}},
	}
}

func run(days int, grade soil.Grade) interval.Run {
	return interval.Run{Days: days, Grade: grade, CoreSeen: true}
}

// The steps of the staircase, each on the days really run (idea: ILAC-G24 / OIML D 10, from memory; sizes our
// own, assumption).
func TestStaircaseSteps(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		name string
		task interval.Task
		want float64
		code reason.Code
	}{
		{"two running light: up", task(100, run(100, soil.Film), run(100, soil.Bare)), 125, "staircase_up"},
		{"light after heavy: keep", task(100, run(100, soil.Felt), run(100, soil.Film)), 100, "staircase_keep_single"},
		{"a single light one: keep", task(100, run(120, soil.Bare)), 100, "staircase_keep_single"},
		{"at the limit: keep", task(100, run(110, soil.Coat)), 100, "staircase_keep_at_limit"},
		{"at the limit, no interval yet", task(0, run(60, soil.Coat)), 60, "staircase_keep_at_limit"},
		{"one over: down", task(100, run(100, soil.Felt)), 67, "staircase_down"},
		{"two over: half", task(100, run(80, soil.Blanket)), 40, "staircase_down_double"},
		{"three over: half", task(100, run(80, soil.Blocked)), 40, "staircase_down_double"},
		{"no dated clean: no step", task(100, run(0, soil.Blocked)), 100, "staircase_no_dated_clean"},
		{"late and one over: never longer", task(100, run(200, soil.Felt)), 100, "staircase_down"},
		{"early and light: never shorter", task(100, run(30, soil.Bare), run(40, soil.Bare)), 100, "staircase_up"},
		{"no interval yet", task(0, run(80, soil.Felt)), 53.6, "staircase_down"},
	} {
		t.Run(c.name, func(t *testing.T) {
			o := interval.StaircaseDays(c.task.Sides, c.task.InForceDays, c.task.Limit)
			assert.InDelta(t, c.want, o.Days, 1e-9)
			assert.Equal(t, c.code, o.Reasons[0].Code)
		})
	}
}

func TestTheWorstSideLeads(t *testing.T) {
	t.Parallel()
	in := task(100, run(100, soil.Bare))
	in.Sides = append(in.Sides, interval.Side{Name: "wall side", Runs: []interval.Run{run(100, soil.Blanket)}}, interval.Side{Name: "hidden"})
	o := interval.StaircaseDays(in.Sides, 100, .30)
	assert.InDelta(t, 50, o.Days, 1e-9)
	assert.Equal(t, "wall side", o.Reasons[0].Names["side"])
	assert.Len(t, o.Reasons, 2, "a side without findings says nothing")
}

func TestHabitLeadsUntilThereIsAFinding(t *testing.T) {
	t.Parallel()
	in := task(0)
	in.Factor = 4
	r, err := interval.Propose(in)
	require.NoError(t, err)
	assert.Equal(t, interval.Habit, r.School)
	assert.Equal(t, 42, r.Days, "182 / 4 = 45.5, in whole weeks")
	assert.True(t, r.Change)

	in.Sides[0].Runs = []interval.Run{run(100, soil.Blanket)}
	r, err = interval.Propose(in)
	require.NoError(t, err)
	assert.Equal(t, interval.Staircase, r.School)
	assert.Equal(t, 49, r.Days, "half of 100, in whole weeks")
}

func TestRails(t *testing.T) {
	t.Parallel()
	unseen := interval.Run{Days: 182, Grade: soil.Bare}
	for _, c := range []struct {
		name    string
		task    interval.Task
		days    int
		binding string
	}{
		{"class maximum", task(300, run(320, soil.Bare), run(340, soil.Bare)), 364, "class_max"},
		{"longest stretch", task(200, run(100, soil.Bare), run(100, soil.Bare)), 147, "longest_stretch"},
		{"core unseen", task(182, unseen, unseen), 182, "core_unseen"},
		{"no finding", task(91), 91, "no_finding"},
		{"one week at least", task(14, run(8, soil.Blocked)), 7, "one_week"},
		{"free to rise", task(182, run(182, soil.Film), run(182, soil.Film)), 224, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			r, err := interval.Propose(c.task)
			require.NoError(t, err)
			assert.Equal(t, c.days, r.Days)
			assert.Equal(t, c.binding, r.Binding)
		})
	}
}

// With rates learned, lengthening waits for a second finding and for somebody to have looked through the core.
func TestRailsOfWhatWasLearned(t *testing.T) {
	t.Parallel()
	seen, unseen := true, false
	for _, c := range []struct {
		findings int
		core     *bool
		binding  string
	}{{0, &seen, "no_finding"}, {1, &seen, "one_finding"}, {2, &unseen, "core_unseen"}, {3, &unseen, "core_unseen"}, {2, &seen, ""}} {
		in := task(60)
		in.Sides[0].Runs = []interval.Run{run(60, soil.Bare), run(60, soil.Bare)}
		in.CoreSeen = c.core
		in.Outlook = &interval.Outlook{
			FanShare: 1, CleanCost: 60, OverPrice: known(.5), MostDays: 364, Months: soil.Even, Limit: .3, Risk: .2,
			Economics: heat.Economics{Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: 10, EnergyDay: 2, CallCost: 100},
			Sides:     []interval.Belief{{Name: "front", AreaShare: 1, Findings: c.findings, Rates: []float64{.02}, Starts: []float64{0}}},
		}
		r, err := interval.Propose(in)
		require.NoError(t, err)
		if c.binding == "" {
			assert.Greater(t, r.Days, 60, "%d findings, core seen", c.findings)
			continue
		}
		assert.Equal(t, c.binding, r.Binding, "%d findings", c.findings)
		assert.LessOrEqual(t, r.Days, 60)
	}
}

// A finding at the limit's own grade is not a light one: two light ones in a row are needed to lengthen.
func TestTwoLightFindingsInARow(t *testing.T) {
	t.Parallel()
	star := soil.GradeOf(interval.DefaultLimit - 1e-9) // the last grade within the limit
	for _, c := range []struct {
		first  soil.Grade
		longer bool
	}{{star, false}, {star - 1, true}} {
		o := interval.StaircaseDays([]interval.Side{{Name: "front", Runs: []interval.Run{run(100, c.first), run(100, soil.Bare)}}}, 100, interval.DefaultLimit)
		assert.Equal(t, c.longer, o.Days > 100, "%s, then bare", c.first)
	}
}

func TestLessThanAWeekIsNoChange(t *testing.T) {
	t.Parallel()
	r, err := interval.Propose(task(30, run(30, soil.Coat)))
	require.NoError(t, err)
	assert.False(t, r.Change)
	assert.Equal(t, 30, r.Days, "the interval in force stands, not its whole weeks")
	assert.Equal(t, reason.NoChange, r.Reasons[len(r.Reasons)-1].Code)
}

func TestProposalLaws(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		in := interval.Task{
			ClassDays:    rapid.IntRange(7, 400).Draw(t, "class"),
			ClassMaxDays: rapid.IntRange(7, 800).Draw(t, "max"),
			Factor:       rapid.Float64Range(.5, 8).Draw(t, "factor"),
			InForceDays:  rapid.IntRange(7, 400).Draw(t, "in force"),
			Limit:        rapid.Float64Range(.06, .9).Draw(t, "limit"),
		}
		runs := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) interval.Run {
			return interval.Run{
				Days:     rapid.IntRange(0, 500).Draw(t, "days"),
				Grade:    soil.Grade(rapid.IntRange(0, 5).Draw(t, "grade")),
				CoreSeen: rapid.Bool().Draw(t, "core seen"),
			}
		}), 1, 6).Draw(t, "runs")
		in.Sides = []interval.Side{{Name: "a", Runs: runs}}
		r, err := interval.Propose(in)
		require.NoError(t, err)
		last := runs[len(runs)-1].Grade
		if last > soil.LimitGrade(in.Limit) {
			assert.LessOrEqual(t, r.Days, in.InForceDays, "heavy soil never lengthens")
		}
		if r.Change {
			assert.Zero(t, r.Days%7, "whole weeks")
			assert.LessOrEqual(t, r.Days, max(7, in.ClassMaxDays))
			if len(runs) == 1 {
				assert.Less(t, r.Days, in.InForceDays, "one finding never lengthens")
			}
		}
		worse := in
		worse.Sides = []interval.Side{{Name: "a", Runs: append(append([]interval.Run{}, runs[:len(runs)-1]...), runs[len(runs)-1])}}
		worse.Sides[0].Runs[len(runs)-1].Grade = soil.Blocked
		w, err := interval.Propose(worse)
		require.NoError(t, err)
		assert.LessOrEqual(t, w.Staircase.Days, r.Staircase.Days, "a heavier finding never asks for a longer interval")
	})
}

func TestProposeNamesTheFieldsItCannotUse(t *testing.T) {
	t.Parallel()
	_, err := interval.Propose(interval.Task{InForceDays: -1, Limit: 3, Sides: []interval.Side{{Runs: []interval.Run{{Days: -2, Grade: 8}}}}})
	for _, field := range []string{"class_days", "class_max_days", "factor", "in_force_days", "limit_share", "sides[0].runs[0].days", "sides[0].runs[0].grade"} {
		assert.ErrorContains(t, err, field+":")
	}
}

func TestNextDue(t *testing.T) {
	t.Parallel()
	today := calendar.MustParse("2026-03-04")
	last := today.Add(-20)
	older := today.Add(-90)
	d, ok := interval.NextDue([]interval.Clock{
		{Side: "front", Last: &last, Quality: interval.Exact},
		{Side: "back", Last: &older, Quality: interval.About},
	}, 30, today)
	assert.True(t, ok)
	assert.Equal(t, interval.Due{Day: today.Add(-60), Side: "back", About: true}, d, "the side left longest decides")

	d, _ = interval.NextDue([]interval.Clock{{Side: "front", Last: &last, Quality: interval.Exact}, {Side: "hidden", Quality: interval.Unknown}}, 30, today)
	assert.True(t, d.FirstLook)
	assert.Equal(t, today, d.Day)

	_, ok = interval.NextDue(nil, 30, today)
	assert.False(t, ok)
}

func ExamplePropose() {
	r, _ := interval.Propose(interval.Task{
		ClassDays: 182, ClassMaxDays: 364, Factor: 1, InForceDays: 182,
		Sides: []interval.Side{{Name: "front", Runs: []interval.Run{{Days: 175, Grade: soil.Felt}}}},
	})
	fmt.Println(r.School, r.Days, "days")
	// Output: staircase 112 days
}
