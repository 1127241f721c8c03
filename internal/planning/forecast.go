package planning

import (
	"context"
	"slices"
	"sort"
	"strings"

	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/round"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/organisation"
)

// coilCourse is how a coil's worst side goes on, kept with the plan: the question but for the cleans, and what each clean
// takes away.
type coilCourse struct {
	CoilID   uuid.UUID           `json:"coil_id"`
	UnitID   uuid.UUID           `json:"unit_id"`
	SiteID   uuid.UUID           `json:"site_id"`
	Tag      string              `json:"tag"`
	Role     contract.CoilRole   `json:"role"`
	Known    bool                `json:"known"`
	Question soil.CourseQuestion `json:"question"`
	Light    soil.Removal        `json:"light"`
	Deep     soil.Removal        `json:"deep"`
}

// courseOf describes a coil's course from the start of a plan on.
func (b *jobBook) courseOf(d dossier.Unit, coil *dossier.Coil, start calendar.Day, days int) coilCourse {
	c := coilCourse{
		CoilID: coil.ID, UnitID: d.Unit.ID, SiteID: d.Site.ID, Tag: d.Unit.Tag, Role: contract.CoilRole(coil.Role), Light: coil.Light.Removal, Deep: coil.Deep.Removal,
		Question: soil.CourseQuestion{From: start, Days: days, Months: soil.Even, FanShare: 1, Cleans: []soil.CourseClean{}},
	}
	if coil.Worst < 0 {
		return c
	}
	side := coil.Sides[coil.Worst]
	condition := side.History.ConditionOn(d.Today)
	c.Known = true
	q := &c.Question
	q.Face, q.Core, q.Rate, q.Penetration = side.Trace.Now.Face, side.Trace.Now.Core, side.Rate.Rate.P50, side.Soil.Penetration
	if side.Rate.Known {
		q.Penetration = side.Rate.Penetration
	}
	q.Months, q.FanShare = condition.Months, condition.FanShare
	c.Light = b.RemovalFor(coil.Light, side)
	c.Deep = b.RemovalFor(coil.Deep, side)
	return c
}

// notchesOf are the planned cleans of a coil by day, each with what it takes away.
func (p *planPage) notchesOf(c coilCourse) ([]contract.Notch, []soil.CourseClean) {
	type pair struct {
		notch contract.Notch
		clean soil.CourseClean
	}
	list := []pair{}
	for _, r := range p.result.Rounds {
		status := contract.NotchStatusDraft
		if slices.ContainsFunc(p.out, func(x publishedRound) bool { return x.CrewID.String() == r.Crew && x.Day.Day() == r.Day }) {
			status = contract.NotchStatusPublished
		}
		for _, stop := range r.Stops {
			for _, t := range stop.Jobs {
				j := p.job[t.Job]
				if j.CoilID == nil || *j.CoilID != c.CoilID || (j.Kind != contract.JobKindLight && j.Kind != contract.JobKindDeep) {
					continue
				}
				removal := c.Deep
				if j.Kind == contract.JobKindLight {
					removal = c.Light
				}
				list = append(list, pair{
					contract.Notch{
						Key: j.Key, Kind: j.Kind, Day: r.Day, Due: j.Due, Crew: p.crew[r.Crew].Name, CrewID: new(uuid.MustParse(r.Crew)), Status: status, Minutes: j.Minutes,
					},
					soil.CourseClean{Day: r.Day, Removal: removal},
				})
			}
		}
	}
	sort.SliceStable(list, func(i, k int) bool { return list[i].notch.Day < list[k].notch.Day })
	notches, cleans := []contract.Notch{}, []soil.CourseClean{}
	for _, x := range list {
		notches, cleans = append(notches, x.notch), append(cleans, x.clean)
	}
	return notches, cleans
}

// PlanForecast is the soil of every coil week by week under the planned cleans. The cleans of a course are in the order of
// its notches, so that a notch moved in the browser is a day changed in the question.
func (s *Service) PlanForecast(ctx context.Context, a organisation.Actor) (contract.PlanForecast, error) {
	t := s.Tenant(ctx, a)
	out := contract.PlanForecast{Weeks: []calendar.Day{}, Sites: []contract.ForecastSite{}, Load: []round.WeekLoad{}, Rounds: []round.Sequence{}}
	c, err := organisation.LoadCatalogue(t)
	if err != nil {
		return out, err
	}
	out.LimitShare = c.Limit
	p, err := s.currentPage(t, a)
	if p == nil || err != nil {
		return out, err
	}
	out.Version = p.row.Version
	if t.Sites == nil { // who plans everything; a part of it cannot be weighed by itself
		out.Load, out.Rounds = p.result.Weeks, p.result.Sequences()
	}
	for d := 0; d < p.problem.Days; d += 7 {
		out.Weeks = append(out.Weeks, p.problem.Start.Add(d))
	}
	at := map[uuid.UUID]int{}
	for _, course := range p.facts.Courses {
		if t.Sites != nil && !slices.Contains(t.Sites, course.SiteID) {
			continue
		}
		i, ok := at[course.SiteID]
		if !ok {
			i = len(out.Sites)
			at[course.SiteID] = i
			out.Sites = append(out.Sites, contract.ForecastSite{
				SiteID: course.SiteID, Site: p.sites[course.SiteID].Name, Grades: make([]int, len(out.Weeks)), Coils: []contract.ForecastCoil{},
			})
		}
		line := contract.ForecastCoil{CoilID: course.CoilID, UnitID: course.UnitID, Tag: course.Tag, Role: course.Role, Known: course.Known, Weeks: []float64{}, Grades: []int{}}
		line.Notches, course.Question.Cleans = p.notchesOf(course)
		if course.Known {
			shown, err := soil.CourseOf(course.Question)
			if err != nil {
				return out, err
			}
			line.Weeks, line.Course = shown.Weeks, &course.Question
			for w, g := range shown.Grades {
				line.Grades = append(line.Grades, int(g))
				out.Sites[i].Grades[w] = max(out.Sites[i].Grades[w], int(g))
			}
		}
		out.Sites[i].Coils = append(out.Sites[i].Coils, line)
	}
	sort.SliceStable(out.Sites, func(i, k int) bool { return strings.ToLower(out.Sites[i].Site) < strings.ToLower(out.Sites[k].Site) })
	return out, nil
}
