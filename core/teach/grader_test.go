package teach_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/soil"
	"nextround/core/teach"
)

// simulate grades n faces with a known bias and scatter.
func simulate(seed uint64, n int, offset, sigma float64) []teach.Score {
	r := rand.New(rand.NewPCG(seed, 7))
	out := make([]teach.Score, n)
	for i := range out {
		f := teach.Draw(seed, i)
		seen := math.Exp(math.Log(math.Max(soil.Load(f.Share), .001)) + offset + sigma*r.NormFloat64())
		out[i] = teach.Score{Share: f.Share, Said: soil.GradeOf(soil.Share(seen))}
	}
	return out
}

// A simulated grader of known bias is recovered, and the uncertainty covers the truth about as often as it says.
func TestSimulatedGradersAreRecovered(t *testing.T) {
	t.Parallel()
	for _, truth := range []struct{ offset, sigma float64 }{{.3, .2}, {-.25, .3}, {0, .245}} {
		g, err := teach.Estimate(simulate(3, 400, truth.offset, truth.sigma))
		require.NoError(t, err)
		assert.InDelta(t, truth.offset, g.Offset, .06)
		assert.InDelta(t, truth.sigma, g.Sigma, .06)
		assert.Less(t, g.OffsetSD, .05)
	}
	inside := 0
	const runs = 60
	for i := range uint64(runs) {
		g, err := teach.Estimate(simulate(100+i, 30, .2, .25))
		require.NoError(t, err)
		if math.Abs(g.Offset-.2) < 1.2816*g.OffsetSD {
			inside++
		}
	}
	assert.True(t, inside >= 42 && inside <= 56, "80 %% intervals hold the truth in %d of %d", inside, runs)
}

func TestFewFacesSayLittle(t *testing.T) {
	t.Parallel()
	none, err := teach.Estimate(nil)
	require.NoError(t, err)
	assert.InDelta(t, 0, none.Offset, 1e-9)
	assert.False(t, none.Enough)
	some, err := teach.Estimate(simulate(5, 20, .5, .2))
	require.NoError(t, err)
	assert.True(t, some.Enough)
	assert.Less(t, some.OffsetSD, none.OffsetSD)
	_, err = teach.Estimate([]teach.Score{{Share: 1.2, Said: 7}})
	assert.ErrorContains(t, err, "from 0 to 5")
	assert.ErrorContains(t, err, "below 1")
}

func TestFacesAreWhatTheySay(t *testing.T) {
	t.Parallel()
	seen := map[soil.Grade]int{}
	for n := range 120 {
		f := teach.Draw(11, n)
		closed := 0
		for _, c := range f.Closed {
			if c {
				closed++
			}
		}
		assert.InDelta(t, f.Share, float64(closed)/float64(f.Rows*f.Columns), 1e-12)
		assert.Equal(t, f, teach.Draw(11, n), "the same seed draws the same face")
		seen[f.Grade]++
	}
	for g := soil.Bare; g <= soil.Blocked; g++ {
		assert.Greater(t, seen[g], 8, "%s is practised too", g)
	}
}

func ExampleEstimate() {
	g, _ := teach.Estimate([]teach.Score{{.20, soil.Felt}, {.40, soil.Blanket}, {.10, soil.Coat}})
	fmt.Println("sees more than there is:", g.Offset > 0, "- enough faces:", g.Enough)
	// Output: sees more than there is: true - enough faces: false
}
