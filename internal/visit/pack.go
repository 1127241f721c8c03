package visit

import (
	"time"

	"github.com/google/uuid"

	"nextround/core/invalid"
	"nextround/core/method"
	"nextround/core/procedure"
	"nextround/core/workplan"
	"nextround/internal/contract"
)

// Question is a visit as it stands on the phone, with what the phone keeps of the unit.
type Question struct {
	Pack  contract.VisitPack `json:"pack"`
	Visit contract.NewVisit  `json:"visit"`
	// Step is a step that is about to be ticked: Here says what stands in its way.
	Step string `json:"step,omitempty"`
	// At is when it would be ticked.
	At time.Time `json:"at,omitzero"`
}

// Answer lists what the server would refuse, each at its step, and what would be refused of one step were it ticked now.
type Answer struct {
	Refusals []Refusal `json:"refusals"`
	Here     []Refusal `json:"here"`
	// Asks are findings that are rare: they are asked about once, at their step, and then taken as they are.
	Asks  []Ask            `json:"asks"`
	Steps []procedure.Step `json:"steps"`
}

// Judge answers a question.
func Judge(q Question) (Answer, error) {
	if q.Pack.Unit.ID != q.Visit.UnitID {
		return Answer{}, invalid.At("visit.unit_id", "is not the unit of the pack")
	}
	if q.Visit.Steps == nil {
		q.Visit.Steps = &[]contract.StepResult{}
	}
	facts := OfPack(q.Pack)
	out := Answer{Here: []Refusal{}, Asks: asks(facts, q.Visit)}
	now := q.Visit
	if v := (sheet{Facts: facts, req: now}); !v.done("isolate") && !v.done("prove_dead") {
		now.Isolation = nil // it is written down beforehand, and sent once it was done
	}
	checked := Check(facts, now)
	out.Steps, out.Refusals = checked.Steps, placed(facts, checked, now)
	if q.Step == "" {
		return out, nil
	}
	ticked := q.Visit
	ticked.Steps = new(append(without(*q.Visit.Steps, q.Step), contract.StepResult{Step: q.Step, State: contract.StepResultStateDone, At: &q.At}))
	for _, r := range placed(facts, Check(facts, ticked), ticked) {
		if r.Step == q.Step {
			out.Here = append(out.Here, r)
		}
	}
	return out, nil
}

func without(results []contract.StepResult, step string) []contract.StepResult {
	out := []contract.StepResult{}
	for _, r := range results {
		if r.Step != step {
			out = append(out, r)
		}
	}
	return out
}

func placed(f *Facts, c Checked, req contract.NewVisit) []Refusal {
	out := []Refusal{}
	for _, x := range c.Bad {
		out = append(out, Refusal{Field: x.Path, Step: stepOf(x.Path, req, c.Steps), Reason: f.named(x.Path, req) + x.Reason})
	}
	return out
}

// OfPack are the facts that a phone has kept of a unit.
func OfPack(p contract.VisitPack) *Facts {
	f := &Facts{
		Tag: p.Unit.Tag, Status: p.Unit.Status, Today: p.Today, Commissioned: p.Unit.Commissioned, People: map[uuid.UUID]bool{},
		Methods: map[uuid.UUID]Method{}, Cleaners: map[uuid.UUID]method.Cleaner{}, Soils: map[uuid.UUID]string{}, Sprayers: p.Sprayers,
		Watched: map[uuid.UUID]bool{}, Symptoms: map[uuid.UUID]bool{}, Template: p.Procedure.Steps, Standing: map[string]bool{},
		Rules: p.Practice, Reading: p.Context, Volts: p.Volts, Amps: p.Amps,
	}
	for _, x := range p.Tags {
		f.Standing[x] = true
	}
	for _, x := range p.Catalogue.People {
		f.People[x.ID] = true
	}
	for _, x := range p.Catalogue.Methods {
		f.Methods[x.ID] = Method{Code: x.Code, Name: x.Name, Wet: x.Wet}
	}
	for _, x := range p.Catalogue.Soils {
		f.Soils[x.ID] = x.Code
	}
	for _, x := range p.Watch {
		f.Watched[x.ID] = true
	}
	for _, x := range p.Symptoms {
		f.Symptoms[x.ID] = true
	}
	cleaners := map[string]method.Cleaner{}
	for _, c := range p.Coils {
		for _, k := range c.Advice.Cleaners {
			cleaners[k.Code] = k
		}
		f.Coils = append(f.Coils, coilOfPack(p.Unit, c))
	}
	for _, x := range p.Catalogue.Cleaners {
		if k, ok := cleaners[x.Code]; ok {
			f.Cleaners[x.ID] = k
		}
	}
	return f
}

// coilOfPack is a coil with the names of its sides.
func coilOfPack(u contract.Unit, c contract.PackCoil) Coil {
	out := Coil{ID: c.CoilID, Advice: func() workplan.Input { return c.Advice }}
	for _, coil := range u.Coils {
		if coil.ID == c.CoilID {
			for _, s := range coil.Sides {
				out.Sides = append(out.Sides, Side{ID: s.ID, Name: s.Name})
			}
		}
	}
	return out
}
