package calc

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"nextround/core/heat"
	"nextround/core/interval"
	"nextround/core/invalid"
	"nextround/core/method"
	"nextround/core/procedure"
	"nextround/core/round"
	"nextround/core/soil"
	"nextround/core/teach"
	"nextround/core/workplan"
	"nextround/internal/defaults"
	"nextround/internal/wording"
)

// Judged is a judgement with the sentence that says what it rests on.
type Judged struct {
	heat.Judgement
	Text string `json:"text"`
}

// ReadingInput is a reading, and the units its sentence is written in: metric where none are named, or us.
type ReadingInput struct {
	Kind    heat.Kind    `json:"kind"`
	Value   float64      `json:"value"`
	Context heat.Context `json:"context"`
	Units   string       `json:"units,omitempty"`
}

func judge(in ReadingInput) (Judged, error) {
	if in.Units != "" && in.Units != "metric" && in.Units != "us" {
		return Judged{}, invalid.At("units", "must be metric or us")
	}
	j, err := heat.Judge(heat.Reading{Kind: in.Kind, Value: in.Value, Context: in.Context})
	return Judged{j, wording.ReadingIn(j, in.Units == "us")}, err
}

// FaceInput asks for a drawn face.
type FaceInput struct {
	Seed   uint64 `json:"seed"`
	Number int    `json:"number"`
}

func drawFace(in FaceInput) (teach.Face, error) {
	if in.Number < 0 {
		return teach.Face{}, invalid.Error{{Path: "number", Reason: "must be 0 or more"}}
	}
	return teach.Draw(in.Seed, in.Number), nil
}

// MapInput is a face map: the grades of the cells that were reached.
type MapInput struct {
	Cells []soil.Grade `json:"cells"`
}

// Mapped is what a face map comes to.
type Mapped struct {
	Share float64    `json:"share"`
	Grade soil.Grade `json:"grade"`
}

func mapFace(in MapInput) (Mapped, error) {
	share, grade, ok := soil.MapShare(in.Cells)
	if !ok {
		return Mapped{}, invalid.Error{{Path: "cells", Reason: "no cell was reached"}}
	}
	return Mapped{share, grade}, nil
}

// GraderInput holds graded faces.
type GraderInput struct {
	Scores []teach.Score `json:"scores"`
}

func estimateGrader(in GraderInput) (teach.Grader, error) { return teach.Estimate(in.Scores) }

// StandOffInput is a cooler that is to stand off.
type StandOffInput struct {
	GoodsC float64 `json:"goods_c"`
	RoomC  float64 `json:"room_c"`
	// Hours is the time constant of its warming.
	Hours float64 `json:"hours"`
}

func standOff(in StandOffInput) (method.StandOff, error) {
	if !(in.Hours > 0 && in.Hours <= 100) {
		return method.StandOff{}, invalid.Error{{Path: "hours", Reason: "must be above 0 and at most 100 h"}}
	}
	return method.Off(in.GoodsC, in.RoomC, in.Hours), nil
}

// StepsInput is what the steps of a visit turn on. The template is a class's usual one, by the class's code, or one that is given.
type StepsInput struct {
	Class    string           `json:"class,omitempty"`
	Template []procedure.Step `json:"template,omitempty"`
	// Job is the kind of job; Jobs are several in one visit.
	Job  procedure.Job   `json:"job,omitempty"`
	Jobs []procedure.Job `json:"jobs,omitempty"`
	// Tags of unit, place and what was found; with a class, beside those the class brings.
	Tags  []string     `json:"tags,omitempty"`
	Rules method.Rules `json:"rules,omitempty"`
	// Passes of the plan, as advice gives them; Cleaners they name, where other than the usual.
	Passes   []workplan.Pass  `json:"passes,omitempty"`
	Cleaners []method.Cleaner `json:"cleaners,omitempty"`
}

// Steps are those that apply.
type Steps struct {
	Steps []procedure.Step `json:"steps"`
}

func compileSteps(in StepsInput) (Steps, error) {
	var bad invalid.Error
	v := procedure.Visit{Jobs: in.Jobs, Tags: map[string]bool{}, Rules: in.Rules}
	if in.Job != "" {
		v.Jobs = append([]procedure.Job{in.Job}, in.Jobs...)
	}
	for i, j := range v.Jobs {
		if !slices.Contains(procedure.Jobs, j) {
			at := fmt.Sprintf("jobs[%d]", i)
			if i == 0 && in.Job != "" {
				at = "job"
			}
			bad.Addf(at, "%q is not a kind of job: companion, look, hose_down, light or deep", j)
		}
	}
	for q, c := range in.Rules {
		if known, ok := method.QuestionByCode(q); !ok || !known.Has(c) {
			bad.Addf("rules."+q, "%q is not an answer to it", c)
		}
	}
	template := in.Template
	if in.Class != "" {
		if v.Tags = defaults.ClassTags(in.Class); len(v.Tags) == 0 {
			bad.Addf("class", "%q is not one of the usual classes", in.Class)
		}
		if template == nil {
			template = defaults.Procedure(in.Class)
		}
	}
	if template == nil {
		bad.Addf("template", "give a class or a template")
	}
	for i, t := range in.Tags {
		if !slices.Contains(procedure.Tags, t) && !slices.Contains(procedure.Jobs, procedure.Job(t)) {
			bad.Addf(fmt.Sprintf("tags[%d]", i), "%q is not a tag", t)
		}
		v.Tags[t] = true
	}
	maps.Copy(v.Tags, procedure.PlanTags(planPasses(in)))
	if err := bad.Err(); err != nil {
		return Steps{}, err
	}
	return Steps{procedure.Compile(template, v)}, nil
}

func planPasses(in StepsInput) []procedure.Pass {
	known := append(slices.Clone(in.Cleaners), method.StandardCleaners...)
	out := make([]procedure.Pass, 0, len(in.Passes))
	for _, p := range in.Passes {
		pass := procedure.Pass{Method: p.Method, Where: p.Where}
		if i := slices.IndexFunc(known, func(c method.Cleaner) bool { return c.Code == p.Cleaner }); i >= 0 {
			pass.Cleaner = &known[i]
		}
		out = append(out, pass)
	}
	return out
}

// HeatInput is a coil's economics and how far it is blocked.
type HeatInput struct {
	Economics heat.Economics `json:"economics"`
	// Blocked are the shares to work out.
	Blocked []float64 `json:"blocked_shares"`
}

// SoilCost is what a blocked share costs.
type SoilCost struct {
	Blocked float64 `json:"blocked_share"`
	heat.RunningCost
	// Day is energy and call-outs together.
	Day float64 `json:"day"`
}

// SoilCosts are those asked for.
type SoilCosts struct {
	Costs []SoilCost `json:"costs"`
}

func costSoil(in HeatInput) (SoilCosts, error) {
	var bad invalid.Error
	if fields, ok := in.Economics.Check().(invalid.Error); ok { //nolint:errorlint // Check returns nothing else
		for _, f := range fields {
			bad.Addf("economics."+f.Path, "%s", f.Reason)
		}
	}
	out := SoilCosts{Costs: make([]SoilCost, len(in.Blocked))}
	for i, b := range in.Blocked {
		if !(b >= 0 && b <= 1) {
			bad.Addf(fmt.Sprintf("blocked_shares[%d]", i), "must be between 0 and 1")
			continue
		}
		c := in.Economics.At(soil.Load(b))
		out.Costs[i] = SoilCost{b, c, c.Day()}
	}
	return out, bad.Err()
}

// RiseInput are cleans with readings before and after.
type RiseInput struct {
	Pairs []heat.RisePair `json:"pairs"`
}

func riseFactor(in RiseInput) (heat.Factor, error) { return heat.RiseFactor(in.Pairs) }

// ChoiceInput is a coil with its plans, and the share of days it may be over the limit, for which a price of such a day is then solved.
type ChoiceInput struct {
	interval.ChoiceQuestion
	MostOverShare float64 `json:"most_over_share,omitempty"`
}

// Chosen is a choice, with the price of a day over the limit that was solved for.
type Chosen struct {
	interval.Choice
	OverPrice *float64 `json:"price_day_over,omitempty"`
	// Held is false where no price keeps it within the share.
	Held *bool `json:"held,omitempty"`
}

func choose(in ChoiceInput) (Chosen, error) {
	if in.MostOverShare == 0 {
		c, err := interval.Choose(in.ChoiceQuestion)
		return Chosen{Choice: c}, err
	}
	c, price, held, err := interval.ChooseWithin(in.ChoiceQuestion, in.MostOverShare)
	return Chosen{c, &price, &held}, err
}

// RoundInput is a planning problem with how far to search. The plan by due date can be asked for instead.
type RoundInput struct {
	Problem round.Problem `json:"problem"`
	Search  round.Search  `json:"search"`
	// ByDue asks for the plan by hand: by due date, nothing swapped.
	ByDue bool `json:"by_due,omitempty"`
}

func planRounds(in RoundInput) (plan round.Plan, err error) {
	if in.ByDue {
		plan, err = round.Greedy(in.Problem)
	} else {
		plan, err = round.Make(in.Problem, in.Search)
	}
	var bad invalid.Error
	if errors.As(err, &bad) {
		for i := range bad {
			if !strings.HasPrefix(bad[i].Path, "search.") {
				bad[i].Path = "problem." + bad[i].Path
			}
		}
	}
	return plan, err
}
