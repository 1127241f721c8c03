package wording

import (
	"fmt"
	"slices"
	"strings"

	"nextround/core/procedure"
	"nextround/core/workplan"
)

// phaseWords are the parts of a visit.
var phaseWords = map[procedure.Phase]string{
	procedure.Arrive: "arriving", procedure.Safe: "making safe", procedure.Look: "opening and looking", procedure.Dry: "dry work", procedure.Wet: "wet work",
	procedure.Check: "checks", procedure.Close: "closing", procedure.Tell: "telling the site",
}

// StepDifferences say in words what the second list of steps has otherwise than the first; nothing where they are the same.
func StepDifferences(a, b []procedure.Step) []string {
	out := []string{}
	find := func(list []procedure.Step, code string) *procedure.Step {
		if i := slices.IndexFunc(list, func(s procedure.Step) bool { return s.Code == code }); i >= 0 {
			return &list[i]
		}
		return nil
	}
	for _, s := range a {
		if find(b, s.Code) == nil {
			out = append(out, fmt.Sprintf("No step “%s”.", s.Text))
		}
	}
	for _, s := range b {
		was := find(a, s.Code)
		switch {
		case was == nil:
			out = append(out, fmt.Sprintf("A step more: “%s”.", s.Text))
			continue
		case was.Text != s.Text:
			out = append(out, fmt.Sprintf("“%s” in place of “%s”.", s.Text, was.Text))
		}
		if was.Phase != s.Phase {
			out = append(out, fmt.Sprintf("“%s” moves to %s.", s.Text, phaseWords[s.Phase]))
		}
		for _, c := range s.Cautions {
			if !slices.Contains(was.Cautions, c) {
				out = append(out, fmt.Sprintf("At “%s”: %s", s.Text, c))
			}
		}
		for _, c := range was.Cautions {
			if !slices.Contains(s.Cautions, c) && len(s.Cautions) < len(was.Cautions) {
				out = append(out, fmt.Sprintf("At “%s” no longer: %s", s.Text, c))
			}
		}
	}
	return out
}

// PlanDifference says in words how a second advice differs from the first; empty where it does not.
func PlanDifference(a, b workplan.Advice) string {
	left, right := PlanCell(a), PlanCell(b)
	if left == right {
		more := Difference(a, b)
		if more == "" {
			return ""
		}
		return "The first plan stays; " + strings.TrimSuffix(more, ": ") + "."
	}
	return "Plan: " + right
}

// PlanCell is an advice in one line: its first plan with what it leaves, or what to do instead.
func PlanCell(a workplan.Advice) string {
	if a.Leave {
		return "left; look again"
	}
	var then []string
	for _, t := range a.Then {
		then = append(then, PlanThen[t])
	}
	if len(a.Plans) == 0 {
		return "none. " + strings.Join(then, " ")
	}
	text := fmt.Sprintf("%s: leaves %s", PlanLine(a.Plans[0]), strings.ToLower(a.Plans[0].LeftGrade.String()))
	if !a.Plans[0].Enough {
		text += ", not enough. " + strings.Join(then, " ")
	}
	return text
}

// Difference names what else two plans of the same passes differ in.
func Difference(a, b workplan.Advice) string {
	if len(a.Plans) == 0 || len(b.Plans) == 0 {
		return "what is ruled out differs"
	}
	x, y := a.Plans[0], b.Plans[0]
	var out []string
	say := func(differs bool, text string) {
		if differs {
			out = append(out, text)
		}
	}
	say(strings.Join(x.Protection, ", ") != strings.Join(y.Protection, ", "), "wear: "+strings.Join(y.Protection, ", "))
	for i := range min(len(x.Passes), len(y.Passes)) {
		say(x.Passes[i].StopWhen != y.Passes[i].StopWhen, PassStops[y.Passes[i].StopWhen])
		say(x.Passes[i].Tip != y.Passes[i].Tip, PassTips[y.Passes[i].Tip])
		say(x.Passes[i].Side != y.Passes[i].Side, PassSides[y.Passes[i].Side])
		say(x.Passes[i].RinseL != y.Passes[i].RinseL, fmt.Sprintf("%.0f L to rinse", y.Passes[i].RinseL))
	}
	say(a.AimShare != b.AimShare, fmt.Sprintf("clean enough at %.0f %%", 100*b.AimShare))
	if more := len(b.RuledOut) - len(a.RuledOut); more > 0 {
		say(true, fmt.Sprintf("%d more ways are ruled out", more))
	} else {
		say(more < 0, fmt.Sprintf("%d ways that were ruled out may be used", -more))
	}
	return strings.Join(out, "; ")
}
