package soil_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/core/soil"
)

func weights() *rapid.Generator[soil.MonthWeights] {
	return rapid.Custom(func(t *rapid.T) soil.MonthWeights {
		var w soil.MonthWeights
		for i := range w {
			w[i] = rapid.Float64Range(0, 5).Draw(t, "weight")
		}
		return w
	})
}

// A day counts with the weight of its month, so a span adds up from its parts and follows Go's own calendar.
func TestExposureAddsUpDayByDay(t *testing.T) {
	t.Parallel()
	start := calendar.MustParse("2024-01-01")
	rapid.Check(t, func(t *rapid.T) {
		w, fan := weights().Draw(t, "weights"), rapid.Float64Range(0, 1).Draw(t, "fan")
		from := start.Add(rapid.IntRange(0, 900).Draw(t, "from"))
		length := rapid.IntRange(0, 900).Draw(t, "length")
		to, middle := from.Add(length), from.Add(rapid.IntRange(0, length).Draw(t, "middle"))
		whole := soil.Exposure(from, to, w, fan)
		assert.InDelta(t, whole, soil.Exposure(from, middle, w, fan)+soil.Exposure(middle, to, w, fan), 1e-9*(1+whole))
		byDay := 0.0
		for at := from.Time(); at.Before(to.Time()); at = at.AddDate(0, 0, 1) {
			byDay += fan * w[at.Month()-time.January]
		}
		assert.InDelta(t, byDay, whole, 1e-9*(1+whole))
		assert.Zero(t, soil.Exposure(to, from, w, fan), "backwards")
	})
}

func TestWeightsKeepTheYear(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		w := weights().Draw(t, "weights").Normalised()
		sum := 0.0
		for _, v := range w {
			sum += v
		}
		assert.InDelta(t, 12, sum, 1e-9)
		assert.Equal(t, w, w.Mirrored().Mirrored())
		assert.InDelta(t, w[0], w.Mirrored()[6], 0, "January here is July there")
		again := w.Normalised()
		for i := range w {
			assert.InDelta(t, w[i], again[i], 1e-12)
		}
	})
	// Even weights and a fan that always runs: a year is its days (366 in 2024).
	assert.InDelta(t, 366, soil.Exposure(calendar.MustParse("2024-01-01"), calendar.MustParse("2025-01-01"), soil.Even, 1), 1e-9)
	assert.Equal(t, soil.Even, soil.MonthWeights{}.Normalised())
}
