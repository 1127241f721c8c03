package round

import (
	"math"
	"slices"
	"sort"

	"nextround/core/calendar"
	"nextround/core/reason"
)

// model is a problem made ready for searching: names are numbers, a crew-day is a route.
type model struct {
	Problem
	last  calendar.Day
	stop  float64
	jobs  int
	crews int
	// Of jobs.
	place   []int
	minutes []float64
	people  []int
	water   []float64
	hours   []int
	able    []uint64    // crews with the skills and kit
	cost    [][]float64 // by day; +Inf where it cannot be
	days    [][]int     // days that can be, the cheapest first
	left    []float64
	after   []int // -1: none
	next    []int
	gap     []int
	fixed   []int // route, -1: none
	draft   []bool
	stay    []float64 // price of moving a fixed one
	locked  []bool
	// Of routes, crew × days + day.
	shift     []Shift
	published []bool
	// Of crews.
	base []int
	// Of places.
	travel [][]float64
	// spans by hours and day; nil: always.
	spans [][][]Span

	// thorough tries every place on a route: stops may be broken apart. A small problem can afford it.
	thorough bool

	jobAt, crewAt, placeAt map[string]int
}

// few is how many jobs make a small problem.
const few = 12

// compile makes a checked problem ready.
func compile(p Problem) *model {
	m := &model{Problem: p, last: p.Start.Add(p.Days - 1), stop: DefaultStopMinutes, jobs: len(p.Jobs), crews: len(p.Crews)}
	if p.StopMinutes != nil {
		m.stop = *p.StopMinutes
	}
	m.placeAt = index(p.Places, func(x Place) string { return x.ID })
	m.crewAt = index(p.Crews, func(x Crew) string { return x.ID })
	m.jobAt = index(p.Jobs, func(x Job) string { return x.ID })
	m.travel = make([][]float64, len(p.Places))
	for a := range p.Places {
		m.travel[a] = make([]float64, len(p.Places))
		for b := range p.Places {
			if a != b {
				m.travel[a][b] = p.Travel.between(a, b, p.Places)
			}
		}
	}
	m.spans = make([][][]Span, len(p.Hours))
	for h, hours := range p.Hours {
		m.spans[h] = make([][]Span, p.Days)
		for d := range p.Days {
			m.spans[h][d] = hours.On(p.Start.Add(d))
		}
	}
	for _, c := range p.Crews {
		m.base = append(m.base, m.placeAt[c.Base])
		for d := range p.Days {
			m.shift = append(m.shift, c.On(p.Start.Add(d)))
		}
	}
	m.thorough = m.jobs <= few
	m.published = make([]bool, len(m.shift))
	m.fixed, m.locked, m.draft, m.stay = make([]int, m.jobs), make([]bool, m.jobs), make([]bool, m.jobs), make([]float64, m.jobs)
	for j := range m.fixed {
		m.fixed[j] = -1
	}
	for _, f := range p.Fixed {
		j, r := m.jobAt[f.Job], m.crewAt[f.Crew]*p.Days+f.Day.Sub(p.Start)
		m.fixed[j], m.locked[j], m.draft[j], m.stay[j] = r, f.Locked, f.Draft, f.price(p)
		m.published[r] = m.published[r] || (!f.Locked && !f.Draft)
	}
	hoursAt := index(p.Hours, func(x Hours) string { return x.ID })
	m.after, m.next, m.gap = make([]int, m.jobs), make([]int, m.jobs), make([]int, m.jobs)
	for j := range p.Jobs {
		m.after[j], m.next[j] = -1, -1
	}
	for j, job := range p.Jobs {
		m.place = append(m.place, m.placeAt[job.Place])
		m.minutes, m.people, m.water = append(m.minutes, job.Minutes), append(m.people, max(1, job.People)), append(m.water, job.WaterL)
		h := -1
		if job.Hours != "" {
			h = hoursAt[job.Hours]
		}
		m.hours, m.able, m.left = append(m.hours, h), append(m.able, m.ableCrews(job)), append(m.left, job.leftOut(m.Start, m.last))
		if job.After != "" {
			m.after[j], m.gap[j] = m.jobAt[job.After], job.Gap
			m.next[m.after[j]] = j
		}
		if m.fixed[j] >= 0 {
			m.left[j] += m.stay[j]
		}
	}
	for j := range p.Jobs {
		m.price(j)
	}
	return m
}

func index[T any](list []T, id func(T) string) map[string]int {
	out := make(map[string]int, len(list))
	for i, x := range list {
		out[id(x)] = i
	}
	return out
}

func (m *model) ableCrews(j Job) (set uint64) {
	has := func(have, need []string) bool {
		return !slices.ContainsFunc(need, func(s string) bool { return !slices.Contains(have, s) })
	}
	for c, crew := range m.Crews {
		if (crew.Contractor || !j.Contractor) && has(crew.Skills, j.Skills) && has(crew.Kit, j.Kit) && crew.TankL >= j.WaterL {
			set |= 1 << c
		}
	}
	return set
}

// price fills in what each day costs, and in which order days are tried.
func (m *model) price(j int) {
	job := m.Jobs[j]
	cost := make([]float64, m.Days)
	var days []int
	for d := range cost {
		day := m.Start.Add(d)
		cost[d] = math.Inf(1)
		if m.dayClosed(j, day) != "" {
			continue
		}
		cost[d] = job.Waiting.After(m.Start, job.Due, day)
		days = append(days, d)
	}
	sort.SliceStable(days, func(a, b int) bool { return cost[days[a]] < cost[days[b]] })
	m.cost, m.days = append(m.cost, cost), append(m.days, days)
}

// dayClosed says why a job cannot be on a day, whoever does it; empty where it can.
func (m *model) dayClosed(j int, day calendar.Day) reason.Code {
	job := m.Jobs[j]
	d := day.Sub(m.Start)
	switch {
	case job.From != nil && day < *job.From:
		return reason.NoDayNotBefore
	case m.hours[j] >= 0 && !slices.ContainsFunc(m.spans[m.hours[j]][d], func(s Span) bool { return s.To-s.From >= job.Minutes }):
		return reason.NoDayClosed
	case job.OutdoorWet && slices.Contains(m.Places[m.place[j]].TooCold, day):
		return reason.NoDayTooCold
	}
	return ""
}

// workable reports whether a crew-day can do a job at all.
func (m *model) workable(j, r int) bool {
	s := m.shift[r]
	return s.Minutes > 0 && m.able[j]&(1<<(r/m.Days)) != 0 && s.People >= m.people[j] && (!m.locked[j] || m.fixed[j] == r)
}

// on is the price of a job on a route, apart from the route's own.
func (m *model) on(j, r int) float64 {
	money := m.cost[j][r%m.Days] + m.Crews[r/m.Days].WorkHour*m.minutes[j]/60
	if m.fixed[j] >= 0 && m.fixed[j] != r {
		money += m.stay[j]
	}
	if m.published[r] && (m.fixed[j] < 0 || m.draft[j]) {
		money += m.MovePrice // what was sent changes
	}
	return money
}

// timing of a job on a route.
type timing struct {
	drive, starts, ends float64
	newStop             bool
}

// walk goes along a route and tells each job's time; ok is false where a window, the tank or the shift is broken.
func (m *model) walk(r int, seq []int32, each func(int, timing)) (money float64, ok bool) {
	if len(seq) == 0 {
		return 0, true
	}
	crew, d := r/m.Days, r%m.Days
	c, s := &m.Crews[crew], m.shift[r]
	t, at, stop, tank := s.Starts, m.base[crew], -1, c.TankL
	road := 0.0
	for _, n := range seq {
		j := int(n)
		var now timing
		if p := m.place[j]; p != stop {
			now.drive, now.newStop = m.travel[at][p], true
			t += now.drive + m.stop
			road += now.drive + m.stop
			at, stop = p, p
			if m.Places[p].Water {
				tank = c.TankL
			}
		}
		if m.water[j] > 0 {
			if tank -= m.water[j]; tank < -1e-9 {
				return 0, false
			}
		}
		if h := m.hours[j]; h >= 0 {
			found := false
			for _, span := range m.spans[h][d] {
				if from := math.Max(t, span.From); from+m.minutes[j] <= span.To+1e-9 {
					t, found = from, true
					break
				}
			}
			if !found {
				return 0, false
			}
		}
		now.starts = t
		t += m.minutes[j]
		now.ends = t
		if each != nil {
			each(j, now)
		}
	}
	back := m.travel[at][m.base[crew]]
	road += back
	over := t + back - s.Starts - s.Minutes
	if over > c.Overtime+1e-9 {
		return 0, false
	}
	return road*c.Hour/60 + math.Max(0, over)*c.OvertimeHour/60 + c.DayFee, true
}

// tour is a plan in the making.
type tour struct {
	routes [][]int32 // never changed in place: copies share them
	money  []float64 // of each route itself
	work   []float64 // minutes of work and stops on each, without driving
	at     []int32   // route of each job, -1: left out
	total  float64
}

func (m *model) empty() *tour {
	t := &tour{routes: make([][]int32, len(m.shift)), money: make([]float64, len(m.shift)), work: make([]float64, len(m.shift)), at: make([]int32, m.jobs)}
	for j := range t.at {
		t.at[j] = -1
		t.total += m.left[j]
	}
	return t
}

func (t *tour) copy() *tour {
	return &tour{routes: slices.Clone(t.routes), money: slices.Clone(t.money), work: slices.Clone(t.work), at: slices.Clone(t.at), total: t.total}
}

// gapsKept reports whether a job may be on a day beside the jobs of its clock that are placed.
func (m *model) gapsKept(t *tour, j, d int) bool {
	if a := m.after[j]; a >= 0 && t.at[a] >= 0 && d-int(t.at[a])%m.Days < m.gap[j] {
		return false
	}
	if n := m.next[j]; n >= 0 && t.at[n] >= 0 && int(t.at[n])%m.Days-d < m.gap[n] {
		return false
	}
	return true
}

// place of a job on a route: where, and what it adds.
type spot struct {
	route, pos int
	adds       float64
	money      float64 // of the route with it
	rank       float64 // what it adds, shaken
}

// try finds the cheapest place on a route: within the stop at the job's site where there is one, else between stops.
func (m *model) try(t *tour, j, r int, scratch []int32) (spot, bool) {
	seq := t.routes[r]
	best := spot{route: r, adds: math.Inf(1)}
	job, base := m.on(j, r), t.money[r]
	buffer := append(scratch[:0], int32(j)) //nolint:gosec // jobs are few
	buffer = append(buffer, seq...)
	attempt := func(pos int) {
		if money, ok := m.walk(r, buffer, nil); ok && job+money-base < best.adds {
			best.pos, best.adds, best.money = pos, job+money-base, money
		}
	}
	here := m.place[j]
	shared := false
	for _, n := range seq {
		shared = shared || m.place[n] == here
	}
	first := 1
	if shared && !m.thorough {
		first = 0
	}
	for pass := first; pass < 2; pass++ {
		for pos := 0; ; pos++ {
			joins := (pos > 0 && m.place[seq[pos-1]] == here) || (pos < len(seq) && m.place[seq[pos]] == here)
			splits := pos > 0 && pos < len(seq) && m.place[seq[pos-1]] == m.place[seq[pos]] && m.place[seq[pos]] != here
			if m.thorough || ((pass == 0) == joins && !splits) {
				attempt(pos)
			}
			if pos == len(seq) {
				break
			}
			buffer[pos], buffer[pos+1] = buffer[pos+1], buffer[pos]
		}
		if !math.IsInf(best.adds, 1) {
			break
		}
		buffer[0] = int32(j) //nolint:gosec // jobs are few
		copy(buffer[1:], seq)
	}
	return best, !math.IsInf(best.adds, 1)
}

func (m *model) insert(t *tour, j int, s spot) {
	t.routes[s.route] = slices.Insert(slices.Clone(t.routes[s.route]), s.pos, int32(j)) //nolint:gosec // jobs are few
	t.total += s.adds - m.left[j]
	t.money[s.route] = s.money
	t.work[s.route] = m.workOf(t.routes[s.route])
	t.at[j] = int32(s.route) //nolint:gosec // routes are few
}

// remove takes jobs out.
func (m *model) remove(t *tour, jobs []int) {
	touched := map[int][]int32{}
	var routes []int // in the order they were touched: sums come out the same each time
	for _, j := range jobs {
		r := int(t.at[j])
		if r < 0 {
			continue
		}
		seq, ok := touched[r]
		if !ok {
			seq = slices.Clone(t.routes[r])
			routes = append(routes, r)
		}
		touched[r] = slices.DeleteFunc(seq, func(n int32) bool { return int(n) == j })
		t.total += m.left[j] - m.on(j, r)
		t.at[j] = -1
	}
	for _, r := range routes {
		seq := touched[r]
		money, ok := m.walk(r, seq, nil)
		if !ok {
			// With travel that breaks the triangle a shorter route can come too late: then it is emptied.
			for _, n := range seq {
				t.total += m.left[n] - m.on(int(n), r)
				t.at[n] = -1
			}
			seq, money = nil, 0
		}
		t.total += money - t.money[r]
		t.routes[r], t.money[r], t.work[r] = seq, money, m.workOf(seq)
	}
}

// workOf is the least a route takes: its work and its stops.
func (m *model) workOf(seq []int32) (minutes float64) {
	stop := -1
	for _, n := range seq {
		minutes += m.minutes[n]
		if m.place[n] != stop {
			stop = m.place[n]
			minutes += m.stop
		}
	}
	return minutes
}

// least is a quick lower bound of what a job adds to a route; +Inf where it cannot fit.
func (m *model) least(t *tour, j, r int) float64 {
	c := &m.Crews[r/m.Days]
	here := m.place[j]
	more, money := m.minutes[j], m.on(j, r)
	if !slices.ContainsFunc(t.routes[r], func(n int32) bool { return m.place[n] == here }) {
		more += m.stop
		money += m.stop * c.Hour / 60
	}
	if t.work[r]+more > m.shift[r].Minutes+c.Overtime+1e-9 {
		return math.Inf(1)
	}
	if len(t.routes[r]) == 0 {
		money += c.DayFee + (m.travel[m.base[r/m.Days]][here]+m.travel[here][m.base[r/m.Days]])*c.Hour/60
	}
	return money
}
