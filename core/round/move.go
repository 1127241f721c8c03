package round

import (
	"math"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/core/reason"
)

// MoveQuestion asks what it costs to do a job on another day.
type MoveQuestion struct {
	Problem Problem    `json:"problem"`
	Rounds  []Sequence `json:"rounds"`
	Job     string     `json:"job"`
	// Day it goes to; left out: off the plan.
	Day *calendar.Day `json:"day,omitempty"`
	// Crew it goes to; empty: whichever it adds least to.
	Crew string `json:"crew,omitempty"`
}

// Moved is the answer.
type Moved struct {
	// Possible is false where no crew can do it that day; Reason says why, and the plan stays as it is.
	Possible bool           `json:"possible"`
	Reason   *reason.Reason `json:"reason,omitempty"`
	Crew     string         `json:"crew,omitempty"`
	// Adds is the change of the plan's cost, of which Waiting is the job's own.
	Adds    float64    `json:"adds"`
	Waiting float64    `json:"waiting"`
	Rounds  []Sequence `json:"rounds"` // those that changed; one without jobs falls away
	// Load is what the crews' weeks gain and lose.
	Load []LoadChange `json:"load"`
}

// LoadChange is what a crew's week gains, or with a minus loses, in driving, stops and work.
type LoadChange struct {
	Crew    string       `json:"crew"`
	From    calendar.Day `json:"from"`
	Minutes float64      `json:"minutes"`
}

// Move takes a job from where it is and puts it at its cheapest place on another day. Nothing else moves. The question need
// hold only the jobs of the days concerned. The error is an invalid.Error naming the fields.
func Move(q MoveQuestion) (Moved, error) {
	m, err := ready(q.Problem)
	if err != nil {
		return Moved{}, err
	}
	var bad invalid.Error
	j, ok := m.jobAt[q.Job]
	if !ok {
		bad.Addf("job", "is not one of the jobs")
	}
	crew, known := m.crewAt[q.Crew]
	if q.Crew != "" && !known {
		bad.Addf("crew", "is not one of the crews")
	}
	if q.Day != nil && (q.Day.Sub(m.Start) < 0 || q.Day.Sub(m.Start) >= m.Days) {
		bad.Addf("day", "is outside the horizon")
	}
	if err := bad.Err(); err != nil {
		return Moved{}, err
	}
	t := m.take(q.Rounds)
	before, from, was := t.total, int(t.at[j]), t.copy()
	paid := m.left[j]
	if from >= 0 {
		paid = m.cost[j][from%m.Days]
		m.remove(t, []int{j})
	}
	if q.Day == nil {
		return m.moved(was, t, before, m.left[j]-paid, from, -1), nil
	}
	d := q.Day.Sub(m.Start)
	best, found := spot{adds: math.Inf(1)}, false
	if why := m.dayClosed(j, *q.Day); why != "" {
		return refuse(reason.Reason{Code: why, Numbers: reason.Numbers{"days": 1, "minutes": m.minutes[j]}}), nil
	}
	if !m.gapsKept(t, j, d) {
		return refuse(reason.Reason{Code: reason.GapBroken, Numbers: reason.Numbers{"days": float64(m.gap[j])}}), nil
	}
	scratch := make([]int32, 0, 64)
	for c := range m.crews {
		if r := c*m.Days + d; (q.Crew == "" || c == crew) && m.workable(j, r) {
			if s, ok := m.try(t, j, r, scratch); ok && s.adds < best.adds {
				best, found = s, true
			}
		}
	}
	if !found {
		why := reason.Reason{Code: reason.NoRoom, Numbers: reason.Numbers{"minutes": m.minutes[j], "days": 1}}
		if m.able[j] == 0 {
			why = reason.Reason{Code: reason.Unable, Numbers: reason.Numbers{"water": m.water[j]}, Names: reason.Names{"needs": m.lacks(m.Jobs[j])}}
		}
		return refuse(why), nil
	}
	m.insert(t, j, best)
	return m.moved(was, t, before, m.cost[j][d]-paid, from, best.route), nil
}

func refuse(why reason.Reason) Moved {
	return Moved{Reason: &why, Rounds: []Sequence{}, Load: []LoadChange{}}
}

func (m *model) moved(was, t *tour, before, waiting float64, from, to int) Moved {
	out := Moved{Possible: true, Adds: t.total - before, Waiting: waiting, Rounds: []Sequence{}, Load: []LoadChange{}}
	for n, r := range []int{from, to} {
		if r < 0 || (n == 1 && r == from) {
			continue
		}
		s := Sequence{Crew: m.Crews[r/m.Days].ID, Day: m.Start.Add(r % m.Days), Jobs: []string{}}
		for _, k := range t.routes[r] {
			s.Jobs = append(s.Jobs, m.Jobs[k].ID)
		}
		out.Rounds = append(out.Rounds, s)
		out.Load = append(out.Load, LoadChange{
			Crew: s.Crew, From: m.Start.Add(r % m.Days / 7 * 7), Minutes: m.minutesOf(t, r) - m.minutesOf(was, r),
		})
	}
	if to >= 0 {
		out.Crew = m.Crews[to/m.Days].ID
	}
	return out
}

// minutesOf are a route's driving, stops and work.
func (m *model) minutesOf(t *tour, r int) float64 {
	base := m.base[r/m.Days]
	at, total := base, t.work[r]
	for _, n := range t.routes[r] {
		total += m.travel[at][m.place[n]]
		at = m.place[n]
	}
	return total + m.travel[at][base]
}
