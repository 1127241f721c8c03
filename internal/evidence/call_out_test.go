package evidence_test

import (
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nextround/core/calendar"
	"nextround/internal/contract"
	"nextround/internal/organisation"
	"nextround/internal/rooms/roomstest"
)

func day(s string) calendar.Day { return calendar.MustParse(s) }

// called is a call-out of a unit, laid to its coil.
func called(u contract.Unit, on string) contract.NewCallOut {
	return contract.NewCallOut{
		UnitID: u.ID, Day: day(on), Cause: contract.CallOutCauseSoiledCoil, CoilToBlame: contract.YesNoYes, Prevented: contract.YesNoYes,
	}
}

// coolers are two bar coolers brushed often, whose cores nobody has seen.
func coolers(h *roomstest.House) (a, b contract.Unit) {
	a, b = h.Unit("BC-1", "undercounter_cooler", "2023-09-01"), h.Unit("BC-2", "undercounter_cooler", "2023-09-01")
	for _, u := range []contract.Unit{a, b} {
		h.Visits(u, "2023-10-01", 30, 27, 3, contract.FaceLook)
	}
	return h.Look(a.ID), h.Look(b.ID)
}

func calls(t *testing.T, h *roomstest.House, site, unit *uuid.UUID) contract.CallOuts {
	t.Helper()
	out, err := h.Rooms.Evidence.CallOuts(h.Ctx, h.Manager, site, unit)
	require.NoError(t, err)
	return out
}

func callsYear(t *testing.T, u contract.Unit) float64 {
	t.Helper()
	p := roomstest.Task(u, contract.TaskKindDeep).Proposal.Program
	require.NotNil(t, p)
	require.NotNil(t, p.InForce)
	return p.InForce.CallsYear
}

// A log that is declared complete and quiet speaks for less soil at once; with the night's run the class is called out less, and less of
// its money is assumed. Taking the declaration back takes all of it back.
func TestAQuietLogIsTakenUp(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	before, _ := coolers(h)
	site := before.SiteID
	assert.InDelta(t, 1, roomstest.Task(before, contract.TaskKindDeep).Proposal.Program.InForce.AssumedShare, .25, "nothing but the clean is known")

	log, err := h.Rooms.Evidence.DeclareLog(h.Ctx, h.Manager, site, contract.NewCallLogSpan{From: day("2023-09-01"), To: day("2026-02-28")})
	require.NoError(t, err)
	quiet := h.Look(before.ID)
	assert.Less(t, *quiet.Coils[0].Sides[0].State.BlockedShare, *before.Coils[0].Sides[0].State.BlockedShare)
	told := false
	for _, r := range quiet.Coils[0].Sides[0].Reasons {
		told = told || r.Code == "quiet_log"
	}
	assert.True(t, told, "and the side says why")
	assert.Equal(t, "2026-02-28", log.To.String())

	require.NoError(t, h.Rooms.Learning.RebuildOne(h.Ctx, h.Manager.Org.ID))
	learned := calls(t, h, nil, nil)
	require.Len(t, learned.Classes, 1)
	class := learned.Classes[0]
	assert.Zero(t, class.Seen)
	assert.InDelta(t, 2*911/365., class.UnitYears, .02)
	assert.InDelta(t, 2/(2+class.Expected), class.Times, 1e-9)
	assert.InDelta(t, 2/(2+class.Expected), class.AssumedShare, 1e-9)
	after := h.Look(before.ID)
	assert.Less(t, callsYear(t, after), callsYear(t, before))
	assert.Less(t, roomstest.Task(after, contract.TaskKindDeep).Proposal.Program.InForce.AssumedShare, roomstest.Task(before, contract.TaskKindDeep).Proposal.Program.InForce.AssumedShare)

	require.NoError(t, h.Rooms.Evidence.WithdrawLog(h.Ctx, h.Manager, log.ID))
	require.NoError(t, h.Rooms.Learning.RebuildOne(h.Ctx, h.Manager.Org.ID))
	assert.Empty(t, calls(t, h, nil, nil).Classes)
	again := h.Look(before.ID)
	assert.InDelta(t, *before.Coils[0].Sides[0].State.BlockedShare, *again.Coils[0].Sides[0].State.BlockedShare, 1e-4)
}

// Only a call-out that is laid to the coil, on a day of a complete log, counts; one that is corrected or removed counts as it says then.
func TestCallOutsCount(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	a, b := coolers(h)
	_, err := h.Rooms.Evidence.DeclareLog(h.Ctx, h.Manager, a.SiteID, contract.NewCallLogSpan{From: day("2024-03-01"), To: day("2026-02-28")})
	require.NoError(t, err)
	add := func(c contract.NewCallOut) contract.CallOut {
		out, err := h.Rooms.Evidence.AddCallOut(h.Ctx, h.Technician, c)
		require.NoError(t, err)
		return out
	}
	assert.False(t, add(called(a, "2024-02-29")).Counted, "the day before")
	first := add(called(a, "2024-03-01"))
	last := add(called(b, "2026-02-28"))
	assert.True(t, first.Counted)
	assert.True(t, last.Counted, "its last day")
	other := called(b, "2025-06-01")
	other.Cause, other.CoilToBlame = contract.CallOutCauseElectrical, contract.YesNoNo
	assert.False(t, add(other).Counted)
	seen := func() int {
		require.NoError(t, h.Rooms.Learning.RebuildOne(h.Ctx, h.Manager.Org.ID))
		return calls(t, h, nil, nil).Classes[0].Seen
	}
	assert.Equal(t, 2, seen())
	first.CoilToBlame = contract.YesNoUnknown
	changed := called(a, "2024-03-01")
	changed.Cause, changed.CoilToBlame, changed.Cost = contract.CallOutCauseOther, contract.YesNoUnknown, new(120.)
	got, err := h.Rooms.Evidence.ChangeCallOut(h.Ctx, h.Manager, first.ID, changed)
	require.NoError(t, err)
	assert.InDelta(t, 120, *got.Cost, 0)
	assert.Equal(t, 1, seen())
	require.NoError(t, h.Rooms.Evidence.RemoveCallOut(h.Ctx, h.Manager, last.ID))
	assert.Zero(t, seen())
	assert.Len(t, calls(t, h, nil, &a.ID).CallOuts, 2)
	trail, err := h.Rooms.Organisation.Audit(h.Ctx, h.Manager, "unit", b.ID)
	require.NoError(t, err)
	assert.Equal(t, "call-out removed", trail[0].Action, "the unit's history tells it")
}

// What cannot be is refused at its field.
func TestAWrongCallOutIsRefused(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	a, b := coolers(h)
	wrong := called(a, "2026-03-05")
	wrong.CoilToBlame = contract.YesNoNo
	wrong.VisitID = &b.Visits[0].ID
	_, err := h.Rooms.Evidence.AddCallOut(h.Ctx, h.Manager, wrong)
	fields := roomstest.Fields(t, err)
	assert.Contains(t, fields["/day"], "future")
	assert.Contains(t, fields["/coil_to_blame"], "cannot be no")
	assert.Contains(t, fields["/visit_id"], "not a visit of this unit")
	early := called(a, "2026-01-02")
	early.VisitID = &a.Visits[len(a.Visits)-1].ID
	_, err = h.Rooms.Evidence.AddCallOut(h.Ctx, h.Manager, early)
	assert.Contains(t, roomstest.Fields(t, err)["/visit_id"], "before the call-out")
	_, err = h.Rooms.Evidence.AddCallOut(h.Ctx, h.Manager, contract.NewCallOut{UnitID: uuid.New(), Day: day("2026-01-01")})
	assert.Contains(t, roomstest.Fields(t, err), "/unit_id")
	_, err = h.Rooms.Evidence.AddCallOut(h.Ctx, h.Viewer, called(a, "2026-01-01"))
	assert.ErrorIs(t, err, organisation.ErrForbidden)
	_, err = h.Rooms.Evidence.ChangeCallOut(h.Ctx, h.Technician, uuid.New(), called(a, "2026-01-01"))
	assert.ErrorIs(t, err, organisation.ErrForbidden)

	_, err = h.Rooms.Evidence.DeclareLog(h.Ctx, h.Manager, a.SiteID, contract.NewCallLogSpan{From: day("2025-01-01"), To: day("2025-12-31")})
	require.NoError(t, err)
	for field, span := range map[string]contract.NewCallLogSpan{
		"/from": {From: day("2025-12-31"), To: day("2026-02-01")},
		"/to":   {From: day("2026-02-01"), To: day("2026-03-05")},
	} {
		_, err = h.Rooms.Evidence.DeclareLog(h.Ctx, h.Manager, a.SiteID, span)
		assert.Contains(t, roomstest.Fields(t, err), field)
	}
	_, err = h.Rooms.Evidence.DeclareLog(h.Ctx, h.Manager, a.SiteID, contract.NewCallLogSpan{From: day("2024-02-01"), To: day("2024-01-01")})
	assert.Contains(t, roomstest.Fields(t, err)["/to"], "before the first day")
}

// A file is taken in whole or not at all; what is in the log already is passed over, and what is written is read back.
func TestCallOutsAsAFile(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	h.Unit("BC-1", "undercounter_cooler", "2023-09-01")
	const header = "Unit,Date,Fault,Coil to blame,Prevented,Cost,Goods lost,Note\n"
	bad := h.Take("call_outs", header+"BC-1,2025-02-30,soiled coil,yes,yes,,,\nBC-9,2025-02-03,electrical,no,,,,\nBC-1,2025-02-03,magic,perhaps,,-1,,\nBC-1,2027-01-01,soiled coil,no,,,,\n", false)
	assert.Equal(t, contract.ImportRunStatusRefused, bad.Status)
	assert.Equal(t, []string{
		`line 2, day: "2025-02-30" is not a date: write it as 2026-03-05`,
		"line 3, tag: BC-9 is not in the register; import or add the unit first",
		`line 4, cause: "magic" is not one of other, soiled coil, airflow, iced, water, refrigerant, electrical, controls, misuse`,
		`line 4, coil to blame: "perhaps" is not one of unknown, yes, no`,
		"line 4, cost: must be between 0 and 1e+09",
		"line 5, day: is in the future",
		"line 5, coil to blame: cannot be no where a soiled coil was the cause",
	}, roomstest.Reasons(bad))
	assert.Empty(t, calls(t, h, nil, nil).CallOuts)

	good := h.Take("call_outs", header+"bc-1,2025-02-03,Soiled coil,yes,yes,310,85.5,tripped\nBC-1,2025-05-01,refrigerant,,no,,,\n", false)
	assert.Equal(t, contract.ImportRunStatusStored, good.Status, roomstest.Reasons(good))
	assert.Equal(t, 2, good.Report.NewCallOuts)
	kept := calls(t, h, nil, nil).CallOuts
	require.Len(t, kept, 2)
	assert.Equal(t, contract.YesNoUnknown, kept[0].CoilToBlame)
	assert.InDelta(t, 85.5, *kept[1].Goods, 0)

	written := h.Export(h.Viewer, "call_outs", "csv")
	again := h.Take("call_outs", written, false)
	assert.Equal(t, contract.ImportRunStatusUnchanged, again.Status)
	assert.Equal(t, 2, again.Report.KnownCallOuts)
}
