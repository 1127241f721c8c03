package soil_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"nextround/core/soil"
)

func TestGradeOfCountsLowerEdges(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		share float64
		want  soil.Grade
	}{
		{-1, soil.Bare},
		{0, soil.Bare},
		{.0499, soil.Bare},
		{.05, soil.Film},
		{.15, soil.Coat},
		{.2999, soil.Coat},
		{.30, soil.Felt},
		{.50, soil.Blanket},
		{.75, soil.Blocked},
		{1, soil.Blocked},
		{2, soil.Blocked},
	} {
		assert.Equal(t, c.want, soil.GradeOf(c.share), "blocked share %v", c.share)
	}
}

func TestLimitGradeCountsTheUpperEdge(t *testing.T) {
	t.Parallel()
	assert.Equal(t, soil.Coat, soil.LimitGrade(.30))
	assert.Equal(t, soil.Coat, soil.LimitGrade(.20))
	assert.Equal(t, soil.Felt, soil.LimitGrade(.31))
	assert.Equal(t, soil.Bare, soil.LimitGrade(.05))
	assert.Equal(t, soil.Blocked, soil.LimitGrade(.99))
}

func TestLoadAndShareAreInverse(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		b := rapid.Float64Range(0, .999).Draw(t, "blocked share")
		assert.InDelta(t, b, soil.Share(soil.Load(b)), 1e-12)
	})
	assert.True(t, math.IsInf(soil.Load(1), 1))
	assert.Zero(t, soil.Share(-1))
}

func TestGradeNames(t *testing.T) {
	t.Parallel()
	assert.Equal(t, "Felt", soil.Felt.String())
	assert.Equal(t, "grade 9", soil.Grade(9).String())
	assert.False(t, soil.Grade(-1).Valid())
}

func ExampleLoad() {
	fmt.Printf("%.4f\n", soil.Load(0.30))
	// Output: 0.3567
}

func ExampleGradeOf() {
	fmt.Println(soil.GradeOf(0.42))
	// Output: Felt
}
