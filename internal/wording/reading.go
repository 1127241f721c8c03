// Package wording turns reasons into sentences in one place, so that page, PDF, mail and the phone without network say the same.
// It takes codes with numbers and names and gives text.
// It never decides: what a sentence says was worked out before.
package wording

import (
	"fmt"
	"strings"

	"nextround/core/heat"
	"nextround/core/reason"
)

// needs names the context a reading wants.
var needs = map[string]string{
	"refrigerant": "the refrigerant", "ambient_c": "the ambient temperature", "nameplate": "the nameplate or rated value", "air_on_c": "the temperature of the air on to the coil",
}

// ReadingIn says what a judgement rests on.
//
// In US units temperatures are in °F, and differences of them too.
func ReadingIn(j heat.Judgement, us bool) string { return readingIn(j, temperatures{us}) }

// Reading is ReadingIn in metric units.
func Reading(j heat.Judgement) string { return ReadingIn(j, false) }

// temperatures are written in one of two scales.
type temperatures struct{ us bool }

func (t temperatures) at(c float64, digits int) string {
	if t.us {
		return fmt.Sprintf("%.*f °F", digits, c*1.8+32)
	}
	return fmt.Sprintf("%.*f °C", digits, c)
}

func (t temperatures) apart(k float64, digits int) string {
	if t.us {
		return fmt.Sprintf("%.*f °F", digits, k*1.8)
	}
	return fmt.Sprintf("%.*f K", digits, k)
}

func readingIn(j heat.Judgement, in temperatures) string {
	if len(j.Missing) > 0 {
		text := "Cannot judge without "
		for i, m := range j.Missing {
			if i > 0 {
				text += " and "
			}
			text += needs[m]
		}
		if j.SaturationC != nil {
			text += "; evaporating at " + in.at(*j.SaturationC, 1)
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
		return "Held against cold holding at " + in.at(n["hi"], 0) + " or below (FDA Food Code, from memory)."
	case reason.FrozenHolding:
		return "Held against frozen goods at " + in.at(n["hi"], 0) + " or below (Codex, quick frozen foods, from memory)."
	case reason.CondensingOverAmbient:
		return fmt.Sprintf("Condensing at %s, %s over ambient; a clean coil runs at about %s, up to %s passes (assumption).", in.at(n["saturation"], 1), in.apart(n["over"], 1), in.apart(n["clean"], 0), in.apart(n["pass"], 0))
	case reason.CondensingTooCool:
		return fmt.Sprintf("Condensing only %s over ambient: not a running air-cooled coil, or the ambient was read elsewhere.", in.apart(n["over"], 1))
	case reason.EvaporatingUnderAir:
		return fmt.Sprintf("Evaporating at %s, %s under the air on to the coil; %s to %s is usual (assumption).", in.at(*j.SaturationC, 1), in.apart(n["value"], 1), strings.Fields(in.apart(4, 0))[0], in.apart(22, 0))
	case reason.HeadControl:
		return "A head-pressure control was at work: " + in.apart(n["over"], 1) + " over ambient says nothing of soil."
	case reason.LiquidBelowAmbient:
		return "The liquid line is colder than the ambient of " + in.at(n["ambient"], 0) + ", which an air-cooled coil cannot do: read one of them again."
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
