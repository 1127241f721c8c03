package soil_test

import (
	"errors"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/core/reason"
	"nextround/core/soil"
)

var newYear = calendar.MustParse("2025-01-01")

func drawState(t *rapid.T) soil.State {
	return soil.State{Face: rapid.Float64Range(0, 3).Draw(t, "face"), Core: rapid.Float64Range(0, 3).Draw(t, "core")}
}

func drawFinding(t *rapid.T) soil.Finding {
	return soil.Finding{
		Grade: soil.Grade(rapid.IntRange(0, 5).Draw(t, "grade")),
		Seen:  rapid.SampledFrom([]soil.Seen{soil.FaceLook, soil.LightThrough, soil.WipedMoreBelow}).Draw(t, "seen"),
	}
}

func TestMoreTimeNeverLessSoil(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		s := drawState(t)
		h := soil.History{
			Start: soil.Start{Quality: soil.StartExact, Day: newYear},
			Conditions: []soil.Condition{{
				From: newYear, Rate: rapid.Float64Range(0, 2).Draw(t, "rate"),
				Penetration: rapid.Float64Range(0, 1).Draw(t, "penetration"), FanShare: rapid.Float64Range(0, 1).Draw(t, "fan"),
				Months: soil.GrowingSeason,
			}},
			Until: newYear.Add(rapid.IntRange(0, 400).Draw(t, "days")),
		}
		trace, err := soil.Replay(h)
		require.NoError(t, err)
		for i := 1; i < len(trace.Points); i++ {
			assert.GreaterOrEqual(t, trace.Points[i].Face, trace.Points[i-1].Face)
			assert.GreaterOrEqual(t, trace.Points[i].Core, trace.Points[i-1].Core)
		}
		more := s.Deposit(h.Conditions[0].Rate, h.Conditions[0].Penetration, 10)
		assert.GreaterOrEqual(t, more.Total(), s.Total())
	})
}

func TestCleaningNeverRaisesTheTotal(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		s := drawState(t)
		r := soil.Removal{
			Face:    rapid.Float64Range(0, 1).Draw(t, "rF"),
			Core:    rapid.Float64Range(0, 1).Draw(t, "rC"),
			Packing: rapid.Float64Range(0, 1).Draw(t, "q"),
		}
		after := s.Clean(r)
		assert.LessOrEqual(t, after.Total(), s.Total()+1e-12)
		r.Packing = 0
		after = s.Clean(r)
		assert.LessOrEqual(t, after.Face, s.Face)
		assert.LessOrEqual(t, after.Core, s.Core)
	})
}

func TestOnlyDrivenWorkWithTheAirflowPacksTheCore(t *testing.T) {
	t.Parallel()
	air, _ := soil.MethodByCode("gentle_air")
	brush, _ := soil.MethodByCode("brush_vacuum")
	s := soil.State{Face: 1}
	assert.InDelta(t, .3*.7, s.Clean(air.Removal(soil.DustLike, soil.With)).Core, 1e-12)
	for _, d := range []soil.Direction{soil.Against, soil.AlongFins, soil.DownwardClosed} {
		assert.Zero(t, s.Clean(air.Removal(soil.DustLike, d)).Core, d)
	}
	assert.Zero(t, s.Clean(brush.Removal(soil.DustLike, soil.With)).Core)
	assert.InDelta(t, (.70+.20)/2, air.Removal(soil.Mixed, soil.Against).Face, 1e-12)
}

func TestAClampLandsInTheGradeFound(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		s, f := drawState(t), drawFinding(t)
		got := s.ClampTo(f)
		switch f.Seen {
		case soil.LightThrough:
			assert.Equal(t, f.Grade, got.Grade())
		default:
			assert.Equal(t, f.Grade, got.FaceGrade())
		}
		if f.Seen == soil.FaceLook {
			assert.Equal(t, s.Core, got.Core, "a face look never touches the core")
		}
		if f.Seen == soil.WipedMoreBelow {
			assert.GreaterOrEqual(t, got.CoreGrade(), soil.Film)
		}
		first := soil.FirstState(f, .3)
		if f.Seen == soil.LightThrough {
			assert.Equal(t, f.Grade, first.Grade())
		} else {
			assert.Equal(t, f.Grade, first.FaceGrade())
		}
	})
}

func TestClampByLightScalesDownOrFillsTheCore(t *testing.T) {
	t.Parallel()
	s := soil.State{Face: .2, Core: .2}
	down := s.ClampTo(soil.Finding{Grade: soil.Coat, Seen: soil.LightThrough})
	assert.InDelta(t, soil.Load(.30), down.Total(), 1e-6)
	assert.InDelta(t, down.Face, down.Core, 1e-9, "scaled in proportion")
	up := s.ClampTo(soil.Finding{Grade: soil.Blanket, Seen: soil.LightThrough})
	assert.Equal(t, .2, up.Face, "the shortfall goes into the core")
	assert.InDelta(t, soil.Load(.50)-.2, up.Core, 1e-6)
}

// Eight visits every 90 days, brush and vacuum, found Coat and left Bare by a face look: the face is clean
// and the core goes on filling. With one rate in place of the learned spread the core holds exactly what was
// laid into it, less 5 % at each visit.
func TestBrushedFaceOverAPackedCore(t *testing.T) {
	t.Parallel()
	const rate, p = .102, .3
	brush, _ := soil.MethodByCode("brush_vacuum")
	h := soil.History{
		Start:      soil.Start{Quality: soil.StartExact, Day: newYear},
		Conditions: []soil.Condition{{From: newYear, Rate: rate, Penetration: p, FanShare: 1}},
		Until:      newYear.Add(720),
	}
	want := 0.0
	for i := 1; i <= 8; i++ {
		h.Visits = append(h.Visits, soil.Visit{
			Day:    newYear.Add(90 * i),
			Found:  &soil.Finding{Grade: soil.Coat, Seen: soil.FaceLook},
			Cleans: []soil.Removal{brush.Removal(soil.DustLike, soil.AlongFins)},
			Left:   &soil.Finding{Grade: soil.Bare, Seen: soil.FaceLook},
		})
		want = (want + rate*p*3) * .95
	}
	trace, err := soil.Replay(h)
	require.NoError(t, err)
	assert.InDelta(t, want, trace.Now.Core, 1e-9)
	assert.Equal(t, soil.Bare, trace.Now.FaceGrade())
	assert.Equal(t, soil.Felt, trace.Now.CoreGrade())
	assert.Nil(t, trace.CoreSeen, "nobody has looked with light")
	assert.Equal(t, reason.CoreUnseen, trace.Reasons[len(trace.Reasons)-1].Code)
}

func TestUnknownStartWaitsForAFinding(t *testing.T) {
	t.Parallel()
	h := soil.History{
		Start:      soil.Start{Quality: soil.StartUnknown},
		Conditions: []soil.Condition{{From: newYear, Rate: .1, Penetration: .3, FanShare: 1}},
		Until:      newYear.Add(100),
	}
	trace, err := soil.Replay(h)
	require.NoError(t, err)
	assert.False(t, trace.Known)
	assert.Empty(t, trace.Points)

	h.Visits = []soil.Visit{{Day: newYear.Add(50), Found: &soil.Finding{Grade: soil.Felt, Seen: soil.LightThrough}}}
	trace, err = soil.Replay(h)
	require.NoError(t, err)
	assert.True(t, trace.Known)
	assert.InDelta(t, soil.Load(.40), trace.Points[0].Total(), 1e-9, "the middle of the band")
	require.NotNil(t, trace.CoreSeen)
	assert.Equal(t, newYear.Add(50), *trace.CoreSeen)
	assert.InDelta(t, soil.Load(.40)+.1*50/30, trace.Now.Total(), 1e-9)
}

func TestConditionsChangeOnTheirDay(t *testing.T) {
	t.Parallel()
	h := soil.History{
		Start: soil.Start{Quality: soil.StartAbout, Day: newYear},
		Conditions: []soil.Condition{
			{From: newYear, Rate: .1, Penetration: 0, FanShare: 1},
			{From: newYear.Add(10), Rate: .4, Penetration: 0, FanShare: 1},
		},
		Until: newYear.Add(40),
	}
	trace, err := soil.Replay(h)
	require.NoError(t, err)
	assert.InDelta(t, .1*10/30+.4, trace.Now.Face, 1e-12)
	assert.Equal(t, reason.StartAbout, trace.Reasons[0].Code)
}

func TestAnUnreachedSideKeepsItsState(t *testing.T) {
	t.Parallel()
	h := soil.History{
		Start:      soil.Start{Quality: soil.StartExact, Day: newYear},
		Conditions: []soil.Condition{{From: newYear, Rate: .1, Penetration: .3, FanShare: 1}},
		Until:      newYear.Add(60),
	}
	untouched, err := soil.Replay(h)
	require.NoError(t, err)
	h.Visits = []soil.Visit{{Day: newYear.Add(30)}}
	visited, err := soil.Replay(h)
	require.NoError(t, err)
	assert.InDelta(t, untouched.Now.Total(), visited.Now.Total(), 1e-12)
}

func TestReplayNamesTheFieldsItCannotUse(t *testing.T) {
	t.Parallel()
	_, err := soil.Replay(soil.History{
		Start:      soil.Start{Quality: "perhaps", Day: newYear},
		Conditions: []soil.Condition{{Rate: -1, Penetration: 2, FanShare: 1}, {Rate: 1}},
		Visits:     []soil.Visit{{Day: newYear.Add(9), Found: &soil.Finding{Grade: 7, Seen: "dream"}, Cleans: []soil.Removal{{Face: 2}}}},
		Until:      newYear.Add(-1),
	})
	var bad invalid.Error
	require.True(t, errors.As(err, &bad))
	paths := map[string]bool{}
	for _, f := range bad {
		paths[f.Path] = true
	}
	for _, p := range []string{
		"start.quality", "conditions[0].rate", "conditions[0].penetration", "conditions[1].from", "visits[0].day",
		"visits[0].found.grade", "visits[0].found.seen", "visits[0].cleans[0].face_share", "until",
	} {
		assert.True(t, paths[p], p)
	}
	_, err = soil.Replay(soil.History{Start: soil.Start{Quality: soil.StartUnknown}, SampleDays: -1})
	assert.ErrorContains(t, err, "conditions: at least one is needed")
	assert.ErrorContains(t, err, "sample_days")
}

func TestReachedOn(t *testing.T) {
	t.Parallel()
	h := soil.History{Conditions: []soil.Condition{{From: newYear, Rate: soil.StartRate(100, 1, 1), Penetration: .3, FanShare: 1}}}
	day, ok := h.ReachedOn(soil.State{}, newYear, .30, 400)
	assert.True(t, ok)
	assert.InDelta(t, 100, day.Sub(newYear), 1)
	_, ok = h.ReachedOn(soil.State{}, newYear, .30, 50)
	assert.False(t, ok)
}

func ExampleReplay() {
	foam, _ := soil.MethodByCode("foam_rinse")
	start := calendar.MustParse("2025-01-01")
	trace, _ := soil.Replay(soil.History{
		Start:      soil.Start{Quality: soil.StartExact, Day: start},
		Conditions: []soil.Condition{{From: start, Rate: soil.StartRate(182, 1, 1), Penetration: .3, FanShare: 1}},
		Visits: []soil.Visit{{
			Day:    start.Add(182),
			Found:  &soil.Finding{Grade: soil.Felt, Seen: soil.LightThrough},
			Cleans: []soil.Removal{foam.Removal(soil.DustLike, soil.Against)},
		}},
		Until: start.Add(182),
	})
	fmt.Printf("%.3f blocked after the clean\n", trace.Now.Blocked())
	// Output: 0.033 blocked after the clean
}
