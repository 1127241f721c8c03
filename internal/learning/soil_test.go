package learning_test

import (
	"math"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/core/reason"
	"nextround/internal/contract"
	"nextround/internal/rooms/roomstest"
)

// Sixty days at the rate that closes 30 % in sixty days, the ice machine's own reference (assumption). The rate's median is
// that; as it may be much faster as well as slower, the load expected is e^(0.36/2) times as much.
func TestTheClassRateIsTheStateWithoutFindings(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-03")
	side := u.Coils[0].Sides[0]
	assert.InDelta(t, -math.Log(.7)*math.Exp(.18), roomstest.Load(side.State.BlockedShare), 1e-3)
	assert.InDelta(t, .3, roomstest.Load(side.State.CoreShare)/roomstest.Load(side.State.BlockedShare), 1e-3, "dust: three tenths go into the core")
	assert.InDelta(t, *side.State.BlockedShare, u.Coils[0].BlockedShare, 1e-9)
	assert.InDelta(t, -math.Log(.7)*30/60, side.RatePer30Days, 1e-4)
	assert.Equal(t, contract.RateAssumed, side.RateFrom)
	require.NotNil(t, side.LimitOn)
	assert.LessOrEqual(t, side.LimitOn.Sub(calendar.MustParse("2026-03-04")), 1, "the limit is passed now")
	assert.Equal(t, reason.StartRate, side.Reasons[0].Code)
	assert.Equal(t, contract.Evidence("assumption"), *side.Reasons[0].Evidence, "marked as assumed")
}

// Sides are parallel paths: the coil's share is the mean of its sides' by area, the worst is shown.
func TestSidesAddByArea(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("CU-1", "outdoor_condensing", "2025-03-04")
	v := h.Visit(u, "2026-03-04", contract.TaskKindDeep, 3, 0, contract.LightThrough)
	v.Outcome = contract.OutcomePartly
	why := "fence"
	v.Coils[0].Sides[0] = contract.VisitSide{SurfaceID: u.Coils[0].Sides[0].ID, WhyNot: &why}
	v.Coils[0].Treatments[0].SurfaceIds = v.Coils[0].Treatments[0].SurfaceIds[1:]
	h.Submit(v)
	u = h.Look(u.ID)
	sum := 0.0
	for _, s := range u.Coils[0].Sides {
		sum += s.AreaShare * *s.State.BlockedShare
	}
	assert.InDelta(t, sum, u.Coils[0].BlockedShare, 1e-9)
	coil := h.Portfolio(h.Viewer)[0].Coil
	assert.Equal(t, "front", *coil.WorstSide)
	assert.InDelta(t, *u.Coils[0].Sides[0].State.BlockedShare, *coil.State.BlockedShare, .01, "but for what the peers of the same coil just told")
}

// Air driven with the airflow packs what it loosens into the core; against it, nothing.
func TestDirectionMatters(t *testing.T) {
	t.Parallel()
	core := func(direction contract.Direction) float64 {
		h := roomstest.New(t)
		u := h.Unit("IM-1", "ice_machine", "2026-01-03")
		v := h.Visit(u, "2026-03-04", contract.TaskKindLight, 2, 0, contract.FaceLook)
		v.Coils[0].Treatments[0].MethodID, v.Coils[0].Treatments[0].Direction = h.Method("gentle_air"), direction
		h.Submit(v)
		return roomstest.Load(h.Look(u.ID).Coils[0].Sides[0].State.CoreShare)
	}
	against, with := core(contract.AgainstAirflow), core(contract.WithAirflow)
	assert.Greater(t, with, against)
}

// What is found to be grease from then on goes deeper and holds on harder than dust.
func TestTheSoilFoundSetsPenetrationAndRemoval(t *testing.T) {
	t.Parallel()
	after := func(code string) contract.Side {
		h := roomstest.New(t)
		u := h.Unit("IM-1", "ice_machine", "2026-01-03")
		v := h.Visit(u, "2026-03-04", contract.TaskKindLight, 2, 1, contract.FaceLook)
		v.Coils[0].Sides[0].SoilIds = &[]uuid.UUID{h.Soil(code)}
		h.Submit(v)
		return h.Look(u.ID).Coils[0].Sides[0]
	}
	dust, grease := after("dust"), after("grease")
	assert.InDelta(t, .30, dust.Penetration, .03)
	assert.InDelta(t, .45, grease.Penetration, .03)
	assert.Equal(t, "Grease", grease.Soil)
	assert.Greater(t, roomstest.Load(grease.State.CoreShare), roomstest.Load(dust.State.CoreShare))
}

func TestWipedWithMoreBelowLiftsTheCore(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("AH-1", "air_handler", "2026-03-01")
	assert.Less(t, *u.Coils[0].Sides[0].State.CoreShare, .05)
	h.Submit(h.Visit(u, "2026-03-04", contract.TaskKindDeep, 0, 0, contract.WipedMoreBelow))
	side := h.Look(u.ID).Coils[0].Sides[0]
	assert.GreaterOrEqual(t, *side.State.CoreGrade, 1)
	assert.False(t, side.State.CoreSeen, "wiping is not looking through")
}

// Two treatments on one visit follow one another; each counts on its own sides only.
func TestTwoTreatmentsOnOneVisit(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("RC-1", "remote_condenser", "2025-12-04")
	v := h.Visit(u, "2026-03-04", contract.TaskKindLight, 2, 0, contract.FaceLook)
	second := v.Coils[0].Treatments[0]
	second.Work, second.MethodID, second.Direction = contract.TaskKindDeep, h.Method("foam_rinse"), contract.AgainstAirflow
	second.SurfaceIds = second.SurfaceIds[1:]
	v.Coils[0].Treatments = append(v.Coils[0].Treatments, second)
	out := h.Submit(v)
	byKind := map[contract.TaskKind]contract.ClockReset{}
	for _, c := range out.Clocks {
		byKind[c.Kind] = c
	}
	assert.Equal(t, []string{"bank 1", "bank 2"}, byKind[contract.TaskKindLight].Sides)
	assert.Equal(t, []string{"bank 2"}, byKind[contract.TaskKindDeep].Sides)
	u = h.Look(u.ID)
	assert.Greater(t, roomstest.Load(u.Coils[0].Sides[0].State.CoreShare), roomstest.Load(u.Coils[0].Sides[1].State.CoreShare))
	assert.Len(t, u.Visits[0].Treatments, 2)
}

// A look without work is evidence for the most frequent task, and moves no clock.
func TestALookOnlyIsEvidence(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-13")
	v := h.Visit(u, "2026-03-04", contract.TaskKindLight, 5, 0, contract.FaceLook)
	v.Coils[0].Treatments = nil
	v.Coils[0].Sides[0].Left = nil
	out := h.Submit(v)
	for _, c := range out.Clocks {
		assert.Empty(t, c.Sides)
	}
	after := h.Look(u.ID)
	assert.Equal(t, roomstest.Task(u, contract.TaskKindLight).Due, roomstest.Task(after, contract.TaskKindLight).Due)
	require.NotNil(t, roomstest.Task(after, contract.TaskKindLight).Proposal.ID)
	assert.Equal(t, 21, roomstest.Task(after, contract.TaskKindLight).Proposal.Days, "50 d × 0.5, in whole weeks")
	assert.Nil(t, roomstest.Task(after, contract.TaskKindDeep).Proposal.ID)
}

func TestAUnitOutOfServiceIsLeftAlone(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Crew("Crew A", 120, 1, 2, 3, 4, 5)
	u := h.Unit("IM-1", "ice_machine", "2026-01-03")
	require.NotEmpty(t, h.Stops())
	_, err := h.Rooms.Register.PauseUnit(h.Ctx, h.Manager, u.ID, contract.UnitPause{Day: roomstest.On("2026-02-20"), Reason: "hall closed"})
	require.NoError(t, err)
	assert.Empty(t, h.Stops())
	h.Submit(h.Visit(u, "2026-03-01", contract.TaskKindLight, 1, 0, contract.FaceLook)) // nothing keeps it from being cleaned meanwhile
}

// South of the equator the months of a season lie half a year away.
func TestSeasonsAreMirroredInTheSouth(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("CU-1", "outdoor_condensing", "2025-06-01")
	north := *u.Coils[0].Sides[0].State.BlockedShare
	require.NoError(t, h.Store.DB.Exec("UPDATE site SET lat = -41").Error)
	south := *h.Look(u.ID).Coils[0].Sides[0].State.BlockedShare
	assert.NotEqual(t, north, south)
	assert.Greater(t, north, south, "leaves fall in the north's autumn, within the span; the south's lies outside")
}
