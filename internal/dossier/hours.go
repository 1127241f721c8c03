package dossier

import (
	"reflect"
	"slices"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// WindowsOn are the windows of a site that bear on a day; one for a single placement says which, as far as names are given.
func WindowsOn(windows []store.SiteWindow, day calendar.Day, rooms map[uuid.UUID]string) []contract.Window {
	out := []contract.Window{}
	for _, w := range windows {
		if slices.Contains(w.Weekdays, int(day.Weekday())) && w.Valid.Holds(day) {
			one := contract.Window{Kind: contract.WindowKind(w.Kind), Weekdays: w.Weekdays, Starts: Clock(w.Starts), Ends: Clock(w.Ends), Note: w.Note}
			if w.PlacementID != nil && rooms[*w.PlacementID] != "" {
				one.Note = strings.TrimSuffix(rooms[*w.PlacementID]+": "+w.Note, ": ")
			}
			// What two placements have in common is said once.
			if !slices.ContainsFunc(out, func(x contract.Window) bool { return reflect.DeepEqual(x, one) }) {
				out = append(out, one)
			}
		}
	}
	return out
}

// Clock drops the seconds of a time of day.
func Clock(t string) string { return t[:min(len(t), 5)] }
