package fieldwork_test

import (
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/procedure"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
)

// ticked are the steps of a visit to a unit, all done, but for those left out.
func ticked(t *testing.T, h *roomstest.House, unit uuid.UUID, job procedure.Job, without ...string) *[]contract.StepResult {
	t.Helper()
	pack, err := h.Rooms.Fieldwork.VisitPack(h.Ctx, h.Technician, unit)
	require.NoError(t, err)
	tags := map[string]bool{}
	for _, tag := range pack.Tags {
		tags[tag] = true
	}
	out := []contract.StepResult{}
	for _, s := range procedure.Compile(pack.Procedure.Steps, procedure.Visit{Jobs: []procedure.Job{job}, Tags: tags, Rules: pack.Practice}) {
		left := false
		for _, w := range without {
			left = left || w == s.Code
		}
		if !left {
			out = append(out, contract.StepResult{Step: s.Code, State: contract.StepResultStateDone})
		}
	}
	return &out
}

func companion(t *testing.T, u contract.Unit, kind contract.CompanionKind) contract.Companion {
	t.Helper()
	for _, c := range u.Companions {
		if c.Kind == kind {
			return c
		}
	}
	t.Fatalf("no %s", kind)
	return contract.Companion{}
}

// A visit for filters and the like touches no coil, ticks the clocks of the steps done, and takes the ticks back when it is voided.
func TestAVisitForLightTasks(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("CA-1", "cassette", "2026-01-03")
	v := h.Visit(u, "2026-03-01", contract.TaskKindDeep, 1, 0, contract.FaceLook)
	v.Coils, v.Jobs, v.Steps = []contract.VisitCoil{}, &[]contract.VisitJob{contract.VisitJobCompanion}, ticked(t, h, u.ID, procedure.Companion, "pump_test")
	v.Surfaces = &[]contract.PartLook{{Part: contract.UnitPartFilter, Grade: 3, Left: new(0)}}
	out := h.Submit(v)
	after := h.Look(u.ID)
	assert.Equal(t, "2026-03-31", companion(t, after, contract.CompanionKindFilter).Due.String())
	assert.True(t, companion(t, after, contract.CompanionKindPump).FirstLook, "its step was not done")
	assert.Equal(t, u.Coils[0].Tasks[0].Due, after.Coils[0].Tasks[0].Due, "no coil was cleaned")

	record, err := h.Rooms.Fieldwork.VisitRecord(h.Ctx, h.Viewer, out.ID)
	require.NoError(t, err)
	assert.Equal(t, *v.Jobs, *record.Visit.Jobs)
	assert.Equal(t, 3, (*record.Visit.Surfaces)[0].Grade)
	assert.Equal(t, 0, *(*record.Visit.Surfaces)[0].Left)

	_, err = h.Rooms.Fieldwork.VoidVisit(h.Ctx, h.Manager, out.ID, "the wrong unit")
	require.NoError(t, err)
	assert.True(t, companion(t, h.Look(u.ID), contract.CompanionKindFilter).FirstLook)
}

// A visit for a clean cannot go without a coil; surfaces are graded once, and never left worse.
func TestJobsAndSurfacesAreChecked(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("CA-1", "cassette", "2026-01-03")
	for path, change := range map[string]func(*contract.NewVisit){
		"/coils": func(v *contract.NewVisit) { v.Coils, v.Jobs = nil, &[]contract.VisitJob{contract.VisitJobLight} },
		"/surfaces/1/part": func(v *contract.NewVisit) {
			v.Surfaces = &[]contract.PartLook{{Part: "wheel", Grade: 1}, {Part: "wheel", Grade: 1}}
		},
		"/surfaces/0/left":  func(v *contract.NewVisit) { v.Surfaces = &[]contract.PartLook{{Part: "wheel", Grade: 1, Left: new(2)}} },
		"/surfaces/0/grade": func(v *contract.NewVisit) { v.Surfaces = &[]contract.PartLook{{Part: "wheel", Grade: 6}} },
	} {
		v := h.Visit(u, "2026-03-01", contract.TaskKindDeep, 2, 0, contract.LightThrough)
		change(&v)
		_, err := h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Technician, uuid.New(), v)
		assert.Contains(t, roomstest.Fields(t, err), path)
	}
}

// A light clean opens nothing electrical: its gates are fewer, and hearing it stop will do where the rule says so.
func TestALightVisitHasItsOwnGates(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("OC-1", "outdoor_condensing", "2026-01-03")
	v := h.Visit(u, "2026-03-01", contract.TaskKindLight, 2, 1, contract.FaceLook)
	v.Steps = ticked(t, h, u.ID, procedure.Light)
	v.Isolation = &contract.Isolation{Point: "disconnect", Means: contract.IsolationMeansDisconnect, Secured: contract.Locked, Discharged: false}
	_, err := h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Technician, uuid.New(), v)
	assert.Contains(t, roomstest.Fields(t, err), "/isolation/l1_l2_v", "the meter, by the usual rule")
	_, err = h.Rooms.Organisation.SavePractice(h.Ctx, h.Manager, "proof_of_dead", contract.PracticeChange{Choice: new("hear"), Reason: "nothing is opened for a light clean"})
	require.NoError(t, err)
	h.Submit(v)

	deep := h.Visit(u, "2026-03-02", contract.TaskKindDeep, 2, 1, contract.LightThrough)
	deep.Steps, deep.Isolation = ticked(t, h, u.ID, procedure.Deep), v.Isolation
	_, err = h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Technician, uuid.New(), deep)
	assert.Contains(t, roomstest.Fields(t, err), "/isolation/l1_l2_v")
	assert.Contains(t, roomstest.Fields(t, err), "/isolation/discharged")
}

// The practice screen says what an answer would change for a unit: plan, steps, interval and who does what; the answer in force nothing.
func TestWhatAnAnswerWouldChange(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	cooler, split := h.Unit("DC-1", "display_cooler", "2026-01-03"), h.Unit("OC-1", "outdoor_condensing", "2025-06-15")
	changes := func(question string, unit uuid.UUID, choice string) []string {
		out, err := h.Rooms.Fieldwork.PracticeEffects(h.Ctx, h.Manager, question, unit)
		require.NoError(t, err)
		for _, e := range out.Effects {
			if e.Choice == out.InForce {
				assert.Empty(t, e.Changes, question)
			}
			if e.Choice == choice {
				return e.Changes
			}
		}
		t.Fatalf("no answer %s", choice)
		return nil
	}
	assert.Contains(t, changes("who", cooler.ID, "all_technician"), "grille wipe: technician in place of grille wipe: site staff.")
	assert.Contains(t, changes("panels", cooler.ID, "always"), "A step more: “Open up: panels, guards, fixings in the order they come off”.")
	assert.NotEmpty(t, changes("proof_of_dead", split.ID, "hear"))
	assert.Empty(t, changes("season", split.ID, "any"), "nobody has said where it stands")
	require.NoError(t, h.Store.DB.Exec("UPDATE placement SET setting = 'outdoor'").Error)
	assert.Contains(t, changes("season", split.ID, "any")[0], "Interval proposed: ")
	require.NoError(t, h.Store.DB.Exec("UPDATE placement SET setting = 'indoor', near_food = true, wall_backed = true").Error)
	plan := changes("in_place", cooler.ID, "in_place")
	require.NotEmpty(t, plan)
	assert.Contains(t, strings.ToLower(plan[0]), "plan")
	_, err := h.Rooms.Fieldwork.PracticeEffects(h.Ctx, h.Manager, "poetry", cooler.ID)
	require.ErrorIs(t, err, organisation.ErrNotFound)
}

// A visit knows what crews carry, where that says what they clean with; a contractor's does not.
func TestCrewKitsComeWithTheVisit(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 480, 1)
	h.Crew("Crew B", 480, 2)
	u := h.Unit("OC-1", "outdoor_condensing", "2026-01-03")
	require.NoError(t, h.Store.DB.Exec("UPDATE crew SET kit = '{ladder,hose,foaming sprayer}' WHERE name = 'Crew B'").Error)
	pack, err := h.Rooms.Fieldwork.VisitPack(h.Ctx, h.Technician, u.ID)
	require.NoError(t, err)
	assert.Equal(t, []contract.CrewKit{{Crew: "Crew B", Kit: []string{"ladder", "hose", "foaming sprayer"}}}, pack.Kits)
}
