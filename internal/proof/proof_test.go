package proof

import (
	"context"
	"os"
	"path/filepath"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func small(t *testing.T) Scenario {
	all, err := Shipped()
	require.NoError(t, err)
	s := all[2]
	s.Sites, s.PerSite, s.Years = 2, 2, 4
	return s
}

// In half the scenarios or more the world that lives is not the model that learns.
func TestScenariosThatShip(t *testing.T) {
	all, err := Shipped()
	require.NoError(t, err)
	different := 0
	for _, s := range all {
		assert.NotEmpty(t, s.About)
		if s.Different {
			different++
		}
	}
	assert.GreaterOrEqual(t, 2*different, len(all))
}

func TestSimulationsRepeat(t *testing.T) {
	s := small(t)
	a, err := Simulate(context.Background(), s, 2, 2, nil)
	require.NoError(t, err)
	told := 0
	b, err := Simulate(context.Background(), s, 2, 1, func(done, of int) { told++; assert.Equal(t, 2*len(Ways), of) })
	require.NoError(t, err)
	assert.Equal(t, a, b, "the same seeds give the same lives, on however many processors")
	assert.Equal(t, 2*len(Ways), told)
	assert.NotEqual(t, a.Runs[Habit][0], a.Runs[Habit][1], "another seed is another portfolio")
	for way, runs := range a.Runs {
		for _, c := range runs {
			assert.Positive(t, c.Cleans, way)
			assert.Positive(t, c.Soil, way)
			assert.InDelta(t, s.OverPrice*c.OverDays, c.Over, 1e-6)
		}
	}
	habit, spread := a.Mean(Habit)
	known, _ := a.Mean(Known)
	assert.Less(t, known.Total(), habit.Total(), "knowing the rates is worth something")
	assert.Positive(t, spread)
	assert.Zero(t, a.Gained(Habit))
	assert.InDelta(t, 1, a.Gained(Known), 1e-12)
	assert.Positive(t, a.Gained(Proposals))
	ctx, stop := context.WithCancel(context.Background())
	stop()
	_, err = Simulate(ctx, s, 1, 1, nil)
	assert.ErrorIs(t, err, context.Canceled)
}

// What lives is what was drawn: growth by the true rate, an end where it levels off, a rate that drifts, soil only seen
// where the look goes.
func TestTheWorldLivesAsDrawn(t *testing.T) {
	s := small(t)
	s.Truth = Truth{RateTimes: 1, PenetrationTimes: 1, FaceTimes: 1, CoreTimes: 1, DriftTimes: 3}
	w := draw(s, 1)
	u := &w.units[0]
	assert.InDelta(t, u.assumed, u.rate, 1e-12)
	l := w.live(u, living, 0)
	l.until(begun.Add(90))
	assert.InDelta(t, 3*u.rate, l.state.Total(), 1e-9)
	assert.InDelta(t, u.penetration, l.state.Core/l.state.Total(), 1e-9)
	v := l.clean(deep, true)
	assert.Equal(t, u.removal[deep], v.Cleans[0])
	assert.InDelta(t, u.kind.Cost, l.Cleaning, 1e-12)
	l.clean(light, true)
	assert.InDelta(t, u.kind.Cost+u.kind.LightCost, l.Cleaning, 1e-12)

	w.Truth.LevelsOffAt = .2
	level := w.live(u, living, 0)
	level.until(begun.Add(1400))
	assert.Less(t, level.state.Total(), .2)
	assert.Greater(t, level.state.Total(), .1)

	w.Truth.LevelsOffAt = 0
	u.driftOn, u.driftTimes = begun.Add(30), 3
	fast := w.live(u, living, 0)
	fast.until(begun.Add(60))
	assert.InDelta(t, u.rate+3*u.rate, fast.state.Total(), 1e-9)
}

func TestReport(t *testing.T) {
	r, err := Simulate(context.Background(), small(t), 1, 2, nil)
	require.NoError(t, err)
	folder := filepath.Join(t.TempDir(), "out")
	require.NoError(t, Write(folder, []Result{r}))
	text, err := os.ReadFile(filepath.Join(folder, reportName)) //nolint:gosec // the test's own folder
	require.NoError(t, err)
	for _, part := range []string{"## Against the goals", "### Spring", "| f |", "## Where it is weak", costPicture, gainPicture} {
		assert.Contains(t, string(text), part)
	}
	for _, name := range []string{costPicture, gainPicture, dataName} {
		at, err := os.Stat(filepath.Join(folder, name))
		require.NoError(t, err)
		assert.Positive(t, at.Size())
	}
	v := Judge([]Result{r})
	assert.Equal(t, r.Gained(Proposals), v.Gained)
	assert.Equal(t, "Spring", v.WorstIn)
}

func TestScenariosThatCannotBeUsed(t *testing.T) {
	for content, want := range map[string]string{
		`{`:                 "unexpected EOF",
		`{"colour": "red"}`: "unknown field",
		`{"kinds":[{"class":"boat","soil":"gold","method":"prayer","light":"hope"}],"factors":[-1],"truth":{"months":"gold","rate_times":-1}}`: "kinds[0].class",
	} {
		_, err := Read(fstest.MapFS{"bad.json": {Data: []byte(content)}})
		assert.ErrorContains(t, err, want)
		assert.ErrorContains(t, err, "bad.json")
	}
	_, err := Read(fstest.MapFS{})
	assert.ErrorContains(t, err, "no scenario")
}
