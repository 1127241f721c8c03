// Package round makes a crew-day out of jobs that are due.
package round

import (
	"fmt"
	"sort"

	"nextround/core/calendar"
	"nextround/core/invalid"
	"nextround/core/reason"
)

// Job is one task that is due at a site.
type Job struct {
	ID      string       `json:"id"`
	Site    string       `json:"site"`
	Due     calendar.Day `json:"due"`
	Minutes float64      `json:"minutes"` // on site, above 0
}

// Day is what one crew has on one day.
type Day struct {
	Date calendar.Day `json:"date"`
	// Minutes of work, at least 0.
	Minutes float64 `json:"minutes"`
	// StopMinutes are lost at every stop: parking, keys, signing in (assumption).
	StopMinutes float64 `json:"stop_minutes"`
}

// Stop is a site visited, with its jobs, earliest due first.
type Stop struct {
	Site    string          `json:"site"`
	Jobs    []string        `json:"jobs"`
	Minutes float64         `json:"minutes"` // jobs and the stop itself
	Reasons []reason.Reason `json:"reasons"`
}

// LeftOut is a site, or the rest of one, that did not go in.
type LeftOut struct {
	Site    string        `json:"site"`
	Jobs    []string      `json:"jobs"`
	Minutes float64       `json:"minutes"`
	Reason  reason.Reason `json:"reason"`
}

// Proposal is a crew-day.
type Proposal struct {
	Stops   []Stop    `json:"stops"`
	LeftOut []LeftOut `json:"left_out"`
	Minutes float64   `json:"minutes"`
}

type group struct {
	site    string
	jobs    []Job
	minutes float64
}

// Check lists every field that cannot be used.
func Check(jobs []Job, day Day) error {
	var bad invalid.Error
	for i, j := range jobs {
		if !(j.Minutes > 0) {
			bad.Addf(fmt.Sprintf("jobs[%d].minutes", i), "must be above 0")
		}
	}
	if !(day.Minutes >= 0) {
		bad.Addf("day.minutes", "must be 0 or more")
	}
	if !(day.StopMinutes >= 0) {
		bad.Addf("day.stop_minutes", "must be 0 or more")
	}
	return bad.Err()
}

// Propose fills a crew-day: sites in the order of their earliest due job (ties by the number of jobs, then by
// site), each taken whole while it fits. A site that no empty day could hold is split, its earliest-due jobs
// first. Travel and opening windows are not planned here. The result does not depend on the order of jobs.
func Propose(jobs []Job, day Day) (Proposal, error) {
	if err := Check(jobs, day); err != nil {
		return Proposal{}, err
	}
	p := Proposal{Stops: []Stop{}, LeftOut: []LeftOut{}}
	for _, g := range bySite(jobs) {
		left := day.Minutes - p.Minutes
		need := g.minutes + day.StopMinutes
		switch {
		case need <= left:
			p.add(g.site, g.jobs, need, reason.Reason{Code: "whole_site", Numbers: reason.Numbers{
				"jobs": float64(len(g.jobs)), "days_late": float64(max(0, day.Date.Sub(g.jobs[0].Due))),
			}})
		case need > day.Minutes:
			p.split(g, left-day.StopMinutes, day)
		default:
			p.leave(g.site, g.jobs, "no_room_left", left)
		}
	}
	return p, nil
}

func (p *Proposal) add(site string, jobs []Job, minutes float64, why reason.Reason) {
	p.Stops = append(p.Stops, Stop{Site: site, Jobs: ids(jobs), Minutes: minutes, Reasons: []reason.Reason{why}})
	p.Minutes += minutes
}

func (p *Proposal) leave(site string, jobs []Job, code string, left float64) {
	total := sum(jobs)
	p.LeftOut = append(p.LeftOut, LeftOut{Site: site, Jobs: ids(jobs), Minutes: total, Reason: reason.Reason{
		Code: code, Numbers: reason.Numbers{"minutes": total, "left": max(0, left)},
	}})
}

// split takes the earliest-due jobs of a site too large for any one day.
func (p *Proposal) split(g group, room float64, day Day) {
	n, used := 0, 0.0
	for n < len(g.jobs) && used+g.jobs[n].Minutes <= room {
		used += g.jobs[n].Minutes
		n++
	}
	if n > 0 {
		p.add(g.site, g.jobs[:n], used+day.StopMinutes, reason.Reason{Code: "part_of_site", Numbers: reason.Numbers{
			"jobs": float64(n), "of": float64(len(g.jobs)),
			"days_late": float64(max(0, day.Date.Sub(g.jobs[0].Due))),
		}})
	}
	p.leave(g.site, g.jobs[n:], "site_too_large", room-used)
}

func bySite(jobs []Job) []group {
	at := map[string]int{}
	var groups []group
	for _, j := range jobs {
		i, ok := at[j.Site]
		if !ok {
			i = len(groups)
			at[j.Site] = i
			groups = append(groups, group{site: j.Site})
		}
		groups[i].jobs = append(groups[i].jobs, j)
		groups[i].minutes += j.Minutes
	}
	for _, g := range groups {
		sort.Slice(g.jobs, func(a, b int) bool {
			if g.jobs[a].Due != g.jobs[b].Due {
				return g.jobs[a].Due < g.jobs[b].Due
			}
			return g.jobs[a].ID < g.jobs[b].ID
		})
	}
	sort.Slice(groups, func(a, b int) bool {
		x, y := groups[a], groups[b]
		switch {
		case x.jobs[0].Due != y.jobs[0].Due:
			return x.jobs[0].Due < y.jobs[0].Due
		case len(x.jobs) != len(y.jobs):
			return len(x.jobs) > len(y.jobs)
		}
		return x.site < y.site
	})
	return groups
}

func ids(jobs []Job) []string {
	out := make([]string, len(jobs))
	for i, j := range jobs {
		out[i] = j.ID
	}
	return out
}

func sum(jobs []Job) float64 {
	t := 0.0
	for _, j := range jobs {
		t += j.Minutes
	}
	return t
}
