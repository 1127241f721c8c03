package round

import (
	"math"
	"math/rand/v2"
	"sort"
)

// deepest is how many alternatives regret looks at.
const deepest = 3

// options are the best places of a job on different routes, the cheapest first.
type options struct {
	job   int
	n     int
	spots [deepest]spot
}

func (o *options) add(s spot) {
	o.drop(s.route)
	i := o.n
	for i > 0 && o.spots[i-1].rank > s.rank {
		i--
	}
	if i == deepest {
		return
	}
	copy(o.spots[i+1:], o.spots[i:deepest-1])
	o.spots[i] = s
	o.n = min(o.n+1, deepest)
}

func (o *options) drop(route int) {
	for i := range o.n {
		if o.spots[i].route == route {
			copy(o.spots[i:o.n-1], o.spots[i+1:o.n])
			o.n--
			return
		}
	}
}

func (o *options) has(route int) bool {
	for i := range o.n {
		if o.spots[i].route == route {
			return true
		}
	}
	return false
}

// bar is what a place must add less than to be worth looking at.
func (o *options) bar(most float64) float64 {
	if o.n == deepest {
		return math.Min(most, o.spots[deepest-1].rank)
	}
	return most
}

// filling is how jobs are put into a plan: k alternatives are looked at, prices are shaken by the share noise, and a job
// may cost patience more than leaving it out: one that is not worth a stop may be worth it with others.
type filling struct {
	k        int
	noise    float64
	patience float64
	// shake is the least money that noise is a share of.
	shake float64
	rng   *rand.Rand
}

// look fills in the options of a job. Days are tried in the order of their price, and once that alone is dearer than what
// was found, no later day can be better.
func (m *model) look(t *tour, o *options, f filling, scratch []int32) {
	o.n = 0
	for _, d := range m.days[o.job] {
		price := m.cost[o.job][d]
		if price >= o.bar(m.left[o.job]+f.patience) && !m.thorough {
			break
		}
		if m.gapsKept(t, o.job, d) {
			for c := range m.crews {
				m.consider(t, o, c*m.Days+d, f, scratch)
			}
		}
	}
}

func (m *model) consider(t *tour, o *options, r int, f filling, scratch []int32) {
	if !m.workable(o.job, r) {
		return
	}
	most := m.left[o.job] + f.patience
	if !m.thorough && m.least(t, o.job, r) >= o.bar(most) {
		return
	}
	if s, ok := m.try(t, o.job, r, scratch); ok && s.adds < most {
		s.rank = s.adds
		if f.noise > 0 {
			s.rank += f.noise * (2*f.rng.Float64() - 1) * math.Max(math.Abs(s.adds), f.shake)
		}
		o.add(s)
	}
}

// again looks at a route that changed; all others only where it has become worse than what was known of them.
func (m *model) again(t *tour, o *options, r int, f filling, scratch []int32) {
	full, last := o.n == deepest, o.spots[o.n-1].rank
	o.drop(r)
	m.consider(t, o, r, f, scratch)
	if full && (o.n < deepest || o.spots[deepest-1].rank > last) {
		m.look(t, o, f, scratch)
	}
}

// fill inserts jobs by regret: first the one that loses most if it does not get its best place. A job that is cheaper left
// out stays out.
func (m *model) fill(t *tour, jobs []int, f filling) {
	scratch := make([]int32, 0, 64)
	open := make([]*options, 0, len(jobs))
	for _, j := range jobs {
		o := &options{job: j}
		m.look(t, o, f, scratch)
		open = append(open, o)
	}
	for len(open) > 0 {
		chosen, most := -1, math.Inf(-1)
		for i, o := range open {
			if o.n == 0 {
				continue
			}
			first := o.spots[0].rank
			value := 0.0
			if f.k == 1 {
				value = -first
			}
			for x := 1; x < f.k; x++ {
				other := m.left[o.job]
				if x < o.n {
					other = math.Min(other, o.spots[x].rank)
				}
				value += other - first
			}
			if value > most {
				chosen, most = i, value
			}
		}
		if chosen < 0 {
			return
		}
		done := open[chosen]
		open[chosen] = open[len(open)-1]
		open = open[:len(open)-1]
		r := done.spots[0].route
		m.insert(t, done.job, done.spots[0])
		for _, o := range open {
			kin := o.job == m.after[done.job] || o.job == m.next[done.job]
			switch {
			case kin:
				m.look(t, o, f, scratch)
			case o.has(r):
				m.again(t, o, r, f, scratch)
			case m.gapsKept(t, o.job, r%m.Days):
				m.consider(t, o, r, f, scratch)
			}
		}
	}
}

// batchOf is how many jobs are weighed against one another while the first plan is made: fewer where there are many.
func batchOf(jobs int) int { return max(20, min(120, 200_000/max(1, jobs))) }

// construct makes the first plan by regret insertion, the jobs in batches by their due day.
func (m *model) construct(stop func() bool) *tour {
	t := m.empty()
	m.keepFixed(t)
	var order []int
	for j := range m.jobs {
		if t.at[j] < 0 {
			order = append(order, j)
		}
	}
	sort.SliceStable(order, func(a, b int) bool { return m.Jobs[order[a]].Due < m.Jobs[order[b]].Due })
	for len(order) > 0 {
		if stop() {
			m.placeInTurn(t, order)
			break
		}
		n := min(batchOf(m.jobs), len(order))
		m.fill(t, order[:n], filling{k: 2, patience: m.stopCost()})
		order = order[n:]
	}
	return t
}

// stopCost is the price of signing in at a stop, with the dearest crew.
func (m *model) stopCost() float64 {
	hour := 0.0
	for _, c := range m.Crews {
		hour = math.Max(hour, c.Hour)
	}
	return m.stop * hour / 60
}
