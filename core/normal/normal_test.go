package normal_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"gonum.org/v1/gonum/stat/distuv"

	"nextround/core/normal"
)

// Against gonum's distribution and against tables (Abramowitz and Stegun, Handbook of Mathematical Functions, table 26.1, from
// memory: Φ(1) = 0.84134 47461, Φ(1.96) = 0.97500 21049, Φ(3) = 0.99865 01020).
func TestCDF(t *testing.T) {
	t.Parallel()
	for z := -9.0; z <= 9; z += .0137 {
		assert.InDelta(t, distuv.UnitNormal.CDF(z), normal.CDF(z), 1e-9, "z = %g", z)
	}
	for z, want := range map[float64]float64{1: .8413447461, 1.96: .9750021049, 3: .9986501020} {
		assert.InDelta(t, want, normal.CDF(z), 1e-9)
	}
	assert.Zero(t, normal.CDF(math.NaN()))
	assert.Zero(t, normal.CDF(math.Inf(-1)))
	assert.Equal(t, 1.0, normal.CDF(math.Inf(1)))
}

func TestQuantileInvertsCDF(t *testing.T) {
	t.Parallel()
	for p := .001; p < 1; p += .01 {
		assert.InDelta(t, p, normal.CDF(normal.Quantile(p)), 1e-8)
		assert.InDelta(t, distuv.UnitNormal.Quantile(p), normal.Quantile(p), 1e-9)
	}
}

func ExampleCDF() {
	fmt.Printf("%.3f\n", normal.CDF(1.645))
	// Output: 0.950
}
