package dossier

import (
	"nextround/core/heat"
	"nextround/core/interval"
	"nextround/core/soil"
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
