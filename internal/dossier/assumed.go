package dossier

import (
	"nextround/core/heat"
	"nextround/core/interval"
	"nextround/core/soil"
	"nextround/internal/optional"
	"nextround/internal/store"
)

// Assumed is how much of each kind of money rests on start values, from 0, where the organisation's own records say it, to 1. The price of a
// day over the limit is the organisation's own choice and is left out.
type Assumed struct{ Energy, Calls, Clean float64 }

// assumed shares of a coil's money. Half of the energy's is what the unit uses, half what soil does to it.
func (r *Facts) assumed(d Unit, c store.Coil, deep Work) Assumed {
	out := Assumed{Energy: 1, Calls: 1, Clean: 1}
	own, known := r.Earned(d.Class.ID)
	if known {
		out.Calls = own.Calls.Assumed
	}
	used, does := 1.0, 1.0
	if d.Unit.EnergyKwhDay != nil {
		used = 0
	}
	if rise := own.Rise; rise != nil && c.Role == string(heat.Condenser) {
		does = rise.Assumed
	}
	out.Energy = (used + does) / 2
	if deep.usual {
		out.Clean = 0
	}
	return out
}

// Of money of three kinds, the share that is assumed; 0 of no money.
func (a Assumed) Of(clean, energy, calls float64) float64 {
	all := clean + energy + calls
	if all <= 0 {
		return 0
	}
	return (clean*a.Clean + energy*a.Energy + calls*a.Calls) / all
}

// AssumedOf is how much of what a way of keeping the coil costs rests on start values.
func (t Task) AssumedOf(k interval.Kept) float64 {
	return t.assumed.Of(k.CleanDay, k.EnergyDay, k.CallsDay)
}

// AssumedShare is how much of what soil costs rests on start values, at what is in force where that is known, else at the limit.
func (t Task) AssumedShare() *float64 {
	switch {
	case !t.Ahead.Known:
		return nil
	case t.Program.Known && t.Program.InForce != nil:
		return new(t.AssumedOf(*t.Program.InForce))
	}
	o := t.Ahead.After
	at := o.Economics.At(soil.Load(o.Limit))
	return new(t.assumed.Of(o.CleanCost/float64(max(1, t.EveryDays)), at.EnergyDay, at.CallsDay))
}

// Rests is what a proposal rests on, so that it can be told what changed since.
type Rests struct {
	// Findings that taught the rates, with the newest opened-up one.
	Findings int                `json:"findings"`
	Found    *Look              `json:"found,omitempty"`
	Rates    map[string]float64 `json:"rates"` // by side
	Blocked  float64            `json:"blocked"`
	// EnergyDay of the clean unit, what a call-out costs and how often they come against the start values, how far soil lifts the condensing
	// temperature against them, what a clean costs, the limit, and the price of a day over it.
	EnergyDay   float64 `json:"energy_day"`
	CallCost    float64 `json:"call_cost"`
	CallsFactor float64 `json:"calls_factor"`
	RiseFactor  float64 `json:"rise_factor"`
	CleanCost   float64 `json:"clean_cost"`
	Limit       float64 `json:"limit"`
	OverPrice   float64 `json:"over_price"`
	// Plan in force, by its code, and its interval.
	Plan      string `json:"plan"`
	EveryDays int    `json:"every_days"`
}

// rests of what is proposed for a task.
func rests(coil Coil, t Task) Rests {
	o := t.Ahead.After
	out := Rests{
		Rates: map[string]float64{}, Blocked: coil.Blocked, EnergyDay: o.Economics.EnergyDay, CallCost: o.Economics.CallCost, CleanCost: o.CleanCost,
		CallsFactor: orOne(o.Economics.CallsFactor), RiseFactor: orOne(o.Economics.RiseFactor), Limit: o.Limit, OverPrice: optional.Value(o.OverPrice),
		Plan: t.Program.InForcePlan.Code, EveryDays: t.EveryDays,
	}
	for _, s := range coil.Sides {
		out.Rates[s.Name] = s.Rate.Rate.P50
		out.Findings += s.Rate.Taught()
		for _, look := range s.Looks {
			if look.Phase == PhaseOpenedUp && (out.Found == nil || look.Day > out.Found.Day || (look.Day == out.Found.Day && look.Grade > out.Found.Grade)) {
				out.Found = &look
			}
		}
	}
	return out
}

func orOne(v float64) float64 {
	if v == 0 {
		return 1
	}
	return v
}
