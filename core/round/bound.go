package round

import (
	"math"
	"sort"
)

// bound is a sum that no plan can undercut. Each site by itself is a question of which days to come on: a visit costs its
// stop and half of the shortest way in and out, a job the price of the day it is done on, or of being left out. Its dual
// ascent (Erlenkotter, Operations Research 26, 1978) bounds that from below; the hours of all crews together are priced by
// Lagrange multipliers. Windows within the day, the order of stops, skills, kit and whole jobs are dropped: dropping a
// constraint only lowers the cost.
func (m *model) bound() float64 {
	hour := math.Inf(1)
	for _, c := range m.Crews {
		hour = math.Min(hour, c.Hour)
	}
	if m.crews == 0 {
		total := 0.0
		for _, v := range m.left {
			total += v
		}
		return total
	}
	bySite := map[int][]int{}
	sites := []int{}
	for j, p := range m.place {
		if bySite[p] == nil {
			sites = append(sites, p)
		}
		bySite[p] = append(bySite[p], j)
	}
	open := make(map[int]float64, len(sites))
	for _, p := range sites {
		open[p] = (m.stop + m.halfWays(p, bySite)) * hour / 60
	}
	regular, extra, overtime := make([]float64, m.Days), make([]float64, m.Days), math.Inf(1)
	for c, crew := range m.Crews {
		overtime = math.Min(overtime, crew.OvertimeHour/60)
		for d := range m.Days {
			if s := m.shift[c*m.Days+d]; s.Minutes > 0 {
				regular[d] += s.Minutes
				extra[d] += crew.Overtime
			}
		}
	}
	price := make([]float64, m.Days)
	best := 0.0
	step := .2
	for range 40 {
		total, use := 0.0, make([]float64, m.Days)
		for _, p := range sites {
			total += m.ascend(bySite[p], open[p], price, use)
		}
		for d, v := range price {
			total -= v*regular[d] + math.Max(0, v-overtime)*extra[d]
		}
		best = math.Max(best, total)
		over := false
		for d := range price {
			excess := use[d] - regular[d]
			if regular[d] > 0 {
				excess /= regular[d]
			}
			over = over || excess > 0
			price[d] = math.Max(0, price[d]+step*hour/60*excess)
		}
		if !over {
			break
		}
		step *= .95
	}
	return best
}

// halfWays is half of the shortest way to a site and from it, in minutes.
func (m *model) halfWays(p int, bySite map[int][]int) float64 {
	in, out := math.Inf(1), math.Inf(1)
	near := func(q int) {
		in, out = math.Min(in, m.travel[q][p]), math.Min(out, m.travel[p][q])
	}
	for _, b := range m.base {
		near(b)
	}
	for q := range bySite {
		if q != p {
			near(q)
		}
	}
	return (in + out) / 2
}

// ascend raises what each job is worth until no visit pays for more, and gives their sum; use gets the minutes on the days
// where jobs would be.
func (m *model) ascend(jobs []int, open float64, price, use []float64) float64 {
	type step struct {
		day  int
		cost float64
	}
	ladders := make([][]step, len(jobs))
	worth := make([]float64, len(jobs))
	rung := make([]int, len(jobs)) // how many steps are at or below the worth
	slack := make([]float64, m.Days)
	for d := range slack {
		slack[d] = open + price[d]*m.stop
	}
	for i, j := range jobs {
		for _, d := range m.days[j] {
			cost := m.cost[j][d]
			if m.fixed[j] >= 0 && m.fixed[j]%m.Days != d {
				cost += m.stay[j]
			}
			if cost += price[d] * m.minutes[j]; cost < m.left[j] {
				ladders[i] = append(ladders[i], step{d, cost})
			}
		}
		sort.Slice(ladders[i], func(a, b int) bool { return ladders[i][a].cost < ladders[i][b].cost })
		worth[i] = m.left[j]
		if len(ladders[i]) > 0 {
			worth[i] = ladders[i][0].cost
			use[ladders[i][0].day] += m.minutes[j]
			for rung[i] < len(ladders[i]) && ladders[i][rung[i]].cost <= worth[i] {
				rung[i]++
			}
		}
	}
	for moved := true; moved; {
		moved = false
		for i, j := range jobs {
			if worth[i] >= m.left[j] || len(ladders[i]) == 0 {
				continue
			}
			to := m.left[j]
			if rung[i] < len(ladders[i]) {
				to = math.Min(to, ladders[i][rung[i]].cost)
			}
			raise := to - worth[i]
			for _, s := range ladders[i][:rung[i]] {
				raise = math.Min(raise, slack[s.day])
			}
			if raise <= 1e-12 && to > worth[i] {
				continue
			}
			for _, s := range ladders[i][:rung[i]] {
				slack[s.day] -= raise
			}
			worth[i] += raise
			for rung[i] < len(ladders[i]) && ladders[i][rung[i]].cost <= worth[i]+1e-12 {
				rung[i]++
			}
			moved = moved || raise > 1e-12
		}
	}
	total := 0.0
	for _, v := range worth {
		total += v
	}
	return total
}
