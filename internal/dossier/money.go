package dossier

import (
	"slices"

	"github.com/google/uuid"

	"nextround/core/heat"
	"nextround/core/method"
	"nextround/core/reason"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/store"
)

// Economics of a coil: the energy of the clean unit, the difference to the air it works at, what drives it, its call-outs, and what
// the organisation's own records say of the last two.
func (r *Facts) Economics(d Unit, c store.Coil) heat.Economics {
	u := d.Unit
	e := heat.Economics{
		Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: heat.CleanCondenser, CallCost: r.Price("call_out") + optional.Value(u.ConsequenceCost),
		ReplaceCost: d.replaceCost(), HoursShare: optional.Value(u.HoursShare), RunningShare: optional.Value(u.RunningShare),
	}
	if d.Class.PlugIn {
		e.CleanK = heat.CleanPlugIn
	}
	if c.Role == string(heat.Evaporator) {
		e.Side, e.Fan, e.CleanK, e.OtherShare = heat.Evaporator, heat.DuctedFan, heat.CleanAirCooler, d.otherShare()
		switch {
		case u.Medium == string(contract.UnitMediumWater):
			e.Side, e.CleanK = heat.WaterCoil, heat.CleanWaterCoil
		case d.Class.HoldsGoods:
			e.CleanK = heat.CleanColdRoom
		}
		if u.FanDrive == string(heat.HeldFlow) {
			e.Fan.Drive, e.FanDay = heat.HeldFlow, d.fanKwhDay()*r.Price("energy")
		}
	}
	if u.Compressor == string(contract.UnitCompressorVariable) {
		e.FullLoadShare = optional.Figure(u.FullLoadShare, fullLoadShare)
	}
	e.EnergyDay = d.kwhDay() * r.Price("energy")
	if own, ok := r.Earned(d.Class.ID); ok {
		e.CallsFactor = bounded(own.Calls.Mean)
		if own.Rise != nil {
			e.RiseFactor = bounded(own.Rise.Mean)
		}
	}
	return e
}

// bounded keeps a learned factor within what is believed at all.
func bounded(factor float64) float64 {
	return min(heat.MostFactor, max(heat.LeastFactor, factor))
}

// fullLoadShare of its hours a compressor of variable speed runs at full load; fanShare of the unit's energy its fan takes (assumption).
const fullLoadShare, fanShare = .3, .15

// kwhDay is what the clean unit uses in a day, as entered or by its class.
func (d Unit) kwhDay() float64 { return optional.Figure(d.Unit.EnergyKwhDay, d.Class.EnergyKwhDay) }

// fanKwhDay is what its fan uses of it.
func (d Unit) fanKwhDay() float64 { return optional.Figure(d.Unit.FanKwhDay, fanShare*d.kwhDay()) }

// replaceCost is what a new unit costs: call-outs for one coil never come to more, and for both not to more than it.
func (d Unit) replaceCost() float64 {
	return optional.Figure(d.Unit.ReplaceCost, d.Class.ReplaceCost) / float64(max(1, d.coilsHeld))
}

// Passing is the share of the air's soil that its filter lets through, against that of its class's usual one, which the class's own
// rate is meant for.
func (d Unit) Passing() float64 {
	usual := soil.Passing(d.Class.BypassShare, d.Class.FilterShare)
	own := soil.Passing(optional.Figure(d.Unit.BypassShare, d.Class.BypassShare), optional.Figure(d.Unit.FilterShare, d.Class.FilterShare))
	const least = .01 // no filter holds everything back
	return max(least, own) / max(least, usual)
}

// OverPrice is the price of a day over the limit: the site's, else the class's, else the organisation's.
func (r *Facts) OverPrice(d Unit) float64 {
	switch {
	case d.Site.OverPrice != nil:
		return *d.Site.OverPrice
	case d.Class.OverPrice != nil:
		return *d.Class.OverPrice
	}
	return r.Price("over_limit")
}

// Work is one of a coil's two cleans as it is usually done.
type Work struct {
	Method    store.Method
	direction soil.Direction
	Removal   soil.Removal
	Cost      float64
	// usual is false where nobody has done it here yet and the method is assumed.
	usual    bool
	Minutes  float64
	material float64
	// cleaner that was used last, and the litres it took on average; nil where it is dry or was never done.
	Cleaner *store.Cleaner
	Litres  float64
	// Passes are the methods of its passes in their order, by code.
	Passes []string
	people int
	family soil.Family
	// plan is the one that was accepted for it, where one was; next the one for the next time, which may be another.
	plan, next WorkPlan
}

// Wet reports whether a pass of it brings water.
func (w Work) Wet() bool {
	return w.Method.Wet || slices.ContainsFunc(w.Passes, func(code string) bool { return method.TechniqueOf(code).Wet() })
}

// Accepted names the passes of the plan that was accepted for the next time, with their cleaners; empty where it is done as usual.
func (w Work) Accepted() []string {
	var out []string
	for _, p := range w.next.Passes {
		name := p.Name
		if p.CleanerName != nil {
			name += " with " + *p.CleanerName
		}
		if p.TakenOut {
			name += ", taken out"
		}
		out = append(out, name)
	}
	return out
}

// People it takes.
func (w Work) People() int { return max(1, w.people) }

// assumedMethod is how a clean is taken to be done where it never was: as the class says.
func assumedMethod(d Unit, role string, kind string) string {
	switch light := kind == string(contract.TaskKindLight); {
	case light && d.Outdoors():
		return d.Class.UsualLightOutdoors
	case light:
		return d.Class.UsualLight
	case role == string(heat.Evaporator):
		return d.Class.UsualDeepAir
	}
	return d.Class.UsualDeep
}

// UsualWork is how a coil's clean was last done, with its cost: labour on site and material, without travel.
func (r *Facts) UsualWork(d Unit, c store.Coil, kind string, family soil.Family) Work {
	out := Work{Minutes: float64(d.Class.DeepMinutes)}
	if kind == string(contract.TaskKindLight) {
		out.Minutes = float64(d.Class.LightMinutes)
	}
	out.direction, out.family = soil.Against, family
	used := map[uuid.UUID][]float64{}
	removal := soil.Removal{}
	for _, v := range r.Visits[d.Unit.ID] {
		begun := false
		for _, t := range r.Treatments[v.ID] {
			if t.CoilID != c.ID || t.Work != kind {
				continue
			}
			if !begun { // the passes of this visit take the place of those before it
				begun, removal, out.material, out.Cleaner, out.Method, out.Passes = true, soil.Removal{}, 0, nil, store.Method{}, nil
			}
			out.Passes = append(out.Passes, r.Method[t.MethodID].Code)
			direction := soil.Direction(t.Direction)
			removal = removal.Then(r.Removal[t.MethodID].Removal(family, direction))
			// A clean is named after what was washed with, else after what was done last.
			if named := out.Cleaner != nil; t.CleanerID != nil || !named {
				out.Method, out.direction = r.Method[t.MethodID], direction
			}
			out.usual = true
			if t.AmountL != nil && t.CleanerID != nil {
				k := r.Cleaner[*t.CleanerID]
				used[k.ID] = append(used[k.ID], *t.AmountL)
				out.Cleaner = &k
				if pack := optional.Value(k.PackL); pack > 0 {
					out.material += *t.AmountL * optional.Value(k.PackPrice) / pack
				}
			}
		}
	}
	if !out.usual {
		code := assumedMethod(d, c.Role, kind)
		out.Passes = []string{code}
		for _, m := range r.Methods {
			if m.Code == code {
				out.Method = m
			}
		}
	}
	if out.Cleaner != nil {
		amounts := used[out.Cleaner.ID]
		for _, l := range amounts {
			out.Litres += l / float64(len(amounts))
		}
	}
	if learned, ok := r.PlanRemoval(out.Passes, family); ok {
		removal.Face, removal.Core = learned.Face, learned.Core
	}
	if out.Removal = removal; !out.usual {
		out.Removal = r.Removal[out.Method.ID].Removal(family, out.direction)
	}
	out.people = r.PeopleFor(d, kind)
	out.Cost = out.Minutes/60*r.Price("labour")*float64(out.people) + out.material
	if out.Cost <= 0 {
		out.Cost = 1 // a clean is never free
	}
	return out
}

// planned is a clean as it was accepted to be done from now on; main is the plan that follows where the first is another.
func (r *Facts) planned(usual Work, plan, main WorkPlan) Work {
	out := usual
	out.plan, out.next, out.usual = main, plan, true
	out.Minutes, out.people, out.Cost, out.Removal, out.material = plan.Minutes, plan.People, plan.Cost, plan.Removal, 0
	out.Cleaner, out.Litres, out.Passes = nil, 0, nil
	for _, p := range plan.Passes {
		out.Passes = append(out.Passes, p.Method)
		for _, m := range r.Methods {
			if m.Code == p.Method {
				out.Method, out.direction = m, soil.Against
			}
		}
		for _, c := range r.Cleaners {
			if p.Cleaner != nil && c.Code == *p.Cleaner {
				out.Cleaner = &c
			}
		}
	}
	return out
}

// Reasons say what a clean is taken to cost.
func (w Work) Reasons() []reason.Reason {
	code := reason.CleanCost
	if !w.usual {
		code = reason.CleanCostAssumed
	}
	return []reason.Reason{{
		Code: code, Evidence: reason.Assumption,
		Numbers: reason.Numbers{"cost": w.Cost, "minutes": w.Minutes, "material": w.material, "face": w.Removal.Face, "core": w.Removal.Core},
		Names:   reason.Names{"method": w.Method.Name},
	}}
}

// EnergyReasons say what the money of soil rests on.
func (r *Facts) EnergyReasons(d Unit, c Coil) []reason.Reason {
	e := r.Economics(d, c.Coil)
	code := reason.EnergyAssumed
	if d.Unit.EnergyKwhDay != nil {
		code = reason.EnergyEntered
	}
	b := e.At(soil.Load(r.Limit))
	out := []reason.Reason{
		{Code: code, Evidence: reason.Assumption, Numbers: reason.Numbers{"kwh": d.kwhDay(), "price": r.Price("energy"), "day": e.EnergyDay}, Names: reason.Names{"class": d.Class.Name}},
		{
			Code: reason.SoilCost, Evidence: reason.Assumption,
			Numbers: reason.Numbers{"blocked": r.Limit, "flow": b.Airflow, "rise": b.RiseK, "factor": b.Factor, "fan": b.FanPower, "energy": b.EnergyDay, "calls": b.CallsYear},
			Names:   reason.Names{"side": string(e.Side)},
		},
		{Code: reason.CapacityLost, Evidence: reason.Assumption, Numbers: reason.Numbers{"blocked": r.Limit, "lost": 1 - b.Capacity}},
	}
	if e.HoursShare > 0 || e.RunningShare > 0 || e.FullLoadShare > 0 {
		out = append(out, reason.Reason{
			Code: reason.Runs, Evidence: reason.Assumption,
			Numbers: reason.Numbers{"hours": e.HoursShare, "running": e.RunningShare, "full": e.FullLoadShare},
		})
	}
	own, _ := r.Earned(d.Class.ID)
	if own.CallsExpected > 0 {
		out = append(out, reason.Reason{
			Code: reason.CallsLearned, Evidence: reason.Assumption,
			Numbers: reason.Numbers{"seen": float64(own.CallsSeen), "expected": own.CallsExpected, "times": e.CallsFactor, "unit_years": own.UnitYears},
			Names:   reason.Names{"class": d.Class.Name},
		})
	} else {
		out = append(out, reason.Reason{Code: reason.CallsUnlogged, Evidence: reason.Assumption, Names: reason.Names{"class": d.Class.Name}})
	}
	if e.At(soil.Load(c.Blocked)).Bounded {
		out = append(out, reason.Reason{Code: reason.CallsBounded, Evidence: reason.Assumption, Numbers: reason.Numbers{"replace": e.ReplaceCost}})
	}
	if rise := own.Rise; rise != nil {
		out = append(out, reason.Reason{
			Code: reason.RiseLearned, Evidence: reason.Assumption,
			Numbers: reason.Numbers{"pairs": float64(own.RisePairs), "times": rise.Mean, "low": rise.P10, "high": rise.P90}, Names: reason.Names{"class": d.Class.Name},
		})
	}
	return out
}
