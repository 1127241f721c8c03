package dossier

import (
	"fmt"
	"slices"

	"nextround/core/interval"
	"nextround/core/reason"
	"nextround/core/soil"
	"nextround/internal/contract"
	"nextround/internal/store"
)

// Coil is a coil with what the core makes of it.
type Coil struct {
	store.Coil
	Sides []Side
	Tasks []Task
	// worst is the side with the most soil expected today; -1 when none is known.
	Worst int
	// blocked is all sides together by face area; sides are parallel paths.
	Blocked float64
	// method of the newest treatment.
	method string
	// light and deep are how the coil is usually cleaned; taskRows its clocks.
	Light, Deep Work
	taskRows    []store.Task
}

func (r *Facts) coil(d Unit, c store.Coil) (Coil, error) {
	coil := Coil{Coil: c, Worst: -1}
	for _, surface := range r.Surfaces[c.ID] {
		side, err := r.Side(d, c, surface)
		if err != nil {
			return coil, fmt.Errorf("%s: %w", surface.Name, err)
		}
		coil.Sides = append(coil.Sides, side)
		if side.Trace.Known {
			coil.Blocked += surface.AreaShare * side.Trace.Now.Blocked()
			if coil.Worst < 0 || side.Trace.Now.Total() > coil.Sides[coil.Worst].Trace.Now.Total() {
				coil.Worst = len(coil.Sides) - 1
			}
		}
	}
	for _, v := range r.Visits[d.Unit.ID] {
		for _, t := range r.Treatments[v.ID] {
			if t.CoilID == c.ID {
				coil.method = r.Method[t.MethodID].Name
			}
		}
	}
	family := soil.Mixed
	if len(coil.Sides) > 0 {
		family = soil.Family(coil.Sides[max(coil.Worst, 0)].Soil.Family)
	}
	coil.taskRows = r.tasks[c.ID]
	coil.Light, coil.Deep = r.Works(d, c, family)
	assumed := r.assumed(d, c, coil.Deep)
	for _, t := range r.tasks[c.ID] {
		task, err := r.task(d, coil, t)
		if err != nil {
			return coil, fmt.Errorf("%s clean: %w", t.Kind, err)
		}
		task.assumed, task.Rests = assumed, rests(coil, task)
		coil.Tasks = append(coil.Tasks, task)
	}
	coil.oneDecision()
	return coil, nil
}

// Works are a coil's two cleans: as they were accepted to be done from now on, else as they were done last.
func (r *Facts) Works(d Unit, c store.Coil, family soil.Family) (light, deep Work) {
	light, deep = r.UsualWork(d, c, string(contract.TaskKindLight), family), r.UsualWork(d, c, string(contract.TaskKindDeep), family)
	for _, t := range r.tasks[c.ID] {
		var plan TaskPlan
		if t.Plan.Into(&plan) != nil || !plan.Known() {
			continue
		}
		next := plan.WorkPlan
		if plan.First != nil && r.promised(d, t) {
			next = *plan.First
		}
		if t.Kind == string(contract.TaskKindLight) {
			light = r.planned(light, next, plan.WorkPlan)
		} else {
			deep = r.planned(deep, next, plan.WorkPlan)
		}
	}
	return light, deep
}

// oneDecision leaves the light clean's interval to the program where that is what is proposed.
func (c *Coil) oneDecision() {
	leads := slices.ContainsFunc(c.Tasks, func(t Task) bool { return t.Program.Leads })
	for i := range c.Tasks {
		if c.Tasks[i].Paused {
			c.Tasks[i].Result.Change = false
			continue
		}
		if t := &c.Tasks[i]; leads && t.Kind == string(contract.TaskKindLight) && t.Result.Change {
			t.Result.Days, t.Result.Change, t.Result.Binding = t.EveryDays, false, "program"
			t.Result.Reasons = append(t.Result.Reasons, reason.Reason{Code: reason.PartOfProgram, Numbers: reason.Numbers{"days": float64(t.EveryDays)}})
		}
	}
}

// taught is how many findings taught the rate of the side that is known least.
func (c Coil) taught() int {
	least := -1
	for _, s := range c.Sides {
		if s.Reachable && (least < 0 || s.Rate.Taught() < least) {
			least = s.Rate.Taught()
		}
	}
	return max(0, least)
}

// start is where the histories of a coil's sides begin.
func (d Unit) start(c store.Coil) soil.Start {
	day := store.DayOf(c.StartDay)
	switch {
	case c.StartQuality == string(interval.Exact) && day != nil:
		return soil.Start{Quality: soil.StartExact, Day: *day}
	case c.StartQuality == string(interval.About) && day != nil:
		return soil.Start{Quality: soil.StartAbout, Day: *day}
	case c.StartQuality == string(interval.Never) && d.Unit.Commissioned != nil:
		return soil.Start{Quality: soil.StartExact, Day: d.Unit.Commissioned.Day()}
	}
	return soil.Start{Quality: soil.StartUnknown}
}

// State is that of the coil's worst side.
func (c Coil) State() contract.SoilState {
	if c.Worst < 0 {
		return contract.SoilState{}
	}
	return c.Sides[c.Worst].State()
}
