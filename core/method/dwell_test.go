package method_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/method"
)

func alike(n int) []method.DwellCoil {
	out := make([]method.DwellCoil, n)
	for i := range out {
		out[i] = method.DwellCoil{Name: fmt.Sprint(i + 1), SprayM: 2, RinseM: 10, MinM: 5, MaxM: 10}
	}
	return out
}

// Spraying 2, rinsing 10, window 5 to 10: two coils take 27 min, three 44, four 54; sprayed together the second of two
// stands 13 min (our own arithmetic; common practice, no source, for the times).
func TestDwellSequences(t *testing.T) {
	t.Parallel()
	for n, total := range map[int]float64{1: 17, 2: 27, 3: 44, 4: 54} {
		plan, err := method.Dwell(method.DwellInput{Coils: alike(n)})
		require.NoError(t, err)
		assert.InDelta(t, total, plan.TotalM, 1e-9, "%d coils", n)
	}
	two, err := method.Dwell(method.DwellInput{Coils: alike(2)})
	require.NoError(t, err)
	assert.InDelta(t, 13, two.TogetherM, 1e-9)
	assert.True(t, two.Spoiled)
	starts := map[string]float64{}
	for _, s := range two.Steps {
		starts[s.Do+s.Coil] = s.StartM
	}
	assert.Equal(t, map[string]float64{"spray1": 0, "wait2": 2, "spray2": 5, "rinse1": 7, "rinse2": 17}, starts)
}

// exhaustive tries every start on whole minutes: slow, and as plain as can be.
func exhaustive(coils []method.DwellCoil, horizon int) float64 {
	n := len(coils)
	best := math.Inf(1)
	spray, rinse := make([]int, n), make([]int, n)
	var place func(i int)
	place = func(i int) {
		if i == n {
			end := 0.0
			for k := range n {
				end = math.Max(end, float64(rinse[k])+coils[k].RinseM)
			}
			best = math.Min(best, end)
			return
		}
		for s := 0; s <= horizon; s++ {
			if i > 0 && s < spray[i-1]+int(coils[i-1].SprayM) {
				continue
			}
			end := s + int(coils[i].SprayM)
			for r := end + int(coils[i].MinM-coils[i].WetDownM); r <= end+int(coils[i].MaxM-coils[i].WetDownM) && r <= horizon; r++ {
				if r < end || (i > 0 && r < rinse[i-1]+int(coils[i-1].RinseM)) || float64(r)+coils[i].RinseM >= best {
					continue
				}
				spray[i], rinse[i] = s, r
				clash := false
				for k := range i {
					clash = clash || overlap(float64(s), coils[i].SprayM, float64(rinse[k]), coils[k].RinseM) ||
						overlap(float64(r), coils[i].RinseM, float64(spray[k]), coils[k].SprayM)
				}
				if !clash {
					place(i + 1)
				}
			}
		}
	}
	place(0)
	return best
}

func overlap(a, la, b, lb float64) bool { return a < b+lb && b < a+la }

func TestDwellEqualsExhaustiveSearch(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 3).Draw(t, "n")
		coils := make([]method.DwellCoil, n)
		horizon := 0
		for i := range coils {
			lo := rapid.IntRange(0, 6).Draw(t, "min")
			c := method.DwellCoil{
				Name: fmt.Sprint(i), SprayM: float64(rapid.IntRange(1, 3).Draw(t, "spray")), RinseM: float64(rapid.IntRange(1, 6).Draw(t, "rinse")),
				MinM: float64(lo), MaxM: float64(lo + rapid.IntRange(0, 5).Draw(t, "more")),
			}
			coils[i] = c
			horizon += int(c.SprayM + c.RinseM + c.MaxM)
		}
		plan, err := method.Dwell(method.DwellInput{Coils: coils})
		require.NoError(t, err)
		assert.InDelta(t, exhaustive(coils, horizon), plan.TotalM, 1e-9)
		anyOrder, err := method.Dwell(method.DwellInput{Coils: coils, AnyOrder: true})
		require.NoError(t, err)
		assert.LessOrEqual(t, anyOrder.TotalM, plan.TotalM+1e-9, "a free order is never slower")
	})
}

func TestDwellKeepsEveryWindow(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		coils := make([]method.DwellCoil, rapid.IntRange(1, 5).Draw(t, "n"))
		for i := range coils {
			lo := rapid.Float64Range(0, 15).Draw(t, "min")
			coils[i] = method.DwellCoil{
				Name: fmt.Sprint(i), SprayM: rapid.Float64Range(.5, 4).Draw(t, "spray"), RinseM: rapid.Float64Range(1, 12).Draw(t, "rinse"),
				MinM: lo, MaxM: lo + rapid.Float64Range(0, 10).Draw(t, "more"),
			}
			coils[i].WetDownM = math.Min(rapid.Float64Range(0, 1).Draw(t, "wet"), coils[i].MaxM)
		}
		plan, err := method.Dwell(method.DwellInput{Coils: coils, AnyOrder: true})
		require.NoError(t, err)
		for i, d := range plan.DwellM {
			assert.True(t, d >= coils[i].MinM-1e-6 && d <= coils[i].MaxM+1e-6, "dwell %g", d)
		}
		for k := 1; k < len(plan.Steps); k++ {
			assert.InDelta(t, plan.Steps[k-1].EndM, plan.Steps[k].StartM, 1e-9, "one person, one thing at a time")
		}
	})
}

func TestDwellRefuses(t *testing.T) {
	t.Parallel()
	for why, in := range map[string]method.DwellInput{
		"at least one":   {},
		"at most 7":      {Coils: alike(8)},
		"above 0":        {Coils: []method.DwellCoil{{RinseM: 1, MaxM: 1}}},
		"shorter first":  {Coils: []method.DwellCoil{{SprayM: 1, RinseM: 1, MinM: 3, MaxM: 1}}},
		"in the rinsing": {Coils: []method.DwellCoil{{SprayM: 1, RinseM: 1, MinM: 3, MaxM: 9, WetDownM: 2}}},
	} {
		_, err := method.Dwell(in)
		assert.ErrorContains(t, err, why)
	}
}

// Three units at 40 min and a walk-through of 10 before 08:00 start at 05:50 at the latest (common practice, no source).
func TestLatestStart(t *testing.T) {
	t.Parallel()
	assert.InDelta(t, 5*60+50, method.LatestStart(8*60, []float64{40, 40, 40}, 10), 1e-9)
}

func TestStandOff(t *testing.T) {
	t.Parallel()
	off := method.Off(3, 25, 6)
	assert.InDelta(t, 60*6*math.Log(22.0/20), off.HoldsM, 1e-9)
	assert.InDelta(t, off.HoldsM+240, off.LastM, 1e-9, "4 h above 5 °C, FDA Food Code, from memory")
	assert.Zero(t, method.Off(7, 25, 6).HoldsM)
	assert.InDelta(t, 1440, method.Off(3, 4, 6).HoldsM, 1e-9)
}

func ExampleDwell() {
	plan, _ := method.Dwell(method.DwellInput{Coils: []method.DwellCoil{
		{Name: "left", SprayM: 2, RinseM: 10, MinM: 5, MaxM: 10}, {Name: "right", SprayM: 2, RinseM: 10, MinM: 5, MaxM: 10},
	}})
	for _, s := range plan.Steps {
		fmt.Printf("%2.0f to %2.0f min: %s %s\n", s.StartM, s.EndM, s.Do, s.Coil)
	}
	// Output:
	//  0 to  2 min: spray left
	//  2 to  5 min: wait right
	//  5 to  7 min: spray right
	//  7 to 17 min: rinse left
	// 17 to 27 min: rinse right
}

func BenchmarkDwellOfSix(b *testing.B) {
	coils := alike(6)
	for i := range coils {
		coils[i].SprayM += float64(i) / 10
	}
	for b.Loop() {
		if _, err := method.Dwell(method.DwellInput{Coils: coils, AnyOrder: true}); err != nil {
			b.Fatal(err)
		}
	}
}

// While two coils stand (27 min in all, a wait from minute 2 to 5) a chore of 3 min costs nothing; one of 4 comes after the last
// rinse. A place that opens in 60 min with 10 min of closing up lets the start wait until minute 23, or 19 with the longer chore.
func TestChoresAndTheLatestStart(t *testing.T) {
	t.Parallel()
	for chore, want := range map[float64]struct {
		inside bool
		start  float64
		latest float64
	}{3: {true, 2, 23}, 4: {false, 27, 19}} {
		plan, err := method.Dwell(method.DwellInput{Coils: alike(2), Chores: []method.Chore{{Name: "flush", Minutes: chore}}, OpensInM: new(60.0), CloseUpM: 10})
		require.NoError(t, err)
		require.Len(t, plan.Chores, 1)
		assert.Equal(t, want.inside, plan.Chores[0].Inside)
		assert.InDelta(t, want.start, plan.Chores[0].StartM, 1e-9)
		assert.InDelta(t, want.latest, *plan.LatestStartM, 1e-9)
	}
	two := []method.Chore{{Name: "a", Minutes: 2}, {Name: "b", Minutes: 2}}
	plan, err := method.Dwell(method.DwellInput{Coils: alike(2), Chores: two})
	require.NoError(t, err)
	assert.True(t, plan.Chores[0].Inside && !plan.Chores[1].Inside, "a wait of 3 min holds one of them")
	assert.Nil(t, plan.LatestStartM)
	_, err = method.Dwell(method.DwellInput{Coils: alike(1), Chores: []method.Chore{{Name: "a"}}, CloseUpM: -1})
	assert.ErrorContains(t, err, "chores[0].minutes")
	assert.ErrorContains(t, err, "close_up_m")
}
