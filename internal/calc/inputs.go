package calc

import (
	"errors"
	"fmt"
	"strings"

	"nextround/core/heat"
	"nextround/core/invalid"
	"nextround/core/method"
	"nextround/core/procedure"
	"nextround/core/round"
	"nextround/core/soil"
	"nextround/core/teach"
	"nextround/internal/wording"
)

// Judged is a judgement with the sentence that says what it rests on.
type Judged struct {
	heat.Judgement
	Text string `json:"text"`
}

func judge(r heat.Reading) (Judged, error) {
	j, err := heat.Judge(r)
	return Judged{j, wording.Reading(j)}, err
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

// StepsInput is a template and what the visit is like.
type StepsInput struct {
	Template []procedure.Step `json:"template"`
	Tags     []string         `json:"tags"`
}

// Steps are those that apply.
type Steps struct {
	Steps []procedure.Step `json:"steps"`
}

func pickSteps(in StepsInput) (Steps, error) {
	tags := map[string]bool{}
	for _, t := range in.Tags {
		tags[t] = true
	}
	return Steps{procedure.Pick(in.Template, tags)}, nil
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
