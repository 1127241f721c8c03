package heat_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nextround/core/heat"
	"nextround/core/soil"
)

func TestClimatesAreYears(t *testing.T) {
	t.Parallel()
	assert.Len(t, heat.Climates, 12)
	codes := map[string]bool{}
	for _, c := range heat.Climates {
		codes[c.Code] = true
		for _, l := range []heat.Load{heat.EvenLoad, heat.CoolingLoad, heat.HeatingLoad, heat.BothLoad} {
			sum := 0.0
			for _, w := range c.Months(l, false) {
				assert.GreaterOrEqual(t, w, 0.0)
				sum += w
			}
			assert.InDelta(t, 12, sum, 1e-9, "%s, %s: mean 1", c.Code, l)
		}
		assert.Equal(t, soil.Even, c.Months(heat.EvenLoad, true), "refrigeration works all year round")
		north, south := c.Months(heat.CoolingLoad, false), c.Months(heat.CoolingLoad, true)
		assert.InDelta(t, north[6], south[0], 1e-12, "July there is January here")
	}
	assert.Len(t, codes, 12)
	c, ok := heat.ClimateByCode("cool_coast")
	assert.True(t, ok)
	both := c.Months(heat.BothLoad, false)
	assert.Greater(t, both[0], both[4], "a heat pump works in winter and in summer, less in between")
	assert.Greater(t, both[6], both[4])
	_, ok = heat.ClimateByCode("moon")
	assert.False(t, ok)
}
