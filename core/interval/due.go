package interval

import "nextround/core/calendar"

// LastClean is how well the last clean of a side is known.
type LastClean string

// The four answers. Never and Unknown put a side first in line.
const (
	Exact   LastClean = "exact"
	About   LastClean = "about"
	Never   LastClean = "never"
	Unknown LastClean = "unknown"
)

// Valid reports whether q is one of the four.
func (q LastClean) Valid() bool { return q == Exact || q == About || q == Never || q == Unknown }

// Clock is the clock of one side under one task.
type Clock struct {
	Side string
	// Last is nil when no day is known.
	Last *calendar.Day
	// Quality says how well Last is known.
	Quality LastClean
}

// Due is the day a task falls due and which side makes it so.
type Due struct {
	Day calendar.Day
	// Side is the one that falls due first.
	Side string
	// FirstLook is true when the side has no known clean: it is due at once, for a look.
	FirstLook bool
	// About is true when the day rests on a date known only roughly.
	About bool
}

// NextDue is the earliest of the sides' due days: last + every. A side without a known day is due today. The
// second result is false when there are no clocks.
func NextDue(clocks []Clock, every int, today calendar.Day) (Due, bool) {
	var first Due
	found := false
	for _, c := range clocks {
		d := Due{Side: c.Side, About: c.Quality == About}
		if c.Last == nil {
			d.Day, d.FirstLook = today, true
		} else {
			d.Day = c.Last.Add(every)
		}
		if !found || d.Day < first.Day {
			first, found = d, true
		}
	}
	return first, found
}
