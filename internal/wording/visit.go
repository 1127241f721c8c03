package wording

import (
	"fmt"

	"nextround/core/method"
	"nextround/core/procedure"
)

// VisitJobWords are what a visit is for.
var VisitJobWords = map[procedure.Job]string{
	procedure.Companion: "Filters and light tasks",
	procedure.Inspect:   "Look with light",
	procedure.HoseDown:  "Closed hose-down",
	procedure.Light:     "Light clean",
	procedure.Deep:      "Deep clean",
}

// PartWords are the surfaces of a unit beside its coils.
var PartWords = map[string]string{
	"wheel": "Blower wheel", "blades": "Fan blades", "tray": "Drain pan", "base": "Base", "trough": "Bottom trough", "filter": "Filter", "grille": "Grille",
}

// TagWords are what a visit, its unit and its plan are like, as conditions of steps say it.
var TagWords = map[string]string{
	"indoors": "indoors", "outdoors": "outdoors", "roof": "on a roof", "plug_in": "plug-in refrigeration", "slabs": "a coil in slabs", "flammable": "flammable refrigerant",
	"near_food": "food near", "occupied": "people in the room", "ladder": "a ladder is needed", "two_people": "two people are needed", "guards": "panels or guards",
	"watched": "something is being watched", "symptom": "a symptom was reported", "pan": "a drain pan", "cooled_goods": "goods that warm", "base_trough": "a base that gathers debris",
	"wheel": "a blower wheel", "opens_electrics": "electrical covers come off", "filter": "a filter", "grille": "a grille", "tablet": "pan tablets", "drain": "a drain", "pump": "a pump",
	"grease": "grease found", "leaf": "leaves or fluff found", "biofilm": "biofilm found", "heavy_soil": "felt or worse found", "core_packed": "a packed core found",
	"planned": "a plan is chosen", "wet": "wet work", "dry": "dry work in the plan", "air": "air in the plan", "pre_rinse": "a pre-rinse in the plan", "cleaner": "a cleaner is used",
	"corrosive": "a corrosive cleaner", "aerosol": "an aerosol", "no_rinse_cleaner": "a no-rinse cleaner", "taken_out": "taken out",
	"proof_meter": "proved by the meter", "proof_plug": "proved by the plug", "proof_heard": "proved by hearing it stop",
	"companion": "filters and light tasks", "look": "a look with light", "hose_down": "a closed hose-down", "light": "a light clean", "deep": "a deep clean",
}

// RuleWords are the answers to questions of practice, as conditions of steps say them: question=answer.
func RuleWords() map[string]string {
	out := map[string]string{}
	for _, q := range method.Questions {
		for _, c := range q.Choices {
			out[q.Code+"="+c.Code] = fmt.Sprintf("house rule “%s: %s”", q.Text, c.Text)
		}
	}
	return out
}
