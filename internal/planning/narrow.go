package planning

import (
	"slices"

	"github.com/google/uuid"

	"nextround/internal/contract"
)

// sights are what somebody who sees some sites only may be told of a plan.
type sights struct {
	sites []uuid.UUID
	// tags and names are those of the units planned and of the sites seen.
	tags, names map[string]bool
}

func (p *planPage) sightsOf(sites []uuid.UUID) sights {
	s := sights{sites: sites, tags: map[string]bool{}, names: map[string]bool{}}
	for _, id := range sites {
		s.names[p.sites[id].Name] = true
	}
	for key, j := range p.job {
		if s.site(p.place[key]) {
			s.tags[j.Tag] = true
		}
	}
	return s
}

func (s sights) site(id uuid.UUID) bool { return slices.Contains(s.sites, id) }

// narrow leaves out of a plan what concerns other sites: their stops, jobs, changes and coordinates, and what is a sum of all.
func (p *planPage) narrow(out *contract.Plan, sites []uuid.UUID) {
	s := p.sightsOf(sites)
	out.Crews = p.crewsSeen(sites)
	out.Places = slices.DeleteFunc(out.Places, func(x contract.PlanPlace) bool { return !s.site(x.SiteID) })
	rounds := []contract.PlannedRound{}
	for _, r := range out.Rounds {
		if p.narrowRound(&r, sites); len(r.Stops) > 0 {
			rounds = append(rounds, r)
		}
	}
	out.Rounds = rounds
	out.LeftOut = slices.DeleteFunc(out.LeftOut, func(x contract.PlannedLeftOut) bool { return !s.tags[x.Job.Tag] })
	out.Changes = slices.DeleteFunc(slices.Clone(out.Changes), func(x contract.PlanChange) bool { return !s.tags[x.Tag] })
	out.StaffJobs = slices.DeleteFunc(slices.Clone(out.StaffJobs), func(x contract.StaffJob) bool { return !s.names[x.Site] })
}

// narrowRound leaves of a round the stops at the sites that may be seen. What the whole of it costs is told to those only who
// see all of it.
func (p *planPage) narrowRound(r *contract.PlannedRound, sites []uuid.UUID) {
	r.Stops = slices.DeleteFunc(r.Stops, func(x contract.Stop) bool { return !slices.Contains(sites, x.SiteID) })
	r.Cost = nil
}

// crewsSeen are the crews; where one starts from is told of sites that may be seen only.
func (p *planPage) crewsSeen(sites []uuid.UUID) []contract.PlanCrew {
	out := p.crewViews()
	if sites == nil {
		return out
	}
	for i, c := range p.problem.Crews {
		if base, err := uuid.Parse(c.Base); err != nil || !slices.Contains(sites, base) {
			out[i].Lat, out[i].Lon = nil, nil
		}
	}
	return out
}
