package heat_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/heat"
)

func anyRefrigerant(t *rapid.T) heat.Refrigerant {
	return heat.Refrigerants[rapid.IntRange(0, len(heat.Refrigerants)-1).Draw(t, "refrigerant")]
}

// Pressure at a temperature and temperature at that pressure are one another's inverse, on both lines.
func TestSaturationIsItsOwnInverse(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		r := anyRefrigerant(t)
		celsius := rapid.Float64Range(-40, r.Tc-273.15-5).Draw(t, "°C")
		bubble, dew := r.PressureAt(celsius)
		for line, p := range map[string]float64{"bubble": bubble, "dew": dew} {
			if p < r.Least {
				continue // below what is judged
			}
			s, err := r.SaturationAt(p)
			require.NoError(t, err, "%s at %.1f kPa", r.Code, p)
			got := s.BubbleC
			if line == "dew" {
				got = s.DewC
			}
			assert.InDelta(t, celsius, got, 1e-4, "%s, %s line", r.Code, line)
		}
		assert.GreaterOrEqual(t, bubble, dew*(1-1e-9), "the bubble pressure is the higher")
	})
}

// More pressure is never colder, and the same gauge pressure is colder the higher the place.
func TestSaturationRisesWithPressure(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		r := anyRefrigerant(t)
		least, most := math.Max(r.Least, 110), .9*r.Pc
		p := rapid.Float64Range(least, most*.99).Draw(t, "kPa")
		a, err := r.SaturationAt(p)
		require.NoError(t, err)
		b, err := r.SaturationAt(p * 1.01)
		require.NoError(t, err)
		assert.Greater(t, b.BubbleC, a.BubbleC)
		assert.Greater(t, b.DewC, a.DewC)
		gauge := p - heat.AirPressure(0)
		low, err := heat.Saturate(heat.SaturationInput{Refrigerant: r.Code, GaugeKpa: &gauge})
		require.NoError(t, err)
		high, err := heat.Saturate(heat.SaturationInput{Refrigerant: r.Code, GaugeKpa: &gauge, HeightM: 500})
		if err == nil { // at the edge of the range the thinner air leaves it
			assert.Less(t, high.BubbleC, low.BubbleC)
		}
	})
}

// Whatever is read, a reading is judged, refused as impossible, or named wrong; never NaN, and never without a reason.
func TestEveryReadingComesToAVerdict(t *testing.T) {
	t.Parallel()
	verdicts := map[heat.Verdict]bool{heat.Pass: true, heat.Borderline: true, heat.Fail: true, heat.CannotJudge: true, heat.NoVerdict: true}
	rapid.Check(t, func(t *rapid.T) {
		facts := heat.Kinds[rapid.IntRange(0, len(heat.Kinds)-1).Draw(t, "kind")]
		r := heat.Reading{Kind: facts.Kind, Value: rapid.Float64Range(facts.Lo, facts.Hi).Draw(t, "value")}
		some := func(name string, lo, hi float64) *float64 {
			if !rapid.Bool().Draw(t, name+" known") {
				return nil
			}
			v := rapid.Float64Range(lo, hi).Draw(t, name)
			return &v
		}
		r.Context.AmbientC, r.Context.AirOnC, r.Context.Nameplate = some("ambient", -30, 50), some("air on", -30, 40), some("nameplate", .1, 500)
		r.Context.HeadControl, r.Context.PlugIn = rapid.Bool().Draw(t, "head"), rapid.Bool().Draw(t, "plug-in")
		if rapid.Bool().Draw(t, "refrigerant known") {
			r.Context.Refrigerant = anyRefrigerant(t).Code
		}
		j, err := heat.Judge(r)
		require.NoError(t, err)
		assert.True(t, verdicts[j.Verdict], "%q", j.Verdict)
		assert.NotEmpty(t, j.Reasons)
		assert.Equal(t, j.Verdict == heat.Fail, j.CauseNeeded, "what is out of limits asks for its cause")
		for _, v := range []*float64{j.Lo, j.Hi, j.SaturationC, j.OverAmbientK} {
			if v != nil {
				assert.False(t, math.IsNaN(*v) || math.IsInf(*v, 0))
			}
		}
		outside := r
		outside.Value = facts.Hi + 1 + math.Abs(facts.Hi)
		_, err = heat.Judge(outside)
		assert.Error(t, err, "no instrument shows that")
	})
}
