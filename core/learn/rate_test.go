package learn_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/core/learn"
	"nextround/core/soil"
)

var start = calendar.MustParse("2023-01-01")

// side is a history that starts clean, at an assumed rate and penetration, with even months and a fan that always runs.
func side(rate, penetration float64, until int, visits ...soil.Visit) soil.History {
	return soil.History{
		Start:      soil.Start{Quality: soil.StartExact, Day: start},
		Conditions: []soil.Condition{{From: start, Rate: rate, Penetration: penetration, FanShare: 1}},
		Visits:     visits, Until: start.Add(until),
	}
}

func found(day int, grade soil.Grade, seen soil.Seen) soil.Visit {
	return soil.Visit{Day: start.Add(day), Found: &soil.Finding{Grade: grade, Seen: seen}}
}

func learned(t testing.TB, h soil.History) learn.Rate {
	r, err := learn.Learn(learn.Question{History: h})
	require.NoError(t, err)
	return r
}

// The worked example: class with 365 reference days, found Felt by light a year after a clean.
func TestOneFindingAfterAYear(t *testing.T) {
	lambda0 := soil.StartRate(365, 1, 1)
	assert.InDelta(t, .02932, lambda0, 5e-6)
	r := learned(t, side(lambda0, .3, 365, found(365, soil.Felt, soil.LightThrough)))
	assert.InDelta(t, -3.302, r.MeanLog, 5e-4)
	assert.InDelta(t, .338, r.SDLog, 5e-4)
	assert.InDelta(t, .0368, r.Rate.P50, 5e-5)
}

// Eight visits every 90 days, brush and vacuum, found Coat and left Bare by a look at the face.
func eightVisits(last *soil.Visit) soil.History {
	var visits []soil.Visit
	for i := 1; i <= 8; i++ {
		v := found(90*i, soil.Coat, soil.FaceLook)
		v.Cleans = []soil.Removal{{Face: .85, Core: .05}}
		v.Left = &soil.Finding{Grade: soil.Bare, Seen: soil.FaceLook}
		visits = append(visits, v)
	}
	if last != nil {
		visits[7] = *last
	}
	return side(.12, .3, 720, visits...)
}

func TestACleanFaceOverAPackedCore(t *testing.T) {
	r := learned(t, eightVisits(nil))
	assert.InDelta(t, -2.273, r.MeanLog, 5e-4)
	assert.InDelta(t, .207, r.SDLog, 5e-4)
	assert.InDelta(t, .102, r.Rate.P50, 1e-3)
	assert.InDelta(t, .038, r.State.Face, 5e-4)
	assert.InDelta(t, .65, r.State.Core, 5e-3)
	assert.InDelta(t, .24, r.Core.P10, 5e-3)
	assert.InDelta(t, 1.15, r.Core.P90, 1e-2)
	assert.InDelta(t, .21, soil.Share(r.Core.P10), 5e-3)
	assert.InDelta(t, .68, soil.Share(r.Core.P90), 5e-3)
	assert.Nil(t, r.CoreSeen)
}

func TestLightTellsThePenetration(t *testing.T) {
	foam := func(grade soil.Grade) *soil.Visit {
		v := found(720, grade, soil.LightThrough)
		v.Cleans = []soil.Removal{{Face: .95, Core: .80}}
		v.Left = &soil.Finding{Grade: soil.Film, Seen: soil.LightThrough}
		return &v
	}
	for grade, want := range map[soil.Grade]float64{soil.Blanket: .323, soil.Coat: .18} {
		r := learned(t, eightVisits(foam(grade)))
		assert.InDelta(t, want, r.Penetration, 5e-3, "light through showed %s", grade)
		assert.NotNil(t, r.CoreSeen)
	}
	_ = math.Pi
}
