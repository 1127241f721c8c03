package heat_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/heat"
	"nextround/core/soil"
)

func condenser() heat.Economics {
	return heat.Economics{
		Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: heat.CleanCondenser, EnergyDay: 10, CallCost: 365, CallsYear: new(.15), CallsSlope: .14,
	}
}

// The model's own figures at 30, 50 and 75 % blocked.
func TestRunningCostOfACondenser(t *testing.T) {
	t.Parallel()
	for blocked, want := range map[float64][2]float64{.30: {1.397, 1.0431}, .50: {3.608, 1.1152}, .75: {12.64, 1.465}} {
		c := condenser().At(soil.Load(blocked))
		assert.InDelta(t, want[0], c.RiseK, 5e-3, "%g", blocked)
		assert.InDelta(t, want[1], c.Factor, 5e-4, "%g", blocked)
		assert.InDelta(t, 10*(c.Factor-1), c.EnergyDay, 1e-12)
		assert.InDelta(t, .15*(math.Exp(.14*c.RiseK)-1), c.CallsYear, 1e-12)
		assert.InDelta(t, c.CallsYear, c.CallsDay, 1e-12, "a call at 365 is one a day for each a year")
	}
}

func TestBoundsOfRunningCost(t *testing.T) {
	t.Parallel()
	e := condenser()
	e.RunningShare = .9
	assert.InDelta(t, 1/.9, e.At(3).Factor, 1e-12, "a compressor cannot run more than all day")
	e.HoursShare = .25
	assert.InDelta(t, 10*.25*(1/.9-1), e.At(3).EnergyDay, 1e-12)
	assert.Equal(t, heat.MostCallsYear, e.At(3).CallsYear)
	assert.Equal(t, e.At(3), e.At(99), "beyond load 3 nothing changes")
	evaporator := heat.Economics{Side: heat.Evaporator, Fan: heat.DuctedFan, CleanK: heat.CleanAirCooler, EnergyDay: 10}
	assert.True(t, evaporator.At(3).Icing)
	assert.False(t, evaporator.At(.3).Icing)
	assert.InDelta(t, .576, evaporator.At(soil.Load(.60)).Airflow, 5e-4)
	d := evaporator.At(soil.Load(.40))
	assert.InDelta(t, math.Pow(.97, -d.RiseK), d.Factor, 1e-12)
}

// The table is as good as the function, to a hundredth where the cost has a corner.
func TestCostTable(t *testing.T) {
	t.Parallel()
	for _, e := range []heat.Economics{condenser(), {Side: heat.Evaporator, Fan: heat.DuctedFan, CleanK: heat.CleanColdRoom, EnergyDay: 4, CallCost: 200}} {
		table := e.Table()
		for load := 0.0; load < 3.2; load += .0037 {
			want := e.At(load).Day()
			assert.InDelta(t, want, table.Day(load), 1e-2*math.Max(.05, want), "load %g", load)
		}
		assert.Equal(t, table.Day(0), table.Day(math.NaN()))
		assert.Equal(t, table.Day(3), table.Day(math.Inf(1)))
	}
}

// More soil never costs less, and what a rise stands for is found again.
func TestRunningCostLaws(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		e := heat.Economics{
			Side: rapid.SampledFrom([]heat.Side{heat.Condenser, heat.Evaporator}).Draw(t, "side"), CleanK: rapid.Float64Range(4, 30).Draw(t, "clean"),
			Fan:       heat.Fan{CoilShare: rapid.Float64Range(.1, 1).Draw(t, "share"), Steepness: rapid.Float64Range(0, 3).Draw(t, "steepness")},
			EnergyDay: rapid.Float64Range(0, 100).Draw(t, "energy"), CallCost: rapid.Float64Range(0, 2000).Draw(t, "call"),
			RunningShare: rapid.Float64Range(.05, 1).Draw(t, "running"),
		}
		require.NoError(t, e.Check())
		less, more := rapid.Float64Range(0, 4).Draw(t, "load"), rapid.Float64Range(0, 4).Draw(t, "load")
		if less > more {
			less, more = more, less
		}
		assert.LessOrEqual(t, e.At(less).Day(), e.At(more).Day()+1e-9)
		assert.GreaterOrEqual(t, e.At(less).Airflow, e.At(more).Airflow)
		if less < 2.9 {
			found, ok := e.LoadFromRise(e.At(less).RiseK)
			assert.True(t, ok)
			if e.At(less).Airflow > .051 {
				assert.InDelta(t, less, found, 1e-6)
			}
		}
	})
	_, ok := condenser().LoadFromRise(500)
	assert.False(t, ok)
	none, ok := condenser().LoadFromRise(-2)
	assert.True(t, ok)
	assert.Zero(t, none)
}

func TestEconomicsNamesItsFields(t *testing.T) {
	t.Parallel()
	err := heat.Economics{Side: "roof", CleanK: -1, HoursShare: 2, RunningShare: -1, EnergyDay: math.NaN(), CallCost: -1, CallsYear: new(99.), CallsSlope: 9, Fan: heat.Fan{Steepness: -1}}.Check()
	for _, field := range []string{"side", "clean_k", "hours_share", "running_share", "energy_day", "call_cost", "calls_year", "calls_slope", "fan.coil_share", "fan.steepness"} {
		assert.ErrorContains(t, err, field+":")
	}
}

// Call-outs drawn from a known rate are found again; R's glm gives the same on the same counts (make check-outside).
func TestCallOutsAreRefitted(t *testing.T) {
	t.Parallel()
	rng := rand.New(rand.NewPCG(3, 5))
	var all []heat.Exposure
	for range 400 {
		x := heat.Exposure{Years: 1 + 3*rng.Float64(), RiseK: 15 * rng.Float64()}
		for waited := rng.ExpFloat64(); waited < x.Years*.2*math.Exp(.12*x.RiseK); waited += rng.ExpFloat64() {
			x.CallOuts++
		}
		all = append(all, x)
	}
	fit, err := heat.FitCallOuts(all)
	require.NoError(t, err)
	assert.True(t, fit.Own)
	assert.InDelta(t, .2, fit.CallsYear, .03)
	assert.InDelta(t, .12, fit.Slope, .015)
	few, err := heat.FitCallOuts(all[:3])
	require.NoError(t, err)
	assert.False(t, few.Own)
	assert.Equal(t, heat.StartCallsYear, few.CallsYear)
	for i := range all {
		all[i].RiseK = 15 - all[i].RiseK
	}
	falling, err := heat.FitCallOuts(all)
	require.NoError(t, err)
	assert.Zero(t, falling.Slope, "more soil is never taken to mean fewer call-outs")
	_, err = heat.FitCallOuts([]heat.Exposure{{Years: -1, RiseK: 200, CallOuts: -1}})
	for _, field := range []string{"years", "rise_k", "call_outs"} {
		assert.ErrorContains(t, err, "exposures[0]."+field+":")
	}
}

func ExampleEconomics_At() {
	e := heat.Economics{Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: heat.CleanCondenser, EnergyDay: 8.22, CallCost: 450}
	c := e.At(soil.Load(.50))
	fmt.Printf("%.1f K more, %.2f a day in energy, %.2f in call-outs\n", c.RiseK, c.EnergyDay, c.CallsDay)
	// Output: 3.6 K more, 0.95 a day in energy, 0.12 in call-outs
}

// Wheel and filter cost airflow beside the coil: nothing while they are clean, more with each, and never all of it.
func TestWheelAndFilterCostAirflow(t *testing.T) {
	t.Parallel()
	assert.Zero(t, heat.OtherShare(0, 0))
	assert.InDelta(t, .24, heat.OtherShare(.3, 0), 1e-9)
	assert.InDelta(t, 1-.76*.75, heat.OtherShare(.3, .5), 1e-9)
	assert.InDelta(t, .9, heat.OtherShare(7, 1), 1e-9)
	e := heat.Economics{Side: heat.Evaporator, Fan: heat.DuctedFan, CleanK: heat.CleanAirCooler, EnergyDay: 5, CallCost: 300}
	clean := e.At(.2)
	e.OtherShare = heat.OtherShare(.3, 0)
	assert.Less(t, e.At(.2).Airflow, clean.Airflow)
	assert.Greater(t, e.At(.2).Day(), clean.Day())
	assert.Greater(t, e.At(0).Day(), 0.0, "a fouled wheel behind a clean coil costs")
	e.OtherShare = 1
	assert.ErrorContains(t, e.Check(), "other_share")
}
