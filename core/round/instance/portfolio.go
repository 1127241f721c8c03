// Package instance makes planning problems of a known make, for tests and benchmarks. Everything in them is invented.
package instance

import (
	"fmt"
	"math"
	"math/rand/v2"

	"nextround/core/calendar"
	"nextround/core/round"
)

// Size of a portfolio.
type Size struct {
	Jobs, Crews, Days int
	// JobsPerSite on average over the horizon; 0 means 14.
	JobsPerSite int
	Seed        uint64
}

// Sizes that the speed is measured at.
var (
	Small = Size{Jobs: 150, Crews: 3, Days: 91, Seed: 1}
	Town  = Size{Jobs: 1000, Crews: 6, Days: 91, Seed: 2}
	Large = Size{Jobs: 5000, Crews: 20, Days: 91, Seed: 3}
)

// start is a Monday in early March.
var start = calendar.MustParse("2026-03-02")

const depot = "depot"

// leftOut is dear, so that plans differ by how they do the work and not by how much of it.
const leftOut = 400

// Portfolio is a town's worth of clocks: sites over 40 × 30 km in clusters, units with clocks of 30 to 182 days, prices of
// waiting that rise faster the longer one waits, sites open by day, before opening or in a gap at noon, work for two, wet
// work outdoors in a cold spring, and one contractor among the crews.
func Portfolio(s Size) round.Problem {
	r := rand.New(rand.NewPCG(s.Seed, 6)) //nolint:gosec // an instance
	per := s.JobsPerSite
	if per == 0 {
		per = 14
	}
	p := round.Problem{Start: start, Days: s.Days, MovePrice: 40}
	p.Places = append(p.Places, round.Place{ID: depot, Lat: 60, Lon: 10, Water: true})
	p.Hours = hours()
	sites := max(1, s.Jobs/per)
	var town [6][2]float64
	for i := range town {
		town[i] = [2]float64{60 + .27*(r.Float64()-.5), 10 + .7*(r.Float64()-.5)}
	}
	for i := range sites {
		at := town[r.IntN(len(town))]
		place := round.Place{ID: fmt.Sprintf("site-%d", i), Lat: at[0] + .03*r.NormFloat64(), Lon: at[1] + .06*r.NormFloat64(), Water: r.Float64() < .7}
		for d := range min(s.Days, 16) {
			if r.Float64() < .25 {
				place.TooCold = append(place.TooCold, start.Add(d))
			}
		}
		p.Places = append(p.Places, place)
	}
	for c := range s.Crews {
		p.Crews = append(p.Crews, crew(c, s.Crews))
	}
	for unit := 0; len(p.Jobs) < s.Jobs; unit++ {
		p.Jobs = append(p.Jobs, clock(r, unit, fmt.Sprintf("site-%d", r.IntN(sites)), s.Days)...)
	}
	p.Jobs = p.Jobs[:s.Jobs]
	return p
}

func hours() []round.Hours {
	of := func(id string, spans ...round.Span) round.Hours {
		h := round.Hours{ID: id}
		for d := 1; d <= 5; d++ {
			h.Weekly[d] = spans
		}
		return h
	}
	return []round.Hours{
		of("by day", round.Span{From: 7 * 60, To: 17 * 60}), of("before opening", round.Span{From: 5 * 60, To: 10 * 60}),
		of("at noon", round.Span{From: 700, To: 790}), of("not in the middle", round.Span{From: 360, To: 600}, round.Span{From: 960, To: 1200}),
	}
}

func crew(n, of int) round.Crew {
	c := round.Crew{
		ID: fmt.Sprintf("crew-%d", n), Base: depot, TankL: 60, Kit: []string{"ladder"}, Overtime: 60, Hour: 55, OvertimeHour: 30,
	}
	people := 1
	if n%2 == 0 {
		people, c.Hour = 2, 95
		c.Skills = []string{"roof"}
	}
	for d := 1; d <= 5; d++ {
		c.Weekly[d] = round.Shift{Starts: 420 - 60*float64(n%2), Minutes: 450, People: people}
	}
	if n == of-1 && of > 2 {
		c.DayFee, c.WorkHour, c.Overtime = 60, 20, 0
	}
	return c
}

// clock is a unit's clean over the horizon, as often as it comes.
func clock(r *rand.Rand, unit int, site string, days int) (out []round.Job) {
	every := []int{30, 42, 61, 91, 91, 182}[r.IntN(6)]
	minutes := 15 + 10*float64(r.IntN(7))
	if every < 60 {
		minutes = 10 + 5*float64(r.IntN(3))
	}
	clean := 12 + minutes/60*45
	slope := clean / float64(every) * math.Exp(.8*r.NormFloat64())
	where := []string{"by day", "by day", "by day", "before opening", "at noon", "not in the middle", ""}[r.IntN(7)]
	if where == "at noon" {
		minutes = math.Min(minutes, 60)
	}
	due := r.IntN(every+14) - 14
	base := round.Job{
		Place: site, Hours: where, Minutes: minutes, People: 1, OutdoorWet: r.Float64() < .3, WaterL: float64(max(0, r.IntN(6)-3) * 10),
		Waiting: round.Waiting{EarlyDay: clean / float64(every)}, LeftOut: leftOut,
	}
	for week := 1; week <= 12; week++ {
		w := float64(week)
		base.Waiting.Weeks = append(base.Waiting.Weeks, slope*7*w*(.4+.06*w))
	}
	if r.Float64() < .06 {
		base.People, base.Skills, base.Kit = 2, []string{"roof"}, []string{"ladder"}
	}
	for n := 0; due < days; n++ {
		j := base
		j.ID = fmt.Sprintf("unit-%d/%d", unit, n)
		j.Due = start.Add(due)
		if n > 0 {
			j.After, j.Gap = fmt.Sprintf("unit-%d/%d", unit, n-1), every/2
		}
		out = append(out, j)
		due += every
	}
	return out
}

// Planted is a problem whose best plan is known by construction: each crew's day has sites of its own along a line out of the depot,
// each crew has skills of its own, every job is due on its day, and being a day off costs more than all driving.
func Planted(crews, days, stops int) (round.Problem, float64) {
	p := round.Problem{Start: start, Days: days}
	zero := 0.0
	p.StopMinutes = &zero
	p.Places = []round.Place{{ID: depot}}
	best := 0.0
	type spot struct{ route, x int }
	var spots []spot
	for c := range crews {
		id := fmt.Sprintf("crew-%d", c)
		crew := round.Crew{ID: id, Base: depot, Hour: 60, Skills: []string{id}}
		for d := range crew.Weekly {
			crew.Weekly[d] = round.Shift{Starts: 360, Minutes: 600, People: 1}
		}
		p.Crews = append(p.Crews, crew)
		for d := range days {
			for s := range stops {
				// Every other site is written down from the far end, so that the order given is not the best one.
				x := s + 1
				if s%2 == 1 {
					x = stops - s + (stops+1)%2
				}
				place := fmt.Sprintf("%s/%d/%d", id, d, s)
				p.Places = append(p.Places, round.Place{ID: place})
				spots = append(spots, spot{c*days + d, x})
				p.Jobs = append(p.Jobs, round.Job{
					ID: place, Place: place, Due: start.Add(d), Minutes: 5, Skills: []string{id},
					Waiting: round.Waiting{EarlyDay: 1e4, Weeks: []float64{7e4}}, LeftOut: 1e6,
				})
			}
			far := 0
			for s := range stops {
				far = max(far, spots[len(spots)-1-s].x)
			}
			best += 2 * float64(far) * 10 // out and back, 10 minutes a step, a unit of money each
		}
	}
	n := len(p.Places)
	p.Travel.Minutes = make([][]float64, n)
	for a := range n {
		p.Travel.Minutes[a] = make([]float64, n)
		for b := range n {
			switch {
			case a == b:
			case a == 0:
				p.Travel.Minutes[a][b] = 10 * float64(spots[b-1].x)
			case b == 0:
				p.Travel.Minutes[a][b] = 10 * float64(spots[a-1].x)
			case spots[a-1].route == spots[b-1].route:
				p.Travel.Minutes[a][b] = 10 * math.Abs(float64(spots[a-1].x-spots[b-1].x))
			default:
				p.Travel.Minutes[a][b] = 10 * float64(spots[a-1].x+spots[b-1].x)
			}
		}
	}
	return p, best
}
