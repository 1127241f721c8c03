package learning

import (
	"github.com/google/uuid"

	"nextround/core/calendar"
	"nextround/core/interval"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/optional"
	"nextround/internal/organisation"
	"nextround/internal/store"
)

// programsShown is how many ways of keeping a coil are told beside the best.
const programsShown = 6

// programView tells the choice of plan and interval of a coil's deep clean; nil where nothing is known of its soil.
func programView(t dossier.Task, d dossier.Unit) *contract.Program {
	p := t.Program
	if !p.Known {
		return nil
	}
	out := &contract.Program{
		Leads: p.Leads, Change: p.Change, Best: keptView(t, p.Best), SavesYear: yearDays * p.SavesDay, SavesSdYear: yearDays * p.SavesSD,
		BetterShare: p.BetterShare, Table: []contract.KeptCost{},
	}
	if looks := looksView(p); len(looks) > 0 {
		out.Looks = &looks
	}
	if p.OverPrice != nil {
		out.OverPrice, out.OverShareHeld = p.OverPrice, &p.Held
	}
	out.First.Plan, out.First.InDays, out.First.BringsDown = planView(p.FirstPlan), p.First.InDays, p.First.BringsDown
	out.First.Day = d.Today.Add(p.First.InDays)
	if p.InForce != nil {
		out.InForce = new(keptView(t, *p.InForce))
	}
	for _, k := range p.Table[:min(programsShown, len(p.Table))] {
		out.Table = append(out.Table, keptView(t, k))
	}
	return out
}

func keptView(t dossier.Task, k interval.Kept) contract.KeptCost {
	plans := t.Program.Plans
	out := contract.KeptCost{
		AssumedShare: t.AssumedOf(k),
		Plan:         planView(plans[k.Plan]), EveryDays: k.EveryDays, CleaningYear: yearDays * k.CleanDay, EnergyYear: yearDays * k.EnergyDay,
		CallsYear: yearDays * k.CallsDay, OverDaysYear: yearDays * k.OverShare, OverPriceYear: yearDays * k.OverDay,
	}
	if k.Light != "" {
		out.Light, out.LightEveryDays = new(planView(plans[k.Light])), &k.LightEvery
	}
	if k.Days != nil {
		out.Days = &k.Days
	}
	return out
}

func planView(w dossier.WorkPlan) contract.ProgramPlan {
	return contract.ProgramPlan{Passes: append([]contract.PlanWay{}, w.Passes...), Minutes: w.Minutes, People: w.People, Cost: w.Cost}
}

// kept is what a proposal keeps of the program it proposed.
type kept struct {
	Plan, Light dossier.WorkPlan
	First       *dossier.WorkPlan
	FirstIn     int
	EveryDays   int
	LightEvery  int
	Days        []int
	On          calendar.Day
}

func keptOf(t dossier.Task, today calendar.Day) kept {
	p := t.Program
	out := kept{Plan: p.Plan, Light: p.Light, FirstIn: p.First.InDays, EveryDays: p.Best.EveryDays, LightEvery: p.Best.LightEvery, Days: p.Best.Days, On: today}
	if p.First.BringsDown {
		out.First = &p.FirstPlan
	}
	return out
}

// keptIn is the program that a proposal keeps; false where the interval alone was proposed.
func keptIn(p store.Proposal) (k kept, proposed bool) {
	err := p.Program.Into(&k)
	return k, err == nil && k.Plan.Known()
}

// proposes reports whether an open proposal is the program that would be proposed now.
func proposes(open store.Proposal, t dossier.Task) bool {
	k, proposed := keptIn(open)
	if !proposed || !t.Program.Leads {
		return proposed == t.Program.Leads
	}
	return k.Plan.Code == t.Program.Plan.Code && k.Light.Code == t.Program.Light.Code && k.LightEvery == t.Program.Best.LightEvery
}

// acceptProgram sets what a program brings beside its interval: the plan, the day of the first clean, which holds until it is done, and the
// light clean in between, which ends where the program has none.
func (s *Service) acceptProgram(t store.Tenant, task store.Task, p store.Proposal) error {
	k, proposed := keptIn(p)
	if !proposed {
		return nil // the interval alone was
	}
	today := organisation.DayIn(s.Now(), "UTC")
	first := max(today, k.On.Add(k.FirstIn))
	plan := dossier.TaskPlan{WorkPlan: k.Plan, Since: today, First: k.First}
	if err := t.SetTaskPlan(task.ID, store.ToJSON(plan), store.Date(first), k.Days); err != nil {
		return err
	}
	siblings, err := store.Where[store.Task](t, "coil_id", []uuid.UUID{optional.Value(task.CoilID)}, "id")
	if err != nil {
		return err
	}
	for _, x := range siblings {
		if x.Kind != string(contract.TaskKindLight) {
			continue
		}
		every := x.EveryDays
		if k.LightEvery > 0 {
			every = k.LightEvery
		}
		if err := t.SetLightTask(x, every, k.LightEvery == 0); err != nil {
			return err
		}
	}
	return nil
}
