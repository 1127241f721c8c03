package dossier

import (
	"slices"
	"strings"

	"github.com/google/uuid"

	"nextround/core/heat"
	"nextround/core/method"
	"nextround/core/soil"
	"nextround/core/workplan"
	"nextround/internal/contract"
	"nextround/internal/optional"
	"nextround/internal/store"
)

// refrigerant is the code of a unit's refrigerant as the core knows it.
func refrigerant(u store.Unit) string {
	if known, ok := heat.RefrigerantByCode(u.Refrigerant); ok {
		return known.Code
	}
	return strings.TrimSpace(u.Refrigerant)
}

// burns counts what nobody has answered as flammable: being wrong that way costs a little air and no fire.
func burns(u store.Unit) bool { return u.Flammable != string(contract.YesNoNo) }

// Water is whether there is running water where the unit stands: what its placement says, else what the site says.
func (d Unit) Water() contract.YesNo {
	if d.Placement.Water == string(contract.YesNoUnknown) || d.Placement.Water == "" {
		return contract.YesNo(d.Site.Water)
	}
	return contract.YesNo(d.Placement.Water)
}

// Outdoors reports whether the unit stands under the sky.
func (d Unit) Outdoors() bool {
	return method.Place{Setting: method.Setting(d.Placement.Setting)}.Outdoors()
}

// CleanerFacts is a cleaner of the catalogue as the core takes it.
func CleanerFacts(k store.Cleaner) method.Cleaner {
	return method.Cleaner{
		Code: k.Code, Name: k.Name, Form: method.Form(k.Form), PH: optional.Value(k.Ph), Duty: method.Duty(k.Duty),
		PartsFrom: optional.Value(k.WaterPartsFrom), PartsTo: optional.Value(k.WaterPartsTo), DwellMinS: optional.Value(k.DwellMinS), DwellMaxS: optional.Value(k.DwellMaxS),
		Rinse: k.Rinse, Microchannel: k.Microchannel, Indoors: k.Indoors, NearFood: k.NearFood, Flammable: k.Flammable, Foams: k.Foams, Disinfects: k.Disinfects,
		Protection: k.Protection, Caution: k.Caution, PackL: optional.Value(k.PackL), PackPrice: optional.Value(k.PackPrice),
	}
}

func soilFacts(k store.SoilKind) soil.Kind {
	out := soil.Kind{Code: k.Code, Name: k.Name, Family: soil.Family(k.Family), Penetration: k.Penetration}
	copy(out.Months[:], k.MonthWeights)
	return out
}

// Access of a unit in force on a day.
func (r *Facts) Access(d Unit) store.UnitAccess {
	out := store.UnitAccess{People: 1}
	for _, x := range r.Rows.Access {
		if x.UnitID == d.Unit.ID && x.Valid.Holds(d.Today) {
			out = x
		}
	}
	return out
}

// PeopleFor is how many a clean of a kind takes: as the unit's access says, else as its class asks for a deep clean, else one.
func (r *Facts) PeopleFor(d Unit, kind string) int {
	for _, x := range r.Rows.Access {
		if x.UnitID == d.Unit.ID && x.Valid.Holds(d.Today) {
			return max(1, x.People)
		}
	}
	if kind == string(contract.TaskKindDeep) {
		return max(1, d.Class.People)
	}
	return 1
}

// AdviceInput is what advice on a coil rests on, but for the soil found and the work.
func (r *Facts) AdviceInput(d Unit, c Coil) workplan.Input {
	area := 0.0
	for _, s := range c.Sides {
		area += optional.Value(s.AreaM2)
	}
	in := r.adviceFor(d, c.Coil, area)
	in.Found = method.Found{Kind: r.coilSoil(c)}
	return in
}

// adviceFor is what advice rests on beside what is found.
func (r *Facts) adviceFor(d Unit, c store.Coil, area float64) workplan.Input {
	in := workplan.Input{
		Coil: method.Coil{
			Construction: method.Construction(c.Construction), Slabs: max(c.Slabs, 1), Role: c.Role, FaceM2: area, CapacityKw: optional.Value(d.Unit.CapacityKw),
			PlugIn: d.Class.PlugIn, Movable: d.Class.Movable, DeepMinutes: float64(d.Class.DeepMinutes),
			Flammable: burns(d.Unit), FlammableUnknown: d.Unit.Flammable == string(contract.YesNoUnknown),
		},
		Place: method.Place{
			Setting: method.Setting(d.Placement.Setting), NearFood: d.Placement.NearFood, Occupied: d.Placement.Occupied, WallBacked: d.Placement.WallBacked,
			Water: d.Water() == contract.YesNoYes, Drain: d.Placement.Drain == string(contract.YesNoYes), WaterUnknown: d.Water() == contract.YesNoUnknown,
		},
		Work: workplan.DeepWork, Rules: r.Practice(d.Site.ID, d.Unit.ID), LimitShare: r.Limit, Prices: r.Prices(),
		Cleaners: []method.Cleaner{}, Methods: []soil.Method{}, Kinds: []soil.Kind{},
	}
	in.Coil.DoseFactor, _ = r.doseFactor(d.Unit.ID)
	for _, k := range r.Cleaners {
		in.Cleaners = append(in.Cleaners, CleanerFacts(k))
	}
	for _, m := range r.Methods {
		in.Methods = append(in.Methods, r.MethodFacts(m))
	}
	for _, k := range r.Soils {
		in.Kinds = append(in.Kinds, soilFacts(k))
	}
	return in
}

// coilSoil is the soil most to be expected on a coil: that of its worst side.
func (r *Facts) coilSoil(c Coil) string {
	at := max(c.Worst, 0)
	if at < len(c.Sides) {
		return c.Sides[at].Soil.Code
	}
	return "mixed"
}

// doseFactor is the unit's own ratio of cleaner used to planned, and from how many doses.
func (r *Facts) doseFactor(unit uuid.UUID) (float64, int) {
	var used, planned []float64
	for _, v := range r.Visits[unit] {
		for _, t := range r.Treatments[v.ID] {
			if t.AmountL != nil && t.PlannedL != nil {
				used, planned = append(used, *t.AmountL), append(planned, *t.PlannedL)
			}
		}
	}
	return method.DoseFactor(used, planned)
}

// StandingTags are what a visit to a unit is like, whatever is done there.
func (r *Facts) StandingTags(d Unit, watched bool) map[string]bool {
	access := r.Access(d)
	slabs := false
	for _, c := range d.Coils {
		slabs = slabs || c.Slabs > 1
	}
	outdoors := d.Outdoors()
	tags := map[string]bool{
		"outdoors": outdoors, "indoors": !outdoors, "roof": d.Placement.Setting == string(method.Roof), "plug_in": d.Class.PlugIn,
		"slabs": slabs, "flammable": burns(d.Unit), "near_food": d.Placement.NearFood,
		"occupied": d.Placement.Occupied, "ladder": access.LadderM != nil, "two_people": r.PeopleFor(d, string(contract.TaskKindDeep)) > 1, "watched": watched,
		"pan": d.Class.Pan, "cooled_goods": d.Class.HoldsGoods, "base_trough": d.Class.BaseTrough, "wheel": d.Class.Wheel,
		"opens_electrics": d.Class.OpensElectrics, "guards": access.Guards > 0 || access.Panels != "",
	}
	for _, task := range r.Companions[d.Unit.ID] {
		if slices.Contains(companionTags, task.Kind) {
			tags[task.Kind] = true
		}
	}
	return tags
}

// companionTags are the companion clocks that bring steps.
var companionTags = []string{"filter", "grille", "tablet", "drain", "pump"}

// ReadingContext is what is known of a unit that makes its readings judgeable.
func (r *Facts) ReadingContext(d Unit) heat.Context {
	code := refrigerant(d.Unit)
	out := heat.Context{PlugIn: d.Class.PlugIn, HeightM: optional.Value(d.Site.AltitudeM), Table: r.Table(code)}
	if _, known := heat.RefrigerantByCode(code); known || out.Table != nil {
		out.Refrigerant = code
	}
	return out
}
