package heat_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nextround/core/heat"
)

// Safety classes of ISO 817, from memory.
func TestWhatBurns(t *testing.T) {
	t.Parallel()
	for _, x := range []string{"R-32", "r290", "R600a", "R-454B", "R-1234yf", "R1234ze(E)", "R-1270", "propane", "Ammonia", "R-717", "HFO-1234yf", "HC-290", "R 455 A"} {
		burns, known := heat.Burns(x)
		assert.True(t, known, x)
		assert.True(t, burns, x)
	}
	for _, x := range []string{"R-410A", "R134a", "R-404A", "CO2", "R-744", "HFC-134a", "R-449A"} {
		burns, known := heat.Burns(x)
		assert.True(t, known, x)
		assert.False(t, burns, x)
	}
	for _, x := range []string{"", "R-999", "water", "R", "gas", "R-13"} {
		_, known := heat.Burns(x)
		assert.False(t, known, x)
	}
	for _, r := range heat.Refrigerants {
		burns, known := heat.Burns(r.Code)
		assert.True(t, known, r.Code)
		assert.Equal(t, r.Flammable, burns, r.Code)
	}
}
