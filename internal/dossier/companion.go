package dossier

import (
	"nextround/core/interval"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// Companion is a clock beside light and deep, with when it is next due.
func (r *Facts) Companion(d Unit, t store.Task) contract.Companion {
	clock := interval.Clock{Side: t.Kind, Last: store.DayOf(t.LastDay), Quality: interval.LastClean(t.LastQuality)}
	for _, tick := range r.Ticks[t.ID] {
		if day := tick.Day.Day(); clock.Last == nil || day >= *clock.Last {
			clock.Last, clock.Quality = &day, interval.Exact
		}
	}
	due, _ := interval.NextDue([]interval.Clock{clock}, t.EveryDays, d.Today)
	if !due.FirstLook {
		due.Day = due.Day.Add(d.pausedDays(*clock.Last, d.Today))
	}
	return contract.Companion{
		ID: t.ID, Kind: contract.CompanionKind(t.Kind), EveryDays: t.EveryDays, Doer: contract.Doer(t.Doer), Paused: t.Paused,
		LastDay: clock.Last, FirstLook: due.FirstLook, Due: due.Day, DaysLate: d.Today.Sub(due.Day),
	}
}
