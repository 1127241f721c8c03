package heat_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"nextround/core/heat"
)

// Worked figures of the model. The energy at a rise of 10 °F is that of the US DOE/FEMP example: 1.10/0.93 (from memory).
func TestCondenserFigures(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ blocked, rise, energy float64 }{{.30, 1.397, 1.0431}, {.50, 3.608, 1.1152}, {.75, 12.64, 1.465}} {
		got := heat.CondenserRise(heat.CondenserFan, heat.CleanCondenser, c.blocked)
		assert.InDelta(t, c.rise, got, .005*c.rise)
		assert.InDelta(t, c.energy, heat.CondenserEnergy(got), .001)
	}
	assert.InDelta(t, 1.10/.93, heat.CondenserEnergy(10/1.8), 1e-4)
	assert.InDelta(t, 1.16, 1/(.93/1.10)-.02, .01, "about 16 per cent less efficient")
}

// Airflow lost through a ducted evaporator, beside the trade's claim of up to 40 % (common practice, no source).
func TestDuctedAirflow(t *testing.T) {
	t.Parallel()
	assert.InDelta(t, .576, heat.DuctedFan.Airflow(.60), .001)
	assert.InDelta(t, 1, heat.DuctedFan.Airflow(0), 1e-12)
}

func TestSoilNeverHelps(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		f := heat.Fan{CoilShare: rapid.Float64Range(.1, 1).Draw(t, "s"), Steepness: rapid.Float64Range(.1, 2).Draw(t, "m")}
		a := rapid.Float64Range(0, 1).Draw(t, "a")
		b := rapid.Float64Range(a, 1).Draw(t, "b")
		assert.GreaterOrEqual(t, f.Airflow(a), f.Airflow(b))
		assert.LessOrEqual(t, heat.CondenserRise(f, 14, a), heat.CondenserRise(f, 14, b)+1e-9)
		assert.LessOrEqual(t, heat.EvaporatorDrop(f, 8, a), heat.EvaporatorDrop(f, 8, b)+1e-9)
		e := heat.CondenserEnergy(heat.CondenserRise(f, 14, b))
		assert.True(t, e >= 1 && e < 1.7)
		assert.True(t, heat.EvaporatorEnergy(heat.EvaporatorDrop(f, 8, b)) < 1.6)
	})
}

func ExampleFan_Airflow() {
	fmt.Printf("%.0f %% of the clean airflow\n", 100*heat.DuctedFan.Airflow(.60))
	// Output: 58 % of the clean airflow
}
