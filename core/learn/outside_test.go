package learn_test

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/learn"
)

// What R's survival, metafor and lme4 made of the same data; the versions stand in the file. make check-outside runs them
// again.
type outside struct {
	Versions    map[string]string `json:"versions"`
	KaplanMeier []struct {
		Weeks, Share, SE float64
	} `json:"kaplan_meier"`
	DerSimonianLaird struct {
		learn.RandomEffects
		Estimates []float64 `json:"yi"`
		Variances []float64 `json:"vi"`
	} `json:"dersimonian_laird"`
	Dyestuff struct {
		BatchVariance    float64              `json:"batch_variance"`
		ResidualVariance float64              `json:"residual_variance"`
		Mean             float64              `json:"mean"`
		Yields           map[string][]float64 `json:"yields"`
		Shrunk           map[string]float64   `json:"shrunk"`
	} `json:"dyestuff"`
}

func fromR(t *testing.T) (out outside) {
	raw, err := os.ReadFile("testdata/outside.json")
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(raw, &out))
	for _, p := range []string{"R", "survival", "lme4", "metafor"} {
		require.NotEmpty(t, out.Versions[p])
	}
	return out
}

func TestKaplanMeierAsInR(t *testing.T) {
	t.Parallel()
	steps, err := learn.KaplanMeier(remissions)
	require.NoError(t, err)
	r := fromR(t).KaplanMeier
	require.Len(t, steps, len(r))
	for i, want := range r {
		assert.Equal(t, want.Weeks, steps[i].Days)
		assert.InDelta(t, want.Share, steps[i].Share, 1e-9)
		assert.InDelta(t, want.SE, steps[i].ShareSE, 1e-9)
	}
}

func TestPoolingAsInR(t *testing.T) {
	t.Parallel()
	r := fromR(t).DerSimonianLaird
	for i, m := range logRelativeRisks() {
		assert.InDelta(t, r.Estimates[i], m.Mean, 1e-9, "the counts from memory are those metafor ships")
		assert.InDelta(t, r.Variances[i], m.Variance, 1e-9)
	}
	ours := learn.DerSimonianLaird(logRelativeRisks())
	assert.InDelta(t, r.TauSquared, ours.TauSquared, 1e-9)
	assert.InDelta(t, r.Mean, ours.Mean, 1e-9)
	assert.InDelta(t, r.SE, ours.SE, 1e-9)
	assert.InDelta(t, r.Q, ours.Q, 1e-7)
}

// A group's mean is the best linear unbiased prediction of a mixed model: lme4's, once its variances are brought to ours by
// a common scale.
func TestTheGroupMeanIsThatOfAMixedModel(t *testing.T) {
	t.Parallel()
	r := fromR(t).Dyestuff
	scale := learn.GroupVariance / r.BatchVariance
	for batch, yields := range r.Yields {
		var g learn.Group
		for _, y := range yields {
			g = g.Add(learn.Normal{Mean: y - r.Mean, Variance: scale*r.ResidualVariance - learn.UnitVariance})
		}
		assert.InDelta(t, r.Shrunk[batch], g.Mean().Mean, 1e-4, batch)
	}
	require.Len(t, r.Yields, 6)
}
