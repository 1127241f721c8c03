// Package wording turns reasons into sentences in one place, so that page, PDF, mail and the phone without network say the same.
// It takes codes with numbers and names and gives text.
// It never decides: what a sentence says was worked out before.
package wording

import (
	"fmt"

	"nextround/core/heat"
	"nextround/core/reason"
)

// needs names the context a reading wants.
var needs = map[string]string{
	"refrigerant": "the refrigerant", "ambient_c": "the ambient temperature", "nameplate": "the nameplate or rated value", "air_on_c": "the temperature of the air on to the coil",
}

// Reading says what a judgement rests on.
func Reading(j heat.Judgement) string {
	if len(j.Missing) > 0 {
		text := "Cannot judge without "
		for i, m := range j.Missing {
			if i > 0 {
				text += " and "
			}
			text += needs[m]
		}
		if j.SaturationC != nil {
			text += fmt.Sprintf("; evaporating at %.1f °C", *j.SaturationC)
		}
		return text + "."
	}
	if len(j.Reasons) == 0 {
		return ""
	}
	r := j.Reasons[0]
	n := r.Numbers
	switch r.Code {
	case reason.CapacitorMarking:
		return fmt.Sprintf("Held against the rating ±6 %%, %.1f to %.1f µF (the usual marking).", n["lo"], n["hi"])
	case reason.ContactorCoil:
		return fmt.Sprintf("Held against %.0f to %.0f Ω for a 24 V coil (common practice, no source).", n["lo"], n["hi"])
	case reason.NameplateVolts:
		return fmt.Sprintf("Held against the nameplate ±10 %%, %.0f to %.0f V (common practice, no source).", n["lo"], n["hi"])
	case reason.NameplateAmps:
		return fmt.Sprintf("Held against the nameplate, at most %.1f A (common practice, no source).", n["hi"])
	case reason.Isolation:
		if j.Verdict == heat.Fail {
			return fmt.Sprintf("%.0f V are still there: it is live. Stop.", n["volts"])
		}
		return "Nothing is there."
	case reason.ColdHolding:
		return fmt.Sprintf("Held against cold holding at %.0f °C or below (FDA Food Code, from memory).", n["hi"])
	case reason.CondensingOverAmbient:
		return fmt.Sprintf("Condensing at %.1f °C, %.1f K over ambient; a clean coil runs at about %.0f K, up to %.0f K passes (assumption).", n["saturation"], n["over"], n["clean"], n["pass"])
	case reason.CondensingTooCool:
		return fmt.Sprintf("Condensing only %.1f K over ambient: not a running air-cooled coil, or the ambient was read elsewhere.", n["over"])
	case reason.EvaporatingUnderAir:
		return fmt.Sprintf("Evaporating at %.1f °C, %.1f K under the air on to the coil; 4 to 22 K is usual (assumption).", *j.SaturationC, n["value"])
	case reason.HeadControl:
		return fmt.Sprintf("A head-pressure control was at work: %.1f K over ambient says nothing of soil.", n["over"])
	case reason.LiquidBelowAmbient:
		return fmt.Sprintf("The liquid line is colder than the ambient of %.0f °C, which an air-cooled coil cannot do: read one of them again.", n["ambient"])
	case reason.PressureImpossible:
		return "Not possible: " + r.Names["why"] + "."
	case reason.NoLimit:
		return "Kept as context; it has no limit of its own."
	}
	return ""
}

// Proof says what a clean brought by its readings, or why that cannot be judged.
func Proof(p heat.ProofResult) string {
	if !p.Judged {
		why := ""
		for i, r := range p.Reasons {
			if i > 0 {
				why += "; "
			}
			why += r.Names["why"]
		}
		return "Cannot judge: " + why + "."
	}
	if p.FellK < 0 {
		return fmt.Sprintf("Condensing over ambient rose by %.1f K, from %.1f to %.1f K: the clean brought nothing that can be read.", -p.FellK, p.BeforeK, p.AfterK)
	}
	return fmt.Sprintf("Condensing over ambient fell by %.1f K, from %.1f to %.1f K: about %.0f %% less energy for the same cooling.", p.FellK, p.BeforeK, p.AfterK, 100*p.EnergyShare)
}
