package round

import (
	"math"
	"slices"

	"nextround/core/calendar"
	"nextround/core/reason"
)

// Plan says which crew does which jobs on which day, what it costs, and how far it can be from the best.
type Plan struct {
	Rounds  []Round   `json:"rounds"` // by day, then crew
	LeftOut []LeftOut `json:"left_out"`
	Cost    Cost      `json:"cost"`
	// Bound is a sum that no plan can undercut; Gap the share by which this one lies above it.
	Bound float64 `json:"bound"`
	Gap   float64 `json:"gap_share"`
	// Iterations that were searched by each worker.
	Iterations int `json:"iterations"`
	// Weeks are what each crew is planned for.
	Weeks []WeekLoad `json:"weeks"`
}

// Cost of a plan in money.
type Cost struct {
	Waiting  float64 `json:"waiting"`  // jobs done late
	Haste    float64 `json:"haste"`    // jobs done early: interval not used up
	Driving  float64 `json:"driving"`  // on the road
	Stops    float64 `json:"stops"`    // signing in at stops
	Overtime float64 `json:"overtime"` // beyond the shift
	Crews    float64 `json:"crews"`    // contractors' days and hours
	Moved    float64 `json:"moved"`    // changes to what was published
	LeftOut  float64 `json:"left_out"` // jobs not done within the horizon
	Total    float64 `json:"total"`
}

// Round is the day of a crew. Times are minutes of the day.
type Round struct {
	Crew    string       `json:"crew"`
	Day     calendar.Day `json:"day"`
	Leaves  float64      `json:"leaves"` // the base, at the latest that keeps the rest as it is
	Back    float64      `json:"back"`
	Stops   []Stop       `json:"stops"`
	Driving float64      `json:"driving_minutes"`
	Work    float64      `json:"work_minutes"`
	// Shift is what the crew works that day in minutes, Overtime what goes beyond it.
	Shift    float64 `json:"shift_minutes"`
	Overtime float64 `json:"overtime_minutes"`
	Cost     float64 `json:"cost"` // driving, stops, overtime and crew
}

// Stop is a site on a round.
type Stop struct {
	Place  string  `json:"place"`
	Drive  float64 `json:"drive_minutes"`
	Arrive float64 `json:"arrive"`
	Leave  float64 `json:"leave"`
	// Latest is when it must be arrived at so that all that follows still fits, without more overtime: the plan backwards from
	// the hour a place opens or a shift ends.
	Latest float64 `json:"latest"`
	Jobs   []Timed `json:"jobs"`
}

// Timed is a job with its times and why it is where it is.
type Timed struct {
	Job     string          `json:"job"`
	Starts  float64         `json:"starts"`
	Ends    float64         `json:"ends"`
	Waiting float64         `json:"waiting_cost"` // of the day it is on, early or late
	Reasons []reason.Reason `json:"reasons"`
}

// LeftOut is a job that is not on any round, and why.
type LeftOut struct {
	Job    string        `json:"job"`
	Cost   float64       `json:"cost"`
	Reason reason.Reason `json:"reason"`
}

// WeekLoad is what a crew is planned for in a week of the horizon.
type WeekLoad struct {
	Crew    string       `json:"crew"`
	From    calendar.Day `json:"from"`
	Planned float64      `json:"planned_minutes"` // driving, stops and work
	Shift   float64      `json:"shift_minutes"`
}

// Sequence is the jobs of a crew-day in their order.
type Sequence struct {
	Crew string       `json:"crew"`
	Day  calendar.Day `json:"day"`
	Jobs []string     `json:"jobs"`
}

// Make plans: construction by regret insertion, then the search. The error is an invalid.Error naming the fields.
func Make(p Problem, s Search) (Plan, error) {
	if err := s.check(); err != nil {
		return Plan{}, err
	}
	m, err := ready(p)
	if err != nil {
		return Plan{}, err
	}
	best, done := m.search(m.construct(s.over), s)
	return m.plan(best, done), nil
}

// First is the plan by regret insertion alone.
func First(p Problem) (Plan, error) {
	m, err := ready(p)
	if err != nil {
		return Plan{}, err
	}
	return m.plan(m.construct(func() bool { return false }), 0), nil
}

// Greedy is the plan by hand that others are held against: the earliest due first, each on the feasible crew-day nearest to
// its due day, with the crew to which it adds least; nothing is swapped afterwards.
func Greedy(p Problem) (Plan, error) {
	m, err := ready(p)
	if err != nil {
		return Plan{}, err
	}
	return m.plan(m.greedy(), 0), nil
}

// Improve searches on from a plan.
func Improve(p Problem, from []Sequence, s Search) (Plan, error) {
	m, err := ready(p)
	if err != nil {
		return Plan{}, err
	}
	t := m.take(from)
	m.fill(t, m.loose(t), filling{k: 2})
	best, done := m.search(t, s)
	return m.plan(best, done), nil
}

// Price works out the times and the cost of rounds as they stand. A job that cannot be where it stands is left out, and
// the reason says so.
func Price(p Problem, from []Sequence) (Plan, error) {
	m, err := ready(p)
	if err != nil {
		return Plan{}, err
	}
	return m.plan(m.take(from), 0), nil
}

func ready(p Problem) (*model, error) {
	if err := p.Check(); err != nil {
		return nil, err
	}
	return compile(p), nil
}

// loose are the jobs on no route.
func (m *model) loose(t *tour) (out []int) {
	for j, r := range t.at {
		if r < 0 {
			out = append(out, j)
		}
	}
	return out
}

// take puts jobs where a plan has them, in its order; what does not fit there any more is left out.
func (m *model) take(from []Sequence) *tour {
	t := m.empty()
	scratch := make([]int32, 0, 64)
	for _, s := range from {
		c, ok := m.crewAt[s.Crew]
		d := s.Day.Sub(m.Start)
		if !ok || d < 0 || d >= m.Days {
			continue
		}
		r := c*m.Days + d
		for _, id := range s.Jobs {
			j, ok := m.jobAt[id]
			if !ok || t.at[j] >= 0 || !m.workable(j, r) || math.IsInf(m.cost[j][d], 1) || !m.gapsKept(t, j, d) {
				continue
			}
			if at, ok := m.tryLast(t, j, r); ok {
				m.insert(t, j, at)
			} else if at, ok := m.try(t, j, r, scratch); ok {
				m.insert(t, j, at)
			}
		}
	}
	return t
}

// plan tells a tour with its times, cost and reasons.
func (m *model) plan(t *tour, iterations int) Plan {
	out := Plan{Rounds: []Round{}, LeftOut: []LeftOut{}, Iterations: iterations, Weeks: []WeekLoad{}}
	for d := range m.Days {
		for c := range m.crews {
			r := c*m.Days + d
			if len(t.routes[r]) > 0 {
				out.Rounds = append(out.Rounds, m.round(t, r, &out.Cost))
			}
		}
	}
	for j, r := range t.at {
		if r < 0 {
			out.LeftOut = append(out.LeftOut, LeftOut{Job: m.Jobs[j].ID, Cost: m.left[j], Reason: m.whyNot(t, j)})
			out.Cost.LeftOut += m.left[j]
		}
	}
	c := &out.Cost
	c.Total = c.Waiting + c.Haste + c.Driving + c.Stops + c.Overtime + c.Crews + c.Moved + c.LeftOut
	out.Bound = m.bound()
	if out.Bound > 0 {
		out.Gap = c.Total/out.Bound - 1
	}
	out.Weeks = m.weeks(out.Rounds)
	return out
}

func (m *model) round(t *tour, r int, cost *Cost) Round {
	crew, d := r/m.Days, r%m.Days
	c, s := m.Crews[crew], m.shift[r]
	out := Round{Crew: c.ID, Day: m.Start.Add(d), Shift: s.Minutes}
	clock, drove := s.Starts, 0.0
	money, _ := m.walk(r, t.routes[r], func(j int, at timing) {
		if at.newStop {
			arrive := clock + at.drive
			out.Stops = append(out.Stops, Stop{Place: m.Jobs[j].Place, Drive: at.drive, Arrive: arrive, Jobs: []Timed{}})
			drove += at.drive
			cost.Stops += m.stop * c.Hour / 60
		}
		stop := &out.Stops[len(out.Stops)-1]
		wait := m.cost[j][d]
		stop.Jobs = append(stop.Jobs, Timed{Job: m.Jobs[j].ID, Starts: at.starts, Ends: at.ends, Waiting: wait})
		stop.Leave, clock = at.ends, at.ends
		out.Work += m.minutes[j]
		if out.Day < m.Jobs[j].Due {
			cost.Haste += wait
		} else {
			cost.Waiting += wait
		}
		cost.Crews += c.WorkHour * m.minutes[j] / 60
		cost.Moved += m.on(j, r) - wait - c.WorkHour*m.minutes[j]/60
	})
	back := m.travel[m.placeAt[out.Stops[len(out.Stops)-1].Place]][m.base[crew]]
	drove += back
	out.Back, out.Driving = clock+back, drove
	out.Overtime = math.Max(0, out.Back-s.Starts-s.Minutes)
	out.Cost = money
	cost.Driving += drove * c.Hour / 60
	cost.Overtime += out.Overtime * c.OvertimeHour / 60
	cost.Crews += c.DayFee
	m.backwards(r, &out)
	for i := range out.Stops {
		for k := range out.Stops[i].Jobs {
			job := &out.Stops[i].Jobs[k]
			job.Reasons = m.why(m.jobAt[job.Job], r, out, i, k)
		}
	}
	return out
}

// backwards finds the latest each stop can be arrived at, and leaves the base no earlier than needed.
func (m *model) backwards(r int, out *Round) {
	d := r % m.Days
	at := m.base[r/m.Days]
	// The end that must be kept: the shift's, or the one it already goes to beyond it.
	end := math.Max(out.Back, m.shift[r].Starts+m.shift[r].Minutes)
	for i := len(out.Stops) - 1; i >= 0; i-- {
		stop := &out.Stops[i]
		p := m.placeAt[stop.Place]
		end -= m.travel[p][at]
		for k := len(stop.Jobs) - 1; k >= 0; k-- {
			j := m.jobAt[stop.Jobs[k].Job]
			begin := end - m.minutes[j]
			if h := m.hours[j]; h >= 0 {
				// The last span it fits in before the end.
				for _, span := range slices.Backward(m.spans[h][d]) {
					if from := math.Min(end, span.To) - m.minutes[j]; from >= span.From-1e-9 {
						begin = from
						break
					}
				}
			}
			end = begin
		}
		end -= m.stop
		stop.Latest = end
		at = p
	}
	first := &out.Stops[0]
	idle := math.Max(0, first.Jobs[0].Starts-m.stop-first.Arrive)
	first.Arrive += idle
	out.Leaves = first.Arrive - first.Drive
}

func (m *model) weeks(rounds []Round) (out []WeekLoad) {
	weeks := (m.Days + 6) / 7
	load := make([]WeekLoad, m.crews*weeks)
	for c, crew := range m.Crews {
		for d := range m.Days {
			w := &load[c*weeks+d/7]
			w.Crew, w.From = crew.ID, m.Start.Add(d/7*7)
			w.Shift += m.shift[c*m.Days+d].Minutes
		}
	}
	for _, r := range rounds {
		w := &load[m.crewAt[r.Crew]*weeks+r.Day.Sub(m.Start)/7]
		w.Planned += r.Driving + r.Work + float64(len(r.Stops))*m.stop
	}
	return append([]WeekLoad{}, load...)
}

// Sequences are the rounds of a plan without their times.
func (p Plan) Sequences() []Sequence {
	out := make([]Sequence, 0, len(p.Rounds))
	for _, r := range p.Rounds {
		s := Sequence{Crew: r.Crew, Day: r.Day}
		for _, stop := range r.Stops {
			for _, j := range stop.Jobs {
				s.Jobs = append(s.Jobs, j.Job)
			}
		}
		out = append(out, s)
	}
	return out
}
