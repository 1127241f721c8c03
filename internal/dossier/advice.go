package dossier

import (
	"strings"

	"github.com/google/uuid"

	"nextround/core/heat"
	"nextround/core/method"
	"nextround/core/soil"
	"nextround/internal/optional"
	"nextround/internal/store"
)

// PlugIn are the classes that come with their compressor beside the coil and a plug on the lead; the goods in those of
// cooledGoods warm while the unit is off; withPan have standing water (common practice, no source).
var (
	PlugIn      = map[string]bool{"undercounter_cooler": true, "display_cooler": true, "reach_in": true, "ice_machine": true}
	CooledGoods = map[string]bool{"undercounter_cooler": true, "display_cooler": true, "reach_in": true, "unit_cooler": true, "remote_condenser": true}
	withPan     = map[string]bool{"cassette": true, "wall_unit": true, "air_handler": true, "ceiling_room_cooler": true, "through_wall": true, "unit_cooler": true}
	carriedOut  = map[string]bool{"undercounter_cooler": true, "display_cooler": true, "reach_in": true, "through_wall": true}
)

// refrigerant is the code of a unit's refrigerant as the core knows it, and whether it burns.
func refrigerant(u store.Unit) (code string, burns bool) {
	if known, ok := heat.RefrigerantByCode(u.Refrigerant); ok {
		return known.Code, known.Flammable
	}
	return strings.TrimSpace(u.Refrigerant), false
}

// CleanerFacts is a cleaner of the catalogue as the core takes it.
func CleanerFacts(k store.Cleaner) method.Cleaner {
	return method.Cleaner{
		Code: k.Code, Name: k.Name, Form: method.Form(k.Form), PH: optional.Value(k.Ph), Duty: method.Duty(k.Duty),
		PartsFrom: optional.Value(k.WaterPartsFrom), PartsTo: optional.Value(k.WaterPartsTo), DwellMinS: optional.Value(k.DwellMinS), DwellMaxS: optional.Value(k.DwellMaxS),
		Rinse: k.Rinse, Microchannel: k.Microchannel, Indoors: k.Indoors, NearFood: k.NearFood, Flammable: k.Flammable,
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

// AdviceInput is what advice on a coil rests on, but for the soil found and the work.
func (r *Facts) AdviceInput(d Unit, c Coil) method.AdviceInput {
	_, burns := refrigerant(d.Unit)
	area := 0.0
	for _, s := range c.Sides {
		area += optional.Value(s.AreaM2)
	}
	in := method.AdviceInput{
		Coil: method.Coil{
			Construction: method.Construction(c.Construction), Slabs: max(c.Slabs, 1), Role: c.Role, FaceM2: area, CapacityKw: optional.Value(d.Unit.CapacityKw),
			PlugIn: PlugIn[d.Class.Code], Movable: carriedOut[d.Class.Code], DeepMinutes: float64(d.Class.DeepMinutes),
			Flammable: burns,
		},
		Place: method.Place{
			Setting: d.Placement.Setting, NearFood: d.Placement.NearFood, Occupied: d.Placement.Occupied, WallBacked: d.Placement.WallBacked,
			Water: waterAt(d.Site.Water, d.Placement.Setting), Drain: d.Placement.Drain != "",
		},
		Found: method.Found{Kind: r.coilSoil(c)}, Work: "deep", Rules: r.Practice(d.Site.ID, d.Unit.ID), LimitShare: r.Limit, Prices: r.Prices(),
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
	_, burns := refrigerant(d.Unit)
	slabs := false
	for _, c := range d.Coils {
		slabs = slabs || c.Slabs > 1
	}
	outdoors := d.Placement.Setting == "outdoor" || d.Placement.Setting == "roof"
	return map[string]bool{
		"outdoors": outdoors, "indoors": !outdoors, "roof": d.Placement.Setting == "roof", "plug_in": PlugIn[d.Class.Code],
		"slabs": slabs, "flammable": burns, "near_food": d.Placement.NearFood,
		"occupied": d.Placement.Occupied, "ladder": access.LadderM != nil, "two_people": access.People > 1, "watched": watched,
		"pan": withPan[d.Class.Code], "cooled_goods": CooledGoods[d.Class.Code],
	}
}

// ReadingContext is what is known of a unit that makes its readings judgeable.
func (r *Facts) ReadingContext(d Unit) heat.Context {
	code, _ := refrigerant(d.Unit)
	out := heat.Context{PlugIn: PlugIn[d.Class.Code], HeightM: optional.Value(d.Site.AltitudeM), Table: r.Table(code)}
	if _, known := heat.RefrigerantByCode(code); known || out.Table != nil {
		out.Refrigerant = code
	}
	return out
}

// waterAt reads the site's note on water: what it says is not on the roof, or not indoors, is not there.
func waterAt(note, setting string) bool {
	note = strings.ToLower(note)
	if setting == "roof" {
		return !strings.Contains(note, "none on")
	}
	return setting == "outdoor" || !strings.Contains(note, "none indoors")
}
