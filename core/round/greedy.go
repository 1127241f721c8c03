package round

import (
	"math"
	"sort"
)

// greedy is the plan by hand that every other is held against: the earliest due first, each on the feasible crew-day
// nearest to its due day, at the cheapest place of the cheapest crew of that day; nothing is swapped afterwards. What is
// fixed is placed first.
func (m *model) greedy() *tour {
	t := m.empty()
	m.keepFixed(t)
	order := make([]int, 0, m.jobs)
	for j := range m.jobs {
		if t.at[j] < 0 {
			order = append(order, j)
		}
	}
	sort.SliceStable(order, func(a, b int) bool { return m.Jobs[order[a]].Due < m.Jobs[order[b]].Due })
	m.placeInTurn(t, order)
	return t
}

// placeInTurn puts each job on the feasible crew-day nearest to its due day.
func (m *model) placeInTurn(t *tour, order []int) {
	scratch := make([]int32, 0, 64)
	for _, j := range order {
		due := m.Jobs[j].Due.Sub(m.Start)
		days := append([]int{}, m.days[j]...)
		sort.Slice(days, func(a, b int) bool {
			x, y := abs(days[a]-due), abs(days[b]-due)
			return x < y || (x == y && days[a] < days[b])
		})
		for _, d := range days {
			if !m.gapsKept(t, j, d) {
				continue
			}
			best, found := spot{adds: math.Inf(1)}, false
			for c := range m.crews {
				r := c*m.Days + d
				if !m.workable(j, r) || (m.published[r] && (m.fixed[j] != r || m.draft[j])) {
					continue
				}
				if s, ok := m.try(t, j, r, scratch); ok && s.adds < best.adds {
					best, found = s, true
				}
			}
			if found {
				m.insert(t, j, best)
				break
			}
		}
	}
}

func abs(n int) int { return max(n, -n) }

// keepFixed puts the jobs of published rounds, and locked ones, where they are, in the order given.
func (m *model) keepFixed(t *tour) {
	scratch := make([]int32, 0, 64)
	for _, f := range m.Fixed {
		j := m.jobAt[f.Job]
		if r := m.fixed[j]; !f.Draft && m.workable(j, r) && !math.IsInf(m.cost[j][r%m.Days], 1) && m.gapsKept(t, j, r%m.Days) {
			if s, ok := m.tryLast(t, j, r); ok {
				m.insert(t, j, s)
			} else if s, ok := m.try(t, j, r, scratch); ok {
				m.insert(t, j, s)
			}
		}
	}
}

// tryLast puts a job at the end of a route.
func (m *model) tryLast(t *tour, j, r int) (spot, bool) {
	seq := append(append([]int32{}, t.routes[r]...), int32(j)) //nolint:gosec // jobs are few
	money, ok := m.walk(r, seq, nil)
	return spot{route: r, pos: len(seq) - 1, adds: m.on(j, r) + money - t.money[r], money: money}, ok
}
