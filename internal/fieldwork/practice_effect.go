package fieldwork

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/google/uuid"

	"nextround/core/method"
	"nextround/core/procedure"
	"nextround/core/soil"
	"nextround/core/workplan"
	"nextround/internal/contract"
	"nextround/internal/dossier"
	"nextround/internal/dossier/load"
	"nextround/internal/organisation"
	"nextround/internal/wording"
)

// outcome is what the rules of an organisation come to for a unit.
type outcome struct {
	advice []workplan.Advice // by coil and work
	steps  map[procedure.Job][]procedure.Step
	days   []int
	others []string
}

// PracticeEffects say what each answer to a question would change for a unit.
func (s *Service) PracticeEffects(ctx context.Context, a organisation.Actor, question string, unit uuid.UUID) (contract.PracticeEffects, error) {
	out := contract.PracticeEffects{Effects: []contract.PracticeEffect{}}
	q, ok := method.QuestionByCode(question)
	if !ok {
		return out, organisation.ErrNotFound
	}
	r, err := load.Units(s.Tenant(ctx, a), []uuid.UUID{unit})
	if err != nil {
		return out, err
	}
	if len(r.Rows.Units) == 0 {
		return out, organisation.ErrNotFound
	}
	out.Tag, out.InForce = r.Rows.Units[0].Tag, r.Practice(r.Placements[r.Rows.Units[0].PlacementID].SiteID, unit)[question]
	now, err := s.outcomeOf(r, question, out.InForce, unit)
	if err != nil {
		return out, err
	}
	for _, c := range q.Choices {
		then, err := s.outcomeOf(r, question, c.Code, unit)
		if err != nil {
			return out, err
		}
		out.Effects = append(out.Effects, contract.PracticeEffect{Choice: c.Code, Changes: now.against(then)})
	}
	return out, nil
}

// outcomeOf is what an answer comes to.
func (s *Service) outcomeOf(r *dossier.Facts, question, answer string, unit uuid.UUID) (outcome, error) {
	out := outcome{steps: map[procedure.Job][]procedure.Step{}}
	with := dossier.New(r.Answering(question, answer, unit), r.Rows, false)
	d, err := with.Unit(with.Rows.Units[0], s.Now())
	if err != nil {
		return out, err
	}
	template, err := with.Template(d.Class)
	if err != nil {
		return out, err
	}
	rules := with.Practice(d.Site.ID, unit)
	passes := []procedure.Pass{}
	for _, c := range d.Coils {
		in := with.AdviceInput(d, c)
		in.Found.Grade = max(in.Found.Grade, soil.Coat) // an answer shows on a coil that needs cleaning
		for _, work := range []string{workplan.DeepWork, workplan.LightWork} {
			in.Work = work
			advice, err := workplan.Advise(in)
			if err != nil {
				return out, fmt.Errorf("advice for %s: %w", d.Unit.Tag, err)
			}
			out.advice = append(out.advice, advice)
			if work == workplan.DeepWork && len(advice.Plans) > 0 {
				passes = append(passes, planned(advice.Plans[0], in.Cleaners)...)
			}
		}
		for _, t := range c.Tasks {
			out.days = append(out.days, t.Result.Days)
		}
	}
	for _, t := range with.Companions[unit] {
		line := fmt.Sprintf("%s: %s", wording.JobKindWords[t.Kind], strings.ReplaceAll(t.Doer, "_", " "))
		if t.Paused {
			line = wording.JobKindWords[t.Kind] + ": not planned"
		}
		out.others = append(out.others, line)
	}
	tags := with.StandingTags(d, false)
	for _, job := range []procedure.Job{procedure.Deep, procedure.Light} {
		of := maps.Clone(tags)
		if job == procedure.Deep {
			maps.Copy(of, procedure.PlanTags(passes))
		}
		out.steps[job] = procedure.Compile(template.Steps, procedure.Visit{Jobs: []procedure.Job{job}, Tags: of, Rules: rules})
	}
	return out, nil
}

// planned are the passes of a plan, as far as steps turn on them.
func planned(p workplan.Plan, cleaners []method.Cleaner) []procedure.Pass {
	out := []procedure.Pass{}
	for _, x := range p.Passes {
		pass := procedure.Pass{Method: x.Method, Where: x.Where}
		if i := slices.IndexFunc(cleaners, func(c method.Cleaner) bool { return c.Code == x.Cleaner }); i >= 0 {
			pass.Cleaner = &cleaners[i]
		}
		out = append(out, pass)
	}
	return out
}

// against says in words what another answer changes.
func (o outcome) against(then outcome) []string {
	out := []string{}
	add := func(text string) {
		if text != "" && !slices.Contains(out, text) {
			out = append(out, text)
		}
	}
	for i := range o.advice {
		add(wording.PlanDifference(o.advice[i], then.advice[i]))
	}
	for i := range o.days {
		if o.days[i] != then.days[i] {
			add(fmt.Sprintf("Interval proposed: %d d in place of %d d.", then.days[i], o.days[i]))
		}
	}
	for i := range o.others {
		if o.others[i] != then.others[i] {
			add(fmt.Sprintf("%s in place of %s.", then.others[i], o.others[i]))
		}
	}
	for _, job := range []procedure.Job{procedure.Deep, procedure.Light} {
		for _, text := range wording.StepDifferences(o.steps[job], then.steps[job]) {
			add(text)
		}
	}
	return out
}
