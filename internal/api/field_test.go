package api_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"maps"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/core/heat"
	"nextround/core/procedure"
	"nextround/core/soil"
	"nextround/core/workplan"
	"nextround/internal/contract"
	"nextround/internal/demo"
)

// led is a visit as the phone leads through it: every side that can be reached found felted, cleaned by the best advice,
// every step of the procedure ticked in order.
func led(t testing.TB, p contract.VisitPack) contract.NewVisit {
	t.Helper()
	v := contract.NewVisit{
		UnitID: p.Unit.ID, Day: 0, Outcome: contract.OutcomeDone, CautionsRead: true, Coils: []contract.VisitCoil{},
		Source: ptr(contract.NewVisitSourcePhone), ProcedureVersion: &p.Procedure.Version, ToldWhom: ptr("the desk"),
		People: []contract.VisitPerson{{PersonID: p.Catalogue.People[0].ID, Minutes: 45}},
	}
	tags := map[string]bool{}
	for _, tag := range p.Tags {
		tags[tag] = true
	}
	for _, c := range p.Coils {
		v.Coils = append(v.Coils, ledCoil(t, p, c, tags))
		for _, side := range c.Sides {
			if !side.Reachable {
				v.Outcome = contract.OutcomePartly
			}
		}
	}
	at := demo.Clock.Add(-time.Hour)
	steps := []contract.StepResult{}
	for _, s := range procedure.Compile(p.Procedure.Steps, procedure.Visit{Jobs: []procedure.Job{procedure.Deep}, Tags: tags, Rules: p.Practice}) {
		at = at.Add(time.Minute)
		steps = append(steps, contract.StepResult{Step: s.Code, State: contract.StepResultStateDone, At: ptr(at)})
	}
	v.Steps = &steps
	v.Isolation = &contract.Isolation{
		Point: "breaker 4", Means: contract.IsolationMeansBreaker, Secured: contract.LockedAndTagged, Discharged: true, MeterTried: true,
		L1L2V: ptr(0.0), L1GroundV: ptr(0.0), L2GroundV: ptr(0.0),
	}
	return v
}

func ledCoil(t testing.TB, p contract.VisitPack, c contract.PackCoil, tags map[string]bool) contract.VisitCoil {
	t.Helper()
	in := c.Advice
	in.Found.Grade, in.Found.Through, in.Work = soil.Felt, true, "deep"
	advice, err := workplan.Advise(in)
	require.NoError(t, err)
	require.NotEmpty(t, advice.Plans, "%s: nothing is left to clean it with", p.Unit.Class)
	best := advice.Plans[0]
	out := contract.VisitCoil{CoilID: c.CoilID}
	kind := choice(t, p.Catalogue.Soils, in.Found.Kind)
	var passes []contract.VisitTreatment
	for i, x := range best.Passes {
		work := contract.VisitTreatment{Work: contract.TaskKindDeep, Direction: contract.Direction(x.Direction)}
		if x.Where == workplan.TakenOut {
			work.TakenOut = ptr(true)
		}
		for _, m := range p.Catalogue.Methods {
			if m.Code == x.Method {
				work.MethodID = m.ID
			}
		}
		done := procedure.Pass{Method: x.Method, Where: x.Where}
		for _, k := range in.Cleaners {
			if k.Code == x.Cleaner && i == best.Main {
				done.Cleaner = &k
			}
		}
		maps.Copy(tags, procedure.PlanTags([]procedure.Pass{done}))
		for _, k := range p.Catalogue.Cleaners {
			if k.Code == x.Cleaner && i == best.Main {
				work.CleanerID, work.WaterParts, work.PlannedL = &k.ID, x.WaterParts, ptr(x.AmountL)
				work.LoadedL, work.ReturnedL = ptr(x.AmountL+.1), ptr(.1)
				if x.DwellMaxS > 0 {
					work.DwellS = ptr(x.DwellMaxS)
				}
			}
		}
		passes = append(passes, work)
	}
	tags["heavy_soil"] = true
	tags["grease"] = tags["grease"] || in.Found.Kind == "grease"
	tags["leaf"] = tags["leaf"] || in.Found.Kind == "leaf_grass" || in.Found.Kind == "seed_fluff"
	tags["biofilm"] = tags["biofilm"] || in.Found.Kind == "biofilm"
	for _, s := range c.Sides {
		side := contract.VisitSide{SurfaceID: s.SurfaceID, Reached: s.Reachable, WhyNot: &s.WhyNot}
		if s.Reachable {
			side.WhyNot = nil
			side.FirstLook = &contract.Look{Grade: 2, Seen: contract.FaceLook}
			side.Found = &contract.Look{Grade: 3, Seen: contract.LightThrough, Cells: &[]contract.FaceCell{{Row: 0, Column: 0, Grade: ptr(3)}, {Row: 0, Column: 1, Grade: ptr(4)}}}
			side.Left = &contract.Look{Grade: 0, Seen: contract.LightThrough}
			side.SoilIds = &[]uuid.UUID{kind}
			for i := range passes {
				passes[i].SurfaceIds = append(passes[i].SurfaceIds, s.SurfaceID)
			}
		}
		out.Sides = append(out.Sides, side)
	}
	passes[len(passes)-1].EndPoints = &[]contract.EndPoint{contract.ClearRunOff, contract.LightThroughAll}
	out.Treatments = passes
	return out
}

func choice(t testing.TB, list []contract.Choice, code string) uuid.UUID {
	t.Helper()
	for _, c := range list {
		if c.Code == code {
			return c.ID
		}
	}
	t.Fatalf("there is no %s", code)
	return uuid.Nil
}

func asJSON(t testing.TB, v any) string {
	t.Helper()
	b, err := json.Marshal(v)
	require.NoError(t, err)
	return string(b)
}

// One visit of each class is led to its end, from the pack to the record and the report.
func TestAVisitOfEachClassRunsToItsEnd(t *testing.T) {
	s := newSample(t)
	p := newPact(t)
	s.signInAs("technician", demo.Password)
	done := map[string]bool{}
	for _, row := range fetch[contract.Portfolio](t, s.client, "/api/v1/portfolio?limit=500").Rows {
		if done[row.Class] {
			continue
		}
		pack := fetch[contract.VisitPack](t, s.client, "/api/v1/units/"+row.UnitID.String()+"/visit-pack")
		if pack.Unit.Status != "in_service" {
			continue
		}
		done[row.Class] = true
		visit := led(t, pack)
		visit.Day = dayOfDemo()
		key := uuid.NewString()
		status, answer := p.kept(s.client, "POST", "/api/v1/visits", asJSON(t, visit), "Idempotency-Key", key)
		if !assert.Equal(t, http.StatusCreated, status, "%s: %s", row.Class, answer) {
			continue
		}
		var out contract.VisitOutcome
		require.NoError(t, json.Unmarshal([]byte(answer), &out))
		assert.NotEmpty(t, out.Clocks)
		again, same := p.kept(s.client, "POST", "/api/v1/visits", asJSON(t, visit), "Idempotency-Key", key)
		assert.Equal(t, http.StatusCreated, again)
		assert.JSONEq(t, answer, same, "sent twice, stored once")
		record := fetch[contract.VisitRecord](t, s.client, "/api/v1/visits/"+out.ID.String())
		assert.Len(t, record.Steps, len(*visit.Steps))
		assert.InDelta(t, .51, *record.Summary.Sides[0].Found.BlockedShare, .01, "the mean of a felt and a blanket cell")
		for i, c := range visit.Coils {
			assert.Equal(t, c.Treatments[0].LoadedL, record.Visit.Coils[i].Treatments[0].LoadedL)
		}
		report := fetch[contract.SiteReport](t, s.client, "/api/v1/visits/"+out.ID.String()+"/report")
		assert.Contains(t, report.Title, row.Tag)
		assert.NotEmpty(t, report.Found)
		assert.NotEmpty(t, report.Next)
	}
	assert.Len(t, done, 13)
}

// Every gate of a class's procedure, left out, keeps the visit from being stored; skipped with a reason it reaches the
// manager.
func TestGatesAreNotPassedInSilence(t *testing.T) {
	s := newSample(t)
	s.signInAs("technician", demo.Password)
	pack := packOf(t, s, "CC-BC-1")
	visit := led(t, pack)
	visit.Day = dayOfDemo()
	gates := 0
	for i, r := range *visit.Steps {
		step := stepOf(pack, r.Step)
		if !step.Gate {
			continue
		}
		gates++
		without := visit
		short := append(append([]contract.StepResult{}, (*visit.Steps)[:i]...), (*visit.Steps)[i+1:]...)
		without.Steps = &short
		status, _, answer := s.send("POST", "/api/v1/visits", asJSON(t, without), "Idempotency-Key", uuid.NewString())
		assert.Equal(t, http.StatusUnprocessableEntity, status, step.Code)
		assert.Contains(t, answer, "done, or why it was skipped")
		silent := append([]contract.StepResult{}, *visit.Steps...)
		silent[i] = contract.StepResult{Step: r.Step, State: contract.StepResultStateSkipped}
		without.Steps = &silent
		status, _, answer = s.send("POST", "/api/v1/visits", asJSON(t, without), "Idempotency-Key", uuid.NewString())
		assert.Equal(t, http.StatusUnprocessableEntity, status, step.Code)
		assert.Contains(t, answer, "the manager will see it")
	}
	assert.GreaterOrEqual(t, gates, 6)
	for i := range *visit.Steps {
		if (*visit.Steps)[i].Step == "ppe_open" {
			(*visit.Steps)[i].State, (*visit.Steps)[i].Reason = contract.StepResultStateSkipped, ptr("gloves are in the other van")
		}
	}
	send(t, s, visit)
	s.forget()
	s.signInAs("manager", demo.Password)
	lines := fetch[[]contract.AttentionLine](t, s.client, "/api/v1/attention")
	require.NotEmpty(t, lines)
	assert.Contains(t, asJSON(t, lines), "gloves are in the other van")
}

func stepOf(p contract.VisitPack, code string) procedure.Step {
	for _, s := range p.Procedure.Steps {
		if s.Code == code {
			return s
		}
	}
	return procedure.Step{}
}

func packOf(t testing.TB, s site, tag string) contract.VisitPack {
	t.Helper()
	var id string
	require.NoError(t, s.store.DB.Raw("SELECT id FROM unit WHERE tag = ?", tag).Scan(&id).Error)
	return fetch[contract.VisitPack](t, s.client, "/api/v1/units/"+id+"/visit-pack")
}

func send(t testing.TB, s site, visit contract.NewVisit) contract.VisitOutcome {
	t.Helper()
	status, _, answer := s.send("POST", "/api/v1/visits", asJSON(t, visit), "Idempotency-Key", uuid.NewString())
	require.Equal(t, http.StatusCreated, status, answer)
	var out contract.VisitOutcome
	require.NoError(t, json.Unmarshal([]byte(answer), &out))
	return out
}

// What is wrong with the details of a visit is said at its field.
func TestDetailsAreCheckedAtTheirField(t *testing.T) {
	s := newSample(t)
	s.signInAs("technician", demo.Password)
	pack := packOf(t, s, "CC-BC-1")
	for why, change := range map[string]func(*contract.NewVisit) (pointer string){
		"it is live": func(v *contract.NewVisit) string { v.Isolation.L1L2V = ptr(230.0); return "/isolation/l1_l2_v" },
		"what the meter showed on L2": func(v *contract.NewVisit) string {
			v.Isolation.L2GroundV = nil
			return "/isolation/l2_ground_v"
		},
		"tried on a live source": func(v *contract.NewVisit) string {
			v.Isolation.MeterTried = false
			return "/isolation/meter_tried"
		},
		"say where it was isolated": func(v *contract.NewVisit) string { v.Isolation = nil; return "/isolation" },
		"say what the cause is": func(v *contract.NewVisit) string {
			v.Readings = &[]contract.NewReading{{Phase: "after", Kind: "capacitor_uf", Value: 25, Source: "typed", Context: &contract.ReadingContext{Nameplate: ptr(30.0)}}}
			return "/readings/0/cause"
		},
		"must be between": func(v *contract.NewVisit) string {
			v.Readings = &[]contract.NewReading{{Phase: "after", Kind: "capacitor_uf", Value: 9000, Source: "typed"}}
			return "/readings/0/value"
		},
		"came back: say where": func(v *contract.NewVisit) string {
			v.Counts = &[]contract.CountBack{{What: "screws", Taken: 8, Back: 7}}
			return "/counts/0/why"
		},
		"is not watched": func(v *contract.NewVisit) string {
			v.Watched = &[]contract.WatchLook{{WatchID: uuid.New(), State: "same"}}
			return "/watched/0/watch_id"
		},
		"cannot be overridden": func(v *contract.NewVisit) string {
			v.Exceptions = &[]contract.RuleException{{Ban: "frost", Reason: "hurry"}}
			return "/exceptions/0/ban"
		},
		"say why it was not reached, or give": func(v *contract.NewVisit) string {
			v.Coils[0].Sides[0].Found.Cells = &[]contract.FaceCell{{Row: 1, Column: 1}}
			return "/coils/0/sides/0/found/cells/0/why_not"
		},
		"part of one, was not reached": func(v *contract.NewVisit) string {
			v.Coils[0].Sides[0].Found.Cells = &[]contract.FaceCell{{Row: 1, Column: 1, WhyNot: ptr("bracket")}, {Row: 0, Column: 1, Grade: ptr(2)}}
			return "/outcome"
		},
		"contractor's link": func(v *contract.NewVisit) string {
			v.Source = ptr(contract.NewVisitSourceContractor)
			return "/source"
		},
		"is not a step of this procedure": func(v *contract.NewVisit) string {
			*v.Steps = append(*v.Steps, contract.StepResult{Step: "dance", State: "done"})
			return fmt.Sprintf("/steps/%d/step", len(*v.Steps)-1)
		},
		"is not a choice that is recorded": func(v *contract.NewVisit) string {
			v.Choices = &map[string]string{"air": "never"}
			return "/choices/air"
		},
		"no version 9": func(v *contract.NewVisit) string { v.ProcedureVersion = ptr(9); return "/procedure_version" },
	} {
		visit := led(t, pack)
		visit.Day = dayOfDemo()
		pointer := change(&visit)
		status, _, answer := s.send("POST", "/api/v1/visits", asJSON(t, visit), "Idempotency-Key", uuid.NewString())
		assert.Equal(t, http.StatusUnprocessableEntity, status, why)
		assert.Contains(t, answer, `"`+pointer+`"`, why)
		assert.Contains(t, answer, why)
	}
}

// A hard rule cannot be overridden; a soft one asks why.
func TestRulesHoldWhatIsUsed(t *testing.T) {
	s := newSample(t)
	s.signInAs("technician", demo.Password)
	pack := packOf(t, s, "CC-BC-1") // an under-counter cooler in a bar
	visit := led(t, pack)
	visit.Day = dayOfDemo()
	for _, m := range pack.Catalogue.Methods {
		if m.Code == "hose_rinse" {
			visit.Coils[0].Treatments[0].MethodID = m.ID
		}
	}
	status, _, answer := s.send("POST", "/api/v1/visits", asJSON(t, visit), "Idempotency-Key", uuid.NewString())
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, answer, "/coils/0/treatments/0/method_id")
	assert.Contains(t, answer, "ruled out")
}

// A part of a face that was not reached keeps its side due.
func TestWhatWasNotReachedStaysDue(t *testing.T) {
	s := newSample(t)
	s.signInAs("technician", demo.Password)
	pack := packOf(t, s, "CC-BC-1")
	visit := led(t, pack)
	visit.Day, visit.Outcome = dayOfDemo(), contract.OutcomePartly
	visit.Coils[0].Sides[0].Found.Cells = &[]contract.FaceCell{{Row: 0, Column: 0, Grade: ptr(3)}, {Row: 0, Column: 1, WhyNot: ptr("behind the pipe")}}
	out := send(t, s, visit)
	for _, c := range out.Clocks {
		assert.Empty(t, c.Sides)
		assert.Len(t, *c.StillDue, 1)
	}
}

// Readings are judged with what the register knows, and a pair shows what the clean brought.
func TestReadingsAreJudgedAndPaired(t *testing.T) {
	s := newSample(t)
	s.signInAs("technician", demo.Password)
	pack := packOf(t, s, "CC-BC-1")
	require.NotEmpty(t, pack.Context.Refrigerant, "the unit's refrigerant is known")
	visit := led(t, pack)
	visit.Day = dayOfDemo()
	at := func(phase contract.NewReadingPhase, kind string, value float64, cause *string) contract.NewReading {
		return contract.NewReading{Phase: phase, Kind: kind, Value: value, Source: "typed", Cause: cause}
	}
	high, low := pressureAt(t, pack.Context.Refrigerant, 52), pressureAt(t, pack.Context.Refrigerant, 38)
	suction := pressureAt(t, pack.Context.Refrigerant, -8)
	visit.Readings = &[]contract.NewReading{
		at("before", "ambient_c", 24, nil), at("before", "high_pressure_kpa", high, ptr("soiled")), at("before", "low_pressure_kpa", suction, ptr("-")),
		at("after", "ambient_c", 24, nil), at("after", "high_pressure_kpa", low, nil), at("after", "low_pressure_kpa", suction, ptr("-")),
	}
	record := fetch[contract.VisitRecord](t, s.client, "/api/v1/visits/"+send(t, s, visit).ID.String())
	require.NotNil(t, record.Proof)
	assert.True(t, record.Proof.Judged)
	assert.InDelta(t, 14, record.Proof.FellK, .2)
	for _, r := range record.Readings {
		assert.NotEmpty(t, r.Text, r.Kind)
		if r.Kind == "high_pressure_kpa" {
			assert.Contains(t, r.Text, "K over ambient")
		}
	}
	again := packOf(t, s, "CC-BC-1")
	assert.Len(t, again.LastReadings, 6, "shown at the next visit")
}

// Site staff reach one site's light tasks through their link, and nothing else; a contractor returns one visit.
func TestLinksReachWhatTheyAreFor(t *testing.T) {
	s := newSample(t)
	p := newPact(t)
	s.signInAs("manager", demo.Password)
	pack := packOf(t, s, "CC-BC-1")
	body := asJSON(t, contract.NewGuestLink{Kind: contract.NewGuestLinkKindSiteStaff, Name: "Kitchen", Days: 30, SiteID: &pack.Unit.SiteID})
	status, answer := p.kept(s.client, "POST", "/api/v1/links", body)
	require.Equal(t, http.StatusCreated, status, answer)
	var staff contract.NewGuestLinkAnswer
	require.NoError(t, json.Unmarshal([]byte(answer), &staff))
	body = asJSON(t, contract.NewGuestLink{Kind: contract.NewGuestLinkKindContractor, Name: "Coil contractor", Days: 3, UnitID: &pack.Unit.ID})
	_, answer = p.kept(s.client, "POST", "/api/v1/links", body)
	var contractor contract.NewGuestLinkAnswer
	require.NoError(t, json.Unmarshal([]byte(answer), &contractor))
	s.forget()

	guest := "/api/v1/guest/" + staff.Token
	_, answer = p.kept(s.client, "GET", guest, "")
	var page contract.GuestPage
	require.NoError(t, json.Unmarshal([]byte(answer), &page))
	require.NotEmpty(t, page.Tasks)
	assert.Equal(t, "Crew Canteen", page.Site)
	status, answer = p.kept(s.client, "POST", guest+"/ticks", asJSON(t, contract.GuestTick{TaskID: page.Tasks[0].TaskID}))
	require.Equal(t, http.StatusCreated, status, answer)
	var tick contract.GuestDone
	require.NoError(t, json.Unmarshal([]byte(answer), &tick))
	photo := guest + "/photos?entity=tick&entity_id=" + tick.ID.String()
	status, _, _ = s.send("POST", photo, string(tinyPNG(t)), "Content-Type", "application/octet-stream")
	assert.Equal(t, http.StatusNoContent, status)
	status, _ = p.kept(s.client, "POST", guest+"/ticks", asJSON(t, contract.GuestTick{TaskID: pack.Unit.Coils[0].Tasks[0].TaskID}))
	assert.Equal(t, http.StatusUnprocessableEntity, status, "a coil's clean is no light task")
	status, answer = p.kept(s.client, "POST", guest+"/symptoms", asJSON(t, contract.NewSymptom{Kind: contract.SymptomKindNotCold, UnitID: &pack.Unit.ID}))
	require.Equal(t, http.StatusCreated, status, answer)
	var outside string
	require.NoError(t, s.store.DB.Raw("SELECT id FROM unit WHERE tag LIKE 'MM-%' LIMIT 1").Scan(&outside).Error)
	status, _ = p.kept(s.client, "POST", guest+"/symptoms", `{"kind":"water","unit_id":"`+outside+`"}`)
	assert.Equal(t, http.StatusUnprocessableEntity, status, "a unit elsewhere")
	for _, address := range []string{"/visit", "/visit-pack"} {
		status, _, _ = s.send("GET", guest+address, "")
		assert.Equal(t, http.StatusNotFound, status)
	}
	for _, address := range []string{"/api/v1/portfolio", "/api/v1/sites", "/api/v1/units/" + pack.Unit.ID.String()} {
		status, _, _ = s.send("GET", address, "")
		assert.Equal(t, http.StatusUnauthorized, status, address)
	}

	theirs := "/api/v1/guest/" + contractor.Token + "/visit"
	_, answer = p.kept(s.client, "GET", theirs, "")
	var own contract.VisitPack
	require.NoError(t, json.Unmarshal([]byte(answer), &own))
	require.Len(t, own.Catalogue.People, 1, "of the organisation's people only the contractor is named")
	visit := led(t, own)
	visit.Day = dayOfDemo()
	key := uuid.NewString()
	status, answer = p.kept(s.client, "POST", theirs, asJSON(t, visit), "Idempotency-Key", key)
	require.Equal(t, http.StatusCreated, status, answer)
	status, same := p.kept(s.client, "POST", theirs, asJSON(t, visit), "Idempotency-Key", key)
	assert.Equal(t, http.StatusCreated, status)
	assert.JSONEq(t, answer, same)
	status, _ = p.kept(s.client, "POST", theirs, asJSON(t, visit), "Idempotency-Key", uuid.NewString())
	assert.Equal(t, http.StatusNotFound, status, "used up")

	s.signInAs("manager", demo.Password)
	status, _, _ = s.send("DELETE", "/api/v1/links/"+staff.Link.ID.String(), "")
	assert.Equal(t, http.StatusNoContent, status)
	s.forget()
	status, _ = p.kept(s.client, "GET", guest, "")
	assert.Equal(t, http.StatusNotFound, status, "ended at once")
}

// A symptom asks for the coil's forecast soil first, brings the clean forward, and a visit says whether it was the coil.
func TestSymptomsAreTriagedBySoil(t *testing.T) {
	s := newSample(t)
	p := newPact(t)
	s.signInAs("manager", demo.Password)
	pack := packOf(t, s, "CC-BC-1")
	status, answer := p.kept(s.client, "POST", "/api/v1/symptoms", asJSON(t, contract.NewSymptom{Kind: contract.SymptomKindNotCold, UnitID: &pack.Unit.ID}))
	require.Equal(t, http.StatusCreated, status, answer)
	var symptom contract.Symptom
	require.NoError(t, json.Unmarshal([]byte(answer), &symptom))
	require.NotNil(t, symptom.ForecastShare)
	assert.InDelta(t, pack.Unit.Coils[0].BlockedShare, *symptom.ForecastShare, 1e-9)
	assert.Contains(t, symptom.Advice, "blocked")
	address := "/api/v1/symptoms/" + symptom.ID.String() + "/triage"
	status, answer = p.kept(s.client, "POST", address, `{"decision":"bring_forward","note":"","day":"2026-03-05"}`)
	require.Equal(t, http.StatusOK, status, answer)
	due := ""
	for _, task := range fetch[contract.Unit](t, s.client, "/api/v1/units/"+pack.Unit.ID.String()).Coils[0].Tasks {
		if task.Kind == contract.TaskKindDeep {
			due = task.Due.String()
		}
	}
	assert.LessOrEqual(t, due, "2026-03-05")
	next := packOf(t, s, "CC-BC-1")
	require.NotEmpty(t, next.Symptoms)
	visit := led(t, next)
	visit.Day = dayOfDemo()
	visit.Choices = &map[string]string{"wheel": "in_place"}
	visit.Symptoms = &[]contract.SymptomAnswer{{SymptomID: symptom.ID, CoilWasCause: true}}
	record := fetch[contract.VisitRecord](t, s.client, "/api/v1/visits/"+send(t, s, visit).ID.String())
	assert.Equal(t, "in_place", (*record.Visit.Choices)["wheel"], "a free choice is recorded")
	for _, x := range fetch[[]contract.Symptom](t, s.client, "/api/v1/symptoms") {
		if x.ID == symptom.ID {
			assert.Equal(t, contract.SymptomStatusClosed, x.Status)
			assert.True(t, *x.CoilWasCause)
		}
	}
	for _, task := range fetch[contract.Unit](t, s.client, "/api/v1/units/"+pack.Unit.ID.String()).Coils[0].Tasks {
		assert.Greater(t, task.Due.String(), "2026-03-05", "done, so the clock runs on from the visit")
	}
}

// What visits draw shows in the stock book; a voided visit gives it back.
func TestStockFollowsVisits(t *testing.T) {
	s := newSample(t)
	s.signInAs("manager", demo.Password)
	pack := packOf(t, s, "NL-CU-1")
	pack.Coils[0].Advice.Found.Kind = "grease" // asks for more than water
	visit := led(t, pack)
	visit.Day = dayOfDemo()
	passes := visit.Coils[0].Treatments
	work := &passes[slices.IndexFunc(passes, func(x contract.VisitTreatment) bool { return x.CleanerID != nil })]
	status, _, answer := s.send("POST", "/api/v1/stock/moves", asJSON(t, contract.NewStockMove{CleanerID: *work.CleanerID, Kind: contract.NewStockMoveKindBought, Litres: 20, Day: visit.Day}))
	require.Equal(t, http.StatusCreated, status, answer)
	line := func() contract.StockLine {
		for _, l := range fetch[contract.StockBook](t, s.client, "/api/v1/stock").Lines {
			if l.CleanerID == *work.CleanerID {
				return l
			}
		}
		t.Fatal("the cleaner is not in the book")
		return contract.StockLine{}
	}
	before := line()
	out := send(t, s, visit)
	used := *work.LoadedL - *work.ReturnedL
	assert.InDelta(t, before.OnHandL-used, line().OnHandL, 1e-9)
	assert.NotNil(t, line().ReorderOn)
	doses := fetch[contract.Doses](t, s.client, "/api/v1/doses")
	assert.Positive(t, doses.Planned)
	assert.Positive(t, doses.PerKw["NL-CU-1"])
	status, _, answer = s.send("POST", "/api/v1/visits/"+out.ID.String()+"/voiding", `{"reason":"wrong unit"}`)
	require.Equal(t, http.StatusOK, status, answer)
	assert.InDelta(t, before.OnHandL, line().OnHandL, 1e-9)
}

// A saturation table is taken in line by line, and read by the next pack.
func TestSaturationTablesAreTakenIn(t *testing.T) {
	s := newSample(t)
	s.signInAs("manager", demo.Password)
	for csv, why := range map[string]string{
		"a,b,c\n":                                 "line 1: the columns are",
		"celsius,bubble_kpa,dew_kpa\n1,x,3\n":     "line 2",
		"celsius,bubble_kpa,dew_kpa\n":            "has no line",
		"celsius,bubble_kpa,dew_kpa\n0,500,490\n": "two rows",
	} {
		status, _, answer := s.send("POST", "/api/v1/refrigerant-tables", asJSON(t, contract.NewRefrigerantTable{Code: "R-404A", Csv: csv}))
		assert.Equal(t, http.StatusUnprocessableEntity, status, csv)
		assert.Contains(t, answer, why)
	}
	csv := "celsius,bubble_kpa,dew_kpa\n-20,310,305\n0,610,600\n20,1100,1090\n40,1840,1825\n"
	status, _, answer := s.send("POST", "/api/v1/refrigerant-tables", asJSON(t, contract.NewRefrigerantTable{Code: "r404a", Csv: csv}))
	require.Equal(t, http.StatusCreated, status, answer)
	tables := fetch[[]contract.RefrigerantTable](t, s.client, "/api/v1/refrigerant-tables")
	require.Len(t, tables, 1)
	assert.Equal(t, "R-404A", tables[0].Code)
	assert.Len(t, fetch[contract.BenchPack](t, s.client, "/api/v1/bench").Tables["R-404A"], 4)
}

// Faces are drawn again on the server: what they were is not taken from outside.
func TestGradersPractise(t *testing.T) {
	s := newSample(t)
	s.signInAs("technician", demo.Password)
	said := strings.Repeat("2,", 19) + "2"
	status, _, answer := s.send("POST", "/api/v1/graders", `{"seed":11,"said":[`+said+`]}`)
	require.Equal(t, http.StatusOK, status, answer)
	graders := fetch[[]contract.GraderLine](t, s.client, "/api/v1/graders")
	require.Len(t, graders, 1)
	assert.Equal(t, 20, graders[0].Estimate.N)
	assert.Less(t, graders[0].Estimate.Exact, .5, "always saying 2 is seldom right")
}

func dayOfDemo() calendar.Day { return calendar.Of(demo.Clock) }

func tinyPNG(t testing.TB) []byte {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewGray(image.Rect(0, 0, 8, 8))))
	return b.Bytes()
}

// pressureAt is the gauge pressure at which a refrigerant is saturated, in kPa.
func pressureAt(t testing.TB, code string, celsius float64) float64 {
	t.Helper()
	r, ok := heat.RefrigerantByCode(code)
	require.True(t, ok, code)
	bubble, _ := r.PressureAt(celsius)
	return bubble - heat.AirPressure(0)
}

// Whatever a phone sends, the server answers, never fails, and stores a whole visit or nothing.
func FuzzSubmitVisit(f *testing.F) {
	s := newSample(f)
	s.signInAs("technician", demo.Password)
	pack := packOf(f, s, "CC-BC-1")
	visit := led(f, pack)
	visit.Day = dayOfDemo()
	visit.Readings = &[]contract.NewReading{{Phase: "before", Kind: "ambient_c", Value: 21, Source: "typed"}}
	whole := asJSON(f, visit)
	f.Add([]byte(whole))
	f.Add([]byte(strings.Replace(whole, `"grade":3`, `"grade":-1`, 1)))
	f.Add([]byte(strings.Replace(whole, `"done"`, `"partly"`, 1)))
	f.Add([]byte(strings.ReplaceAll(whole, `"value":21`, `"value":1e308`)))
	f.Add([]byte(strings.Replace(whole, `"steps":[`, `"steps":[{"step":"nests","state":"skipped"},`, 1)))
	f.Add([]byte(`{"unit_id":"` + pack.Unit.ID.String() + `","day":"2026-03-04","outcome":"no_access","note":"x","cautions_read":true,"people":[],"coils":[]}`))
	f.Add([]byte(whole[:len(whole)/2]))
	counted := []string{"visit", "visit_surface", "finding", "treatment", "step_result", "reading", "stock_move", "idempotency"}
	count := func(t testing.TB) map[string]int64 {
		out := map[string]int64{}
		for _, table := range counted {
			var n int64
			require.NoError(t, s.store.DB.Raw("SELECT count(*) FROM "+table).Scan(&n).Error)
			out[table] = n
		}
		return out
	}
	f.Fuzz(func(t *testing.T, body []byte) {
		s.t = t
		before := count(t)
		key := uuid.NewString()
		status, _, answer := s.send("POST", "/api/v1/visits", string(body), "Idempotency-Key", key)
		require.Less(t, status, 500, "%s", answer)
		after := count(t)
		if status != http.StatusCreated {
			require.Equal(t, before, after, "refused, so nothing was stored: %s", answer)
			return
		}
		require.Equal(t, before["visit"]+1, after["visit"])
		again, _, same := s.send("POST", "/api/v1/visits", string(body), "Idempotency-Key", key)
		require.Equal(t, http.StatusCreated, again)
		require.JSONEq(t, answer, same)
		require.Equal(t, after, count(t), "sent twice, stored once")
	})
}
