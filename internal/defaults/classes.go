package defaults

import (
	"nextround/core/heat"
	"nextround/core/reason"
)

// Side is a default side of a coil: a flow path parallel to the other sides of the same coil.
type Side struct {
	Role string
	Name string
	Area float64
}

// Companion is a clock beside light and deep (common practice, no source; where a range of days is met in practice its
// shorter end stands here).
type Companion struct {
	Kind, Doer string
	Days       int
}

const (
	technician = "technician"
	siteStaff  = "site_staff"
)

// Traits of a class that decide steps, rules and money (common practice, no source).
type Traits struct {
	// PlugIn: it comes with its compressor beside the coil and a plug on the lead.
	PlugIn bool
	// HoldsGoods: what it cools warms while it is off.
	HoldsGoods bool
	// Pan: water stands under the coil.
	Pan bool
	// Movable: it can be carried out to be cleaned.
	Movable bool
	// BaseTrough: debris gathers in its base.
	BaseTrough bool
	// Wheel: a blower wheel stands behind the coil.
	Wheel bool
	// OpensElectrics: a deep clean opens electrical covers.
	OpensElectrics bool
}

// Usual are the methods a class is taken to be cleaned with where it never was; DeepAir is for the coil in the room's air.
type Usual struct{ Light, LightOutdoors, Deep, DeepAir string }

var usual = Usual{Light: "brush_vacuum", LightOutdoors: "closed_hose_down", Deep: "foam_rinse", DeepAir: "tank_sprayer"}

// Class is an equipment class. Minutes are on site for one coil (assumption, but for outdoor condensing units,
// 40 to 60 min by common practice); People is for a deep clean.
type Class struct {
	Code, Name   string
	Evidence     reason.Evidence
	Soil         string
	EnergyKwhDay float64
	// ReplaceCost is what a new one costs, put in (assumption, in the organisation's currency).
	ReplaceCost float64
	// Filter is what its usual filter holds back of what goes through it, Bypass what goes past (assumption).
	Filter, Bypass float64
	// Load says in which months it works; left out, all year round.
	Load                      heat.Load
	ReferenceDays             float64
	LightDays, DeepDays       int
	MaxDays                   int
	LightMinutes, DeepMinutes int
	People                    int
	Traits                    Traits
	Usual                     Usual
	Sides                     []Side
	Companions                []Companion
}

func one(role, name string) []Side { return []Side{{role, name, 1}} }

// OtherMinutes is how long what is no clean takes on site, at units of any class (assumption).
var OtherMinutes = map[string]int{
	"inspect": 20, "filter": 15, "grille": 10, "tablet": 5, "drain": 10, "pump": 10, "recheck": 10, "look": 10, "symptom": 30,
}

// Classes are the equipment classes. Reference days, class maximum (twice the deep interval) and the energy of a clean unit are
// assumptions from the habits; a class whose clocks are assumed says so.
var Classes = []Class{
	{
		Code: "undercounter_cooler", Name: "Under-counter cooler", Evidence: reason.CommonPractice, Soil: "grease", EnergyKwhDay: 6, ReplaceCost: 1800,
		ReferenceDays: 91, LightDays: 0, DeepDays: 91, MaxDays: 182, LightMinutes: 10, DeepMinutes: 30, People: 1,
		Traits:     Traits{PlugIn: true, HoldsGoods: true, Movable: true},
		Usual:      Usual{Light: "brush_vacuum", LightOutdoors: "closed_hose_down", Deep: "long_brush", DeepAir: "long_brush"},
		Sides:      one("condenser", "front"),
		Companions: []Companion{{"grille", siteStaff, 7}},
	},
	{
		Code: "display_cooler", Name: "Glass-door display cooler", Evidence: reason.Assumption, Soil: "dust", EnergyKwhDay: 8, ReplaceCost: 1600,
		ReferenceDays: 45, LightDays: 30, DeepDays: 182, MaxDays: 364, LightMinutes: 12, DeepMinutes: 30, People: 1,
		Traits:     Traits{PlugIn: true, HoldsGoods: true, Movable: true},
		Usual:      Usual{Light: "brush_vacuum", LightOutdoors: "closed_hose_down", Deep: "brush_vacuum", DeepAir: "brush_vacuum"},
		Sides:      one("condenser", "front"),
		Companions: []Companion{{"grille", siteStaff, 30}},
	},
	{
		Code: "reach_in", Name: "Reach-in fridge or freezer", Evidence: reason.CommonPractice, Soil: "dust", EnergyKwhDay: 9, ReplaceCost: 3000,
		ReferenceDays: 182, LightDays: 0, DeepDays: 182, MaxDays: 365, LightMinutes: 10, DeepMinutes: 35, People: 1,
		Traits: Traits{PlugIn: true, HoldsGoods: true, Movable: true},
		Usual:  Usual{Light: "brush_vacuum", LightOutdoors: "closed_hose_down", Deep: "long_brush", DeepAir: "long_brush"},
		Sides:  one("condenser", "rear"),
	},
	{
		Code: "outdoor_condensing", Name: "Outdoor condensing unit", Evidence: reason.CommonPractice, Soil: "leaf_grass", EnergyKwhDay: 22, ReplaceCost: 4500, Load: heat.CoolingLoad,
		ReferenceDays: 365, LightDays: 30, DeepDays: 365, MaxDays: 730, LightMinutes: 15, DeepMinutes: 50, People: 1,
		Traits: Traits{BaseTrough: true, OpensElectrics: true},
		Usual:  usual,
		Sides:  []Side{{"condenser", "front", .25}, {"condenser", "left", .25}, {"condenser", "right", .25}, {"condenser", "wall side", .25}},
	},
	{
		Code: "packaged_unit", Name: "Packaged unit or heat pump", Evidence: reason.CommonPractice, Soil: "dust", EnergyKwhDay: 60, ReplaceCost: 18000, Filter: .2, Bypass: .1, Load: heat.BothLoad,
		ReferenceDays: 365, LightDays: 0, DeepDays: 365, MaxDays: 730, LightMinutes: 20, DeepMinutes: 75, People: 1,
		Traits:     Traits{Pan: true, BaseTrough: true, OpensElectrics: true},
		Usual:      usual,
		Sides:      []Side{{"condenser", "left bank", .5}, {"condenser", "right bank", .5}, {"evaporator", "air-in side", 1}},
		Companions: []Companion{{"inspect", technician, 182}, {"filter", technician, 91}},
	},
	{
		Code: "wall_unit", Name: "Wall-mounted indoor unit", Evidence: reason.CommonPractice, Soil: "dust", EnergyKwhDay: 8, ReplaceCost: 2200, Filter: .2, Bypass: .1, Load: heat.CoolingLoad,
		ReferenceDays: 365, LightDays: 0, DeepDays: 365, MaxDays: 730, LightMinutes: 15, DeepMinutes: 60, People: 1,
		Traits:     Traits{Pan: true, Wheel: true, OpensElectrics: true},
		Usual:      usual,
		Sides:      append(one("evaporator", "front face"), Side{"back", "rear face", 1}),
		Companions: []Companion{{"filter", siteStaff, 30}, {"drain", technician, 365}},
	},
	{
		Code: "cassette", Name: "Ceiling cassette", Evidence: reason.CommonPractice, Soil: "dust", EnergyKwhDay: 14, ReplaceCost: 3500, Filter: .2, Bypass: .1, Load: heat.CoolingLoad,
		ReferenceDays: 365, LightDays: 0, DeepDays: 365, MaxDays: 730, LightMinutes: 15, DeepMinutes: 70, People: 1,
		Traits:     Traits{Pan: true, Wheel: true, OpensElectrics: true},
		Usual:      usual,
		Sides:      one("evaporator", "coil ring"),
		Companions: []Companion{{"filter", technician, 30}, {"tablet", technician, 91}, {"drain", technician, 365}, {"pump", technician, 365}},
	},
	{
		Code: "ceiling_room_cooler", Name: "Ceiling-mounted room cooler", Evidence: reason.CommonPractice, Soil: "dust", EnergyKwhDay: 12, ReplaceCost: 3000, Filter: .2, Bypass: .1,
		ReferenceDays: 182, LightDays: 0, DeepDays: 182, MaxDays: 364, LightMinutes: 15, DeepMinutes: 50, People: 1,
		Traits:     Traits{Pan: true, OpensElectrics: true},
		Usual:      usual,
		Sides:      one("evaporator", "air-in side"),
		Companions: []Companion{{"filter", technician, 30}, {"tablet", technician, 91}, {"drain", technician, 182}, {"pump", technician, 182}},
	},
	{
		Code: "through_wall", Name: "Through-wall terminal unit", Evidence: reason.CommonPractice, Soil: "dust", EnergyKwhDay: 10, ReplaceCost: 1800, Filter: .2, Bypass: .1, Load: heat.CoolingLoad,
		ReferenceDays: 182, LightDays: 0, DeepDays: 182, MaxDays: 364, LightMinutes: 15, DeepMinutes: 45, People: 2,
		Traits:     Traits{Pan: true, Movable: true, OpensElectrics: true},
		Usual:      usual,
		Sides:      append(one("condenser", "outdoor face"), Side{"evaporator", "room face", 1}),
		Companions: []Companion{{"filter", siteStaff, 30}, {"tablet", technician, 91}},
	},
	{
		Code: "air_handler", Name: "Ducted indoor unit", Evidence: reason.CommonPractice, Soil: "dust", EnergyKwhDay: 30, ReplaceCost: 9000, Filter: .2, Bypass: .1, Load: heat.CoolingLoad,
		ReferenceDays: 365, LightDays: 0, DeepDays: 365, MaxDays: 730, LightMinutes: 20, DeepMinutes: 80, People: 1,
		Traits:     Traits{Pan: true, Wheel: true, OpensElectrics: true},
		Usual:      usual,
		Sides:      one("evaporator", "air-in side"),
		Companions: []Companion{{"filter", technician, 30}, {"inspect", technician, 182}, {"tablet", technician, 91}, {"drain", technician, 365}},
	},
	{
		Code: "remote_condenser", Name: "Remote refrigeration condenser", Evidence: reason.Assumption, Soil: "dust", EnergyKwhDay: 90, ReplaceCost: 15000,
		ReferenceDays: 182, LightDays: 91, DeepDays: 365, MaxDays: 730, LightMinutes: 20, DeepMinutes: 60, People: 1,
		Traits: Traits{HoldsGoods: true, BaseTrough: true, OpensElectrics: true},
		Usual:  usual,
		Sides:  []Side{{"condenser", "bank 1", .5}, {"condenser", "bank 2", .5}},
	},
	{
		Code: "unit_cooler", Name: "Cold-room unit cooler", Evidence: reason.Assumption, Soil: "biofilm", EnergyKwhDay: 25, ReplaceCost: 4000,
		ReferenceDays: 365, LightDays: 0, DeepDays: 182, MaxDays: 364, LightMinutes: 15, DeepMinutes: 55, People: 1,
		Traits: Traits{HoldsGoods: true, Pan: true, OpensElectrics: true},
		Usual:  usual,
		Sides:  one("evaporator", "air-in side"),
	},
	{
		Code: "ice_machine", Name: "Ice machine", Evidence: reason.Assumption, Soil: "dust", EnergyKwhDay: 18, ReplaceCost: 4000,
		ReferenceDays: 60, LightDays: 30, DeepDays: 182, MaxDays: 364, LightMinutes: 12, DeepMinutes: 35, People: 1,
		Traits: Traits{PlugIn: true},
		Usual:  Usual{Light: "brush_vacuum", LightOutdoors: "closed_hose_down", Deep: "long_brush", DeepAir: "long_brush"},
		Sides:  one("condenser", "front"),
	},
}

// ClassTags are the tags of the steps that a class brings: what it has, and where it usually stands.
func ClassTags(code string) map[string]bool {
	out := map[string]bool{}
	for _, c := range Classes {
		if c.Code != code {
			continue
		}
		t := c.Traits
		for tag, on := range map[string]bool{
			"plug_in": t.PlugIn, "cooled_goods": t.HoldsGoods, "pan": t.Pan, "base_trough": t.BaseTrough, "wheel": t.Wheel, "opens_electrics": t.OpensElectrics,
			"two_people": c.People > 1, "outdoors": outdoorClasses[code], "indoors": !outdoorClasses[code],
		} {
			if on {
				out[tag] = true
			}
		}
		for _, companion := range c.Companions {
			if companion.Kind != "inspect" {
				out[companion.Kind] = true
			}
		}
	}
	return out
}

// outdoorClasses usually stand under the sky.
var outdoorClasses = map[string]bool{"outdoor_condensing": true, "packaged_unit": true, "remote_condenser": true}
