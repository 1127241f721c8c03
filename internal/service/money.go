package service

import (
	"github.com/google/uuid"

	"nextround/core/heat"
	"nextround/core/reason"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// price of the house by its code, 0 where there is none.
func (c catalogue) price(code string) float64 {
	for _, r := range c.rates {
		if r.Code == code {
			return r.Amount
		}
	}
	return 0
}

// economics of a coil: the energy of the clean unit, the difference to the air it works at, its fan and its call-outs.
func (r *register) economics(d dossier, c store.Coil) heat.Economics {
	e := heat.Economics{Side: heat.Condenser, Fan: heat.CondenserFan, CleanK: heat.CleanCondenser, CallCost: r.price("call_out") + value(d.unit.ConsequenceCost)}
	if plugIn[d.class.Code] {
		e.CleanK = heat.CleanPlugIn
	}
	if c.Role == string(heat.Evaporator) {
		e.Side, e.Fan, e.CleanK = heat.Evaporator, heat.DuctedFan, heat.CleanAirCooler
		if cooledGoods[d.class.Code] {
			e.CleanK = heat.CleanColdRoom
		}
	}
	kwh := d.class.EnergyKwhDay
	if d.unit.EnergyKwhDay != nil {
		kwh = *d.unit.EnergyKwhDay
	}
	e.EnergyDay = kwh * r.price("energy")
	return e
}

// overPrice is the price of a day over the limit: the site's, else the class's, else the house's.
func (r *register) overPrice(d dossier) float64 {
	switch {
	case d.site.OverPrice != nil:
		return *d.site.OverPrice
	case d.class.OverPrice != nil:
		return *d.class.OverPrice
	}
	return r.price("over_limit")
}

// work is one of a coil's two cleans as it is usually done.
type work struct {
	method    store.Method
	direction soil.Direction
	removal   soil.Removal
	cost      float64
	// usual is false where nobody has done it here yet and the method is assumed.
	usual    bool
	minutes  float64
	material float64
	// cleaner that was used last, and the litres it took on average; nil where it is dry or was never done.
	cleaner *store.Cleaner
	litres  float64
}

// assumedMethod is how a clean is taken to be done where it never was (common practice).
func assumedMethod(d dossier, role string, kind string) string {
	outside := d.placement.Setting == "outdoor" || d.placement.Setting == "roof"
	switch light := kind == string(contract.TaskKindLight); {
	case light && outside:
		return "closed_hose_down"
	case light || d.class.Code == "display_cooler":
		return "brush_vacuum"
	case plugIn[d.class.Code]:
		return "long_brush"
	case role == string(heat.Evaporator):
		return "tank_sprayer"
	}
	return "foam_rinse"
}

// usualWork is how a coil's clean was last done, with its cost: labour on site and material, without travel.
func (r *register) usualWork(d dossier, c store.Coil, kind string, family soil.Family) work {
	out := work{minutes: float64(d.class.DeepMinutes)}
	if kind == string(contract.TaskKindLight) {
		out.minutes = float64(d.class.LightMinutes)
	}
	out.direction = soil.Against
	used := map[uuid.UUID][]float64{}
	for _, v := range r.visits[d.unit.ID] {
		for _, t := range r.treatments[v.ID] {
			if t.CoilID != c.ID || t.Work != kind {
				continue
			}
			out.method, out.direction, out.usual, out.material = r.method[t.MethodID], soil.Direction(t.Direction), true, 0
			out.cleaner = nil
			if t.AmountL != nil && t.CleanerID != nil {
				k := r.cleaner[*t.CleanerID]
				used[k.ID] = append(used[k.ID], *t.AmountL)
				out.cleaner = &k
				if pack := value(k.PackL); pack > 0 {
					out.material = *t.AmountL * value(k.PackPrice) / pack
				}
			}
		}
	}
	if !out.usual {
		code := assumedMethod(d, c.Role, kind)
		for _, m := range r.methods {
			if m.Code == code {
				out.method = m
			}
		}
	}
	if out.cleaner != nil {
		amounts := used[out.cleaner.ID]
		for _, l := range amounts {
			out.litres += l / float64(len(amounts))
		}
	}
	out.removal = r.removal[out.method.ID].Removal(family, out.direction)
	out.cost = out.minutes/60*r.price("labour")*float64(max(1, r.access(d).People)) + out.material
	if out.cost <= 0 {
		out.cost = 1 // a clean is never free
	}
	return out
}

// reachesCore is the share of the core a deep clean has to take to be one (assumption).
const reachesCore = .3

// deeper is the deep clean a ladder is worked with: the usual one, or, where that leaves the core, one that reaches it.
func (r *register) deeper(d dossier, c store.Coil, usual work, family soil.Family) (work, []reason.Reason) {
	if usual.removal.Core >= reachesCore {
		return usual, usual.reasons()
	}
	code := assumedMethod(d, c.Role, string(contract.TaskKindDeep))
	if plugIn[d.class.Code] {
		code = "aerosol_rinse"
	}
	out := usual
	for _, m := range r.methods {
		if m.Code == code {
			out.method, out.direction, out.removal = m, soil.Against, r.removal[m.ID].Removal(family, soil.Against)
		}
	}
	out.cost = float64(d.class.DeepMinutes)/60*r.price("labour")*float64(max(1, r.access(d).People)) + out.material
	return out, []reason.Reason{{
		Code: "deep_changed", Evidence: reason.Assumption,
		Numbers: reason.Numbers{"core": usual.removal.Core, "better": out.removal.Core, "cost": out.cost},
		Names:   reason.Names{"was": usual.method.Name, "method": out.method.Name},
	}}
}

func (w work) reasons() []reason.Reason {
	code := "clean_cost"
	if !w.usual {
		code = "clean_cost_assumed"
	}
	return []reason.Reason{{
		Code: code, Evidence: reason.Assumption,
		Numbers: reason.Numbers{"cost": w.cost, "minutes": w.minutes, "material": w.material, "face": w.removal.Face, "core": w.removal.Core},
		Names:   reason.Names{"method": w.method.Name},
	}}
}

// energyReasons say what the money of soil rests on.
func (r *register) energyReasons(d dossier, c store.Coil) []reason.Reason {
	e := r.economics(d, c)
	code, kwh := "energy_assumed", d.class.EnergyKwhDay
	if d.unit.EnergyKwhDay != nil {
		code, kwh = "energy_entered", *d.unit.EnergyKwhDay
	}
	b := e.At(soil.Load(r.limit))
	return []reason.Reason{
		{Code: code, Evidence: reason.Assumption, Numbers: reason.Numbers{"kwh": kwh, "price": r.price("energy"), "day": e.EnergyDay}, Names: reason.Names{"class": d.class.Name}},
		{
			Code: "soil_cost", Evidence: reason.Assumption,
			Numbers: reason.Numbers{"blocked": r.limit, "flow": b.Airflow, "rise": b.RiseK, "factor": b.Factor, "energy": b.EnergyDay, "calls": b.CallsYear},
			Names:   reason.Names{"side": string(e.Side)},
		},
	}
}
