package fieldwork_test

import (
	"bytes"
	"encoding/json"
	"sort"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/internal/calc"
	"nextround/internal/contract"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
	"nextround/internal/visit"
)

// onPhone is what the phone says of a visit, from the pack it keeps, in the way it asks: as JSON.
func onPhone(t *testing.T, pack contract.VisitPack, v contract.NewVisit, step string) visit.Answer {
	t.Helper()
	in, err := json.Marshal(visit.Question{Pack: pack, Visit: v, Step: step, At: time.Now()})
	require.NoError(t, err)
	topic, ok := calc.ByName("visit")
	require.True(t, ok)
	var raw bytes.Buffer
	require.NoError(t, topic.Run(bytes.NewReader(in), &raw))
	var out visit.Answer
	require.NoError(t, json.Unmarshal(raw.Bytes(), &out))
	return out
}

// deepWet is a deep clean led step by step that the server takes as it is.
func deepWet(t *testing.T, h *roomstest.House, u contract.Unit, pack contract.VisitPack) contract.NewVisit {
	t.Helper()
	v := h.Wet(u, "2026-02-02", "medium_universal")
	v.Jobs = &[]contract.VisitJob{contract.VisitJobDeep}
	v.Coils[0].Treatments[0].EndPoints = &[]contract.EndPoint{contract.ClearRunOff, contract.LightThroughAll}
	v.Coils[0].Treatments[0].Direction = contract.AgainstAirflow
	v.Coils[0].Treatments[0].DwellS = new(480)
	v.Steps = &[]contract.StepResult{}
	for _, s := range onPhone(t, pack, v, "").Steps {
		*v.Steps = append(*v.Steps, contract.StepResult{Step: s.Code, State: contract.StepResultStateDone})
	}
	v.Isolation = &contract.Isolation{
		Point: "breaker 4", Means: contract.IsolationMeansBreaker, Secured: contract.Locked, Discharged: true, MeterTried: true,
		L1L2V: new(0.0), L1GroundV: new(0.1), L2GroundV: new(0.0),
	}
	return v
}

// refusal is one thing that the server refuses, where, and at which step the phone says it first.
type refusal struct {
	field, step string
	change      func(*contract.NewVisit)
}

func without(code string) func(*contract.NewVisit) {
	return func(v *contract.NewVisit) {
		left := []contract.StepResult{}
		for _, s := range *v.Steps {
			if s.Step != code {
				left = append(left, s)
			}
		}
		v.Steps = &left
	}
}

func refusals(h *roomstest.House, hung uuid.UUID) []refusal {
	side := func(v *contract.NewVisit) *contract.VisitSide { return &v.Coils[0].Sides[0] }
	first := func(v *contract.NewVisit) *contract.VisitTreatment { return &v.Coils[0].Treatments[0] }
	iso := func(v *contract.NewVisit) *contract.Isolation { return v.Isolation }
	at := "/coils/0/treatments/0"
	return []refusal{
		{"/day", "", func(v *contract.NewVisit) { v.Day += 400 }},
		{"/finished_at", "", func(v *contract.NewVisit) {
			v.StartedAt, v.FinishedAt = new(time.Unix(9000, 0)), new(time.Unix(3000, 0))
		}},
		{"/people", "", func(v *contract.NewVisit) { v.People = nil }},
		{"/people/0/minutes", "", func(v *contract.NewVisit) { v.People[0].Minutes = 0 }},
		{"/people/0/person_id", "", func(v *contract.NewVisit) { v.People[0].PersonID = uuid.New() }},
		{"/people/1/person_id", "", func(v *contract.NewVisit) { v.People = append(v.People, v.People[0]) }},
		{"/cautions_read", "", func(v *contract.NewVisit) { v.CautionsRead = false }},
		{"/note", "", func(v *contract.NewVisit) { v.Outcome, v.Coils = contract.OutcomeNoAccess, nil }},
		{"/outcome", "", func(v *contract.NewVisit) {
			side(v).Reached, side(v).WhyNot, side(v).Found, side(v).Left = false, new("tray"), nil, nil
			first(v).SurfaceIds = first(v).SurfaceIds[1:]
		}},
		{"/coils", "opened_look", func(v *contract.NewVisit) { v.Coils = nil }},
		{"/coils/0/sides", "opened_look", func(v *contract.NewVisit) {
			v.Coils[0].Sides = v.Coils[0].Sides[1:]
			first(v).SurfaceIds = first(v).SurfaceIds[1:]
		}},
		{"/coils/0/sides/0/why_not", "opened_look", func(v *contract.NewVisit) {
			side(v).Reached, side(v).Found, side(v).Left = false, nil, nil
			v.Outcome, first(v).SurfaceIds = contract.OutcomePartly, first(v).SurfaceIds[1:]
		}},
		{"/coils/0/sides/0/found", "opened_look", func(v *contract.NewVisit) { side(v).Found = nil }},
		{"/coils/0/sides/0/found/seen", "opened_look", func(v *contract.NewVisit) { side(v).Found.Seen = "" }},
		{"/coils/0/sides/0/found/grade", "opened_look", func(v *contract.NewVisit) { side(v).Found.Grade = 9 }},
		{"/coils/0/sides/0/found/cells/0/why_not", "opened_look", func(v *contract.NewVisit) { side(v).Found.Cells = &[]contract.FaceCell{{}} }},
		{"/coils/0/sides/0/soil_ids/0", "opened_look", func(v *contract.NewVisit) { side(v).SoilIds = &[]uuid.UUID{uuid.New()} }},
		{"/coils/0/sides/0/first_look/grade", "first_look", func(v *contract.NewVisit) { side(v).FirstLook = &contract.Look{Grade: -1, Seen: contract.FaceLook} }},
		{"/coils/0/sides/0/left", "as_left", func(v *contract.NewVisit) { side(v).Left = nil }},
		{"/coils/0/sides/0/left/seen", "as_left", func(v *contract.NewVisit) { side(v).Left.Seen = "" }},
		{at + "/method_id", "advice", func(v *contract.NewVisit) { first(v).MethodID = uuid.New() }},
		{at + "/cleaner_id", "advice", func(v *contract.NewVisit) { first(v).CleanerID = new(uuid.New()) }},
		{at + "/water_parts", "advice", func(v *contract.NewVisit) { first(v).WaterParts = new(500.0) }},
		{at + "/water_parts", "advice", func(v *contract.NewVisit) { first(v).WaterParts = nil }},
		{at + "/returned_l", "advice", func(v *contract.NewVisit) { first(v).ReturnedL = new(99.0) }},
		{at + "/setting_id", "advice", func(v *contract.NewVisit) { first(v).SettingID = new(uuid.New()) }},
		{at + "/surface_ids", "advice", func(v *contract.NewVisit) { first(v).SurfaceIds = nil }},
		{at + "/method_id", "advice", func(v *contract.NewVisit) {
			first(v).CleanerID, first(v).WaterParts = new(h.Cleaner("indoor_neutral")), nil
		}},
		{at + "/dwell_s", "apply_cleaner", func(v *contract.NewVisit) { first(v).DwellS = nil }},
		{at + "/over_dwell", "apply_cleaner", func(v *contract.NewVisit) { first(v).DwellS = new(10) }},
		{at + "/over_dwell", "apply_cleaner", func(v *contract.NewVisit) { first(v).DwellS = new(4000) }},
		{at + "/end_points", "rinse_end", func(v *contract.NewVisit) { first(v).EndPoints = nil }},
		{"/isolation", "isolate", func(v *contract.NewVisit) { v.Isolation = nil }},
		{"/isolation/point", "isolate", func(v *contract.NewVisit) { iso(v).Point = " " }},
		{"/isolation/means", "isolate", func(v *contract.NewVisit) { iso(v).Means = "" }},
		{"/isolation/secured", "lock_tag", func(v *contract.NewVisit) { iso(v).Secured = contract.Not }},
		{"/isolation/discharged", "discharge", func(v *contract.NewVisit) { iso(v).Discharged = false }},
		{"/isolation/l1_ground_v", "prove_dead", func(v *contract.NewVisit) { iso(v).L1GroundV = new(230.0) }},
		{"/isolation/l1_l2_v", "prove_dead", func(v *contract.NewVisit) { iso(v).L1L2V = nil }},
		{"/isolation/meter_tried", "prove_dead", func(v *contract.NewVisit) { iso(v).MeterTried = false }},
		{"/steps/isolate", "isolate", without("isolate")},
		{"/steps/count_back", "count_back", without("count_back")},
		{"/steps/0/reason", "", func(v *contract.NewVisit) {
			for i, s := range *v.Steps {
				if s.Step == "isolate" {
					(*v.Steps)[0], (*v.Steps)[i] = contract.StepResult{Step: "isolate", State: contract.StepResultStateSkipped}, (*v.Steps)[0]
				}
			}
		}},
		{"/counts/0/why", "count_back", func(v *contract.NewVisit) { v.Counts = &[]contract.CountBack{{What: "screws", Taken: 8, Back: 7}} }},
		{"/readings/0/cause", "capacitor_test", func(v *contract.NewVisit) {
			v.Readings = &[]contract.NewReading{{Phase: "after", Kind: "motor_a", Value: 9, Source: "typed", Context: &contract.ReadingContext{Nameplate: new(2.0)}}}
		}},
		{"/readings/0/value", "readings_before", func(v *contract.NewVisit) {
			v.Readings = &[]contract.NewReading{{Phase: "before", Kind: "ambient_c", Value: 4000, Source: "typed"}}
		}},
		{"/surfaces/0/left", "fan_blades", func(v *contract.NewVisit) {
			v.Surfaces = &[]contract.PartLook{{Part: "blades", Grade: 1, Left: new(3)}}
		}},
		{"/exceptions/0/ban", "advice", func(v *contract.NewVisit) { v.Exceptions = &[]contract.RuleException{{Ban: "nonsense", Reason: "x"}} }},
		{"/choices/nonsense", "advice", func(v *contract.NewVisit) { v.Choices = &map[string]string{"nonsense": "x"} }},
		{"/watched/0/watch_id", "", func(v *contract.NewVisit) { v.Watched = &[]contract.WatchLook{{WatchID: hung, State: "same"}} }},
		{"/new_watch/0/what", "parts", func(v *contract.NewVisit) { v.NewWatch = &[]contract.NewWatchItem{{What: " "}} }},
		{"/parts/0/kind", "parts", func(v *contract.NewVisit) { v.Parts = &[]contract.PartCard{{Kind: "belt", Quantity: 1}} }},
		{"/advised/0/text", "tell_site", func(v *contract.NewVisit) { v.Advised = &[]contract.AdviceGiven{{Text: " ", Answer: "told"}} }},
		{"/symptoms/0/symptom_id", "tell_site", func(v *contract.NewVisit) { v.Symptoms = &[]contract.SymptomAnswer{{SymptomID: hung}} }},
	}
}

// outside is a condensing unit in a yard with water.
func outside(t *testing.T, h *roomstest.House) (contract.Unit, contract.VisitPack) {
	t.Helper()
	u := h.Unit("A-1", "outdoor_condensing", "2026-01-01")
	h.SaveSite(u.SiteID, func(c *contract.SiteCard) {
		for i := range *c.Placements {
			(*c.Placements)[i].Setting, (*c.Placements)[i].Water = contract.SettingOutdoor, new(contract.YesNoYes)
		}
	})
	pack, err := h.Rooms.Fieldwork.VisitPack(h.Ctx, h.Technician, u.ID)
	require.NoError(t, err)
	return h.Look(u.ID), pack
}

// What the server refuses of a visit the phone refuses first, at the step where it is put right, and what the phone takes the
// server takes.
func TestTheServerRefusesNothingThatThePhoneTakes(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u, pack := outside(t, h)
	for _, c := range refusals(h, uuid.New()) {
		v := deepWet(t, h, u, pack)
		c.change(&v)
		_, err := h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Technician, store.NewID(), v)
		server := []string{}
		for field := range roomstest.Fields(t, err) {
			server = append(server, field)
		}
		phone, steps := map[string]bool{}, map[string]string{}
		for _, r := range onPhone(t, pack, v, "").Refusals {
			phone[r.Field], steps[r.Field] = true, r.Step
		}
		said := []string{}
		for field := range phone {
			said = append(said, field)
		}
		sort.Strings(server)
		sort.Strings(said)
		assert.Equal(t, server, said, c.field)
		if !assert.Contains(t, said, c.field) {
			continue
		}
		if c.step != "" {
			assert.Equal(t, c.step, steps[c.field], "%s is put right at its step", c.field)
		}
	}
	v := deepWet(t, h, u, pack)
	assert.Empty(t, onPhone(t, pack, v, "").Refusals)
	h.Submit(v)
}

// A gate opens when its own record is there, and not before, whatever else is still missing.
func TestAGateOpensByItsOwnRecord(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u, pack := outside(t, h)
	whole := deepWet(t, h, u, pack)
	v := contract.NewVisit{UnitID: u.ID, Day: whole.Day, Outcome: contract.OutcomeDone, CautionsRead: true, Jobs: whole.Jobs, Isolation: &contract.Isolation{Secured: contract.Not}}
	in := v.Isolation
	for _, c := range []struct {
		step   string
		record []func()
	}{
		{"isolate", []func(){func() { in.Point = "breaker 4" }, func() { in.Means = contract.IsolationMeansBreaker }}},
		{"lock_tag", []func(){func() { in.Secured = contract.Tagged }}},
		{"discharge", []func(){func() { in.Discharged = true }}},
		{"prove_dead", []func(){func() { in.L1L2V = new(0.0) }, func() { in.L1GroundV = new(0.2) }, func() { in.L2GroundV = new(0.0) }, func() { in.MeterTried = true }}},
	} {
		for _, fill := range c.record {
			assert.NotEmpty(t, onPhone(t, pack, v, c.step).Here, c.step)
			fill()
		}
		assert.Empty(t, onPhone(t, pack, v, c.step).Here, c.step)
	}
	in.L2GroundV = new(231.0)
	here := onPhone(t, pack, v, "prove_dead").Here
	require.Len(t, here, 1)
	assert.Contains(t, here[0].Reason, "it is live, and must not be opened")
}

// A Blanket that was brushed and is said to be bare is asked about once; after wet work, or of a light coat, it is not.
func TestABlanketBrushedBareIsAskedAbout(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u, pack := outside(t, h)
	asked := func(found, left int, wet bool) []visit.Ask {
		v := h.Visit(u, "2026-02-02", contract.TaskKindLight, found, left, contract.LightThrough)
		if wet {
			v = h.Wet(u, "2026-02-02", "medium_universal")
			for i := range v.Coils[0].Sides {
				v.Coils[0].Sides[i].Found.Grade, v.Coils[0].Sides[i].Left.Grade = found, left
			}
		}
		return onPhone(t, pack, v, "").Asks
	}
	sides := len(u.Coils[0].Sides)
	got := asked(4, 0, false)
	require.Len(t, got, sides)
	assert.Equal(t, "as_left", got[0].Step)
	assert.Contains(t, got[0].Text, "found under a Blanket")
	for _, none := range [][]visit.Ask{asked(3, 0, false), asked(4, 1, false), asked(5, 0, true)} {
		assert.Empty(t, none)
	}
}
