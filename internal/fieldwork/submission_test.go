package fieldwork_test

import (
	"errors"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/core/reason"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
	"nextround/internal/store"
)

func TestVisitsSentAtOnceAreAllStoredOnce(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	v := h.Visit(u, "2026-03-01", contract.TaskKindLight, 2, 0, contract.FaceLook)
	same := store.NewID()
	assert.Equal(t, 6, roomstest.AtOnce(t, 6, func() error {
		_, err := h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Technician, same, v)
		return err
	}), "all senders of one visit are told that it is stored")
	assert.Len(t, h.Look(u.ID).Visits, 1)
	assert.Equal(t, 6, roomstest.AtOnce(t, 6, func() error {
		_, err := h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Technician, store.NewID(), v)
		return err
	}))
	u = h.Look(u.ID)
	assert.Len(t, u.Visits, 7)
	var open int64
	require.NoError(t, h.Store.DB.Raw("SELECT count(*) FROM proposal WHERE status = 'open' GROUP BY task_id ORDER BY 1 DESC LIMIT 1").Scan(&open).Error)
	assert.LessOrEqual(t, open, int64(1), "one open proposal a task")
}

func TestHistoryIsTakenInWholeOrNotAtAll(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	good := h.Visit(u, "2026-02-01", contract.TaskKindLight, 2, 0, contract.FaceLook)
	bad := h.Visit(u, "2026-02-20", contract.TaskKindLight, 9, 0, contract.FaceLook)
	err := h.Rooms.Fieldwork.LoadHistory(h.Ctx, h.Manager, []contract.NewVisit{good, bad})
	assert.ErrorContains(t, err, "/1/found")
	assert.Empty(t, h.Look(u.ID).Visits)
	assert.ErrorIs(t, h.Rooms.Fieldwork.LoadHistory(h.Ctx, h.Technician, nil), organisation.ErrForbidden)
	bad.Coils[0].Sides[0].Found.Grade = 3
	require.NoError(t, h.Rooms.Fieldwork.LoadHistory(h.Ctx, h.Manager, []contract.NewVisit{good, bad}))
	u = h.Look(u.ID)
	assert.Len(t, u.Visits, 2)
	assert.Equal(t, "2026-03-22", roomstest.Task(u, contract.TaskKindLight).Due.String())
	assert.Equal(t, contract.RateOwn, *h.PortfolioLine("IM-1").Coil.RateFrom, "what follows is worked out at the end")
}

// What rests on a visit follows its amendment and its voiding; the old version can still be read.
func TestVisitsAreAmendedAndVoided(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	sent := h.Submit(h.Visit(u, "2026-02-10", contract.TaskKindLight, 4, 0, contract.FaceLook))
	require.NotNil(t, roomstest.Task(h.Look(u.ID), contract.TaskKindLight).Proposal.ID)
	record, err := h.Rooms.Fieldwork.VisitRecord(h.Ctx, h.Viewer, sent.ID)
	require.NoError(t, err)
	assert.Equal(t, h.Visit(u, "2026-02-10", contract.TaskKindLight, 4, 0, contract.FaceLook), record.Visit, "as it was sent")

	_, err = h.Rooms.Fieldwork.AmendVisit(h.Ctx, h.Manager, store.NewID(), sent.ID, contract.VisitAmendment{Reason: " ", Visit: record.Visit})
	assert.Contains(t, roomstest.Fields(t, err), "/reason")
	wrong := record.Visit
	wrong.Day = roomstest.On("2027-01-01")
	_, err = h.Rooms.Fieldwork.AmendVisit(h.Ctx, h.Manager, store.NewID(), sent.ID, contract.VisitAmendment{Reason: "slip", Visit: wrong})
	assert.Contains(t, roomstest.Fields(t, err), "/visit/day")
	mended := h.Visit(u, "2026-02-20", contract.TaskKindLight, 1, 0, contract.FaceLook)
	key := store.NewID()
	for range 2 { // sent twice, done once
		out, err := h.Rooms.Fieldwork.AmendVisit(h.Ctx, h.Manager, key, sent.ID, contract.VisitAmendment{Reason: "wrong day and grade", Visit: mended})
		require.NoError(t, err)
		assert.Equal(t, key, out.ID)
	}
	now := h.Look(u.ID)
	require.Len(t, now.Visits, 1)
	assert.Equal(t, "2026-03-22", roomstest.Task(now, contract.TaskKindLight).Due.String())
	assert.Nil(t, roomstest.Task(now, contract.TaskKindLight).Proposal.ID, "the proposal rested on a grade that was a slip")
	old, err := h.Rooms.Fieldwork.VisitRecord(h.Ctx, h.Viewer, sent.ID)
	require.NoError(t, err)
	assert.Equal(t, contract.VisitRecordStatus("amended"), old.Status)
	assert.Equal(t, key, *old.SupersededBy)
	assert.Equal(t, 4, old.Visit.Coils[0].Sides[0].Found.Grade)
	assert.Equal(t, "wrong day and grade", old.StatusReason)
	trail, err := h.Rooms.Organisation.Audit(h.Ctx, h.Viewer, "visit", sent.ID)
	require.NoError(t, err)
	assert.Contains(t, trail[0].Changes, contract.AuditChange{Path: "day", Before: "2026-02-10", After: "2026-02-20"})

	_, err = h.Rooms.Fieldwork.VoidVisit(h.Ctx, h.Manager, sent.ID, "again")
	var conflict organisation.Conflict
	require.True(t, errors.As(err, &conflict))
	_, err = h.Rooms.Fieldwork.VoidVisit(h.Ctx, h.Technician, key, "mine")
	assert.ErrorIs(t, err, organisation.ErrForbidden)
	_, err = h.Rooms.Fieldwork.VoidVisit(h.Ctx, h.Manager, key, "another machine")
	require.NoError(t, err)
	now = h.Look(u.ID)
	assert.Empty(t, now.Visits)
	assert.Equal(t, "2026-01-31", roomstest.Task(now, contract.TaskKindLight).Due.String(), "the clock is where it was")
}

func TestLightWorkResetsOnlyTheLightClock(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	assert.Equal(t, "2026-01-31", roomstest.Task(u, contract.TaskKindLight).Due.String())
	assert.Equal(t, "2026-07-02", roomstest.Task(u, contract.TaskKindDeep).Due.String())

	h.Submit(h.Visit(u, "2026-02-10", contract.TaskKindLight, 2, 0, contract.FaceLook))
	u = h.Look(u.ID)
	assert.Equal(t, "2026-03-12", roomstest.Task(u, contract.TaskKindLight).Due.String())
	assert.Equal(t, "2026-07-02", roomstest.Task(u, contract.TaskKindDeep).Due.String(), "light work leaves the deep clock")

	h.Submit(h.Visit(u, "2026-03-01", contract.TaskKindDeep, 1, 0, contract.LightThrough))
	u = h.Look(u.ID)
	assert.Equal(t, "2026-03-31", roomstest.Task(u, contract.TaskKindLight).Due.String(), "deep work resets both")
	assert.Equal(t, "2026-08-30", roomstest.Task(u, contract.TaskKindDeep).Due.String())
}

func TestOnlySidesReachedMove(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("CU-1", "outdoor_condensing", "2025-01-01")
	v := h.Visit(u, "2026-03-01", contract.TaskKindDeep, 2, 0, contract.LightThrough)
	wall := 3
	require.Equal(t, "wall side", u.Coils[0].Sides[wall].Name)
	v.Coils[0].Sides[wall] = contract.VisitSide{SurfaceID: u.Coils[0].Sides[wall].ID, Reached: false}
	v.Coils[0].Treatments[0].SurfaceIds = v.Coils[0].Treatments[0].SurfaceIds[:wall]

	_, err := h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Technician, store.NewID(), v)
	bad := roomstest.Fields(t, err)
	assert.Contains(t, bad, "/coils/0/sides/3/why_not")
	assert.Contains(t, bad, "/outcome", "a side missed is partly done")

	why := "behind a cable tray"
	v.Coils[0].Sides[wall].WhyNot = &why
	v.Outcome = contract.OutcomePartly
	out := h.Submit(v)
	require.Len(t, out.Clocks, 2)
	assert.Equal(t, []string{"front", "left", "right"}, out.Clocks[0].Sides)
	assert.Equal(t, []string{"wall side"}, *out.Clocks[0].StillDue)

	after := h.Look(u.ID)
	deep := roomstest.Task(after, contract.TaskKindDeep)
	assert.Equal(t, "2026-01-01", deep.Due.String(), "the side that was missed stays due")
	assert.Equal(t, "wall side", deep.DueSide)
	front, hidden := after.Coils[0].Sides[0], after.Coils[0].Sides[wall]
	assert.Less(t, *front.State.BlockedShare, *hidden.State.BlockedShare)
	assert.Greater(t, *hidden.State.BlockedShare, .2, "its soil stays, though the sides beside it tell that it soils more slowly than was assumed")
	assert.Equal(t, contract.RatePeers, hidden.RateFrom)
	assert.Less(t, hidden.RatePer30Days, u.Coils[0].Sides[wall].RatePer30Days)
}

func TestAVisitWithoutWorkMovesNothing(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	v := contract.NewVisit{UnitID: u.ID, Day: calendar.MustParse("2026-03-01"), Outcome: contract.OutcomeNoAccess}
	_, err := h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Technician, store.NewID(), v)
	assert.Contains(t, roomstest.Fields(t, err), "/note")
	note := "gate locked"
	v.Note = &note
	out := h.Submit(v)
	assert.Empty(t, out.Clocks)
	after := h.Look(u.ID)
	assert.Equal(t, roomstest.Task(u, contract.TaskKindLight).Due, roomstest.Task(after, contract.TaskKindLight).Due)
	require.Len(t, after.Visits, 1)
	assert.Equal(t, note, after.Visits[0].Note)
}

func TestTheSameVisitSentTwiceIsStoredOnce(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	v := h.Visit(u, "2026-03-01", contract.TaskKindLight, 2, 0, contract.FaceLook)
	key := store.NewID()
	first, err := h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Technician, key, v)
	require.NoError(t, err)
	second, err := h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Technician, key, v)
	require.NoError(t, err)
	assert.Equal(t, first, second)
	assert.Len(t, h.Look(u.ID).Visits, 1)
	v.Day = calendar.MustParse("2026-02-27")
	_, err = h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Technician, key, v)
	assert.ErrorIs(t, err, organisation.ErrKeyReused)
}

func TestVisitErrorsNameTheirFields(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("RC-1", "remote_condenser", "2026-01-01")
	foam, neutral := h.Method("foam_rinse"), uuid.Nil
	for _, c := range h.Cat.Cleaners {
		if c.Code == "indoor_neutral" {
			neutral = c.ID
		}
	}
	parts, odd := 4.0, uuid.New()
	for name, c := range map[string]struct {
		change func(*contract.NewVisit)
		field  string
	}{
		"future day":           {func(v *contract.NewVisit) { v.Day = v.Day.Add(400) }, "/day"},
		"cautions not kept":    {func(v *contract.NewVisit) { v.CautionsRead = false }, "/cautions_read"},
		"nobody":               {func(v *contract.NewVisit) { v.People = nil }, "/people"},
		"no minutes":           {func(v *contract.NewVisit) { v.People[0].Minutes = 0 }, "/people/0/minutes"},
		"unknown person":       {func(v *contract.NewVisit) { v.People[0].PersonID = odd }, "/people/0/person_id"},
		"no coil":              {func(v *contract.NewVisit) { v.Coils = nil }, "/coils"},
		"another unit's coil":  {func(v *contract.NewVisit) { v.Coils[0].CoilID = odd }, "/coils/0/coil_id"},
		"a side left out":      {func(v *contract.NewVisit) { v.Coils[0].Sides = v.Coils[0].Sides[:1] }, "/coils/0/sides"},
		"an alien side":        {func(v *contract.NewVisit) { v.Coils[0].Sides[0].SurfaceID = odd }, "/coils/0/sides/0/surface_id"},
		"nothing found":        {func(v *contract.NewVisit) { v.Coils[0].Sides[0].Found = nil }, "/coils/0/sides/0/found"},
		"not said how left":    {func(v *contract.NewVisit) { v.Coils[0].Sides[1].Left = nil }, "/coils/0/sides/1/left"},
		"grade 7":              {func(v *contract.NewVisit) { v.Coils[0].Sides[0].Found.Grade = 7 }, "/coils/0/sides/0/found/grade"},
		"unknown soil":         {func(v *contract.NewVisit) { v.Coils[0].Sides[0].SoilIds = &[]uuid.UUID{odd} }, "/coils/0/sides/0/soil_ids/0"},
		"unknown method":       {func(v *contract.NewVisit) { v.Coils[0].Treatments[0].MethodID = odd }, "/coils/0/treatments/0/method_id"},
		"cleaner for dry work": {func(v *contract.NewVisit) { v.Coils[0].Treatments[0].CleanerID = &neutral }, "/coils/0/treatments/0/cleaner_id"},
		"ready-to-use is mixed": {func(v *contract.NewVisit) {
			v.Coils[0].Treatments[0].MethodID, v.Coils[0].Treatments[0].CleanerID, v.Coils[0].Treatments[0].WaterParts = foam, &neutral, &parts
		}, "/coils/0/treatments/0/water_parts"},
		"amount of nothing": {func(v *contract.NewVisit) {
			v.Coils[0].Treatments[0].Amount = &contract.Amount{Value: 1, Unit: contract.AmountUnitL}
		}, "/coils/0/treatments/0/amount"},
		"too much cleaner": {func(v *contract.NewVisit) {
			v.Coils[0].Treatments[0].MethodID, v.Coils[0].Treatments[0].CleanerID = foam, &neutral
			v.Coils[0].Treatments[0].Amount = &contract.Amount{Value: 2000, Unit: contract.AmountUnitL}
		}, "/coils/0/treatments/0/amount/value"},
	} {
		t.Run(name, func(t *testing.T) {
			v := h.Visit(u, "2026-03-01", contract.TaskKindDeep, 2, 0, contract.FaceLook)
			c.change(&v)
			_, err := h.Rooms.Fieldwork.SubmitVisit(h.Ctx, h.Technician, store.NewID(), v)
			assert.Contains(t, roomstest.Fields(t, err), c.field)
		})
	}
	assert.Empty(t, h.Look(u.ID).Visits, "nothing was stored")
}

// One US gallon is 3.785411784 L and 128 fluid ounces (NIST Handbook 44, appendix C, from memory).
func TestAmountsAreKeptAsTypedAndInLitres(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("RC-1", "remote_condenser", "2026-01-01")
	v := h.Visit(u, "2026-03-01", contract.TaskKindDeep, 2, 0, contract.LightThrough)
	for _, c := range h.Cat.Cleaners {
		if c.Code == "medium_universal" {
			v.Coils[0].Treatments[0].CleanerID = &c.ID
		}
	}
	v.Coils[0].Treatments[0].MethodID = h.Method("foam_rinse")
	v.Coils[0].Treatments[0].Direction = contract.AgainstAirflow
	v.Coils[0].Treatments[0].Amount = &contract.Amount{Value: 16, Unit: contract.AmountUnitUsFlOz}
	h.Submit(v)
	var litres float64
	require.NoError(t, h.Store.DB.Raw("SELECT amount_l FROM treatment").Scan(&litres).Error)
	assert.InDelta(t, 0.473176473, litres, 1e-9)
	assert.Equal(t, "16 US fl oz", h.Look(u.ID).Visits[0].Treatments[0].Amount)
}

func TestAFirstFindingSetsAnUnknownState(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-9", "ice_machine", "")
	assert.False(t, u.Coils[0].Sides[0].State.Known)
	assert.True(t, roomstest.Task(u, contract.TaskKindLight).FirstLook)
	assert.Empty(t, u.Coils[0].Sides[0].Curve)
	h.Submit(h.Visit(u, "2026-03-01", contract.TaskKindDeep, 4, 1, contract.LightThrough))
	u = h.Look(u.ID)
	side := u.Coils[0].Sides[0]
	assert.True(t, side.State.Known)
	assert.True(t, side.State.CoreSeen)
	assert.False(t, roomstest.Task(u, contract.TaskKindLight).FirstLook)
	assert.Equal(t, reason.StaircaseNoDatedClean, roomstest.Task(u, contract.TaskKindLight).Proposal.Staircase.Reasons[0].Code, "no dated clean before it: no step")
	require.Len(t, side.Observations, 2)
	assert.Equal(t, contract.OpenedUp, side.Observations[0].Phase)
}
