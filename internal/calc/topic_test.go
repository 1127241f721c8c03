package calc_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/heat"
	"nextround/core/interval"
	"nextround/core/learn"
	"nextround/core/method"
	"nextround/core/round"
	"nextround/core/soil"
	"nextround/core/workplan"
	"nextround/internal/calc"
	"nextround/internal/visit"
)

func TestEveryTopicRunsItsExample(t *testing.T) {
	for _, topic := range calc.Topics() {
		var out bytes.Buffer
		require.NoError(t, topic.Run(bytes.NewReader(topic.Example()), &out), topic.Name)
		var result, schema map[string]any
		require.NoError(t, json.Unmarshal(out.Bytes(), &result))
		require.NoError(t, json.Unmarshal(topic.Schema(), &schema))
		documented := schema["properties"].(map[string]any)["output"].(map[string]any)["properties"].(map[string]any)
		for name := range result {
			assert.Contains(t, documented, name, "%s: the schema documents every field of the result", topic.Name)
		}
	}
}

// The schema's input fields are those the program reads, no more and no fewer.
func TestSchemasNameTheFieldsThatAreRead(t *testing.T) {
	for name, shape := range map[string]any{
		"replay": soil.History{}, "interval": interval.Task{}, "mix": method.MixInput{}, "dwell": method.DwellInput{}, "advise": workplan.Input{},
		"reading": calc.ReadingInput{}, "saturation": heat.SaturationInput{}, "face": calc.FaceInput{}, "grader": calc.GraderInput{},
		"standoff": calc.StandOffInput{}, "steps": calc.StepsInput{}, "visit": visit.Question{}, "rate": learn.Question{}, "pool": learn.Pool{}, "heat": calc.HeatInput{},
		"ladder": interval.LadderQuestion{}, "program": interval.ProgramQuestion{}, "choice": calc.ChoiceInput{}, "call_factor": heat.CallLog{}, "rise_factor": calc.RiseInput{}, "look": interval.LookQuestion{}, "wait": interval.WaitQuestion{}, "cause": interval.CauseQuestion{}, "preview": interval.PreviewQuestion{},
		"round": calc.RoundInput{}, "move": round.MoveQuestion{}, "course": soil.CourseQuestion{},
	} {
		topic, ok := calc.ByName(name)
		require.True(t, ok)
		var schema map[string]any
		require.NoError(t, json.Unmarshal(topic.Schema(), &schema))
		documented := schema["properties"].(map[string]any)["input"].(map[string]any)["properties"].(map[string]any)
		typ := reflect.TypeOf(shape)
		if topic.Many() {
			assert.Contains(t, documented, "cases", name)
			delete(documented, "cases")
		}
		fields := 0
		for _, f := range reflect.VisibleFields(typ) {
			if f.Anonymous {
				continue
			}
			fields++
			tag, _, _ := strings.Cut(f.Tag.Get("json"), ",")
			assert.Contains(t, documented, tag, name)
		}
		assert.Len(t, documented, fields, name)
	}
}

func TestErrorsNameTheField(t *testing.T) {
	replay, _ := calc.ByName("replay")
	for _, c := range [][2]string{
		{`{"start": {"quality": "exact"}, "until": 7}`, "until: must be a date of the form 2026-03-05, not 7"},
		{`{"visits": [{"day": "soon"}]}`, `visits[0].day: must be a date of the form 2026-03-05, not "soon"`},
		{`{"start": {"quality": "exact"}, "upto": ""}`, `unknown field "upto"`},
		{"{\n\"start\": ", "ends too early"},
		{"{\n\"start\": }", "line 2: not JSON"},
		{`{} {}`, "more after the end"},
		{`{"start":{"quality":"exact"},"conditions":[]}`, "conditions: at least one is needed"},
		{`{"conditions": [{"rate": "much"}]}`, "conditions[0].rate: must be a number, not string"},
	} {
		err := replay.Run(strings.NewReader(c[0]), &bytes.Buffer{})
		assert.ErrorContains(t, err, c[1], c[0])
	}
	_, ok := calc.ByName("weather")
	assert.False(t, ok)
}

func TestManyCasesAtOnce(t *testing.T) {
	t.Parallel()
	for _, name := range []string{"program", "interval"} {
		topic, _ := calc.ByName(name)
		require.True(t, topic.Many())
		var one bytes.Buffer
		require.NoError(t, topic.Run(bytes.NewReader(topic.Example()), &one))
		var many bytes.Buffer
		require.NoError(t, topic.Run(strings.NewReader(fmt.Sprintf(`{"cases": [%s, %s]}`, topic.Example(), topic.Example())), &many))
		var out struct{ Cases []json.RawMessage }
		require.NoError(t, json.Unmarshal(many.Bytes(), &out))
		require.Len(t, out.Cases, 2)
		assert.JSONEq(t, one.String(), string(out.Cases[1]))
		err := topic.Run(strings.NewReader(fmt.Sprintf(`{"cases": [%s, {}]}`, topic.Example())), &many)
		assert.ErrorContains(t, err, "cases[1].")
		assert.NotContains(t, err.Error(), "cases[0]")
	}
}
