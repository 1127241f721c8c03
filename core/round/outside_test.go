package round_test

import (
	"encoding/json"
	"os"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/core/round"
)

func kept(t *testing.T, file string, into any) {
	t.Helper()
	b, err := os.ReadFile("testdata/" + file)
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(b, into))
}

// Small problems that a solver of mixed-integer models (GLPK, from Debian) solved to the optimum, from a model written
// apart; kept by make check-outside.
func TestPlansEqualTheMixedIntegerOptimum(t *testing.T) {
	t.Parallel()
	var outside struct {
		SolvedBy string `json:"solved_by"`
		Cases    []struct {
			Problem round.Problem `json:"problem"`
			Optimum float64       `json:"optimum"`
		} `json:"cases"`
	}
	kept(t, "mixed_integer.json", &outside)
	assert.Contains(t, outside.SolvedBy, "GLPSOL")
	require.Len(t, outside.Cases, 8)
	for n, c := range outside.Cases {
		plan, err := round.Make(c.Problem, round.Search{Seed: 1, Iterations: 2000})
		require.NoError(t, err)
		assert.Empty(t, round.Verify(c.Problem, plan))
		assert.InDelta(t, c.Optimum, plan.Cost.Total, 1e-4, "case %d", n)
		assert.LessOrEqual(t, plan.Bound, c.Optimum+1e-6)
	}
}

// eurodist: road distances of 21 cities as R ships them. The shortest closed tour is 12,842 km (from memory; by exact
// dynamic programming).
func TestTheTourOfTwentyOneCities(t *testing.T) {
	t.Parallel()
	var outside struct {
		Cities []string    `json:"cities"`
		Km     [][]float64 `json:"km"`
	}
	kept(t, "eurodist.json", &outside)
	require.Len(t, outside.Cities, 21)
	const shortest, scale = 12842.0, .1 // a tenth of a minute for a kilometre: the tour is done in a day
	zero := 0.0
	day := calendar.MustParse("2026-03-02")
	p := round.Problem{Start: day, Days: 1, StopMinutes: &zero}
	for a, city := range outside.Cities {
		p.Places = append(p.Places, round.Place{ID: city})
		row := make([]float64, len(outside.Km))
		for b, km := range outside.Km[a] {
			row[b] = km * scale
		}
		p.Travel.Minutes = append(p.Travel.Minutes, row)
		if a > 0 {
			p.Jobs = append(p.Jobs, round.Job{ID: strconv.Itoa(a), Place: city, Due: day, Minutes: 1e-6, LeftOut: 1e6})
		}
	}
	crew := round.Crew{ID: "one", Base: outside.Cities[0], Hour: 60}
	crew.Weekly[day.Weekday()] = round.Shift{Minutes: 2880, People: 1}
	p.Crews = []round.Crew{crew}
	plan, err := round.Make(p, round.Search{Seed: 2, Iterations: 1500})
	require.NoError(t, err)
	assert.Empty(t, plan.LeftOut)
	tour := plan.Cost.Driving / scale
	assert.GreaterOrEqual(t, tour, shortest-.5, "shorter than the shortest cannot be")
	assert.LessOrEqual(t, tour, shortest*1.01)
	t.Logf("%.0f km", tour)
}
