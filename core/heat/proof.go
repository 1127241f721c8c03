package heat

import (
	"math"

	"nextround/core/reason"
)

// Run is what was read of a unit while it ran.
type Run struct {
	CondensingC float64 `json:"condensing_c"`
	AmbientC    float64 `json:"ambient_c"`
	// EvaporatingC is nil where the low side was not read: nothing then says that the load was the same.
	EvaporatingC *float64 `json:"evaporating_c,omitempty"`
	Amps         *float64 `json:"amps,omitempty"`
	// HeadControl is true where a fan cycled or a valve held the head pressure.
	HeadControl bool `json:"head_control,omitempty"`
}

// Two runs compare when these are no further apart (assumption).
const (
	evaporatingApart = 3.0
	ambientApart     = 8.0
	ampsApart        = .15
)

// ProofResult is what a clean brought.
type ProofResult struct {
	// Judged is false where the two runs do not compare.
	Judged bool `json:"judged"`
	// BeforeK and AfterK are condensing over ambient; FellK is their difference.
	BeforeK float64 `json:"before_k"`
	AfterK  float64 `json:"after_k"`
	FellK   float64 `json:"fell_k"`
	// EnergyShare is the share of energy for the same cooling that the clean saves.
	EnergyShare float64         `json:"energy_share"`
	Reasons     []reason.Reason `json:"reasons"`
}

// Proof compares a run before with one after a clean by condensing over ambient. It cannot judge when an evaporating
// temperature is missing or they lie more than 3 K apart, ambients more than 8 K, currents, brought to the same condensing temperature
// by 1.10^(ΔT/5.556), more than 15 %, or when a head-pressure control was at work.
func Proof(before, after Run) ProofResult {
	out := ProofResult{
		BeforeK: before.CondensingC - before.AmbientC, AfterK: after.CondensingC - after.AmbientC, Reasons: []reason.Reason{},
	}
	out.FellK = out.BeforeK - out.AfterK
	refuse := func(code reason.Code, why string) {
		out.Reasons = append(out.Reasons, reason.Reason{Code: code, Names: reason.Names{"why": why}, Evidence: reason.Assumption})
	}
	if before.EvaporatingC == nil || after.EvaporatingC == nil {
		refuse(reason.EvaporatingUnknown, "the low side was not read both times")
	} else if d := math.Abs(*before.EvaporatingC - *after.EvaporatingC); d > evaporatingApart {
		refuse(reason.EvaporatingApart, pairOf("evaporating temperatures are", d, evaporatingApart))
	}
	if d := math.Abs(before.AmbientC - after.AmbientC); d > ambientApart {
		refuse(reason.AmbientApart, pairOf("ambients are", d, ambientApart))
	}
	if before.HeadControl || after.HeadControl {
		refuse(reason.HeadControl, "a head-pressure control was at work")
	}
	if before.Amps != nil && after.Amps != nil && *before.Amps > 0 && *after.Amps > 0 {
		same := *after.Amps * math.Pow(1.10, (before.CondensingC-after.CondensingC)/5.556)
		if d := math.Abs(same/(*before.Amps) - 1); d > ampsApart {
			refuse(reason.AmpsApart, pairOf("per cent of current, at the same condensing temperature,", 100*d, 100*ampsApart))
		}
	}
	if len(out.Reasons) > 0 {
		return out
	}
	out.Judged = true
	// The factor counts from any start, so the fall itself is what saves.
	if out.FellK >= 0 {
		out.EnergyShare = 1 - 1/CondenserEnergy(out.FellK)
	} else {
		out.EnergyShare = 1 - CondenserEnergy(-out.FellK)
	}
	out.Reasons = append(out.Reasons, reason.Reason{
		Code: reason.CondensingFell, Numbers: reason.Numbers{"before": out.BeforeK, "after": out.AfterK, "fell": out.FellK}, Evidence: reason.Published,
	})
	return out
}
