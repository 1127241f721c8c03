// Package demo makes the invented sample data: a harbour trust with nine sites, their units and two and a half years
// of visits, generated from known true rates with a fixed seed. Nothing in it is real.
package demo

import (
	_ "embed"
	"time"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/organisation"
)

// Clock is the moment the demonstration stands at.
var Clock = time.Date(2026, time.March, 4, 8, 0, 0, 0, time.UTC)

// Password is everybody's in the demonstration.
const Password = "harbour-demo"

// Organisation is the invented owner.
var Organisation = organisation.NewOrganisation{Name: "Hallvik Harbour Trust", Zone: "Europe/Oslo", Currency: "EUR", Units: "metric"}

// Register is the register file the demonstration imports.
//
//go:embed register.csv
var Register []byte

// crew is an invented crew with the days it has for coils, its people, and what its vehicle carries.
type crew struct {
	name, starts, base string
	minutes, people    int
	tankL              float64
	skills             []string
	days               []time.Weekday
}

var crews = []crew{
	{"Crew Tern", "07:30", "Harbour Office", 450, 2, 80, []string{"roof edge"}, []time.Weekday{time.Thursday, time.Friday}},
	{"Crew Eider", "07:00", "Harbour Office", 450, 1, 40, nil, []time.Weekday{time.Tuesday, time.Thursday}},
	{"Crew Gannet", "06:00", "Fish Auction Hall", 420, 1, 40, nil, []time.Weekday{time.Monday, time.Thursday}},
}

// Crews whose members appear in visits. Gannet pours far more than was planned.
const (
	technicianTern   = "Technician, Crew Tern"
	technicianEider  = "Technician, Crew Eider"
	technicianGannet = "Technician, Crew Gannet"
	gannetPours      = 3
)

func text(s string) *string { return &s }

func window(kind contract.WindowCardKind, starts, ends, note string, weekdays ...int) contract.WindowCard {
	return contract.WindowCard{Kind: kind, Weekdays: weekdays, Starts: starts, Ends: ends, Note: note}
}

// at ties a window to one placement.
func at(placement string, w contract.WindowCard) contract.WindowCard {
	w.Placement = &placement
	return w
}

// staffAway are days on which the staff are away and crews have the place to themselves.
func staffAway(from string, days int, name string) (out []contract.Holiday) {
	away := contract.HolidayAccessStaffAway
	for d := range days {
		out = append(out, contract.Holiday{Day: calendar.MustParse(from).Add(d), Name: name, Access: &away})
	}
	return out
}

func holiday(day, name string) contract.Holiday {
	return contract.Holiday{Day: calendar.MustParse(day), Name: name}
}

// siteOf describes a site; its hours, keys and people are invented.
type siteOf struct {
	code, address, contact, keys, water, power, access string
	lat, lon                                           float64
	windows                                            []contract.WindowCard
	holidays                                           []contract.Holiday
}

var sites = map[string]siteOf{
	"Ferry Terminal North": {
		code: "FN", address: "1 North Quay", contact: "duty officer at the ticket office", keys: "roof key at the ticket office",
		water: "tap in the café; none on the roof", power: "230 V in the hall", access: "The hall is free between sailings only.",
		lat: 61.447, lon: 4.598,
		windows: []contract.WindowCard{
			at("Waiting hall", window("allowed", "11:40", "13:10", "between sailings", 0, 1, 2, 3, 4, 5, 6)),
			window("open", "05:30", "22:30", "", 0, 1, 2, 3, 4, 5, 6),
		},
	},
	"Ferry Terminal South": {
		code: "FS", address: "2 South Quay", contact: "kiosk", keys: "plant room key at the kiosk", water: "hose on the quay", power: "230 V in the plant room",
		lat: 61.401, lon: 4.622, windows: []contract.WindowCard{window("open", "06:00", "21:00", "", 0, 1, 2, 3, 4, 5, 6)},
	},
	"Fish Auction Hall": {
		code: "FA", address: "1 Auction Quay", contact: "hall office, by the scales", keys: "none needed", water: "tap at the sorting floor",
		power: "230 V at the sorting floor", access: "Roof by the north ladder. Rinse water is caught: the floor drain runs to the sea.",
		lat: 61.424, lon: 4.611,
		windows: []contract.WindowCard{window("allowed", "11:00", "16:00", "floor is free after the morning auction", 1, 2, 3, 4, 5)},
	},
	"Crew Canteen": {
		code: "CC", address: "3 Mess Road", contact: "kitchen lead", keys: "cellar key with the kitchen lead", water: "kitchen tap",
		power: "230 V, kitchen", access: "No floor drain in the kitchen: catch all water.", lat: 61.420, lon: 4.624,
		windows:  []contract.WindowCard{window("blackout", "10:00", "14:30", "the kitchen works", 1, 2, 3, 4, 5, 6)},
		holidays: append([]contract.Holiday{holiday("2025-12-24", "Winter break begins")}, staffAway("2026-03-30", 8, "Spring break")...),
	},
	"Maritime Museum": {
		code: "MM", address: "9 Customs Steps", contact: "house steward", keys: "steward lets in", water: "tap in the courtyard", power: "230 V, galleries",
		access: "Galleries are kept at 20 °C and 50 %; ask before a unit is stopped.", lat: 61.431, lon: 4.640,
		windows: []contract.WindowCard{
			at("Upper gallery", window("quiet", "10:00", "16:00", "galleries are silent", 0, 1, 2, 3, 4, 5, 6)),
			at("Lower gallery", window("quiet", "10:00", "16:00", "galleries are silent", 0, 1, 2, 3, 4, 5, 6)),
			window("open", "07:00", "17:00", "the steward lets in", 1, 2, 3, 4, 5, 6),
		},
	},
	"Net Loft Workshops": {
		code: "NL", address: "7 Loft Lane", contact: "foreman", keys: "yard gate key at the harbour office", water: "hose in the seaward yard",
		power: "230 V and 400 V", lat: 61.433, lon: 4.618, windows: []contract.WindowCard{window("open", "07:00", "17:00", "", 1, 2, 3, 4, 5)},
	},
	"Harbour Office": {
		code: "HO", address: "1 Harbour Street", contact: "front desk", keys: "tower key at the front desk", water: "tap in the yard; none on the tower",
		power: "230 V", access: "Tower roof by a fixed ladder, two people.", lat: 61.428, lon: 4.630,
		windows: []contract.WindowCard{window("open", "08:00", "16:00", "", 1, 2, 3, 4, 5)},
	},
	"Shipyard Plant Rooms": {
		code: "SY", address: "20 Slipway", contact: "yard electrician", keys: "permit from the gate", water: "tap by the slipway gate; none in the plant rooms", power: "400 V",
		access: "Hot work near the blasting shed: ask at the gate.", lat: 61.412, lon: 4.592,
		windows: []contract.WindowCard{window("blackout", "12:00", "13:00", "blasting", 1, 2, 3, 4, 5)},
	},
	"Lighthouse Guest House": {
		code: "LG", address: "Outer Point", contact: "host", keys: "host lets in", water: "garden hose", power: "230 V",
		lat: 61.458, lon: 4.557, windows: []contract.WindowCard{window("allowed", "10:30", "14:30", "between guests", 0, 1, 2, 3, 4, 5, 6)},
	},
}

// drains are what is known of drains, by site and placement.
var drains = map[[2]string]struct {
	there contract.YesNo
	note  string
}{
	{"Crew Canteen", "Kitchen"}:                      {contract.YesNoNo, "catch all water"},
	{"Fish Auction Hall", "Sorting floor"}:           {contract.YesNoYes, "runs to the sea: catch the rinse"},
	{"Shipyard Plant Rooms", "Compressor house"}:     {contract.YesNoYes, "floor drain to the separator"},
	{"Shipyard Plant Rooms", "Blasting shed annexe"}: {contract.YesNoYes, "floor drain to the separator"},
}

// Placements near food, with people about, and where units stand with their backs to a wall, by name.
var (
	nearFood   = names("Café", "Kiosk", "Bar", "Servery", "Kitchen", "Dining room", "Sorting floor", "Walk-in room 1", "Walk-in room 2", "Walk-in room 3", "Pantry")
	peopled    = names("Waiting hall", "Café", "Kiosk", "Ticket office", "Bar", "Servery", "Kitchen", "Dining room", "Chart room", "Meeting room", "Pilot office", "Ground floor rooms", "Upper floor rooms", "Lower gallery", "Upper gallery", "Foreman's office", "Drawing office", "Rope walk")
	wallBacked = names("Café", "Kiosk", "Bar", "Servery", "Kitchen", "Pantry", "Cellar")
)

func names(list ...string) map[string]bool {
	out := map[string]bool{}
	for _, n := range list {
		out[n] = true
	}
	return out
}

// dry are the placements without a tap.
var dry = map[string]bool{"Pilot tower roof": true, "Terminal roof": true, "Shed roof": true}

// factorAt puts a factor to work at a site or placement.
type factorAt struct {
	site, placement string
	factor          string
	from, to        string
	note            string
}

var factors = []factorAt{
	{"Fish Auction Hall", "", "salt_air", "2023-01-01", "", "open quay"},
	{"Ferry Terminal North", "", "salt_air", "2023-01-01", "", "open quay"},
	{"Ferry Terminal North", "Café", "foot_traffic", "2023-01-01", "", "doors open to the quay"},
	{"Ferry Terminal South", "Quay yard", "salt_air", "2023-01-01", "", ""},
	{"Maritime Museum", "Upper gallery", "lint", "2023-01-01", "", "coats of many visitors"},
	{"Maritime Museum", "Courtyard", "leaf_fall", "2023-01-01", "", "two maples"},
	{"Net Loft Workshops", "", "lint", "2023-01-01", "", "fibre fluff from the net tables"},
	{"Net Loft Workshops", "Street yard", "construction_dust", "2025-06-01", "2025-12-01", "pavement relaid next door"},
	{"Crew Canteen", "Kitchen", "greasy_cooking", "2023-01-01", "", "fryers"},
	{"Crew Canteen", "Bar", "built_in", "2023-01-01", "", ""},
	{"Shipyard Plant Rooms", "", "construction_dust", "2023-01-01", "", "grinding"},
	{"Shipyard Plant Rooms", "Shed roof", "sand", "2023-01-01", "", "blasting sand"},
	{"Lighthouse Guest House", "Lawn", "mowing", "2023-01-01", "", "mown weekly in summer"},
	{"Lighthouse Guest House", "", "salt_air", "2023-01-01", "", "outer point"},
}

// eventAt is something that happened at a site.
type eventAt struct{ site, kind, day, note string }

var events = []eventAt{
	{"Shipyard Plant Rooms", "extraction changed", "2025-02-10", "blasting shed's extraction turned round"},
	{"Net Loft Workshops", "building works", "2025-06-01", "pavement next door"},
	{"Lighthouse Guest House", "mowing", "2025-06-14", "first cut"},
}

// turned is when a unit's true rate changed, and by how much: the extraction of the blasting shed.
var turned = map[string]struct {
	day   calendar.Day
	times float64
}{"SY-RC-3": {calendar.MustParse("2025-02-10"), 3}}

// habitOf is how the crews have gone about a class: methods, cleaner and how they look.
type habitOf struct {
	light, deep               string // method codes
	direction                 string
	cleaner                   string // of the deep clean; empty for dry work
	waterParts                float64
	litres                    float64
	soil                      string
	deepSeen                  string
	lightMinutes, deepMinutes int
	out                       bool // carried out for the deep clean
	dried                     bool // dry where the class's habit is wet and not allowed
}

var habits = map[string]habitOf{
	"ice_machine":         {"brush_vacuum", "aerosol_rinse", "against_airflow", "foaming_aerosol", 0, .4, "salt", "light_through", 14, 35, false, false},
	"unit_cooler":         {"", "tank_sprayer", "against_airflow", "indoor_neutral", 0, 1.2, "biofilm", "light_through", 0, 60, false, false},
	"remote_condenser":    {"brush_vacuum", "foam_rinse", "against_airflow", "medium_universal", 6, .8, "salt", "light_through", 20, 65, false, false},
	"reach_in":            {"", "long_brush", "along_fins", "", 0, 0, "dust", "face_look", 0, 35, false, false},
	"outdoor_condensing":  {"closed_hose_down", "foam_rinse", "against_airflow", "medium_universal", 4, .6, "lint", "light_through", 12, 50, false, false},
	"air_handler":         {"", "tank_sprayer", "against_airflow", "indoor_neutral", 0, 2, "lint", "light_through", 0, 90, false, false},
	"packaged_unit":       {"", "foam_rinse", "against_airflow", "medium_universal", 6, .9, "lint", "light_through", 0, 80, false, false},
	"wall_unit":           {"", "tank_sprayer", "against_airflow", "indoor_neutral", 0, .8, "dust", "light_through", 0, 60, false, false},
	"cassette":            {"", "tank_sprayer", "against_airflow", "indoor_neutral", 0, 1.1, "dust", "light_through", 0, 75, false, false},
	"through_wall":        {"", "foam_rinse", "against_airflow", "mild_detergent", 30, .3, "dust", "light_through", 0, 50, false, false},
	"undercounter_cooler": {"", "long_brush", "along_fins", "", 0, 0, "dust", "face_look", 0, 25, false, false},
	"display_cooler":      {"brush_vacuum", "brush_vacuum", "along_fins", "", 0, 0, "dust", "face_look", 12, 25, false, false},
	"ceiling_room_cooler": {"", "tank_sprayer", "against_airflow", "indoor_neutral", 0, 1, "dust", "light_through", 0, 50, false, false},
}

// truth is what the generator knows of a unit and nobody else: how much faster or slower it soils than its class
// and factors suggest. Units not named draw theirs from the seed.
var truth = map[string]float64{
	"FA-IM-2": 1.05, "NL-CU-2": .6, "CC-BC-2": 1.3, "NL-WU-1": .25, "CC-RF-2": .2, "FA-UC-2": .3, "FA-IM-1": .35, "CC-DC-1": .5, "HO-CU-1": .08,
	"SY-RC-3": .5, "FN-PU-1": .5, "FN-PU-2": .5, "FN-PU-3": .5,
}

// ownInterval is one the manager has set on a task.
type ownInterval struct {
	kind   contract.TaskKind
	days   int
	reason string
}

// ownIntervals are set before the years begin.
var ownIntervals = map[string]ownInterval{
	"FA-IM-2": {contract.TaskKindLight, 56, "brushed on the eight-week round"},
	"CC-RF-1": {contract.TaskKindDeep, 91, "greasy kitchen"},
	"CC-RF-2": {contract.TaskKindDeep, 91, "greasy kitchen"},
	"CC-RF-3": {contract.TaskKindDeep, 91, "greasy kitchen"},
	"HO-CU-1": {contract.TaskKindLight, 14, "the pilots like it done every fortnight"},
}

// newIntervals are set at the end of the years, before the weeks are planned.
var newIntervals = map[string]ownInterval{
	"HO-PU-1": {contract.TaskKindDeep, 168, "gull feathers on the tower: twice a year from now on"},
}

// brushedOnly are units that only ever see a brush at the face, whatever falls due.
var brushedOnly = map[string]bool{"FA-IM-2": true}

// lastVisit is the day of a unit's newest visit, where the pictures need it fresh.
var lastVisit = map[string]calendar.Day{"FA-IM-2": calendar.MustParse("2026-02-24")}

// lightOnly are units whose deep clean is never done.
var lightOnly = map[string]bool{"HO-CU-1": true}

// unreached are sides no visit gets to, and why.
var unreached = map[string]map[string]string{
	"NL-CU-2": {"seaward side": "behind the cable tray"},
}

// renamed are sides that have a name of their own here.
var renamed = map[string]map[string]string{"NL-CU-2": {"wall side": "seaward side"}}

// outdoorClasses are brushed before they are washed.
var outdoorClasses = map[string]bool{"Outdoor condensing unit": true, "Packaged unit or heat pump": true, "Remote refrigeration condenser": true}

// foulingWheel is a cassette whose coil is cleaned every year and whose wheel nobody washes.
const foulingWheel = "FN-CA-2"

// untouched are units without any recorded visit.
var untouched = map[string]bool{"NL-CU-3": true, "CC-RC-1": true, "HO-CU-2": true}

// remarks are notes on the visit nearest before a day.
type remark struct{ tag, before, note string }

var remarks = []remark{
	{"FN-PU-2", "2024-12-31", "Greenish specks on the end plate, new. Photographed."},
	{"FN-PU-2", "2025-12-31", "Specks on the end plate no larger than last year. Photographed again; watch."},
	{"FA-RF-1", "2024-12-31", "Warm two days before we came: −9 °C instead of −18 °C."},
	{"FA-RF-1", "2026-03-01", "Warm again the day before: −7 °C."},
	{"CC-WU-1", "2026-03-01", "Drain slow, ran free after flushing."},
}

// accessOf is how some units are got at.
var accessOf = map[string]contract.AccessCard{
	"HO-PU-1": {IsolationPoint: "disconnect on the tower landing", IsolationKind: "disconnect", Panels: "two side panels", Fixings: new(10), FixingsNote: text("screws, hex 8 mm"), People: 2, Hazards: "roof edge; no water up here; fixed ladder", Skill: text("roof edge")},
	"FA-IM-2": {IsolationPoint: "plug behind the machine", IsolationKind: "plug", Panels: "front grille", Fixings: new(2), FixingsNote: text("screws"), People: 1, Hazards: "wet floor, forklifts"},
	"FA-RC-1": {IsolationPoint: "disconnect on its frame", IsolationKind: "disconnect", People: 1, Hazards: "roof edge"},
	"FA-IM-3": {IsolationPoint: "plug behind the machine", IsolationKind: "plug", Panels: "front grille", Fixings: new(2), FixingsNote: text("screws"), People: 1, Hazards: "wet floor, forklifts"},
	"NL-CU-2": {IsolationPoint: "disconnect on the wall, left", IsolationKind: "disconnect", Panels: "top with fan", Guards: new(3), Fixings: new(14), FixingsNote: text("screws, hex 8 mm"), People: 1, Hazards: "sharp guards; cable tray on the seaward side"},
	"FN-CA-1": {IsolationPoint: "breaker 14, ticket office", IsolationKind: "breaker", Panels: "ceiling grille", Fixings: new(4), FixingsNote: text("clips"), People: 1, Hazards: "public below: tape off"},
	"MM-AH-1": {IsolationPoint: "breaker 3, steward's cupboard", IsolationKind: "breaker", Panels: "hinged door", Fixings: new(2), FixingsNote: text("catches"), People: 1, Hazards: "silent from 10:00 to 16:00"},
}

// partsOf are parts of some units.
var partsOf = map[string][]contract.PartCard{
	"MM-AH-1": {{Kind: "filter", Specification: "F-20, 592 × 592 mm", Quantity: 2}},
	"NL-CU-2": {{Kind: "capacitor", Specification: "30 µF, 450 V", Quantity: 1}, {Kind: "contactor", Specification: "24 V coil", Quantity: 1}},
	"FN-PU-1": {{Kind: "filter", Specification: "F-16, 500 × 500 mm", Quantity: 4}},
}
