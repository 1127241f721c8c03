package wording_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/heat"
	"nextround/internal/wording"
)

func ptr[T any](v T) *T { return &v }

// Every way a reading is judged has a sentence, which names the limit and what it rests on.
func TestEveryJudgementHasItsSentence(t *testing.T) {
	t.Parallel()
	r410 := heat.Context{Refrigerant: "R-410A", AmbientC: ptr(27.0), AirOnC: ptr(24.0)}
	held := r410
	held.HeadControl = true
	for _, c := range []struct {
		kind  heat.Kind
		value float64
		with  heat.Context
		says  string
	}{
		{heat.Capacitor, 29.4, heat.Context{Nameplate: ptr(30.0)}, "28.2 to 31.8 µF (the usual marking)"},
		{heat.Capacitor, 44.2, heat.Context{}, "Cannot judge without the nameplate or rated value."},
		{heat.ContactorCoil, 16, heat.Context{}, "13 to 19 Ω"},
		{heat.SupplyVolt, 230, heat.Context{Nameplate: ptr(230.0)}, "207 to 253 V"},
		{heat.MotorAmps, 9, heat.Context{Nameplate: ptr(12.0)}, "at most 12.0 A"},
		{heat.IsolationVolt, 0, heat.Context{}, "Nothing is there"},
		{heat.IsolationVolt, 230, heat.Context{}, "it is live. Stop."},
		{heat.FoodProbe, 4, heat.Context{}, "FDA Food Code, from memory"},
		{heat.HighPressure, 2380, r410, "K over ambient; a clean coil"},
		{heat.HighPressure, 900, r410, "not a running air-cooled coil"},
		{heat.HighPressure, 2380, held, "says nothing of soil"},
		{heat.HighPressure, 5000, r410, "critical point"},
		{heat.HighPressure, 2380, heat.Context{}, "the refrigerant and the ambient temperature"},
		{heat.LowPressure, 965, r410, "K under the air on"},
		{heat.LowPressure, 965, heat.Context{Refrigerant: "R-410A"}, "the air on to the coil; evaporating at"},
		{heat.LiquidLine, 18, r410, "colder than the ambient"},
		{heat.AirOnCoil, 20, heat.Context{}, "no limit of its own"},
	} {
		j, err := heat.Judge(heat.Reading{Kind: c.kind, Value: c.value, Context: c.with})
		require.NoError(t, err)
		assert.Contains(t, wording.Reading(j), c.says, "%s %g", c.kind, c.value)
	}
	assert.Empty(t, wording.Reading(heat.Judgement{}))
	// In US units: 25 K over ambient are 45 °F, 5 °C are 41 °F.
	j, err := heat.Judge(heat.Reading{Kind: heat.FoodProbe, Value: 4})
	require.NoError(t, err)
	assert.Contains(t, wording.ReadingIn(j, true), "at 41 °F or below")
	j, err = heat.Judge(heat.Reading{Kind: heat.HighPressure, Value: 2380, Context: r410})
	require.NoError(t, err)
	assert.NotContains(t, wording.ReadingIn(j, true), " K")
	assert.NotContains(t, wording.ReadingIn(j, true), "°C")
	assert.Contains(t, wording.ReadingIn(j, true), "°F over ambient")
}

func TestProofsReadWell(t *testing.T) {
	t.Parallel()
	before := heat.Run{CondensingC: 48, AmbientC: 27, EvaporatingC: new(4.0)}
	after := heat.Run{CondensingC: 42, AmbientC: 27, EvaporatingC: new(5.0)}
	assert.Equal(t, "Condensing over ambient fell by 6.0 K, from 21.0 to 15.0 K: about 17 % less energy for the same cooling.", wording.Proof(heat.Proof(before, after)))
	assert.Contains(t, wording.Proof(heat.Proof(after, before)), "rose by 6.0 K")
	after.HeadControl, after.AmbientC = true, 12
	text := wording.Proof(heat.Proof(before, after))
	assert.Contains(t, text, "Cannot judge: ")
	assert.Contains(t, text, "; a head-pressure control was at work.")
}
