package visit

import (
	"fmt"
	"math"
	"strings"
	"time"

	"github.com/google/uuid"

	"nextround/core/method"
	"nextround/core/soil"
	"nextround/core/workplan"
	"nextround/internal/contract"
	"nextround/internal/optional"
)

// litres per unit of an amount. The US gallon is 231 cubic inches of 2.54 cm exactly, 128 fluid ounces (NIST
// Handbook 44, appendix C, from memory).
var litres = map[contract.AmountUnit]float64{"l": 1, "ml": 1e-3, "us_gal": 3.785411784, "us_fl_oz": 3.785411784 / 128}

// mostLitres of a cleaner one treatment can take; more is a slip of the decimal point.
const mostLitres = 200

// Litres is an amount in litres.
func Litres(a contract.Amount) float64 { return a.Value * litres[a.Unit] }

func (v *sheet) checkTreatment(at string, t contract.VisitTreatment, reached, treated map[uuid.UUID]bool) {
	m, ok := v.Methods[t.MethodID]
	if !ok {
		v.Bad.Addf(at+"/method_id", "is not one of your methods")
	}
	v.checkCleaner(at, m, t)
	v.checkDose(at, t)
	if len(t.SurfaceIds) == 0 {
		v.Bad.Addf(at+"/surface_ids", "name the sides it was done to")
	}
	for i, id := range t.SurfaceIds {
		if !reached[id] {
			v.Bad.Addf(fmt.Sprintf("%s/surface_ids/%d", at, i), "is not a side that was reached")
			continue
		}
		treated[id] = true
	}
}

func (v *sheet) checkCleaner(at string, m Method, t contract.VisitTreatment) {
	var k method.Cleaner
	if t.CleanerID != nil {
		var ok bool
		if k, ok = v.Cleaners[*t.CleanerID]; !ok {
			v.Bad.Addf(at+"/cleaner_id", "is not one of your cleaners")
		} else if m.Code != "" && !m.Wet {
			v.Bad.Addf(at+"/cleaner_id", "%s is dry work and takes no cleaner", strings.ToLower(m.Name))
		}
	}
	v.checkStrength(at, k, t)
	if t.Amount == nil {
		return
	}
	l := Litres(*t.Amount)
	switch {
	case t.CleanerID == nil:
		v.Bad.Addf(at+"/amount", "name the cleaner")
	case !(l > 0) || l > mostLitres:
		v.Bad.Addf(at+"/amount/value", "must be above 0 and at most %d L", mostLitres)
	}
}

// checkStrength holds the mix against the label where the work was led step by step, and against what can be at all.
func (v *sheet) checkStrength(at string, k method.Cleaner, t contract.VisitTreatment) {
	if v.req.Steps != nil && !v.Past && t.CleanerID != nil && k.Form == method.Concentrate {
		switch {
		case t.WaterParts == nil && t.SettingID == nil && k.PartsFrom > 0:
			v.Bad.Addf(at+"/water_parts", "%s has to be diluted: %g:1 to %g:1", k.Name, k.PartsFrom, k.PartsTo)
		case t.WaterParts != nil && k.PartsTo > 0 && (*t.WaterParts < k.PartsFrom || *t.WaterParts > k.PartsTo):
			v.Bad.Addf(at+"/water_parts", "%s is used at %g:1 to %g:1; %g:1 is outside of that", k.Name, k.PartsFrom, k.PartsTo, *t.WaterParts)
		}
	}
	if t.WaterParts == nil {
		return
	}
	switch {
	case t.CleanerID == nil:
		v.Bad.Addf(at+"/water_parts", "there is no cleaner to mix")
	case k.Form != method.Concentrate:
		v.Bad.Addf(at+"/water_parts", "this cleaner is not mixed")
	case *t.WaterParts < 0 || *t.WaterParts > 1000:
		v.Bad.Addf(at+"/water_parts", "must be between 0 and 1000 parts of water to one of cleaner")
	}
}

// checkDose checks what was loaded, used and returned, and how long it stood.
func (v *sheet) checkDose(at string, t contract.VisitTreatment) {
	if t.After != nil {
		v.grade(at+"/after/grade", t.After.Grade)
	}
	var k method.Cleaner
	if t.CleanerID != nil {
		k = v.Cleaners[*t.CleanerID]
	}
	if t.SettingID != nil {
		v.checkSetting(at, t, k)
	}
	if t.DwellS == nil && k.DwellMinS > 0 && v.req.Steps != nil && !v.Past && v.done("apply_cleaner") {
		v.Bad.Addf(at+"/dwell_s", "%s has to stand %d to %d min: start its clock, or say how long it stood", k.Name, k.DwellMinS/60, k.DwellMaxS/60)
	}
	if t.DwellS != nil && optional.Trim(t.OverDwell) == "" {
		switch s := *t.DwellS; {
		case !v.Past && s < k.DwellMinS:
			v.Bad.Addf(at+"/over_dwell", "it stood %s, less than its minimum of %d min: say why", spell(s), k.DwellMinS/60)
		case k.DwellMaxS > 0 && s > k.DwellMaxS:
			v.Bad.Addf(at+"/over_dwell", "it stood %s past its maximum of %d min: say what was done about it", spell(s-k.DwellMaxS), k.DwellMaxS/60)
		}
	}
	if optional.Value(t.ReturnedL) > optional.Value(t.LoadedL)+optional.Value(t.ToppedUpL) {
		v.Bad.Addf(at+"/returned_l", "more came back than was loaded and topped up")
	}
	if t.CleanerID == nil || t.LoadedL == nil || t.Amount == nil {
		return
	}
	l := Litres(*t.Amount)
	used := method.Used(*t.LoadedL, optional.Value(t.ToppedUpL), optional.Value(t.ReturnedL))
	if l > 0 && l <= mostLitres && math.Abs(l-used) > .02*math.Max(used, .05) {
		v.Bad.Addf(at+"/amount/value", "loaded, topped up and returned come to %.3g L used", used)
	}
}

func spell(seconds int) time.Duration { return time.Duration(seconds) * time.Second }

// checkSetting holds a sprayer's setting against the ratio and the cleaner.
func (v *sheet) checkSetting(at string, t contract.VisitTreatment, k method.Cleaner) {
	for _, s := range v.Sprayers {
		if s.ID != *t.SettingID {
			continue
		}
		switch {
		case k.Form != method.Concentrate:
			ban, _ := method.BanByCode("mixing_head")
			v.Bad.Addf(at+"/setting_id", "%s", ban.Text)
		case t.WaterParts != nil && math.Abs(*t.WaterParts-s.WaterParts) > .01*math.Max(1, s.WaterParts):
			v.Bad.Addf(at+"/water_parts", "%s, %s mixes %g to 1; it cannot make %g to 1", s.Sprayer, s.Name, s.WaterParts, *t.WaterParts)
		}
		return
	}
	v.Bad.Addf(at+"/setting_id", "is not one of your sprayers' settings")
}

// checkChoices checks choices and exceptions and, where the work was led step by step, holds what was used against the
// rules: a hard ban cannot be overridden, a soft one asks why.
func (v *sheet) checkChoices() {
	for q, c := range optional.Value(v.req.Choices) {
		if known, ok := method.QuestionByCode(q); !ok || !known.Recorded || !known.Has(c) {
			v.Bad.Addf("/choices/"+q, "%q is not a choice that is recorded", c)
		}
	}
	aside := []string{}
	for i, x := range optional.Value(v.req.Exceptions) {
		at := fmt.Sprintf("/exceptions/%d", i)
		ban, ok := method.BanByCode(x.Ban)
		switch {
		case !ok:
			v.Bad.Addf(at+"/ban", "is not a rule")
			continue
		case ban.Hard:
			v.Bad.Addf(at+"/ban", "cannot be overridden: %s", ban.Text)
			continue
		case strings.TrimSpace(x.Reason) == "":
			v.Bad.Addf(at+"/reason", "say why the rule was overridden")
		}
		aside = append(aside, x.Ban)
	}
	if v.req.Steps == nil || v.Past {
		return
	}
	for i, c := range v.req.Coils {
		coil := v.coil(c.CoilID)
		if coil == nil {
			continue
		}
		for k, t := range c.Treatments {
			switch ban := v.banOn(coil, c, t, aside); {
			case ban == nil:
			case ban.Hard:
				v.Bad.Addf(fmt.Sprintf("/coils/%d/treatments/%d/method_id", i, k), "ruled out: %s", ban.Text)
			default:
				v.Bad.Addf("/exceptions", "%s Say why it was overridden (%s).", ban.Text, ban.Code)
			}
		}
	}
}

// banOn is the rule that speaks against a treatment; nil when it is among the advice, or is of the organisation's own making.
func (v *sheet) banOn(coil *Coil, c contract.VisitCoil, t contract.VisitTreatment, aside []string) *method.Ban {
	in := coil.Advice()
	in.Work, in.Overrides = string(t.Work), aside
	in.Place.Water, in.Place.LowC = true, nil // what the tap and the weather were is the technician's word
	for _, side := range c.Sides {
		if side.Found != nil && soil.Grade(side.Found.Grade) >= in.Found.Grade {
			in.Found.Grade, in.Found.Through = soil.Grade(side.Found.Grade), side.Found.Seen != contract.FaceLook
			for _, id := range optional.Value(side.SoilIds) {
				in.Found.Kind = v.Soils[id]
			}
		}
	}
	use := workplan.Use{Method: v.Methods[t.MethodID].Code}
	if optional.Value(t.TakenOut) {
		use.Where = workplan.TakenOut
	}
	if t.CleanerID != nil {
		use.Cleaner = v.Cleaners[*t.CleanerID].Code
	}
	ban, err := workplan.BanOn(in, use)
	if err != nil {
		return nil // a soil or grade that is wrong is reported at its own field
	}
	return ban
}
