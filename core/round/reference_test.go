package round_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"nextround/core/calendar"
	"nextround/core/round"
)

// byHand fills a day as a planner with a list and a pencil would: look for the site with the oldest job, see whether
// all of it fits into what is left of the day, cross it out, look again.
func byHand(jobs []round.Job, day round.Day) (stops [][]string, left []string, minutes float64) {
	open := slices.Clone(jobs)
	for len(open) > 0 {
		best := ""
		for _, j := range open {
			if best == "" || before(open, j.Site, best) {
				best = j.Site
			}
		}
		var here, rest []round.Job
		for _, j := range open {
			if j.Site == best {
				here = append(here, j)
			} else {
				rest = append(rest, j)
			}
		}
		open = rest
		all := day.StopMinutes
		for _, j := range here {
			all += j.Minutes
		}
		fits, neverFits := minutes+all <= day.Minutes, all > day.Minutes
		spent := day.StopMinutes
		var taken []string
		blocked := !fits && !neverFits
		for len(here) > 0 {
			next := 0
			for i, j := range here {
				if j.Due < here[next].Due || (j.Due == here[next].Due && j.ID < here[next].ID) {
					next = i
				}
			}
			j := here[next]
			here = slices.Delete(here, next, next+1)
			if blocked = blocked || minutes+spent+j.Minutes > day.Minutes; blocked {
				left = append(left, j.ID)
				continue
			}
			taken, spent = append(taken, j.ID), spent+j.Minutes
		}
		if len(taken) > 0 {
			stops, minutes = append(stops, taken), minutes+spent
		}
	}
	return stops, left, minutes
}

func before(open []round.Job, a, b string) bool {
	look := func(site string) (first calendar.Day, n int) {
		first = calendar.MustParse("9999-12-31")
		for _, j := range open {
			if j.Site == site {
				first, n = min(first, j.Due), n+1
			}
		}
		return first, n
	}
	dueA, nA := look(a)
	dueB, nB := look(b)
	if dueA != dueB {
		return dueA < dueB
	}
	if nA != nB {
		return nA > nB
	}
	return a < b
}

func TestProposeAgreesWithThePencil(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := round.Day{Date: calendar.MustParse("2026-03-05"), Minutes: float64(rapid.IntRange(0, 480).Draw(t, "day")), StopMinutes: float64(rapid.IntRange(0, 30).Draw(t, "stop"))}
		jobs := make([]round.Job, rapid.IntRange(0, 14).Draw(t, "jobs"))
		for i := range jobs {
			jobs[i] = round.Job{
				ID: fmt.Sprintf("job %02d", i), Site: rapid.SampledFrom([]string{"hall", "yard", "quay", "roof"}).Draw(t, "site"),
				Due: d.Date.Add(rapid.IntRange(-3, 3).Draw(t, "due")), Minutes: float64(rapid.IntRange(5, 240).Draw(t, "minutes")),
			}
		}
		p, err := round.Propose(jobs, d)
		require.NoError(t, err)
		stops, left, minutes := byHand(jobs, d)
		var gotStops [][]string
		var gotLeft []string
		for _, s := range p.Stops {
			gotStops = append(gotStops, s.Jobs)
		}
		for _, l := range p.LeftOut {
			gotLeft = append(gotLeft, l.Jobs...)
		}
		assert.Equal(t, stops, gotStops)
		assert.ElementsMatch(t, left, gotLeft)
		assert.InDelta(t, minutes, p.Minutes, 1e-9)
	})
}
