package interval_test

import (
	"fmt"
	"math"
	"slices"
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
		{"a rail never shortens", task(200, run(100, soil.Bare), run(100, soil.Bare)), 200, ""},
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

// Bounds bind after everything else, in any order, however near what is in force stands to them.
func TestNothingUndoesABound(t *testing.T) {
	t.Parallel()
	contract := func(days int) interval.Cap { return interval.Cap{Kind: interval.Contract, MostDays: days} }
	twice := interval.Cap{Kind: interval.Chemistry, TimesAYear: 2}
	for _, c := range []struct {
		name           string
		force, classOf int
		caps           []interval.Cap
		days           int
		binding        string
	}{
		{"in force four days over a contract", 88, 364, []interval.Cap{contract(84)}, 84, "cap"},
		{"in force six days over a contract", 97, 364, []interval.Cap{contract(91)}, 91, "cap"},
		{"in force a day over a contract that is no whole weeks", 61, 364, []interval.Cap{contract(60)}, 56, "cap"},
		{"in force a day over the class maximum", 61, 60, nil, 56, "class_max"},
		{"of less than a week", 30, 364, []interval.Cap{contract(5)}, 5, "cap"},
		{"of a day", 30, 364, []interval.Cap{contract(1)}, 1, "cap"},
		{"of exactly what is in force", 88, 364, []interval.Cap{contract(88)}, 88, ""},
		{"the shortest of several", 88, 364, []interval.Cap{contract(50), {Kind: interval.Hygiene, MostDays: 30}, {Kind: interval.Maker, MostDays: 40}}, 28, "cap"},
		{"chemistry keeps cleans apart", 88, 364, []interval.Cap{twice}, 189, "cap"},
		{"chemistry and a contract that allow no whole weeks between them", 88, 364, []interval.Cap{twice, contract(185)}, 185, "cap"},
		{"a contradiction", 88, 364, []interval.Cap{twice, contract(84)}, 84, "caps_contradict"},
		{"a contradiction with the class maximum", 88, 91, []interval.Cap{twice}, 88, "caps_contradict"},
	} {
		t.Run(c.name, func(t *testing.T) {
			for range len(c.caps) + 1 {
				in := task(c.force, run(c.force, soil.Coat))
				in.ClassMaxDays, in.Caps = c.classOf, slices.Clone(c.caps)
				r, err := interval.Propose(in)
				require.NoError(t, err)
				assert.Equal(t, c.days, r.Days)
				assert.Equal(t, c.days != c.force, r.Change)
				assert.Equal(t, c.binding, r.Binding)
				said := slices.IndexFunc(r.Reasons, func(x reason.Reason) bool { return x.Code == reason.CapsContradict }) >= 0
				assert.Equal(t, c.binding == "caps_contradict", said, "a contradiction is named")
				if len(c.caps) > 1 {
					c.caps = append(c.caps[1:], c.caps[0])
				}
			}
		})
	}
}

// Film, film, then blocked after 200 days: whatever the rate learned says, the newest finding was over the limit.
func TestAFindingOverTheLimitNeverLengthens(t *testing.T) {
	t.Parallel()
	in := task(182, run(200, soil.Film), run(200, soil.Film), run(200, soil.Blocked))
	in.Outlook = slow(3)
	r, err := interval.Propose(in)
	require.NoError(t, err)
	require.Greater(t, r.Cost.Days, 200.0, "the least cost alone would lengthen")
	assert.Equal(t, 98, r.Days, "half of 200 days")
	assert.Equal(t, "found_over", r.Binding)
	in.Sides[0].Runs[2].Grade = soil.Felt
	r, err = interval.Propose(in)
	require.NoError(t, err)
	assert.Equal(t, 133, r.Days, "two thirds of 200 days")
}

// slow is the outlook of a side that soils slowly, with so many findings that taught it.
func slow(findings int) *interval.Outlook {
	return &interval.Outlook{
		FanShare: 1, CleanCost: 160, OverPrice: new(.5), MostDays: 730, Months: soil.Even, Limit: .3, Risk: .2,
		Economics: heat.Economics{Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: 14, EnergyDay: 6, CallCost: 300},
		Sides:     []interval.Belief{{Name: "front", AreaShare: 1, Findings: findings, Rates: []float64{.02, .022}}},
	}
}

// What all schools lengthen is not shortened because it was never run that long.
func TestARailOnlyStopsLengthening(t *testing.T) {
	t.Parallel()
	in := task(182, run(65, soil.Bare), run(60, soil.Bare))
	in.Outlook = slow(2)
	r, err := interval.Propose(in)
	require.NoError(t, err)
	require.Greater(t, min(r.Cost.Days, r.Limit.Days), 182.0)
	assert.Equal(t, 182, r.Days)
	assert.Equal(t, "longest_stretch", r.Binding)
	in.Sides[0].Runs[0].Days = 130
	r, err = interval.Propose(in)
	require.NoError(t, err)
	assert.Equal(t, 189, r.Days, "1.5 × 130 = 195, in whole weeks")
}

// The half-blocked bound holds in what is proposed, and against what is in force.
func TestTheHalfBlockedBoundHolds(t *testing.T) {
	t.Parallel()
	o := slow(3)
	o.Economics.EnergyDay, o.Economics.CallCost, o.OverPrice = .01, 0, new(0.)
	o.Sides[0].Rates = []float64{.25, .3, .35, .4}
	in := task(91, run(92, soil.Coat), run(92, soil.Coat))
	in.Outlook = o
	r, err := interval.Propose(in)
	require.NoError(t, err)
	require.Positive(t, r.Best.HalfBlocked)
	assert.InDelta(t, r.Best.HalfBlocked, r.Cost.Days, 1e-9, "so cheap that only the bound holds it")
	assert.Equal(t, 49, r.Days)
	assert.LessOrEqual(t, float64(r.Days), r.Best.HalfBlocked)
	// Half blocked within a day: the shortest interval there is, not one without bound.
	o.Sides[0].Rates = []float64{60}
	r, err = interval.Propose(in)
	require.NoError(t, err)
	assert.InDelta(t, 1, r.Best.Days, 1e-9)
	assert.False(t, r.Best.Unbounded)
	assert.Equal(t, interval.Week, r.Days)
}

// More soil found, at any visit, never asks for a longer interval; and bounds hold whatever was found.
func TestMoreSoilNeverLengthens(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		in := task(rapid.IntRange(7, 400).Draw(t, "in force"), rapid.SliceOfN(rapid.Custom(func(t *rapid.T) interval.Run {
			return run(rapid.IntRange(0, 400).Draw(t, "days"), soil.Grade(rapid.IntRange(0, 5).Draw(t, "grade")))
		}), 1, 5).Draw(t, "runs")...)
		in.ClassMaxDays = rapid.IntRange(1, 500).Draw(t, "class maximum")
		for _, days := range rapid.SliceOfN(rapid.IntRange(1, 400), 0, 3).Draw(t, "caps") {
			in.Caps = append(in.Caps, interval.Cap{Kind: interval.Contract, MostDays: days})
		}
		if rapid.Bool().Draw(t, "learned") {
			in.Outlook = slow(rapid.IntRange(0, 4).Draw(t, "findings"))
		}
		before, err := interval.Propose(in)
		require.NoError(t, err)
		for _, most := range append([]int{in.ClassMaxDays}, caps(in)...) {
			assert.LessOrEqual(t, before.Days, most)
		}
		runs := slices.Clone(in.Sides[0].Runs)
		i := rapid.IntRange(0, len(runs)-1).Draw(t, "which")
		if runs[i].Grade < soil.Blocked {
			runs[i].Grade++
		}
		in.Sides = []interval.Side{{Name: "front", Runs: runs}}
		after, err := interval.Propose(in)
		require.NoError(t, err)
		assert.LessOrEqual(t, after.Days, before.Days)
	})
}

func caps(in interval.Task) (out []int) {
	for _, c := range in.Caps {
		out = append(out, c.MostDays)
	}
	return out
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
			assert.LessOrEqual(t, r.Days, in.ClassMaxDays)
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
	for _, k := range []float64{0, 1e-12, 101, math.NaN()} {
		in := task(100)
		in.Factor = k
		_, err := interval.Propose(in)
		assert.ErrorContains(t, err, "factor:")
	}
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
