package soil_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"nextround/core/soil"
)

func TestMapOfOneGradeIsThatGrade(t *testing.T) {
	t.Parallel()
	for g := soil.Bare; g <= soil.Blocked; g++ {
		share, grade, ok := soil.MapShare([]soil.Grade{g, g, g})
		lo, hi := g.Band()
		assert.True(t, ok)
		assert.InDelta(t, (lo+hi)/2, share, 1e-12)
		assert.Equal(t, g, grade)
	}
}

func TestMapLiesBetweenItsCellsAndNeverFallsWithSoil(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(7, 7))
	for range 500 {
		cells := make([]soil.Grade, 1+r.IntN(24))
		for i := range cells {
			cells[i] = soil.Grade(r.IntN(6))
		}
		before, _, _ := soil.MapShare(cells)
		i := r.IntN(len(cells))
		if cells[i] < soil.Blocked {
			cells[i]++
			after, _, _ := soil.MapShare(cells)
			assert.Greater(t, after, before)
		}
	}
	_, _, ok := soil.MapShare([]soil.Grade{9, -1})
	assert.False(t, ok, "nothing on the scale was reached")
}

func ExampleMapShare() {
	share, grade, _ := soil.MapShare([]soil.Grade{soil.Bare, soil.Bare, soil.Blocked, soil.Blanket})
	fmt.Printf("%.3f %v\n", share, grade)
	// Output: 0.388 Felt
}
