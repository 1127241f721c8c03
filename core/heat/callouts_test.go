package heat_test

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/heat"
)

// R's qgamma on the same counts; its version stands in the file. make check-outside runs it again.
func TestCallFactorAsInR(t *testing.T) {
	t.Parallel()
	raw, err := os.ReadFile("testdata/call_factor.json")
	require.NoError(t, err)
	var r struct {
		Versions map[string]string `json:"versions"`
		Factors  []struct {
			Seen                     int
			Expected, Mean, P10, P90 float64
		} `json:"factors"`
	}
	require.NoError(t, json.Unmarshal(raw, &r))
	require.NotEmpty(t, r.Versions["R"])
	require.NotEmpty(t, r.Factors)
	for _, x := range r.Factors {
		f, err := heat.CallFactor(heat.CallLog{Seen: x.Seen, Expected: x.Expected})
		require.NoError(t, err)
		assert.InEpsilon(t, x.Mean, f.Mean, 1e-9)
		assert.InEpsilon(t, x.P10, f.P10, 1e-6)
		assert.InEpsilon(t, x.P90, f.P90, 1e-6)
	}
}

func TestCallFactorLearns(t *testing.T) {
	t.Parallel()
	none, err := heat.CallFactor(heat.CallLog{})
	require.NoError(t, err)
	assert.InDelta(t, 1, none.Mean, 1e-12)
	assert.InDelta(t, 1, none.Assumed, 1e-12, "nothing was seen")
	long, err := heat.CallFactor(heat.CallLog{Seen: 50, Expected: 100})
	require.NoError(t, err)
	assert.InDelta(t, .51, long.Mean, .005)
	assert.Less(t, long.Assumed, .02)
	_, err = heat.CallFactor(heat.CallLog{Seen: -1, Expected: math.NaN()})
	assert.ErrorContains(t, err, "seen")
	assert.ErrorContains(t, err, "expected")
}

func ExampleCallFactor() {
	for _, seen := range []int{0, 3} {
		f, _ := heat.CallFactor(heat.CallLog{Seen: seen, Expected: 6.3})
		fmt.Printf("%d seen where 6.3 were expected: × %.2f\n", seen, f.Mean)
	}
	// Output:
	// 0 seen where 6.3 were expected: × 0.24
	// 3 seen where 6.3 were expected: × 0.60
}

// Pairs drawn about a true factor find it; those that were to fall by little move it little.
func TestRiseFactorFindsTheTruth(t *testing.T) {
	t.Parallel()
	var pairs []heat.RisePair
	for i := range 40 {
		predicted := 2 + float64(i%8)
		pairs = append(pairs, heat.RisePair{PredictedK: predicted, FellK: .6*predicted + []float64{-.4, .4}[i%2]})
	}
	f, err := heat.RiseFactor(pairs)
	require.NoError(t, err)
	assert.InDelta(t, .6, f.Mean, .04)
	assert.Less(t, f.Assumed, .05)
	assert.Less(t, f.P10, f.Mean)
	assert.Less(t, f.Mean, f.P90)
	little, err := heat.RiseFactor([]heat.RisePair{{PredictedK: .5, FellK: 1.5}})
	require.NoError(t, err)
	strong, err := heat.RiseFactor([]heat.RisePair{{PredictedK: 5, FellK: 15}})
	require.NoError(t, err)
	assert.Less(t, little.Mean, 1.1)
	assert.Greater(t, strong.Mean, 2.)
	none, err := heat.RiseFactor(nil)
	require.NoError(t, err)
	assert.InDelta(t, 1, none.Mean, 1e-12)
	assert.InDelta(t, math.Exp(.5*1.2815515655), none.P90, 1e-6)
	_, err = heat.RiseFactor([]heat.RisePair{{PredictedK: 1, FellK: 1}, {PredictedK: 0, FellK: 1}, {PredictedK: 1, FellK: math.Inf(1)}})
	assert.ErrorContains(t, err, "pairs[1].predicted_k")
	assert.ErrorContains(t, err, "pairs[2].fell_k")
}

func ExampleRiseFactor() {
	f, _ := heat.RiseFactor([]heat.RisePair{{PredictedK: 4, FellK: 2}, {PredictedK: 6, FellK: 3.5}})
	fmt.Printf("soil lifts the condensing temperature %.2f times as far as taken, %.0f %% of that is assumed\n", f.Mean, 100*f.Assumed)
	// Output: soil lifts the condensing temperature 0.61 times as far as taken, 17 % of that is assumed
}

func evaporator(drive heat.Drive) heat.Economics {
	return heat.Economics{Side: heat.Evaporator, Fan: heat.Fan{CoilShare: .5, Steepness: .3, Drive: drive}, CleanK: 18, EnergyDay: 6, FanDay: 1}
}

// A controller that holds the flow pays in the fan what a fan of one speed pays in the compressor (identity: pressure at the same flow).
func TestAHeldFlowPaysInTheFan(t *testing.T) {
	t.Parallel()
	load := -math.Log(1 - .3)
	held := evaporator(heat.HeldFlow).At(load)
	assert.InDelta(t, 1.52, held.FanPower, .005, "half of the pressure is the coil's: .5 + .5/.7²")
	assert.InDelta(t, 1, held.Airflow, 1e-12)
	assert.InDelta(t, 0, held.RiseK, 1e-9)
	assert.InDelta(t, held.FanPower-1, held.EnergyDay, 1e-9)
	falls := evaporator("").At(load)
	assert.InDelta(t, 1, falls.FanPower, 0)
	assert.Less(t, falls.Airflow, 1.)
	assert.Positive(t, falls.EnergyDay)
	assert.Less(t, falls.Capacity, 1.)
	end := evaporator(heat.HeldFlow).At(2)
	assert.Less(t, end.Airflow, 1., "twice the pressure is all it has")
	assert.InDelta(t, 2, end.FanPower, 1e-12)
}

// A quarter of the hours at full load, a quarter of the energy; a water coil has no compressor.
func TestHoursAndDrivesScaleTheEnergy(t *testing.T) {
	t.Parallel()
	e := heat.Economics{Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: 14, EnergyDay: 8}
	all := e.At(.7).EnergyDay
	e.FullLoadShare = .25
	assert.InDelta(t, all/4, e.At(.7).EnergyDay, 1e-9)
	e.HoursShare = .5
	assert.InDelta(t, all/8, e.At(.7).EnergyDay, 1e-9)
	w := heat.Economics{Side: heat.WaterCoil, Fan: heat.DuctedFan, CleanK: 8, EnergyDay: 8}
	assert.Zero(t, w.At(.7).EnergyDay)
	assert.Less(t, w.At(.7).Capacity, 1.)
	assert.Positive(t, w.At(.7).RiseK)
	assert.ErrorContains(t, heat.Economics{Side: "roof", Fan: heat.Fan{Drive: "x"}}.Check(), "fan.drive")
}

// Call-outs never come to more than a new unit, and a factor on the rise runs through to energy, call-outs and the load that a reading
// speaks for.
func TestCallOutsAreBoundedByANewUnit(t *testing.T) {
	t.Parallel()
	e := heat.Economics{Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: 12, EnergyDay: 1, CallCost: 500}
	free := e.At(2.5)
	assert.False(t, free.Bounded)
	assert.Greater(t, free.CallsDay*365, 5000.)
	e.ReplaceCost = 1500
	bound := e.At(2.5)
	assert.True(t, bound.Bounded)
	assert.InDelta(t, 1500, bound.CallsDay*365, 1e-6)
	assert.InDelta(t, free.CallsYear, bound.CallsYear, 1e-12, "how many stays")
	e.CallsFactor = .24
	assert.InDelta(t, .24*free.CallsYear, e.At(2.5).CallsYear, 1e-9)
}

func TestTheRiseFactorRunsThrough(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		e := heat.Economics{Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: 14, EnergyDay: 8, CallCost: 450}
		load, times := rapid.Float64Range(.05, 1.5).Draw(t, "load"), rapid.Float64Range(.2, 1).Draw(t, "times")
		plain := e.At(load)
		e.RiseFactor = times
		less := e.At(load)
		assert.InDelta(t, times*plain.RiseK, less.RiseK, 1e-9)
		assert.LessOrEqual(t, less.EnergyDay, plain.EnergyDay)
		assert.LessOrEqual(t, less.CallsDay, plain.CallsDay)
		back, ok := e.LoadFromRise(less.RiseK)
		assert.True(t, ok)
		assert.InDelta(t, load, back, 1e-6)
	})
}
