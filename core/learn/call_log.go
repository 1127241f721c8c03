package learn

import (
	"slices"
	"sort"
	"strconv"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/invalid"
)

// CallLog is what a log of call-outs says of a coil: it is evidence on the load that is behind the face.
type CallLog struct {
	// Complete are the times in which every call-out was put down, in order and apart; To is the day after the last.
	Complete []LogSpan `json:"complete"`
	// Tripped are the days of call-outs laid to the coil, or to nobody knows what: the time between the visits before and after one says nothing.
	Tripped []calendar.Day `json:"tripped,omitempty"`
	// Economics say how often the coil is called out at a load.
	Economics heat.Economics `json:"economics"`
	// AreaShare of the coil's face that the side has: sides share what the log says. 0 means 1.
	AreaShare float64 `json:"area_share,omitempty"`
}

// LogSpan is some time, from a day up to, but without, another.
type LogSpan struct {
	From calendar.Day `json:"from"`
	To   calendar.Day `json:"to"`
}

// Calls are the call-outs that a coil of this soil was to have while the log was complete, by the side's share of its face.
type Calls struct {
	// Expected in all of the time, Quiet in that without any, as they are thought of now; Unheard those in the quiet time before the quiet
	// itself was weighed.
	Expected float64 `json:"expected"`
	Quiet    float64 `json:"quiet"`
	Unheard  float64 `json:"unheard"`
	// LoggedDays is how long the log was complete, QuietDays how long of it was quiet, LoadUnheard the load expected today before it was weighed.
	LoggedDays  int     `json:"logged_days"`
	QuietDays   int     `json:"quiet_days"`
	LoadUnheard float64 `json:"load_unheard"`
}

// tellingCalls is from how many call-outs that did not come on the quiet is worth telling (assumption).
const tellingCalls = .1

// check lists every field that cannot be used.
func (l *CallLog) check(bad *invalid.Error) {
	if l == nil {
		return
	}
	for i, s := range l.Complete {
		at := "call_log.complete[" + strconv.Itoa(i) + "]."
		if s.To <= s.From {
			bad.Addf(at+"to", "must be later than its first day")
		}
		if i > 0 && s.From < l.Complete[i-1].To {
			bad.Addf(at+"from", "must not be before the end of the one before")
		}
	}
	if !(l.AreaShare >= 0 && l.AreaShare <= 1) {
		bad.Addf("call_log.area_share", "must be between 0 and 1")
	}
	if err := l.Economics.Check(); err != nil {
		for _, f := range err.(invalid.Error) { //nolint:errorlint // Check returns nothing else
			bad.Addf("call_log.economics."+f.Path, "%s", f.Reason)
		}
	}
}

// completeOn reports whether every call-out of a day was put down.
func (l *CallLog) completeOn(day calendar.Day) bool {
	if l == nil {
		return false
	}
	i := sort.Search(len(l.Complete), func(i int) bool { return l.Complete[i].To > day })
	return i < len(l.Complete) && l.Complete[i].From <= day
}

// edges are the days strictly between two on which the log begins or ends to be complete.
func (l *CallLog) edges(from, to calendar.Day) []calendar.Day {
	if l == nil {
		return nil
	}
	var out []calendar.Day
	for _, s := range l.Complete {
		for _, day := range [2]calendar.Day{s.From, s.To} {
			if day > from && day < to && (len(out) == 0 || out[len(out)-1] != day) {
				out = append(out, day)
			}
		}
	}
	return out
}

// quiet reports whether there was no call-out after a day, up to another.
func (l *CallLog) quiet(from, to calendar.Day) bool {
	return l != nil && !slices.ContainsFunc(l.Tripped, func(day calendar.Day) bool { return day > from && day <= to })
}

// callTable is call-outs a day by load, and their integral.
type callTable struct {
	day, sum [callPoints]float64
}

const (
	callStep   = .05
	callPoints = 61 // to load 3
)

// table of the log; nil where it was never complete.
func (l *CallLog) table() *callTable {
	if l == nil || len(l.Complete) == 0 {
		return nil
	}
	share := l.AreaShare
	if share == 0 {
		share = 1
	}
	var t callTable
	for i := range t.day {
		t.day[i] = share * l.Economics.At(float64(i)*callStep).CallsYear / 365
		if i > 0 {
			t.sum[i] = t.sum[i-1] + callStep*(t.day[i-1]+t.day[i])/2
		}
	}
	return &t
}

// upto is the integral to a load.
func (t *callTable) upto(load float64) float64 {
	at := load / callStep
	if at >= callPoints-1 {
		return t.sum[callPoints-1] + (load-(callPoints-1)*callStep)*t.day[callPoints-1]
	}
	i := int(at)
	part := at - float64(i)
	return t.sum[i] + callStep*part*(t.day[i]+(t.day[i+1]-t.day[i])*part/2)
}

// mean call-outs a day while the load grows evenly from one to another.
func (t *callTable) mean(from, to float64) float64 {
	const hair = 1e-6
	if to-from < hair {
		to = from + hair
	}
	return (t.upto(to) - t.upto(from)) / (to - from)
}

// callsHeard sums up what was expected while the log was complete.
func (g *grid) callsHeard(weights []float64) *Calls {
	out := Calls{LoggedDays: g.loggedDays, QuietDays: g.quietDays}
	before := g.weights(func(int) bool { return true })
	for c, w := range weights {
		out.Expected += w * g.calls[c]
		out.Quiet += w * g.quiet[c]
		out.Unheard += before[c] * g.quiet[c]
		out.LoadUnheard += before[c] * (g.face[c] + g.core[c])
	}
	return &out
}
