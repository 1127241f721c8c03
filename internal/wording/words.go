package wording

import (
	"strings"
	"time"
)

// UpperFirst begins a sentence with a capital letter.
func UpperFirst(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

// ReturnWords say why a crew gave a job back.
var ReturnWords = map[string]string{"no_time": "no time left", "called_away": "called away", "missing": "kit or parts missing", "other": "another reason"}

// JobKindWords name the kinds of jobs, by their codes.
var JobKindWords = map[string]string{
	"light": "light clean", "deep": "deep clean", "inspect": "inspection", "filter": "filters", "grille": "grille wipe", "tablet": "pan tablets",
	"drain": "drain", "pump": "pump", "recheck": "look at what is watched", "look": "look with light", "symptom": "look at a symptom",
}

// Month is the name of a month a clean should fall into; nil where others decide, 0 for none.
func Month(m *int) string {
	switch {
	case m == nil:
		return "as site, class and house say"
	case *m == 0:
		return "any month"
	}
	return time.Month(*m).String()
}
