package dossier

import (
	"sort"

	"github.com/google/uuid"

	"nextround/core/heat"
	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/store"
)

// The phases of a finding.
const (
	PhaseFirstLook = "first_look"
	PhaseOpenedUp  = "opened_up"
	PhaseAsLeft    = "as_left"
)

// AmountUnits are the short forms of the units an amount is typed in.
var AmountUnits = map[contract.AmountUnit]string{"l": "L", "ml": "mL", "us_gal": "US gal", "us_fl_oz": "US fl oz"}

// VisitSummary is what lists show of a visit.
func (r *Facts) VisitSummary(d Unit, v store.Visit) contract.VisitSummary {
	out := contract.VisitSummary{
		ID: v.ID, UnitID: v.UnitID, Tag: d.Unit.Tag, Site: d.Site.Name, Day: v.Day.Day(), Outcome: contract.Outcome(v.Outcome), Note: v.Note,
		People: []string{}, Sides: []contract.SideLook{}, Treatments: []contract.TreatmentLine{},
	}
	person := store.Index(r.People, func(p store.Person) uuid.UUID { return p.ID })
	for _, p := range r.VisitPeople[v.ID] {
		out.People = append(out.People, person[p.PersonID].Name)
		out.Minutes += p.Minutes
	}
	sort.Strings(out.People)
	for _, coil := range d.Coils {
		for _, side := range coil.Sides {
			key := [2]uuid.UUID{v.ID, side.ID}
			at, ok := r.Reached[key]
			if !ok {
				continue
			}
			look := contract.SideLook{CoilRole: contract.CoilRole(coil.Role), Side: side.Name, Reached: at.Reached, WhyNot: at.WhyNot, Soils: []string{}}
			for _, f := range r.Findings[key] {
				seen := contract.Look{Grade: f.Grade, Seen: contract.Seen(f.Seen)}
				seen.BlockedShare = f.BlockedShare
				switch f.Phase {
				case PhaseFirstLook:
					look.FirstLook = &seen
				case PhaseOpenedUp:
					look.Found = &seen
				case PhaseAsLeft:
					look.Left = &seen
				}
				for _, fs := range r.FindingSoils[f.ID] {
					look.Soils = append(look.Soils, r.SoilByID[fs.SoilID].Name)
				}
			}
			out.Sides = append(out.Sides, look)
		}
		for _, t := range r.Treatments[v.ID] {
			if t.CoilID == coil.ID {
				out.Treatments = append(out.Treatments, r.treatmentLine(coil, t))
			}
		}
	}
	return out
}

func (r *Facts) treatmentLine(coil Coil, t store.Treatment) contract.TreatmentLine {
	line := contract.TreatmentLine{
		CoilRole: contract.CoilRole(coil.Role), Work: contract.TaskKind(t.Work), Method: r.Method[t.MethodID].Name,
		Direction: contract.Direction(t.Direction), WaterParts: t.WaterParts, Amount: t.AmountTyped, AmountL: t.AmountL,
		EndPoints: []contract.EndPoint{}, Sides: []string{}, DwellS: t.DwellS, Tip: optional.Text(t.Tip), LoadedL: t.LoadedL, ToppedUpL: t.ToppedUpL, ReturnedL: t.ReturnedL,
	}
	if t.AfterGrade != nil && t.AfterSeen != nil {
		line.After = &contract.PassLook{Grade: *t.AfterGrade, Seen: contract.Seen(*t.AfterSeen)}
	}
	if t.TakenOut {
		line.TakenOut = new(true)
	}
	for _, s := range r.Sprayers {
		if t.SettingID != nil && s.ID == *t.SettingID {
			line.Setting = new(s.Sprayer + ", " + s.Name)
		}
	}
	if t.CleanerID != nil {
		line.Cleaner = r.Cleaner[*t.CleanerID].Name
	}
	for _, e := range t.EndPoints {
		line.EndPoints = append(line.EndPoints, contract.EndPoint(e))
	}
	for _, side := range coil.Sides {
		if r.Treated[t.ID][side.ID] {
			line.Sides = append(line.Sides, side.Name)
		}
	}
	return line
}

// Proof is what the readings before and after show of the clean; nil where they are no pair.
func Proof(rows []store.Reading) *heat.ProofResult {
	var runs [2]heat.Run
	var have [2]bool
	for _, r := range rows {
		i := 0
		if r.Phase == "after" {
			i = 1
		}
		var j heat.Judgement
		var c heat.Context
		if r.Judgement.Into(&j) != nil || r.Context.Into(&c) != nil {
			continue
		}
		switch heat.Kind(r.Kind) {
		case heat.HighPressure:
			if j.SaturationC != nil && c.AmbientC != nil {
				runs[i].CondensingC, runs[i].AmbientC, runs[i].HeadControl, have[i] = *j.SaturationC, *c.AmbientC, c.HeadControl, true
			}
		case heat.LowPressure:
			if j.SaturationC != nil {
				runs[i].EvaporatingC = j.SaturationC
			}
		case heat.MotorAmps:
			runs[i].Amps = new(r.Value)
		}
	}
	if !have[0] || !have[1] {
		return nil
	}
	return new(heat.Proof(runs[0], runs[1]))
}
