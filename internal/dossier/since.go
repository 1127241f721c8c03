package dossier

import (
	"math"
	"slices"

	"nextround/core/reason"
	"nextround/internal/store"
)

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
