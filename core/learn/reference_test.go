package learn_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/learn"
	"nextround/core/soil"
)

// NIST Statistical Reference Datasets, nonlinear regression (itl.nist.gov/div898/strd; data and certified values from
// memory: that the certified sum of squares comes out to eleven figures vouches for them). Both are
// y = b1 (1 − exp(−b2 x)).
var (
	misra1a = []learn.Point{
		{77.6, 10.07},
		{114.9, 14.73},
		{141.1, 17.94},
		{190.8, 23.93},
		{239.9, 29.61},
		{289.0, 35.18},
		{332.8, 40.02},
		{378.4, 44.82},
		{434.8, 50.76},
		{477.3, 55.05},
		{536.8, 61.01},
		{593.1, 66.40},
		{689.1, 75.47},
		{760.0, 81.78},
	}
	boxBOD = []learn.Point{
		{1, 109}, {2, 149}, {3, 149}, {5, 191}, {7, 213}, {10, 224},
	}
)

func TestAsymptoteAgainstCertifiedValues(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		name                      string
		points                    []learn.Point
		b1, b2, squares, se1, se2 float64
	}{
		{"Misra1a", misra1a, 2.3894212918e2, 5.5015643181e-4, 1.2455138894e-1, 2.7070075241, 7.2668688436e-6},
		{"BoxBOD", boxBOD, 2.1380940889e2, 5.4723748542e-1, 1.1680088766e3, 1.2354515176e1, 1.0455993237e-1},
	} {
		a, err := learn.FitAsymptote(c.points)
		require.NoError(t, err, c.name)
		assert.InEpsilon(t, c.b1, a.B1, 1e-9, c.name)
		assert.InEpsilon(t, c.b2, a.B2, 1e-9, c.name)
		assert.InEpsilon(t, c.squares, a.SumOfSquares, 1e-9, c.name)
		assert.InEpsilon(t, c.se1, a.SE1, 1e-8, c.name)
		assert.InEpsilon(t, c.se2, a.SE2, 1e-8, c.name)
	}
}

func TestAsymptoteNeedsPointsThatBend(t *testing.T) {
	t.Parallel()
	for name, points := range map[string][]learn.Point{
		"too few": misra1a[:2], "one day only": {{30, 1}, {30, 2}, {30, 3}}, "nothing found": {{10, 0}, {20, 0}, {30, 0}}, "not a number": {{10, 1}, {20, math.NaN()}, {30, 2}},
	} {
		_, err := learn.FitAsymptote(points)
		assert.ErrorIs(t, err, learn.ErrNoFit, name)
	}
}

// Weeks of remission under 6-MP, the treated arm of the leukaemia trial (Freireich and others, Blood 21 (1963) 699–716; from
// memory): S(6) = .857, S(10) = .753, S(23) = .448 in every textbook of survival analysis.
var remissions = func() (out []learn.Wait) {
	for _, weeks := range []float64{6, 6, 6, -6, 7, -9, 10, -10, -11, 13, 16, -17, -19, -20, 22, 23, -25, -32, -32, -34, -35} {
		out = append(out, learn.Wait{Days: math.Abs(weeks), Found: weeks > 0})
	}
	return out
}()

func TestKaplanMeier(t *testing.T) {
	t.Parallel()
	steps, err := learn.KaplanMeier(remissions)
	require.NoError(t, err)
	at := map[float64]learn.SurvivalStep{}
	for _, s := range steps {
		at[s.Days] = s
	}
	for weeks, want := range map[float64]float64{6: .857, 7: .807, 10: .753, 13: .690, 16: .627, 22: .538, 23: .448} {
		assert.InDelta(t, want, at[weeks].Share, 5e-4, "week %g", weeks)
	}
	assert.InDelta(t, .0764, at[6].ShareSE, 5e-5, "Greenwood (from memory)")
	assert.InDelta(t, .1346, at[23].ShareSE, 5e-5, "Greenwood (from memory)")
	_, err = learn.KaplanMeier([]learn.Wait{{Days: -1}})
	assert.ErrorContains(t, err, "waits[0].days:")
	all, err := learn.KaplanMeier([]learn.Wait{{Days: 5, Found: true}})
	require.NoError(t, err)
	assert.Zero(t, all[0].Share)
	assert.Zero(t, all[0].ShareSE)
}

func TestRemovalIsLearnedFromPairs(t *testing.T) {
	t.Parallel()
	start := soil.Removal{Face: .85, Core: .05}
	r, err := learn.Blend(start, nil)
	require.NoError(t, err)
	assert.Equal(t, start, r.Removal, "without pairs the start value stands")

	var pairs []learn.Pair
	for range 30 {
		pairs = append(pairs, learn.Pair{Found: soil.Felt, Left: soil.Coat, Seen: soil.FaceLook})
	}
	r, err = learn.Blend(start, pairs)
	require.NoError(t, err)
	own := 1 - soil.Coat.MiddleLoad()/soil.Felt.MiddleLoad()
	assert.InDelta(t, (10*.85+30*own)/40, r.Face, 1e-12)
	assert.Equal(t, .05, r.Core, "a look at the face tells nothing of the core")
	assert.Equal(t, 30, r.FacePairs)

	light := learn.Pair{Found: soil.Blanket, Left: soil.Felt, Seen: soil.LightThrough, CoreShare: .6}
	r, err = learn.Blend(start, []learn.Pair{light, {Found: soil.Bare, Left: soil.Bare, Seen: soil.FaceLook}})
	require.NoError(t, err)
	assert.Equal(t, 1, r.CorePairs)
	assert.Zero(t, r.FacePairs, "a side found bare tells nothing")
	gone := 1 - soil.Felt.MiddleLoad()/soil.Blanket.MiddleLoad()
	assert.InDelta(t, (10*.05+math.Max(0, (gone-.85*.4)/.6))/11, r.Core, 1e-12)

	_, err = learn.Blend(start, []learn.Pair{{Found: 9, Left: -1, CoreShare: 2}})
	for _, field := range []string{"pairs[0].found", "pairs[0].left", "pairs[0].core_share"} {
		assert.ErrorContains(t, err, field+":")
	}
}

func ExampleKaplanMeier() {
	steps, _ := learn.KaplanMeier([]learn.Wait{{40, true}, {60, false}, {90, true}, {120, false}})
	for _, s := range steps {
		fmt.Printf("day %.0f: %.3f go on\n", s.Days, s.Share)
	}
	// Output:
	// day 40: 0.750 go on
	// day 90: 0.375 go on
}

func ExampleBlend() {
	brush, _ := soil.MethodByCode("brush_vacuum")
	r, _ := learn.Blend(brush.Removal(soil.DustLike, soil.Against), []learn.Pair{{Found: soil.Felt, Left: soil.Coat, Seen: soil.FaceLook}})
	fmt.Printf("face %.2f after one pair\n", r.Face)
	// Output: face 0.82 after one pair
}

func ExampleFitAsymptote() {
	a, _ := learn.FitAsymptote([]learn.Point{{30, .2}, {60, .33}, {90, .42}, {180, .55}})
	fmt.Printf("levels off at a load of %.2f\n", a.B1)
	// Output: levels off at a load of 0.61
}
