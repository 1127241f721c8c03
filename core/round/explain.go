package round

import (
	"math"
	"slices"

	"nextround/core/calendar"
	"nextround/core/reason"
)

// why says why a job is where it is, the decisive first.
func (m *model) why(j, r int, out Round, stop, k int) []reason.Reason {
	job, d := m.Jobs[j], r%m.Days
	day := m.Start.Add(d)
	var why []reason.Reason
	switch {
	case m.draft[j]:
		// Only planned: where it stays needs no words.
	case m.fixed[j] == r && m.locked[j]:
		why = append(why, reason.Reason{Code: reason.PlanLocked})
	case m.fixed[j] == r:
		why = append(why, reason.Reason{Code: reason.PlanPublished, Numbers: reason.Numbers{"price": m.stay[j]}})
	case m.fixed[j] >= 0:
		was := m.fixed[j]
		why = append(why, reason.Reason{
			Code: reason.PlanMoved, Numbers: reason.Numbers{"price": m.stay[j]},
			Names: reason.Names{"crew": m.Crews[was/m.Days].ID, "day": m.Start.Add(was % m.Days).String()},
		})
	}
	late := day.Sub(job.Due)
	week := math.Max(0, job.Waiting.After(m.Start, job.Due, day.Add(7))-m.cost[j][d])
	switch {
	case late > 0:
		why = append(why, reason.Reason{Code: reason.PlanLate, Numbers: reason.Numbers{"days": float64(late), "cost": m.cost[j][d], "week": week}})
	case late < 0:
		why = append(why, reason.Reason{Code: reason.PlanEarly, Numbers: reason.Numbers{"days": float64(-late), "cost": m.cost[j][d], "week": week}})
	default:
		why = append(why, reason.Reason{Code: reason.PlanOnDay, Numbers: reason.Numbers{"week": week}})
	}
	here := out.Stops[stop]
	if n := len(here.Jobs); n > 1 {
		c := m.Crews[r/m.Days]
		rides := reason.Reason{
			Code:    reason.PlanRides,
			Numbers: reason.Numbers{"others": float64(n - 1), "saves": (m.stop + here.Drive) * c.Hour / 60},
			Names:   reason.Names{"with": here.Jobs[(k+1)%n].Job},
		}
		why = append(why, rides)
	}
	if closed := m.closedBetween(j, day); closed > 0 {
		why = append(why, reason.Reason{Code: reason.PlanTooCold, Numbers: reason.Numbers{"days": float64(closed)}})
	}
	if m.people[j] > 1 {
		why = append(why, reason.Reason{Code: reason.PlanPeople, Numbers: reason.Numbers{"people": float64(m.people[j])}})
	}
	if m.water[j] > 0 {
		why = append(why, reason.Reason{Code: reason.PlanWater, Numbers: reason.Numbers{"litres": m.water[j], "tank": m.Crews[r/m.Days].TankL}})
	}
	if h := m.hours[j]; h >= 0 {
		for _, span := range m.spans[h][d] {
			if span.From <= m.shift[r].Starts && span.To >= m.shift[r].Starts+m.shift[r].Minutes {
				continue // open all the time the crew works
			}
			if s := here.Jobs[k].Starts; s >= span.From-1e-9 && s+m.minutes[j] <= span.To+1e-9 {
				why = append(why, reason.Reason{Code: reason.PlanWindow, Numbers: reason.Numbers{"from": span.From, "to": span.To, "latest": here.Latest}})
				break
			}
		}
	}
	return why
}

// closedBetween counts the days from the due day to the one it is on that were too cold.
func (m *model) closedBetween(j int, day calendar.Day) int {
	n := 0
	for d := max(m.Jobs[j].Due, m.Start); d < day; d++ {
		if m.dayClosed(j, d) == reason.NoDayTooCold {
			n++
		}
	}
	return n
}

// whyNot says why a job is not on any round: what rules it out, else what it would add at its best.
func (m *model) whyNot(t *tour, j int) reason.Reason {
	job := m.Jobs[j]
	if m.able[j] == 0 {
		return reason.Reason{Code: reason.Unable, Numbers: reason.Numbers{"water": m.water[j]}, Names: reason.Names{"needs": m.lacks(job)}}
	}
	if len(m.days[j]) == 0 {
		counts := map[reason.Code]int{}
		for d := range m.Days {
			counts[m.dayClosed(j, m.Start.Add(d))]++
		}
		code, most := reason.NoDayClosed, 0
		for _, c := range []reason.Code{reason.NoDayClosed, reason.NoDayTooCold, reason.NoDayNotBefore} {
			if counts[c] > most {
				code, most = c, counts[c]
			}
		}
		return reason.Reason{Code: code, Numbers: reason.Numbers{"days": float64(m.Days), "minutes": m.minutes[j]}}
	}
	if m.locked[j] {
		return reason.Reason{Code: reason.LockBroken, Names: reason.Names{
			"crew": m.Crews[m.fixed[j]/m.Days].ID, "day": m.Start.Add(m.fixed[j] % m.Days).String(),
		}}
	}
	enough, best, free, apart := false, math.Inf(1), false, false
	scratch := make([]int32, 0, 64)
	for _, d := range m.days[j] {
		apart = apart || m.gapsKept(t, j, d)
		for c := range m.crews {
			r := c*m.Days + d
			enough = enough || (m.able[j]&(1<<c) != 0 && m.shift[r].Minutes > 0 && m.shift[r].People >= m.people[j])
			if m.workable(j, r) && m.gapsKept(t, j, d) {
				if s, ok := m.try(t, j, r, scratch); ok {
					best, free = math.Min(best, s.adds), true
				}
			}
		}
	}
	switch {
	case !enough:
		return reason.Reason{Code: reason.TooFewPeople, Numbers: reason.Numbers{"people": float64(m.people[j])}}
	case !apart:
		return reason.Reason{Code: reason.GapBroken, Numbers: reason.Numbers{"days": float64(m.gap[j])}}
	case !free:
		return reason.Reason{Code: reason.NoRoom, Numbers: reason.Numbers{"minutes": m.minutes[j], "days": float64(len(m.days[j]))}}
	}
	return reason.Reason{Code: reason.CheaperLeft, Numbers: reason.Numbers{"adds": best, "waits": m.left[j]}}
}

// lacks names what no crew brings: a contractor, the first skill or kit, or water.
func (m *model) lacks(j Job) string {
	if j.Contractor && !slices.ContainsFunc(m.Crews, func(c Crew) bool { return c.Contractor }) {
		return "a contractor"
	}
	for _, need := range append(append([]string{}, j.Skills...), j.Kit...) {
		found := false
		for _, c := range m.Crews {
			for _, have := range append(append([]string{}, c.Skills...), c.Kit...) {
				found = found || have == need
			}
		}
		if !found {
			return need
		}
	}
	if j.WaterL > 0 {
		return "water"
	}
	return "everything together"
}
