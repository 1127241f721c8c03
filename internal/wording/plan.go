package wording

import (
	"strconv"
	"strings"

	"nextround/core/workplan"
)

// PlanNotes says what belongs to a plan beside its passes, by code.
var PlanNotes = map[string]string{
	"cleaner_light":    "The cleaner is lighter than this soil asks for.",
	"price_assumed":    "Its price is not entered; the dearest like cleaner's is taken.",
	"not_rinsed":       "Not rinsed, as its label allows.",
	"slab_consent":     "Separating slabs needs the site's consent and extra time; a break is the crew's to pay.",
	"two_people":       "Two people: it is carried or tipped.",
	"check_frost":      "No wet work outdoors below 4 °C: look at the forecast.",
	"flammable":        "Flammable refrigerant: no ignition source, and air.",
	"aerosol_air":      "Flammable spray: air well, nothing that sparks.",
	"clear_food":       "Food and glasses out of the way first.",
	"tell_people":      "Tell the people in the room.",
	"rinse_long":       "It goes on corroding until it is rinsed off: rinse long.",
	"catch_drips":      "Catch what drips; nothing on to electrics or floor.",
	"bring_water":      "Bring the water.",
	"core_not_reached": "The core is not reached by this.",
}

// PlanThen says what to do where the best plan is not enough, or there is none.
var PlanThen = map[string]string{
	workplan.ThenWarmer:   "When it is 4 °C or more: the wet work, as a job of its own.",
	workplan.ThenLook:     "Look through it with a light, then decide.",
	workplan.ThenTakeOut:  "Take it out with two people and clean it outdoors, dry.",
	workplan.ThenWater:    "With a hose, or a tank sprayer and water brought along, more can be done.",
	workplan.ThenKit:      "Bring what this crew's kit lacks; see what is ruled out.",
	workplan.ThenAsk:      "Enter what is not known of the coil and its place: it rules the rest out.",
	workplan.ThenMove:     "The core is not reached where it stands. Make it movable, or plan its replacement.",
	workplan.ThenWatch:    "Photograph it, put it on the watch list and compare at the next visit: nobody knows yet what it is.",
	workplan.ThenAgain:    "A second clean takes what is left: look again soon.",
	workplan.ThenDeep:     "A light clean is not enough here: plan a deep one.",
	workplan.ThenNoMethod: "Nothing is allowed here. Ask the maker, or replace the coil.",
}

// PlanContain says how water and dirt are kept together.
var PlanContain = map[string]string{
	"sheet":   "A sheet under it; what comes loose into the vacuum.",
	"absorb":  "Absorbent under the coil; drips wiped up.",
	"out":     "Outdoors, where the water may run off.",
	"run_off": "Runs off to the drain.",
	"trough":  "Caught at the base: no drain is known here.",
	"bag":     "A bag round the coil, with a funnel to a bucket.",
	"bucket":  "Caught in buckets.",
}

// PlanDispose says where waste goes; local rules come first.
var PlanDispose = map[string]string{
	"dry_waste": "Bagged as dry waste.",
	"run_off":   "Down the drain, where local rules allow it.",
	"caught":    "Taken away and disposed of as local rules say.",
}

// PassTips are the tips of a rinse.
var PassTips = map[string]string{"low": "low pressure, square to the fins", "garden": "garden hose", "any": "any tip, written down"}

// PassSides are the sides a cleaner goes on from.
var PassSides = map[string]string{"inside": "from inside, a light coat outside", "outside": "from outside", "both": "from both sides"}

// PassStops are when a pass is done.
var PassStops = map[string]string{
	"base_empty": "until base and trough are empty", "runs_off": "until loose dirt runs off", "nothing_blows_out": "until nothing more blows out",
	"nothing_comes_loose": "until nothing more comes loose", "rag_stays_clean": "until the rag stays clean", "light_through": "until light comes through: stop there",
	"clear_and_light": "rinse until the run-off is clear and light comes through", "ten_minutes": "rinse for ten minutes", "clear": "rinse until the run-off is clear",
	"light": "rinse until light comes through",
}

var standing = map[string]string{
	"foam_white_then_": "until the foam stays white, within its times; ", "nothing_lifts_then_": "until it lifts no more, within its times; ", "clock_then_": "for its time by the clock; ",
}

func init() {
	for start, text := range standing {
		for _, end := range []string{"clear_and_light", "ten_minutes", "clear", "light"} {
			PassStops[start+end] = text + PassStops[end]
		}
	}
}

// PlanLine is a plan's passes as a numbered line.
func PlanLine(p workplan.Plan) string {
	var out []string
	for i, x := range p.Passes {
		s := strconv.Itoa(i+1) + " " + x.MethodName
		if x.Where == workplan.TakenOut && (i == 0 || p.Passes[i-1].Where != workplan.TakenOut) {
			s = strconv.Itoa(i+1) + " taken out: " + x.MethodName
		}
		if x.Cleaner != "" {
			s += ", " + strings.ToLower(x.CleanerName)
		}
		if x.WaterParts != nil {
			s += " " + strconv.FormatFloat(*x.WaterParts, 'f', -1, 64) + ":1"
		}
		out = append(out, s)
	}
	return strings.Join(out, "; ")
}
