package root_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"nextround/core/root"
)

func TestHalveClosesInOnTheTurn(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		at := rapid.Float64Range(-5, 5).Draw(t, "at")
		lo, hi := root.Halve(-5, 5, 40, func(x float64) bool { return x >= at })
		assert.LessOrEqual(t, lo, at)
		assert.GreaterOrEqual(t, hi, at)
		assert.InDelta(t, 0, hi-lo, 10/math.Pow(2, 40)+1e-12)
	})
}

func ExampleHalve() {
	lo, _ := root.Halve(0, 2, 50, func(x float64) bool { return x*x > 2 })
	fmt.Printf("%.6f\n", lo)
	// Output: 1.414214
}
