package defaults_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/method"
	"nextround/core/soil"
	"nextround/internal/defaults"
)

func TestClassesAreComplete(t *testing.T) {
	t.Parallel()
	codes, names := map[string]bool{}, map[string]bool{}
	for _, c := range defaults.Classes {
		assert.False(t, codes[c.Code], "%s is given twice", c.Code)
		assert.False(t, names[c.Name], "%s is given twice", c.Name)
		codes[c.Code], names[c.Name] = true, true
		assert.Greater(t, c.ReferenceDays, 0.0, c.Code)
		assert.GreaterOrEqual(t, c.MaxDays, c.DeepDays, c.Code)
		assert.LessOrEqual(t, c.MaxDays, max(2*c.DeepDays, 365), c.Code)
		if c.LightDays > 0 {
			assert.Less(t, c.LightDays, c.DeepDays, c.Code)
		}
		assert.Less(t, c.LightMinutes, c.DeepMinutes, c.Code)
		_, ok := soil.KindByCode(c.Soil)
		assert.True(t, ok, "%s: soil %q", c.Code, c.Soil)
		assert.NotEmpty(t, c.Evidence, c.Code)

		area, sides := map[string]float64{}, map[string]bool{}
		for _, s := range c.Sides {
			area[s.Role] += s.Area
			assert.False(t, sides[s.Role+s.Name], "%s: %s is given twice", c.Code, s.Name)
			sides[s.Role+s.Name] = true
		}
		require.NotEmpty(t, area, c.Code)
		for role, sum := range area {
			assert.InDelta(t, 1, sum, 1e-9, "%s %s: the sides are the whole face", c.Code, role)
		}
	}
	assert.Len(t, defaults.Classes, 13)
}

// Reference days and clocks of the trade (reference days: assumption; clocks: common practice or assumption).
func TestClassFigures(t *testing.T) {
	t.Parallel()
	want := map[string][4]float64{ // T30, light, deep, maximum
		"undercounter_cooler": {91, 0, 91, 182}, "display_cooler": {45, 30, 182, 364}, "reach_in": {182, 0, 182, 365},
		"outdoor_condensing": {365, 30, 365, 730}, "packaged_unit": {365, 0, 365, 730}, "wall_unit": {365, 0, 365, 730},
		"cassette": {365, 0, 365, 730}, "ceiling_room_cooler": {182, 0, 182, 364}, "through_wall": {182, 0, 182, 364},
		"air_handler": {365, 0, 365, 730}, "remote_condenser": {182, 91, 365, 730}, "unit_cooler": {365, 0, 182, 364},
		"ice_machine": {60, 30, 182, 364},
	}
	for _, c := range defaults.Classes {
		got := [4]float64{c.ReferenceDays, float64(c.LightDays), float64(c.DeepDays), float64(c.MaxDays)}
		assert.Equal(t, want[c.Code], got, c.Code)
	}
}

// Multipliers of the trade (common practice, no source).
func TestFactorFigures(t *testing.T) {
	t.Parallel()
	want := map[string]float64{
		"greasy_cooking": 4, "animals": 4, "foot_traffic": 4, "lint": 2, "mowing": 1.5, "seed_fluff": 2, "leaf_fall": 2,
		"construction_dust": 3, "sand": 1.5, "salt_air": 1.3, "built_in": 1.3, "trap_panels": 1.3, "climbing_plants": 1.5,
	}
	require.Len(t, defaults.Factors, len(want))
	for _, f := range defaults.Factors {
		assert.Equal(t, want[f.Code], f.Multiplier, f.Code)
		if f.Soil != "" {
			k, ok := soil.KindByCode(f.Soil)
			require.True(t, ok, f.Code)
			assert.False(t, f.Seasonal && k.Months == soil.Even, "%s: a season without months", f.Code)
		}
	}
}

func TestStrongCleanersSayWhereTheyMayNotGo(t *testing.T) {
	t.Parallel()
	for _, c := range method.StandardCleaners {
		assert.NotEmpty(t, c.Caution, c.Code)
		if c.Code == "heavy_alkaline" || c.Code == "extra_heavy_alkaline" {
			for _, word := range []string{"never microchannel", "never indoors", "rinse skin at once"} {
				assert.Contains(t, c.Caution, word, c.Code)
			}
		}
		if c.Form == method.Aerosol {
			assert.Contains(t, c.Caution, "No ignition source", c.Code)
		}
	}
}

func TestCautionsCoverTheUsualDangers(t *testing.T) {
	t.Parallel()
	all := ""
	for _, c := range defaults.Cautions {
		all += c + "\n"
	}
	for _, word := range []string{
		"Tell the people", "Isolate", "Lock or tag", "Discharge the capacitors", "prove it dead", "Gloves", "nests", "Two people", "ladder", "roof edge",
		"Never mix", "ignition source", "pressure washer", "4 °C", "Catch rinse water", "5 °C / 41 °F", "Count tools", "dry before power",
	} {
		assert.Contains(t, all, word)
	}
	for _, word := range []string{"Local codes", "maker's manual", "safety data sheet", "licensed practice"} {
		assert.Contains(t, defaults.Deferral, word)
	}
}
