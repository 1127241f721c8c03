package learning_test

import (
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

func TestOneOfManyAnswersAProposal(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	h.Submit(h.Visit(u, "2026-02-10", contract.TaskKindLight, 4, 0, contract.FaceLook))
	id := *roomstest.Task(h.Look(u.ID), contract.TaskKindLight).Proposal.ID
	assert.Equal(t, 1, roomstest.AtOnce(t, 6, func() error {
		_, err := h.Rooms.Learning.DecideProposal(h.Ctx, h.Manager, id, contract.Decision{Accept: true})
		return err
	}))
	assert.Len(t, roomstest.Task(h.Look(u.ID), contract.TaskKindLight).Changes, 1)
}

func TestAHeavyFindingProposesAShorterInterval(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	out := h.Submit(h.Visit(u, "2026-02-10", contract.TaskKindLight, 4, 0, contract.FaceLook))
	require.NotNil(t, out.Clocks[0].ProposedDays)
	assert.Equal(t, 14, *out.Clocks[0].ProposedDays, "40 d × 0.5 = 20 d, in whole weeks")

	u = h.Look(u.ID)
	p := roomstest.Task(u, contract.TaskKindLight).Proposal
	require.NotNil(t, p.ID)
	assert.Equal(t, contract.SchoolStaircase, p.School)
	assert.Equal(t, "Front: found Blanket after 40 d. Two or more grades over the limit: 40 d × 0.5 = 20 d.", p.Staircase.Reasons[0].Text)

	change, err := h.Rooms.Learning.DecideProposal(h.Ctx, h.Manager, *p.ID, contract.Decision{Accept: true})
	require.NoError(t, err)
	assert.Equal(t, 14, change.ToDays)
	assert.Equal(t, "The manager", change.By)
	u = h.Look(u.ID)
	assert.Equal(t, 14, roomstest.Task(u, contract.TaskKindLight).EveryDays)
	assert.Nil(t, roomstest.Task(u, contract.TaskKindLight).Proposal.ID, "the same evidence does not propose again")
	require.Len(t, roomstest.Task(u, contract.TaskKindLight).Changes, 1)

	_, err = h.Rooms.Learning.DecideProposal(h.Ctx, h.Manager, *p.ID, contract.Decision{Accept: true})
	assert.ErrorAs(t, err, &organisation.Conflict{}, "it was answered already")
}

func TestOverridingNeedsAReason(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	h.Submit(h.Visit(u, "2026-02-10", contract.TaskKindLight, 4, 0, contract.FaceLook))
	id := *roomstest.Task(h.Look(u.ID), contract.TaskKindLight).Proposal.ID
	days := 21
	_, err := h.Rooms.Learning.DecideProposal(h.Ctx, h.Manager, id, contract.Decision{Accept: false, Days: &days})
	assert.Contains(t, roomstest.Fields(t, err), "/reason")
	why, none := "the hall is shut in spring", 0
	_, err = h.Rooms.Learning.DecideProposal(h.Ctx, h.Manager, id, contract.Decision{Accept: false, Days: &none, Reason: &why})
	assert.Contains(t, roomstest.Fields(t, err), "/days")
	change, err := h.Rooms.Learning.DecideProposal(h.Ctx, h.Manager, id, contract.Decision{Accept: false, Days: &days, Reason: &why})
	require.NoError(t, err)
	assert.Equal(t, contract.SchoolOwn, change.School)
	assert.Equal(t, why, change.Reason)
	assert.Nil(t, roomstest.Task(h.Look(u.ID), contract.TaskKindLight).Proposal.ID)
}

func TestNewEvidenceSupersedesAnOpenProposal(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	h.Submit(h.Visit(u, "2026-02-10", contract.TaskKindLight, 4, 0, contract.FaceLook))
	id := *roomstest.Task(h.Look(u.ID), contract.TaskKindLight).Proposal.ID
	h.Submit(h.Visit(u, "2026-02-20", contract.TaskKindLight, 5, 0, contract.FaceLook))
	newer := roomstest.Task(h.Look(u.ID), contract.TaskKindLight)
	assert.NotEqual(t, &id, newer.Proposal.ID)
	assert.LessOrEqual(t, newer.Proposal.Days, newer.EveryDays, "two heavy finds within weeks: a brush does not hold the limit, however often")
	var advice []reason.Code
	for _, r := range newer.Proposal.Advice {
		advice = append(advice, r.Code)
	}
	assert.Contains(t, advice, reason.ChangeMethod)
	assert.Nil(t, newer.Proposal.Since, "made and gone in one moment of the clock: nobody can have seen it")
	_, err := h.Rooms.Learning.DecideProposal(h.Ctx, h.Manager, id, contract.Decision{Accept: true})
	assert.ErrorContains(t, err, "superseded by newer evidence")
}

func TestFactorsShortenTheHabitOnTheirDays(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("RI-1", "reach_in", "2026-01-01")
	assert.Nil(t, roomstest.Task(u, contract.TaskKindDeep).Proposal.ID)
	var grease, salt contract.FactorChoice
	for _, f := range h.Cat.Factors {
		switch f.Code {
		case "greasy_cooking":
			grease = f
		case "salt_air":
			salt = f
		}
	}
	to := calendar.MustParse("2026-04-01")
	req := contract.NewSiteFactor{FactorID: grease.ID, Scope: contract.FactorScopePlacement, ScopeID: u.PlacementID, From: calendar.MustParse("2026-02-01"), To: &to}
	_, err := h.Rooms.Register.AddSiteFactor(h.Ctx, h.Manager, req)
	require.NoError(t, err)
	_, err = h.Rooms.Register.AddSiteFactor(h.Ctx, h.Manager, req)
	assert.Contains(t, roomstest.Fields(t, err), "/from", "the same factor twice on the same days")
	_, err = h.Rooms.Register.AddSiteFactor(h.Ctx, h.Manager, contract.NewSiteFactor{FactorID: salt.ID, Scope: contract.FactorScopeSite, ScopeID: u.SiteID, From: calendar.MustParse("2020-01-01")})
	require.NoError(t, err)

	after := h.Look(u.ID)
	assert.InDelta(t, 4.561, after.Factor, .001, "4 × √1.3")
	p := roomstest.Task(after, contract.TaskKindDeep).Proposal
	assert.Equal(t, contract.SchoolHabit, p.School)
	assert.Equal(t, 35, p.Days, "182 / 4.56 = 39.9, in whole weeks")
	assert.Greater(t, *after.Coils[0].Sides[0].State.BlockedShare, *u.Coils[0].Sides[0].State.BlockedShare)
	assert.Equal(t, "Grease", after.Coils[0].Sides[0].Soil)

	// Once the factor has ended, the day's refresh takes the proposal back.
	h.Now = h.Now.AddDate(0, 1, 0)
	require.NoError(t, h.Rooms.Learning.RefreshAll(h.Ctx))
	later := h.Look(u.ID)
	assert.InDelta(t, 1.3, later.Factor, 1e-9)
	assert.Equal(t, 140, roomstest.Task(later, contract.TaskKindDeep).Proposal.Days)

	req.To = &req.From
	_, err = h.Rooms.Register.AddSiteFactor(h.Ctx, h.Manager, req)
	assert.Contains(t, roomstest.Fields(t, err), "/to")
}

func TestSetIntervalClosesTheProposal(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	h.Submit(h.Visit(u, "2026-02-10", contract.TaskKindLight, 4, 0, contract.FaceLook))
	id := roomstest.Task(u, contract.TaskKindLight).TaskID
	_, err := h.Rooms.Learning.SetInterval(h.Ctx, h.Manager, id, contract.OwnInterval{Days: 4000})
	bad := roomstest.Fields(t, err)
	assert.Contains(t, bad, "/days")
	assert.Contains(t, bad, "/reason")
	_, err = h.Rooms.Learning.SetInterval(h.Ctx, h.Manager, id, contract.OwnInterval{Days: 10, Reason: "trade fair"})
	require.NoError(t, err)
	u = h.Look(u.ID)
	assert.Equal(t, 10, roomstest.Task(u, contract.TaskKindLight).EveryDays)
	assert.Nil(t, roomstest.Task(u, contract.TaskKindLight).Proposal.ID)
	assert.Equal(t, "2026-02-20", roomstest.Task(u, contract.TaskKindLight).Due.String())
}

// A proposal speaks of the interval it was made against: when that changes, another takes its place.
func TestAProposalFollowsTheIntervalInForce(t *testing.T) {
	t.Parallel()
	h := roomstest.New(t)
	u := h.Unit("IM-1", "ice_machine", "2026-01-01")
	h.Submit(h.Visit(u, "2026-02-10", contract.TaskKindLight, 4, 0, contract.FaceLook))
	task := func() contract.Task { return roomstest.Task(h.Look(u.ID), contract.TaskKindLight) }
	first := task()
	require.NotNil(t, first.Proposal.ID)
	// The interval changes behind the proposal's back, as in bulk or by an import; the same days are still proposed.
	require.NoError(t, h.Store.DB.Exec("UPDATE task SET every_days = every_days + 30 WHERE id = ?", first.TaskID).Error)
	require.NoError(t, h.Store.For(h.Ctx, h.Org.ID).InTransaction(func(tenant store.Tenant) error {
		return h.Rooms.Learning.Refresh(tenant, []uuid.UUID{u.ID})
	}))
	now := task()
	require.NotNil(t, now.Proposal.ID)
	assert.NotEqual(t, *first.Proposal.ID, *now.Proposal.ID)
	row, err := store.Get[store.Proposal](h.Store.For(h.Ctx, h.Org.ID), *now.Proposal.ID)
	require.NoError(t, err)
	assert.Equal(t, first.EveryDays+30, row.FromDays)
}
