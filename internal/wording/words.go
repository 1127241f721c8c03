package wording

import (
	"strings"

	"nextround/internal/contract"
)

// UpperFirst begins a sentence with a capital letter.
func UpperFirst(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

// JobKindWords name the kinds of jobs.
var JobKindWords = map[contract.JobKind]string{
	contract.JobKindLight: "light clean", contract.JobKindDeep: "deep clean", contract.JobKindInspect: "inspection", contract.JobKindFilter: "filters",
	contract.JobKindGrille: "grille wipe", contract.JobKindTablet: "pan tablets", contract.JobKindDrain: "drain", contract.JobKindPump: "pump",
	contract.JobKindRecheck: "look at what is watched", contract.JobKindLook: "look with light", contract.JobKindSymptom: "look at a symptom",
}
