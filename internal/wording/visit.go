package wording

import "nextround/core/procedure"

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
