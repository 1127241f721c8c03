package soil_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"nextround/core/calendar"
	"nextround/core/soil"
)

func TestCombineFactors(t *testing.T) {
	t.Parallel()
	assert.Equal(t, 1.0, soil.CombineFactors(nil))
	assert.Equal(t, 4.0, soil.CombineFactors([]float64{4}))
	assert.InDelta(t, 4*math.Sqrt(1.3*1.5), soil.CombineFactors([]float64{1.3, 4, 1.5}), 1e-12)
	assert.Equal(t, 8.0, soil.CombineFactors([]float64{4, 4, 4}), "at most 8")
	assert.Equal(t, 2.0, soil.CombineFactors([]float64{0, 2, -3}), "multipliers must be above 0 to count")
}

// The 30 % cut must be reached on the reference day exactly, whatever the fan share: that is what defines λ0.
func TestStartRateReachesTheCutOnTheReferenceDay(t *testing.T) {
	t.Parallel()
	from := calendar.MustParse("2025-01-01")
	for _, fan := range []float64{1, .5} {
		rate := soil.StartRate(365, fan, 1)
		s := soil.State{}.Deposit(rate, .3, soil.Exposure(from, from.Add(365), soil.Even, fan))
		assert.InDelta(t, .30, s.Blocked(), 1e-12)
		assert.InDelta(t, .3, s.Core/s.Total(), 1e-12, "the core takes the penetration's share")
	}
	assert.InDelta(t, .02932, soil.StartRate(365, 1, 1), 5e-6)
	assert.Zero(t, soil.StartRate(0, 1, 1))
}

func TestMonthWeights(t *testing.T) {
	t.Parallel()
	for name, w := range map[string]soil.MonthWeights{"growing": soil.GrowingSeason, "leaf": soil.LeafFall} {
		sum := 0.0
		for _, v := range w {
			sum += v
		}
		assert.InDelta(t, 12, sum, 1e-9, name)
	}
	assert.Equal(t, soil.GrowingSeason[0], soil.GrowingSeason.Mirrored()[6])
	assert.Equal(t, soil.Even, soil.MonthWeights{}.Normalised())
	jan, jun := calendar.MustParse("2025-01-10"), calendar.MustParse("2025-06-10")
	assert.Greater(t, soil.Exposure(jun, jun.Add(10), soil.GrowingSeason, 1), soil.Exposure(jan, jan.Add(10), soil.GrowingSeason, 1))
	assert.Zero(t, soil.Exposure(jun, jan, soil.Even, 1), "a span that runs backwards")
}

func ExampleStartRate() {
	fmt.Printf("%.5f load per 30 days\n", soil.StartRate(365, 1, 1))
	// Output: 0.02932 load per 30 days
}

func ExampleCombineFactors() {
	fmt.Printf("%.3f\n", soil.CombineFactors([]float64{4, 1.3}))
	// Output: 4.561
}
