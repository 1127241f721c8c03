package service

import (
	"strings"

	"github.com/google/uuid"

	"nextround/core/heat"
	"nextround/core/method"
	"nextround/core/soil"
	"nextround/internal/store"
)

// plugIn are the classes that come with their compressor beside the coil and a plug on the lead; the goods in those of
// cooledGoods warm while the unit is off; withPan have standing water (common practice, no source).
var (
	plugIn      = map[string]bool{"undercounter_cooler": true, "display_cooler": true, "reach_in": true, "ice_machine": true}
	cooledGoods = map[string]bool{"undercounter_cooler": true, "display_cooler": true, "reach_in": true, "unit_cooler": true, "remote_condenser": true}
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

// cleanerFacts, methodFacts and soilFacts are catalogue rows as the core takes them.
func cleanerFacts(k store.Cleaner) method.Cleaner {
	return method.Cleaner{
		Code: k.Code, Name: k.Name, Form: method.Form(k.Form), PH: value(k.Ph), Duty: method.Duty(k.Duty),
		PartsFrom: value(k.WaterPartsFrom), PartsTo: value(k.WaterPartsTo), DwellMinS: value(k.DwellMinS), DwellMaxS: value(k.DwellMaxS),
		Rinse: k.Rinse, Microchannel: k.Microchannel, Indoors: k.Indoors, NearFood: k.NearFood, Flammable: k.Flammable,
		Protection: k.Protection, Caution: k.Caution, PackL: value(k.PackL), PackPrice: value(k.PackPrice),
	}
}

func (c catalogue) methodFacts(m store.Method) soil.Method {
	r := c.removal[m.ID]
	return soil.Method{Code: m.Code, Name: m.Name, Dust: r.Dust, Grease: r.Grease, Driven: m.Driven, Wet: m.Wet}
}

func soilFacts(k store.SoilKind) soil.Kind {
	out := soil.Kind{Code: k.Code, Name: k.Name, Family: soil.Family(k.Family), Penetration: k.Penetration}
	copy(out.Months[:], k.MonthWeights)
	return out
}

func (c catalogue) prices() method.Prices {
	out := method.Prices{}
	for _, r := range c.rates {
		switch r.Code {
		case "labour":
			out.LabourHour = r.Amount
		case "water":
			out.WaterM3 = r.Amount
		}
	}
	return out
}

// table is the house's own saturation table of a refrigerant, nil when it has none.
func (c catalogue) table(code string) []heat.TablePoint {
	for _, t := range c.tables {
		if t.Code == code {
			var points []heat.TablePoint
			if t.Points.Into(&points) == nil {
				return points
			}
		}
	}
	return nil
}

// access of a unit in force on a day.
func (r *register) access(d dossier) store.UnitAccess {
	out := store.UnitAccess{People: 1}
	for _, x := range r.facts.Access {
		if x.UnitID == d.unit.ID && x.Valid.Holds(d.today) {
			out = x
		}
	}
	return out
}

// adviceInput is what advice on a coil rests on, but for the soil found and the work.
func (r *register) adviceInput(d dossier, c coilDossier) method.AdviceInput {
	_, burns := refrigerant(d.unit)
	area := 0.0
	for _, s := range c.sides {
		area += value(s.AreaM2)
	}
	in := method.AdviceInput{
		Coil: method.Coil{
			Construction: method.Construction(c.Construction), Slabs: max(c.Slabs, 1), Role: c.Role, FaceM2: area, CapacityKw: value(d.unit.CapacityKw),
			PlugIn: plugIn[d.class.Code], Movable: carriedOut[d.class.Code], DeepMinutes: float64(d.class.DeepMinutes),
			Flammable: burns,
		},
		Place: method.Place{
			Setting: d.placement.Setting, NearFood: d.placement.NearFood, Occupied: d.placement.Occupied, WallBacked: d.placement.WallBacked,
			Water: waterAt(d.site.Water, d.placement.Setting), Drain: d.placement.Drain != "",
		},
		Found: method.Found{Kind: r.coilSoil(c)}, Work: "deep", Rules: r.practice(d.site.ID, d.unit.ID), LimitShare: r.limit, Prices: r.prices(),
		Cleaners: []method.Cleaner{}, Methods: []soil.Method{}, Kinds: []soil.Kind{},
	}
	in.Coil.DoseFactor, _ = r.doseFactor(d.unit.ID)
	for _, k := range r.cleaners {
		in.Cleaners = append(in.Cleaners, cleanerFacts(k))
	}
	for _, m := range r.methods {
		in.Methods = append(in.Methods, r.methodFacts(m))
	}
	for _, k := range r.soils {
		in.Kinds = append(in.Kinds, soilFacts(k))
	}
	return in
}

// coilSoil is the soil most to be expected on a coil: that of its worst side.
func (r *register) coilSoil(c coilDossier) string {
	at := max(c.worst, 0)
	if at < len(c.sides) {
		return c.sides[at].kind.Code
	}
	return "mixed"
}

// doseFactor is the unit's own ratio of cleaner used to planned, and from how many doses.
func (r *register) doseFactor(unit uuid.UUID) (float64, int) {
	var used, planned []float64
	for _, v := range r.visits[unit] {
		for _, t := range r.treatments[v.ID] {
			if t.AmountL != nil && t.PlannedL != nil {
				used, planned = append(used, *t.AmountL), append(planned, *t.PlannedL)
			}
		}
	}
	return method.DoseFactor(used, planned)
}

// standingTags are what a visit to a unit is like, whatever is done there.
func (r *register) standingTags(d dossier, watched bool) map[string]bool {
	access := r.access(d)
	_, burns := refrigerant(d.unit)
	slabs := false
	for _, c := range d.coils {
		slabs = slabs || c.Slabs > 1
	}
	outdoors := d.placement.Setting == "outdoor" || d.placement.Setting == "roof"
	return map[string]bool{
		"outdoors": outdoors, "indoors": !outdoors, "roof": d.placement.Setting == "roof", "plug_in": plugIn[d.class.Code],
		"slabs": slabs, "flammable": burns, "near_food": d.placement.NearFood,
		"occupied": d.placement.Occupied, "ladder": access.LadderM != nil, "two_people": access.People > 1, "watched": watched,
		"pan": withPan[d.class.Code], "cooled_goods": cooledGoods[d.class.Code],
	}
}

// readingContext is what is known of a unit that makes its readings judgeable.
func (r *register) readingContext(d dossier) heat.Context {
	code, _ := refrigerant(d.unit)
	out := heat.Context{PlugIn: plugIn[d.class.Code], HeightM: value(d.site.AltitudeM), Table: r.table(code)}
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
