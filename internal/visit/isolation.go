package visit

import (
	"strings"

	"nextround/core/procedure"
	"nextround/internal/contract"
)

// deadVolts is what a meter may show of nothing, in V; it matches the core's judgement of an isolation.
const deadVolts = .5

// checkIsolation holds the record of how the unit was made dead against the steps that say so.
func (v *sheet) checkIsolation() {
	in := v.req.Isolation
	if in == nil {
		if v.done("isolate") || v.done("prove_dead") {
			v.Bad.Addf("/isolation", "say where it was isolated, by what means, and what the meter showed")
		}
		return
	}
	if strings.TrimSpace(in.Point) == "" {
		v.Bad.Addf("/isolation/point", "say which breaker, disconnect or plug")
	}
	if !in.Means.Valid() {
		v.Bad.Addf("/isolation/means", "say by what means: breaker, disconnect or plug")
	}
	if in.PersonID != nil && !v.People[*in.PersonID] {
		v.Bad.Addf("/isolation/person_id", "is not a person of the organisation")
	}
	proof := procedure.ProofOf(v.Jobs, v.like, v.Rules)
	unmetered := proof == "heard" || (in.Means == contract.IsolationMeansPlug && in.Secured == contract.PlugInHand &&
		(proof == "plug" || v.Rules.Answer("proof_of_dead") == "unplugged"))
	for _, p := range []struct {
		at, pair string
		volts    *float64
	}{{"l1_l2_v", "L1–L2", in.L1L2V}, {"l1_ground_v", "L1–ground", in.L1GroundV}, {"l2_ground_v", "L2–ground", in.L2GroundV}} {
		switch {
		case p.volts != nil && *p.volts > deadVolts:
			v.Bad.Addf("/isolation/"+p.at, "%s still shows %g V: it is live, and must not be opened", p.pair, *p.volts)
		case p.volts == nil && v.done("prove_dead") && !unmetered:
			v.Bad.Addf("/isolation/"+p.at, "say what the meter showed on %s", p.pair)
		}
	}
	if v.done("discharge") && !in.Discharged {
		v.Bad.Addf("/isolation/discharged", "the step says done; confirm that the capacitors were discharged")
	}
	if v.done("prove_dead") && !unmetered && !in.MeterTried {
		v.Bad.Addf("/isolation/meter_tried", "confirm that the meter was tried on a live source before and after")
	}
	if in.Secured == contract.Not && (v.done("lock_tag") || v.done("isolate") && !v.has("lock_tag") && !v.Past) {
		v.Bad.Addf("/isolation/secured", "the step says done; say whether it was locked, tagged or kept in the hand")
	}
}

// has reports whether a step is among those of this visit.
func (v *sheet) has(step string) bool {
	for _, s := range v.Steps {
		if s.Code == step {
			return true
		}
	}
	return false
}
