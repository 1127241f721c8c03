// Package defaults holds the catalogues every new organisation starts from, each row with its evidence grade,
// and the cautions that stand on every form and sheet. Soil kinds, methods, cleaners and
// questions of practice come from the core.
package defaults

// Version counts changes of these defaults; each copied row remembers the one it came from.
const Version = 1

// NoSource is written beside trade figures.
const NoSource = "common practice, no source"

// Assumed is written beside figures that are our own assumption.
const Assumed = "assumption"

// Factor is something at a site that makes coils soil faster (common practice, no source).
type Factor struct {
	Code, Name string
	Multiplier float64
	// Soil names the kind whose months apply; empty for an even year.
	Soil string
	// Seasonal is true where the multiplier belongs to a season, which the soil's months express.
	Seasonal bool
}

// Factors are the site factors.
var Factors = []Factor{
	{"greasy_cooking", "Greasy cooking", 4, "grease", false},
	{"animals", "Animals or hair", 4, "lint", false},
	{"foot_traffic", "Heavy foot traffic, floor-level dust", 4, "dust", false},
	{"lint", "Lint or a dryer exhaust nearby", 2, "lint", false},
	{"mowing", "Mowing and trimming", 1.5, "seed_fluff", true},
	{"seed_fluff", "Seed fluff", 2, "seed_fluff", true},
	{"leaf_fall", "Falling leaves or needles", 2, "leaf_grass", true},
	{"construction_dust", "Construction or grinding dust", 3, "dust", false},
	{"sand", "Sand", 1.5, "sand", false},
	{"salt_air", "Salt air (corrodes too)", 1.3, "salt", false},
	{"built_in", "Built in tight, one breathing path", 1.3, "", false},
	{"trap_panels", "Cabinet panels that trap grass and dust", 1.3, "", false},
	{"climbing_plants", "Climbing plants", 1.5, "leaf_grass", false},
}

// CleanerSource says what the figures of cleaners rest on; the cleaners themselves are the core's.
const CleanerSource = "dwell and uses: common practice, no source; pH, duty and mix: assumption, the data sheet comes first"

// Sprayer is a setting of a sprayer that mixes. A mark means another strength on another sprayer, so each
// has a table of its own.
type Sprayer struct {
	Code, Sprayer, Setting string
	WaterParts             float64
	// TankL is what it holds, 0 where it hangs on a hose.
	TankL float64
}

// Sprayers are examples to be replaced by the organisation's own (assumption).
var Sprayers = []Sprayer{
	{"hose_strong", "Hose-end foamer", "strong", 5, 0},
	{"hose_medium", "Hose-end foamer", "medium", 8, 0},
	{"hose_weak", "Hose-end foamer", "weak", 12, 0},
	{"tank_1", "Pump-up tank, marked fills", "1", 10, 8},
	{"tank_2", "Pump-up tank, marked fills", "2", 5, 8},
	{"tank_3", "Pump-up tank, marked fills", "3", 4, 8},
}

// Rate is a price of the organisation, in its currency.
type Rate struct {
	Code, Name, Unit string
	Amount           float64
}

// Rates are start values to be replaced by the organisation's own (assumption).
var Rates = []Rate{
	{"labour", "Own labour", "per hour", 48},
	{"contractor", "Contractor", "per hour", 75},
	{"energy", "Electricity", "per kWh", .18},
	{"water", "Water", "per m³", 3.5},
	{"call_out", "Call-out, goods included", "each", 450},
	{"over_limit", "A coil over the limit", "per day", .5},
	{"co2e", "Greenhouse gas of electricity", "kg CO2e per kWh", .25},
	{"vehicle", "A vehicle on the road", "per hour", 18},
	{"overtime", "Overtime, on top", "per hour", 24},
	{"stop", "Lost at every stop", "minutes", 20},
	{"hand_back", "Handing a place back before its window ends", "minutes", 10},
	{"speed", "Speed on the road", "km/h", 35},
	{"road_factor", "Road against straight line", "times", 1.3},
	{"move_published", "Moving what was published", "each", 40},
	{"move_planned", "Moving what was only planned", "each", 4},
	{"late_day", "A job past its due date", "per day", .5},
	{"cap_missed", "A hard cap passed", "each", 500},
}

// Cautions are the usual ones, in the order of the work (common practice, no source).
var Cautions = []string{
	"Tell the people here before anything is switched off.",
	"Isolate at the breaker, disconnect or plug; a thermostat or keypad alone leaves other circuits live. Lock or tag it.",
	"Discharge the capacitors, then prove it dead between both lines and to ground with a meter tried on a live source before and after.",
	"Gloves and eyes before opening; again, by the cleaner's data sheet, before dosing. Dust mask indoors.",
	"Look for nests before pulling a panel; photograph wiring before drawing a plug. Grille edges and fins cut.",
	"Two people for anything that can tip; ladder footed; roof edge kept clear.",
	"Never mix cleaners. Skin contact: rinse at once, then follow the data sheet. Keep cleaners away from food and glasses.",
	"Flammable refrigerant or aerosol: no ignition source, ventilate.",
	"Fan off and still. No pressure washer, no slanted spray, no wet work outdoors below 4 °C.",
	"Catch rinse water and residue, keep it off drains where local rules say so, and dispose of it lawfully.",
	"Food warms while a cooler is off: keep it at or below 5 °C / 41 °F, never above it for more than 4 h.",
	"Count tools, screws, plugs and panels; see that electrics are dry before power returns.",
}

// Deferral puts others first where the work can hurt someone.
const Deferral = "These are the usual cautions only. Local codes, the maker's manual, the safety data sheet and " +
	"licensed practice come first, electrical and refrigerant work especially."

// LimitShare is the blocked share the organisation allows until it decides otherwise (assumption).
const LimitShare = 0.30

// LimitReason is why.
const LimitReason = "a coil cut by more than this is taken as due"

// RiskShare is the probability with which the limit may be passed until the organisation decides otherwise (assumption).
const RiskShare = 0.20

// RiskReason is why.
const RiskReason = "one time in five it may be passed before the next clean"

// ReportDeferral stands under every report.
const ReportDeferral = "What is advised here is the usual; local codes, the maker's manual and licensed practice come first."

// ContractorCautions are for contractors, who open and wash (common practice, no source).
var ContractorCautions = []string{
	"Report to the site before you start, and follow its own rules and permits.",
	"Isolate at the point named, lock it, discharge, and prove it dead with your own meter before anything is opened.",
	"Only the cleaners and methods that the visit offers; strong alkaline never on microchannel, never indoors.",
	"Catch what runs off where there is no drain. Roof edges, ladders and moving blades as your own rules say.",
	"Refrigerant and electrical work is for licensed people only.",
}

// GuestCautions are for people who only wipe, wash and look (common practice, no source).
var GuestCautions = []string{
	"Wipe and wash only what comes off without a tool. Grille edges are very sharp: gloves.",
	"Do not open panels, and keep water away from plugs and wires.",
	"A burning smell, sparks, or water near electrics: switch it off at the plug if that is safe, keep away, and call.",
}

// OverShare is the share of days that a coil may be over the limit until the organisation decides otherwise: no bound; its price alone counts.
const OverShare = 1.0

// OverReason is why.
const OverReason = "no bound: what a day over the limit is worth decides"
