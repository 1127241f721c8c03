package heat_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/heat"
)

const psi = 6.894757293168 // kPa, NIST Handbook 44, from memory

func fluid(t require.TestingT, code string) heat.Refrigerant {
	r, ok := heat.RefrigerantByCode(code)
	require.True(t, ok, code)
	return r
}

// Normal boiling points, °C, as published with the equations of state (from memory).
func TestNormalBoilingPoints(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		code        string
		bubble, dew float64
	}{
		{"R-134a", -26.07, -26.07},
		{"R-22", -40.81, -40.81},
		{"R-290", -42.11, -42.11},
		{"R-32", -51.65, -51.65},
		{"R-410A", -51.44, math.NaN()},
		{"R-404A", -46.22, math.NaN()},
		{"R-407C", -43.63, -36.63},
		{"R-507A", -46.74, math.NaN()},
		{"R-600a", -11.75, -11.75},
	} {
		s, err := fluid(t, c.code).SaturationAt(heat.StandardPressure)
		require.NoError(t, err, c.code)
		assert.InDelta(t, c.bubble, s.BubbleC, .04, c.code)
		if !math.IsNaN(c.dew) {
			assert.InDelta(t, c.dew, s.DewC, .04, c.code)
		}
	}
}

// Figures of pressure–temperature charts in psig (from memory).
func TestChartPressures(t *testing.T) {
	t.Parallel()
	fahrenheit := func(f float64) float64 { return (f - 32) / 1.8 }
	gauge := func(kpa float64) float64 { return (kpa - heat.StandardPressure) / psi }
	b, d := fluid(t, "R-410A").PressureAt(fahrenheit(100))
	assert.InDelta(t, 318.5, gauge(b), .5)
	assert.InDelta(t, 317.6, gauge(d), .7)
	b, _ = fluid(t, "R-134a").PressureAt(fahrenheit(100))
	assert.InDelta(t, 124.1, gauge(b), .2)
	b, _ = fluid(t, "R-22").PressureAt(fahrenheit(40))
	assert.InDelta(t, 68.5, gauge(b), .2)
}

func TestCarbonDioxideAtItsEnds(t *testing.T) {
	t.Parallel()
	r := fluid(t, "R744")
	b, _ := r.PressureAt(216.592 - 273.15)
	assert.InDelta(t, 518, b, 1, "triple point, Span and Wagner 1996, from memory")
	_, err := r.SaturationAt(9000)
	assert.ErrorContains(t, err, "critical point")
	_, err = r.SaturationAt(300)
	assert.ErrorContains(t, err, "below")
}

// R-410A boils at about 2,418 kPa at 40 °C and 1,085 kPa at 10 °C, absolute (common tables, from memory).
func TestAPairOfGauges(t *testing.T) {
	t.Parallel()
	at := func(kpa float64) heat.Saturation {
		out, err := heat.Saturate(heat.SaturationInput{Refrigerant: "r410a", GaugeKpa: ptr(kpa - heat.StandardPressure)})
		require.NoError(t, err)
		return out.Saturation
	}
	assert.InDelta(t, 40, at(2418).MidC, .6)
	assert.InDelta(t, 10, at(1085).DewC, .8)
}

func TestAirPressure(t *testing.T) {
	t.Parallel()
	assert.InDelta(t, 101.325, heat.AirPressure(0), 1e-9)
	assert.InDelta(t, 89.875, heat.AirPressure(1000), .01, "ICAO standard atmosphere, from memory")
	assert.Equal(t, heat.AirPressure(11000), heat.AirPressure(20000))
}

func TestSaturationLaws(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		r := rapid.SampledFrom(heat.Refrigerants).Draw(t, "refrigerant")
		share := rapid.Float64Range(.001, .98).Draw(t, "share")
		p := r.Least + share*(r.Pc-r.Least)
		s, err := r.SaturationAt(p)
		require.NoError(t, err)
		b, _ := r.PressureAt(s.BubbleC)
		_, d := r.PressureAt(s.DewC)
		assert.InEpsilon(t, p, b, 1e-6, "bubble and back")
		assert.InEpsilon(t, p, d, 1e-6, "dew and back")
		assert.LessOrEqual(t, s.BubbleC, s.DewC+.35, "a mixture starts to boil before it is all vapour")
		more, err := r.SaturationAt(p * 1.001)
		if err == nil {
			assert.Greater(t, more.MidC, s.MidC, "more pressure, warmer")
		}
	})
}

func TestImportedTable(t *testing.T) {
	t.Parallel()
	r := fluid(t, "R-290")
	var table []heat.TablePoint
	for c := -30.0; c <= 60; c += 5 {
		b, d := r.PressureAt(c)
		table = append(table, heat.TablePoint{Celsius: c, BubbleKpa: b, DewKpa: d})
	}
	out, err := heat.Saturate(heat.SaturationInput{Refrigerant: "X-1", AbsoluteKpa: ptr(700.0), Table: table})
	require.NoError(t, err)
	own, err := r.SaturationAt(700)
	require.NoError(t, err)
	assert.InDelta(t, own.MidC, out.MidC, .02)
	assert.Equal(t, "imported table", out.Source)
	_, err = heat.Saturate(heat.SaturationInput{Refrigerant: "X-1", AbsoluteKpa: ptr(7000.0), Table: table})
	assert.ErrorContains(t, err, "outside the imported table")
	table[3].BubbleKpa = 1
	assert.ErrorContains(t, heat.CheckTable(table), "row 4")
	assert.ErrorContains(t, heat.CheckTable(table[:1]), "two rows")
}

func TestSaturateRefuses(t *testing.T) {
	t.Parallel()
	for why, in := range map[string]heat.SaturationInput{
		"not known":          {Refrigerant: "R-999", GaugeKpa: ptr(100.0)},
		"either the gauge":   {Refrigerant: "R-22"},
		"critical point":     {Refrigerant: "R-22", GaugeKpa: ptr(6000.0)},
		"below what R-22":    {Refrigerant: "R-22", AbsoluteKpa: ptr(1.0)},
		"is no number":       {Refrigerant: "R-22", AbsoluteKpa: ptr(math.NaN())},
		"give either the ga": {Refrigerant: "R-22", AbsoluteKpa: ptr(1.0), GaugeKpa: ptr(1.0)},
	} {
		_, err := heat.Saturate(in)
		assert.ErrorContains(t, err, why)
	}
}

func ExampleRefrigerant_SaturationAt() {
	r, _ := heat.RefrigerantByCode("R-134a")
	s, _ := r.SaturationAt(1017)
	fmt.Printf("%.1f °C\n", s.MidC)
	// Output: 40.0 °C
}

func ptr[T any](v T) *T { return &v }
