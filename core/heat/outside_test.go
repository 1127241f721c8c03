package heat_test

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/heat"
)

// R's glm on the same counts; its version stands in the file. make check-outside runs it again.
func TestCallOutsAsInR(t *testing.T) {
	t.Parallel()
	raw, err := os.ReadFile("testdata/outside.json")
	require.NoError(t, err)
	var r struct {
		Versions  map[string]string `json:"versions"`
		Exposures []struct {
			Years, Rise float64
			Calls       int
		} `json:"exposures"`
		CallsYear float64 `json:"calls_year"`
		Slope     float64 `json:"slope"`
	}
	require.NoError(t, json.Unmarshal(raw, &r))
	require.NotEmpty(t, r.Versions["R"])
	var all []heat.Exposure
	for _, x := range r.Exposures {
		all = append(all, heat.Exposure{Years: x.Years, RiseK: x.Rise, CallOuts: x.Calls})
	}
	fit, err := heat.FitCallOuts(all)
	require.NoError(t, err)
	assert.True(t, fit.Own)
	assert.InEpsilon(t, r.CallsYear, fit.CallsYear, 1e-6)
	assert.InEpsilon(t, r.Slope, fit.Slope, 1e-6)
}
