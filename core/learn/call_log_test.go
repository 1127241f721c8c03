package learn_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/learn"
	"nextround/core/soil"
)

// brushed is a cooler brushed every 30 days for two years behind whose clean face the core may fill.
func brushed() soil.History {
	start := calendar.MustParse("2024-01-01")
	h := soil.History{
		Start:      soil.Start{Quality: soil.StartExact, Day: start},
		Conditions: []soil.Condition{{From: start, Rate: .2, Penetration: .45, FanShare: 1, Months: soil.Even}},
		Until:      start.Add(730),
	}
	for day := 30; day <= 720; day += 30 {
		h.Visits = append(h.Visits, soil.Visit{
			Day: start.Add(day), Found: &soil.Finding{Grade: soil.Coat, Seen: soil.FaceLook},
			Cleans: []soil.Removal{{Face: .85, Core: .05}}, Left: &soil.Finding{Grade: soil.Bare, Seen: soil.FaceLook},
		})
	}
	return h
}

func cooler() heat.Economics {
	return heat.Economics{Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: 12, EnergyDay: 1, CallCost: 400}
}

func heard(t *testing.T, h soil.History, log *learn.CallLog) learn.Rate {
	t.Helper()
	r, err := learn.Learn(learn.Question{History: h, CallLog: log})
	require.NoError(t, err)
	return r
}

// Two years without a call-out speak for less soil; a log that is not complete, or a factor of hardly any call-outs, for nothing.
func TestQuietSpeaksForLessSoil(t *testing.T) {
	t.Parallel()
	h := brushed()
	all := []learn.LogSpan{{From: h.Start.Day, To: h.Until}}
	plain := heard(t, h, nil)
	quiet := heard(t, h, &learn.CallLog{Complete: all, Economics: cooler()})
	require.NotNil(t, quiet.Calls)
	assert.Nil(t, plain.Calls)
	assert.Less(t, quiet.State.Core, plain.State.Core-.1)
	assert.Less(t, quiet.Calls.Quiet, quiet.Calls.Unheard)
	assert.InDelta(t, plain.State.Total(), quiet.Calls.LoadUnheard, .12, "on the grid of what is thought with it")
	assert.Equal(t, 730, quiet.Calls.LoggedDays)
	assert.Equal(t, 730, quiet.Calls.QuietDays)
	assert.InDelta(t, quiet.Calls.Quiet, quiet.Calls.Expected, 1e-9)

	half := heard(t, h, &learn.CallLog{Complete: []learn.LogSpan{{From: h.Start.Day.Add(365), To: h.Until.Add(30)}}, Economics: cooler()})
	assert.Equal(t, 365, half.Calls.LoggedDays, "up to today")
	assert.Less(t, quiet.State.Core, half.State.Core+1e-9)

	rare := cooler()
	rare.CallsFactor = .01
	hardly := heard(t, h, &learn.CallLog{Complete: all, Economics: rare})
	assert.InDelta(t, plain.State.Core, hardly.State.Core, .1)
}

// The time between the visits around a call-out says nothing; the rest does. Sides share what the log says.
func TestACallOutBreaksTheQuiet(t *testing.T) {
	t.Parallel()
	h := brushed()
	all := []learn.LogSpan{{From: h.Start.Day, To: h.Until}}
	quiet := heard(t, h, &learn.CallLog{Complete: all, Economics: cooler()})
	tripped := heard(t, h, &learn.CallLog{Complete: all, Economics: cooler(), Tripped: []calendar.Day{h.Start.Day.Add(601), h.Start.Day.Add(700)}})
	assert.Equal(t, 730, tripped.Calls.LoggedDays)
	assert.Equal(t, 730-60, tripped.Calls.QuietDays)
	assert.Greater(t, tripped.Calls.Expected, tripped.Calls.Quiet)
	assert.Greater(t, tripped.State.Core, quiet.State.Core)
	onTheDay := heard(t, h, &learn.CallLog{Complete: all, Economics: cooler(), Tripped: []calendar.Day{h.Start.Day.Add(600)}})
	assert.Equal(t, 730-30, onTheDay.Calls.QuietDays, "one that a visit answered the same day ends the time before it")
	shared := heard(t, h, &learn.CallLog{Complete: all, Economics: cooler(), AreaShare: .25})
	assert.Greater(t, shared.State.Core, quiet.State.Core)
}

// What was expected is the integral of the call-outs a day over the soil that was there: here known exactly.
func TestExpectedCallOutsAreTheIntegral(t *testing.T) {
	t.Parallel()
	start := calendar.MustParse("2024-01-01")
	h := soil.History{
		Start:      soil.Start{Quality: soil.StartExact, Day: start},
		Conditions: []soil.Condition{{From: start, Rate: .06, Penetration: .3, FanShare: 1, Months: soil.Even}}, Until: start.Add(400),
	}
	narrow := &learn.Normal{Mean: 0, Variance: 1e-8}
	r, err := learn.Learn(learn.Question{History: h, Prior: narrow, CallLog: &learn.CallLog{Complete: []learn.LogSpan{{From: start.Add(100), To: start.Add(300)}}, Economics: cooler()}})
	require.NoError(t, err)
	want := 0.0
	for day := 100; day < 300; day++ {
		want += cooler().At(.06*(float64(day)+.5)/30).CallsYear / 365
	}
	assert.InEpsilon(t, want, r.Calls.Expected, .002)
	assert.InDelta(t, r.Calls.Unheard, r.Calls.Quiet, 1e-6, "nothing is left to learn")
}

// With nothing but quiet the belief is the one beforehand times exp(−∫h): here integrated another way.
func TestQuietWeighsByTheExpectedCallOuts(t *testing.T) {
	t.Parallel()
	start := calendar.MustParse("2024-01-01")
	h := soil.History{
		Start:      soil.Start{Quality: soil.StartExact, Day: start},
		Conditions: []soil.Condition{{From: start, Rate: .09, Penetration: .3, FanShare: 1, Months: soil.Even}}, Until: start.Add(500),
	}
	r := heard(t, h, &learn.CallLog{Complete: []learn.LogSpan{{From: start, To: h.Until}}, Economics: cooler()})
	sum, weights := 0.0, 0.0
	for x := -3.0; x <= 3; x += .01 {
		expected := 0.0
		for day := 0.; day < 500; day += 5 {
			expected += 5 * cooler().At(.09*math.Exp(x)*(day+2.5)/30).CallsYear / 365
		}
		w := math.Exp(-x*x/(2*learn.TradeVariance) - expected)
		sum, weights = sum+w*x, weights+w
	}
	assert.InDelta(t, sum/weights, r.MeanLog-math.Log(.09), .01)
	assert.Less(t, r.MeanLog-math.Log(.09), -.2, "and that is a good deal")
}

// Thirty quiet years of a coil that class and factors take to be filthy still leave a belief.
func TestManyQuietYearsLeaveABelief(t *testing.T) {
	t.Parallel()
	start := calendar.MustParse("1996-01-01")
	h := soil.History{
		Start:      soil.Start{Quality: soil.StartExact, Day: start},
		Conditions: []soil.Condition{{From: start, Rate: 3, Penetration: .3, FanShare: 1, Months: soil.Even}}, Until: start.Add(11000),
	}
	busy := cooler()
	busy.CallsFactor = 20
	r := heard(t, h, &learn.CallLog{Complete: []learn.LogSpan{{From: start, To: h.Until}}, Economics: busy})
	assert.False(t, math.IsNaN(r.MeanLog) || math.IsNaN(r.State.Total()))
	assert.Less(t, r.Rate.P50, .5)
}

func TestACallLogIsChecked(t *testing.T) {
	t.Parallel()
	h := brushed()
	_, err := learn.Learn(learn.Question{History: h, CallLog: &learn.CallLog{
		Complete:  []learn.LogSpan{{From: h.Until, To: h.Start.Day}, {From: h.Start.Day.Add(-9), To: h.Until}},
		AreaShare: math.NaN(), Economics: heat.Economics{Side: "x"},
	}})
	for _, field := range []string{"call_log.complete[0].to", "call_log.complete[1].from", "call_log.area_share", "call_log.economics.side"} {
		assert.ErrorContains(t, err, field)
	}
}
