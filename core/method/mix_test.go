package method_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/method"
	"nextround/core/soil"
)

func ptr[T any](v T) *T { return &v }

// Worked figures of the trade (common practice, no source).
func TestMixFigures(t *testing.T) {
	t.Parallel()
	gallon := method.LitresPerGallon
	four, err := method.Mix(method.MixInput{WaterParts: ptr(4.0), MixL: &gallon})
	require.NoError(t, err)
	assert.InDelta(t, 25.6, four.OzPerGallonMix, 1e-9)
	assert.InDelta(t, 32, four.OzPerGallonW, 1e-9)
	assert.InDelta(t, .2, four.Share, 1e-12)
	assert.InDelta(t, 2.75, method.Stretch(3, 10), 1e-12)
	fills, err := method.Mix(method.MixInput{Share: ptr(1.0), MixL: &gallon, TankL: gallon / 128 * 16})
	require.NoError(t, err)
	assert.Equal(t, 8, fills.Fills, "128 fl oz in fills of 16")
}

func TestMixCountsFillsAndPacks(t *testing.T) {
	t.Parallel()
	out, err := method.Mix(method.MixInput{WaterParts: ptr(9.0), WaterL: ptr(18.0), TankL: 8, PackL: 5, PackPrice: 40})
	require.NoError(t, err)
	assert.InDelta(t, 20, out.MixL, 1e-9)
	assert.InDelta(t, 2, out.CleanerL, 1e-9)
	assert.Equal(t, 3, out.Fills)
	assert.InDelta(t, 4, out.LastFillL, 1e-9)
	assert.InDelta(t, .8, out.CleanerAFill, 1e-9)
	assert.Equal(t, 1, out.Packs, "two litres open one pack of five")
	assert.InDelta(t, 16, out.Cost, 1e-9)
}

func TestMixAgreesWithItself(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		parts := rapid.Float64Range(.01, 900).Draw(t, "parts")
		mix := rapid.Float64Range(.01, 900).Draw(t, "mix")
		a, err := method.Mix(method.MixInput{WaterParts: &parts, MixL: &mix})
		require.NoError(t, err)
		assert.InEpsilon(t, mix, a.CleanerL+a.WaterL, 1e-9)
		b, err := method.Mix(method.MixInput{Share: &a.Share, CleanerL: &a.CleanerL})
		require.NoError(t, err)
		assert.InEpsilon(t, mix, b.MixL, 1e-9)
		c, err := method.Mix(method.MixInput{Share: &a.Share, WaterL: &a.WaterL})
		require.NoError(t, err)
		assert.InEpsilon(t, mix, c.MixL, 1e-6)
		assert.Less(t, a.OzPerGallonMix, a.OzPerGallonW, "a gallon of water takes more cleaner than a gallon of mix")
	})
}

func TestMixRefuses(t *testing.T) {
	t.Parallel()
	one := 1.0
	for why, in := range map[string]method.MixInput{
		"either parts":       {MixL: &one},
		"between 0 and 1000": {WaterParts: ptr(-1.0), MixL: &one},
		"above 0 and at":     {Share: ptr(1.5), MixL: &one},
		"one volume":         {WaterParts: &one, MixL: &one, WaterL: &one},
		"at most 10000 L":    {WaterParts: &one, MixL: ptr(math.Inf(1))},
		"holds no water":     {WaterParts: ptr(0.0), WaterL: &one},
		"below 0":            {WaterParts: &one, MixL: &one, TankL: -1},
	} {
		_, err := method.Mix(in)
		assert.ErrorContains(t, err, why)
	}
}

func TestDoses(t *testing.T) {
	t.Parallel()
	m2, assumed := method.Face(0, 10)
	assert.True(t, assumed)
	assert.InDelta(t, 1.2, m2, 1e-9)
	assert.InDelta(t, 2*method.MixFor(1, 1, soil.Coat, 1), method.MixFor(1, 2, soil.Coat, 1), 1e-9, "two slabs take twice")
	assert.Greater(t, method.MixFor(1, 1, soil.Blocked, 1), method.MixFor(1, 1, soil.Film, 1))

	f, n := method.DoseFactor([]float64{3, 3, 3}, []float64{1, 1, 0})
	assert.Equal(t, 2, n)
	assert.InDelta(t, math.Pow(3, 2.0/5), f, 1e-9, "two doses of three times the plan, against a weight of three")
	none, _ := method.DoseFactor(nil, nil)
	assert.InDelta(t, 1, none, 1e-12)

	v := method.Variances([]method.Dose{{"Tern", 1, 1.1, 8}, {"Gannet", 1, 3, 8}, {"Gannet", 2, 6, 8}})
	require.Len(t, v, 2)
	assert.InDelta(t, 3, v[1].Ratio, 1e-9)
	assert.InDelta(t, 48, v[1].Money, 1e-9)
	assert.InDelta(t, .7, method.Used(1, .2, .5), 1e-9)
	assert.Zero(t, method.Used(1, 0, 2))
}

func ExampleMix() {
	parts, mix := 4.0, 5.0
	out, _ := method.Mix(method.MixInput{WaterParts: &parts, MixL: &mix})
	fmt.Printf("%.0f mL of cleaner in %.0f L of water\n", 1000*out.CleanerL, out.WaterL)
	// Output: 1000 mL of cleaner in 4 L of water
}
