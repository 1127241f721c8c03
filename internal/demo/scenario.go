// Package demo makes the invented sample data: a harbour trust with three sites, their units and two and a half
// years of visits, generated from known true rates with a fixed seed. Nothing in it is real.
package demo

import (
	"time"

	"nextround/internal/contract"
	"nextround/internal/service"
	"nextround/internal/store"
)

// Clock is the moment the demonstration stands at.
var Clock = time.Date(2026, time.March, 4, 8, 0, 0, 0, time.UTC)

// Password is everybody's in the demonstration.
const Password = "harbour-demo"

// Organisation is the invented owner.
var Organisation = service.NewOrganisation{Name: "Hallvik Harbour Trust", Zone: "Europe/Oslo", Currency: "EUR", Units: "metric"}

// Register is the register file the demonstration imports.
const Register = `site,placement,tag,class,coil role,last clean
Fish Auction Hall,Sorting floor,FA-IM-1,Ice machine,condenser,2023-09-12
Fish Auction Hall,Sorting floor,FA-IM-2,Ice machine,condenser,2023-09-12
Fish Auction Hall,Walk-in room 1,FA-UC-1,Cold-room unit cooler,evaporator,2023-10-03
Fish Auction Hall,Walk-in room 2,FA-UC-2,Cold-room unit cooler,evaporator,2023-10-04
Fish Auction Hall,Quay roof,FA-RC-1,Remote refrigeration condenser,condenser,2023-09-20
Fish Auction Hall,Quay roof,FA-RC-2,Remote refrigeration condenser,condenser,about 2023-09
Fish Auction Hall,Bait store,FA-RF-1,Reach-in fridge or freezer,condenser,2023-10-11
Net Loft Workshops,Seaward yard,NL-CU-1,Outdoor condensing unit,condenser,2023-09-28
Net Loft Workshops,Seaward yard,NL-CU-2,Outdoor condensing unit,condenser,2023-09-28
Net Loft Workshops,Street yard,NL-CU-3,Outdoor condensing unit,condenser,unknown
Net Loft Workshops,Rope walk,NL-AH-1,Ducted indoor unit,evaporator,2023-11-08
Net Loft Workshops,Loft roof,NL-PU-1,Packaged unit or heat pump,condenser,2023-10-17
Net Loft Workshops,Loft roof,NL-PU-1,Packaged unit or heat pump,evaporator,2023-10-17
Net Loft Workshops,Foreman's office,NL-WU-1,Wall-mounted indoor unit,evaporator,2023-11-09
Crew Canteen,Kitchen,CC-RF-1,Reach-in fridge or freezer,condenser,2023-09-05
Crew Canteen,Kitchen,CC-RF-2,Reach-in fridge or freezer,condenser,2023-09-05
Crew Canteen,Bar,CC-BC-1,Under-counter cooler,condenser,2023-09-06
Crew Canteen,Bar,CC-BC-2,Under-counter cooler,condenser,2023-09-06
Crew Canteen,Servery,CC-DC-1,Glass-door display cooler,condenser,2023-09-07
Crew Canteen,Dining room,CC-WU-1,Wall-mounted indoor unit,evaporator,2023-10-24
Crew Canteen,Dining room,CC-WU-1,Wall-mounted indoor unit,back,2023-10-24
Crew Canteen,Cellar,CC-RC-1,Ceiling-mounted room cooler,evaporator,never
`

// sites describes the three sites; their hours are invented.
var sites = map[string]service.SiteDetails{
	"Fish Auction Hall": {
		Address: "1 Auction Quay", Contact: "hall office, by the scales", AccessNote: "Water tap and 230 V at the sorting floor; roof by the north ladder.",
		Lat: 61.42, Lon: 4.61,
		Windows: []store.SiteWindow{
			{Kind: "allowed", Weekdays: store.Array[int]{1, 2, 3, 4, 5}, Starts: "11:00", Ends: "16:00", Note: "floor is free after the morning auction"},
		},
	},
	"Net Loft Workshops": {
		Address: "7 Loft Lane", Contact: "foreman", AccessNote: "Yard gate key at the harbour office; hose in the seaward yard.",
		Lat: 61.43, Lon: 4.63,
		Windows: []store.SiteWindow{
			{Kind: "open", Weekdays: store.Array[int]{1, 2, 3, 4, 5}, Starts: "07:00", Ends: "17:00", Note: ""},
		},
	},
	"Crew Canteen": {
		Address: "3 Mess Road", Contact: "kitchen lead", AccessNote: "No floor drain in the kitchen: catch all water.",
		Lat: 61.42, Lon: 4.62,
		Windows: []store.SiteWindow{
			{Kind: "open", Weekdays: store.Array[int]{1, 2, 3, 4, 5, 6}, Starts: "10:30", Ends: "14:30", Note: "be out of the kitchen by 10:00"},
		},
	},
}

// factorAt puts a factor to work at a site or placement.
type factorAt struct {
	site, placement string
	factor          string
	from, to        string
	note            string
}

var factors = []factorAt{
	{"Fish Auction Hall", "", "salt_air", "2023-01-01", "", "open quay"},
	{"Net Loft Workshops", "", "lint", "2023-01-01", "", "fibre fluff from the net tables"},
	{"Net Loft Workshops", "Street yard", "construction_dust", "2025-06-01", "2025-12-01", "pavement relaid next door"},
	{"Crew Canteen", "Kitchen", "greasy_cooking", "2023-01-01", "", "fryers"},
	{"Crew Canteen", "Bar", "built_in", "2023-01-01", "", ""},
}

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
}

var habits = map[string]habitOf{
	"ice_machine":         {"brush_vacuum", "aerosol_rinse", "against_airflow", "foaming_aerosol", 0, .4, "salt", "light_through", 14, 35},
	"unit_cooler":         {"", "tank_sprayer", "against_airflow", "indoor_neutral", 0, 1.2, "biofilm", "light_through", 0, 60},
	"remote_condenser":    {"brush_vacuum", "foam_rinse", "against_airflow", "medium_universal", 6, .8, "salt", "light_through", 20, 65},
	"reach_in":            {"", "long_brush", "along_fins", "", 0, 0, "dust", "face_look", 0, 35},
	"outdoor_condensing":  {"closed_hose_down", "foam_rinse", "against_airflow", "medium_universal", 4, .6, "lint", "light_through", 12, 50},
	"air_handler":         {"", "tank_sprayer", "against_airflow", "indoor_neutral", 0, 2, "lint", "light_through", 0, 90},
	"packaged_unit":       {"", "foam_rinse", "against_airflow", "medium_universal", 6, .9, "lint", "light_through", 0, 80},
	"wall_unit":           {"", "tank_sprayer", "against_airflow", "indoor_neutral", 0, .8, "dust", "light_through", 0, 60},
	"undercounter_cooler": {"", "long_brush", "along_fins", "", 0, 0, "dust", "face_look", 0, 25},
	"display_cooler":      {"brush_vacuum", "brush_vacuum", "along_fins", "", 0, 0, "dust", "face_look", 12, 25},
	"ceiling_room_cooler": {"", "tank_sprayer", "against_airflow", "indoor_neutral", 0, 1, "dust", "light_through", 0, 50},
}

// truth is what the generator knows of a unit and nobody else: how much faster or slower it soils than its class
// and factors suggest. Units not named draw theirs from the seed.
var truth = map[string]float64{
	"FA-IM-2": 1.05, "NL-CU-2": .6, "CC-BC-2": 1.3, "NL-WU-1": .25, "CC-RF-2": .2, "FA-UC-2": .3, "FA-IM-1": .35, "CC-DC-1": .5,
}

// ownInterval is one the manager has set on a task.
type ownInterval struct {
	kind   contract.TaskKind
	days   int
	reason string
}

// ownIntervals are set before the years begin.
var ownIntervals = map[string]ownInterval{
	"FA-IM-2": {contract.Light, 56, "brushed on the eight-week round"},
	"CC-RF-1": {contract.Deep, 91, "greasy kitchen"},
	"CC-RF-2": {contract.Deep, 91, "greasy kitchen"},
}

// brushedOnly are units that only ever see a brush at the face, whatever falls due.
var brushedOnly = map[string]bool{"FA-IM-2": true}

// unreached are sides no visit gets to, and why.
var unreached = map[string]map[string]string{
	"NL-CU-2": {"wall side": "behind the cable tray"},
}

// untouched are units without any recorded visit.
var untouched = map[string]bool{"NL-CU-3": true, "CC-RC-1": true}
