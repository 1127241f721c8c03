package dossier_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nextround/core/calendar"
	"nextround/core/reason"
	"nextround/core/soil"
	"nextround/internal/dossier"
)

// Each thing that a proposal rests on is told where it changed by more than a twentieth, and only then.
func TestWhatChangedIsTold(t *testing.T) {
	t.Parallel()
	look := func(grade soil.Grade) *dossier.Look {
		return &dossier.Look{Day: calendar.MustParse("2026-02-03"), Phase: dossier.PhaseOpenedUp, Finding: soil.Finding{Grade: grade, Seen: soil.FaceLook}}
	}
	then := dossier.Rests{
		Found: look(2), Rates: map[string]float64{"front": .1, "rear": .2}, EnergyDay: 1, CallCost: 450, CallsFactor: 1, RiseFactor: 1, CleanCost: 60, Limit: .3,
		OverPrice: .5, Plan: "brush", EveryDays: 91,
	}
	codes := func(change func(*dossier.Rests)) []reason.Code {
		now := then
		now.Rates = map[string]float64{"front": .1, "rear": .2}
		change(&now)
		out := []reason.Code{}
		for _, r := range now.Since(then) {
			out = append(out, r.Code)
		}
		return out
	}
	assert.Empty(t, codes(func(*dossier.Rests) {}))
	assert.Empty(t, codes(func(r *dossier.Rests) { r.Rates["front"], r.CleanCost, r.EnergyDay = .104, 62, .96 }), "less than a twentieth")
	for want, change := range map[reason.Code]func(*dossier.Rests){
		reason.SinceFinding:   func(r *dossier.Rests) { r.Found = look(3) },
		reason.SinceRate:      func(r *dossier.Rests) { r.Rates["rear"] = .25 },
		reason.SinceEnergy:    func(r *dossier.Rests) { r.EnergyDay = 1.2 },
		reason.SinceCallCost:  func(r *dossier.Rests) { r.CallCost = 500 },
		reason.SinceCalls:     func(r *dossier.Rests) { r.CallsFactor = .6 },
		reason.SinceRise:      func(r *dossier.Rests) { r.RiseFactor = .8 },
		reason.SinceCleanCost: func(r *dossier.Rests) { r.CleanCost = 70 },
		reason.SinceLimit:     func(r *dossier.Rests) { r.Limit = .2 },
		reason.SinceOverPrice: func(r *dossier.Rests) { r.OverPrice = 1 },
		reason.SincePlan:      func(r *dossier.Rests) { r.Plan = "foam" },
		reason.SinceInterval:  func(r *dossier.Rests) { r.EveryDays = 120 },
	} {
		assert.Equal(t, []reason.Code{want}, codes(change))
	}
}
