package learn

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Findings that leave a variance of 20 or more say nothing; those that leave less are given back as they are.
func TestWhatFindingsAloneSay(t *testing.T) {
	before := Normal{Mean: 1, Variance: 1}
	for _, v := range []float64{.1, 2, 19} {
		after := Normal{Variance: 1 / (1 + 1/v)}
		after.Mean = after.Variance * (1 + 3/v) // the findings alone say 3
		own := dividedOut(after, before)
		require.NotNil(t, own, "variance %g", v)
		assert.InDelta(t, v, own.Variance, 1e-9)
		assert.InDelta(t, 3, own.Mean, 1e-9)
	}
	for _, v := range []float64{21, 1000} {
		assert.Nil(t, dividedOut(Normal{Mean: 1, Variance: 1 / (1 + 1/v)}, before), "variance %g", v)
	}
	assert.Nil(t, dividedOut(before, before), "nothing was found")
}
