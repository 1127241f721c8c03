package soil_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/soil"
)

// The start values of penetration (assumption), by code.
func TestPenetrations(t *testing.T) {
	t.Parallel()
	want := map[string]float64{
		"lint": .10, "dust": .30, "seed_fluff": .15, "leaf_grass": .15, "grease": .45, "sand": .35, "salt": .30,
		"insects": .10, "biofilm": .50, "mud": .80, "mixed": .30, "residue": .30,
	}
	require.Len(t, soil.Kinds, len(want))
	for code, p := range want {
		k, ok := soil.KindByCode(code)
		require.True(t, ok, code)
		assert.Equal(t, p, k.Penetration, code)
	}
	for _, code := range []string{"grease", "biofilm", "mud"} {
		k, _ := soil.KindByCode(code)
		assert.Equal(t, soil.GreaseLike, k.Family, code)
	}
	for _, code := range []string{"mixed", "residue"} {
		k, _ := soil.KindByCode(code)
		assert.Equal(t, soil.Mixed, k.Family, code)
	}
	_, ok := soil.KindByCode("snow")
	assert.False(t, ok)
}

// The start values of removal (assumption): face and core, dust-like and grease-like.
func TestRemovals(t *testing.T) {
	t.Parallel()
	want := map[string][4]float64{
		"wet_rag": {.70, .02, .40, .01}, "brush_vacuum": {.85, .05, .40, .02}, "long_brush": {.80, .20, .35, .05},
		"closed_hose_down": {.60, .10, .20, .02}, "gentle_air": {.70, .50, .20, .10}, "leaf_blower": {.65, .35, .15, .05},
		"aerosol_rinse": {.85, .50, .75, .45}, "tank_sprayer": {.90, .65, .85, .60}, "foam_rinse": {.95, .80, .93, .75},
		"soft_brush": {.70, .03, .30, .01}, "vacuum_narrow": {.65, .08, .15, .01}, "hose_rinse": {.80, .45, .30, .10},
		"pour_foam": {.93, .72, .90, .68}, "bagged_wash": {.92, .70, .88, .65}, "wall_washer": {.90, .70, .86, .64},
		"debris": {.20, 0, .10, 0}, "pre_rinse": {.30, .05, .10, 0}, "rinse": {.10, .02, .05, 0},
		"split_foam": {.96, .92, .94, .90}, "out_and_washed": {.97, .90, .94, .85},
	}
	require.Len(t, soil.Methods, len(want))
	for code, w := range want {
		m, ok := soil.MethodByCode(code)
		require.True(t, ok, code)
		dust, grease, mixed := m.Removal(soil.DustLike, soil.Against), m.Removal(soil.GreaseLike, soil.Against), m.Removal(soil.Mixed, soil.Against)
		assert.Equal(t, w, [4]float64{dust.Face, dust.Core, grease.Face, grease.Core}, code)
		assert.InDelta(t, (w[0]+w[2])/2, mixed.Face, 1e-12, code)
		assert.InDelta(t, (w[1]+w[3])/2, mixed.Core, 1e-12, code)
		assert.Zero(t, dust.Packing, code)
	}
	_, ok := soil.MethodByCode("pressure_washer")
	assert.False(t, ok, "never offered")
}

// Grease holds on harder than dust, and the face comes clean before the core, whatever the method.
func TestRemovalsAreOrdered(t *testing.T) {
	t.Parallel()
	for _, m := range soil.Methods {
		assert.GreaterOrEqual(t, m.Dust[0], m.Grease[0], m.Code)
		assert.GreaterOrEqual(t, m.Dust[1], m.Grease[1], m.Code)
		assert.GreaterOrEqual(t, m.Dust[0], m.Dust[1], m.Code)
		assert.GreaterOrEqual(t, m.Grease[0], m.Grease[1], m.Code)
	}
}

func TestWaysOfLookingAndDirections(t *testing.T) {
	t.Parallel()
	assert.True(t, soil.LightThrough.ShowsCore())
	assert.True(t, soil.WipedMoreBelow.ShowsCore())
	assert.False(t, soil.FaceLook.ShowsCore())
	assert.False(t, soil.Seen("dream").Valid())
	assert.True(t, soil.AlongFins.Valid())
	assert.False(t, soil.Direction("sideways").Valid())
}

// The middle of each band lies inside it, and bands meet without gap or overlap.
func TestBandsMeet(t *testing.T) {
	t.Parallel()
	for g := soil.Bare; g <= soil.Blocked; g++ {
		lo, hi := g.Band()
		assert.Less(t, lo, hi)
		assert.Equal(t, g, soil.GradeOf(soil.Share(g.MiddleLoad())))
		if g < soil.Blocked {
			next, _ := (g + 1).Band()
			assert.Equal(t, hi, next)
		}
		low, high := g.LoadBand()
		assert.Less(t, low, high)
	}
}

// Two sides of equal area, one bare and one half blocked, are a quarter blocked: shares add by area because the
// sides are parallel paths. A share of loads would not.
func TestSharesAddByAreaLoadsDoNot(t *testing.T) {
	t.Parallel()
	a, b := soil.State{}, soil.State{Face: soil.Load(.5)}
	assert.InDelta(t, .25, (a.Blocked()+b.Blocked())/2, 1e-12)
	assert.NotEqual(t, .25, soil.Share((a.Total()+b.Total())/2))
}
