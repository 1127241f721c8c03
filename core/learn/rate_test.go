package learn_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/core/learn"
	"nextround/core/reason"
	"nextround/core/soil"
)

var start = calendar.MustParse("2023-01-01")

// side is a history that starts clean, at an assumed rate and penetration, with even months and a fan that always runs.
func side(rate, penetration float64, until int, visits ...soil.Visit) soil.History {
	return soil.History{
		Start:      soil.Start{Quality: soil.StartExact, Day: start},
		Conditions: []soil.Condition{{From: start, Rate: rate, Penetration: penetration, FanShare: 1}},
		Visits:     visits, Until: start.Add(until),
	}
}

func found(day int, grade soil.Grade, seen soil.Seen) soil.Visit {
	return soil.Visit{Day: start.Add(day), Found: &soil.Finding{Grade: grade, Seen: seen}}
}

func learned(t testing.TB, h soil.History) learn.Rate {
	r, err := learn.Learn(learn.Question{History: h})
	require.NoError(t, err)
	return r
}

// The worked example: class with 365 reference days, found Felt by light a year after a clean.
func TestOneFindingAfterAYear(t *testing.T) {
	t.Parallel()
	lambda0 := soil.StartRate(365, 1, 1)
	assert.InDelta(t, .02932, lambda0, 5e-6)
	r := learned(t, side(lambda0, .3, 365, found(365, soil.Felt, soil.LightThrough)))
	assert.InDelta(t, -3.302, r.MeanLog, 5e-4)
	assert.InDelta(t, .338, r.SDLog, 5e-4)
	assert.InDelta(t, .0368, r.Rate.P50, 5e-5)
}

// Eight visits every 90 days, brush and vacuum, found Coat and left Bare by a look at the face.
func eightVisits(last *soil.Visit) soil.History {
	var visits []soil.Visit
	for i := 1; i <= 8; i++ {
		v := found(90*i, soil.Coat, soil.FaceLook)
		v.Cleans = []soil.Removal{{Face: .85, Core: .05}}
		v.Left = &soil.Finding{Grade: soil.Bare, Seen: soil.FaceLook}
		visits = append(visits, v)
	}
	if last != nil {
		visits[7] = *last
	}
	return side(.12, .3, 720, visits...)
}

func TestACleanFaceOverAPackedCore(t *testing.T) {
	t.Parallel()
	r := learned(t, eightVisits(nil))
	assert.InDelta(t, -2.273, r.MeanLog, 5e-4)
	assert.InDelta(t, .207, r.SDLog, 5e-4)
	assert.InDelta(t, .102, r.Rate.P50, 1e-3)
	assert.InDelta(t, .038, r.State.Face, 5e-4)
	assert.InDelta(t, .65, r.State.Core, 5e-3)
	assert.InDelta(t, .24, r.Core.P10, 5e-3)
	assert.InDelta(t, 1.15, r.Core.P90, 1e-2)
	assert.InDelta(t, .21, soil.Share(r.Core.P10), 5e-3)
	assert.InDelta(t, .68, soil.Share(r.Core.P90), 5e-3)
	assert.Nil(t, r.CoreSeen)
}

func TestLightTellsThePenetration(t *testing.T) {
	t.Parallel()
	foam := func(grade soil.Grade) *soil.Visit {
		v := found(720, grade, soil.LightThrough)
		v.Cleans = []soil.Removal{{Face: .95, Core: .80}}
		v.Left = &soil.Finding{Grade: soil.Film, Seen: soil.LightThrough}
		return &v
	}
	for grade, want := range map[soil.Grade]float64{soil.Blanket: .323, soil.Coat: .18} {
		r := learned(t, eightVisits(foam(grade)))
		assert.InDelta(t, want, r.Penetration, 5e-3, "light through showed %s", grade)
		assert.NotNil(t, r.CoreSeen)
	}
}

// Blocked a week after a clean: an event, not a rate.
func TestAnEventTeachesNothing(t *testing.T) {
	t.Parallel()
	r := learned(t, side(.02932, .3, 7, found(7, soil.Blocked, soil.LightThrough)))
	assert.InDelta(t, .0293, r.Rate.P50, 2e-4)
	require.Len(t, r.Evidence, 1)
	assert.True(t, r.Evidence[0].Flagged())
	assert.Zero(t, r.Telling)
	assert.Contains(t, codes(r), reason.EventFinding)
	assert.Greater(t, r.State.Total(), 1.38, "what was found is there all the same")
}

func codes(r learn.Rate) (out []reason.Code) {
	for _, x := range r.Reasons {
		out = append(out, x.Code)
	}
	return out
}

func TestWithoutAFindingThePriorStands(t *testing.T) {
	t.Parallel()
	r := learned(t, side(.1, .3, 200))
	assert.InDelta(t, math.Log(.1), r.MeanLog, 1e-6)
	assert.InDelta(t, .6, r.SDLog, 2e-3)
	assert.Nil(t, r.Own)
	peers := learn.Normal{Mean: .5, Variance: .3}
	r, err := learn.Learn(learn.Question{History: side(.1, .3, 200), Prior: &peers})
	require.NoError(t, err)
	assert.InDelta(t, .1*math.Exp(.5), r.Rate.P50, 1e-4, "a unit without history gets its peers' rate")
}

func TestAnUnknownStartTakesItsStateFromTheFirstFinding(t *testing.T) {
	t.Parallel()
	h := side(.1, .3, 100, found(50, soil.Felt, soil.LightThrough))
	h.Start.Quality = soil.StartUnknown
	r := learned(t, h)
	assert.Zero(t, r.Counted, "it carries no evidence on the rate")
	assert.True(t, r.Known)
	assert.InDelta(t, soil.Felt.MiddleLoad()+.1*50/30, r.State.Total(), .04)
	h.Visits = nil
	assert.False(t, learned(t, h).Known)
}

// A start known only roughly makes the first finding tell less.
func TestARoughStartTellsLess(t *testing.T) {
	t.Parallel()
	h := side(.1, .3, 60, found(60, soil.Coat, soil.LightThrough))
	exact := learned(t, h)
	h.Start.Quality = soil.StartAbout
	about := learned(t, h)
	assert.Greater(t, about.SDLog, exact.SDLog+.02)
}

func TestAReadingSpeaksForSoil(t *testing.T) {
	t.Parallel()
	h := side(.1, .3, 60, soil.Visit{Day: start.Add(60), ReadingShare: new(float64)})
	*h.Visits[0].ReadingShare = .25
	r := learned(t, h)
	assert.Greater(t, r.Rate.P50, .105)
	looked := learned(t, side(.1, .3, 60, found(60, soil.Coat, soil.LightThrough)))
	assert.Less(t, looked.SDLog, r.SDLog, "a look tells more")
}

func TestAGraderWithAWideScatterTellsLess(t *testing.T) {
	t.Parallel()
	h := side(.1, .3, 60, found(60, soil.Coat, soil.LightThrough))
	usual := learned(t, h)
	h.Visits[0].GraderSigma = .8
	assert.Greater(t, learned(t, h).SDLog, usual.SDLog+.02)
}

// Months with more soil take their share: a finding after a spring in which three quarters of the year's soil came tells of
// a lower rate than one after an even spring.
func TestSeasonsAreTakenOut(t *testing.T) {
	t.Parallel()
	h := side(.1, .3, 180, found(180, soil.Felt, soil.LightThrough))
	even := learned(t, h)
	h.Conditions[0].Months = soil.MonthWeights{1, 1, 4, 4, 4, 4, 1, 1, 1, 1, 1, 1}
	spring := learned(t, h)
	assert.Less(t, spring.MeanLog, even.MeanLog-.2)
}

// A rate that doubled is flagged and, where wanted, followed.
func TestDriftIsFlaggedAndFollowed(t *testing.T) {
	t.Parallel()
	var visits []soil.Visit
	for i := 1; i <= 9; i++ {
		grade := soil.Coat
		if i > 6 {
			grade = soil.Blanket
		}
		v := found(60*i, grade, soil.LightThrough)
		v.Cleans = []soil.Removal{{Face: .97, Core: .95}}
		v.Left = &soil.Finding{Grade: soil.Bare, Seen: soil.LightThrough}
		visits = append(visits, v)
	}
	q := learn.Question{History: side(.12, .3, 540, visits...)}
	r, err := learn.Learn(q)
	require.NoError(t, err)
	require.NotNil(t, r.Drift)
	assert.True(t, r.Drift.Flagged)
	assert.Equal(t, start.Add(420), r.Drift.Since)
	assert.InDelta(t, 3.5, math.Exp(r.Drift.Delta), 1.5)
	q.FollowDrift = true
	followed, err := learn.Learn(q)
	require.NoError(t, err)
	assert.Greater(t, followed.Rate.P50, 1.3*r.Rate.P50)
	assert.Contains(t, codes(followed), reason.Drift)
	six := append([]soil.Visit{}, visits[:6]...)
	for i := 3; i < 6; i++ {
		was := *six[i].Found
		was.Grade = soil.Blanket
		six[i].Found = &was
	}
	r, err = learn.Learn(learn.Question{History: side(.12, .3, 360, six...)})
	require.NoError(t, err)
	require.NotNil(t, r.Drift, "three on each side are enough")
	fell := append([]soil.Visit{}, visits...)
	for i := range fell {
		was := *fell[i].Found
		was.Grade = soil.Blanket
		if i >= 6 {
			was.Grade = soil.Coat
		}
		fell[i].Found = &was
	}
	q.History.Visits = fell
	r, err = learn.Learn(q)
	require.NoError(t, err)
	require.NotNil(t, r.Drift)
	assert.Negative(t, r.Drift.Delta)
	assert.True(t, r.Drift.Flagged, "a rate that fell is a change too")
	q.History.Visits = visits[:5]
	r, _ = learn.Learn(q)
	assert.Nil(t, r.Drift, "three on each side are needed")
}

// Grid refinement: four times as many points give the same answer.
func TestAFinerGridSaysTheSame(t *testing.T) {
	t.Parallel()
	for name, h := range map[string]soil.History{
		"eight visits": eventfulSide(), "packed core": eightVisits(nil), "one finding": side(.02932, .3, 365, found(365, soil.Felt, soil.LightThrough)),
	} {
		coarse, err := learn.Learn(learn.Question{History: h, Points: 101})
		require.NoError(t, err)
		fine, err := learn.Learn(learn.Question{History: h, Points: 401})
		require.NoError(t, err)
		assert.InDelta(t, fine.MeanLog, coarse.MeanLog, 1e-3, name)
		assert.InDelta(t, fine.SDLog, coarse.SDLog, 1e-3, name)
		assert.InEpsilon(t, fine.Rate.P90, coarse.Rate.P90, 5e-3, name)
		assert.InDelta(t, fine.State.Core, coarse.State.Core, 5e-3, name)
	}
}

func eventfulSide() soil.History {
	return side(.1, .3, 400, found(50, soil.Film, soil.FaceLook), found(120, soil.Coat, soil.LightThrough), found(125, soil.Blocked, soil.FaceLook),
		found(200, soil.Blanket, soil.WipedMoreBelow))
}

// Extremes end in numbers.
func TestExtremes(t *testing.T) {
	t.Parallel()
	var bare, blocked []soil.Visit
	for i := 1; i <= 100; i++ {
		v := found(7*i, soil.Bare, soil.LightThrough)
		v.Cleans = []soil.Removal{{Face: .9, Core: .5}}
		bare = append(bare, v)
		v = found(7*i, soil.Blocked, soil.LightThrough)
		v.Cleans = []soil.Removal{{Face: .99, Core: .99}}
		blocked = append(blocked, v)
	}
	for name, h := range map[string]soil.History{
		"bare a hundred times": side(.1, .3, 700, bare...), "blocked a hundred times": side(.02, .3, 700, blocked...),
		"rate 5": side(5, .8, 700, bare[0]), "years unseen": side(.3, .8, 5000), "blocked the day after": side(.03, .3, 2, found(1, soil.Blocked, soil.FaceLook)),
		"found on the day of the clean": side(.03, .3, 2, found(0, soil.Film, soil.FaceLook)), "fan never runs": {
			Start: soil.Start{Quality: soil.StartExact, Day: start}, Until: start.Add(900), Visits: []soil.Visit{found(400, soil.Felt, soil.FaceLook)},
			Conditions: []soil.Condition{{From: start, Rate: .1, Penetration: .3, FanShare: 0}},
		},
	} {
		r := learned(t, h)
		for _, v := range []float64{r.MeanLog, r.SDLog, r.Rate.P10, r.Rate.P50, r.Rate.P90, r.State.Face, r.State.Core, r.Core.P90, r.Penetration} {
			assert.False(t, math.IsNaN(v) || math.IsInf(v, 0), "%s: %+v", name, r)
		}
		assert.LessOrEqual(t, r.Rate.P10, r.Rate.P50, name)
		assert.LessOrEqual(t, r.Rate.P50, r.Rate.P90, name)
		assert.Positive(t, r.Rate.P10, name)
	}
	slow, fast := learned(t, side(.1, .3, 700, bare...)), learned(t, side(.02, .3, 700, blocked...))
	assert.Less(t, slow.Rate.P50, .1)
	assert.Greater(t, fast.Rate.P50, 2.0, "the grid follows the findings far beyond the prior")
}

// Only the newest sixty findings teach; what was before them is replayed all the same.
func TestOldFindingsOnlyMoveTheState(t *testing.T) {
	t.Parallel()
	var visits []soil.Visit
	for i := 1; i <= 100; i++ {
		grade := soil.Blanket
		if i > 40 {
			grade = soil.Coat
		}
		v := found(30*i, grade, soil.LightThrough)
		v.Cleans = []soil.Removal{{Face: .9, Core: .5}}
		visits = append(visits, v)
	}
	all := learned(t, side(.2, .3, 3000, visits...))
	assert.Equal(t, learn.MostEvidence, all.Counted)
	assert.Len(t, all.Evidence, 100)
	assert.False(t, all.Evidence[39].Counted)
	assert.True(t, all.Evidence[40].Counted)
	newest := side(.2, .3, 3000, visits[40:]...)
	newest.Start.Day, newest.Conditions[0].From = visits[39].Day, visits[39].Day
	assert.InDelta(t, learned(t, newest).MeanLog, all.MeanLog, .1)
}

func TestLearnNamesTheFieldsItCannotUse(t *testing.T) {
	t.Parallel()
	h := side(.1, .3, 10, found(5, soil.Grade(9), "by ear"), found(3, soil.Film, soil.FaceLook), found(50, soil.Film, soil.FaceLook))
	h.Visits[0].GraderSigma = -1
	h.Conditions[0].Rate = 0
	_, err := learn.Learn(learn.Question{History: h, Prior: &learn.Normal{Mean: 99, Variance: -1}, Points: 3})
	for _, field := range []string{
		"history.visits[0].found.grade", "history.visits[0].found.seen", "history.visits[0].grader_sigma", "history.visits[1].day",
		"history.visits[2].day", "history.conditions[0].rate", "prior.mean", "prior.variance", "grid_points",
	} {
		assert.ErrorContains(t, err, field+":")
	}
}

func ExampleLearn() {
	began := calendar.MustParse("2025-01-01")
	r, _ := learn.Learn(learn.Question{History: soil.History{
		Start:      soil.Start{Quality: soil.StartExact, Day: began},
		Conditions: []soil.Condition{{From: began, Rate: soil.StartRate(365, 1, 1), Penetration: .3, FanShare: 1}},
		Visits:     []soil.Visit{{Day: began.Add(365), Found: &soil.Finding{Grade: soil.Felt, Seen: soil.LightThrough}}},
		Until:      began.Add(365),
	}})
	fmt.Printf("%.4f load in 30 days, likely %.4f to %.4f\n", r.Rate.P50, r.Rate.P10, r.Rate.P90)
	// Output: 0.0368 load in 30 days, likely 0.0239 to 0.0567
}

// Growing the cells to another day is learning with that day as the end.
func TestGrowIsLearningLater(t *testing.T) {
	t.Parallel()
	h := eightVisits(nil)
	h.Conditions[0].Months = soil.GrowingSeason
	h.Until = start.Add(760)
	now := learned(t, h)
	later := h
	later.Until = start.Add(900)
	want := learned(t, later)
	for day, from := range map[int]soil.History{900: h, 760: later} {
		r := learned(t, from)
		expected := want
		if day == 760 {
			expected = now
		}
		face, core := 0.0, 0.0
		for _, c := range learn.Grow(r.Cells, from, start.Add(day)) {
			face += c.Weight * c.Face
			core += c.Weight * c.Core
		}
		assert.InDelta(t, expected.State.Face, face, 1e-6)
		assert.InDelta(t, expected.State.Core, core, 1e-6)
	}
}
