package dossier

import (
	"cmp"
	"math"
	"slices"

	"nextround/core/reason"
	"nextround/internal/optional"
	"nextround/internal/store"
)

// Rests is what a proposal rests on, so that it can be told what changed since.
type Rests struct {
	// Found is the newest opened-up finding.
	Found *Look              `json:"found,omitempty"`
	Rates map[string]float64 `json:"rates"` // by side
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
		Rates: map[string]float64{}, EnergyDay: o.Economics.EnergyDay, CallCost: o.Economics.CallCost, CleanCost: o.CleanCost,
		CallsFactor: cmp.Or(o.Economics.CallsFactor, 1), RiseFactor: cmp.Or(o.Economics.RiseFactor, 1), Limit: o.Limit, OverPrice: optional.Value(o.OverPrice),
		Plan: t.Program.InForcePlan.Code, EveryDays: t.EveryDays,
	}
	for _, s := range coil.Sides {
		out.Rates[s.Name] = s.Rate.Rate.P50
		for _, look := range s.Looks {
			if look.Phase == PhaseOpenedUp && (out.Found == nil || look.Day > out.Found.Day || (look.Day == out.Found.Day && look.Grade > out.Found.Grade)) {
				out.Found = &look
			}
		}
	}
	return out
}

// changedBy is from what share on a change of a figure is worth telling.
const changedBy = .05

// Since tells what changed in what a proposal rests on, since an earlier one, the findings first.
func (now Rests) Since(then Rests) []reason.Reason {
	out := []reason.Reason{}
	add := func(code reason.Code, n reason.Numbers, names reason.Names) {
		out = append(out, reason.Reason{Code: code, Numbers: n, Names: names})
	}
	if now.Found != nil && (then.Found == nil || *now.Found != *then.Found) {
		add(reason.SinceFinding, reason.Numbers{"grade": float64(now.Found.Grade)}, reason.Names{"day": now.Found.Day.String(), "seen": string(now.Found.Seen)})
	}
	sides := make([]string, 0, len(now.Rates))
	for name := range now.Rates {
		sides = append(sides, name)
	}
	slices.Sort(sides)
	for _, name := range sides {
		if was, ok := then.Rates[name]; ok && moved(was, now.Rates[name]) {
			add(reason.SinceRate, reason.Numbers{"was": was, "is": now.Rates[name]}, reason.Names{"side": name})
		}
	}
	for _, x := range []struct {
		code    reason.Code
		was, is float64
	}{
		{reason.SinceCalls, then.CallsFactor, now.CallsFactor},
		{reason.SinceRise, then.RiseFactor, now.RiseFactor},
		{reason.SinceEnergy, then.EnergyDay, now.EnergyDay},
		{reason.SinceCallCost, then.CallCost, now.CallCost},
		{reason.SinceCleanCost, then.CleanCost, now.CleanCost},
		{reason.SinceLimit, then.Limit, now.Limit},
		{reason.SinceOverPrice, then.OverPrice, now.OverPrice},
	} {
		if moved(x.was, x.is) {
			add(x.code, reason.Numbers{"was": x.was, "is": x.is}, nil)
		}
	}
	if then.Plan != now.Plan {
		add(reason.SincePlan, nil, nil)
	}
	if then.EveryDays != now.EveryDays {
		add(reason.SinceInterval, reason.Numbers{"was": float64(then.EveryDays), "is": float64(now.EveryDays)}, nil)
	}
	return out
}

// moved reports whether a figure moved by so much that it is worth telling.
func moved(was, is float64) bool {
	return math.Abs(is-was) > changedBy*math.Max(math.Abs(was), math.Abs(is))
}

// RestsOf are those an earlier proposal kept; false where it kept none.
func RestsOf(p store.Proposal) (r Rests, kept bool) {
	err := p.Rests.Into(&r)
	return r, err == nil && r.Rates != nil
}
