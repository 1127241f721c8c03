// Package calc runs functions of the core from JSON to JSON, without server or database.
package calc

import (
	"bytes"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"reflect"
	"sort"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/interval"
	"nextround/core/invalid"
	"nextround/core/learn"
	"nextround/core/method"
	"nextround/core/round"
	"nextround/core/soil"
	"nextround/core/workplan"
	"nextround/internal/visit"
)

//go:embed schemas/*.json
var schemas embed.FS

// Topic is one function of the core.
type Topic struct {
	Name    string
	Summary string
	run     func(io.Reader) (any, error)
	in, out reflect.Type
	many    bool
}

// Types are those of its input and its output.
func (t Topic) Types() (in, out reflect.Type) { return t.in, t.out }

// Many reports whether it takes {"cases": [...]}, many inputs at once, and gives {"cases": [...]}, an output to each.
func (t Topic) Many() bool { return t.many }

// Topics lists the functions, by name.
func Topics() []Topic {
	all := []Topic{
		topic("advise", "work plans for a coil, ranked, and what is ruled out by which rule", workplan.Advise),
		topic("dwell", "the shortest order of spraying, waiting and rinsing that keeps every dwell in its window", method.Dwell),
		topic("face", "a drawn coil face of known blocked share, to practise grading", drawFace),
		topic("grader", "how far from the truth somebody grades, with its uncertainty", estimateGrader),
		topic("map", "blocked share and grade of a face mapped in cells", mapFace),
		topic("mix", "ratio, share and volumes of a mix, fills, packs and cost", method.Mix),
		topic("reading", "a reading held against its limit, with its context", judge),
		topic("saturation", "the saturation temperature of a pressure", heat.Saturate),
		topic("standoff", "how long a cooler may stand off", standOff),
		topic("steps", "the steps of a visit, from the class, the jobs, the plan and the rules of the house", compileSteps),
		topic("round", "which crew does which jobs on which day, with times, cost, reasons, lower bound and gap", planRounds),
		topic("move", "what it costs to do a planned job on another day", round.Move),
		topic("course", "how soil goes on week by week under planned cleans", soil.CourseOf),
		topic("cause", "what it would bring to take a site factor away", interval.WithoutCause),
		topic("heat", "what soil costs: airflow, temperature rise, energy and call-outs", costSoil),
		topicOfMany("interval", "the next interval of a cleaning task: four schools, caps, guard rails and the one proposal", interval.Propose),
		topicOfMany("program", "work plan, interval and dates chosen together, by what they cost a day once settled", interval.BestProgram),
		topic("choice", "the program that costs least on all that is believed of a coil, held against what is in force, and the first clean", choose),
		topic("look", "what a look with light, a first dated finding or readings are worth, in money", interval.ValueOfLooking),
		topic("call_factor", "how often call-outs really come, from a complete log: gamma and Poisson", heat.CallFactor),
		topic("rise_factor", "how far soil really lifts the condensing temperature, from readings before and after cleans", riseFactor),
		topic("ladder", "the cheapest cycle of light and deep cleans", interval.Climb),
		topic("pool", "what a group of peers says of each member", learn.PoolMembers),
		topic("preview", "soil, money and risk from today on under an interval", interval.Show),
		topic("rate", "a side's own rate from its history, with its core and what counted", learn.Learn),
		topic("visit", "what a visit's record still lacks or gets wrong, each at its step of the work", visit.Judge),
		topic("wait", "the price of leaving a coil for some days more", interval.PriceOfWaiting),
		topic("replay", "face and core soil of a coil side, day by day, from its start, visits and rates", soil.Replay),
	}
	sort.Slice(all, func(i, j int) bool { return all[i].Name < all[j].Name })
	return all
}

// ByName finds a topic.
func ByName(name string) (Topic, bool) {
	for _, t := range Topics() {
		if t.Name == name {
			return t, true
		}
	}
	return Topic{}, false
}

// Schema is the JSON schema of the topic: input and output.
func (t Topic) Schema() []byte { return t.file("schema") }

// Example is an input that runs.
func (t Topic) Example() []byte { return t.file("example") }

func (t Topic) file(kind string) []byte {
	b, err := schemas.ReadFile("schemas/" + t.Name + "." + kind + ".json")
	if err != nil {
		panic(err) // embedded, and tested for every topic
	}
	return b
}

// NotJSON means that the input could not be read as JSON of the topic's shape.
type NotJSON struct{ Reason string }

// Error is the reason.
func (e NotJSON) Error() string { return e.Reason }

// Run reads an input, computes and writes the result. Errors are NotJSON or invalid.Error.
func (t Topic) Run(in io.Reader, out io.Writer) error {
	result, err := t.run(in)
	if err != nil {
		return err
	}
	enc := json.NewEncoder(out)
	enc.SetIndent("", "  ")
	if err := enc.Encode(result); err != nil {
		return fmt.Errorf("writing the result: %w", err)
	}
	return nil
}

func topic[In, Out any](name, summary string, compute func(In) (Out, error)) Topic {
	run := func(r io.Reader) (any, error) {
		raw, err := io.ReadAll(r)
		if err != nil {
			return nil, fmt.Errorf("reading the input: %w", err)
		}
		var in In
		if err := decode(raw, &in); err != nil {
			return nil, err
		}
		return compute(in)
	}
	return Topic{Name: name, Summary: summary, run: run, in: reflect.TypeFor[In](), out: reflect.TypeFor[Out]()}
}

// topicOfMany is a topic that takes many inputs at once too. One that cannot be used fails all of them, named by its place.
func topicOfMany[In, Out any](name, summary string, compute func(In) (Out, error)) Topic {
	t := topic(name, summary, compute)
	one := t.run
	t.many = true
	t.run = func(r io.Reader) (any, error) {
		raw, err := io.ReadAll(r)
		if err != nil {
			return nil, fmt.Errorf("reading the input: %w", err)
		}
		var named map[string]json.RawMessage
		if json.Unmarshal(raw, &named) != nil || named["cases"] == nil {
			return one(bytes.NewReader(raw))
		}
		var in struct {
			Cases []In `json:"cases"`
		}
		if err := decode(raw, &in); err != nil {
			return nil, err
		}
		var bad invalid.Error
		out := struct {
			Cases []Out `json:"cases"`
		}{make([]Out, len(in.Cases))}
		for i, c := range in.Cases {
			out.Cases[i], err = compute(c)
			var fields invalid.Error
			if errors.As(err, &fields) {
				for _, f := range fields {
					bad.Addf(fmt.Sprintf("cases[%d].%s", i, f.Path), "%s", f.Reason)
				}
			} else if err != nil {
				return nil, fmt.Errorf("case %d: %w", i, err)
			}
		}
		return out, bad.Err()
	}
	return t
}

func decode(raw []byte, in any) error {
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	if err := dec.Decode(in); err != nil {
		return describe(err, raw)
	}
	if dec.More() {
		return NotJSON{"there is more after the end of the JSON value"}
	}
	return nil
}

// describe turns a decoding error into words that name the field or the line.
func describe(err error, raw []byte) error {
	var wrongType *json.UnmarshalTypeError
	var syntax *json.SyntaxError
	switch {
	case errors.As(err, &wrongType) && wrongType.Type == reflect.TypeFor[calendar.Day]():
		return invalid.Error{{Path: placeOf(wrongType, raw), Reason: "must be a date of the form 2026-03-05, not " + wrongType.Value}}
	case errors.As(err, &wrongType):
		return invalid.Error{{Path: placeOf(wrongType, raw), Reason: "must be " + kind(wrongType.Type.Kind().String()) + ", not " + wrongType.Value}}
	case errors.As(err, &syntax):
		return NotJSON{fmt.Sprintf("line %d: not JSON: %v", 1+bytes.Count(raw[:min(int(syntax.Offset), len(raw))], []byte("\n")), syntax)}
	case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
		return NotJSON{"the input ends too early"}
	}
	return NotJSON{err.Error()}
}

func kind(k string) string {
	switch k {
	case "float64", "int", "int32":
		return "a number"
	case "struct", "map":
		return "an object"
	case "slice", "array":
		return "a list"
	case "bool":
		return "true or false"
	}
	return "text"
}
