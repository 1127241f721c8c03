package workplan_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/method"
	"nextround/core/soil"
	"nextround/core/workplan"
)

// inPlan are the questions whose answers change what is planned; the others act in the steps, the clocks and the readings.
var inPlan = []string{
	"gloves", "panels", "in_place", "base_debris", "dry_first", "brush_order", "air", "direction", "pressure", "plug_in_chemistry", "strength", "chemistry_side",
	"no_rinse", "dwell", "rinse_end", "slabs", "coating_indoors", "how_clean",
}

// Each answer to a question differs from each other answer to it, in the plans of some job.
func TestEveryAnswerChangesAPlan(t *testing.T) {
	t.Parallel()
	jobs := []workplan.Input{}
	for _, s := range scenes {
		jobs = append(jobs, s.in)
		light := s.in
		light.Work = workplan.LightWork
		jobs = append(jobs, light)
	}
	jobs = append(jobs,
		in(indoor, room, "dust", soil.Film), in(method.Coil{Construction: method.TubeFin, Slabs: 2, Role: "condenser", FaceM2: 1, DeepMinutes: 50}, yard, "grease", soil.Felt),
		in(method.Coil{Construction: method.TubeFin, Slabs: 2, Role: "condenser", FaceM2: 1, DeepMinutes: 50}, yard, "lint", soil.Film),
		in(heatPump, yard, "dust", soil.Coat, frost))
	told := func(x workplan.Input, question, answer string) string {
		rules := method.Rules{}
		for q, a := range x.Rules {
			rules[q] = a
		}
		rules[question] = answer
		x.Rules = rules
		a, err := workplan.Advise(x)
		require.NoError(t, err)
		b, err := json.Marshal(a)
		require.NoError(t, err)
		return string(b)
	}
	for _, code := range inPlan {
		q, ok := method.QuestionByCode(code)
		require.True(t, ok, code)
		for i, a := range q.Choices {
			for _, b := range q.Choices[i+1:] {
				differ := false
				for _, job := range jobs {
					if told(job, code, a.Code) != told(job, code, b.Code) {
						differ = true
						break
					}
				}
				assert.True(t, differ, "%s: %s and %s come to the same everywhere", code, a.Code, b.Code)
			}
		}
	}
}
