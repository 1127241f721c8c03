package heat_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/heat"
	"nextround/core/reason"
)

func judge(t require.TestingT, k heat.Kind, v float64, c heat.Context) heat.Judgement {
	out, err := heat.Judge(heat.Reading{Kind: k, Value: v, Context: c})
	require.NoError(t, err)
	return out
}

// Limits of the usual checks (common practice, no source); the capacitor's ±6 % is the usual marking.
func TestVerdicts(t *testing.T) {
	t.Parallel()
	plate := func(v float64) heat.Context { return heat.Context{Nameplate: &v} }
	for _, c := range []struct {
		kind  heat.Kind
		value float64
		with  heat.Context
		want  heat.Verdict
	}{
		{heat.Capacitor, 44.2, plate(45), heat.Pass},
		{heat.Capacitor, 5, plate(5), heat.Pass},
		{heat.Capacitor, 42.4, plate(45), heat.Borderline},
		{heat.Capacitor, 42.2, plate(45), heat.Fail},
		{heat.Capacitor, 47.8, plate(45), heat.Fail},
		{heat.Capacitor, 44.2, heat.Context{}, heat.CannotJudge},
		{heat.ContactorCoil, 16, heat.Context{}, heat.Pass},
		{heat.ContactorCoil, 12, heat.Context{}, heat.Fail},
		{heat.ContactorCoil, 18.9, heat.Context{}, heat.Borderline},
		{heat.IsolationVolt, 0, heat.Context{}, heat.Pass},
		{heat.IsolationVolt, 117, heat.Context{}, heat.Fail},
		{heat.SupplyVolt, 228, plate(230), heat.Pass},
		{heat.SupplyVolt, 200, plate(230), heat.Fail},
		{heat.MotorAmps, 9, plate(12), heat.Pass},
		{heat.MotorAmps, 11.8, plate(12), heat.Borderline},
		{heat.MotorAmps, 12.2, plate(12), heat.Fail},
		{heat.FoodProbe, 4, heat.Context{}, heat.Pass},
		{heat.FoodProbe, 5.5, heat.Context{}, heat.Fail},
		{heat.AirOnCoil, 21, heat.Context{}, heat.NoVerdict},
		{heat.ContactorMain, 640, heat.Context{}, heat.NoVerdict},
		{heat.FrozenGoods, -22, heat.Context{}, heat.Pass},
		{heat.FrozenGoods, -12, heat.Context{}, heat.Fail},
		{heat.LiquidLine, 18, heat.Context{AmbientC: ptr(25.0)}, heat.CannotJudge},
	} {
		got := judge(t, c.kind, c.value, c.with)
		assert.Equal(t, c.want, got.Verdict, "%s %g", c.kind, c.value)
		assert.Equal(t, c.want == heat.Fail, got.CauseNeeded, "a cause is asked for where it fails: %s %g", c.kind, c.value)
	}
	assert.Equal(t, reason.LiquidBelowAmbient, judge(t, heat.LiquidLine, 18, heat.Context{AmbientC: ptr(25.0)}).Reasons[0].Code)
}

func TestPressuresAreJudgedOverAmbient(t *testing.T) {
	t.Parallel()
	ctx := heat.Context{Refrigerant: "R-410A", AmbientC: ptr(27.0)}
	good := judge(t, heat.HighPressure, 2400, ctx)
	assert.Equal(t, heat.Pass, good.Verdict)
	assert.InDelta(t, 14, *good.OverAmbientK, 1)
	assert.Equal(t, heat.Borderline, judge(t, heat.HighPressure, 2760, ctx).Verdict)
	assert.Equal(t, heat.Fail, judge(t, heat.HighPressure, 3310, ctx).Verdict)
	ctx.HeadControl = true
	assert.Equal(t, reason.HeadControl, judge(t, heat.HighPressure, 3310, ctx).Reasons[0].Code)
	assert.Equal(t, []string{"ambient_c"}, judge(t, heat.HighPressure, 2400, heat.Context{Refrigerant: "R-410A"}).Missing)
	impossible := judge(t, heat.HighPressure, 6000, heat.Context{Refrigerant: "R-22", AmbientC: ptr(20.0)})
	assert.Equal(t, heat.CannotJudge, impossible.Verdict)
	assert.Contains(t, impossible.Reasons[0].Names["why"], "critical")
	cool := judge(t, heat.HighPressure, 900, heat.Context{Refrigerant: "R-410A", AmbientC: ptr(30.0)})
	assert.Equal(t, reason.CondensingTooCool, cool.Reasons[0].Code)

	low := heat.Context{Refrigerant: "R-410A", AirOnC: ptr(24.0)}
	assert.Equal(t, heat.Pass, judge(t, heat.LowPressure, 980, low).Verdict)
	assert.Equal(t, heat.Fail, judge(t, heat.LowPressure, 410, low).Verdict)
	assert.Equal(t, []string{"air_on_c"}, judge(t, heat.LowPressure, 980, heat.Context{Refrigerant: "R-410A"}).Missing)
}

// The same pressure gauge reads a lower absolute pressure on a mountain.
func TestHeightCounts(t *testing.T) {
	t.Parallel()
	sea := judge(t, heat.HighPressure, 1500, heat.Context{Refrigerant: "R-22", AmbientC: ptr(25.0)})
	high := judge(t, heat.HighPressure, 1500, heat.Context{Refrigerant: "R-22", AmbientC: ptr(25.0), HeightM: 2500})
	assert.Less(t, *high.SaturationC, *sea.SaturationC-.4)
}

func TestEveryReadingGetsAVerdictOrARefusal(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		f := rapid.SampledFrom(heat.Kinds).Draw(t, "kind")
		c := heat.Context{Refrigerant: rapid.SampledFrom([]string{"", "R-22", "R-744", "R-600a"}).Draw(t, "refrigerant")}
		if rapid.Bool().Draw(t, "ambient") {
			c.AmbientC = ptr(rapid.Float64Range(-40, 55).Draw(t, "c"))
		}
		if rapid.Bool().Draw(t, "plate") {
			c.Nameplate = ptr(rapid.Float64Range(0, 500).Draw(t, "n"))
		}
		v := rapid.Float64Range(f.Lo-1, f.Hi+1).Draw(t, "value")
		out, err := heat.Judge(heat.Reading{Kind: f.Kind, Value: v, Context: c})
		if v < f.Lo || v > f.Hi {
			require.Error(t, err)
			return
		}
		require.NoError(t, err)
		assert.NotEmpty(t, out.Reasons)
		assert.Contains(t, []heat.Verdict{heat.Pass, heat.Borderline, heat.Fail, heat.CannotJudge, heat.NoVerdict}, out.Verdict)
		for _, p := range []*float64{out.Lo, out.Hi, out.SaturationC, out.OverAmbientK} {
			assert.False(t, p != nil && (math.IsNaN(*p) || math.IsInf(*p, 0)))
		}
	})
	_, err := heat.Judge(heat.Reading{Kind: "smell"})
	assert.ErrorContains(t, err, "not a kind")
	_, err = heat.Judge(heat.Reading{Kind: heat.HighPressure, Value: 9, Context: heat.Context{Refrigerant: "R-999", AmbientC: ptr(1.0)}})
	assert.ErrorContains(t, err, "import a table")
}

func TestProofOfAClean(t *testing.T) {
	t.Parallel()
	before := heat.Run{CondensingC: 46, AmbientC: 28, EvaporatingC: ptr(5.0), Amps: ptr(11.0)}
	after := heat.Run{CondensingC: 40, AmbientC: 27, EvaporatingC: ptr(6.0), Amps: ptr(9.9)}
	got := heat.Proof(before, after)
	require.True(t, got.Judged, got.Reasons)
	assert.InDelta(t, 5, got.FellK, 1e-9)
	assert.InDelta(t, 1-1/math.Pow(1.10/.93, 5/5.556), got.EnergyShare, 1e-9)
	for code, change := range map[reason.Code]func(*heat.Run){
		"evaporating_apart": func(r *heat.Run) { r.EvaporatingC = ptr(9.1) }, "evaporating_unknown": func(r *heat.Run) { r.EvaporatingC = nil }, "ambient_apart": func(r *heat.Run) { r.AmbientC = 12 },
		"amps_apart": func(r *heat.Run) { r.Amps = ptr(6.0) }, "head_control": func(r *heat.Run) { r.HeadControl = true },
	} {
		other := after
		change(&other)
		got := heat.Proof(before, other)
		assert.False(t, got.Judged)
		assert.Equal(t, code, got.Reasons[0].Code)
	}
	assert.Negative(t, heat.Proof(after, before).EnergyShare, "a clean that made it worse says so")
	before.EvaporatingC, after.EvaporatingC = nil, nil
	assert.False(t, heat.Proof(before, after).Judged, "the low side was read neither time")
}

func ExampleJudge() {
	rating := 30.0
	out, _ := heat.Judge(heat.Reading{Kind: heat.Capacitor, Value: 29.4, Context: heat.Context{Nameplate: &rating}})
	fmt.Printf("%s: %.1f to %.1f µF\n", out.Verdict, *out.Lo, *out.Hi)
	// Output: pass: 28.2 to 31.8 µF
}
