package dossier

import (
	"math"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/learn"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// Part is a surface of the unit beside its coils: how it was found, its own rate, and the soil expected on it today.
type Part struct {
	Name  string
	Day   calendar.Day // of the last look
	Found soil.Grade
	Left  *soil.Grade
	Rate  learn.Rate
	// Blocked is expected today; Due is the day it reaches the limit if nothing is done.
	Blocked float64
	Due     calendar.Day
}

// washedPart is what washing takes of a filter or a grille that a companion clock was ticked for (assumption).
const washedPart = .95

// parts learns the unit's own surfaces, each with one layer, from the visits that graded them and the ticks of their companion clocks.
func (r *Facts) parts(d Unit) ([]Part, error) {
	looks, order := map[string][]soil.Visit{}, []string{}
	last := map[string]store.PartLook{}
	for _, v := range r.Visits[d.Unit.ID] {
		day := v.Day.Day()
		if day > d.Today {
			continue
		}
		for _, l := range r.PartLooks[v.ID] {
			if _, seen := last[l.Part]; !seen {
				order = append(order, l.Part)
			}
			last[l.Part] = l
			visit := soil.Visit{Day: day, GraderSigma: r.graderOf(v.ID), Found: &soil.Finding{Grade: soil.Grade(l.Grade), Seen: soil.LightThrough}}
			if l.LeftGrade != nil {
				visit.Left = &soil.Finding{Grade: soil.Grade(*l.LeftGrade), Seen: soil.LightThrough}
			}
			looks[l.Part] = append(looks[l.Part], visit)
		}
	}
	out := []Part{}
	for _, name := range order {
		part, err := r.part(d, name, looks[name])
		if err != nil {
			return nil, err
		}
		l := last[name]
		part.Found = soil.Grade(l.Grade)
		if l.LeftGrade != nil {
			part.Left = new(soil.Grade(*l.LeftGrade))
		}
		out = append(out, part)
	}
	return out, nil
}

func (r *Facts) part(d Unit, name string, visits []soil.Visit) (Part, error) {
	out := Part{Name: name, Day: visits[len(visits)-1].Day}
	from := visits[0].Day
	for _, day := range r.washed(d, name) {
		if day > from && day <= d.Today {
			visits = withWash(visits, day)
		}
	}
	kind := r.SoilCode[d.Class.UsualSoil]
	kind.Penetration = 0 // one layer
	conditions := r.conditions(d, 1, from, kind)
	rate, err := learn.Learn(learn.Question{
		History: soil.History{Start: soil.Start{Quality: soil.StartUnknown}, Conditions: conditions, Visits: visits, Until: max(d.Today, from)}, FollowDrift: true,
	})
	if err != nil {
		return out, err
	}
	out.Rate, out.Blocked, out.Due = rate, soil.Share(rate.State.Total()), d.Today
	if left := soil.Load(r.Limit) - rate.State.Total(); left > 0 {
		days := left / (rate.Expected() * math.Max(.01, d.Class.ReferenceFanShare)) * 30
		out.Due = d.Today.Add(int(math.Min(days, MostDays)))
	}
	return out, nil
}

// washed are the days on which the companion clock of a surface was ticked.
func (r *Facts) washed(d Unit, name string) (out []calendar.Day) {
	for _, t := range r.Companions[d.Unit.ID] {
		if t.Kind != name {
			continue
		}
		for _, tick := range r.Ticks[t.ID] {
			out = append(out, tick.Day.Day())
		}
	}
	return out
}

// withWash puts a wash between visits, unless it was graded on that day anyway.
func withWash(visits []soil.Visit, day calendar.Day) []soil.Visit {
	out := []soil.Visit{}
	wash := soil.Visit{Day: day, Cleans: []soil.Removal{{Face: washedPart, Core: washedPart}}}
	placed := false
	for _, v := range visits {
		if v.Day == day {
			return visits
		}
		if !placed && v.Day > day {
			out, placed = append(out, wash), true
		}
		out = append(out, v)
	}
	if !placed {
		out = append(out, wash)
	}
	return out
}

// otherShare is what wheel and filter take of the airflow of an air coil.
func (d Unit) otherShare() float64 {
	blocked := map[string]float64{}
	for _, p := range d.Parts {
		blocked[p.Name] = p.Blocked
	}
	return heat.OtherShare(blocked["wheel"], blocked["filter"])
}

// PartStates are the unit's own surfaces as screens show them.
func (d Unit) PartStates() []contract.PartState {
	out := []contract.PartState{}
	for _, p := range d.Parts {
		state := contract.PartState{
			Part: contract.UnitPart(p.Name), Day: p.Day, Found: int(p.Found), BlockedShare: p.Blocked, Grade: int(soil.GradeOf(p.Blocked)), Due: p.Due, Own: p.Rate.Counted > 0,
		}
		if p.Left != nil {
			state.Left = new(int(*p.Left))
		}
		out = append(out, state)
	}
	return out
}
